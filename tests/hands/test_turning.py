"""A figure turned by a slider: the map follows, and one undo takes all of it back."""

import pytest

from .gestures import BOTH
from .person import of

by_both = pytest.mark.parametrize("by", BOTH)


@by_both
def test_a_length_is_turned_and_kept(person, by):
    plan = person.open_copy()
    before = plan.run_by_id["W21"].length_m
    person.select("W21")
    person.menu("Plan", "Turn a figure", by=by)
    x, y, w, h = person.find("Turn the figure", "Slider")["rect"]
    for _ in range(3):
        if by == "keyboard":
            person.key("pageup", "right")
        else:
            person.screen.click(x + 0.9 * w, y + h / 2)
        person.calm()
    person.key("return") if by == "keyboard" else person.click("Keep it", "Button")
    person.sees_no("Keep it")
    after = of(person.saved(), "W21")["length_m"]
    assert 1.05 * before < after <= 5.0 * before
    assert person.ask("plan")["undo"] == "Length one way of W21"
    person.undo()
    person.until(lambda: not person.ask("plan")["undo"], "the plan as it was opened")
    assert of(person.saved(), "W21")["length_m"] == before


def test_turned_and_taken_back(person):
    plan = person.open_copy()
    person.select("PUMP")
    person.key("ctrl+t")
    person.choose("Figure to turn", "Power, W", "keyboard")
    person.until(lambda: (person.focused() or {}).get("name") == "Turn the figure", "the keyboard at the slider")
    person.key("right", "right", "left", "pagedown")
    person.until(lambda: person.ask("plan")["undo"], "a turned plan")
    person.key("escape")
    person.sees_no("As it was")
    assert not person.ask("plan")["undo"]
    person.key("ctrl+t", "pageup")
    person.until(lambda: person.ask("plan")["undo"], "a turned plan")
    person.click("As it was", "Button")
    person.sees_no("As it was")
    assert not person.ask("plan")["undo"]
    assert of(person.saved(), "PUMP")["power_w"] == plan.by_id["PUMP"].power_w
