"""A plan that is larger than the window: folded, seen small in the corner, followed under the pointer."""

import pytest

from .gestures import BOTH

by_both = pytest.mark.parametrize("by", BOTH)


def seen(person, gesture, by="mouse", area="views"):
    person.record(area=area, gesture=gesture, by=by)


@by_both
def test_circuits_of_a_bar_are_folded_and_unfolded(person, by):
    person.open_copy()
    first = person.saved()
    person.select("P12")
    person.context("P12", "Fold its circuits", by=by, kind="bar and its studs")
    person.until(lambda: "LAMP" not in person.places(), "the lamp folded away")
    assert "FAN" in person.places()
    person.context("P12", "Unfold its circuits", by=by, kind="bar and its studs")
    person.until(lambda: "LAMP" in person.places(), "the lamp again")
    if by == "keyboard":
        person.key("f")
        person.until(lambda: "LAMP" not in person.places(), "the lamp folded away")
        seen(person, "Map: F", by, "keys of what is painted")
        # A finding inside a fold opens it.
        person.key("f6")
    else:
        person.select("P12")
        person.key("f")
        person.until(lambda: "LAMP" not in person.places(), "the lamp folded away")
        x, y = person.place("fold of P12")
        person.screen.click(x, y, times=2)
        person.until(lambda: "LAMP" in person.places(), "the lamp again")
        seen(person, "a fold opened by a double click")
    assert person.saved() == first


def test_what_is_hidden_in_a_fold_is_shown_when_it_is_gone_to(person):
    person.open_copy()
    person.key("ctrl+shift+f")
    person.until(lambda: "PUMP" not in person.places(), "folded circuits")
    found = person.until(
        lambda: [c for c in person.all(role="Cell", within="Findings") if "W40" in c["name"]], "a finding"
    )[0]
    x, y, w, h = found["rect"]
    person.screen.click(x + w / 2, y + h / 2)
    person.until(lambda: "W40" in person.places(), "the generator's circuit")
    seen(person, "a finding inside a fold opens it")


def test_the_overview_moves_the_map(person):
    person.open_copy()
    assert not person.all("Overview of the map")
    for _ in range(4):
        person.key("ctrl+plus")
    small = person.find("Overview of the map")["rect"]
    before = person.places()
    x, y, w, h = small
    person.screen.drag((x + w * 0.3, y + h * 0.3), (x + w * 0.8, y + h * 0.8))
    person.until(lambda: person.places() != before and person.places(), "another part of the map")
    seen(person, "the frame of the overview", area="drag")
    person.key("ctrl+9")
    person.until(lambda: not person.all("Overview of the map"), "no overview where all is seen")


def test_the_circuit_under_the_pointer_is_lit(person):
    """From plus to minus, and the device that guards it: seen as colour around what the pointer is not on."""
    person.open_copy()
    fuse, back = person.place("F7"), person.place("FAN")
    person.screen.move(*person.ask("empty"))
    person.calm()
    around = [int(v) for v in (fuse[0] - 40, fuse[1] - 22, fuse[0] + 40, fuse[1] + 22)]
    dull = person.picture().crop(around)
    person.screen.move(*back)
    person.until(lambda: person.picture().crop(around) != dull, "the fuse of the fan lit")
    seen(person, "a circuit under the pointer")
    person.screen.move(*person.ask("empty"))
    person.until(lambda: person.picture().crop(around) == dull, "the fuse as it was")
