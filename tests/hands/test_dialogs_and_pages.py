"""Every dialog opened, accepted and cancelled; tables and forms of the pages typed into."""

import csv

import pytest

from jaunty_copper.commissioning.model import bench
from jaunty_copper.commissioning.points import everything_on
from jaunty_copper.plan import edits
from jaunty_copper.plan.examples import example
from jaunty_copper.plan.files import dumps
from jaunty_copper.plan.model import Entry, Reading
from jaunty_copper.simulator.hidden import AsBuilt, Deviation

from .person import of


def done(person, gesture, by="mouse", area="dialogs"):
    person.record(area=area, gesture=gesture, by=by)


def cell(person, row_text, column, within):
    """Where the cell of a table is that stands in the row that begins with some text."""
    row = person.until(lambda: person.all(row_text, "Cell", within=within), row_text)[0]["row"]
    return person.find(None, "Cell", within=within, row=row, column=column)


def type_into(person, found, text, end="return"):
    x, y, w, h = found["rect"]
    person.screen.click(x + w / 2, y + h / 2, times=2)
    person.until(lambda: (person.focused() or {}).get("role") == "EditableText", "an editor")
    person.key("ctrl+a")
    person.type(text)
    person.key(end)


def save_to(person, path):
    person.sees("File name:")
    person.key("ctrl+a")
    person.type(f"{path}\n")
    person.sees_no("File name:")


def test_file_dialogs_can_be_left(person):
    person.open_copy()
    before = person.saved()
    for key, title in (("ctrl+o", "open"), ("ctrl+shift+s", "save as")):
        person.key(key)
        person.sees("File name:")
        person.key("escape")
        person.sees_no("File name:")
        done(person, f"{title}: cancelled", "keyboard")
        person.key(key)
        person.sees("File name:")
        person.click("Cancel", "Button")
        person.sees_no("File name:")
        done(person, f"{title}: cancelled")
    for leave in (lambda: person.key("escape"), lambda: person.click("Cancel", "Button")):
        person.key("ctrl+e")
        person.sees("What an inspector reads")
        leave()
        person.sees_no("What an inspector reads")
        person.key("ctrl+e")
        person.click("Write…", "Button")
        person.sees("File name:")
        leave()
        person.sees_no("File name:")
    done(person, "report: cancelled", "keyboard")
    done(person, "report: cancelled")
    assert person.saved() == before


def test_protecting_the_plan(person):
    person.open_copy()
    person.key("ctrl+shift+p")
    person.until(lambda: person.all("Make these changes", enabled=True), "a proposal")
    person.click("Cancel", "Button")
    person.sees_no("Make these changes")
    done(person, "protect the plan: cancelled")
    stops = len([f for f in person.all(role="Cell", within="Findings") if f["name"].startswith("danger")])

    def accept():
        person.key("ctrl+shift+p")
        person.until(lambda: person.all("Make these changes", enabled=True), "a proposal")
        boxes = person.all(role="CheckBox")
        x, y, _, h = next(b for b in boxes if "→" in b["name"] and b["rect"][3] > 8)["rect"]
        person.screen.click(x + 8, y + h / 2)
        person.until(
            lambda: any("→" in b["name"] and not b["checked"] for b in person.all(role="CheckBox")), "one unticked"
        )
        person.click("Make these changes", "Button")

    person.edited(accept)
    assert len([f for f in person.all(role="Cell", within="Findings") if f["name"].startswith("danger")]) < stops
    done(person, "protect the plan: accepted, one change unticked")


def test_a_device_of_ones_own(person):
    person.open_copy()
    person.menu("Plan", "A device of your own…")
    person.click("Add to this plan", "Button")
    person.sees("Source:")
    done(person, "own device: refused without a source")
    person.click(role="EditableText", value="own-blade-fuse")
    person.key("ctrl+a")
    person.type("shop-fuse")
    for _ in range(6):
        person.key("tab")
    person.type("data sheet 12")
    _, after = person.edited(lambda: person.click("Add to this plan", "Button"))
    assert after["parts"]["device_families"][0]["id"] == "shop-fuse"
    done(person, "own device: accepted")


def test_overwriting_what_another_program_wrote(person):
    person.open_copy()
    person.select("PUMP")
    person.fill("Power, W", "500")
    person.calm()
    person.file.write_text(person.file.read_text() + " ")
    # That it was noticed and said does not make it what was read: saving asks all the same.
    person.sees("was changed by another program")
    person.key("ctrl+s")
    person.sees("Overwrite it with the plan in this window?")
    person.key("escape")
    person.sees_no("Overwrite it")
    assert person.file.read_text().endswith(" ")
    done(person, "overwrite a file that changed: cancelled", "keyboard")
    assert person.ask("plan")["unsaved"]
    person.key("ctrl+s")
    person.sees("Overwrite it with the plan in this window?")
    person.click("Save", "Button")
    person.until(lambda: not person.ask("plan")["unsaved"], "a saved plan")
    assert '"power_w": 500' in person.file.read_text()
    done(person, "overwrite a file that changed: accepted")


def test_the_table_of_needs(person):
    plan = person.open_copy()
    person.key("alt+1")
    _, after = person.edited(lambda: type_into(person, cell(person, "Well pump", 5, "Equipment by scenarios"), "2.5"))
    assert of(after, "PUMP")["hours_per_day"] == 2.5
    first = 8
    _, after = person.edited(
        lambda: type_into(person, cell(person, "Drying fan", first, "Equipment by scenarios"), "on", "tab")
    )
    assert after["scenarios"][0]["states"].get("FAN") != "off"
    done(person, "type into a figure, into a scenario", "keyboard", "needs")

    def add():
        person.click("Add equipment")
        person.follow(("Inverter",), "mouse")

    _, after = person.edited(add)
    assert len(after["equipment"]) == len(plan.equipment) + 1
    _, after = person.edited(lambda: person.click("Add scenario", "Button"))
    assert len(after["scenarios"]) == len(plan.scenarios) + 1
    x, y, w, h = cell(person, "Drying fan", 0, "Equipment by scenarios")["rect"]
    person.screen.click(x + w / 2, y + h / 2)
    _, after = person.edited(lambda: person.click("Remove", "Button"))
    assert of(after, "FAN") is None
    _, after = person.edited(lambda: person.fill("Days wanted", "3"))
    assert after["autonomy_days"] == 3
    for gesture in ("add equipment", "add a scenario", "remove equipment", "days of autonomy"):
        done(person, gesture, area="needs")


def test_the_days_ahead(person):
    person.open_copy()
    person.key("alt+1")
    when = 6
    _, after = person.edited(
        lambda: type_into(person, cell(person, "Radio link", when, "Equipment by scenarios"), "22:30-6")
    )
    assert of(after, "RADIO")["by_hour"] == [1.0] * 6 + [0.0] * 16 + [0.5, 1.0]
    assert cell(person, "Radio link", 5, "Equipment by scenarios")["name"].startswith("7.5")
    type_into(person, cell(person, "Radio link", when, "Equipment by scenarios"), "at night")
    person.sees("at night is no span of hours")
    assert of(person.saved(), "RADIO")["by_hour"][0] == 1.0
    done(person, "hours of a day: typed, refused", "keyboard", "needs")
    person.click("Days ahead")
    person.sees("The bank is empty on day")
    _, after = person.edited(lambda: person.fill("Sun on the days to come", "100"))
    assert after["sun"] == [1.0]
    person.sees("on day 1")
    person.fill("Sun on the days to come", "bright")
    person.sees("bright is no share between 0 and 100 %")
    done(person, "days ahead, and their sun", "mouse", "needs")
    # The same in the panel beside; what is typed there moves the curve.
    person.key("alt+3")
    person.select("LAMP")
    _, after = person.edited(lambda: person.fill("When", ""))
    assert "by_hour" not in of(after, "LAMP")
    person.key("alt+1")
    person.sees("Spread over the day, since nothing says when: Lights")
    done(person, "hours in the inspector", "keyboard", "inspector")


def test_the_parts_of_the_build_page(person):
    person.open_copy()
    person.key("alt+5")
    person.until(lambda: person.all("W21*", "Cell"), "cuts")
    for part in ("Reels", "Materials", "Ready-made", "Studs", "Conduits", "Order", "Cuts"):
        before = person.picture().crop((60, 120, 900, 780))
        person.click(part)
        person.until(lambda b=before: person.picture().crop((60, 120, 900, 780)) != b, part)
        done(person, f"part {part}", area="build")
    person.click("Save…", "Button")
    save_to(person, person.folder / "cuts.csv")
    person.sees("Saved to")
    assert len(list(csv.reader((person.folder / "cuts.csv").read_text().splitlines()))) > 20
    done(person, "save a table", area="build")
    person.click("Materials")
    row = person.until(lambda: person.all(role="Cell", editable=True), "prices")[0]
    _, after = person.edited(lambda: type_into(person, row, "12.5 / 10"))
    assert 12.5 in after["prices"].values()
    assert list(after["packs"].values()) == [10]
    done(person, "type a price", "keyboard", "build")
    person.click("Order")
    step = person.until(
        lambda: [n for n in person.all(role="CheckBox") if len(n["name"]) > 25 and not n["checked"]], "steps"
    )[0]
    _, after = person.edited(lambda: person.click(step["name"], "CheckBox"))
    assert len(after["done"]) == 1
    done(person, "tick a step", area="build")
    person.click("Board")

    def lid():
        person.fill_in_dialog("Under its lid, mm; nothing where it is open", "70")
        person.key("return")

    _, after = person.edited(lid)
    assert [b["depth_mm"] for b in after["boards"]] == [70.0]
    person.sees("under the lid there are 70")
    done(person, "say how much room is under a lid", "keyboard", "build")


def test_readings_and_the_journal(person):
    person.open_copy()
    person.key("alt+6")
    row = person.until(lambda: person.all("drop over W21", "Cell", within="Readings"), "W21")[0]["row"]
    _, after = person.edited(
        lambda: type_into(person, person.find(None, "Cell", within="Readings", row=row, column=4), "95 mV")
    )
    assert [r["value"] for r in after["readings"]] == [0.095]
    done(person, "type a reading", "keyboard", "log")
    person.until(lambda: "1 of" in person.words(), "one reading weighed")
    person.click("To CSV…", "Button")
    save_to(person, person.folder / "readings.csv")
    person.sees("fill in its last column")
    _, after = person.edited(lambda: person.click("Into the log", "Button"))
    assert after["log"][0]["kind"] == "measured"
    _, after = person.edited(lambda: person.click("Clear", "Button"))
    assert not after.get("readings")

    def load():
        person.click("From CSV…", "Button")
        save_to(person, person.folder / "readings.csv")

    _, after = person.edited(load)
    assert [r["value"] for r in after["readings"]] == [0.095]
    for gesture in ("save points to fill in", "readings into the log", "clear the readings", "readings from a file"):
        done(person, gesture, area="log")
    person.click("drop over W21", "Cell", within="Readings")
    person.click("More here", "Button")
    warmth = person.until(lambda: person.all("warmth of W21", "Cell", within="Readings"), "its warmth")[0]["row"]
    _, after = person.edited(
        lambda: type_into(
            person, person.find(None, "Cell", within="Readings", row=warmth, column=4), "34 C after 4 min"
        )
    )
    assert {"quantity": "celsius", "a": "W21", "b": "4"}.items() <= after["readings"][-1].items()
    person.until(
        lambda: person.all("warmth of W21 after 4 min", "Cell", within="Readings"), "what it should be by then"
    )
    done(person, "type a warmth with its minutes under load", "keyboard", "log")
    person.click("Logbook")
    person.fill("Day", "2026-02-30", end=None)
    person.click("What happened", "EditableText")
    person.type("Torque gone over.")
    person.click("Add to the log", "Button")
    person.sees("the calendar has no day 2026-02-30")
    person.fill("Day", "2026-02-27", end=None)
    _, after = person.edited(lambda: person.click("Add to the log", "Button"))
    assert [e["on"] for e in after["log"]][-1] == "2026-02-27"
    done(person, "write into the logbook, a day that is none", "keyboard", "log")
    x, y, w, h = person.find("2026-02-27", "Cell", within="Logbook")["rect"]
    person.screen.click(x + w / 2, y + h / 2)
    _, after = person.edited(lambda: person.click("Take out", "Button"))
    assert all(e["on"] != "2026-02-27" for e in after["log"])
    done(person, "take an entry out", area="log")
    person.click("Trends")
    person.sees("1 days of readings") if "1 days" in person.words() else person.sees("of readings")
    person.click("Trips")
    x, y, w, h = person.find("Pump fuse (F6)", "Cell", within="Nearest to opening")["rect"]
    person.screen.click(x + w / 2, y + h / 2)
    person.until(
        lambda: any("Pump fuse (F6" in n["value"] for n in person.all(role="ComboBox")), "the pump's fuse chosen"
    )
    done(person, "ask about a device of the table", area="log")
    person.key("ctrl+home")
    person.key("return")
    person.until(
        lambda: any("Generator breaker (K4" in n["value"] for n in person.all(role="ComboBox")),
        "the one nearest to opening",
    )
    done(person, "ask about a device of the table", "keyboard", "log")
    person.click("Why did it open?", "Button")
    person.sees("Cure:")
    done(person, "ask why a device opened", area="log")


def measured_on(*days):
    """A change of a plan: its log has a day of readings for each resistance that a lug of W21 had then."""

    def change(plan):
        on = everything_on(plan)
        points = bench(plan, on).points
        log = []
        for day, ohm in days:
            built = AsBuilt(plan, Deviation("loose lug", "W21", "b", ohm), seed=2)
            read = tuple(
                Reading(scenario=on.id, quantity=p.quantity, a=p.a, b=p.b, value=round(built.value(on, p), 5))
                for p in points
            )
            log.append(Entry(id=f"day-{day}", on=day, kind="measured", readings=read))
        return edits.change_plan(plan, log=tuple(log))

    return change


def test_days_side_by_side_and_another_plan(person):
    person.open_copy(change=measured_on(("2026-03-02", 0.0), ("2026-10-30", 0.006)))
    other = person.folder / "before.copper.json"
    other.write_bytes(
        dumps(edits.change_plan(measured_on(("2025-01-05", 0.002))(example("orchard_station")), name="As it was"))
    )
    person.key("alt+6")
    person.click("Trends")
    person.sees("2026-03-02 and 2026-10-30", "W more", "expected spread", "drop over W21")
    done(person, "two days side by side", area="log")
    person.choose("Earlier day", "another plan…")
    person.sees("File name:")
    person.key("escape")
    person.sees_no("File name:")
    person.choose("Earlier day", "another plan…")
    save_to(person, other)
    person.sees("As it was, 2025-01-05 and 2026-10-30")
    done(person, "compare with another plan's readings", area="log")
    # What opened, as a point in its band.
    person.click("Trips")
    person.choose("Device that opened", "Generator breaker*")
    person.fill("Current seen, A", "48", end=None)
    person.fill("After, s", "150", end=None)
    person.click("Why did it open?", "Button")
    person.sees("1. Heat", "Ruled out", "A short circuit: it takes")
    person.sees("Point into the chart to read a current and a time")
    done(person, "what was seen rules causes out", area="log")


def test_practising(person):
    person.open_copy()
    person.key("alt+6")
    person.until(lambda: person.all(role="Cell", within="Readings"), "points")
    person.click("Train…", "Button")
    person.sees("Training bench")
    person.click("Read all shown", "Button")
    person.until(
        lambda: person.all("Read all shown") and "Something is not as planned" in person.words(), "an explanation"
    )
    person.click("Show what was hidden", "Button")
    person.sees("Hidden was:")
    person.click("End training", "Button")
    person.sees("Train…")
    done(person, "practise: read all, show what was hidden, end", area="log")


@pytest.mark.parametrize("by", ["mouse", "keyboard"])
def test_the_curves_page(person, by):
    person.open_copy()
    person.key("alt+4")
    person.sees("at most")
    person.choose("Path to", "Well pump", by=by)
    person.sees("Well pump")
    done(person, "choose a path", by, "curves")
    if by == "mouse":
        person.until(lambda: person.all("Use*"), "what fits")
        person.edited(lambda: person.click(person.all("Use*")[0]["name"]))
        done(person, "use a family that fits", area="curves")
        x, y, *_ = person.find("Rating of*")["rect"]
        end = person.until(
            lambda: person.screen.wheel(x, y - 20, -5) or person.all("Protect the whole plan…"), "the end of the cards"
        )
        person.until(
            lambda: person.screen.wheel(x, y - 20, -5) or person.all("Protect the whole plan…")[0]["rect"][3] > 20, end
        )
        person.click("Protect the whole plan…")
        person.until(lambda: person.all("Make these changes", enabled=True), "a proposal")
        person.key("escape")


def test_hours_of_equipment_from_a_file(person):
    person.open_copy()
    file = person.folder / "hours.csv"
    file.write_text("\n".join(["time,PUMP %", *(f"{h}:00,{100 if 9 <= h < 11 else 0}" for h in range(24))]))
    person.key("alt+1")
    person.click("Days ahead")
    person.click("Hours from CSV…", "Button")
    person.names_file(file)
    person.until(lambda: person.ask("plan")["undo"] == "Hours from hours.csv", "the hours of the file")
    pump = of(person.saved(), "PUMP")
    assert pump["by_hour"] == [1.0 if 9 <= h < 11 else 0.0 for h in range(24)]
    file.write_text("time,NOBODY\n1:00,3\n")
    person.click("Hours from CSV…", "Button")
    person.names_file(file)
    person.sees("Not read: hours.csv: 'NOBODY' is no one load or source of the plan")
    done(person, "needs: hours from a CSV file")
