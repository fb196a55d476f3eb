"""How far figures spread: closed forms and a draw of its own, and what lens and strip make of it."""

from itertools import pairwise

import numpy as np
import pytest

from jaunty_copper.assessment.assessment import Assessment
from jaunty_copper.commissioning.bands import Interval, bands
from jaunty_copper.commissioning.spreads import AIR_K, JOINT_SIGMA
from jaunty_copper.commissioning.varying import HIGH, LOW
from jaunty_copper.documents import words
from jaunty_copper.documents.map.drawing import map_svg
from jaunty_copper.documents.map.lens import LENSES
from jaunty_copper.documents.map.picture import Picture
from jaunty_copper.physics.copper import resistance_at
from jaunty_copper.plan.examples import example, names
from tests.commissioning.test_varying import one_load
from tests.networks import network

SPREAD = next(lens for lens in LENSES if lens.id == "spread")
Z = 1.6449
"""Nine in ten of a normal distribution lie within so many standard deviations."""


def test_a_constant_current_spreads_as_a_normal_distribution_and_its_drop_as_a_draw_by_hand():
    case = Assessment(one_load(14.0)).case
    found, w, (state,) = bands(case), case.wiring, case.study.states
    assert found.left_out == {"s": 0.0}
    assert found.current("s", w.branch["out"]) == pytest.approx(
        (20.0 * (1 - 0.05 * Z), 20.0 * (1 + 0.05 * Z)), rel=0.01
    )
    # Both conductors by another draw: length and copper 3 %, joints by the power of e, the load 5 %, the air 5 K.
    rng, n = np.random.default_rng(99), 200_000
    load = 20.0 * (1.0 + 0.05 * rng.standard_normal(n))
    air = AIR_K * rng.standard_normal(n)
    lost = np.zeros(n)
    for id_ in ("out", "back"):
        k = w.branch[id_]
        rise = float(state.point.temperature_c[k]) - 30.0
        warm = 30.0 + air + rise * (load / 20.0) ** 2
        joints = float(w.circuit.fixed_ohm[k]) * np.exp(JOINT_SIGMA * rng.standard_normal(n))
        copper = resistance_at(float(w.circuit.copper_ohm[k]) * (1.0 + 0.03 * rng.standard_normal(n)), warm)
        lost += load * (joints + copper)
        band = np.percentile(warm, (LOW, HIGH))
        assert found.temperature("s", k) == pytest.approx(band, abs=0.5)
    path = [w.node[ref] for ref in ("B.plus", "E.plus", "E.minus", "B.minus")]
    along = found.lost("s", path, 1)
    assert along[0] == Interval(0.0, 0.0)
    assert along[-1] == pytest.approx(np.percentile(lost, (LOW, HIGH)), rel=0.01)
    # What is lost on the way and what is left at the load are the same variants.
    assert along[1] == along[2]
    assert all(a.low <= b.low and a.high <= b.high for a, b in pairwise(along))


@pytest.mark.parametrize(
    "plan", [*(example(n) for n in names()), *(network(seed) for seed in range(6))], ids=lambda p: p.name
)
def test_what_is_planned_lies_within_its_band(plan):
    case = Assessment(plan).case
    found, w = bands(case), case.wiring
    for state in case.study.states:
        if not state.solved or found.left_out[state.scenario.id] > 0.2:
            continue
        for run in plan.runs:
            k, amps = w.branch[run.id], abs(state.current(run.id))
            low, high = found.current(state.scenario.id, k)
            assert low <= amps + 1e-6, (state.scenario.id, run.id)
            assert high >= amps - 1e-6, (state.scenario.id, run.id)
            cool, warm = found.temperature(state.scenario.id, k)
            assert cool < float(state.point.temperature_c[k]) < warm


def test_the_lens_writes_bands_and_tones_by_their_upper_end():
    known = Assessment(example("orchard_station"))
    plain = Picture(known.plan, known.diagram, known)
    picture = Picture(known.plan, known.diagram, known, bands=bands(known.case))
    run = known.plan.run_by_id["W21"]
    assert (SPREAD.run(plain, run, "work", words.Units()), SPREAD.part(plain, "F2", "work")) == ("", "")
    assert np.isnan(SPREAD.tone(plain, run, "work"))
    low, high = picture.bands.current("work", known.wiring.branch["W21"])
    assert SPREAD.run(picture, run, "work", words.Units()).startswith(f"{low:.0f} … {high:.0f} A, ")
    assert SPREAD.part(picture, "F2", "work") == f"{low:.0f} … {high:.0f} A"
    reading = picture.run("W21", "work")
    assert SPREAD.tone(picture, run, "work") == pytest.approx(high / (abs(reading.current_a) / reading.used))
    assert SPREAD.equipment(picture, known.plan.by_id["SUN"], "work") == "off"
    assert f"{low:.0f} … {high:.0f} A" in map_svg(known, "work", SPREAD)
    # Of all scenarios, the one in which it carries most.
    worst = picture.state_of("W21", None).scenario.id
    assert SPREAD.part(picture, "F2", None) == SPREAD.part(picture, "F2", worst)


@pytest.mark.parametrize(
    ("band", "text"),
    [((1.0, 2.0), "1 … 2 A"), ((0.5, 2.0), "500 mA … 2 A"), ((0.0, 0.0), "0 A"), ((1.001, 1.002), "1 A")],
)
def test_the_unit_stands_once_where_it_is_one(band, text):
    assert words.between(band, words.amps) == text
