"""The operating points of one plan under its scenarios."""

from dataclasses import dataclass, replace
from functools import cached_property

import numpy as np

from jaunty_copper.language import say
from jaunty_copper.network.demand import duty_of, is_momentary, opened, scenarios_of, share_of
from jaunty_copper.network.wiring import Wiring, wire
from jaunty_copper.physics.circuit import Flags, Ints, Mode, OperatingPoint
from jaunty_copper.physics.copper import Floats
from jaunty_copper.physics.operating_point import Solver
from jaunty_copper.plan.model import Battery, Converter, Equipment, Load, Plan, Scenario, split_ref

MODE_WORDS = {
    Mode.OFF: say("gives nothing"),
    Mode.VOLTAGE: say("holds its voltage"),
    Mode.CURRENT: say("gives all its current"),
    Mode.POWER: say("gives all its power"),
}
Feeds = dict[tuple[int, str], list[int]]
"""Nodes by rail and pole."""
Outputs = dict[int, list[tuple[int, int]]]
"""Plus and minus nodes by plus rail."""


@dataclass(frozen=True)
class State:
    """The operating point of one scenario, by the plan's names.

    Arrays in `point` follow the wiring's circuit.
    """

    wiring: Wiring
    scenario: Scenario
    point: OperatingPoint

    @property
    def solved(self) -> bool:
        """Whether there is an operating point."""
        return self.point.solved

    @property
    def momentary(self) -> bool:
        """Whether something surges in it."""
        return is_momentary(self.scenario)

    @cached_property
    def opened(self) -> frozenset[str]:
        """Ids of the switches that are open in it."""
        return opened(self.wiring.plan, self.scenario)

    def volts(self, ref: str) -> float:
        """Voltage of a terminal against the ground of its part.

        Parameters
        ----------
        ref : str
            A terminal, V.
        """
        return float(self.point.volts[self.wiring.node[ref]])

    def current(self, id_: str) -> float:
        """Current from a to b through a run, inline item, or out of a battery's plus.

        Parameters
        ----------
        id_ : str
            Of a run, an inline item or a battery, A.
        """
        return float(self.point.current_a[self.wiring.branch[id_]])

    def drop(self, id_: str) -> float:
        """Voltage from a to b over a run or inline item.

        Parameters
        ----------
        id_ : str
            Of a run or an inline item, V.
        """
        return float(self.point.drop_v[self.wiring.branch[id_]])

    def port(self, e: Equipment) -> tuple[float, float]:
        """Voltage at equipment and the current into its plus (negative for a source).

        A converter's is its input.

        Parameters
        ----------
        e : Equipment
            Any; of a converter the input.

        Returns
        -------
        float, float
            V and A; nan where there is no operating point.
        """
        w, p = self.wiring, self.point
        if isinstance(e, Load):
            k = w.load_index[e.id]
            return float(p.load_v[k]), float(p.load_a[k])
        k = w.source_index[e.id]
        if isinstance(e, Converter):
            return float(p.feed_v[k]), float(p.feed_a[k])
        return float(p.source_v[k]), -float(p.source_a[k])

    def output(self, e: Converter) -> tuple[float, float]:
        """Voltage and current at a converter's output.

        Parameters
        ----------
        e : Converter
            A converter.

        Returns
        -------
        float, float
            V and A.
        """
        k = self.wiring.source_index[e.id]
        return float(self.point.source_v[k]), float(self.point.source_a[k])

    def mode(self, e: Equipment) -> str:
        """In words, what equipment does.

        Parameters
        ----------
        e : Equipment
            Any.
        """
        w, p = self.wiring, self.point
        if share_of(self.scenario, e.id) == 0.0:
            return "off"
        if isinstance(e, Load):
            k = w.load_index[e.id]
            if p.no_return[k]:
                return say("has no return")
            if p.reversed_[k]:
                return say("has plus and minus swapped")
            if p.unfed[k]:
                return say("is not fed")
            return say("surges") if self.scenario.states.get(e.id) == "surge" else say("runs")
        return MODE_WORDS[Mode(int(p.mode[w.source_index[e.id]]))]


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
    def _currents(self) -> Floats:
        """Absolute branch currents, scenarios by branches; 0 where nothing was solved."""
        rows = [np.abs(s.point.current_a) for s in self.states]
        return np.asarray(np.nan_to_num(np.array(rows).reshape(len(self.states), len(self.wiring.branches))))

    @cached_property
    def _lasting(self) -> Flags:
        return np.array([not s.momentary for s in self.states], dtype=bool)

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
        return self.states[int(self._worst_rows[0][branch])]

    def worst_state(self, branch: int) -> State:
        """The scenario in which a branch carries most.

        Parameters
        ----------
        branch : int
            Number of a branch of the circuit.
        """
        return self.states[int(self._worst_rows[1][branch])]

    @cached_property
    def across_v(self) -> Floats:
        """For each node the largest voltage, in any scenario, to another place of its part."""
        part = self.wiring.part
        best = np.zeros(part.size)
        for state in self.states:
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
        return np.array([duty_of(self.wiring, s.scenario).ambient_c for s in self.states])

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
    solver = Solver(wiring.circuit)
    return Study(plan, wiring, tuple(_state(wiring, solver, scenario) for scenario in scenarios_of(plan)))


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
    return _state(wiring, Solver(wiring.circuit), scenario)


def _state(wiring: Wiring, solver: Solver, scenario: Scenario) -> State:
    """Solve one scenario; a surge finds the conductors as warm as they were before it."""
    duty = duty_of(wiring, scenario)
    if is_momentary(scenario):
        calm = {k: "on" if v == "surge" else v for k, v in scenario.states.items()}
        before = solver.solve(duty_of(wiring, scenario.model_copy(update={"states": calm})))
        heated = wiring.circuit.heated
        warm = before.temperature_c if before.solved else duty.ambient_c
        duty = replace(duty, held_c=warm[heated])
    return State(wiring, scenario, solver.solve(duty))
