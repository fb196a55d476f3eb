"""Pages, lenses, files and the log without a mouse: every button that a click presses, Tab and Space press too."""

import json
from functools import partial

from jaunty_copper.plan import edits
from jaunty_copper.plan.examples import example
from jaunty_copper.plan.files import dumps
from tests.hands.test_dialogs_and_pages import measured_on, save_to
from tests.hands.test_files import changed, killed_with_work, recovered_over_a_newer_file
from tests.hands.test_keyboard_pages import done, press

from .person import of


def test_pages_lenses_and_looks_without_a_mouse(person):
    person.open_copy()
    # A group of buttons is one stop of Tab; arrow keys choose among them.
    person.tab_to("Map", checked=True)
    for key, page, words in (
        ("up", "Bank", "out of the bank in"), ("up", "Needs", "Add equipment"), ("down", "Bank", "out of the bank in"), ("down", "Map", "Flow"),
        ("down", "Curves", "Path to"), ("down", "Build", "Cuts"), ("down", "Log", "Measure"),
    ):  # fmt: skip
        person.key(key)
        person.find(page, checked=True)
        person.sees(words)
        done(person, "views", f"page {page}")
    person.key("alt+3")
    person.tab_to("Flow", checked=True)
    for lens in ("Drop", "Short", "Guard", "Read", "Spread", "Heat"):
        before = person.picture()
        person.key("right")
        person.find(lens, checked=True)
        person.until(lambda b=before: person.picture() != b, f"the lens {lens}")
        done(person, "views", f"lens {lens}")
    person.key("left", "left", "left", "left", "left", "left")
    person.find("Flow", checked=True)
    done(person, "views", "lens Flow")
    press(person, "mm²")
    person.find("AWG", "Button")
    press(person, "AWG")
    person.find("mm²", "Button")
    done(person, "views", "metric and AWG")
    light = person.picture().getpixel((700, 600))
    press(person, "Dark")
    person.until(lambda: sum(person.picture().getpixel((700, 600))) < sum(light) - 300, "a dark window")
    press(person, "Light")
    person.until(lambda: person.picture().getpixel((700, 600)) == light, "a light window")
    done(person, "views", "light and dark")


def test_bank_and_build_without_a_mouse(person):
    person.open_copy()
    person.key("alt+2")
    person.tab_to("Strings in parallel", "SpinBox")
    before, after = person.edited(lambda: person.key("up"))
    units = [sum("chemistry" in x for x in plan["items"]) for plan in (before, after)]
    assert units == [4, 5]
    done(person, "bank", "set the number in parallel")
    person.key("alt+5")
    person.until(lambda: person.all("W21*", "Cell"), "cuts")
    person.tab_to("Cuts")
    person.key("right")
    person.find("Reels", checked=True)
    person.key("left")
    person.find("Cuts", checked=True)
    done(person, "build", "part Cuts")
    press(person, "Save…")
    save_to(person, person.folder / "cuts.csv")
    person.sees("Saved to")
    assert (person.folder / "cuts.csv").read_text().count("\n") > 20
    done(person, "build", "save a table")


def test_new_overwritten_and_undone_without_a_mouse(person):
    changed(person)
    person.file.write_text(person.file.read_text() + " ")
    person.sees("was changed by another program")
    person.key("ctrl+s")
    person.sees("Overwrite it with the plan in this window?")
    press(person, "Save")
    person.until(lambda: not person.ask("plan")["unsaved"], "a saved plan")
    assert of(json.loads(person.file.read_text()), "PUMP")["power_w"] == 500
    done(person, "dialogs", "overwrite a file that changed: accepted")
    before = person.saved()
    person.key("f7")
    person.tab_to("Power, W", "EditableText")
    person.key("ctrl+a")
    person.type("777")
    person.key("ctrl+z")
    person.calm()
    assert person.saved() == before
    done(person, "typed and left", "undone")
    person.key("ctrl+n")
    person.sees("Draw it")
    press(person, "Empty page")
    person.sees("New plan — not saved yet")
    person.key("ctrl+s")
    person.names_file(person.folder / "empty.copper.json")
    person.until((person.folder / "empty.copper.json").exists, "its file")
    assert not json.loads((person.folder / "empty.copper.json").read_text()).get("items")
    done(person, "dialogs", "new: an empty page")


def test_what_another_program_wrote_is_loaded_without_a_mouse(person):
    changed(person)
    person.file.write_text(person.file.read_text().replace('"power_w": 420', '"power_w": 421'))
    person.sees("was changed by another program")
    press(person, "Load it")
    person.sees("Save the changes to")
    press(person, "Discard")
    person.until(
        lambda: not person.ask("plan")["unsaved"] and '"power_w": 421' in person.ask("plan")["text"], "the file's plan"
    )
    done(person, "files", "load what another program wrote")


def test_what_a_kill_left_is_recovered_without_a_mouse(person):
    folder = killed_with_work(person)
    left = set(folder.glob("unsaved-*.json"))
    person.start("open", person.file)
    person.sees("was left by a window that did not close properly")
    press(person, "Recover it")
    person.until(lambda: '"power_w": 500' in person.ask("plan")["text"], "the recovered plan")
    done(person, "files", "recover after a kill")
    # The old one goes once the new one is on disk: killed between the two, both would be left.
    person.until(lambda: left.isdisjoint(folder.glob("unsaved-*.json")), "the old one gone")
    person.until(lambda: any(b'"power_w": 500' in f.read_bytes() for f in folder.glob("unsaved-*.json")), "kept on")
    person.program.kill()
    person.start("open", person.file)
    person.sees("was left by a window that did not close properly")
    press(person, "Discard it")
    person.until(lambda: not list(folder.glob("unsaved-*.json")), "a folder without it")
    assert '"power_w": 420' in person.ask("plan")["text"]
    done(person, "files", "discard what a kill left")


def test_recovered_work_and_a_file_half_written_without_a_mouse(person):
    newer = recovered_over_a_newer_file(person, partial(press, person))
    done(person, "files", "recovered work asks before it overwrites a newer file")
    person.program.kill()
    person.start("open", person.file)
    press(person, "Discard it")
    person.until(lambda: '"power_w": 421' in person.ask("plan")["text"], "the file's plan")
    person.file.write_text(newer[: len(newer) // 2])
    person.sees("is no longer a valid plan")
    person.file.write_text(newer.replace('"power_w": 421', '"power_w": 422'))
    person.sees("was changed by another program. ", "Load it")
    press(person, "Load it")
    person.until(lambda: '"power_w": 422' in person.ask("plan")["text"], "the file's plan")
    done(person, "files", "a file seen half-written, then whole")


def test_days_side_by_side_and_practising_without_a_mouse(person):
    person.open_copy(change=measured_on(("2026-03-02", 0.0), ("2026-10-30", 0.006)))
    other = person.folder / "before.copper.json"
    was = edits.change_plan(measured_on(("2025-01-05", 0.002))(example("orchard_station")), name="As it was")
    other.write_bytes(dumps(was))
    person.key("alt+6")
    person.tab_to("Measure")
    person.key("right", "right")
    person.sees("2026-03-02 and 2026-10-30", "W more", "expected spread", "drop over W21")
    done(person, "log", "two days side by side")
    person.tab_to("Earlier day", "ComboBox")
    person.key("end")
    save_to(person, other)
    person.sees("As it was, 2025-01-05 and 2026-10-30")
    done(person, "log", "compare with another plan's readings")
    person.tab_to("Trends")
    person.key("left", "left")
    person.find("Measure", checked=True)
    press(person, "Train…")
    person.sees("Training bench")
    press(person, "Read all shown")
    person.until(
        lambda: person.all("Read all shown") and "Something is not as planned" in person.words(), "an explanation"
    )
    press(person, "Show what was hidden")
    person.sees("Hidden was:")
    press(person, "End training")
    person.sees("Train…")
    done(person, "log", "practise: read all, show what was hidden, end")


def test_causes_hours_and_studs_without_a_mouse(person):
    person.open_copy()
    person.key("alt+6")
    person.tab_to("Measure")
    person.key("right", "right", "right")
    person.sees("Device that opened")
    person.tab_to("Device that opened", "ComboBox")
    person.key("home")
    for _ in range(30):
        if person.value("Device that opened", "ComboBox").startswith("Generator breaker"):
            break
        person.key("down")
    for name, text in (("Current seen, A", "48"), ("After, s", "150")):
        person.tab_to(name, "EditableText")
        person.key("ctrl+a")
        person.type(text)
    press(person, "Why did it open?")
    person.sees("1. Heat", "Ruled out", "A short circuit: it takes")
    done(person, "log", "what was seen rules causes out")
    file = person.folder / "hours.csv"
    file.write_text("\n".join(["time,PUMP %", *(f"{h}:00,{100 if 9 <= h < 11 else 0}" for h in range(24))]))
    person.key("alt+1")
    person.tab_to("Together", checked=True)
    person.key("right")
    person.sees("The bank is empty on day")
    press(person, "Hours from CSV…")
    person.names_file(file)
    person.until(lambda: person.ask("plan")["undo"] == "Hours from hours.csv", "the hours of the file")
    assert of(person.saved(), "PUMP")["by_hour"] == [1.0 if 9 <= h < 11 else 0.0 for h in range(24)]
    done(person, "dialogs", "needs: hours from a CSV file")
    person.tab_to("Sun on the days to come", "EditableText")
    person.key("ctrl+a")
    person.type("100")
    _, after = person.edited(lambda: person.key("return"))
    assert after["sun"] == [1.0]
    done(person, "needs", "days ahead, and their sun")
    person.key("alt+5")
    person.until(lambda: person.all("W21*", "Cell"), "cuts")
    person.tab_to("Cuts")
    person.key("right", "right", "right", "right")
    person.find("Studs", checked=True)
    person.tab_to("Studs and bolts of", "ComboBox")
    _, after = person.edited(lambda: person.key("down"))
    assert after["stud_material"] == "steel"
    done(person, "the plan", "material of the studs")


def test_a_kind_of_finding_is_fixed_without_a_mouse(person):
    person.open_copy()
    group = "danger: 7 devices interrupt less than the short circuit at their place"
    person.until(lambda: person.all(f"{group}, closed", "Cell", within="Findings"), "the group, closed")
    person.tab_to("Findings", "List")
    for _ in range(20):
        if person.all(f"{group}*", "Cell", within="Findings", current=True):
            break
        person.key("down")
    before, after = person.edited(
        lambda: press(person, "Fix * of 7*" if person.all("Fix * of 7*", "Button") else "Fix all 7*")
    )
    families = [{x["id"]: x.get("family") for x in plan["items"]} for plan in (before, after)]
    assert {id_ for id_ in families[0] if families[0][id_] != families[1][id_]} >= {"F1", "F5", "F6", "F7"}
    person.until(lambda: not person.all(f"{group}*", "Cell", within="Findings"), "nothing of that kind left")
    done(person, "views", "findings: fix all of one kind")
