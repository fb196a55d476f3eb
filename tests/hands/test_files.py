"""Files by hand: what is asked, what is kept, what comes back after a kill."""

import json

from .person import of


def done(person, gesture, by="mouse", area="files"):
    person.record(area=area, gesture=gesture, by=by)


def changed(person):
    person.open_copy()
    before = person.file.read_text()
    person.select("PUMP")
    person.fill("Power, W", "500")
    person.until(lambda: person.ask("plan")["unsaved"], "an unsaved plan")
    person.key("f6")
    return before


def test_leaving_asks_once_and_does_what_is_answered(person):
    before = changed(person)
    person.key("ctrl+n")
    person.sees("Save the changes to")
    person.click("Cancel", "Button")
    person.sees("orchard_station.copper.json")
    person.key("ctrl+n")
    person.sees("Save the changes to")
    person.key("escape")
    person.sees_no("Save the changes to")
    assert person.ask("plan")["unsaved"]
    person.key("ctrl+n")
    person.sees("Save the changes to")
    person.click("Discard", "Button")
    person.sees("Draw it")
    person.key("return")
    person.sees("New plan — not saved yet")
    assert person.file.read_text() == before
    changed(person)
    person.key("ctrl+q")
    person.sees("Save the changes to")
    person.key("return")
    person.until(lambda: not person.program.runs, "the end")
    assert of(json.loads(person.file.read_text()), "PUMP")["power_w"] == 500
    for answer, by in (("cancelled", "mouse"), ("discarded", "mouse"), ("saved", "keyboard")):
        done(person, f"unsaved changes: {answer}", by, "dialogs")


def test_a_file_that_changed_on_disk(person):
    changed(person)
    text = person.file.read_text().replace('"power_w": 420', '"power_w": 421')
    person.file.write_text(text)
    person.sees("was changed by another program")
    person.click("Load it", "Button")
    person.sees("Save the changes to")
    person.click("Discard", "Button")
    person.until(
        lambda: not person.ask("plan")["unsaved"] and '"power_w": 421' in person.ask("plan")["text"], "the file's plan"
    )
    done(person, "load what another program wrote")


def test_a_broken_file_is_said_and_leaves_the_plan_alone(person):
    person.open_copy()
    broken = person.folder / "broken.copper.json"
    values = json.loads(person.file.read_text())
    broken.write_text(json.dumps({**values, "practice": "moon", "log": [{"id": "x", "on": "2026-02-30"}]}))
    person.key("ctrl+o")
    person.sees("File name:")
    person.type(f"{broken}\n")
    person.sees("was not opened", "practice", "the calendar has no day 2026-02-30")
    person.key("return")
    person.sees_no("was not opened")
    assert not person.ask("plan")["unsaved"]
    done(person, "a broken file", "keyboard", "dialogs")


def killed_with_work(person):
    """Change a plan, wait for the autosave, end the program as a power cut does; where autosaves are."""
    changed(person)
    folder = person.folder / "state" / "jaunty-copper"
    person.until(
        lambda: any(b'"power_w": 500' in f.read_bytes() for f in folder.glob("unsaved-*.json")), "the autosave"
    )
    person.program.kill()
    return folder


def test_recovery_after_a_kill(person):
    killed_with_work(person)
    person.start("open", person.file)
    person.sees("was left by a window that did not close properly")
    person.click("Recover it", "Button")
    person.until(lambda: '"power_w": 500' in person.ask("plan")["text"], "the recovered plan")
    assert person.ask("plan")["unsaved"]
    assert of(person.saved(), "PUMP")["power_w"] == 500
    done(person, "recover after a kill")


def test_recovered_work_can_be_discarded(person):
    folder = killed_with_work(person)
    person.start("open", person.file)
    person.sees("was left by a window that did not close properly")
    person.click("Discard it", "Button")
    person.until(lambda: not list(folder.glob("unsaved-*.json")), "a folder without it")
    assert '"power_w": 420' in person.ask("plan")["text"]
    done(person, "discard what a kill left")


def recovered_over_a_newer_file(person, press):
    """Recover what a kill left of a file that somebody wrote since, save it, and take that back; the newer text."""
    killed_with_work(person)
    newer = person.file.read_text().replace('"power_w": 420', '"power_w": 421')
    person.file.write_text(newer)
    person.start("open", person.file)
    person.sees("was left by a window that did not close properly")
    press("Recover it")
    person.until(lambda: '"power_w": 500' in person.ask("plan")["text"], "the recovered plan")
    person.calm()
    person.key("ctrl+s")
    person.sees("Overwrite it with the plan in this window?")
    person.key("escape")
    person.sees_no("Overwrite it")
    assert person.file.read_text() == newer
    return newer


def test_recovered_work_does_not_overwrite_a_newer_file(person):
    recovered_over_a_newer_file(person, lambda name: person.click(name, "Button"))
    done(person, "recovered work asks before it overwrites a newer file")


def test_a_file_seen_half_written_is_said_and_said_again_when_whole(person):
    person.open_copy()
    text = person.file.read_text()
    person.file.write_text(text[: len(text) // 2])
    person.sees("is no longer a valid plan")
    person.file.write_text(text.replace('"power_w": 420', '"power_w": 421'))
    person.sees("was changed by another program. ", "Load it")
    person.click("Load it", "Button")
    person.until(lambda: '"power_w": 421' in person.ask("plan")["text"], "the file's plan")
    done(person, "a file seen half-written, then whole")


def test_the_command_alone_opens_a_new_plan_and_with_a_file_alone_that_plan(person):
    person.open_copy()
    kept = person.file.read_text()
    person.start()
    person.sees("New plan — not saved yet")
    person.start(person.file)
    person.sees("orchard_station.copper.json")
    assert json.loads(person.ask("plan")["text"]) == json.loads(kept)
