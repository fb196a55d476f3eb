"""Circuits copied, cut, pasted and doubled; several things selected and changed at once."""

import pytest

from .gestures import BOTH
from .person import of

by_both = pytest.mark.parametrize("by", BOTH)


def equipment(plan):
    return {e["id"] for e in plan["equipment"]}


def undone(person, first):
    person.undo()
    person.until(lambda: person.ask("plan")["unsaved"], "the edit taken back")
    assert person.saved() == first


@by_both
def test_the_edit_menu_copies_cuts_pastes_and_doubles(person, by):
    person.open_copy()
    first = person.saved()
    person.select("FAN")
    before, after = person.edited(lambda: person.menu("Edit", "Duplicate circuit", by=by))
    (new,) = equipment(after) - equipment(before)
    assert of(after, new)["power_w"] == of(before, "FAN")["power_w"]
    undone(person, first)
    person.select("FAN")
    person.menu("Edit", "Copy circuit", by=by)
    before, after = person.edited(lambda: person.menu("Edit", "Paste circuit", by=by))
    assert len(equipment(after) - equipment(before)) == 1
    undone(person, first)
    person.select("W111")
    before, after = person.edited(lambda: person.menu("Edit", "Cut circuit", by=by))
    assert equipment(before) - equipment(after) == {"LAMP"}
    person.select("P24.s1")
    before, after = person.edited(lambda: person.menu("Edit", "Paste circuit", by=by))
    (lamp,) = equipment(after) - equipment(before)
    ends = {ref for r in after["runs"] for ref in (r["a"], r["b"])}
    assert sum(ref.startswith("P24.") for ref in ends) == sum(
        ref.startswith("P24.") for ref in {x for r in before["runs"] for x in (r["a"], r["b"])}
    ) + 1  # fmt: skip
    assert lamp == "LAMP"


def test_between_two_windows(person):
    person.open_copy("seed_shed")
    person.select("FAN")
    person.key("ctrl+c")
    person.record(area="keys of the menus", gesture="Ctrl+C: Copy circuit", by="keyboard")
    # The clipboard outlives the window only while a program holds it: the other one is opened from this one.
    person.menu("File", "Open example", "Orchard station", record=False)
    person.sees("Quince Hollow")
    person.calm()
    person.select("P12.s1")
    person.key("ctrl+v")
    person.until(lambda: person.ask("plan")["unsaved"], "a circuit from the other plan")
    assert '"Drying fan 2"' in person.ask("plan")["text"] or '"Drying fan"' in person.ask("plan")["text"]


def test_several_are_selected_by_ctrl_by_a_rectangle_and_by_keys(person):
    person.open_copy()
    person.select("W111")
    x, y = person.place("W121")
    person.screen.hold_key("ctrl")
    person.screen.click(x, y)
    person.screen.let_key("ctrl")
    person.sees("2 conductors")
    before, after = person.edited(lambda: person.choose("Size", "6 mm²", by="keyboard"))
    assert {r["id"] for r in after["runs"] if r not in before["runs"]} == {"W111", "W121"}
    assert {of(after, id_)["conductor"] for id_ in ("W111", "W121")} == {"mm2-6"}
    person.record(area="drag", gesture="Ctrl+click: select it too", by="mouse")
    undone(person, before)
    top, bottom = person.place("F11"), person.place("F14")
    person.screen.hold_key("shift")
    person.screen.drag((top[0] - 26, top[1] - 16), (bottom[0] + 26, bottom[1] + 16))
    person.screen.let_key("shift")
    person.sees("4 fuses")
    before, after = person.edited(lambda: person.fill("Rating, A", "5"))
    assert {of(after, f"F{k}")["rating_a"] for k in (11, 12, 13, 14)} == {5.0}
    person.record(area="drag", gesture="Shift+drag: a rectangle selects", by="mouse")
    undone(person, before)
    person.select("LAMP")
    person.key("shift+down")
    person.sees("what is changed here is changed for all of them")
    before, after = person.edited(lambda: person.key("delete"))
    assert equipment(before) - equipment(after) == {"LAMP", "RADIO"}
    person.record(area="keys of what is painted", gesture="Map: Shift+arrows, Delete", by="keyboard")
    undone(person, before)


@by_both
def test_all_of_a_kind(person, by):
    person.open_copy("seed_shed")
    person.select("F2")
    person.menu("Edit", "Select all of its kind", by=by)
    person.sees("fuses")
    before, after = person.edited(lambda: person.fill("Rating, A", "7.5"))
    changed = {x["id"] for x in after["items"] if x not in before["items"]}
    assert changed == {x["id"] for x in before["items"] if x["kind"] == "fuse"}


def test_between_two_programs(person):
    """Each its own process: the circuit goes over the screen's clipboard, as text of the plan's own format."""
    person.open_copy("seed_shed")
    person.select("FAN")
    fan = of(person.saved(), "FAN")
    person.key("ctrl+c")
    # The first one stays open: its test ends it.
    person.calm()
    person.program = None
    person.open_copy()
    person.select("P24.s1")
    before, after = person.edited(lambda: person.key("ctrl+v"))
    (new,) = equipment(after) - equipment(before)
    same = ("kind", "power_w", "nominal_v", "hours_per_day")
    assert [of(after, new).get(k) for k in same] == [fan.get(k) for k in same]
    person.record(area="keys of the menus", gesture="Ctrl+V: Paste circuit", by="keyboard")
    person.record(area="whole systems", gesture="a circuit between two programs", by="keyboard")
