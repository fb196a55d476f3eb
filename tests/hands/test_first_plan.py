"""Whole systems from an empty page, by hand; what the file then holds is what was to be drawn."""

import json

from .gestures import BOTH
from .person import of


class Counted:
    """Counts what a person does: a click, a drag, a key, a line typed."""

    def __init__(self, person):
        self.person, self.count = person, 0

    def key(self, chord):
        self.count += 1
        self.person.key(chord)

    def click(self, *what):
        self.count += 1
        self.person.click(*what)

    def line(self, text):
        """A line typed, with the Return that ends it."""
        self.count += 1
        self.person.until(lambda: (self.person.focused() or {}).get("name") == "Add a line", "the keyboard in the line")
        self.person.type(text)
        self.person.key("return")
        self.person.calm()


def kept(person, name):
    """Save a new plan under a name, and read the file."""
    person.file = person.folder / f"{name}.copper.json"
    person.key("ctrl+s")
    person.sees("File name:")
    person.key("ctrl+a")
    person.type(str(person.file))
    person.key("return")
    return json.loads(person.until(lambda: person.file.exists() and person.file.read_text(), "the file"))


def circuit(plan, name):
    """Equipment by its name, with lengths of its two ways and the devices in them."""
    (e,) = [x for x in plan["equipment"] if x.get("name") == name]
    lengths, devices = [], []
    for pole in ("plus", "minus"):
        ref, way = f"{e['id']}.{pole}", 0.0
        while True:
            here = [r for r in plan["runs"] if ref in (r["a"], r["b"])]
            if len(here) != 1:
                break
            way += here[0]["length_m"]
            far = here[0]["b"] if here[0]["a"] == ref else here[0]["a"]
            item, _, end = far.partition(".")
            thing = of(plan, item)
            if thing is None or end not in ("a", "b"):
                break
            devices.append(thing["kind"])
            plan = {**plan, "runs": [r for r in plan["runs"] if r is not here[0]]}
            ref = f"{item}.{'b' if end == 'a' else 'a'}"
        lengths.append(round(way, 3))
    return e, lengths, devices


HUT = {
    "Lamps 30 W 4 m": [4.0, 4.0],
    "Pump 90 W 6 m": [6.0, 6.0],
    "Radio 20 W 2 m": [2.0, 2.0],
    "Solar controller 20 A 3 m": [3.0, 3.0],
}


def hut(plan):
    """What the hut's file must hold."""
    kinds = [x["kind"] for x in plan["items"]]
    assert kinds.count("battery") == kinds.count("shunt") == 1
    # The bank's and the solar controller's.
    assert kinds.count("disconnect") == 2
    (unit,) = [x for x in plan["items"] if x["kind"] == "battery"]
    assert (unit.get("nominal_v", 12.0), unit["capacity_ah"], unit["chemistry"]) == (12.0, 100.0, "lifepo4")
    assert [len(x["studs"]) for x in plan["items"] if x["kind"] == "bar"] == [6, 6]
    (first,) = [r for r in plan["runs"] if f"{unit['id']}.plus" in (r["a"], r["b"])]
    assert first["length_m"] == 0.1
    main = next(ref for ref in (first["a"], first["b"]) if not ref.startswith(unit["id"]))
    assert of(plan, main.partition(".")[0])["kind"] == "fuse"
    for line, ways in HUT.items():
        name = line.partition(" W")[0].partition(" A")[0].rpartition(" ")[0]
        e, lengths, devices = circuit(plan, name)
        assert lengths == ways
        assert [d for d in devices if d in ("fuse", "breaker")], name
        assert e.get("nominal_v", 12.0) == 12.0


def test_the_hut_by_keyboard_alone(person):
    person.start("demo")
    hand = Counted(person)
    hand.key("ctrl+n")
    person.sees("Draw it")
    hand.key("return")
    person.sees("New plan — not saved yet")
    person.calm()
    hand.key("ctrl+shift+n")
    for line in HUT:
        hand.line(line)
    person.sees("Wire up 4")
    hand.key("ctrl+shift+w")
    person.sees_no("Wire up 4")
    person.calm()
    plan = kept(person, "hut")
    hut(plan)
    assert hand.count <= 10
    person.key("alt+3")
    person.calm()
    assert "0 dangers" in person.words()
    assert "0 defects" in person.words()
    person.record(area="whole systems", gesture="hut", by="keyboard")


def test_the_hut_by_mouse(person):
    person.start("demo")
    hand = Counted(person)
    person.menu("File", "New", by="mouse", record=False)
    person.sees("Draw it")
    hand.click("Draw it", "Button")
    person.sees("New plan — not saved yet")
    person.calm()
    hand.click("Needs")
    hand.click("Add a line", "EditableText")
    for line in HUT:
        hand.line(line)
    hand.click("Wire up 4", "Button")
    person.sees_no("Wire up 4")
    person.calm()
    hut(kept(person, "hut"))
    assert hand.count <= 12
    person.record(area="whole systems", gesture="hut", by="mouse")


def test_an_empty_page_and_questions_that_have_no_answer(person):
    person.start("demo")
    person.key("ctrl+n")
    person.sees("Draw it")
    person.fill_in_dialog("Voltage of a unit, V", "24")
    person.sees("no number of 24 V units in series makes 12 V")
    person.click("Draw it", "Button")
    person.sees("no number of 24 V units")
    person.fill_in_dialog("Voltage of a unit, V", "four")
    person.sees("is no number")
    person.click("Empty page", "Button")
    person.sees("New plan — not saved yet")
    plan = kept(person, "empty")
    assert plan.get("items", []) == plan.get("equipment", []) == plan.get("runs", []) == []
    person.record(area="dialogs", gesture="new: an empty page", by="mouse")


def test_a_line_that_is_not_understood_stays_to_be_mended(person):
    person.open_copy("seed_shed")
    first = person.saved()
    person.key("ctrl+shift+n")
    person.type("Lamp")
    person.key("return")
    person.sees("its size is missing")
    person.type(" 30 W 4 m")
    before, after = person.edited(lambda: person.key("return"))
    assert before == first
    assert after["equipment"][-1]["name"] == "Lamp"
    person.record(area="needs", gesture="type a line of equipment", by="keyboard")


def drawn(person, keys_in_the_dialog):
    """New, with answers typed from field to field."""
    person.start("demo")
    hand = Counted(person)
    hand.key("ctrl+n")
    person.sees("Draw it")
    person.until(lambda: (person.focused() or {}).get("name") == "System voltage", "the keyboard in the first question")
    for what in keys_in_the_dialog:
        hand.count += 1
        if what in ("tab", "return"):
            person.key(what)
        else:
            person.type(what)
    person.sees("New plan — not saved yet")
    person.calm()
    return hand


def test_the_mast_by_keyboard_alone(person):
    """48 V, floating: a device and a switch in each pole."""
    hand = drawn(
        person,
        ["48", "tab", "tab", "51.2", "tab", "200", "tab", "2", "tab", "tab", "tab", "floating", "return"],
    )  # fmt: skip
    hand.key("ctrl+shift+n")
    for line in ("2 x Transmitter 600 W 48 V 18 m", "Rectifier 50 A 48 V 3 m"):
        hand.line(line)
    person.sees("Wire up 3")
    hand.key("ctrl+shift+w")
    person.sees_no("Wire up 3")
    person.calm()
    plan = kept(person, "mast")
    assert plan["floating"] is True
    units = [x for x in plan["items"] if x["kind"] == "battery"]
    assert [(u["nominal_v"], u["capacity_ah"]) for u in units] == [(51.2, 200.0)] * 2
    # One in each pole of the bank, and the rectifier's own.
    assert sum(x["kind"] == "disconnect" for x in plan["items"]) == 3
    for name, ways in (("Transmitter", 18.0), ("Transmitter 2", 18.0), ("Rectifier", 3.0)):
        e, lengths, devices = circuit(plan, name)
        assert lengths == [ways, ways]
        assert sum(d in ("fuse", "breaker") for d in devices) == 2
        assert e["nominal_v"] == 48.0
    person.key("alt+3")
    person.calm()
    assert "0 dangers" in person.words()
    assert "0 defects" in person.words()
    assert hand.count <= 20
    person.record(area="whole systems", gesture="mast", by="keyboard")


def test_the_workshop(person):
    """24 V from two strings of two, a fuse to each; an inverter with its disconnect; a converter with bars of its own."""
    hand = drawn(person, ["24", "tab", "agm", "tab", "12", "tab", "110", "tab", "2", "return"])
    hand.key("ctrl+shift+n")
    lines = (
        "Inverter 2 kW 1.2 m", "Charger 40 A 2 m", "Converter 24 to 12 V 20 A 1 m", "Lights 12 V 4 A 3 m", "Fridge 12 V 8 A 4 m",
        "Radio 12 V 2 A 2 m", "Pump 12 V 6 A 5 m",
    )  # fmt: skip
    for line in lines:
        hand.line(line)
    person.sees("Wire up 7")
    hand.key("ctrl+shift+w")
    person.sees_no("Wire up 7")
    person.calm()
    plan = kept(person, "workshop")
    units = {x["id"] for x in plan["items"] if x["kind"] == "battery"}
    assert len(units) == 4
    series = [
        r["id"] for r in plan["runs"]
        if {r["a"].split(".")[0], r["b"].split(".")[0]} <= units and {r["a"].split(".")[1], r["b"].split(".")[1]} == {"plus", "minus"}
    ]  # fmt: skip
    assert len(series) == 2
    hand.key("alt+2")
    person.until(lambda: person.places("bank"), "the bank")
    for link in series:
        person.context(link, f"Put a fuse into {link}", by="keyboard", of="bank", kind="link")
        hand.count += 3
        person.calm()
    hand.key("alt+3")
    inverter, _, _ = circuit(plan, "Inverter")
    (lead,) = [r["id"] for r in plan["runs"] if f"{inverter['id']}.plus" in (r["a"], r["b"])]
    person.context(lead, "Insert", "Disconnect", by="keyboard", kind="conductor")
    hand.count += 3
    plan = person.saved()
    for link in series:
        ends = {ref.split(".")[0] for r in plan["runs"] if r["id"].startswith(link) for ref in (r["a"], r["b"])}
        assert any(of(plan, id_)["kind"] == "fuse" for id_ in ends)
    _, lengths, devices = circuit(plan, "Inverter")
    assert lengths == [1.2, 1.2]
    assert {"fuse", "disconnect"} <= set(devices)
    _, lengths, devices = circuit(plan, "Charger")
    assert lengths == [2.0, 2.0]
    for name, way in (("Lights", 3.0), ("Fridge", 4.0), ("Radio", 2.0), ("Pump", 5.0)):
        e, lengths, devices = circuit(plan, name)
        assert e.get("nominal_v", 12.0) == 12.0
        assert lengths == [way, way]
        assert [d for d in devices if d in ("fuse", "breaker")]
    # The taps of the two strings are at opposite corners.
    posts = [ref for r in plan["runs"] for ref in (r["a"], r["b"]) if ref.split(".")[0] in units]
    ends = {
        ref
        for r in plan["runs"]
        for ref in (r["a"], r["b"])
        if ref in posts
        and not ({r["a"].split(".")[0], r["b"].split(".")[0]} <= units)
        and not r["id"].startswith(tuple(series))
    }
    assert len({ref.split(".")[0] for ref in ends}) == 2
    assert hand.count <= 40
    person.record(area="whole systems", gesture="workshop", by="keyboard")


def answered(person, hand, *what):
    """Fields of a dialog filled from the keyboard, from the one that has it on."""
    for answer in what:
        hand.count += 1
        if answer in ("tab", "return", "space", "down"):
            person.key(answer)
        else:
            person.type(answer)


def rails(plan, *refs):
    """Terminals that copper joins to some, over bars, devices and switches that are closed."""
    found, ahead = set(), list(refs)
    while ahead:
        ref = ahead.pop()
        if ref in found:
            continue
        found.add(ref)
        id_ = ref.partition(".")[0]
        thing = of(plan, id_)
        if thing["kind"] == "bar":
            ahead += [f"{id_}.{s['id']}" for s in thing["studs"]]
        elif thing["kind"] in ("fuse", "breaker", "shunt") or (
            thing["kind"] == "disconnect" and thing.get("closed", True)
        ):
            ahead += [f"{id_}.a", f"{id_}.b"]
        ahead += [r["b"] if r["a"] == ref else r["a"] for r in plan["runs"] if ref in (r["a"], r["b"])]
    return found


def test_two_banks_with_a_charger_between_them(person):
    """A starting battery beside the bank, its minus shared; a charger fused at both ends, an alternator, a cross-over."""
    hand = drawn(person, ["tab", "tab", "tab", "tab", "3", "tab", "tab", "tab", "minus", "return"])
    hand.key("ctrl+shift+b")
    person.sees("Its minus")
    person.until(lambda: (person.focused() or {}).get("name") == "System voltage", "the keyboard in the first question")
    answered(person, hand, "tab", "agm", "tab", "tab", "90", "tab", "tab", "tab", "Starting", "tab", "shared", "return")
    person.sees_no("Its minus")
    person.calm()
    hand.key("ctrl+shift+e")
    person.until(lambda: (person.focused() or {}).get("name") == "What it is", "the keyboard in the line")
    answered(person, hand, "Charger 12 to 12 V 30 A 1.5 m", "tab", "Start", "return")
    person.sees_no("What it is")
    person.calm()
    hand.key("ctrl+shift+e")
    person.until(lambda: (person.focused() or {}).get("name") == "What it is", "the keyboard in the line")
    answered(person, hand, "Alternator 90 A 2 m", "tab", "the", "tab", "space", "return")
    person.sees_no("What it is")
    person.calm()
    person.record(area="dialogs", gesture="add equipment: where each side goes", by="keyboard")
    person.record(area="dialogs", gesture="add a bank", by="keyboard")
    plan = kept(person, "two_banks")
    plus, start = (
        next(x["id"] for x in plan["items"] if x.get("name") == n) for n in ("Plus bar", "Starting plus bar")
    )
    hand.count += 1
    person.select(plus)
    hand.key("ctrl+l")
    person.until(lambda: (person.focused() or {}).get("name") == "Find", "the keyboard in the search")
    answered(person, hand, "Starting plus bar any", "return")
    person.until(lambda: (person.focused() or {}).get("name") == "Length one way, m", "the keyboard in the length")
    _, plan = person.edited(lambda: answered(person, hand, "1.2", "tab", *["down"] * 5, "return"))
    person.record(area="dialogs", gesture="connect: with a switch or a fuse in it", by="keyboard")
    units = [x for x in plan["items"] if x["kind"] == "battery"]
    assert sorted((u["chemistry"], u["capacity_ah"]) for u in units) == [("agm", 90.0), *[("lifepo4", 100.0)] * 3]
    (starting,) = [u["id"] for u in units if u["chemistry"] == "agm"]
    house = next(u["id"] for u in units if u["chemistry"] == "lifepo4")
    # Each bank has fuse and switch; their minus meets at a bar bonded to the chassis; their plus is apart.
    minus = rails(plan, f"{starting}.minus")
    assert f"{house}.minus" in minus
    assert any(of(plan, ref.partition(".")[0])["kind"] == "chassis" for ref in minus)
    own, other = rails(plan, f"{starting}.plus"), rails(plan, f"{house}.plus")
    assert not own & other
    for side in (own, other):
        kinds = [of(plan, id_)["kind"] for id_ in {ref.partition(".")[0] for ref in side}]
        assert {"fuse", "disconnect"} <= set(kinds)
    # Between them a charger with a device at each end, and a switch that is open.
    (charger,) = [e for e in plan["equipment"] if e["kind"] == "converter"]
    assert charger["current_a"] == 30
    assert f"{charger['id']}.in_plus" in own
    assert f"{charger['id']}.out_plus" in other
    open_ = [x["id"] for x in plan["items"] if x["kind"] == "disconnect" and not x.get("closed", True)]
    assert len(open_) == 1
    assert {f"{open_[0]}.a", f"{open_[0]}.b"} <= own | other
    (alternator,) = [e for e in plan["equipment"] if e["kind"] == "alternator"]
    assert alternator["current_a"] == 90
    assert f"{alternator['id']}.plus" in own
    assert [s.get("states", {}).get(alternator["id"]) for s in plan["scenarios"]] == ["off", None]
    assert plus in {ref.partition(".")[0] for ref in other}
    assert start in {ref.partition(".")[0] for ref in own}
    assert hand.count <= 50
    person.record(area="whole systems", gesture="two banks", by="keyboard")
    # Each has an account of its own: the largest bank's comes first.
    person.key("alt+1")
    for by, id_ in zip(BOTH, (starting, house), strict=True):
        before = person.find("* Ah a day*")["name"]
        person.choose("Which bank", f"Bank of {of(plan, id_).get('name') or id_}", by=by)
        person.until(lambda seen=before: person.find("* Ah a day*")["name"] != seen, "another account")
        person.record(area="needs", gesture="which bank", by=by)


def test_a_ring_of_six_bars(person):
    """24 V, six pairs of bars 8 m apart, fed at two of them, a load at each; a fuse at both ends of every section."""
    hand = drawn(person, ["24", "tab", "tab", "24", "tab", "200", "return"])
    plan = kept(person, "ring")
    hand.key("alt+7")
    person.until(lambda: person.all("Which table", "List"), "the tables")
    x, y, w, h = person.find("Busbars", "Cell", within="Which table")["rect"]
    person.screen.click(x + w / 2, y + h / 2)
    for _ in range(6):
        person.click("Add", "Button")
        person.edited(lambda: person.follow(("Pair of bars",), "mouse"))
        hand.count += 2
    rows = {n["name"]: n["row"] for n in person.all("New *", "Cell", within="Table")}
    names = {}
    for k in range(1, 7):
        for pole in ("plus", "minus"):
            old = f"New {pole} bar" if k == 1 else f"New {pole} bar {k}"
            names[rows[old]] = f"Ring {k} {pole}"
    first = person.find("New plus bar", "Cell", within="Table")["rect"]
    person.screen.click(first[0] + 10, first[1] + first[3] / 2)
    for row in sorted(names):
        person.type(names[row] + "\n")
        hand.count += 1
    person.until(
        lambda: (
            sorted(n["name"] for n in person.all("Ring *", "Cell", within="Table") if n["column"] == 1)
            == sorted(names.values())
        ),
        "the names",
    )
    plan = person.saved()
    ids = {x["name"]: x["id"] for x in plan["items"] if x.get("name")}
    hand.key("alt+3")
    person.key("ctrl+9")
    person.calm()

    def pick(bar):
        """Click on a bar, or one of its studs."""
        person.key("ctrl+9")
        person.click_at(bar)
        person.until(lambda: (person.ask("selected") or "").partition(".")[0] == bar, f"{bar} selected")
        person.calm()

    def lay(start, end, length, within):
        before = person.ask("plan")["text"]
        hand.count += 1
        pick(ids[start])
        hand.key("c")
        person.until(lambda: (person.focused() or {}).get("name") == "Find", "the keyboard in the search")
        answered(person, hand, f"{end} any", "return")
        person.until(lambda: (person.focused() or {}).get("name") == "Length one way, m", "the length")
        answered(person, hand, length, "tab", *["down"] * within, "return")
        person.until(lambda: person.ask("plan")["text"] != before, f"a conductor from {start} to {end}")

    for k in (1, 4):
        lay("Plus bar", f"Ring {k} plus", "2", 1)
        lay("Minus bar", f"Ring {k} minus", "2", 0)
    for k in range(1, 7):
        lay(f"Ring {k} plus", f"Ring {k % 6 + 1} plus", "8", 3)
        lay(f"Ring {k} minus", f"Ring {k % 6 + 1} minus", "8", 0)
    person.saved()
    for k, amps in enumerate((5, 7, 9, 11, 13, 15), 1):
        pick(ids[f"Ring {k} plus"])
        hand.key("ctrl+shift+e")
        person.until(lambda: (person.focused() or {}).get("name") == "What it is", "the keyboard in the line")

        def add(line=f"Load {amps} A 2 m"):
            answered(person, hand, line, "return")

        person.edited(add)
    plan = person.saved()
    loads = {e["name"]: e for e in plan["equipment"]}
    assert sorted(e["current_a"] for e in loads.values()) == [5, 7, 9, 11, 13, 15]
    fuses = {x["id"] for x in plan["items"] if x["kind"] == "fuse"}
    for k in range(1, 7):
        for pole, wanted in (("plus", 2), ("minus", 0)):
            one, two = (ids[f"Ring {n} {pole}"] for n in (k, k % 6 + 1))
            way, ref, between = 0.0, None, []
            for run in plan["runs"]:
                ends = (run["a"], run["b"])
                for near, far in (ends, ends[::-1]):
                    if near.startswith(f"{one}."):
                        path, length, at = [], run["length_m"], far
                        while at.partition(".")[0] in fuses:
                            item, _, terminal = at.partition(".")
                            path.append(item)
                            beyond = f"{item}.{'b' if terminal == 'a' else 'a'}"
                            step = next(r for r in plan["runs"] if beyond in (r["a"], r["b"]))
                            length += step["length_m"]
                            at = step["b"] if step["a"] == beyond else step["a"]
                        if at.startswith(f"{two}."):
                            way, ref, between = length, at, path
            assert ref is not None, (k, pole)
            assert (round(way, 3), len(between)) == (8.0, wanted)
        # The load of a pair of bars hangs at both.
        (load,) = [
            e for e in loads.values()
            if any(f"{e['id']}.minus" in (r["a"], r["b"]) and any(x.startswith(ids[f"Ring {k} minus"] + ".") for x in (r["a"], r["b"])) for r in plan["runs"])
        ]  # fmt: skip
        assert any(x.startswith(ids[f"Ring {k} plus"] + ".") for x in rails(plan, f"{load['id']}.plus"))
    person.record(area="whole systems", gesture="ring", by="keyboard")


STATION = (
    "Inverter 2 kW 1.5 m", "Pump 120 W 6 m", "Fan 40 W 5 m", "Lamps 30 W 8 m", "Radio 25 W 3 m", "Fridge 90 W 4 m",
    "Workbench 150 W 5 m", "Gate 60 W 12 m", "Transmitter 48 V 300 W 10 m", "Camera 48 V 20 W 15 m", "Router 48 V 15 W 4 m",
    "Compressor 48 V 400 W 3 m", "Charger 30 A 3 m", "Solar controller 25 A 4 m", "Solar 48 V 15 A 5 m",
    "Converter 24 to 48 V 5 A 1.5 m",
)  # fmt: skip
"""Twelve loads on two pairs of bars, three sources, a converter between two banks."""
GESTURES = 60


def station(plan):
    """What the file must hold: four units of 24 V, two strings of 48 V, all of the station on the bars of its voltage."""
    units = {x["id"] for x in plan["items"] if x["kind"] == "battery"}
    assert len(units) == 12
    assert sum(x["kind"] == "bar" for x in plan["items"]) == 4
    assert len(plan["equipment"]) == len(STATION)
    (converter,) = [e["id"] for e in plan["equipment"] if e["kind"] == "converter"]
    low, high = (rails(plan, f"{converter}.{t}") for t in ("in_plus", "out_plus"))
    assert not low & high
    for e in plan["equipment"]:
        if e["id"] != converter:
            assert f"{e['id']}.plus" in (high if e["nominal_v"] == 48 else low), e["name"]
    for side in (low, high):
        assert {ref.partition(".")[0] for ref in side} & units


def test_a_station_of_two_banks_in_less_than_sixty_gestures_by_keyboard(person):
    hand = drawn(person, ["24", "tab", "tab", "tab", "tab", "2", "return"])
    hand.key("ctrl+shift+b")
    person.until(lambda: (person.focused() or {}).get("name") == "System voltage", "the keyboard in the first question")
    answered(person, hand, "48", "tab", "tab", "tab", "tab", "2", "return")
    person.sees_no("Its minus")
    person.calm()
    hand.key("ctrl+shift+n")
    for line in STATION:
        hand.line(line)
    hand.key("ctrl+shift+w")
    person.sees_no(f"Wire up {len(STATION)}")
    person.calm()
    station(kept(person, "station"))
    person.key("alt+3")
    person.calm()
    assert "0 dangers" in person.words()
    assert hand.count < GESTURES
    person.record(area="whole systems", gesture="two banks, sixteen circuits, below 60 gestures", by="keyboard")


def test_a_station_of_two_banks_in_less_than_sixty_gestures_by_mouse(person):
    person.start("demo")
    hand = Counted(person)

    def choose(name, text):
        hand.count += 2
        person.choose(name, text)

    def twice():
        x, y, w, _ = person.find("Units or strings in parallel", "SpinBox")["rect"]
        person.screen.click(x + w - 8, y + 8)
        hand.count += 1
        person.until(lambda: "2 in parallel" in person.words(), "two in parallel")

    person.menu("File", "New", by="mouse", record=False)
    hand.count += 2
    person.sees("Draw it")
    choose("System voltage", "24 V")
    twice()
    hand.click("Draw it", "Button")
    person.sees("New plan — not saved yet")
    person.calm()
    person.menu("Plan", "Add a bank…", by="mouse", record=False)
    hand.count += 2
    person.sees("Its minus")
    choose("System voltage", "48 V")
    twice()
    hand.click("Draw it", "Button")
    person.sees_no("Its minus")
    person.calm()
    hand.click("Needs")
    hand.click("Add a line", "EditableText")
    for line in STATION:
        hand.line(line)
    hand.click(f"Wire up {len(STATION)}", "Button")
    person.sees_no(f"Wire up {len(STATION)}")
    person.calm()
    station(kept(person, "station"))
    assert hand.count < GESTURES
    person.record(area="whole systems", gesture="two banks, sixteen circuits, below 60 gestures", by="mouse")
