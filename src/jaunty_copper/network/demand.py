"""What a scenario asks of the circuit."""

import numpy as np

from jaunty_copper.language import say
from jaunty_copper.network.wiring import Wiring, cells
from jaunty_copper.physics.battery import open_circuit_voltage
from jaunty_copper.physics.circuit import Duty
from jaunty_copper.plan.model import (
    Battery,
    Breaker,
    Contactor,
    Converter,
    CurrentLoad,
    Disconnect,
    Inverter,
    Load,
    Plan,
    PowerLoad,
    ResistiveLoad,
    Scenario,
    SolarController,
    Source,
)

Switch = Breaker | Disconnect | Contactor
COMPENSATED_FROM_C = 25.0
"""Warmth at which a charger holds what is set: the usual reference of data sheets."""
AS_DRAWN = Scenario(id="as-drawn", name=say("everything on"))
"""What a plan without scenarios is studied under."""


def scenarios_of(plan: Plan) -> tuple[Scenario, ...]:
    """A plan's scenarios, or everything on where it has none.

    A coil is off where its contactor is open, and what runs only with a source where that is off.

    Parameters
    ----------
    plan : Plan
        With scenarios or without.
    """
    scenarios = plan.scenarios or (AS_DRAWN,)
    coils = {
        e.id: x
        for e in plan.equipment
        if isinstance(e, Load) and isinstance(x := plan.by_id.get(e.drives or ""), Contactor)
    }
    led = {e.id: e.runs_with for e in plan.equipment if isinstance(e, Load) and e.runs_with in plan.by_id}
    if not coils and not led:
        return scenarios
    off = [
        {id_: "off" for id_, x in coils.items() if not is_closed(x, s)}
        | {id_: "off" for id_, source in led.items() if share_of(s, source or "") == 0.0}
        for s in scenarios
    ]
    return tuple(
        s.model_copy(update={"states": {**s.states, **o}}) if o else s for s, o in zip(scenarios, off, strict=True)
    )


def is_momentary(scenario: Scenario) -> bool:
    """Whether something surges in it, so that continuous ratings do not apply.

    Parameters
    ----------
    scenario : Scenario
        Of any plan.
    """
    return "surge" in scenario.states.values()


def share_of(scenario: Scenario, id_: str) -> float:
    """How much of its power equipment takes or gives, 0 to 1.

    Parameters
    ----------
    scenario : Scenario
        What runs.
    id_ : str
        Of equipment.
    """
    state = scenario.states.get(id_, "on")
    return state if isinstance(state, float) else 0.0 if state == "off" else 1.0


def asked_by(e: Load, scenario: Scenario) -> tuple[float, float, float]:
    """Constant power, W, current, A, and conductance, S, that a load asks; they add up.

    Parameters
    ----------
    e : Load
        Which asks.
    scenario : Scenario
        What runs.
    """
    share, surge = share_of(scenario, e.id), scenario.states.get(e.id) == "surge"
    match e:
        case PowerLoad():
            return (e.surge_w or e.power_w) if surge else e.power_w * share, 0.0, 0.0
        case CurrentLoad():
            return 0.0, (e.surge_a or e.current_a) if surge else e.current_a * share, 0.0
        case ResistiveLoad():
            power = (e.surge_w or e.power_w) if surge else e.power_w * share
            return 0.0, 0.0, power / e.nominal_v**2
        case Inverter():
            if share == 0.0 and not surge:
                return 0.0, 0.0, 0.0
            output = (e.surge_w or e.power_w) if surge else e.power_w * share
            return output / e.efficiency + e.idle_w, 0.0, 0.0
    raise TypeError(say("no demand known for a {name}", name=type(e).__name__))


def is_closed(item: Switch, scenario: Scenario) -> bool:
    """Whether a breaker, disconnect or contactor is closed in a scenario: as it is drawn, where that says nothing.

    Parameters
    ----------
    item : Breaker, Disconnect or Contactor
        A switch.
    scenario : Scenario
        What is switched in it.
    """
    return scenario.states.get(item.id, "closed" if item.closed else "open") == "closed"


def compensation_v(plan: Plan, e: Source | Converter, scenario: Scenario) -> float:
    """By how much a source holds another voltage than the one set, for the warmth that its probe feels, V.

    Parameters
    ----------
    plan : Plan
        For the zones, and the unit that the probe sits on.
    e : Source or Converter
        What charges; a converter has no compensation.
    scenario : Scenario
        For its ambients.
    """
    if not isinstance(e, Source) or not e.compensation_mv_k:
        return 0.0
    felt = plan.by_id.get(e.probe or "", e)
    zone = plan.zone_of(felt.zone)
    return 1e-3 * e.compensation_mv_k * (scenario.air_c(zone) - COMPENSATED_FROM_C)


def opened(plan: Plan, scenario: Scenario) -> frozenset[str]:
    """Ids of the switches that are open in a scenario.

    Parameters
    ----------
    plan : Plan
        For its switches.
    scenario : Scenario
        What is switched in it.
    """
    return frozenset(x.id for x in plan.items if isinstance(x, Switch) and not is_closed(x, scenario))


def duty_of(wiring: Wiring, scenario: Scenario) -> Duty:
    """Compile a scenario for the circuit of its plan.

    Parameters
    ----------
    wiring : Wiring
        The plan's circuit.
    scenario : Scenario
        What runs, what is switched, the air, the charge.
    """
    plan, parts = wiring.plan, wiring.parts
    closed = np.ones(len(wiring.branches), dtype=bool)
    emf = np.zeros(len(wiring.branches))
    ambient = np.empty(len(wiring.branches))
    for zone_id, branches in wiring.zone_branches.items():
        zone = plan.zone_of(zone_id)
        ambient[branches] = scenario.air_c(zone)
    for item in plan.items:
        if isinstance(item, Switch):
            closed[wiring.branch[item.id]] = is_closed(item, scenario)
        elif isinstance(item, Battery):
            chemistry = parts.battery_chemistries[item.chemistry]
            emf[wiring.branch[item.id]] = open_circuit_voltage(
                item.soc_percent if item.soc_percent is not None else scenario.soc_percent,
                cells(item, parts),
                chemistry.ocv_per_cell_v,
            )
    asked = np.array([asked_by(e, scenario) for e in wiring.loads], dtype=float).reshape(-1, 3)
    share = np.array([share_of(scenario, e.id) for e in wiring.sources], dtype=float)
    limit = np.array([e.current_a for e in wiring.sources], dtype=float)
    return Duty(
        closed=closed,
        emf_v=emf,
        ambient_c=ambient,
        load_w=asked[:, 0],
        load_a=asked[:, 1],
        load_s=asked[:, 2],
        source_on=share > 0.0,
        source_v=np.array([e.set_v + compensation_v(plan, e, scenario) for e in wiring.sources], dtype=float),
        source_a=limit * share,
        source_w=np.array(
            [
                e.power_w * s if isinstance(e, SolarController) else np.inf
                for e, s in zip(wiring.sources, share, strict=True)
            ],
            dtype=float,
        ),
        feed_min_v=np.array([e.min_v or 0.0 if isinstance(e, Converter) else 0.0 for e in wiring.sources], dtype=float),
        standby_w=np.array([e.idle_w if isinstance(e, Converter) else 0.0 for e in wiring.sources], dtype=float),
    )
