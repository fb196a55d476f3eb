"""The Bank page by hand: its menus, units that are dragged, patterns, hours."""

import pytest

from jaunty_copper.plan import edits
from jaunty_copper.plan.model import Battery, Zone

from . import gestures
from .gestures import BOTH
from .person import general, of

by_both = pytest.mark.parametrize("by", BOTH)
CASES = [
    ("link", "L1p", "Give * a bad joint of *", lambda b, a: of(a, "L1p")["joint_a_ohm"] is not None or of(a, "L1p").get("joint_b_ohm")),
    ("link", "L2p", "Joints of * as planned", lambda b, a: "joint_a_ohm" in of(b, "L2p") and "joint_a_ohm" not in of(a, "L2p")),
    ("link", "L1p", "Make * 50 % longer", lambda b, a: of(a, "L1p")["length_m"] == pytest.approx(1.5 * of(b, "L1p")["length_m"])),
    ("link", "L1p", "Put a fuse into *", lambda b, a: len(a["items"]) - len(b["items"]) == 1 and len(a["runs"]) - len(b["runs"]) == 1),
    ("unit", "B1", "* holds only 80 %", lambda b, a: of(a, "B1")["capacity_share"] == 0.8),
    ("unit", "B2", "* holds all it is sold for", lambda b, a: "capacity_share" not in of(a, "B2")),
    ("unit", "B1", "Turn * round", lambda b, a: of(a, "B1")["turned"] is True),
    ("unit", "B1", "Add a unit in parallel", lambda b, a: units(a) - units(b) == 1 and runs(a) - runs(b) == 2),
    ("unit", "B1", "Add a unit in series", lambda b, a: units(a) - units(b) == 4 and runs(a) - runs(b) == 4),
    ("unit", "B1", "Remove a unit in parallel", lambda b, a: units(b) - units(a) == 1 and runs(b) - runs(a) == 2),
    ("unit", "B1", "Make all units like *", lambda b, a: "capacity_share" not in of(a, "B2")),
    ("unit", "B1", "Add another bank", lambda b, a: units(a) - units(b) == 1 and runs(a) == runs(b)),
]  # fmt: skip


def units(plan):
    return sum(x["kind"] == "battery" for x in plan["items"])


def runs(plan):
    return len(plan["runs"])


def worn(plan):
    """The demo with a bad joint and a weak unit, so that both can be mended."""
    plan = edits.change(plan, "L2p", joint_a_ohm=0.02)
    return edits.change(plan, "B2", capacity_share=0.7)


@pytest.fixture
def bank(person):
    person.open_copy(change=worn)
    person.key("alt+2")
    person.until(lambda: person.places("bank"), "the bank")
    person.until(lambda: "Comparing" not in person.words() and "Trying" not in person.words(), "patterns")
    return person


@by_both
def test_menus_on_the_bank(bank, by):
    first = bank.saved()
    for kind, at, text, holds in CASES:
        before, after = bank.edited(lambda k=kind, i=at, t=text: bank.context(i, t, by=by, of="bank", kind=k))
        assert before == first
        assert holds(before, after), text
        bank.key("ctrl+z")
        bank.until(lambda: bank.ask("plan")["unsaved"], "the edit taken back")
        assert bank.saved() == first


def test_what_the_bank_offers_is_known(bank):
    names = bank.ask("names")
    for id_, paths in bank.ask("inventory", ids={"bank": ["L1p", "L2p", "B1", "B2"]})["bank"].items():
        for path in paths:
            kind = "link" if id_.startswith("L") else "unit"
            gestures.write("offered", area=f"bank: {kind}", gesture=general(path[0], names), by=BOTH)


def test_a_unit_is_dragged_and_nudged(bank):
    x, y = bank.place("B4", "bank")
    before, after = bank.edited(lambda: bank.screen.drag((x, y), (x, y - 60)))
    assert of(after, "B4")["at_mm"][1] > (of(before, "B4").get("at_mm") or [0, 0])[1]
    bank.record(area="drag", gesture="a unit of the bank", by="mouse")
    bank.click_at("B4", "bank")
    before, after = bank.edited(lambda: bank.key("right"))
    assert of(after, "B4")["at_mm"][0] == of(before, "B4")["at_mm"][0] + 10
    bank.record(area="drag", gesture="a unit of the bank", by="keyboard")


def test_the_numbers_of_a_bank_are_set_at_once(bank):
    """By the arrows of the field with the mouse, by typing with the keyboard; each is one step to take back."""
    first = bank.saved()
    x, y, w, h = bank.find("Strings in parallel", "SpinBox")["rect"]
    before, after = bank.edited(lambda: bank.screen.click(x + w - 6, y + h / 4))
    assert (units(after), units(before)) == (5, 4)
    bank.record(area="bank", gesture="set the number in parallel", by="mouse")
    bank.key("ctrl+z")
    bank.until(lambda: bank.ask("plan")["unsaved"], "the edit taken back")
    assert bank.saved() == first
    bank.click("Units in series", "SpinBox")
    bank.key("ctrl+a")

    def two():
        bank.type("2")
        bank.key("return")

    before, after = bank.edited(two)
    assert (units(after), units(before)) == (8, 4)
    bank.record(area="bank", gesture="set the number in series", by="keyboard")


def test_a_dragged_unit_falls_into_line_with_the_others(bank):
    x, y = bank.place("B4", "bank")
    _, after = bank.edited(lambda: bank.screen.drag((x, y), (x + 60, y - 5)))
    assert of(after, "B4")["at_mm"][1] == (of(after, "B1").get("at_mm") or [0, 0])[1]


def test_going_from_unit_to_unit_by_keyboard(bank):
    bank.click_at("B1", "bank")
    bank.key("tab")
    bank.until(lambda: bank.ask("selected") == "B2", "unit 2")
    bank.key("shift+tab")
    bank.until(lambda: bank.ask("selected") == "B1", "unit 1")
    bank.record(area="keys of what is painted", gesture="Bank: Tab and Shift+Tab", by="keyboard")


def test_a_pattern_and_the_hours(bank):
    before, after = bank.edited(lambda: bank.click("opposite corners*"))
    assert {(r["a"], r["b"]) for r in before["runs"]} != {(r["a"], r["b"]) for r in after["runs"]}
    bank.record(area="bank", gesture="choose a pattern", by="mouse")
    bank.until(lambda: "no unit is empty" in bank.words() or "is empty after" in bank.words(), "the hours")
    x, y, w, h = bank.find("Hour of the course", "Slider")["rect"]
    start = bank.picture()
    bank.screen.drag((x + 8, y + h / 2), (x + w / 2, y + h / 2))
    bank.until(
        lambda: bank.picture().crop((80, 100, 880, 400)) != start.crop((80, 100, 880, 400)), "units some hours on"
    )
    bank.record(area="drag", gesture="the hours' slider", by="mouse")
    half = bank.picture()
    bank.key("end")
    bank.until(lambda: bank.picture() != half, "the last hour")
    bank.record(area="drag", gesture="the hours' slider", by="keyboard")
    bank.fill("Hours to follow", "1")
    bank.sees("After 1.0 h no unit is empty")


def test_units_too_cold_to_be_charged_are_said_where_they_stand(person):
    def cold(plan):
        units = [x.id for x in plan.items if isinstance(x, Battery)]
        plan = edits.change_each(
            edits.add(plan, Zone(id="frost", ambient_c=-4.0)), {u: {"managed": True} for u in units}
        )
        return edits.change(plan, units[0], zone="frost")

    person.open_copy(change=cold)
    person.choose("Scenario", "Generator charges")
    person.key("alt+2")
    person.sees("no charge goes into Unit 1: too cold or too warm")
    person.click_at("B1", "bank")
    person.sees("lets none in, too cold or too warm: “Generator charges”")
