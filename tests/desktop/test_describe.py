"""What the inspector, the lenses and the menus say, without a window."""

import re
from math import isnan, nan

import pytest

from jaunty_copper.codes.checks import Verdict
from jaunty_copper.desktop.inspector.describe import describe
from jaunty_copper.desktop.inspector.facts import facts_of
from jaunty_copper.desktop.inspector.fields import FIELDS, KIND_WORDS
from jaunty_copper.desktop.pages.map import menu, removing
from jaunty_copper.desktop.shell.settings import MOST_RECENT, Settings
from jaunty_copper.desktop.work.making import picture_of
from jaunty_copper.desktop.work.studying import sketch_of
from jaunty_copper.documents import words
from jaunty_copper.documents.map.lens import LENSES
from jaunty_copper.documents.map.picture import WORST
from jaunty_copper.documents.words import Units
from jaunty_copper.parts.catalogue import library
from jaunty_copper.plan import edits
from jaunty_copper.plan.examples import example
from jaunty_copper.plan.model import PowerLoad
from tests.build import loop

DEMO = example("orchard_station")
PICTURE = picture_of(DEMO)
FLOW, DROP, SHORT, GUARD, READ, *_ = LENSES


def lines(selected, scenario="work", plan=DEMO, picture=PICTURE, awg=False):
    return list(describe(picture, plan, selected, scenario, Units(awg)))


def facts(selected, scenario="work"):
    return {e.label: e.value for e in lines(selected, scenario) if e.kind == "fact"}


def field(selected, name, **more):
    return next(e for e in lines(selected, **more) if e.kind == "field" and e.name == name)


# Words


@pytest.mark.parametrize(
    ("value", "text"),
    [(25.304, "25.30 V"), (-0.001, "0.00 V"), (-48.9, "−48.90 V"), (nan, "–")],
)
def test_volts(value, text):
    assert words.volts(value) == text


@pytest.mark.parametrize(("value", "text"), [(123.9, "124 A"), (-12.34, "12.3 A"), (0.4, "400 mA"), (nan, "–")])
def test_amps(value, text):
    assert words.amps(value) == text


@pytest.mark.parametrize(("value", "text"), [(0.0934, "93 mV"), (-1.074, "1.07 V"), (nan, "–")])
def test_drops(value, text):
    assert words.drop(value) == text


def test_sizes_and_lengths_in_either_system():
    lib = library()
    metric, awg = Units(), Units(awg=True)
    assert metric.size(lib.conductors["mm2-16"], lib) == "16 mm²"
    assert awg.size(lib.conductors["mm2-16"], lib) == "≥ 6 AWG"
    assert awg.size(lib.conductors["mm2-0.5"], lib) == "< 18 AWG"
    assert awg.size(lib.conductors["awg-1/0"], lib) == "1/0 AWG"
    assert metric.size(lib.conductors["sae-8"], lib) == "8 SAE (7.23 mm²)"
    assert metric.length(0.15) == "0.15 m"
    assert awg.length(2.0) == "6.6 ft"


# Facts


def test_facts_of_a_run_name_what_governs():
    told = facts("W40", "generator")
    assert told["Ampacity"] == "150 A, by engine space"
    assert told["Used"] == "33 %"
    assert "heat balance" in told["Limits"]
    # Each class that carries more than a cooler one, and no other: beyond, terminals govern.
    classes = [float(one.partition(" °C: ")[0]) for one in told["Other insulation"].split(", ")]
    assert classes == sorted(set(classes))
    assert 60.0 <= classes[0] < classes[-1] <= 105.0
    assert told["Copper"].endswith("°C in the end")


def test_facts_of_equipment_show_the_way_out_and_back():
    told = facts("PUMP")
    assert told["Now"].startswith("18.3 A at 22.93 V")
    assert told["Length one way"] == "11.7 m; circuit length 23.2 m"
    assert "10.8 % of 10 % allowed" in told["Voltage drop"]


def test_facts_of_a_device_show_its_window_and_both_ends():
    told = facts("F5")
    assert told["Permitted rating"].endswith("60 A")
    assert "12 V converter" in told["Limiting element"]
    assert (told["Interrupt rating"], told["Prospective current"]) == ("1 kA at 28 V", "8.45 kA")
    assert facts("F1")["Permitted rating"] == "178 to 265 A"
    small = edits.change(DEMO, "Q1", rating_a=150.0)
    told = {e.label: e.value for e in describe(picture_of(small), small, "F1", "work", Units())}
    assert told["Permitted rating"] == "none: at least 178 A, at most 150 A"


def test_facts_of_batteries_bars_and_converters():
    assert facts("B1")["Now"].startswith("gives 45.9 A")
    assert facts("B1", "generator")["Now"].startswith("takes 12.5 A")
    assert facts("B1")["C-rate"] == "0.46 per hour"
    assert facts("P24")["Worst segment"] == "153 A of 400 A"
    assert facts("P24.s3")["Stud"].startswith("s3: 25.3")
    assert "12.60 V" in facts("CV")["Gives"]


def test_what_has_no_operating_point_says_so():
    plan = loop(PowerLoad(id="E", power_w=5000.0))
    picture = picture_of(plan)
    for selected in ("E", "out"):
        told = {e.label: e.value for e in lines(selected, "s", plan, picture) if e.kind == "fact"}
        assert told["Now"] == "no operating point"
    assert isnan(picture.run("out", "s").current_a)
    assert isnan(picture.node_v("E.plus", WORST))


def test_a_thing_that_the_study_does_not_know_yet_has_no_facts():
    plan = edits.add(DEMO, PowerLoad(id="NEW", power_w=5.0))
    assert facts_of(PICTURE, "NEW", "", "work", Units()) == ()
    assert [e.value for e in lines("NEW", plan=plan) if e.kind == "head"] == ["NEW"]


# Fields


def test_every_model_of_the_plan_has_its_fields_and_its_word():
    for thing in (*DEMO.placed, *DEMO.runs, *example("relay_mast").placed):
        assert type(thing) in KIND_WORDS
        for f in FIELDS[type(thing)]:
            assert f.name in type(thing).model_fields, f.name


def test_a_field_carries_the_edit_of_its_thing():
    entry = field("F1", "rating_a")
    assert entry.value == 250.0
    edit = entry.edit(175.0)
    assert edit.label == "Rating of Main fuse"
    assert edit.apply(DEMO).by_id["F1"].rating_a == 175.0
    assert field("W31", "length_m", awg=True).factor == pytest.approx(3.28084, rel=1e-6)


def test_equipment_and_switches_show_their_state_in_the_scenario():
    assert field("PUMP", "state", scenario="pump").value == "surge"
    assert field("INV", "state", scenario="evening").choices[-1][0] == 0.45
    assert field("C6", "state").value is None
    assert not [e for e in lines("PUMP", WORST) if e.name == "state"]
    assert not [e for e in lines("F1") if e.name == "state"]


def test_nothing_selected_shows_plan_scenario_and_zones():
    told = lines(None, "evening")
    assert [e.value for e in told if e.kind == "caption"] == ["the plan", "This scenario", "Zone lean-to", "Zone well"]
    assert field(None, "practice").edit("iso_small_craft").apply(DEMO).practice == "iso_small_craft"


# Lenses, pictures, menus


def test_the_lenses_write_what_they_promise():
    plan = DEMO
    run, pump = plan.run_by_id["W63"], plan.by_id["PUMP"]
    assert FLOW.run(PICTURE, run, "work", Units()) == "4 mm² · 11.5 m"
    assert FLOW.equipment(PICTURE, pump, "work") == "18.3 A   22.93 V"
    assert FLOW.equipment(PICTURE, pump, "evening") == "off"
    assert FLOW.equipment(PICTURE, plan.by_id["GEN"], "generator").startswith("◂ 50 A")
    assert DROP.run(PICTURE, run, "work", Units()) == "1.12 V"
    assert DROP.equipment(PICTURE, pump, "work") == "−2.59 V   10.8 of 10 %"
    assert DROP.part(PICTURE, "F6", "work") == "49 mV"
    assert FLOW.part(PICTURE, "F6", "work") == "18.3 A"


def test_tones_are_shares_of_the_limit_in_force():
    run = DEMO.run_by_id["W63"]
    reading = PICTURE.run("W63", "work")
    assert FLOW.tone(PICTURE, run, "work") == pytest.approx(reading.current_a / 45.0)
    assert DROP.tone(PICTURE, run, "work") == pytest.approx(reading.drop_v / 2.4)
    strict = picture_of(edits.change(DEMO, "PUMP", critical=True))
    assert DROP.tone(strict, run, "work") == pytest.approx(reading.drop_v / 0.72)


def test_the_worst_of_all_leaves_surges_out_so_that_figures_belong_together():
    pump = DEMO.by_id["PUMP"]
    worst = PICTURE.worst_for(pump, WORST).scenario.id
    assert worst != "pump"
    assert PICTURE.run("W62", WORST) == PICTURE.run("W62", worst)
    assert PICTURE.run("W62", "pump").current_a > 2 * PICTURE.run("W62", WORST).current_a
    alone = edits.remove(DEMO, *(s.id for s in DEMO.scenarios if s.id != "pump"))
    started = {k: "on" if v == "surge" else v for k, v in alone.scenarios[0].states.items()}
    running = picture_of(edits.change(alone, "pump", states=started))
    # Where there is nothing but the start, what lasts is what runs once it is over.
    assert picture_of(alone).run("W62", WORST).current_a == pytest.approx(running.run("W62", "pump").current_a)


def test_the_worst_finding_marks_a_place():
    assert PICTURE.worst_at["F1"] is Verdict.DANGER
    assert PICTURE.worst_at["W42"] is Verdict.DEFECT
    assert "B2" not in PICTURE.worst_at


def test_a_sketch_shows_the_map_and_claims_nothing():
    sketch = sketch_of(DEMO)
    assert sketch.diagram == PICTURE.diagram
    assert isnan(sketch.run("W1", WORST).current_a)
    assert sketch.equipment(DEMO.by_id["INV"], WORST).mode == ""


@pytest.mark.parametrize("selected", ["", "W31", "F1", "Q1", "P24", "P24.s3", "P24.s8", "M24", "B1", "INV", "CV"])
def test_menus_offer_edits_that_work(selected):
    offered = list(menu.menu_choices(DEMO, PICTURE, selected))
    assert offered
    for choice in offered:
        try:
            after = choice.edit.apply(DEMO)
        except edits.EditError:
            # A refusal is fine where something hangs on it; its words are shown in the window.
            assert choice.text.startswith("Remove"), choice.text
            continue
        assert after != DEMO, choice.text
        if choice.selects is not None:
            assert choice.selects in after.by_id or choice.selects in after.run_by_id


def test_an_inserted_device_suits_its_conductor():
    choice = next(c for c in menu.menu_choices(DEMO, PICTURE, "W70") if c.text == "Fuse")
    fuse = choice.edit.apply(DEMO).by_id[choice.selects]
    assert fuse.rating_a == 25.0
    assert fuse.family == "cylindrical-fuse"


def test_delete_means_what_stands_there():
    for selected, gone in (("W31", "W31"), ("F7", "F7"), ("FAN", "FAN"), ("B4", "B4")):
        after = removing.removal(DEMO, selected).apply(DEMO)
        assert gone not in after.by_id
        assert gone not in after.run_by_id
    assert len(removing.removal(DEMO, "P24.s8").apply(DEMO).by_id["P24"].studs) == 7
    assert removing.removal(DEMO, "nobody") is None


# Settings


def test_settings_are_remembered_and_never_stand_in_the_way(tmp_path):
    settings = Settings()
    for k in range(MOST_RECENT + 3):
        settings.used(tmp_path / f"p{k}.json")
    settings.put("look", "dark")
    again = Settings()
    assert again.get("look", "light") == "dark"
    assert len(again.recent) == MOST_RECENT
    assert again.recent[0].endswith(f"p{MOST_RECENT + 2}.json")
    settings.path.write_text("not json")
    assert Settings().get("look", "light") == "light"
    settings.path.write_text('{"look": 7, "recent": [1, "a"]}')
    assert Settings().get("look", "light") == "light"
    assert Settings().recent == ["a"]


def test_the_short_lens_tells_fault_currents_and_interrupt_ratings():
    plan, f = PICTURE.plan, PICTURE.protection.faults
    assert SHORT.part(PICTURE, "F2", None) == "9.6 of 5 kA"
    assert SHORT.part(PICTURE, "Q1", None) == "11.8 kA"
    k = f.at["INV.plus"]
    assert SHORT.equipment(PICTURE, plan.by_id["INV"], None).startswith(f"{f.peak.current_a[k] / 1000:.3g} kA …")
    near, far = (SHORT.tone(PICTURE, plan.run_by_id[r], None) for r in ("W1", "W62"))
    assert 0.0 <= far < near <= 1.0
    assert SHORT.hub(PICTURE, "P24.s1", None).endswith("kA")


def test_the_guard_lens_names_the_device_and_hatches_what_nothing_guards():
    plan = PICTURE.plan
    units = Units()
    assert GUARD.run(PICTURE, plan.run_by_id["W21"], None, units) == "F2: 200 A"
    assert GUARD.run(PICTURE, plan.run_by_id["W22"], None, units) == ""
    assert GUARD.run(PICTURE, plan.run_by_id["W1"], None, units) == "nothing guards this"
    assert GUARD.tone(PICTURE, plan.run_by_id["W1"], None) > 1.0
    assert GUARD.tone(PICTURE, plan.run_by_id["W21"], None) <= 1.0
    assert GUARD.equipment(PICTURE, plan.by_id["PUMP"], None) == "behind F6"


# The lens read


def test_the_lens_read_tells_what_was_read_for_what_was_expected():
    from dataclasses import replace

    from jaunty_copper.documents.map.picture import Read

    read = {
        "W21": Read(0.09, 0.012, 0.8, "V"),
        "F2": Read(0.0475, 0.024, 0.05, "V"),
        "INV": Read(26.5, 0.1, 26.4, "V"),
        "B1": Read(11.0, 1.0, 14.5, "A"),
    }
    shown = replace(PICTURE, read=read, read_in="everything on")
    run = shown.plan.run_by_id["W21"]
    assert READ.tone(shown, run, None) > 1.0
    assert READ.run(shown, run, None, Units()) == "800 mV for 90 mV"
    assert READ.part(shown, "F2", None) == "50 mV"
    assert READ.part(shown, "B1", None) == "▲ 14.5 A"
    assert READ.equipment(shown, shown.plan.by_id["INV"], None) == "26.4 V for 26.5 V"
    other = shown.plan.run_by_id["W22"]
    assert READ.tone(shown, other, None) != READ.tone(shown, other, None)
    assert READ.run(shown, other, None, Units()) == ""
    assert READ.equipment(PICTURE, shown.plan.by_id["INV"], None) == "nothing read yet"
    assert [round(r.times, 1) for r in read.values()] == [59.2, 0.1, 1.0, 3.5]


@pytest.mark.parametrize(("times", "tone"), [(0.0, 0.0), (2.5, 0.5), (4.9, 0.98), (5.1, 1.5)])
def test_the_tone_of_the_lens_read_grows_with_the_deviation(times, tone):
    from dataclasses import replace

    from jaunty_copper.documents.map.picture import Read

    shown = replace(PICTURE, read={"W21": Read(0.1, 0.01, 0.1 + 0.01 * times, "V")})
    assert READ.tone(shown, shown.plan.run_by_id["W21"], None) == pytest.approx(tone)


def test_a_scenario_with_a_time_says_how_warm_copper_begins_is_then_and_would_be():
    plan = edits.change(example("orchard_station"), "work", minutes=10.0, after="generator")
    picture = picture_of(plan)
    shown = dict(facts_of(picture, "W21", "", "work", Units()))
    begins, ends, steady = (float(x) for x in re.findall(r"(\d+) °C", shown["Copper"]))
    assert begins < ends < steady
    assert "after 10 min" in shown["Copper"]
