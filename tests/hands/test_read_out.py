"""The window as a screen reader has it: over AT-SPI, on a real session bus."""

import time

import pytest

from .at_spi import FOCUSABLE, Reader, session_bus

SPEAKS = (
    "push button",
    "button",
    "toggle button",
    "check box",
    "combo box",
    "text",
    "entry",
    "spin button",
    "slider",
    "list",
    "table",
    "radio button",
)
PAGES = {
    "alt+1": "Needs",
    "alt+2": "Bank",
    "alt+3": "Map",
    "alt+4": "Curves",
    "alt+5": "Build",
    "alt+6": "Log",
    "alt+7": "Tables",
}


@pytest.fixture
def reader(person, monkeypatch):
    """A screen reader beside a person's program."""
    with session_bus() as address:
        monkeypatch.setitem(person.screen.env, "DBUS_SESSION_BUS_ADDRESS", address)
        monkeypatch.setitem(person.screen.env, "QT_LINUX_ACCESSIBILITY_ALWAYS_ON", "1")
        # What Qt says of a bus that is slow to answer is no matter of the program's.
        monkeypatch.setitem(person.screen.env, "QT_LOGGING_RULES", "qt.accessibility.atspi*=false")
        made = Reader(address)
        yield made
        for program in person.programs:
            program.kill()
        made.close()


def opened(person, reader):
    """The program on the demo, once the bus knows it: on a busy machine it may not, and then it is started again."""
    for _ in range(3):
        person.open_copy()
        end = time.monotonic() + 20.0
        while time.monotonic() < end:
            if any(n.role == "frame" and "orchard_station" in n.name for n in reader.tree()):
                return
            time.sleep(0.2)
    raise AssertionError("the bus never heard of the program")


def names(reader, part):
    return [n.name for n in reader.tree() if part in n.name]


def test_everything_that_takes_the_keyboard_has_a_name_and_a_role_on_every_page(person, reader):
    opened(person, reader)
    nameless = []
    for key, page in PAGES.items():
        person.key(key)
        person.calm()
        tree = reader.tree()
        assert any(n.role == "frame" and "orchard_station" in n.name for n in tree)
        controls = [n for n in tree if n.has(FOCUSABLE) and n.role in SPEAKS]
        assert len(controls) > 10, page
        nameless += [(page, n) for n in controls if not n.name.strip()]
        assert not [n for n in tree if n.role in ("invalid", "unknown")], page
    assert nameless == []
    person.record(area="read out", gesture="every page has its names", by="keyboard")


def test_the_map_is_read_out_thing_by_thing(person, reader):
    opened(person, reader)
    person.until(lambda: names(reader, "24 V plus bar to Generator breaker"), "a conductor by its name")
    tree = [n.name for n in reader.tree() if n.role == "label"]
    for what in ("Workshop inverter", "Main fuse", "Unit 1", "Minus bar"):
        assert any(what in name for name in tree), what
    person.key("f6")
    person.key("right")
    first = reader.announced()
    assert first
    person.key("right")
    second = reader.announced()
    assert second
    assert first != second
    selected = person.ask("selected")
    assert any(n.description == second for n in reader.tree()), f"{selected} is described where the keyboard is"
    person.record(area="read out", gesture="the map, thing by thing", by="keyboard")


@pytest.mark.parametrize(
    ("key", "parts"),
    [
        ("alt+2", ("between its posts", "L1p: ")),
        ("alt+4", ("opens at", " to ")),
    ],
)
def test_bank_and_curves_are_read_out_thing_by_thing(person, reader, key, parts):
    opened(person, reader)
    person.select("PUMP")
    person.key(key)
    person.calm()
    for part in parts:
        person.until(lambda p=part: names(reader, p), part)
    person.record(area="read out", gesture=f"what {key} shows, thing by thing", by="keyboard")


def test_the_board_is_read_out_part_by_part(person, reader):
    opened(person, reader)
    person.key("alt+5")
    person.calm()
    person.click("Board")
    person.until(lambda: names(reader, "mm from the left"), "parts with their places")
    person.record(area="read out", gesture="the board, part by part", by="mouse")
