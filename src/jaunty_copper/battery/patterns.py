"""Ways to interconnect parallel strings, each an edit that makes real conductors.

Only the conductors between strings change: links inside a series string, and everything
beyond the bank's take-offs, stay as they are.
"""

from collections import Counter
from collections.abc import Callable
from functools import partial
from math import ceil, hypot
from types import UnionType
from typing import NamedTuple

from jaunty_copper.language import say
from jaunty_copper.physics.busbars import thick_enough
from jaunty_copper.plan.banks import Bank, banks_of, distance_m, links_of, overlap, post_at, unit_places
from jaunty_copper.plan.defaults import standard_rating
from jaunty_copper.plan.edits import EditError, checked, fresh_id, without_dangling
from jaunty_copper.plan.model import AnyEquipment, Bar, BarStud, Battery, Plan, Run, Source, split_ref
from jaunty_copper.plan.topology import Topology, topology

SLACK_M = 0.05
"""For the bend and the lugs of a link, besides the straight way between its posts."""
BAR_GAP_MM = 75.0
"""Between the bars of both poles."""
SIDES = ("plus", "minus")


class PatternJoining(NamedTuple):
    """How one side of m strings is joined.

    Attributes
    ----------
    links : tuple of (int, int)
        Pairs of strings joined by a link.
    leads : tuple of int
        Strings with a lead to the bank's bar; the take-off is then the bar.
    takeoff : int
        String at whose post the rest of the system is joined, where there is no bar.
    """

    links: tuple[tuple[int, int], ...]
    leads: tuple[int, ...]
    takeoff: int


class Pattern(NamedTuple):
    """One way to interconnect.

    Attributes
    ----------
    fits : callable
        Whether it can be had with that many strings.
    join : callable
        From the number of strings and a side to how that side is joined.
    """

    id: str
    name: str
    hint: str
    fits: Callable[[int], bool]
    join: Callable[[int, str], PatternJoining]


def _chain(first: int, last: int) -> tuple[tuple[int, int], ...]:
    return tuple((k, k + 1) for k in range(first, last))


def _one_end(m: int, _: str) -> PatternJoining:
    return PatternJoining(_chain(0, m - 1), (), 0)


def _opposite(m: int, side: str) -> PatternJoining:
    return PatternJoining(_chain(0, m - 1), (), 0 if side == "plus" else m - 1)


def _middle(m: int, side: str) -> PatternJoining:
    return PatternJoining(_chain(0, m - 1), (), (m - 1) // 2 if side == "plus" else m // 2)


def _bars(m: int, _: str) -> PatternJoining:
    return PatternJoining((), tuple(range(m)), 0)


def _halves(m: int, side: str) -> PatternJoining:
    half = m // 2
    leads = (0, half) if side == "plus" else (half - 1, m - 1)
    return PatternJoining(_chain(0, half - 1) + _chain(half, m - 1), leads, 0)


PATTERNS = (
    Pattern("one_end", say("both at one end"), say("Links from unit to unit, plus and minus taken off at the same end"),
            lambda m: m >= 2, _one_end),
    Pattern("middle", say("at the middle"), say("Links from unit to unit, both taken off at the middle"),
            lambda m: m >= 3, _middle),
    Pattern("opposite", say("opposite corners"), say("Links from unit to unit, plus taken off at one end, minus at the other"),
            lambda m: m >= 2, _opposite),
    Pattern("halves", say("halves to bars"), say("Two linked halves, each taken off at opposite corners, equal leads to bars"),
            lambda m: m >= 4 and m % 2 == 0, _halves),
    Pattern("bars", say("equal leads to bars"), say("Each string with leads of one length to a plus and a minus bar"),
            lambda m: m >= 2, _bars),
)  # fmt: skip
"""In the order in which the least loaded unit usually gains."""


def strings_in_line(plan: Plan, bank: Bank) -> list[tuple[str, ...]]:
    """Strings from left to right and front to back, as their first units stand."""
    at = unit_places(tuple(x for x in plan.items if isinstance(x, Battery)))
    return sorted(bank.strings, key=lambda s: (at[s[0]][1], at[s[0]][0]))


def why_not(plan: Plan, bank: Bank) -> str | None:
    """Why a bank cannot be rearranged; None where it can."""
    if len(bank.strings) < 2:
        return say("there is only one string")
    if len(bank.groups) > 1:
        return say("its strings are tied to each other between their units, or not alike in voltage")
    if len({len(s) for s in bank.strings}) > 1:
        return say("its strings have different numbers of units")
    return stands_between(plan, bank, Battery | Bar)


def stands_between(plan: Plan, bank: Bank, may: type | UnionType) -> str | None:
    """What stands between a bank's units and would be lost, in words; None where only that does which may."""
    held = {split_ref(ref)[0] for id_ in bank.inside for ref in (plan.run_by_id[id_].a, plan.run_by_id[id_].b)}
    own = [x for x in sorted(held) if not isinstance(plan.by_id[x], may)]
    return say("{by_id} stands between its units, and would be lost", by_id=plan.by_id[own[0]].title) if own else None


def arrange(plan: Plan, unit: str, pattern_id: str) -> Plan:
    """Interconnect the bank of a unit in another pattern.

    Parameters
    ----------
    plan : Plan
        A plan without `problems`.
    unit : str
        Any unit of the bank.
    pattern_id : str
        One of `PATTERNS`.

    Raises
    ------
    EditError
        There is no such bank or pattern, or the bank is not a row of like strings.
    """
    pattern = next((p for p in PATTERNS if p.id == pattern_id), None)
    if pattern is None:
        raise EditError(say("there is no pattern called {pattern_id}", pattern_id=pattern_id))
    joined = topology(plan)
    bank = next((b for b in banks_of(joined) if unit in b.by_id), None)
    if bank is None:
        raise EditError(say("{unit} is no battery", unit=unit))
    reason = why_not(plan, bank)
    if reason:
        raise EditError(say("this bank cannot be rearranged: {reason}", reason=reason))
    if not pattern.fits(len(bank.strings)):
        raise EditError(
            say("{pattern} does not go with {strings} strings", pattern=pattern.name, strings=len(bank.strings))
        )
    return _Arranging(plan, joined, bank).made(pattern)


def fitting(bank: Bank) -> tuple[Pattern, ...]:
    """Patterns that go with a bank's number of strings."""
    return tuple(p for p in PATTERNS if p.fits(len(bank.strings)))


class _Arranging:
    """The work of one rearrangement."""

    def __init__(self, plan: Plan, joined: Topology, bank: Bank) -> None:
        self.plan, self.joined, self.bank = plan, joined, bank
        self.strings = strings_in_line(plan, bank)
        self.at = unit_places(tuple(x for x in plan.items if isinstance(x, Battery)))
        ends = {self._end(s, side) for s in self.strings for side in SIDES}
        rails = {joined.own_rail_of(ref) for ref in ends}
        self.gone = {id_ for id_ in bank.inside if joined.own_rail_of(plan.run_by_id[id_].a) in rails}
        inside = [plan.run_by_id[id_] for id_ in bank.inside if id_ in self.gone]
        self.like = Counter((r.conductor, r.insulation, r.parallel, r.zone) for r in inside).most_common(1)[0][0]
        self.taken: set[str] = set()

    def _end(self, string: tuple[str, ...], side: str) -> str:
        return f"{string[-1 if side == 'plus' else 0]}.{side}"

    def _post(self, ref: str) -> tuple[float, float]:
        unit, terminal = split_ref(ref)
        return post_at(self.bank.by_id[unit], self.at[unit], terminal)

    def _run(self, a: str, b: str, length_m: float) -> Run:
        id_ = fresh_id(self.plan, "L", self.taken)
        self.taken.add(id_)
        conductor, insulation, parallel, zone = self.like
        return Run(
            id=id_, a=a, b=b, length_m=ceil(100 * length_m - 1e-6) / 100, conductor=conductor,
            insulation=insulation, parallel=parallel, zone=zone,
        )  # fmt: skip

    def _lead_m(self) -> float:
        """One length for all leads: from the farthest post to a bar before the middle of the bank."""
        posts = [self._post(self._end(s, side)) for s in self.strings for side in SIDES]
        x = (min(p[0] for p in posts) + max(p[0] for p in posts)) / 2
        y = min(p[1] for p in posts) - 150.0
        return max(hypot(px - x, py - y) for px, py in posts) / 1000.0 + 2 * SLACK_M

    def made(self, pattern: Pattern) -> Plan:
        """The plan in that pattern."""
        plan, new_runs, new_items, moved = self.plan, list[Run](), list[Bar](), dict[str, str]()
        removed: set[str] = set()
        for side in SIDES:
            how = pattern.join(len(self.strings), side)
            ends = [self._end(s, side) for s in self.strings]
            for p, q in how.links:
                (ax, ay), (bx, by) = self._post(ends[p]), self._post(ends[q])
                new_runs.append(self._run(ends[p], ends[q], hypot(bx - ax, by - ay) / 1000.0 + SLACK_M))
            refs, bars = self._joined_outside(side)
            spare = [b for b in bars if self._dedicated(b)]
            removed |= {b.id for b in spare}
            refs |= {b.ref(s.id) for b in spare for s in b.studs}
            feeds = [b for b in bars if b not in spare]
            if how.leads:
                bar = self._bar(side, len(how.leads), refs, len(feeds))
                new_items.append(bar)
                half = (len(how.leads) + 1) // 2
                studs = [s.id for s in bar.studs]
                outside = studs[half : len(studs) - (len(how.leads) - half)]
                for k, stud in zip(how.leads, studs[:half] + studs[len(studs) - len(how.leads) + half :], strict=True):
                    new_runs.append(self._run(ends[k], bar.ref(stud), self._lead_m()))
                takeoff = bar.ref(outside[0])
                free = [*(bar.ref(s) for s in outside)]
            else:
                takeoff = ends[how.takeoff]
                free = []
            for bar in feeds:
                stud = next(s.id for s in bar.studs if bar.ref(s.id) in self._leads_on(bar))
                new_runs.append(self._run(free.pop(0) if free else takeoff, bar.ref(stud), self._lead_m()))
            for ref in sorted(refs):
                if any(r.id not in self.gone for r in plan.runs_at.get(ref, ())):
                    moved[ref] = free.pop(0) if free else takeoff
        return self._put(new_runs, new_items, removed, moved)

    def _joined_outside(self, side: str) -> tuple[set[str], list[Bar]]:
        """Posts of a side, and the bars its leads end on."""
        posts = {self._end(s, side) for s in self.strings}
        rail = self.joined.own_rail_of(next(iter(posts)))
        on = {split_ref(ref)[0] for id_ in self.gone for ref in (self.plan.run_by_id[id_].a, self.plan.run_by_id[id_].b)
              if self.joined.own_rail_of(ref) == rail}  # fmt: skip
        return posts, [x for x in self.plan.items if isinstance(x, Bar) and x.id in on]

    def _leads_on(self, bar: Bar) -> set[str]:
        return {
            bar.ref(s.id) for s in bar.studs if any(r.id in self.gone for r in self.plan.runs_at.get(bar.ref(s.id), ()))
        }

    def _dedicated(self, bar: Bar) -> bool:
        """Whether a bar serves the bank alone: one conductor leaves it."""
        outside = [r for s in bar.studs for r in self.plan.runs_at.get(bar.ref(s.id), ()) if r.id not in self.gone]
        return len(outside) <= 1

    def _bar(self, side: str, leads: int, refs: set[str], feeds: int) -> Bar:
        outside = sum(any(r.id not in self.gone for r in self.plan.runs_at.get(ref, ())) for ref in refs)
        amps = sum(u.capacity_ah for u in self.bank.units) / max(len(self.strings[0]), 1)
        id_, rating = fresh_id(self.plan, "BP" if side == "plus" else "BM"), standard_rating(min(amps, 600.0))
        studs = leads + max(outside + feeds, 1)
        thick = thick_enough(30.0, 6.0, rating, self.plan.zone_of(None).ambient_c) or 6.0
        return Bar(
            id=id_, name=say('Bank {side} bar', side=side), spacing_mm=30.0, width_mm=30.0, thickness_mm=thick, rating_a=rating,
            studs=tuple(BarStud(id=f"s{k}", thread="M10") for k in range(1, studs + 1)),
            gap_mm=BAR_GAP_MM, support_mm=30.0 * max(studs - 1, 1),
        )  # fmt: skip

    def _put(self, runs: list[Run], items: list[Bar], removed: set[str], moved: dict[str, str]) -> Plan:
        plan = self.plan
        kept = [
            r if r.a not in moved and r.b not in moved
            else r.model_copy(update={"a": moved.get(r.a, r.a), "b": moved.get(r.b, r.b)})
            for r in plan.runs
            if r.id not in self.gone
        ]  # fmt: skip
        at = next(k for k, r in enumerate(plan.runs) if r.id in self.gone)
        last = max(k for k, x in enumerate(plan.items) if x.id in self.bank.by_id)
        listed = [*plan.items[: last + 1], *items, *plan.items[last + 1 :]]
        arranged = plan.model_copy(
            update={
                "runs": (*kept[:at], *runs, *kept[at:]),
                "items": tuple(x for x in listed if x.id not in removed),
                "equipment": tuple(sensing(e, moved) for e in plan.equipment),
                "boards": tuple(
                    b.model_copy(update={"spots": tuple(s for s in b.spots if s.of not in removed)})
                    for b in plan.boards
                ),
            }
        )
        return checked(without_dangling(arranged))


def sensing(e: AnyEquipment, moved: dict[str, str]) -> AnyEquipment:
    """Equipment that senses at a terminal which moved senses where it moved to."""
    if not isinstance(e, Source):
        return e
    changes = {f: moved[ref] for f in ("sense_plus", "sense_minus") if (ref := getattr(e, f)) in moved}
    return e.model_copy(update=changes) if changes else e


def move_unit(plan: Plan, unit: str, x_mm: float, y_mm: float) -> Plan:
    """Put a unit somewhere else; links to other units grow and shrink with the way.

    Parameters
    ----------
    unit : str
        Id of the unit.
    x_mm, y_mm : float
        Where its left front corner comes to stand, mm.

    Raises
    ------
    EditError
        It is no battery, or would stand inside another one.
    """
    moved = plan.by_id.get(unit)
    if not isinstance(moved, Battery):
        raise EditError(say("{unit} is no battery", unit=unit))
    batteries = tuple(x for x in plan.items if isinstance(x, Battery))
    at = unit_places(batteries)
    new = {**at, unit: (round(x_mm, 1), round(y_mm, 1))}
    for other in batteries:
        if other.id != unit and overlap(moved, new[unit], other, new[other.id]):
            raise EditError(say("{moved} would stand inside {other}", moved=moved.title, other=other.title))
    lengths = {}
    for run in links_of(plan, unit):
        before, after = distance_m(plan, run.a, run.b, at), distance_m(plan, run.a, run.b, new)
        assert before is not None
        assert after is not None
        lengths[run.id] = round(max(run.length_m + after - before, after), 3)
    # Whoever stood in a row by default stands there from now on: a gap must not close behind a unit.
    return checked(
        plan.model_copy(
            update={
                "items": tuple(
                    x.model_copy(update={"at_mm": new[x.id]}) if isinstance(x, Battery) else x for x in plan.items
                ),
                "runs": tuple(
                    r.model_copy(update={"length_m": lengths[r.id]}) if r.id in lengths else r for r in plan.runs
                ),
            }
        )
    )


def arranging(unit: str, pattern: Pattern) -> Callable[[Plan], Plan]:
    """The edit's function."""
    return partial(arrange, unit=unit, pattern_id=pattern.id)
