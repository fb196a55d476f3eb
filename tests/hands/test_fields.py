"""Typing into every kind of field of the panel: with Tab, Return, Escape, a wrong value, another unit."""

import pytest

from .person import of


@pytest.fixture
def at_pump(person):
    person.open_copy()
    person.select("PUMP")
    return person


def done(person, kind, how):
    person.record(area="fields", gesture=f"{kind}: {how}", by="keyboard")


def test_a_number(at_pump):
    p = at_pump
    for how, text, end, watts in (
        ("Return", "500", "return", 500), ("Tab", "510.5", "tab", 510.5), ("decimal comma", "520,5", "return", 520.5),
        ("another unit", "0.6 kW", "return", 600),
    ):  # fmt: skip
        _, after = p.edited(lambda t=text, e=end: p.fill("Power, W", t, e))
        assert of(after, "PUMP")["power_w"] == watts
        done(p, "number", how)
    assert p.value("Power, W", "EditableText") == "600"
    for how, text, words in (
        ("wrong value", "much", "“much” is no number. It is 600 as before."), ("unit of something else", "12 V", "v is not a unit of what is asked here, in W"),
        ("read in two ways", "1,000", "can be read in two ways"), ("refused by the plan", "-5", "not done"), ("nothing", "", "a number is needed here"),
    ):  # fmt: skip
        p.fill("Power, W", text)
        p.sees(words)
        assert p.value("Power, W", "EditableText") == "600"
        p.click("Close", "Button")
        done(p, "number", how)
    p.fill("Power, W", "77", end=None)
    p.key("escape")
    p.until(lambda: p.value("Power, W", "EditableText") == "600", "what was there")
    p.key("tab")
    p.calm()
    assert of(p.saved(), "PUMP")["power_w"] == 600
    done(p, "number", "Escape")


def test_a_number_that_may_be_left_out(at_pump):
    p = at_pump
    _, after = p.edited(lambda: p.fill("Surge, W", ""))
    assert "surge_w" not in of(after, "PUMP")
    _, after = p.edited(lambda: p.fill("Surge, W", "1.2 kW", "tab"))
    assert of(after, "PUMP")["surge_w"] == 1200
    done(p, "number that may be left out", "emptied, filled")


def test_a_text(at_pump):
    p = at_pump
    _, after = p.edited(lambda: p.fill("Name", "Deep well pump"))
    assert of(after, "PUMP")["name"] == "Deep well pump"
    _, after = p.edited(lambda: p.fill("Name", "Pump", "tab"))
    assert of(after, "PUMP")["name"] == "Pump"
    p.fill("Name", "nonsense", end=None)
    p.key("escape", "tab")
    p.calm()
    assert of(p.saved(), "PUMP")["name"] == "Pump"
    p.fill("Name", "x" * 201)
    p.sees("not done")
    p.until(lambda: p.value("Name", "EditableText") == "Pump", "the name as it was")
    for how in ("Return", "Tab", "Escape", "too long"):
        done(p, "text", how)


@pytest.mark.parametrize("by", ["mouse", "keyboard"])
def test_a_choice_a_flag_and_a_count(person, by):
    person.open_copy()
    person.select("W21")
    _, after = person.edited(lambda: person.choose("Size", "70 mm²", by=by))
    assert of(after, "W21")["conductor"] == "mm2-70"
    person.record(area="fields", gesture="choice", by=by)

    def flag():
        person.reach("Sheathed", "CheckBox")
        if by == "mouse":
            person.click("Sheathed", "CheckBox")
        else:
            person.click("Bundled with", "EditableText")
            person.until(
                lambda: person.key("tab") or (person.focused() or {}).get("name") == "Sheathed",
                "the keyboard at the flag",
            )
            person.key("space")

    _, after = person.edited(flag)
    assert of(after, "W21")["sheathed"] is True
    person.record(area="fields", gesture="flag", by=by)


def test_a_bar_becomes_a_distributor_and_a_circuit_gets_a_fuse_in_it(person):
    person.open_copy()
    person.select("P12")
    _, after = person.edited(lambda: person.choose("Distributor for", "blade fuse"))
    assert of(after, "P12")["fuse_family"] == "blade-fuse"
    _, before = person.edited(lambda: person.fill("Each position carries, A", "15"))
    assert of(before, "P12")["position_a"] == 15.0
    _, after = person.edited(lambda: person.context("P12", "Add circuit", "Load of constant power", kind="bar"))
    (new,) = [x for x in after["items"] if of(before, x["id"]) is None]
    assert (new["family"], new["rating_a"] <= 15.0) == ("blade-fuse", True)
    (bolt,) = [r for r in after["runs"] if f"{new['id']}.a" in (r["a"], r["b"])]
    assert bolt["length_m"] == 0.0
    done(person, "distributor: family, position, a circuit in it", "mouse")


def test_a_count(person):
    person.open_copy()
    person.select("W21")
    _, after = person.edited(lambda: person.fill("Bundled with", "3"))
    assert of(after, "W21")["bundle"] == 3
    person.fill("Bundled with", "2.5")
    person.sees("is no whole number")
    assert of(person.saved(), "W21")["bundle"] == 3
    done(person, "count", "Return, wrong value")


def test_lengths_in_both_units(person):
    person.open_copy()
    person.select("W21")
    _, after = person.edited(lambda: person.fill("Length one way, m", "6 ft 3 in"))
    assert of(after, "W21")["length_m"] == pytest.approx(1.905)
    person.key("f6", "ctrl+u")
    person.find("AWG", "Button")
    assert person.value("Length one way, ft", "EditableText") == "6.25"
    _, after = person.edited(lambda: person.fill("Length one way, ft", "10"))
    assert of(after, "W21")["length_m"] == pytest.approx(3.048)
    _, after = person.edited(lambda: person.fill("Length one way, ft", "2 m"))
    assert of(after, "W21")["length_m"] == pytest.approx(2.0)
    done(person, "number", "lengths in metres and feet")


def test_the_end_of_a_conductor_moves_to_something_new(person):
    """The study that is shown does not know the new end for a moment: the panel must."""
    person.open_copy(change=None)
    person.select("W21")
    person.context("W21", "Insert", "Shunt", kind="conductor")
    person.calm()
    shunt = next(x["id"] for x in person.saved()["items"] if x["kind"] == "shunt" and x["id"] != "S1")
    person.select("W31")
    _, after = person.edited(lambda: person.choose("To", f"{shunt} · a", by="keyboard"))
    assert of(after, "W31")["b"] == f"{shunt}.a"
    assert person.value("To", "ComboBox") == f"{shunt} · a"


def test_zones_scenarios_and_the_plan_itself(person):
    person.open_copy()
    person.key("f6", "escape")
    person.sees("the plan")
    _, after = person.edited(lambda: person.fill("Name", "Another station"))
    assert after["name"] == "Another station"
    _, after = person.edited(lambda: person.choose("Code", "ISO small craft"))
    assert after["practice"] == "iso_small_craft"
    _, after = person.edited(lambda: person.fill("State of charge, %", "55"))
    assert after["scenarios"][0]["soc_percent"] == 55
    _, after = person.edited(lambda: person.fill("Ambient temperature, °C", "104 F"))
    assert any(z["ambient_c"] == 40 for z in after["zones"])
    done(person, "number", "Fahrenheit")


def test_a_new_circuit_follows_its_load(person):
    """Added from the menu it has no finding; 3,000 W later it still has an operating point, and a choice stays."""
    person.file = person.folder / "new.copper.json"
    person.start("new")
    person.key("ctrl+shift+s")
    person.sees("File name:")
    person.key("ctrl+a")
    person.type(f"{person.file}\n")
    person.until(person.file.exists, "the file")
    person.calm()
    assert [c["name"].partition(":")[0] for c in person.all(role="Cell", within="Findings")] == ["advice"]
    before, after = person.edited(
        lambda: person.context("P1.s4", "Add circuit", "Load of constant power", kind="bar and its studs")
    )
    load = next(e["id"] for e in after["equipment"] if of(before, e["id"]) is None)
    assert [c["name"].partition(":")[0] for c in person.all(role="Cell", within="Findings")] == ["advice"]
    thin = next(r for r in after["runs"] if r["b"] == f"{load}.plus")
    person.select(load)
    _, after = person.edited(lambda: person.fill("Power, W", "3 kW"))
    person.calm()
    assert "no operating point" not in person.words()
    thick = of(after, thin["id"])
    assert float(thick["conductor"].removeprefix("mm2-")) >= 50 > float(thin["conductor"].removeprefix("mm2-"))
    person.select(thick["id"])
    person.edited(lambda: person.choose("Size", "95 mm²"))
    person.select(load)
    _, after = person.edited(lambda: person.fill("Power, W", "60"))
    assert of(after, thick["id"])["conductor"] == "mm2-95"
    person.record(area="fields", gesture="sizes follow the load until one is chosen", by="keyboard")


def test_limits_are_said_while_typing_and_a_slip_at_the_field(person):
    person.open_copy()
    person.select("F6")
    first = person.saved()
    person.fill("Rating, A", "40", end=None)
    person.sees("21 to 45 A; W61")
    person.fill("Rating, A", "much", end=None)
    assert "21 to 45 A; W61" not in person.words()
    person.key("return")
    person.until(
        lambda: len(person.all("*“much” is no number. It is 30 as before.")) == 2, "the slip, at its field too"
    )
    person.click("Close", "Button")
    person.fill("Rating, A", "60", end=None)
    person.sees("21 to 45 A; W61")
    person.key("escape", "tab")
    person.until(lambda: "21 to 45 A; W61" not in person.words(), "nothing once the field is left")
    assert person.saved() == first
    done(person, "number", "limits while typing")
