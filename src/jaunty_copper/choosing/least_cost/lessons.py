"""What the rules found wrong with one choice of sizes, as rows of a linear programme: what of it must be another."""

from collections.abc import Iterable, Iterator
from functools import cached_property
from typing import Literal, NamedTuple

import numpy as np
from scipy.sparse import csr_array
from scipy.sparse.csgraph import dijkstra

from jaunty_copper.assessment.assessment import Assessment
from jaunty_copper.choosing.least_cost.limits import Column, ProgrammeRow
from jaunty_copper.choosing.least_cost.options import SizedPlace, SizeOption
from jaunty_copper.codes.carried import normal
from jaunty_copper.codes.case import Case
from jaunty_copper.codes.checks import Finding
from jaunty_copper.codes.interrupting import interrupting
from jaunty_copper.language import say
from jaunty_copper.network.wiring import run_ohms
from jaunty_copper.physics.circuit import Ints
from jaunty_copper.plan.model import Battery, Breaker, Converter, Fuse, Inverter, PowerLoad, Run, split_ref
from jaunty_copper.plan.topology import chain
from jaunty_copper.protection.sequences import CARRIES

Way = Literal["thicker", "thinner", "thicker each", "thinner each", "smaller", "larger", "family", "other"]


class Reach(NamedTuple):
    """What helps against a finding.

    Attributes
    ----------
    runs, devices : str or None
        In which way conductors and devices must differ.
    trunk : str or None
        In which way conductors between the batteries and the place; devices there as others.
    partner : str or None
        In which way those of the other pole of the same equipment.
    """

    runs: Way | None
    devices: Way | None
    trunk: Way | None = None
    partner: Way | None = None


ELSE = Reach("other", "other")
HELPS = {
    "ampacity": Reach("thicker", None, "thicker"),
    "voltage_drop": Reach("thicker", None, "thicker"),
    "lowest_voltage": Reach("thicker", None, "thicker"),
    "least_size": Reach("thicker", None),
    "return_conductor": Reach("thicker", None, None, "thinner"),
    "device_too_large": Reach("thicker", "smaller"),
    "fault_withstand": Reach("thicker", "smaller"),
    "conventional_current": Reach("thicker", "smaller"),
    "branch_unprotected": Reach("thicker", "smaller"),
    "feeds_too_strong": Reach("thicker", "smaller"),
    "slow_opening": Reach("thicker", "smaller", "thicker"),
    "device_too_small": Reach("thicker", "larger", "thicker"),
    "heat_opens": Reach("thicker", "larger", "thicker"),
    "surge_opens": Reach(None, "larger"),
    "inrush": Reach("thinner", "larger", "thinner"),
    "turning_current": Reach(None, "family"),
    "interrupt_rating": Reach(None, "family", "thinner"),
    "collapse": Reach("thicker", None, "thicker"),
    "source_end": Reach("thicker", None),
    "bond_size": Reach("thicker", None),
    "device_voltage": Reach(None, "family"),
    "not_listed": Reach(None, "family"),
    "ignition": Reach(None, "family"),
    "lug_conductor": ELSE,
}
"""What sizes can mend. A finding of any other rule asks for another choice at its place, whichever."""
BY_CURRENT = frozenset({"ampacity", "device_too_small", "heat_opens"})
"""Rules about what flows for good: a constant power draws less where less is lost on the way."""
CONSTANT_POWER = (PowerLoad, Inverter, Converter)
ANY_FAMILY = frozenset({"device_too_small"})
"""Where a rating counts and not whose it is."""


def by_findings(
    known: Assessment, spots: tuple[SizedPlace, ...], chosen: dict[int, int], wrong: Iterable[tuple[str, str]]
) -> tuple[list[ProgrammeRow], set[tuple[str, str]]]:
    """Of what the rules found wrong with a choice, what must change of it; and what no size changes.

    Parameters
    ----------
    chosen : dict
        The option at each place that is judged.
    wrong : iterable of (str, str)
        Rule and place of each finding.

    Returns
    -------
    list of ProgrammeRow, set of (str, str)
    """
    near, found = _Near(known.case, spots), {(f.rule.id, f.place): f for f in known.findings}
    rows, beyond = list[ProgrammeRow](), set[tuple[str, str]]()
    for key in wrong:
        f, terms, able = found[key], dict[Column, float](), False
        ways = near.to(f)
        for k, way in ways.items():
            bad = [
                n for n, o in enumerate(spots[k].options) if not _better(o, spots[k].options[chosen[k]], way, key[0])
            ]
            able = able or len(bad) < len(spots[k].options)
            terms |= dict.fromkeys(((k, n) for n in bad), 1.0)
        if able:
            rows.append(ProgrammeRow(terms, len(ways) - 1.0, f.headline, key))
        else:
            beyond.add(key)
    return rows, beyond


def no_worse(known: Assessment, spots: tuple[SizedPlace, ...], key: tuple[str, str]) -> list[ProgrammeRow]:
    """Of what no size mends: conductors there no thinner than they are, devices as they are.

    Parameters
    ----------
    key : tuple of str
        Rule and place of the finding in the plan as it was.
    """
    f = next(f for f in known.findings if (f.rule.id, f.place) == key)
    rows = []
    for k, way in _Near(known.case, spots).to(f, around=False).items():
        now = spots[k].options[spots[k].now]
        worse = [
            n
            for n, o in enumerate(spots[k].options)
            if o is not now and (o.area_mm2 < now.area_mm2 or not spots[k].is_run)
        ]
        if worse and way != "thinner":
            rows.append(
                ProgrammeRow({(k, n): 1.0 for n in worse}, 0.0, say("no worse than it is: {what}", what=f.headline))
            )
    return rows


def better_choice(
    known: Assessment, spots: tuple[SizedPlace, ...], chosen: dict[int, int], wrong: Iterable[tuple[str, str]]
) -> dict[int, int]:
    """A choice with the next thicker conductor or the next other device wherever something is wrong.

    Parameters
    ----------
    chosen : dict
        The option at each place that is judged.
    wrong : iterable of (str, str)
        Rule and place of each finding.
    """
    near, found = _Near(known.case, spots), {(f.rule.id, f.place): f for f in known.findings}
    more = dict(chosen)
    for key in wrong:
        for k, way in near.to(found[key]).items():
            here = spots[k].options[chosen[k]]
            if way != "thinner" and not (way == "other" and found[key].place not in spots[k].ids):
                helps = [n for n, o in enumerate(spots[k].options) if _better(o, here, way, key[0])]
                more[k] = next((n for n in helps if spots[k].options[n].price >= here.price), more[k])
    return more


def _better(o: SizeOption, here: SizeOption, way: Way, rule: str) -> bool:
    """Whether an option differs from another in the way that helps."""
    same = o.family == here.family
    match way:
        case "thicker":
            return o.area_mm2 > here.area_mm2
        case "thinner":
            return o.area_mm2 < here.area_mm2
        case "thicker each":
            return o.each_mm2 > here.each_mm2
        case "thinner each":
            return o.each_mm2 < here.each_mm2
        case "family":
            return not same
        case "smaller":
            return not same or o.rating_a < here.rating_a
        case "larger":
            return o.rating_a > here.rating_a or not (same or rule in ANY_FAMILY)
    return o is not here


class _Near:
    """Which places have to do with a finding, and in which way each must differ."""

    def __init__(self, case: Case, spots: tuple[SizedPlace, ...]) -> None:
        self.case, self.plan, self.spots = case, case.plan, spots
        self.number = {id_: k for k, spot in enumerate(spots) for id_ in spot.ids}
        plan, wiring = case.plan, case.wiring
        ways = [r for e in plan.equipment for t in e.terminal_names for r in chain(plan, e.ref(t))]
        own = {id_ for r in ways for id_ in (r.id, split_ref(r.a)[0], split_ref(r.b)[0])}
        self._trunk = [(r.id, r.a) for r in plan.runs if r.id in self.number and r.id not in own]
        self._trunk += [(x.id, x.ref("a")) for x in plan.items if isinstance(x, Fuse | Breaker) and x.id not in own]
        self._posts = sorted(
            {wiring.node[x.ref(t)] for x in plan.items if isinstance(x, Battery) for t in x.terminal_names}
        )
        edges = [(b.a, b.b, k) for k, b in enumerate(wiring.branches) if b.kind not in ("battery", "inside")]
        self._branch = {frozenset((a, b)): k for a, b, k in edges}
        a, b, _ = zip(*edges, strict=True) if edges else ((), (), ())
        self._net = csr_array((np.ones(len(a)), (a, b)), shape=(wiring.circuit.nodes,) * 2)

    @cached_property
    def _before(self) -> Ints:
        """The node before each on the shortest way from a battery's post; negative where there is none."""
        return np.asarray(
            dijkstra(
                self._net, directed=False, indices=self._posts, unweighted=True, min_only=True, return_predecessors=True
            )[1]
        )

    def to(self, f: Finding, around: bool = True) -> dict[int, Way]:
        """Numbers of the places with their ways, those of the trunk and of the other pole among them or not."""
        reach, place = HELPS.get(f.rule.id, ELSE), f.place
        if f.rule.id in BY_CURRENT and not self._eases(f):
            reach = reach._replace(trunk=None, runs="thicker" if place in self.plan.run_by_id else None)
        place = place if place in self.plan.run_by_id else split_ref(place)[0]
        found: dict[int, Way] = {}
        if around and reach.partner is not None:
            self._take(found, self._partners(place), reach.partner)
        if around and reach.trunk is not None:
            for id_ in self._leading_to(place):
                if id_ in self.number:
                    way = reach.trunk if self.spots[self.number[id_]].is_run else reach.devices
                    found |= {self.number[id_]: way} if way is not None and way != "family" else {}
            if f.rule.id == "interrupt_rating" and not self._thin_enough(place, found):
                found.clear()
        runs = reach.runs
        if reach == ELSE and f.unit == "mm²" and f.figure is not None and f.limit is not None:
            # Lugs and the like are of one conductor, however many lie side by side.
            runs = "thinner each" if f.figure > f.limit else "thicker each"
        for id_ in self._at(place, reach == ELSE):
            if id_ in self.number:
                way = runs if self.spots[self.number[id_]].is_run else reach.devices
                found |= {self.number[id_]: way} if way is not None else {}
        return found

    def _eases(self, f: Finding) -> bool:
        """Whether with other sizes elsewhere so much less may flow at a place as a finding asks."""
        k, id_ = self.number.get(f.place), f.place
        if k is None or f.figure is None or f.limit is None:
            return any(isinstance(e, CONSTANT_POWER) for e in self.plan.equipment)
        if id_ not in self.plan.run_by_id and self.case.once(normal, id_).when:
            # At the lowest voltage, or with the bank low, it carries that whatever is lost.
            return False
        now_a = float(self.case.study.continuous_a[self.case.wiring.branch[id_]])
        return now_a > 0.0 and f.figure * self.spots[k].least_a <= f.limit * now_a

    def _take(self, found: dict[int, Way], ids: Iterable[str], way: Way) -> None:
        found |= {self.number[id_]: way for id_ in ids if id_ in self.number}

    def _at(self, place: str, beside: bool) -> set[str]:
        """What stands at a place, what guards it and what it guards; or what stands beside it, whatever that may do."""
        plan, guard, wiring, ids = self.plan, self.case.protection.guard, self.case.wiring, {place}
        if place in plan.run_by_id:
            run, bound = plan.run_by_id[place], guard.bound(wiring.branch[place])
            if beside:
                return ids | {split_ref(run.a)[0], split_ref(run.b)[0]}
            return ids | {*(bound.guards or bound.feeds), *self._opening(run)}
        thing = plan.by_id.get(place)
        if isinstance(thing, Fuse | Breaker):
            ids |= {wiring.branches[k].owner for k in guard.guarded_by.get(place, ())}
            if not beside:
                return ids
            pairs = ((p.upstream, p.downstream) for p in self.case.protection.pairs)
            return ids | {id_ for pair in pairs if place in pair for id_ in pair}
        for terminal in thing.terminal_names if thing is not None else ():
            way = chain(plan, thing.ref(terminal)) if thing is not None else []
            ids |= {id_ for r in way for id_ in (r.id, split_ref(r.a)[0], split_ref(r.b)[0])}
        return ids | {r.id for r in plan.runs if r.route == place}

    def _opening(self, run: Run) -> Iterator[str]:
        """Devices on the way of a short at an end of a conductor."""
        f = self.case.protection.faults
        for column in (f.at[ref] for ref in (run.a, run.b) if ref in f.at):
            whole = abs(float(f.peak.current_a[column]))
            for id_ in self.case.protection.devices:
                if id_ in f.row and abs(float(f.peak.branch_a.at(f.row[id_], column))) > CARRIES * whole:
                    yield id_

    def _partners(self, run: str) -> Iterator[str]:
        """Conductors of the other pole of the equipment that a conductor leads to."""
        for e in self.plan.equipment:
            ports = [e.port, (e.ref("out_plus"), e.ref("out_minus"))] if isinstance(e, Converter) else [e.port]
            for port in ports:
                one, two = ([r.id for r in chain(self.plan, ref)] for ref in port)
                if run in one or run in two:
                    yield from two if run in one else one

    def _leading_to(self, place: str) -> Iterator[str]:
        """Conductors between the batteries and a place, and those of the trunk on other rails."""
        wiring, plan = self.case.wiring, self.plan
        thing = plan.run_by_id.get(place) or plan.by_id.get(place)
        if thing is None or not self._posts:
            return
        refs = (thing.a, thing.b) if isinstance(thing, Run) else [thing.ref(t) for t in thing.terminal_names]
        nodes = [wiring.node[ref] for ref in refs]
        for n in nodes:
            while (before := int(self._before[n])) >= 0:
                yield wiring.branches[self._branch[frozenset((before, n))]].owner
                n = before
        rails = {wiring.rail[n] for n in nodes}
        yield from (id_ for id_, ref in self._trunk if wiring.rail_of(ref) not in rails)

    def _thin_enough(self, device: str, trunk: dict[int, Way]) -> bool:
        """Whether thinner conductors of the trunk could bring a short down to what a device interrupts."""
        found, item = interrupting(self.case, device), self.case.protection.devices[device].item
        if found.able_a is None or found.able_a >= found.wanted_a:
            return found.able_a is not None
        volts = self.case.operating_v(item)
        more = 0.0
        for k in (k for k in trunk if self.spots[k].is_run):
            runs = [self.plan.run_by_id[id_] for id_ in self.spots[k].ids]
            thinnest = self.spots[k].options[0].fields
            more += max(
                sum(run_ohms(r.model_copy(update=thinnest), self.case.parts)) - sum(run_ohms(r, self.case.parts))
                for r in runs
            )
        return more >= volts / found.able_a - volts / found.wanted_a
