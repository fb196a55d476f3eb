"""The operating points of one plan under its scenarios."""

from dataclasses import dataclass, replace
from functools import cached_property

import numpy as np

from jaunty_copper.language import say
from jaunty_copper.network.demand import duty_of, is_momentary, scenarios_of
from jaunty_copper.network.refusing import settled
from jaunty_copper.network.state import State
from jaunty_copper.network.wiring import Wiring, wire
from jaunty_copper.physics.circuit import Duty, Flags, Ints
from jaunty_copper.physics.copper import Floats
from jaunty_copper.physics.operating_point import Solver
from jaunty_copper.physics.together import solve_together
from jaunty_copper.plan.model import Battery, Converter, Equipment, Plan, Scenario, split_ref

Feeds = dict[tuple[int, str], list[int]]
"""Nodes by rail and pole."""
Outputs = dict[int, list[tuple[int, int]]]
"""Plus and minus nodes by plus rail."""


@dataclass(frozen=True)
class Study:
    """A plan with its network and the operating point of every scenario; immutable, made anew on every edit."""

    plan: Plan
    wiring: Wiring
    states: tuple[State, ...]

    def state(self, scenario_id: str) -> State:
        """The state of a scenario.

        Parameters
        ----------
        scenario_id : str
            Of one of the plan's scenarios.

        Raises
        ------
        KeyError
            There is no such scenario.
        """
        for state in self.states:
            if state.scenario.id == scenario_id:
                return state
        raise KeyError(scenario_id)

    @cached_property
    def every(self) -> tuple[State, ...]:
        """The states, and after them what copper is to carry besides.

        Units that let no charge in take it once they are warm; what starts in a scenario runs in it then, and that may
        be the only one in which it does.
        """
        others = (other for s in self.states for other in (s.charged, s.calm))
        return self.states + tuple(s for s in others if s is not None)

    @cached_property
    def _currents(self) -> Floats:
        """Absolute branch currents, every state by branches; 0 where nothing was solved."""
        rows = [np.abs(s.point.current_a) for s in self.every]
        return np.asarray(np.nan_to_num(np.array(rows).reshape(len(self.every), len(self.wiring.branches))))

    @cached_property
    def _lasting(self) -> Flags:
        return np.array([not s.momentary for s in self.every], dtype=bool)

    @cached_property
    def continuous_a(self) -> Floats:
        """For each branch the largest current in any scenario without surge."""
        return np.asarray(self._currents[self._lasting].max(axis=0, initial=0.0))

    @cached_property
    def largest_a(self) -> Floats:
        """For each branch the largest current in any scenario."""
        return np.asarray(self._currents.max(axis=0, initial=0.0))

    @cached_property
    def _worst_rows(self) -> tuple[Ints, Ints]:
        """For each branch the scenario in which it carries most: of those without surge, and of all."""
        lasting = np.where(self._lasting[:, None] | ~self._lasting.any(), self._currents, -1.0)
        return np.argmax(lasting, axis=0), np.argmax(self._currents, axis=0)

    def lasting_state(self, branch: int) -> State:
        """The scenario without surge in which a branch carries most.

        Parameters
        ----------
        branch : int
            Number of a branch of the circuit.
        """
        return self.every[int(self._worst_rows[0][branch])]

    def worst_state(self, branch: int) -> State:
        """The scenario in which a branch carries most.

        Parameters
        ----------
        branch : int
            Number of a branch of the circuit.
        """
        return self.every[int(self._worst_rows[1][branch])]

    @cached_property
    def across_v(self) -> Floats:
        """For each node the largest voltage, in any scenario, to another place of its part."""
        part = self.wiring.part
        best = np.zeros(part.size)
        for state in self.every:
            if state.solved and part.size:
                v = state.point.volts
                low, high = np.full(part.max() + 1, np.inf), np.full(part.max() + 1, -np.inf)
                np.minimum.at(low, part, v)
                np.maximum.at(high, part, v)
                best = np.maximum(best, np.maximum(v - low[part], high[part] - v))
        return best

    @cached_property
    def _ambients_c(self) -> Floats:
        """Air at each branch, shape (scenarios, branches)."""
        return np.array([s.duty.ambient_c for s in self.states])

    @cached_property
    def coolest_ambient_c(self) -> Floats:
        """For each branch the lowest air temperature in any scenario."""
        return np.asarray(self._ambients_c.min(axis=0))

    @cached_property
    def hottest_ambient_c(self) -> Floats:
        """For each branch the highest air temperature in any scenario."""
        return np.asarray(self._ambients_c.max(axis=0))

    @cached_property
    def most_lost_w(self) -> float:
        """Lost in conductors and their joints in the scenario without surge in which most is, W."""
        runs = [r.id for r in self.plan.runs if r.id in self.wiring.branch]
        lasting = (s for s in self.states if s.solved and not s.momentary)
        return max((sum(abs(s.current(r) * s.drop(r)) for r in runs) for s in lasting), default=0.0)

    def feeds_of(self, e: Equipment, state: State) -> tuple[list[int], list[int]]:
        """Nodes of the sources that feed equipment: their plus and their minus terminals.

        Batteries on its two rails, another bank's only while a cross-over joins them; where a rail has none, the
        converters that hold it.

        Parameters
        ----------
        e : Equipment
            What is fed.
        state : State
            For the cross-overs that are open.

        Returns
        -------
        list of int, list of int
            Nodes; empty where nothing feeds it.
        """
        w, (plus_ref, minus_ref) = self.wiring, e.port
        crossings = w.crossings(state.opened)
        if crossings not in self._feeds:
            rail = w.rails_apart(state.opened)
            self._feeds[crossings] = rail, self._feeds_by_rail(rail), self._outputs_by_rail(rail)
        rail, sides, outputs = self._feeds[crossings]
        plus_rail, minus_rail = rail[w.node[plus_ref]], rail[w.node[minus_ref]]
        plus, minus = sides.get((plus_rail, "+"), []), sides.get((minus_rail, "-"), [])
        if plus and minus:
            return plus, minus
        pairs = outputs.get(plus_rail, [])
        return [p for p, _ in pairs], [m for _, m in pairs]

    @cached_property
    def _feeds(self) -> dict[frozenset[str], tuple[list[int], Feeds, Outputs]]:
        """By the cross-overs that are open: rails, and what feeds each."""
        return {}

    def _feeds_by_rail(self, rail: list[int]) -> Feeds:
        """Battery terminals by rail and pole: those where conductors leave the bank, if any do."""
        w, posts = self.wiring, dict[tuple[int, str], list[tuple[bool, int]]]()
        batteries = {x.id for x in self.plan.items if isinstance(x, Battery)}
        for x in self.plan.items:
            if isinstance(x, Battery):
                for terminal, side in (("plus", "+"), ("minus", "-")):
                    n = w.node[x.ref(terminal)]
                    leaves = any(
                        {split_ref(r.a)[0], split_ref(r.b)[0]} - batteries
                        for r in self.plan.runs_at.get(x.ref(terminal), ())
                    )
                    posts.setdefault((rail[n], side), []).append((leaves, n))
        return {key: [n for leaves, n in found if leaves] or [n for _, n in found] for key, found in posts.items()}

    def _outputs_by_rail(self, rail: list[int]) -> Outputs:
        w, found = self.wiring, dict[int, list[tuple[int, int]]]()
        for x in self.plan.equipment:
            if isinstance(x, Converter):
                p, m = w.node[x.ref("out_plus")], w.node[x.ref("out_minus")]
                found.setdefault(rail[p], []).append((p, m))
        return found

    def supply_v(self, e: Equipment, state: State) -> float:
        """Voltage of what feeds equipment, at the source's own terminals; nan without one.

        Parameters
        ----------
        e : Equipment
            What is fed.
        state : State
            One of the study's.
        """
        plus, minus = self.feeds_of(e, state)
        if not plus:
            return float("nan")
        v = state.point.volts
        return float(v[plus].max() - v[minus].min())

    def drop_v(self, e: Equipment, state: State) -> float:
        """Voltage lost between what feeds equipment (or what it charges) and its terminals.

        Positive over the round trip, whichever way the current goes.

        Parameters
        ----------
        e : Equipment
            What is fed, or what charges.
        state : State
            One of the study's.
        """
        here, amps = state.port(e)
        lost = self.supply_v(e, state) - here
        return -lost if amps < 0.0 else lost


def study(plan: Plan) -> Study:
    """Compute everything that follows from a plan.

    Parameters
    ----------
    plan : Plan
        A plan without `problems`.
    """
    wiring = wire(plan)
    solver, scenarios = Solver(wiring.circuit), scenarios_of(plan)
    first = [duty_of(wiring, _running(s) if is_momentary(s) else s) for s in scenarios]
    solve_together(solver, first)
    states = (_state(wiring, solver, s, duty) for s, duty in zip(scenarios, first, strict=True))
    return Study(plan, wiring, tuple(states))


def solve_scenario(plan: Plan, scenario: Scenario) -> State:
    """Solve a plan under one scenario, be it the plan's own or not.

    Parameters
    ----------
    plan : Plan
        A plan without `problems`.
    scenario : Scenario
        Of its own or of anybody's.
    """
    wiring = wire(plan)
    first = duty_of(wiring, _running(scenario) if is_momentary(scenario) else scenario)
    return _state(wiring, Solver(wiring.circuit), scenario, first)


def _state(wiring: Wiring, solver: Solver, scenario: Scenario, first: Duty) -> State:
    """Solve one scenario; a surge finds the conductors as warm as they were before it, by what was asked first."""
    duty, calm = first, None
    if is_momentary(scenario):
        running, duty = _running(scenario), duty_of(wiring, scenario)
        before_duty, before, _ = settled(wiring, solver, first, running)
        if not _cranks(wiring.plan, scenario):
            calm = State(wiring, running, before_duty, before)
        heated = wiring.circuit.heated
        warm = before.temperature_c if before.solved else duty.ambient_c
        duty = replace(duty, held_c=warm[heated])
    asked, point, charged = settled(wiring, solver, duty, scenario)
    if asked is duty:
        return State(wiring, scenario, duty, point, calm=calm)
    once_warm = scenario.model_copy(
        update={"name": say("{title}, once its units take the charge", title=scenario.title)}
    )
    return State(wiring, scenario, asked, point, State(wiring, once_warm, duty, charged), calm)


def _running(scenario: Scenario) -> Scenario:
    """A scenario in which something starts, once it has."""
    states = {k: "on" if v == "surge" else v for k, v in scenario.states.items()}
    name = say("{title}, once all has started", title=scenario.title)
    return scenario.model_copy(update={"states": states, "name": name})


def _cranks(plan: Plan, scenario: Scenario) -> bool:
    """Whether a starter is what starts: it is over when the engine runs, and nothing of it lasts."""
    starting = (e for e in plan.equipment if scenario.states.get(e.id) == "surge")
    return any(run.cranking for e in starting for ref in e.port for run in plan.runs_at.get(ref, ()))
