"""What hands must do between two plans: what is taken out, fitted, put elsewhere, and set anew."""

from dataclasses import dataclass
from functools import cached_property
from typing import Any

from jaunty_copper.fabrication.altering.site import SIDES, Side
from jaunty_copper.language import say
from jaunty_copper.network.wiring import Wiring
from jaunty_copper.plan.differences import Difference, differences, renamed, same_things
from jaunty_copper.plan.model import Fuse, Plan, Run, split_ref

BODY = (
    "kind", "chemistry", "nominal_v", "capacity_ah", "studs", "spacing_mm", "width_mm", "thickness_mm", "rating_a",
    "fuse_family", "family", "holder_a", "thread", "max_v", "intermittent_a", "making_a", "drop_mv", "mate_rating_a", "points",
    "power_w", "surge_w", "current_a", "surge_a", "out_nominal_v", "efficiency",
)  # fmt: skip
"""Fields that say which thing it is: where one differs, another is fitted in its place."""
CABLE = ("conductor", "insulation", "parallel", "lug_a", "lug_b", "lug_angle_a", "lug_angle_b")
"""Fields that say which cable it is, besides its length."""
SET = {
    "set_v": say("voltage that it holds, V"), "float_v": say("float voltage, V"), "absorb_h": say("absorption time, h"),
    "compensation_mv_k": say("temperature compensation, mV/K"), "monitor_ah": say("capacity of the monitor, Ah"),
    "monitor_efficiency": say("charge efficiency of the monitor"), "min_v": say("lowest voltage, V"), "cut_out_v": say("cut-out, V"),
}  # fmt: skip
"""Fields that are set at the thing, in words."""
SAME_M = 0.02
"""Lengths that differ by no more are one cable's."""
INSERTS = ("blade", "clamp")
"""Fuses with such terminals are changed in their holder: no lug comes off."""


@dataclass(frozen=True)
class Differing:
    """Two wirings, and what hands must do between them.

    Attributes
    ----------
    first, now : Plan
        As it is: as it was given, and with the ids of the later plan.
    before, after : Wiring
        Of the plan as it was given, and of the plan as it shall be.
    """

    first: Plan
    now: Plan
    before: Wiring
    after: Wiring

    @property
    def then(self) -> Plan:
        """As it shall be."""
        return self.after.plan

    @cached_property
    def old_id(self) -> dict[str, str]:
        """By the id of something as it is, the one that it had in the plan as it was given."""
        placed = zip(self.now.placed, self.first.placed, strict=True)
        runs = zip(self.now.runs, self.first.runs, strict=True)
        return {x.id: y.id for x, y in placed} | {x.id: y.id for x, y in runs}

    @cached_property
    def inserts(self) -> frozenset[str]:
        """Ids of fuses that are changed in their holders."""
        families = self.after.parts.device_families
        return frozenset(
            x.id for x in self.then.items
            if isinstance(x, Fuse) and isinstance(y := self.now.by_id.get(x.id), Fuse)
            and x.family == y.family and x.rating_a != y.rating_a and (x.holder_a, x.thread) == (y.holder_a, y.thread)
            and families[x.family].terminals in INSERTS
        )  # fmt: skip

    @cached_property
    def removed(self) -> tuple[str, ...]:
        """Ids of things that are taken out, those that another takes the place of too."""
        then = self.then.by_id
        return tuple(
            x.id for x in self.now.placed
            if x.id not in self.inserts and (x.id not in then or _body(x) != _body(then[x.id]))
        )  # fmt: skip

    @cached_property
    def fitted(self) -> tuple[str, ...]:
        """Ids of things that are fitted."""
        gone = set(self.removed)
        return tuple(x.id for x in self.then.placed if x.id not in self.now.by_id or x.id in gone)

    @cached_property
    def runs_out(self) -> tuple[str, ...]:
        """Ids of conductors that are taken out."""
        then = self.then.run_by_id
        return tuple(r.id for r in self.now.runs if r.id not in then or not _same_cable(r, then[r.id]))

    @cached_property
    def runs_in(self) -> tuple[str, ...]:
        """Ids of conductors that are fitted."""
        gone = set(self.runs_out)
        return tuple(r.id for r in self.then.runs if r.id not in self.now.run_by_id or r.id in gone)

    @cached_property
    def lifted(self) -> tuple[tuple[str, Side], ...]:
        """Ends of conductors that stay, whose lugs come off: what they are on goes, or they go elsewhere."""
        gone, out = {*self.removed, *self.fitted}, set(self.runs_out)
        found = list[tuple[str, Side]]()
        for r in self.now.runs:
            if r.id in out:
                continue
            other = self.then.run_by_id[r.id]
            same = {r.a, r.b} == {other.a, other.b}
            for side in SIDES:
                ref = getattr(r, side)
                if split_ref(ref)[0] in gone or (not same and ref != getattr(other, side)):
                    found.append((r.id, side))
        return tuple(found)

    @cached_property
    def settings(self) -> tuple[Difference, ...]:
        """What is set anew at things that stay."""
        gone = set(self.fitted)
        return tuple(
            d for d in differences(self.first, self.then) if d.kind == "changed" and d.field in SET and d.id not in gone
        )

    @cached_property
    def touched(self) -> frozenset[str]:
        """Terminals of the plan as it is at which something is done."""
        refs = {x.ref(t) for id_ in self.removed for x in (self.now.by_id[id_],) for t in x.terminal_names}
        refs |= {getattr(self.now.run_by_id[id_], side) for id_ in self.runs_out for side in SIDES}
        refs |= {getattr(self.now.run_by_id[id_], side) for id_, side in self.lifted}
        landing = {getattr(self.then.run_by_id[id_], side) for id_ in self.runs_in for side in SIDES}
        landing |= {getattr(self.then.run_by_id[id_], side) for id_, side in self.lifted}
        there = {x.ref(t) for x in self.now.placed for t in x.terminal_names}
        return frozenset(refs | (landing & there))

    @property
    def nothing(self) -> bool:
        """Whether hands have nothing to do."""
        return not (self.removed or self.fitted or self.runs_out or self.runs_in or self.lifted or self.inserts or self.settings)  # fmt: skip


def differing(before: Wiring, after: Wiring) -> Differing:
    """What hands must do between two plans.

    Parameters
    ----------
    before, after : Wiring
        Of the plan as it is, and as it shall be.
    """
    first, then = before.plan, after.plan
    same = same_things(first, then)
    taken = {*then.by_id, *then.run_by_id}
    given = [*(x.id for x in first.placed), *(r.id for r in first.runs)]
    free = {id_: f"{id_}-old" for id_ in given if id_ not in same and id_ in taken}
    names = {**same, **free}
    moved = renamed(first, names)
    now = moved.model_copy(
        update={
            holder: tuple(
                x if names.get(x.id, x.id) == x.id else x.model_copy(update={"id": names[x.id]})
                for x in getattr(moved, holder)
            )
            for holder in ("items", "equipment", "runs")
        }
    )
    return Differing(first, now, before, after)


def _body(x: Any) -> tuple[object, ...]:
    return tuple(getattr(x, name, None) for name in BODY)


def _same_cable(one: Run, other: Run) -> bool:
    alike = all(getattr(one, name) == getattr(other, name) for name in CABLE)
    return alike and abs(one.length_m - other.length_m) <= SAME_M
