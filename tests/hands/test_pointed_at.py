"""The tour of the demo, offered at the first start: a card and a ring beside what it speaks of."""

import json

from jaunty_copper.desktop.shell.tour_steps import STEPS


def card(person):
    return next(n["rect"] for n in person.nodes() if n["name"] == "Tour")


def overlap(one, two):
    (ax, ay, aw, ah), (bx, by, bw, bh) = one, two
    return max(0, min(ax + aw, bx + bw) - max(ax, bx)) * max(0, min(ay + ah, by + bh) - max(ay, by))


def test_who_starts_for_the_first_time_is_shown_around(person):
    person.start("demo")
    person.sees("New here?")
    person.click("Show me", "Button")
    for k, step in enumerate(STEPS):
        person.sees(step.title, f"{k + 1} of {len(STEPS)}")
        person.calm()
        if step.place == "map" and step.name in person.places():
            x, y = person.place(step.name)
            assert not overlap(card(person), (x, y, 1, 1)), f"{step.title}: the card covers what it speaks of"
        person.key("return") if k % 2 else person.click("Done" if k + 1 == len(STEPS) else "Next", "Button")
    person.sees_no(f"{len(STEPS)} of {len(STEPS)}")
    person.record(area="menu bar", gesture="Help › Tour of the demo: offered", by="mouse")
    settings = next(person.folder.rglob("settings.json"))
    assert json.loads(settings.read_text())["tour offered"] is True


def test_the_tour_by_keyboard_and_left(person):
    person.open_copy()
    person.menu("Help", "Tour of the demo", by="keyboard")
    person.sees(STEPS[0].title)
    person.key("right", "right")
    person.sees(STEPS[2].title)
    person.key("left")
    person.sees(STEPS[1].title)
    person.key("escape")
    person.sees_no(STEPS[1].title)
    person.menu("Help", "Tour of the demo")
    person.sees(STEPS[0].title)
    person.click("End the tour", "Button")
    person.sees_no(STEPS[0].title)
