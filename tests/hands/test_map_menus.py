"""Every entry of every menu on the map, by mouse and by keyboard: chosen, saved, read back, taken back."""

from typing import NamedTuple

import pytest

from jaunty_copper.plan import edits
from jaunty_copper.plan.model import Chassis, ChassisPoint, Post, Run

from . import gestures
from .gestures import BOTH
from .person import general, of

by_both = pytest.mark.parametrize("by", BOTH)
INLINE = {
    "Fuse": "fuse", "Breaker": "breaker", "Disconnect": "disconnect", "Contactor": "contactor", "Shunt": "shunt",
    "Plug connector": "plug", "Butt splice": "splice",
}  # fmt: skip
EQUIPMENT = {
    "Load of constant power": "constant_power", "Load of constant current": "constant_current",
    "Resistive load": "resistive", "Inverter": "inverter", "Charger": "charger", "Alternator": "alternator",
    "Solar controller": "solar", "Converter": "converter",
}  # fmt: skip


def prepared(plan):
    """The demo with a plain stud and a metal frame that conductors end on."""
    return edits.add(
        plan, Post(id="T1", name="Spare stud"), Chassis(id="H1", name="Frame", points=(ChassisPoint(id="p1"),)),
        Run(id="W90", a="P24.s8", b="T1.stud", length_m=0.05), Run(id="W91", a="M24.s1", b="H1.p1", length_m=0.3),
    )  # fmt: skip


class Case(NamedTuple):
    """An entry: where, what, and what the file must say then."""

    kind: str
    at: str
    path: tuple
    holds: object


def new(after, before, field):
    """The one thing that was added."""
    (found,) = [x for x in after[field] if of(before, x["id"]) is None]
    return found


def inserted(kind):
    def holds(before, after):
        item = new(after, before, "items")
        ends = {r["a"] for r in after["runs"]} | {r["b"] for r in after["runs"]}
        return item["kind"] == kind and {f"{item['id']}.a", f"{item['id']}.b"} <= ends

    return holds


def circuit(kind):
    def holds(before, after):
        e = new(after, before, "equipment")
        ends = {r["a"] for r in after["runs"]} | {r["b"] for r in after["runs"]}
        device = next(x for x in after["items"] if of(before, x["id"]) is None and x["kind"] in ("fuse", "breaker"))
        return e["kind"] == kind and any(end.startswith(f"{e['id']}.") for end in ends) and f"{device['id']}.a" in ends

    return holds


def replaced(id_, kind):
    return lambda before, after: of(before, id_)["kind"] != kind and of(after, id_)["kind"] == kind


def gone(id_):
    return lambda before, after: of(before, id_) is not None and of(after, id_) is None


def placed(kind, count=1):
    def holds(before, after):
        ids = {x["id"] for x in before["items"]}
        return [x["kind"] for x in after["items"] if x["id"] not in ids] == [kind] * count

    return holds


def order(bar, by):
    def holds(before, after):
        was, now = ([s["id"] for s in of(p, bar)["studs"]] for p in (before, after))
        return sorted(was) == sorted(now) and now.index("s3") - was.index("s3") == by

    return holds


def studs(bar, by):
    return lambda before, after: len(of(after, bar)["studs"]) - len(of(before, bar)["studs"]) == by


CASES = [
    *(Case("conductor", "W21", ("Insert", t), inserted(k)) for t, k in INLINE.items()),
    Case("conductor", "W21", ("Add a parallel conductor",), lambda b, a: of(a, "W21")["parallel"] == 2),
    Case("conductor", "W21", ("Lay a second run between the same ends",), lambda b, a: new(a, b, "runs")["b"] == of(b, "W21")["b"]),
    Case("conductor", "W21", ("Remove this conductor",), gone("W21")),
    *(Case("device", "F2", ("Replace by", t), replaced("F2", k)) for t, k in INLINE.items() if k != "fuse"),
    Case("device", "Q1", ("Replace by", "Fuse"), replaced("Q1", "fuse")),
    Case("device", "Q1", ("Open it",), lambda b, a: of(a, "Q1")["closed"] is False),
    Case("device", "F2", ("Remove, joining the conductor",), gone("F2")),
    Case("equipment", "FAN", ("Replace by", "Load of constant current"), replaced("FAN", "constant_current")),
    *(Case("equipment", "GEN", ("Replace by", t), replaced("GEN", k)) for t, k in EQUIPMENT.items() if k not in ("converter", "charger")),
    Case("equipment", "FAN", ("Replace by", "Charger"), replaced("FAN", "charger")),
    Case("equipment", "FAN", ("Remove this circuit",), gone("FAN")),
    *(Case("bar and its studs", "P24.s8", ("Add circuit", t), circuit(k)) for t, k in EQUIPMENT.items()),
    Case("bar and its studs", "P24.s3", ("Add a stud here",), studs("P24", 1)),
    Case("bar and its studs", "P24.s3", ("Move this stud up",), order("P24", -1)),
    Case("bar and its studs", "P24.s3", ("Move this stud down",), order("P24", 1)),
    Case("bar and its studs", "P24.s9", ("Remove this stud",), studs("P24", -1)),
    Case("bar and its studs", "P12.s1", ("Remove this busbar",), gone("P12")),
    *(Case("stud", "T1", ("Add circuit", t), circuit(k)) for t, k in EQUIPMENT.items()),
    Case("stud", "T1", ("Remove this stud",), gone("T1")),
    Case("chassis", "H1.p1", ("Remove this chassis",), gone("H1")),
]  # fmt: skip
KINDS = sorted({c.kind for c in CASES})


def plan_for_maps(plan):
    plan = prepared(plan)
    # A stud that nothing is on.
    return edits.add_stud(plan, "P24")[0]


@by_both
@pytest.mark.parametrize("kind", KINDS)
def test_menus_on_the_map(person, kind, by):
    person.open_copy(change=plan_for_maps)
    first = person.saved()
    for case in (c for c in CASES if c.kind == kind):
        before, after = person.edited(lambda c=case: person.context(c.at, *c.path, by=by, kind=c.kind))
        assert before == first
        assert case.holds(before, after), case.path
        person.undo()
        person.until(lambda: person.ask("plan")["unsaved"], "the edit taken back")
        assert person.saved() == first


@by_both
def test_the_menu_of_an_empty_place_and_of_a_unit(person, by):
    person.open_copy("seed_shed")
    first = person.saved()
    for text, holds in (
        ("Bar", placed("bar")), ("Pair of bars", placed("bar", 2)), ("Distributor", placed("bar")), ("Stud", placed("post")), ("Chassis", placed("chassis")), ("Battery unit", placed("battery")),
    ):  # fmt: skip
        before, after = person.edited(lambda t=text: person.context("", "Add", t, by=by, kind="empty place"))
        assert holds(before, after)
        person.undo()
        person.until(lambda: person.ask("plan")["unsaved"], "the edit taken back")
        assert person.saved() == first
    for text, runs in (("Add a unit in parallel", 2), ("Add a unit in series", 1), ("Add another bank", 0)):
        before, after = person.edited(lambda t=text: person.context("B1", t, by=by, kind="unit"))
        assert placed("battery")(before, after)
        assert len(after["runs"]) - len(before["runs"]) == runs
        person.undo()
        person.until(lambda: person.ask("plan")["unsaved"], "the edit taken back")
        assert person.saved() == first
    person.context("B1", "Short circuit here", by=by, kind="unit")
    person.until(lambda: any(n["value"] == "Battery, plus" for n in person.nodes()), "a fault at the battery")
    person.key("alt+3")
    before, after = person.edited(lambda: person.context("B1", "Remove this unit", by=by, kind="unit"))
    assert of(after, "B1") is None


@by_both
def test_a_short_circuit_from_the_menu(person, by):
    person.open_copy(change=plan_for_maps)
    for at, kind, where in (
        ("W21", "conductor", "halfway along W21"), ("F2", "device", "Inverter fuse, b"), ("FAN", "equipment", "Drying fan, plus"),
        ("T1", "stud", "Spare stud, stud"), ("H1.p1", "chassis", "Frame, p1"), ("P24.s3", "bar and its studs", "24 V plus bar, s3"),
    ):  # fmt: skip
        person.context(at, "Short circuit here", by=by, kind=kind)
        person.until(lambda w=where: person.all(w) or any(n["value"] == w for n in person.nodes()), where)
        person.key("alt+3")


def test_what_the_menus_offer_is_known(person):
    person.open_copy(change=plan_for_maps)
    at = {}
    for case in CASES:
        at.setdefault(case.at, case.kind)
    names = person.ask("names")
    for id_, paths in person.ask("inventory", ids={"map": list(at)})["map"].items():
        for path in paths:
            gestures.write("offered", area=f"map: {at[id_]}", gesture=general(" › ".join(path), names), by=BOTH)


def test_what_a_small_plan_offers_is_known(person):
    person.open_copy("seed_shed")
    names = person.ask("names")
    for id_, kind in (("", "empty place"), ("B1", "unit")):
        for path in person.ask("inventory", ids={"map": [id_]})["map"][id_]:
            gestures.write("offered", area=f"map: {kind}", gesture=general(" › ".join(path), names), by=BOTH)


def test_a_second_click_before_a_menu_is_gone_does_nothing(person):
    person.open_copy()
    person.click_at("INV", button=3)
    places = [person.entry(text)["rect"] for text in ("Remove this circuit", "Lead the circuit to…")]
    with person.program.halted():
        for x, y, _, h in places:
            person.screen.click(x + 40, y + h / 2)
    person.until(lambda: "Remove" in (person.ask("plan")["undo"] or ""), "the circuit gone")
    person.calm()
    assert of(person.saved(), "INV") is None
    assert person.program.trouble() == ""
    assert all(w["kind"] == "window" for w in person.windows())
