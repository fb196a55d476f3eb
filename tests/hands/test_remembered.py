"""Windows as they were left, several of them, and files dragged in."""

import contextlib

import pytest

from jaunty_copper.plan.examples import example
from jaunty_copper.plan.files import dumps

from .program import Ended, others_ended


def divider(person):
    """The line beside the panel: thinner than what is looked for otherwise."""
    return person.until(lambda: person.all("Divider beside the panel"), "the divider")[0]["rect"]


def test_page_divider_zoom_and_place_are_as_they_were_left(person):
    person.open_copy()
    across = divider(person)
    x, y = across[0] + across[2] / 2, across[1] + across[3] / 2
    person.screen.drag((x, y), (x - 90, y))
    person.until(lambda: divider(person)[0] < across[0] - 60, "a wider panel")
    left = divider(person)[0]
    before = person.place("INV")
    person.key("ctrl+plus")
    person.until(lambda: person.places().get("INV") not in (None, before), "a larger map")
    zoomed = person.place("INV")
    person.key("alt+4")
    person.sees("Fault at")
    with contextlib.suppress(Ended):
        person.key("ctrl+q")
        person.until(lambda: not person.program.runs, "the window closed")
    person.start("open", person.file)
    person.sees("Fault at")
    assert abs(divider(person)[0] - left) <= 3
    person.key("alt+3")
    person.until(lambda: person.places(), "the map")
    there = person.place("INV")
    assert abs(there[0] - zoomed[0]) < 80
    assert there != before
    person.record(area="window", gesture="left and started again: page, divider, size of the map", by="mouse")


def test_a_broken_memory_does_not_stand_in_the_way(person):
    config = person.folder / "config" / "jaunty-copper"
    config.mkdir(parents=True)
    (config / "settings.json").write_text(
        '{"place": "%%%", "page": "nowhere", "zoom": -3, "dividers": {"Divider beside the panel": ["a", {}]}, '
        '"columns": {"Conductors": [1e9]}}'
    )
    person.open_copy()
    person.sees("Findings")


@pytest.mark.parametrize("by", ["mouse", "keyboard"])
def test_another_window_is_a_program_of_its_own(person, by):
    person.open_copy()
    before = len(person.screen.titles())
    person.menu("File", "Another window", by=by)
    with others_ended(person.screen):
        person.until(lambda: len(person.screen.titles()) == before + 1, "another window")
        assert sum("orchard_station" in t for t in person.screen.titles()) == 1
    person.until(lambda: len(person.screen.titles()) == before, "only the first")
    person.sees("Findings")
    person.record(area="files", gesture="another window", by=by)


def test_a_file_is_dragged_in(person):
    person.open_copy()
    other = person.folder / "another shed.copper.json"
    other.write_bytes(dumps(example("seed_shed")))
    x, y = person.place("INV")
    assert person.screen.drop(other, x, y)
    person.until(lambda: any("another shed" in w["title"] for w in person.windows()), "the other plan")
    person.calm()
    picture = person.folder / "not a plan.png"
    picture.write_bytes(b"\x89PNG")
    x, y = person.find("What is selected")["rect"][:2]
    assert person.screen.drop(picture, x - 100, y + 100)
    person.sees("not a plan.png")
    assert any("another shed" in w["title"] for w in person.windows()), "what is open stays open"
    person.record(area="files", gesture="drag a file in", by="mouse")


def test_a_divider_that_holds_the_keyboard_goes_with_its_page_and_its_window(person):
    person.open_copy()
    for page in ("3", "2"):
        person.key(f"alt+{page}", "ctrl+f6")
        person.until(lambda: (person.focused() or {}).get("name", "").startswith("Divider"), "a divider")
    person.key("alt+7")
    person.until(lambda: not (person.focused() or {}).get("name", "").startswith("Divider"), "no divider")
    person.key("alt+3", "ctrl+f6")
    person.until(lambda: (person.focused() or {}).get("name", "").startswith("Divider"), "a divider")
    with contextlib.suppress(Ended):
        person.key("ctrl+q")
        person.until(lambda: not person.program.runs, "the window closed")
