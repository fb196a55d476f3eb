"""What open switches cut off, against the solved network."""

import random

import pytest

from jaunty_copper.battery.feeding import feeding
from jaunty_copper.battery.needs import needs
from jaunty_copper.network.cut_off import cut_off
from jaunty_copper.network.study import solve_scenario
from jaunty_copper.network.wiring import wire
from jaunty_copper.plan import edits
from jaunty_copper.plan.examples import example, names
from jaunty_copper.plan.model import Breaker, Contactor, Disconnect, Equipment, Load, PowerLoad, Scenario, Source
from tests.battery.test_sharing import row
from tests.networks import network
from tests.trials import WHOLE

PLANS = {name: example(name) for name in names()}


def all_loads(plan, **states):
    """Everything on, no source running: what is fed is fed by a bank."""
    off = {e.id: "off" for e in plan.equipment if isinstance(e, Source)}
    return Scenario(id="all", soc_percent=80.0, states={**off, **states})


@pytest.mark.chance("networks in which what switches cut off draws nothing, and all else goes on")
@pytest.mark.parametrize("seed", range(200) if WHOLE else range(14))
def test_what_is_cut_off_draws_nothing_and_all_else_goes_on(seed):
    plan, rng = network(seed), random.Random(seed)
    switches = [x.id for x in plan.items if isinstance(x, Disconnect | Breaker | Contactor)]
    opened = {x: "open" if rng.random() < 0.4 else "closed" for x in switches}
    before, after = (solve_scenario(plan, all_loads(plan, **s)) for s in (dict.fromkeys(switches, "closed"), opened))
    if not (before.solved and after.solved):
        return
    wiring = wire(plan)
    off = cut_off(
        wiring, all_loads(plan, **opened), [e for e in plan.equipment if isinstance(e, Equipment)], feeding(wiring)
    )
    loads = [e for e in plan.equipment if isinstance(e, Load)]
    drew, draws = ({e.id for e in loads if abs(s.port(e)[1]) > 1e-6} for s in (before, after))
    assert off & draws == set()
    assert drew - draws <= off


@pytest.mark.parametrize("name", names())
def test_master_off_leaves_nothing_in_the_needs_of_an_example(name):
    plan = PLANS[name]
    main = next(x.id for x in plan.items if isinstance(x, Disconnect | Breaker))
    dark = Scenario(id="dark", states={main: "open"})
    asked = needs(wire(plan.model_copy(update={"scenarios": (dark, Scenario(id="all"))})))
    assert asked.states[0].draws == ()
    assert asked.states[0].given_a == 0.0
    assert asked.states[1].nominal_a > 0.0


def test_a_switch_within_a_string_cuts_off_what_hangs_on_it():
    whole = row(1, series=2, load=PowerLoad(id="E", nominal_v=24.0, power_w=60.0))
    plan = edits.insert_inline(edits.change(whole, "S0x1", length_m=0.4), "S0x1", Disconnect(id="Q", rating_a=100.0))
    dark = Scenario(id="dark", states={"Q": "open"})
    assert cut_off(wire(plan), dark, [plan.by_id["E"]], {}) == {"E"}
    assert abs(solve_scenario(plan, dark).port(plan.by_id["E"])[1]) < 1e-9
    assert cut_off(wire(plan), Scenario(id="on"), [plan.by_id["E"]], {}) == frozenset()


def test_what_is_not_connected_yet_is_counted():
    plan = edits.remove(PLANS["seed_shed"], "W11")
    off = cut_off(wire(plan), Scenario(id="s", states={"Q1": "open"}), [plan.by_id["FAN"]], {})
    assert off == frozenset()
