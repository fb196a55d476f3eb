"""Starts that no scenario shows, against the same starts in a scenario of their own, solved."""

import random

import pytest

from jaunty_copper.assessment.assessment import Assessment
from jaunty_copper.battery.feeding import charged_by
from jaunty_copper.network.study import study
from jaunty_copper.plan import edits
from jaunty_copper.plan.model import Converter, CurrentLoad, PowerLoad, Scenario, Source
from jaunty_copper.protection.protection import Protection
from jaunty_copper.protection.starts import starts_of
from tests.build import fused, judge
from tests.networks import network
from tests.trials import WHOLE


def surging(seed):
    """A network by chance whose loads ask for several times as much when they start, half of them constant powers."""
    rng, plan = random.Random(seed), network(seed)
    for e in [e for e in plan.equipment if isinstance(e, CurrentLoad)]:
        times = rng.choice((2.0, 3.0, 5.0))
        if rng.random() < 0.5:
            plan = edits.change_each(
                plan, {e.id: {"surge_a": times * e.current_a, "surge_s": rng.choice((0.0, 1.0, 8.0))}}
            )
            continue
        watts = e.current_a * e.nominal_v
        load = PowerLoad(id=e.id, nominal_v=e.nominal_v, power_w=watts, surge_w=times * watts, surge_s=rng.choice((0.0, 1.0, 8.0)))  # fmt: skip
        plan = plan.model_copy(update={"equipment": tuple(load if x.id == e.id else x for x in plan.equipment)})
    # What charges would help at a start as far as it can; it may be off.
    off = {e.id: "off" for e in plan.equipment if isinstance(e, Source)}
    return plan.model_copy(update={"scenarios": (Scenario(id="s", soc_percent=60.0, states=off),)})


@pytest.mark.chance("networks whose starts that no scenario shows are those of a scenario that does")
@pytest.mark.parametrize("seed", range(150) if WHOLE else range(30))
def test_a_start_that_no_scenario_shows_is_that_of_a_scenario_that_does(seed):
    plan = surging(seed)
    p = Protection(study(plan))
    w = p.study.wiring
    if not p.study.states[0].solved or any(charged_by(w, e) is not None for e in w.sources if isinstance(e, Converter)):
        # What gives all it can beside a bank helps at no start.
        return
    lone = {d: {s.alone: s for s in starts_of(p, d)} for d in p.devices}
    for e in p.study.wiring.loads:
        shown = Scenario(id="start", soc_percent=60.0, states={**plan.scenarios[0].states, e.id: "surge"})
        known = Protection(study(plan.model_copy(update={"scenarios": (shown,)})))
        before, after = p.study.states[0].point, known.study.states[0].point
        if not after.solved or (after.mode != before.mode).any():
            # A converter that gives up, or all that it can.
            continue
        for device in p.devices:
            solved = [s for s in starts_of(known, device) if not s.alone and s.current_a > 0.0]
            alone = lone[device].get(e.title)
            for s in solved:
                # Little less, for what else draws constant power draws more then, and shares move; more where a voltage falls far that warm copper
                # and old units would let fall farther.
                falls = 1.0 - s.state.port(e)[0] / p.study.states[0].port(e)[0]
                assert 0.9 * s.current_a - 0.5 < alone.current_a < (1.1 if falls < 0.15 else 1.6) * s.current_a + 1.0
                assert (alone.lasts_s, alone.title) == (
                    s.lasts_s,
                    f"{p.study.states[0].scenario.title}, while {e.title} starts",
                )


def test_a_fuse_that_a_start_opens_is_told_though_no_scenario_has_it():
    plan = fused(power=60.0, rating=10.0, conductor="mm2-6")
    plan = edits.change(plan, "E", surge_w=600.0, surge_s=5.0)
    (f,) = [f for f in judge(study(plan)) if f.rule.id == "surge_opens"]
    assert f.place == "F1"
    assert "while E starts” lasts 5 s" in f.headline
    shown = plan.model_copy(update={"scenarios": (Scenario(id="s", soc_percent=50.0, states={"E": "surge"}),)})
    (same,) = [f for f in judge(study(shown)) if f.rule.id == "surge_opens"]
    assert same.place == "F1"
    # Where it is off there is nothing to start.
    off = plan.model_copy(update={"scenarios": (Scenario(id="s", soc_percent=50.0, states={"E": "off"}),)})
    assert Assessment(off).protection.lone_surges == {}
