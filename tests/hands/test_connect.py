"""Conductors laid and led elsewhere, by dragging and by typing; the file says what was laid."""

import json

import pytest

from jaunty_copper.plan import edits
from jaunty_copper.plan.model import Bar, BarStud, Battery, PowerLoad, Run

from .gestures import BOTH
from .person import of
from .test_map_menus import new, plan_for_maps

by_both = pytest.mark.parametrize("by", BOTH)


def with_loose_things(plan):
    """The shed with a lamp and a unit that nothing leads to."""
    return edits.add(
        plan, PowerLoad(id="E9", name="Porch lamp", nominal_v=12.0, power_w=60.0),
        Battery(id="B9", name="Spare unit", chemistry="lifepo4", nominal_v=12.0, capacity_ah=100.0),
    )  # fmt: skip


def ends(run):
    return {run["a"], run["b"]}


def dragged(person, start, end):
    person.screen.drag(person.place(start, "terminals"), person.place(end, "terminals"), steps=20)


def asked(person, length, key="return"):
    """The dialog after a conductor was drawn: only its length is open."""
    person.until(lambda: (person.focused() or {}).get("name") == "Length one way, m", "the keyboard in the length")
    person.type(length)
    person.key(key)


def test_a_circuit_is_closed_by_dragging_and_gets_its_size(person):
    person.open_copy("seed_shed", with_loose_things)

    def lay(start, end, length):
        dragged(person, start, end)
        asked(person, length)

    before, after = person.edited(lambda: lay("E9.plus", "P1.s6", "3.2"))
    run = new(after, before, "runs")
    assert ends(run) == {"E9.plus", "P1.s6"}
    assert run["length_m"] == 3.2
    before, after = person.edited(lambda: lay("M1.s6", "E9.minus", "3,4 m"))
    back = new(after, before, "runs")
    assert ends(back) == {"E9.minus", "M1.s6"}
    # With both ways laid they follow the lamp, and are alike.
    assert back["follows_load"]
    assert of(after, run["id"]).get("conductor") == back.get("conductor")
    person.record(area="drag", gesture="a conductor from terminal to terminal", by="mouse")
    # The new conductor is selected, and one undo takes it away.
    person.until(lambda: person.ask("selected") == back["id"], "the new conductor selected")
    person.undo()
    person.until(lambda: person.ask("plan")["unsaved"], "the edit taken back")
    assert of(person.saved(), back["id"]) is None


def test_what_would_be_a_short_circuit_is_refused_and_what_is_unusual_may_be_insisted_on(person):
    person.open_copy("seed_shed", with_loose_things)
    first = person.saved()
    dragged(person, "P1.s6", "M1.s6")
    person.sees("a short circuit: 12 V lie between the two")
    assert person.saved() == first
    person.record(area="drag", gesture="a conductor to the other pole: refused", by="mouse")
    person.screen.move(*person.place("F2", "terminals" if "F2" in person.places("terminals") else "map"))
    dragged(person, "F2.a", "F2.b")
    person.sees("Lay it all the same", "it would bridge")
    before, after = person.edited(lambda: asked(person, "0.5"))
    assert ends(new(after, before, "runs")) == {"F2.a", "F2.b"}
    person.record(area="drag", gesture="an unusual conductor: insisted on", by="mouse")


def test_two_letters_and_a_length_lay_one_by_keyboard(person):
    person.open_copy("seed_shed", with_loose_things)
    person.select("E9")

    def lay():
        person.key("c")
        person.until(lambda: (person.focused() or {}).get("name") == "Find", "the keyboard in the search")
        person.type("plus bar any")
        person.key("return")
        asked(person, "2.5")

    before, after = person.edited(lay)
    run = new(after, before, "runs")
    assert any(end.startswith("P1.") for end in ends(run))
    assert "E9.plus" in ends(run)
    assert run["length_m"] == 2.5
    person.record(area="keys of what is painted", gesture="Map: C", by="keyboard")
    # Walking the list with the arrow keys, and leaving it.
    person.select("B9")
    person.key("c")
    person.until(lambda: (person.focused() or {}).get("name") == "Find", "the keyboard in the search")
    person.type("minus bar")
    person.until(lambda: person.all(role="Cell", current=True), "an end")
    was = person.all(role="Cell", current=True)[0]["name"]
    person.key("down")
    person.until(lambda: person.all(role="Cell", current=True)[0]["name"] != was, "the next end")
    person.key("escape")
    person.sees_no("Lay it")
    assert person.saved() == after


def test_a_conductor_is_led_elsewhere_by_its_end(person):
    person.open_copy("seed_shed")
    person.select("W12")
    was = of(person.saved(), "W12")
    end = "b" if was["b"].startswith("M1.") else "a"

    def aim():
        person.screen.drag(person.place(f"W12:{end}", "terminals"), person.place("M1.s6", "terminals"), steps=20)

    _, after = person.edited(aim)
    assert of(after, "W12")[end] == "M1.s6"
    person.record(area="drag", gesture="an end of the selected conductor", by="mouse")
    person.undo()
    person.until(lambda: person.ask("plan")["unsaved"], "the edit taken back")
    assert of(person.saved(), "W12") == was


@by_both
def test_both_ends_from_the_menu(person, by):
    person.open_copy(change=plan_for_maps)
    first = person.saved()
    for words, end, to in (("Lead its end elsewhere…", "b", "F6.b"), ("Lead its start elsewhere…", "a", "F3.b")):
        stays = of(first, "W21")["b" if end == "a" else "a"]

        def aim(words=words, to=to):
            person.context("W21", words, by=by, kind="conductor")
            person.until(lambda: (person.focused() or {}).get("name") == "Find", "the keyboard in the search")
            person.type(to)
            person.key("return")
            person.until(lambda: person.all("Lead it there*", "Button") or person.ask("plan")["unsaved"], "an end")

        _, after = person.edited(aim)
        assert of(after, "W21")[end] == to
        assert stays in ends(of(after, "W21"))
        person.undo()
        person.until(lambda: person.ask("plan")["unsaved"], "the edit taken back")
        assert person.saved() == first


def test_a_second_click_at_a_dialogs_button_lays_nothing_twice(person):
    person.open_copy("seed_shed", with_loose_things)
    dragged(person, "E9.plus", "P1.s6")
    person.until(lambda: (person.focused() or {}).get("name") == "Length one way, m", "the keyboard in the length")
    x, y, w, h = person.find("Lay it", "Button")["rect"]
    before = json.loads(person.file.read_text())
    with person.program.halted():
        for _ in range(3):
            person.screen.click(x + w / 2, y + h / 2)
    person.until(lambda: person.ask("plan")["unsaved"], "a conductor laid")
    assert len(person.saved()["runs"]) == len(before["runs"]) + 1
    assert person.program.trouble() == ""


@by_both
def test_connect_from_every_menu(person, by):
    person.open_copy(change=plan_for_maps)
    first = person.saved()
    for at, kind, to in (
        ("F2", "device", "P24.s9"), ("FAN", "equipment", "P24.s9"), ("T1", "stud", "P24.s9"), ("H1.p1", "chassis", "M24.s1"),
        ("P24.s9", "bar and its studs", "F6.a"),
    ):  # fmt: skip

        def lay(at=at, kind=kind, to=to):
            person.context(at, "Connect to…", by=by, kind=kind)
            person.until(lambda: (person.focused() or {}).get("name") == "Find", "the keyboard in the search")
            person.type(to)
            person.key("return")
            asked(person, "1.5")

        before, after = person.edited(lay)
        run = new(after, before, "runs")
        assert to in ends(run)
        assert any(end.startswith(at.partition(".")[0]) for end in ends(run))
        person.undo()
        person.until(lambda: person.ask("plan")["unsaved"], "the edit taken back")
        assert person.saved() == first


@by_both
def test_connect_a_loose_unit_from_its_menu_and_the_menu_bar(person, by):
    person.open_copy("seed_shed", with_loose_things)

    def lay(open_, to):
        open_()
        person.until(lambda: (person.focused() or {}).get("name") == "Find", "the keyboard in the search")
        person.type(to)
        person.key("return")
        asked(person, "0.4")

    before, after = person.edited(
        lambda: lay(lambda: person.context("B9", "Connect to…", by=by, kind="unit"), "B1.plus")
    )
    assert ends(new(after, before, "runs")) == {"B9.plus", "B1.plus"}
    person.select("B1")
    before, after = person.edited(lambda: lay(lambda: person.menu("Edit", "Connect to…", by=by), "B9.minus"))
    assert "B9.minus" in ends(new(after, before, "runs"))


@by_both
def test_things_change_places_and_circuits_are_led_to_another_bar(person, by):
    person.open_copy(change=plan_for_maps)
    first = person.saved()

    def answered(at, entry, kind, text):
        person.context(at, entry, by=by, kind=kind)
        person.until(lambda: (person.focused() or {}).get("name") == "Find", "the keyboard in the search")
        person.type(text)
        person.key("return")

    for at, entry, kind, text, holds in (
        ("F11", "Swap with…", "device", "F12", lambda a: any({"F12.b", "LAMP.plus"} == ends(r) for r in a["runs"])),
        ("P24.s2", "Swap with…", "bar and its studs", "s3", lambda a: [s["id"] for s in of(a, "P24")["studs"]][1:3] == ["s3", "s2"]),
        ("FAN", "Lead the circuit to…", "equipment", "12 V plus", lambda a: any(x.startswith("P12.") for r in a["runs"] for x in ends(r) if "F7.a" in ends(r))),
    ):  # fmt: skip
        _, after = person.edited(lambda a=(at, entry, kind, text): answered(*a))
        assert holds(after), entry
        person.undo()
        person.until(lambda: person.ask("plan")["unsaved"], "the edit taken back")
        assert person.saved() == first


def with_a_second_bar(plan):
    """The demo with one more 24 V bar, fed from the first, and one that nothing leads to."""
    studs = tuple(BarStud(id=f"s{k}") for k in range(1, 5))
    return edits.add(
        plan, Bar(id="P25", name="Far bar", rating_a=150.0, studs=studs), Bar(id="P99", name="Loose bar", rating_a=150.0, studs=studs),
        Run(id="W99", a="P24.s8", b="P25.s1", length_m=0.5, conductor="mm2-35"),
    )  # fmt: skip


def carry(person, id_, onto):
    """Drag something by its block onto something else."""
    person.calm()
    person.screen.drag(person.place(id_), person.place(onto), steps=20)


def test_a_circuit_is_dragged_to_another_bar(person):
    person.open_copy(change=with_a_second_bar)
    person.key("ctrl+9")
    before, after = person.edited(lambda: carry(person, "FAN", "P25"))
    moved = [r for r in after["runs"] if of(before, r["id"]) != r]
    assert len(moved) == 1
    assert any(end.startswith("P25.") for end in ends(moved[0]))
    person.record(area="drag", gesture="a circuit to another bar", by="mouse")
    person.undo()
    person.until(lambda: person.ask("plan")["unsaved"], "the edit taken back")
    assert person.saved() == before
    # To a bar that nothing feeds, or of another voltage, it is led only if that is insisted on.
    carry(person, "FAN", "P99")
    person.sees("Lead it there all the same", "nothing leads to Loose bar yet")
    person.key("escape")
    person.sees_no("Lead it there")
    assert person.saved() == before
    carry(person, "FAN", "P12")
    person.sees("Lead it there all the same", "12 V lie there")
    _, after = person.edited(lambda: person.click("Lead it there all the same", "Button"))
    assert any(end.startswith("P12.") for r in after["runs"] if of(before, r["id"]) != r for end in ends(r))
    person.record(area="drag", gesture="a circuit to a bar of another voltage: insisted on", by="mouse")


def test_two_devices_change_places_by_dragging(person):
    person.open_copy()
    before, after = person.edited(lambda: carry(person, "F6", "F7"))
    for run in before["runs"]:
        was, now = ends(run), ends(of(after, run["id"]))
        swapped = {e.replace("F6.", "F#.").replace("F7.", "F6.").replace("F#.", "F7.") for e in was}
        assert now == swapped
    person.record(area="drag", gesture="a device onto another: they change places", by="mouse")
    person.undo()
    person.until(lambda: person.ask("plan")["unsaved"], "the edit taken back")
    assert person.saved() == before
