"""Two plans side by side: what was put in, taken out and changed, and what that moves."""

from functools import cached_property
from math import isfinite, nan
from typing import NamedTuple

from jaunty_copper.codes.checks import Finding
from jaunty_copper.codes.rules.drop import worst_drop
from jaunty_copper.documents.dossier import Dossier
from jaunty_copper.documents.table import Table, column
from jaunty_copper.language import say
from jaunty_copper.parts.figures import quantity, short
from jaunty_copper.plan.differences import Difference, differences, same_things, title_of

MOVED = 5e-3
"""A figure that has moved by less than this share of itself has not."""


class MovedFigure(NamedTuple):
    """A figure of both plans.

    Attributes
    ----------
    what, unit : str
        Of what kind it is.
    id, title : str
        Of what; empty for the whole.
    before, after : float
        nan where a plan has none.
    """

    what: str
    unit: str
    id: str
    title: str
    before: float
    after: float

    @property
    def moved(self) -> float:
        """By which share of the larger one they differ; 1 where only one has it."""
        if not (isfinite(self.before) and isfinite(self.after)):
            return float(isfinite(self.before) != isfinite(self.after))
        most = max(abs(self.before), abs(self.after))
        return abs(self.after - self.before) / most if most > 1e-12 else 0.0


class Comparison:
    """What differs between two plans.

    Parameters
    ----------
    before, after : Dossier
        Before and after; or the same plan under two codes.
    """

    def __init__(self, before: Dossier, after: Dossier) -> None:
        self.before, self.after = before, after

    @cached_property
    def same(self) -> dict[str, str]:
        """Ids of the first plan's things with those of the same things in the second."""
        return same_things(self.before.plan, self.after.plan)

    @cached_property
    def changes(self) -> tuple[Difference, ...]:
        """What was put in, taken out and changed."""
        return differences(self.before.plan, self.after.plan)

    @cached_property
    def ringed(self) -> tuple[frozenset[str], frozenset[str]]:
        """Ids of what differs, to be ringed on a map: in the first plan, and in the second."""
        back = {new: id_ for id_, new in self.same.items()}
        first = {back.get(c.id, c.id) if c.kind == "changed" else c.id for c in self.changes if c.kind != "added"}
        second = {c.id for c in self.changes if c.kind != "removed"}
        return frozenset(first - {""}), frozenset(second - {""})

    @cached_property
    def gone(self) -> tuple[Finding, ...]:
        """Findings of the first plan that the second does not have."""
        there = {(f.rule.id, f.place) for f in self.after.findings}
        return tuple(f for f in self.before.findings if (f.rule.id, self._there(f.place)) not in there)

    @cached_property
    def come(self) -> tuple[Finding, ...]:
        """Findings of the second plan that the first does not have."""
        there = {(f.rule.id, self._there(f.place)) for f in self.before.findings}
        return tuple(f for f in self.after.findings if (f.rule.id, f.place) not in there)

    def _there(self, place: str) -> str:
        owner, dot, terminal = place.partition(".")
        return f"{self.same.get(owner, owner)}{dot}{terminal}"

    @cached_property
    def totals(self) -> tuple[MovedFigure, ...]:
        """Price, mass, losses and counts of findings of both."""
        pairs = (
            (say("price"), "", lambda d: d.shop.total), (say("mass"), "kg", lambda d: d.shop.mass_kg),
            (say("lost in conductors at most"), "W", lambda d: d.study.most_lost_w),
            (say("dangers"), "", lambda d: float(sum(f.verdict == 0 for f in d.findings))),
            (say("defects"), "", lambda d: float(sum(f.verdict == 1 for f in d.findings))),
        )  # fmt: skip
        return tuple(MovedFigure(what, unit, "", "", of(self.before), of(self.after)) for what, unit, of in pairs)

    @cached_property
    def figures(self) -> tuple[MovedFigure, ...]:
        """Currents, warmth, drops and fault levels that differ, those most first; then those that only one plan has."""
        found = []
        for (what, unit), of in FIGURES.items():
            one, other = of(self.before), of(self.after)
            pairs = [(id_, self.same.get(id_)) for id_ in one]
            rows = [(new or id_, one[id_], other.get(new, nan) if new else nan) for id_, new in pairs]
            rows += [(id_, nan, v) for id_, v in other.items() if id_ not in {n for _, n in pairs}]
            for id_, a, b in rows:
                found.append(MovedFigure(what, unit, id_, self._titled(id_), a, b))
        return tuple(
            sorted(
                (f for f in found if f.moved > MOVED),
                key=lambda f: (not (isfinite(f.before) and isfinite(f.after)), -f.moved),
            )
        )

    def _titled(self, id_: str) -> str:
        for plan in (self.after.plan, self.before.plan):
            thing = plan.by_id.get(id_) or plan.run_by_id.get(id_)
            if thing is not None:
                return title_of(plan, thing)
        return id_

    def tables(self) -> tuple[Table, ...]:
        """All of it, for the window, files and the command line."""
        width = 20.0
        heads = (
            column("id", say("Id")),
            column("what", say("What"), width),
            column("before", say("Before"), width),
            column("after", say("After"), width),
        )
        return (
            Table("totals", say("The whole"), (column("what", say("What"), width), *heads[2:]), tuple((f.what, _figure(f.before, f.unit), _figure(f.after, f.unit)) for f in self.totals)),
            Table(
                "changes", say("What is not the same"), (column("kind", say("Kind")), heads[0], heads[1], column("field", say("Field")), *heads[2:]),
                tuple((c.kind, c.id, c.title, c.field, c.before, c.after) for c in self.changes),
            ),
            Table("gone", say("Findings that are gone"), (column("verdict", say("Verdict")), column("finding", say("Finding"), 60.0)), tuple((f.verdict.word, f.headline) for f in self.gone)),
            Table("come", say("Findings that are new"), (column("verdict", say("Verdict")), column("finding", say("Finding"), 60.0)), tuple((f.verdict.word, f.headline) for f in self.come)),
            Table(
                "figures", say("Figures that moved"), (*heads[:2], column("figure", say("Figure")), *heads[2:]),
                tuple((f.id, f.title, f.what, _figure(f.before, f.unit), _figure(f.after, f.unit)) for f in self.figures),
            ),
        )  # fmt: skip


def _figure(value: float, unit: str) -> str:
    return (
        ""
        if not isfinite(value)
        else quantity(value, unit)
        if unit in ("A", "V", "W")
        else f"{short(value)} {unit}".strip()
    )


def _currents(d: Dossier) -> dict[str, float]:
    w, found = d.study.wiring, {}
    for id_, k in w.branch.items():
        state = d.study.lasting_state(k)
        if state.solved:
            found[id_] = abs(float(state.point.current_a[k]))
    return found


def _warmths(d: Dossier) -> dict[str, float]:
    found = {}
    for r in d.plan.runs:
        k = d.study.wiring.branch.get(r.id)
        state = d.study.lasting_state(k) if k is not None else None
        if k is not None and state is not None and state.solved:
            found[r.id] = float(state.point.temperature_c[k])
    return found


def _drops(d: Dossier) -> dict[str, float]:
    return {e.id: worst[0] for e in d.plan.equipment if (worst := worst_drop(d.case, e)) is not None}


def _faults(d: Dossier) -> dict[str, float]:
    return {id_: d.protection.faults.prospective(id_)[0] for id_ in d.protection.devices}


FIGURES = {
    (say("lasting current"), "A"): _currents,
    (say("warmth"), "°C"): _warmths,
    (say("voltage drop"), "V"): _drops,
    (say("prospective short-circuit current"), "A"): _faults,
}
"""What is compared place by place."""
