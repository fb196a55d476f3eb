"""What is dragged, zoomed and looked at, by hand."""

import pytest

from .person import of


def seen(person, gesture, by="mouse", area="drag"):
    person.record(area=area, gesture=gesture, by=by)


def test_a_stud_is_dragged_and_moved_by_keys(person):
    person.open_copy()
    x, y = person.place("P24.s3")
    below = person.place("P24.s5")
    before, after = person.edited(lambda: person.screen.drag((x, y), (x, below[1] + 8)))
    was, now = ([s["id"] for s in of(p, "P24")["studs"]] for p in (before, after))
    assert now.index("s3") == was.index("s3") + 2
    seen(person, "a stud along its bar")
    person.select("P24.s3")
    before, after = person.edited(lambda: person.key("alt+up"))
    assert [s["id"] for s in of(after, "P24")["studs"]].index("s3") == now.index("s3") - 1
    before, after = person.edited(lambda: person.key("alt+down"))
    assert [s["id"] for s in of(after, "P24")["studs"]] == now
    seen(person, "a stud along its bar", "keyboard")


def test_the_map_is_moved_and_scaled(person):
    person.open_copy()
    for _ in range(3):
        person.key("ctrl+plus")
    first = person.until(person.places, "the map")
    x, y = person.ask("empty")
    person.screen.drag((x, y), (x - 70, y - 40))
    moved = person.until(lambda: person.places() != first and person.places(), "the map moved")
    seen(person, "the map at an empty place")
    person.screen.drag((700, 300), (740, 330), button=2)
    person.until(lambda: person.places() != moved, "the map moved back")
    seen(person, "the map by the middle button")
    person.key("ctrl+0")
    at = person.place("INV")
    pump = person.place("PUMP")
    person.screen.wheel(*at, 3, "ctrl")
    # What is under the pointer stays there; the rest moves away from it.
    person.until(lambda: person.places().get("PUMP") not in (pump, None) and person.places().get("INV"), "a larger map")
    seen(person, "scale by Ctrl and the wheel", area="views")
    person.key("ctrl+0")
    person.until(lambda: person.places().get("INV") == at, "the map as it was")


@pytest.mark.parametrize(
    ("page", "name", "by_px"),
    [
        ("3", "Divider between map and strip", (0, -80)), ("3", "Divider beside the panel", (-90, 0)), ("3", "Divider above the findings", (0, 60)),
        ("2", "Divider above the hours", (0, -40)), ("1", "Divider under the equipment", (0, 60)), ("1", "Divider beside the bars", (60, 0)),
        ("4", "Divider above the replay", (0, -40)), ("6", "Divider under the readings", (0, -60)),
    ],
)  # fmt: skip
def test_dividers(person, page, name, by_px):
    person.open_copy()
    person.key(f"alt+{page}")
    x, y, w, h = person.until(lambda: person.all(name), name)[0]["rect"]
    at = (x + w / 2, y + h / 2)
    person.screen.drag(at, (at[0] + by_px[0], at[1] + by_px[1]))

    def moved():
        (found,) = person.all(name)
        return abs(found["rect"][0] - x - by_px[0]) <= 6 and abs(found["rect"][1] - y - by_px[1]) <= 6

    person.until(moved, "the divider elsewhere")
    seen(person, name)
    # Back again by keys: two steps there, one with Shift.
    person.tab_to()
    began = person.focused()["name"]
    for _ in range(8):
        had = person.focused()["name"]
        if had == name:
            break
        person.key("ctrl+f6")
        person.until(lambda h=had: person.focused()["name"] != h, "another divider")
    across, way = bool(by_px[0]), 1 if sum(by_px) < 0 else -1
    keys = ("right", "left") if across else ("down", "up")

    def where():
        left, top, wide, high = person.all(name)[0]["rect"]
        return left + wide / 2 if across else top + high / 2

    from_px = where()
    person.key(*[keys[way < 0]] * 2)
    person.until(lambda: abs(where() - from_px - 32 * way) <= 3, "the divider two steps on")
    person.key(f"shift+{keys[way > 0]}")
    person.until(lambda: where() * way < (from_px - 20 * way) * way, "the divider far on the other side")
    person.key("escape")
    person.until(lambda: person.focused()["name"] == began, "the keyboard where it was")
    seen(person, name, "keyboard")


def test_a_part_on_the_board_is_dragged_turned_and_taken_off(person):
    person.open_copy()
    person.key("alt+5")
    person.click("Board")
    person.sees("New board")
    person.edited(lambda: person.click("New board", "Button"))
    person.calm()
    x, y = person.place("F2", "board")
    before, after = person.edited(lambda: person.screen.drag((x, y), (x + 60, y + 45)))
    spot = {s["of"]: s for s in after["boards"][0]["spots"]}["F2"]
    assert spot["at_mm"] != {s["of"]: s for s in before["boards"][0]["spots"]}["F2"]["at_mm"]
    seen(person, "a part on the board")
    person.screen.click(*person.place("F2", "board"))
    before, after = person.edited(lambda: person.key("right"))
    assert {s["of"]: s for s in after["boards"][0]["spots"]}["F2"]["at_mm"][0] == spot["at_mm"][0] + 5
    seen(person, "a part on the board", "keyboard")
    _, after = person.edited(lambda: person.key("r"))
    turned = {s["of"]: s for s in after["boards"][0]["spots"]}["F2"].get("turned", False)
    assert turned is not spot.get("turned", False)
    seen(person, "Board: R", "keyboard", "keys of what is painted")
    _, after = person.edited(lambda: person.key("delete"))
    assert "F2" not in {s["of"] for s in after["boards"][0]["spots"]}
    seen(person, "Board: Delete", "keyboard", "keys of what is painted")


def test_the_rail_the_lenses_and_the_buttons_at_the_top(person):
    person.open_copy()
    for page, words in (
        ("Needs", "Add equipment"), ("Bank", "out of the bank in"), ("Curves", "Path to"), ("Build", "Cuts"), ("Log", "Take reading"), ("Map", "Along the chosen row"),
    ):  # fmt: skip
        person.click(page, checked=False)
        person.sees(words)
        seen(person, f"page {page}", area="views")
    for lens in ("Drop", "Short", "Guard", "Read", "Spread", "Heat", "Flow"):
        before = person.picture()
        person.click(lens, checked=False)
        person.find(lens, checked=True)
        person.until(lambda b=before: person.picture() != b, f"the lens {lens}")
        seen(person, f"lens {lens}", area="views")
    person.choose("Scenario", "Worst case")
    person.until(lambda: person.value("Scenario", "ComboBox") == "Worst case", "the worst case")
    person.choose("Scenario", "Evening on battery", by="keyboard")
    person.until(lambda: person.value("Scenario", "ComboBox") == "Evening on battery", "the evening")
    for by in ("mouse", "keyboard"):
        seen(person, "choose a scenario", by, "views")
    person.click("mm²", "Button")
    person.click("AWG", "Button")
    person.find("mm²", "Button")
    seen(person, "metric and AWG", area="views")
    light = person.picture().getpixel((700, 600))
    person.click("Dark", "Button")
    person.until(lambda: sum(person.picture().getpixel((700, 600))) < sum(light) - 300, "a dark window")
    person.click("Light", "Button")
    person.until(lambda: person.picture().getpixel((700, 600)) == light, "a light window")
    seen(person, "light and dark", area="views")


def test_walking_the_map_by_keyboard(person):
    person.open_copy()
    person.select("INV")
    person.key("down")
    person.until(lambda: person.ask("selected") not in ("INV", None), "the next thing")
    person.key("up")
    person.until(lambda: person.ask("selected") == "INV", "the inverter")
    person.key("return")
    person.until(lambda: (person.focused() or {}).get("role") == "EditableText", "the keyboard in a field")
    person.key("f6", "escape")
    person.until(lambda: person.ask("selected") is None, "nothing selected")
    person.select("FAN")
    before, after = person.edited(lambda: person.key("delete"))
    assert of(before, "FAN")
    assert of(after, "FAN") is None
    for keys in ("arrow keys", "Enter", "Escape", "Delete", "Space"):
        seen(person, f"Map: {keys}", "keyboard", "keys of what is painted")
    person.select("F2")
    person.key("space")
    person.until(person.menus, "a menu")
    person.key("escape")
    person.until(lambda: not person.menus(), "no menu")


def test_double_clicks_and_tips(person):
    person.open_copy()
    person.click_at("PUMP", times=2)
    person.until(lambda: (person.focused() or {}).get("role") == "EditableText", "the keyboard in a field")
    person.screen.move(*person.place("INV"))
    person.until(lambda: "Workshop inverter" in person.ask("tip"), "the tip of the inverter")
    person.click_at("B1", times=2)
    person.sees("out of the bank in")
    for gesture in ("double click opens a field or the bank", "rest on something to read it"):
        seen(person, gesture, area="views")


def test_findings_by_mouse(person):
    person.open_copy()
    cells = person.until(lambda: person.all(role="Cell", within="Findings"), "findings")
    x, y, w, h = cells[1]["rect"]
    person.screen.click(x + w / 2, y + h / 2)
    person.until(lambda: person.ask("selected") == "W40", "the place of the finding")
    person.click("How it is computed", "Button")
    person.sees("Guarding: which device protects what", "Unprotected stretches")
    person.key("escape")
    stops = person.find("* dangers", checked=True)
    person.click(stops["name"])
    person.until(
        lambda: all(not c["name"].startswith("danger") for c in person.all(role="Cell", within="Findings")), "no stops"
    )
    person.click(stops["name"])
    cells = person.until(
        lambda: [c for c in person.all(role="Cell", within="Findings") if c["name"].startswith("danger")], "stops"
    )
    x, y, w, h = cells[0]["rect"]
    person.screen.click(x + w / 2, y + h / 2)
    person.edited(lambda: person.click("Move Main fuse*", "Button"))
    for gesture in ("choose one", "how it is computed", "filter", "apply its fix"):
        seen(person, f"findings: {gesture}", area="views")


def test_findings_of_one_kind_open_and_are_fixed_at_once(person):
    person.open_copy()
    group = "danger: 7 devices interrupt less than the short circuit at their place"

    def inside():
        return {c["name"] for c in person.all("danger: * can interrupt *", "Cell", within="Findings")}

    person.until(lambda: person.all(f"{group}, closed", "Cell", within="Findings"), "the group, closed")
    person.click(f"{group}, closed", "Cell", within="Findings")
    person.until(lambda: person.all(f"{group}, open", "Cell", within="Findings") and inside(), "the group, open")
    seen(person, "findings: open or close those of one kind", area="views")
    for key, opens in (("left", False), ("right", True), ("space", False), ("return", True)):
        person.key(key)
        person.until(lambda o=opens: bool(inside()) == o, f"the group after {key}")
    seen(person, "findings: open or close those of one kind", by="keyboard", area="views")
    before, after = person.edited(lambda: person.click("Fix * of 7*", "Button") if person.all("Fix * of 7*", "Button")
                                  else person.click("Fix all 7*", "Button"))  # fmt: skip
    families = [{x["id"]: x.get("family") for x in plan["items"]} for plan in (before, after)]
    assert {id_ for id_ in families[0] if families[0][id_] != families[1][id_]} >= {"F1", "F5", "F6", "F7"}
    person.until(lambda: not person.all(f"{group}*", "Cell", within="Findings"), "nothing of that kind left")
    seen(person, "findings: fix all of one kind", area="views")
