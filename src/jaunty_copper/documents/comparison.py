"""Two plans side by side: what was put in, taken out and changed, and what that moves."""

from collections.abc import Iterator, Mapping
from functools import cached_property
from math import isfinite, nan
from typing import Any, NamedTuple

from pydantic import BaseModel

from jaunty_copper.codes.checks import Finding
from jaunty_copper.codes.rules.drop import worst_drop
from jaunty_copper.documents.dossier import Dossier
from jaunty_copper.documents.table import Table, column
from jaunty_copper.language import say
from jaunty_copper.parts.figures import quantity, short
from jaunty_copper.plan.model import Equipment, Plan, split_ref
from jaunty_copper.plan.references import followed

LISTS = ("items", "equipment", "runs", "zones", "scenarios", "routes", "boards")
SETTINGS = ("name", "practice", "floating", "devices_by", "autonomy_days", "sun", "overrides")
MOVED = 5e-3
"""A figure that has moved by less than this share of itself has not."""
Thing = Any


class Difference(NamedTuple):
    """Something that is not the same in both plans.

    Attributes
    ----------
    kind : str
        added, removed or changed.
    id : str
        In the second plan; in the first where it is no longer there.
    title, field : str
        What it is; which of its fields.
    before, after : str
        As text; empty where there is none.
    """

    kind: str
    id: str
    title: str
    field: str
    before: str
    after: str


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
    first, second : Dossier
        Before and after; or the same plan under two codes.
    """

    def __init__(self, first: Dossier, second: Dossier) -> None:
        self.first, self.second = first, second

    @cached_property
    def same(self) -> dict[str, str]:
        """Ids of the first plan's things with those of the same things in the second: by id, then by likeness."""
        found: dict[str, str] = {}
        for holder in LISTS:
            one, other = _by_id(self.first.plan, holder), _by_id(self.second.plan, holder)
            found |= {id_: id_ for id_ in one if id_ in other and _kind(one[id_]) == _kind(other[id_])}
        for holder in LISTS:
            one, other = _by_id(self.first.plan, holder), _by_id(self.second.plan, holder)
            free = {id_: x for id_, x in other.items() if id_ not in found.values()}
            for id_, x in one.items():
                if id_ in found:
                    continue
                like = next((k for k, y in free.items() if _alike(x, y, found)), None)
                if like is not None:
                    found[id_] = like
                    del free[like]
        return found

    @cached_property
    def changes(self) -> tuple[Difference, ...]:
        """What was put in, taken out and changed."""
        return tuple(self._changes())

    def _changes(self) -> Iterator[Difference]:
        one, other = self.first.plan, self.second.plan
        for name in SETTINGS:
            if getattr(one, name) != getattr(other, name):
                yield Difference(
                    "changed", "", say("the plan"), name, _text(getattr(one, name)), _text(getattr(other, name))
                )
        # What only has another id has not changed.
        there = followed(one, lambda _, name: self._there(name))
        for holder in LISTS:
            before, after, renamed = (_by_id(p, holder) for p in (one, other, there))
            for id_, x in before.items():
                new = self.same.get(id_)
                if new is None:
                    yield Difference("removed", id_, _title(one, x), "", _kind(x), "")
                    continue
                y, fields = after[new], type(x).model_fields
                moved = renamed[id_]
                for name in fields:
                    was, now = getattr(moved, name), getattr(y, name, None)
                    if name != "id" and was != now:
                        yield Difference("changed", new, _title(other, y), name, _text(getattr(x, name)), _text(now))
            kept = set(self.same.values())
            for id_, y in after.items():
                if id_ not in kept:
                    yield Difference("added", id_, _title(other, y), "", "", _kind(y))

    @cached_property
    def gone(self) -> tuple[Finding, ...]:
        """Findings of the first plan that the second does not have."""
        there = {(f.rule.id, f.place) for f in self.second.findings}
        return tuple(f for f in self.first.findings if (f.rule.id, self._there(f.place)) not in there)

    @cached_property
    def come(self) -> tuple[Finding, ...]:
        """Findings of the second plan that the first does not have."""
        there = {(f.rule.id, self._there(f.place)) for f in self.first.findings}
        return tuple(f for f in self.second.findings if (f.rule.id, f.place) not in there)

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
        return tuple(MovedFigure(what, unit, "", "", of(self.first), of(self.second)) for what, unit, of in pairs)

    @cached_property
    def figures(self) -> tuple[MovedFigure, ...]:
        """Currents, warmth, drops and fault levels that differ, those most first; then those that only one plan has."""
        found = []
        for (what, unit), of in FIGURES.items():
            one, other = of(self.first), of(self.second)
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
        for plan in (self.second.plan, self.first.plan):
            thing = plan.by_id.get(id_) or plan.run_by_id.get(id_)
            if thing is not None:
                return _title(plan, thing)
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


def _by_id(plan: Plan, holder: str) -> Mapping[str, Thing]:
    return {x.id: x for x in getattr(plan, holder)}


def _kind(x: Thing) -> str:
    return str(getattr(x, "kind", type(x).__name__.lower()))


def _title(plan: Plan, x: Thing) -> str:
    if hasattr(x, "conductor") and hasattr(x, "a"):
        a, b = (plan.by_id[split_ref(ref)[0]].title for ref in (x.a, x.b))
        return say("{a} to {b}", a=a, b=b)
    return str(getattr(x, "title", x.id))


def _alike(x: Thing, y: Thing, same: Mapping[str, str]) -> bool:
    """Whether two things with different ids are the same: of one kind, and of one name or between the same ends."""
    if _kind(x) != _kind(y):
        return False
    if hasattr(x, "conductor") and hasattr(x, "a"):
        one = {same.get(split_ref(ref)[0]) for ref in (x.a, x.b)}
        return None not in one and one == {split_ref(ref)[0] for ref in (y.a, y.b)}
    if isinstance(x, Equipment) or getattr(x, "name", None):
        return bool(x.name) and x.name == y.name
    return False


def _text(value: object) -> str:
    if value is None:
        return ""
    if isinstance(value, float):
        return f"{value:g}"
    if isinstance(value, BaseModel):
        return str(value.model_dump(exclude_defaults=True))
    if isinstance(value, tuple):
        return ", ".join(_text(v) for v in value)
    if isinstance(value, dict):
        return ", ".join(f"{k}: {_text(v)}" for k, v in value.items())
    return str(value)
