"""The Log, Needs, Tables and findings without a mouse: what their buttons and boxes do, Tab, Space and arrow keys do."""

from tests.hands.test_dialogs_and_pages import save_to


def done(person, area, *gestures):
    for gesture in gestures:
        person.record(area=area, gesture=gesture, by="keyboard")


def press(person, name, key="space"):
    """Go to a button by Tab, and press it."""
    person.tab_to(name, "Button")
    person.key(key)


def down_to(person, name, table, most=80):
    """Step down a table until a cell by that name is the current one."""
    for _ in range(most):
        if person.all(name, "Cell", within=table, current=True):
            return
        person.key("down")
    raise AssertionError(f"no {name!r} in “{table}”")


def test_the_log_without_a_mouse(person):
    person.open_copy()
    person.key("alt+6")
    person.until(lambda: person.all("drop over W21", "Cell", within="Readings"), "W21")
    person.tab_to("Readings", "Table")
    person.key("ctrl+home")
    down_to(person, "drop over W21", "Readings")
    person.key(*["right"] * 4)
    person.type("95 mV")
    _, after = person.edited(lambda: person.key("return"))
    assert [r["value"] for r in after["readings"]] == [0.095]
    person.until(lambda: "1 of" in person.words(), "one reading weighed")
    press(person, "To CSV…")
    save_to(person, person.folder / "readings.csv")
    person.sees("fill in its last column")
    press(person, "Into the log")
    person.until(lambda: person.saved().get("log"), "a day in the log")
    press(person, "Clear")
    person.until(lambda: not person.saved().get("readings"), "no readings")
    press(person, "From CSV…")
    save_to(person, person.folder / "readings.csv")
    person.until(lambda: [r["value"] for r in person.saved().get("readings", ())] == [0.095], "the readings again")
    done(person, "log", "save points to fill in", "readings into the log", "clear the readings", "readings from a file")
    person.tab_to("Measure")
    person.key("right")
    person.until(lambda: person.all(role="Cell", within="Logbook"), "the day in the log")
    person.tab_to("Logbook", "Table")
    person.key("ctrl+home")
    press(person, "Take out")
    person.until(lambda: not person.saved().get("log"), "an empty log")
    done(person, "log", "take an entry out")
    person.tab_to("Logbook", checked=True)
    person.key("right", "right")
    person.until(lambda: person.all("Why did it open?", "Button"), "trips")
    press(person, "Why did it open?")
    person.sees("Cure:")
    done(person, "log", "ask why a device opened")


def test_the_needs_and_the_whole_plan_without_a_mouse(person):
    person.open_copy()
    person.key("alt+1")
    person.until(lambda: person.all("Add scenario", "Button"), "the needs")
    before, after = person.edited(lambda: press(person, "Add scenario"))
    assert len(after["scenarios"]) == len(before["scenarios"]) + 1
    done(person, "needs", "add a scenario")
    person.tab_to("Days wanted")
    person.key("ctrl+a")
    person.type("2.5")
    _, after = person.edited(lambda: person.key("return"))
    assert after["autonomy_days"] == 2.5
    done(person, "needs", "days of autonomy")

    def add():
        person.tab_to("Add equipment*")
        person.key("space")
        person.follow(("Inverter",), "keyboard")

    before, after = person.edited(add)
    assert len(after["equipment"]) == len(before["equipment"]) + 1
    done(person, "needs", "add equipment")
    person.tab_to("Equipment by scenarios", "Table")
    person.key("ctrl+end")
    before, after = person.edited(lambda: press(person, "Remove"))
    assert len(after["equipment"]) == len(before["equipment"]) - 1
    done(person, "needs", "remove equipment")
    person.tab_to("Code", "ComboBox")
    code = after["practice"]
    _, after = person.edited(lambda: person.key("down"))
    assert after["practice"] != code
    person.tab_to("Devices by", "ComboBox")
    _, after = person.edited(lambda: person.key("down"))
    assert after["devices_by"] == "load"
    person.tab_to("Floating on purpose", "CheckBox")
    _, after = person.edited(lambda: person.key("space"))
    assert after["floating"] is True
    done(person, "the plan", "code of the plan", "school of choosing devices", "floating on purpose")


def test_findings_without_a_mouse(person):
    person.open_copy()
    person.until(lambda: person.all(role="Cell", within="Findings"), "the findings")
    person.key("f7", "home")
    person.until(lambda: person.all(role="Cell", within="Findings", current=True), "the keyboard on the findings")
    first = person.all(role="Cell", within="Findings", current=True)[0]["name"]
    person.key("down")
    person.until(lambda: person.all(role="Cell", within="Findings", current=True)[0]["name"] != first, "the next one")
    done(person, "views", "findings: choose one")
    person.tab_to("How it is computed*")
    person.key("space")
    person.sees("Search all pages")
    done(person, "views", "findings: how it is computed")
    person.key("escape")
    person.key("f7", "home")
    person.tab_to("Move Main fuse*", "Button")
    before, after = person.edited(lambda: person.key("space"))
    assert before["runs"] != after["runs"]
    done(person, "views", "findings: apply its fix")
    person.key("f6")
    person.tab_to("* dangers")
    count = len(person.all(role="Cell", within="Findings"))
    person.key("space")
    person.until(lambda: len(person.all(role="Cell", within="Findings")) != count, "fewer findings")
    done(person, "views", "findings: filter")
