"""Sizes of a whole plan at the least cost: an integer programme and the full judgement, in turns until both agree."""

import time
from collections.abc import Callable, Iterable, Mapping
from dataclasses import dataclass
from functools import partial
from math import inf, nan
from typing import NamedTuple

from jaunty_copper.assessment.assessment import Assessment
from jaunty_copper.choosing.changes import keys_of
from jaunty_copper.choosing.least_cost.lessons import HELPS, better_choice, by_findings
from jaunty_copper.choosing.least_cost.limits import Row, by_devices, by_drop
from jaunty_copper.choosing.least_cost.options import Aim, Option, Spot, spots_of, with_options
from jaunty_copper.choosing.least_cost.programme import Programme
from jaunty_copper.choosing.sizing import sized
from jaunty_copper.codes.checks import Finding
from jaunty_copper.language import say, say_many
from jaunty_copper.network.study import State
from jaunty_copper.network.wiring import run_ohms
from jaunty_copper.physics.copper import resistance_at
from jaunty_copper.plan import edits
from jaunty_copper.plan.edits import Edit, made_of
from jaunty_copper.plan.model import Plan

SECONDS = 60.0
"""After so long the best so far is taken, with what is known of how near it is."""
TURNS = 200
SAME = 1e-6
"""Costs that differ by no more than this share are the same."""
REPAIRS = 12
COPPER_OVER_PRICE = 1e-4
"""Where copper counts, a unit of price counts as so many kilograms: of two choices with as much, the cheaper."""


@dataclass(frozen=True)
class Worth:
    """What is to be least.

    Attributes
    ----------
    aim : str
        price, or copper in kg.
    watt : float
        What a watt lost in `scenario` costs over the years, in the currency of prices; counts with the price.
    scenario : str
        Id of the scenario in which losses count; the first that lasts where none is named.
    selective : bool
        Whether devices are to be selective where they are now.
    """

    aim: Aim = "price"
    watt: float = 0.0
    scenario: str = ""
    selective: bool = False


class SizeChange(NamedTuple):
    """What is chosen at a place that is another than what stands there.

    Attributes
    ----------
    ids : tuple of str
        Of what stands there.
    before, after : str
        Sizes in words.
    price : float
        By what it costs more, less where negative.
    """

    ids: tuple[str, ...]
    before: str
    after: str
    price: float


@dataclass(frozen=True)
class LeastCost:
    """The answer.

    Attributes
    ----------
    begin, plan : Plan
        As it was, and with the sizes chosen; the same where none could be.
    changes : tuple of SizeChange
        What differs, what saves most first.
    cost, bound : float
        Of what is chosen, and below which no choice of these options keeps all rules, in the unit of the aim.
    before, circuits : float
        Cost of the plan as it was, and of sizes chosen circuit by circuit; nan where those break a rule.
    left : tuple of Finding
        Of the plan, what no size mends: it was there before.
    contradiction : tuple of str
        What cannot be had together, where nothing can be chosen.
    judged : int
        Plans that were judged in full.
    """

    begin: Plan
    plan: Plan
    changes: tuple[SizeChange, ...]
    cost: float
    bound: float
    before: float
    circuits: float
    left: tuple[Finding, ...]
    contradiction: tuple[str, ...]
    judged: int

    @property
    def gap(self) -> float:
        """By what share less than this any choice could cost at most."""
        return max(self.cost - self.bound, 0.0) / self.cost if self.cost > 0.0 else 0.0

    @property
    def edit(self) -> Edit:
        """All changes as one."""
        label = say_many("Choose the size in {count} place", "Choose sizes in {count} places", len(self.changes))
        return Edit(label, partial(made_of, before=self.begin, after=self.plan))


def least_cost(
    plan: Plan,
    ids: Iterable[str] | None = None,
    worth: Worth = Worth(),
    code: str | None = None,
    seconds: float = SECONDS,
    overtaken: Callable[[], bool] = lambda: False,
    progress: Callable[[str], None] = lambda _: None,
) -> LeastCost:
    """Choose conductors and devices of a plan, or of a part of it, at the least cost that keeps every rule.

    Parameters
    ----------
    plan : Plan
        A plan without `problems`.
    ids : iterable of str, optional
        Conductors and devices to choose; all where none are given.
    worth : Worth
        What is to be least.
    code : str, optional
        Id of a code; the plan's own where none is given.
    seconds : float
        How long to search for what is still cheaper.
    overtaken : callable
        Asked between the steps whether to stop.
    progress : callable
        Is given what is being done.

    Notes
    -----
    Cutting planes: an integer programme chooses one option for each place at the least cost. Its answer is solved and
    judged in full; what is wrong with it comes back as rows (a tangent of the drop, a choice that must be another), and
    the programme chooses again. As no row forbids what the rules allow, its cost is a lower bound all along, and the
    first answer that the rules find nothing wrong with is the least. J. N. Hooker, G. Ottosson, Mathematical Programming
    96 (2003) 33 (logic-based Benders decomposition); M. A. Duran, I. E. Grossmann, Mathematical Programming 36 (1986)
    307 (outer approximation).
    """
    return _Search(plan, ids, worth, code, overtaken, progress).run(seconds)


class _Search:
    """The turns of one search, and the best that they found."""

    def __init__(
        self, plan: Plan, ids: Iterable[str] | None, worth: Worth, code: str | None,
        overtaken: Callable[[], bool], progress: Callable[[str], None],
    ) -> None:  # fmt: skip
        self.begin, self.code, self.overtaken, self.progress = plan, code, overtaken, progress
        self.known = Assessment(plan, code)
        self.spots = spots_of(self.known.case, ids)
        self.now = {k: spot.now for k, spot in enumerate(self.spots)}
        self.costs = _costs(self.known, self.spots, worth)
        self.had = keys_of(self.known)
        self.allowed = {key for key in self.had if key[0] not in HELPS}
        self.unasked = frozenset() if worth.selective else frozenset({"selectivity"})
        self.beyond: set[tuple[str, str]] = set()
        self.judged: list[tuple[dict[int, int], set[tuple[str, str]]]] = []
        self.programme = Programme(self.costs)

    def cost(self, chosen: Mapping[int, int]) -> float:
        """Of a choice."""
        return sum(self.costs[k][n] for k, n in chosen.items())

    def judge(self, chosen: dict[int, int]) -> Assessment:
        """Judge a choice in full, and learn what is wrong with it."""
        known = (
            self.known if chosen == self.now else Assessment(with_options(self.begin, self.spots, chosen), self.code)
        )
        wrong = {key for key in keys_of(known) - self.allowed if key[0] not in self.unasked}
        rows, beyond = by_findings(known, self.spots, chosen, sorted(wrong))
        self.beyond |= beyond & self.had
        if beyond - self.had:
            # Nothing near it could be otherwise, and yet it comes of this choice: any other, then.
            rows.append(
                Row(dict.fromkeys(chosen.items(), 1.0), len(chosen) - 1.0, say("what comes of sizes elsewhere"))
            )
        self.programme.add([*by_drop(known, self.spots, chosen), *rows])
        self.judged.append((chosen, wrong))
        return known

    @property
    def best(self) -> dict[int, int] | None:
        """The cheapest choice judged so far with nothing wrong but what no size mends."""
        good = [chosen for chosen, wrong in self.judged if wrong <= self.beyond]
        return min(good, key=self.cost, default=None)

    def run(self, seconds: float) -> LeastCost:
        """Turn by turn, until the programme's choice is one that the rules find nothing wrong with."""
        if not self.spots:
            return self._answer(self.now, 0.0, nan)
        end, bound = time.monotonic() + seconds, 0.0
        self.programme.add(list(by_devices(self.known.case, self.spots)))
        self.judge(self.now)
        self.progress(say("Choosing circuit by circuit"))
        by_circuit = self._by_circuit()
        for turn in range(TURNS):
            if self.overtaken() or time.monotonic() > end:
                break
            found = self.programme.solve(max(end - time.monotonic(), 1.0))
            bound = max(bound, found.bound)
            if found.chosen is None:
                break
            best = self.best
            if best is not None and self.cost(best) <= bound * (1.0 + SAME):
                break
            self.progress(say("Judging choice {turn}: at least {bound:.0f}", turn=turn + 1, bound=bound))
            self.judge(found.chosen)
        best = self.best
        if best is None and bound < inf and not self.overtaken():
            best = self._repaired()
        return self._answer(best, bound, by_circuit)

    def _by_circuit(self) -> float:
        """Cost of sizes that follow their loads, one circuit at a time; nan where those break a rule."""
        ids = {id_ for spot in self.spots for id_ in spot.ids}
        follow = edits.change_each(self.begin, {id_: {"follows_load": True} for id_ in ids})
        plan = sized(follow, *(e.id for e in self.begin.equipment), overtaken=self.overtaken)
        chosen = {k: spot.option_in(plan) for k, spot in enumerate(self.spots)}
        if None in chosen.values():
            return nan
        known = {k: n for k, n in chosen.items() if n is not None}
        if known != self.now:
            self.judge(known)
        return self.cost(known) if self.judged[-1][1] <= self.beyond else nan

    def _repaired(self) -> dict[int, int] | None:
        """What is nearest to right of what was judged, with thicker conductors where something is wrong, until it is right."""
        chosen, wrong = min(self.judged, key=lambda one: (len(one[1] - self.beyond), self.cost(one[0])))
        known = Assessment(with_options(self.begin, self.spots, chosen), self.code)
        for _ in range(REPAIRS):
            more = better_choice(known, self.spots, chosen, sorted(wrong - self.beyond))
            if more == chosen:
                return None
            chosen = more
            known = self.judge(chosen)
            wrong = self.judged[-1][1]
            if wrong <= self.beyond:
                return chosen
        return None

    def _answer(self, chosen: dict[int, int] | None, bound: float, circuits: float) -> LeastCost:
        none = chosen is None and bound == inf
        taken = self.now if chosen is None else chosen
        changes = [
            SizeChange(spot.ids, spot.options[spot.now].label, spot.options[n].label, spot.options[n].price - spot.options[spot.now].price)
            for k, spot in enumerate(self.spots) if (n := taken[k]) != spot.now
        ]  # fmt: skip
        plan = with_options(self.begin, self.spots, taken)
        known = self.known if taken == self.now else Assessment(plan, self.code)
        left = tuple(f for f in known.findings if (f.rule.id, f.place) in self.beyond)
        right = bool(self.judged) and self.judged[0][1] <= self.beyond
        return LeastCost(
            self.begin, plan, tuple(sorted(changes, key=lambda c: c.price)), self.cost(taken) if chosen is not None else inf,
            min(bound, self.cost(taken)) if chosen is not None else bound, self.cost(self.now) if right else nan, circuits, left,
            self.programme.contradiction() if none else (), len(self.judged),
        )  # fmt: skip


def _costs(known: Assessment, spots: tuple[Spot, ...], worth: Worth) -> list[list[float]]:
    """What each option costs, by what is to be least."""
    lasting = (s for s in known.study.states if s.solved and not s.momentary)
    named = next((s for s in known.study.states if s.solved and s.scenario.id == worth.scenario), None)
    state = named or next(lasting, None)
    if worth.aim == "copper":
        return [[o.copper_kg + COPPER_OVER_PRICE * o.price for o in spot.options] for spot in spots]
    return [
        [o.price + (worth.watt * _lost_w(known, spot, o, state) if state is not None and worth.watt else 0.0) for o in spot.options]
        for spot in spots
    ]  # fmt: skip


def _lost_w(known: Assessment, spot: Spot, option: Option, state: State) -> float:
    """What conductors of a place lose in a state with an option, at the current and temperature that they have there now, W."""
    lost = 0.0
    for id_ in spot.ids if spot.is_run else ():
        run = known.plan.run_by_id[id_].model_copy(update=option.fields)
        fixed, copper = run_ohms(run, known.case.parts)
        warm = float(state.point.temperature_c[state.wiring.branch[id_]])
        lost += (fixed + float(resistance_at(copper, warm))) * state.current(id_) ** 2
    return lost
