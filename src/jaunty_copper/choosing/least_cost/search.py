"""Sizes of a whole plan at the least cost: an integer programme and the full judgement, in turns until both agree."""

import time
from collections.abc import Callable, Iterable, Mapping
from dataclasses import replace
from math import inf, nan
from typing import NamedTuple

from jaunty_copper.assessment.assessment import Assessment
from jaunty_copper.choosing.changes import QUESTIONS, change_key
from jaunty_copper.choosing.least_cost.answer import LeastCost, SizeChange, Worth
from jaunty_copper.choosing.least_cost.lessons import HELPS, better_choice, by_findings, no_worse
from jaunty_copper.choosing.least_cost.limits import Drops, ProgrammeRow, by_devices, by_power
from jaunty_copper.choosing.least_cost.options import SizedPlace, SizeOption, option_as, spots_of, with_options
from jaunty_copper.choosing.least_cost.programme import Programme
from jaunty_copper.choosing.sizing import sized
from jaunty_copper.codes.checks import Verdict
from jaunty_copper.language import say
from jaunty_copper.network.state import State
from jaunty_copper.network.wiring import run_ohms
from jaunty_copper.physics.copper import resistance_at
from jaunty_copper.plan import edits
from jaunty_copper.plan.model import Plan

Key = tuple[str, str]
"""Rule and place of a finding."""
SECONDS = 60.0
"""After so long the best so far is taken, with what is known of how near it is."""
POINT_S = 15.0
"""Of that, for each point of a frontier."""
TURNS = 200
SAME = 2e-4
"""Costs that differ by no more than this share are the same: as near as the integer programme is solved."""
REPAIRS = 12
DROPS = ("voltage_drop", "lowest_voltage")
"""Rules that rows on drop keep."""
OF_PRICE = (0.05, 0.1, 0.2, 0.4, 0.8)
"""Worth of a watt at the further points of a frontier, as a share of what the cheapest answer costs for each watt that it loses."""
COPPER_OVER_PRICE = 1e-4
"""Where copper counts, a unit of price counts as so many kilograms: of two choices with as much, the cheaper."""


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


def frontier(
    plan: Plan,
    ids: Iterable[str] | None = None,
    worth: Worth = Worth(),
    code: str | None = None,
    overtaken: Callable[[], bool] = lambda: False,
    progress: Callable[[str], None] = lambda _: None,
) -> tuple[LeastCost, ...]:
    """Least cost against what is lost: from the cheapest that keeps every rule to where a watt saved costs dear.

    Each point is the least for some worth of a watt; what was learnt for one holds for the next.

    Parameters
    ----------
    worth : Worth
        Of which the scenario counts, and whether devices are to be selective.
    """
    search = _Search(plan, ids, replace(worth, aim="price", watt=0.0), code, overtaken, progress)
    found = [search.run(POINT_S, compare=False)]
    if not found[0].found or found[0].lost_w <= 0.0:
        return tuple(one for one in found if one.found)
    for share in OF_PRICE:
        if overtaken():
            break
        search.aim(replace(worth, aim="price", watt=share * found[0].price / found[0].lost_w))
        one = search.run(POINT_S, compare=False)
        if one.found and not any(one.plan == other.plan for other in found):
            found.append(one)
    return tuple(found)


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
        self.had = _verdicts(self.known)
        self.unasked = frozenset() if worth.selective else frozenset({"selectivity"})
        self.judged: list[_Judged] = []
        self.programme = Programme([len(spot.options) for spot in self.spots])
        # What was wrong before and no size mends, and what it contradicts, in words.
        self.set_aside: set[Key] = set()
        self.blamed: tuple[str, ...] = ()
        self.drops = Drops(self.known.case, self.spots)
        self.lost = _Lost(self.known, worth.scenario)
        self.aim(worth)

    def aim(self, worth: Worth) -> None:
        """Let something else be least."""
        self.worth = worth
        self.costs = [[self.cost_of(spot, o) for o in spot.options] for spot in self.spots]

    def cost_of(self, spot: SizedPlace, o: SizeOption) -> float:
        """Of an option, in the unit of the aim."""
        if self.worth.aim == "copper":
            return o.copper_kg + COPPER_OVER_PRICE * o.price
        return o.price + (self.worth.watt * self.lost.of(spot, o) if self.worth.watt else 0.0)

    def cost(self, chosen: Mapping[int, int]) -> float:
        """Of a choice."""
        return sum(self.costs[k][n] for k, n in chosen.items())

    def is_right(self, one: "_Judged") -> bool:
        """Whether nothing is wrong with a choice but what was, and what no size mends, and that no worse than it was."""
        return one.wrong <= self.set_aside and not one.worse

    def _wrong(self, known: Assessment) -> tuple[set[Key], set[Key]]:
        """What of a plan sizes have to mend; and what of that was wrong before, and is more so."""
        now = {key: verdict for key, verdict in _verdicts(known).items() if key[0] not in self.unasked}
        worse = {key for key, verdict in now.items() if key in self.had and verdict < self.had[key]}
        return {key for key in now if key not in self.had or key[0] in HELPS} | worse, worse

    def judge(self, chosen: dict[int, int]) -> Assessment:
        """Judge a choice in full, and learn what is wrong with it."""
        same = chosen == self.now
        known = self.known if same else Assessment(with_options(self.begin, self.spots, chosen), self.code)
        wrong, worse = self._wrong(known)
        drop = list(self.drops.rows(known, chosen, self.set_aside))
        limited = {row.key for row in drop if row.most < 0.0}
        rows, beyond = by_findings(known, self.spots, chosen, sorted(wrong - limited))
        # What is set aside may be no worse than it was.
        grown = {row.key for row in drop if row.most < 0.0 and row.key in self.set_aside and row.key is not None}
        self.judged.append(_Judged(chosen, wrong, worse | grown))
        # What no size near it makes otherwise, and no choice yet did, was there before and is set aside.
        self._set_aside({k for k in beyond & self.had.keys() - worse if all(k in one.wrong for one in self.judged)})
        if beyond - self.set_aside:
            why, key = say("what comes of sizes elsewhere"), min(beyond - self.set_aside)
            rows.append(ProgrammeRow(dict.fromkeys(chosen.items(), 1.0), len(chosen) - 1.0, why, key))
        rows = [row._replace(key=None) if row.key in worse else row for row in rows]
        self.programme.add([*drop, *(row for row in rows if row.key not in self.set_aside)])
        return known

    def _set_aside(self, keys: set[Key]) -> None:
        """Leave what cannot be mended, no worse than it was."""
        keys = keys - self.set_aside
        self.programme.without(keys)
        self.set_aside |= keys
        for key in keys:
            self.programme.add(no_worse(self.known, self.spots, key))
        if any(rule in DROPS for rule, _ in keys):
            drop = self.drops.rows(self.known, self.now, self.set_aside)
            self.programme.add([row for row in drop if row.key in keys])

    def _gives_way(self) -> bool:
        """Where nothing keeps every rule: leave what was wrong before and contradicts the rest; whether that helps."""
        blamed = self.programme.contradiction(self.costs)
        self.blamed = tuple(dict.fromkeys((*self.blamed, *(row.why for row in blamed))))
        keys = {row.key for row in blamed if row.key is not None} & self.had.keys() - self.set_aside
        self._set_aside(keys)
        return bool(keys)

    @property
    def best(self) -> dict[int, int] | None:
        """The cheapest choice judged so far that is right."""
        return min((one.chosen for one in self.judged if self.is_right(one)), key=self.cost, default=None)

    def run(self, seconds: float, compare: bool = True) -> LeastCost:
        """Turn by turn, until the programme's choice is one that the rules find nothing wrong with.

        Parameters
        ----------
        compare : bool
            Whether to say what sizes chosen circuit by circuit would cost.
        """
        end, bound = time.monotonic() + seconds, 0.0
        if not self.judged and self.spots:
            self.programme.add([*by_devices(self.known.case, self.spots), *by_power(self.known.case, self.spots)])
            self.judge(self.now)
        for turn in range(TURNS if self.spots else 0):
            if self.overtaken() or time.monotonic() > end:
                break
            found = self.programme.solve(self.costs, max(end - time.monotonic(), 1.0))
            if found.bound == inf and self._gives_way():
                continue
            bound = max(bound, found.bound)
            best = self.best
            if found.chosen is None or (best is not None and self.cost(best) <= bound * (1.0 + SAME)):
                break
            self.progress(say("Judging choice {turn}; none costs less than {bound:.1f}", turn=turn + 1, bound=bound))
            self.judge(found.chosen)
        best = self.best
        if best is None and bound < inf and not self.overtaken() and self.spots:
            best = self._repaired()
        circuits, broken = self._by_circuit() if compare and self.spots and not self.overtaken() else (nan, 0)
        better = self.best
        if best is not None and better is not None and self.cost(better) < self.cost(best):
            best = better
        return self._answer(best, bound, circuits, broken)

    def _by_circuit(self) -> tuple[float, int]:
        """Cost of sizes that follow their loads, one circuit at a time, and how many findings that leaves."""
        self.progress(say("Choosing circuit by circuit"))
        ids = {id_ for spot in self.spots for id_ in spot.ids}
        begin = self.begin if self.code is None else self.begin.model_copy(update={"practice": self.code})
        follow = edits.change_each(begin, {id_: {"follows_load": True} for id_ in ids})
        plan = sized(follow, *(e.id for e in self.begin.equipment), overtaken=self.overtaken)
        chosen = {k: n for k, spot in enumerate(self.spots) if (n := spot.option_in(plan)) is not None}
        if len(chosen) == len(self.spots) and chosen not in [one.chosen for one in self.judged]:
            self.judge(chosen)
        judged = next((one for one in self.judged if one.chosen == chosen), None)
        wrong = judged.wrong if judged is not None else self._wrong(Assessment(plan, self.code))[0]
        cost = sum(self.cost_of(spot, option_as(self.known.case, spot, plan)) for spot in self.spots)
        return cost, len(wrong - self.set_aside)

    def _repaired(self) -> dict[int, int] | None:
        """What is nearest to right of what was judged, made stronger where something is wrong, until it is right."""
        one = min(self.judged, key=lambda one: (len(one.wrong - self.set_aside), self.cost(one.chosen)))
        known = Assessment(with_options(self.begin, self.spots, one.chosen), self.code)
        for _ in range(REPAIRS):
            more = better_choice(known, self.spots, one.chosen, sorted(one.wrong - self.set_aside))
            if more == one.chosen:
                return None
            known = self.judge(more)
            one = self.judged[-1]
            if self.is_right(one):
                return one.chosen
        return None

    def _answer(self, chosen: dict[int, int] | None, bound: float, circuits: float, broken: int) -> LeastCost:
        taken = self.now if chosen is None else chosen
        rows = [(spot, spot.options[spot.now], spot.options[taken[k]]) for k, spot in enumerate(self.spots)]
        changes = [SizeChange(s.ids, was.label, to.label, to.price - was.price) for s, was, to in rows if to is not was]
        plan = with_options(self.begin, self.spots, taken)
        known = self.known if taken == self.now else Assessment(plan, self.code)
        cost = inf if chosen is None else self.cost(taken)
        return LeastCost(
            begin=self.begin, plan=plan, changes=tuple(sorted(changes, key=lambda c: c.price)),
            cost=cost, bound=min(bound, cost), before=self.cost(self.now),
            broken=len(self.judged[0].wrong - self.set_aside) if self.judged else 0, circuits=circuits, circuits_broken=broken,
            price=sum(to.price for _, _, to in rows), copper_kg=sum(to.copper_kg for _, _, to in rows),
            lost_w=sum(self.lost.of(s, to) for s, _, to in rows), lost_in=self.lost.title,
            left=tuple(f for f in known.findings if change_key(f) in self.set_aside),
            others=tuple(f for f in known.findings if change_key(f) not in self.set_aside and f.rule.id not in QUESTIONS),
            contradiction=self.blamed, judged=len(self.judged), places=len(self.spots),
        )  # fmt: skip


class _Judged(NamedTuple):
    """A choice that was judged in full.

    Attributes
    ----------
    wrong : set of (str, str)
        Rules and places of what sizes have to mend.
    worse : set of (str, str)
        What was wrong before, and is more so.
    """

    chosen: dict[int, int]
    wrong: set[Key]
    worse: set[Key]


def _verdicts(known: Assessment) -> dict[Key, Verdict]:
    """The worst verdict by rule and place; questions left out."""
    found: dict[Key, Verdict] = {}
    for f in known.findings:
        if f.rule.id not in QUESTIONS:
            found[change_key(f)] = min(f.verdict, found.get(change_key(f), f.verdict))
    return found


class _Lost:
    """What conductors of a place lose with an option, at the current and temperature that they have there now.

    Parameters
    ----------
    known : Assessment
        Of the plan as it is.
    scenario : str
        In which it counts; the first that lasts where it is none.
    """

    def __init__(self, known: Assessment, scenario: str) -> None:
        self.known = known
        solved = [s for s in known.study.states if s.solved]
        named = (s for s in solved if s.scenario.id == scenario)
        self.state: State | None = next(named, next((s for s in solved if not s.momentary), None))
        self.title = self.state.scenario.title if self.state is not None else ""

    def of(self, spot: SizedPlace, o: SizeOption) -> float:
        """W; 0 of a device."""
        lost, state = 0.0, self.state
        for id_ in spot.ids if spot.is_run and state is not None else ():
            assert state is not None
            run = self.known.plan.run_by_id[id_].model_copy(update=o.fields)
            fixed, copper = run_ohms(run, self.known.case.parts)
            warm = float(state.point.temperature_c[state.wiring.branch[id_]])
            lost += (fixed + float(resistance_at(copper, warm))) * state.current(id_) ** 2
        return lost
