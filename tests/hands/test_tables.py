"""The Tables page: typed through, sorted, filtered, pasted into; what stands nowhere else is added there."""

import time

import pytest

from jaunty_copper.parts.catalogue import library
from jaunty_copper.plan import edits
from jaunty_copper.plan.model import Chassis, ChassisPoint

from .person import of
from .test_dialogs_and_pages import type_into

TABLE = "Table"


def go(person, sheet, by="mouse"):
    """Open the page, and go to a sheet of it."""
    if not person.all("Show only"):
        if by == "mouse":
            person.click("Tables")
        else:
            person.key("alt+7")
    if by == "mouse":
        x, y, w, h = person.find(sheet, "Cell", within="Which table")["rect"]
        person.screen.click(x + w / 2, y + h / 2)
    else:
        person.click("Which table", "List")
        person.key("home")
        person.until(
            lambda: person.all(sheet, "Cell", within="Which table", current=True) or person.key("down"),
            f"the sheet {sheet}",
        )
    person.calm()


def at(person, row_text, title):
    """The cell of a column in the row that has some text in it."""
    row = person.until(lambda: person.all(row_text, "Cell", within=TABLE), row_text)[0]["row"]
    column = person.ask("heads", of=TABLE).index(title)
    return person.find(None, "Cell", within=TABLE, row=row, column=column)


def click(person, found):
    x, y, w, h = found["rect"]
    person.screen.click(x + w / 2, y + h / 2)


def done(person, gesture, by="keyboard"):
    person.record(area="tables", gesture=gesture, by=by)


def test_a_table_is_typed_through_from_cell_to_cell(person):
    plan = person.open_copy()
    go(person, "Conductors", "keyboard")
    done(person, "go to a table")
    click(person, at(person, "24 V plus bar to Pump fuse", "Length one way, m"))
    ids = [r.id for r in plan.runs]
    first, second = ids[ids.index("W60") : ids.index("W60") + 2]
    person.type("0.2\n")
    person.type("85 cm")
    person.key("tab")
    person.until(lambda: (person.focused() or {}).get("role") == "EditableText", "an editor in the next cell")
    person.key("ctrl+a")
    person.type("16 m\n")
    after = person.saved()
    assert of(after, first)["length_m"] == 0.2
    assert (of(after, second)["length_m"], of(after, second)["conductor"]) == (0.85, "mm2-16")
    done(person, "Return goes down, Tab to the right; a size by its beginning")
    click(person, at(person, "Pump fuse to Pump contactor", "Size"))
    person.type("thick\n")
    person.sees("Size of W61", "It is as before")
    assert of(person.saved(), "W61")["conductor"] == "mm2-16"
    done(person, "what cannot be read is told")


def test_sorted_and_filtered(person):
    plan = person.open_copy()
    go(person, "Conductors")
    done(person, "go to a table", "mouse")
    shown = at(person, "Unit 1 to Unit 2", "Size")["rect"]
    head = (shown[0] + 20, person.find(TABLE)["rect"][1] + 20)
    person.screen.click(*head)
    thin = min((library().conductors[r.conductor] for r in plan.runs), key=lambda c: c.area_mm2).label
    person.until(lambda: person.all(thin, "Cell", within=TABLE, row=0), "the thinnest first")
    # Sooner it would be a double click.
    time.sleep(0.6)
    person.screen.click(*head)
    person.until(lambda: person.all("70 mm²", "Cell", within=TABLE, row=0), "the thickest first")
    done(person, "sort by a column, from either end", "mouse")
    click(person, person.find(None, "Cell", within=TABLE, row=0, column=person.ask("heads", of=TABLE).index("Size")))
    person.key("alt+up")
    person.until(lambda: person.all(thin, "Cell", within=TABLE, row=0), "the thinnest first")
    done(person, "sort by a column, from either end")
    person.click("Show only", "EditableText")
    person.type("pump")
    person.until(lambda: not person.all("Unit 1 to*", "Cell", within=TABLE), "only what has to do with the pump")
    assert person.all("*Pump*", "Cell", within=TABLE)
    done(person, "show only rows with a word")


def test_cells_are_copied_pasted_and_emptied(person):
    person.open_copy()
    go(person, "Equipment")
    click(person, at(person, "Well pump", "Minimum voltage, V"))
    person.type("21.5\n")
    person.until(lambda: of(person.saved(), "PUMP").get("min_v") == 21.5, "the pump's least voltage")
    click(person, at(person, "Well pump", "Minimum voltage, V"))
    person.key("ctrl+c")
    click(person, at(person, "Drying fan", "Minimum voltage, V"))
    _, after = person.edited(lambda: person.key("ctrl+v"))
    assert of(after, "FAN")["min_v"] == 21.5
    done(person, "copy and paste a cell")
    click(person, at(person, "Well pump", "Name"))
    person.key("shift+right", "shift+right", "shift+down", "ctrl+c")
    person.key("ctrl+v")
    person.calm()
    assert person.saved() == after
    click(person, at(person, "Drying fan", "Minimum voltage, V"))
    _, after = person.edited(lambda: person.key("delete"))
    assert "min_v" not in of(after, "FAN")
    done(person, "empty a cell that may be")


def test_things_are_removed_and_undone_in_one_step(person):
    before = person.open_copy()
    go(person, "Equipment")
    click(person, at(person, "Well pump", "Name"))
    person.key("shift+down")
    _, after = person.edited(lambda: person.click("Remove", "Button"))
    assert len(after["equipment"]) == len(before.equipment) - 2
    done(person, "remove what is selected", "mouse")
    person.undo()
    assert len(person.saved()["equipment"]) == len(before.equipment)


def test_a_limit_of_the_code_is_replaced_with_its_reason(person):
    person.open_copy()
    go(person, "Replaced limits")
    person.click("Add", "Button")
    person.follow(("drop critical percent*",), "mouse")
    person.sees("Why does this plan replace it?")
    person.type("agreed with the owner\n")
    person.until(lambda: person.saved().get("overrides"), "the replaced limit")
    click(person, at(person, "drop_critical_percent", "Value"))
    person.type("4.5\n")
    person.until(lambda: person.saved()["overrides"][0]["value"] == 4.5, "its value")
    assert person.saved()["overrides"][0]["reason"] == "agreed with the owner"
    done(person, "replace a limit, with its reason")


@pytest.mark.parametrize(
    ("sheet", "like", "field"),
    [
        ("Own sizes", "like 16 mm²", "conductors"),
        ("Own chemistries", "like AGM lead-acid", "battery_chemistries"),
    ],
)
def test_parts_of_ones_own(person, sheet, like, field):
    person.open_copy()
    go(person, sheet)
    person.click("Add", "Button")
    person.follow((like,), "mouse")
    person.sees("Its short name")
    person.type("shop-one\n")
    person.until(lambda: person.saved().get("parts", {}).get(field), "the own part")
    click(person, at(person, "shop-one", "Name"))
    person.type("from the shop\n")
    person.until(lambda: person.saved()["parts"][field][0]["label"] == "from the shop", "its name")
    done(person, "a part of one's own", "mouse")


def test_studs_and_points_of_the_chassis(person):
    person.open_copy(
        change=lambda plan: edits.add(plan, Chassis(id="H1", name="Frame", points=(ChassisPoint(id="p1"),)))
    )
    go(person, "Studs")
    column = person.ask("heads", of=TABLE).index("Stud")
    click(person, person.until(lambda: person.all(None, "Cell", within=TABLE, row=0, column=column), "a stud")[0])
    person.type("M10\n")
    person.until(lambda: of(person.saved(), "P24")["studs"][0].get("thread") == "M10", "a larger stud")
    done(person, "a stud of another thread")
    person.click("Add", "Button")
    _, after = person.edited(lambda: person.follow(("on Frame",), "mouse"))
    assert [p["id"] for p in of(after, "H1")["points"]] == ["p1", "p2"]
    done(person, "one more stud, or point of the chassis", "mouse")


def test_what_is_said_of_the_whole_plan(person):
    person.open_copy()
    person.key("f6", "escape")
    person.sees("the plan")
    _, after = person.edited(lambda: person.fill("Name", "Another station"))
    assert after["name"] == "Another station"
    _, after = person.edited(lambda: person.choose("Code", "Fixed installation, NFPA 70"))
    assert after["practice"] == "nfpa_70"
    _, after = person.edited(lambda: person.choose("Devices by", "smallest that carries the load"))
    assert after["devices_by"] == "load"
    person.reach("Floating on purpose", "CheckBox")
    _, after = person.edited(lambda: person.click("Floating on purpose", "CheckBox"))
    assert after["floating"] is True
    for gesture in ("name of the plan", "code of the plan", "school of choosing devices", "floating on purpose"):
        person.record(area="the plan", gesture=gesture, by="mouse" if "name" not in gesture else "keyboard")
    person.reach("Note", "EditableText")

    def write():
        person.click("Note", "EditableText")
        person.key("ctrl+a")
        person.type("Two lines\nof it")
        person.key("tab")

    _, after = person.edited(write)
    assert after["note"] == "Two lines\nof it"
    person.record(area="the plan", gesture="note on the plan", by="keyboard")
    person.click("Note", "EditableText")
    person.type(", and more")
    person.key("ctrl+s")
    person.until(lambda: ", and more" in person.saved()["note"], "what was typed, saved with the rest")
    person.key("alt+1")
    _, after = person.edited(lambda: person.fill("Days wanted", "2.5"))
    assert after["autonomy_days"] == 2.5
    person.record(area="the plan", gesture="days wanted", by="keyboard")


def test_what_the_build_page_asks_of_a_plan(person):
    person.open_copy()
    person.key("alt+5")
    person.click("Reels")
    person.click("Lengths that can be bought, m", "EditableText")
    person.key("ctrl+a")
    person.type("3 12\n")
    person.until(lambda: person.saved()["reels_m"] == [3, 12], "the lengths")
    person.record(area="the plan", gesture="lengths that can be bought", by="keyboard")
    person.click("Ready-made")
    person.click("Lengths sold ready-made, m", "EditableText")
    person.type("0.5 2\n")
    person.until(lambda: person.saved()["ready_m"] == [0.5, 2], "the lengths sold ready-made")
    person.record(area="the plan", gesture="lengths sold ready-made", by="keyboard")
    # One cable more is longer than what is sold: what is said above the tables moves them.
    person.sees("for 5 cables that are not sold ready-made")
    person.calm()
    row = person.until(lambda: person.all(role="Cell", within="Prices for that", editable=True), "prices")[0]
    _, after = person.edited(lambda: type_into(person, row, "0"))
    assert after["prices"] == {"tool:hand": 0}
    person.click("Studs")
    _, after = person.edited(lambda: person.choose("Studs and bolts of", "steel"))
    assert after["stud_material"] == "steel"
    person.record(area="the plan", gesture="material of the studs", by="mouse")
    row = person.until(lambda: person.all(role="Cell", within="Studs and lugs", editable=True), "torques")[0]
    _, after = person.edited(lambda: type_into(person, row, "7.5"))
    assert 7.5 in after["torques"].values()
    person.record(area="the plan", gesture="type a torque", by="keyboard")


def test_every_field_of_an_entry_of_the_log(person):
    person.open_copy()
    person.key("alt+6")
    person.click("Logbook")
    person.choose("What it is", "*harge*")
    for name, text in (("Day", "2026-03-04"), ("Value", "120"), ("Hours", "4.5"), ("Picture", "full.png")):
        person.fill(name, text, end=None)
    person.click("About", "ComboBox")
    person.key("ctrl+a")
    person.type("B1")
    person.click("What happened", "EditableText")
    person.type("Charged from empty.")
    _, after = person.edited(lambda: person.click("Add to the log", "Button"))
    entry = after["log"][-1]
    assert (entry["on"], entry["about"], entry["value"], entry["hours"]) == ("2026-03-04", "B1", 120, 4.5)
    assert (entry["text"], entry["picture"]) == ("Charged from empty.", "full.png")
    person.record(area="log", gesture="write into the logbook, every field", by="keyboard")


@pytest.mark.parametrize("by", ["mouse", "keyboard"])
def test_what_something_does_in_a_scenario(person, by):
    person.open_copy()
    person.select("PUMP")
    scenario = person.saved()["scenarios"][0]
    _, after = person.edited(lambda: person.choose(f"In “{scenario['name']}”", "surge", by=by))
    assert after["scenarios"][0]["states"]["PUMP"] == "surge"
    person.record(area="fields", gesture="state in a scenario", by=by)
