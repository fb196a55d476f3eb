"""A studied plan under a code: what the rules look at, each computed once."""

from collections.abc import Callable, Hashable
from functools import cached_property
from math import inf
from typing import Any, TypeVar

import numpy as np

from jaunty_copper.battery.sharing import Sharing, sharing
from jaunty_copper.codes.ampacity import Ampacity, ampacity
from jaunty_copper.codes.checks import Check, Rule
from jaunty_copper.codes.code import Code, code_of
from jaunty_copper.language import say
from jaunty_copper.network.conduits import Fill, fills, lines_in
from jaunty_copper.network.levels import highest_v
from jaunty_copper.network.state import State
from jaunty_copper.network.study import Study
from jaunty_copper.network.wiring import cable_of, thread_at
from jaunty_copper.parts.models import Conductor, DeviceFamily, Thread
from jaunty_copper.physics.copper import Floats
from jaunty_copper.physics.heat import steady_current
from jaunty_copper.plan.model import (
    Bar,
    Battery,
    Breaker,
    Contactor,
    Disconnect,
    Equipment,
    Fuse,
    Inline,
    PlugConnector,
    Run,
    Shunt,
    Source,
    split_ref,
)
from jaunty_copper.plan.topology import chain
from jaunty_copper.protection.protection import Protection
from jaunty_copper.protection.sequences import RunFaults, at_greatest, at_least

K = TypeVar("K", bound=Hashable)
T = TypeVar("T")


class Case:
    """One studied plan held against one code.

    Parameters
    ----------
    study : Study or Protection
        The operating points of a plan, with or without what protects it.
    code : str, optional
        Id of a code; the plan's own where none is given.

    Raises
    ------
    UnknownCode
        There is no such code.
    """

    def __init__(self, study: Study | Protection, code: str | None = None) -> None:
        self.protection = study if isinstance(study, Protection) else Protection(study)
        self.study = study = self.protection.study
        self.plan = study.plan
        self.wiring = study.wiring
        self.parts = study.wiring.parts
        self._memo: dict[Any, Any] = {}
        self.code: Code = code_of(code or study.plan.practice).overridden(study.plan.overrides)

    def once(self, compute: Callable[["Case", K], T], key: K) -> T:
        """The result of a function of this case and a key, computed the first time only."""
        if (compute, key) not in self._memo:
            self._memo[compute, key] = compute(self, key)
        return self._memo[compute, key]  # type: ignore[no-any-return]

    def check(
        self,
        rule: Rule,
        place: str,
        figure: float | None = None,
        limit: float | None = None,
        unit: str = "",
        *,
        scenario: str | None = None,
        source: str = "",
    ) -> Check:
        """Make a check of a rule under this code; it holds unless it is made to fail.

        Parameters
        ----------
        place : str
            Id of what it is about.
        figure, limit : float or None
            What is and what may be, in `unit`; None where there is no figure.
        unit : str
            Of both.
        scenario : str, optional
            Id of the scenario in which it is so.
        source : str, optional
            Standard and clause, or what else the limit rests on.
        """
        return Check(rule, place, figure, limit, unit, scenario, self.code.id, source)

    def title(self, id_: str) -> str:
        """What people call a thing: its name where it has one; a run by its ends."""
        if id_ in self.plan.run_by_id:
            return self.run_title(self.plan.run_by_id[id_])
        thing = self.plan.by_id.get(id_) or next((s for s in self.plan.scenarios if s.id == id_), None)
        return thing.title if thing is not None else id_

    def run_title(self, run: Run) -> str:
        """A run by its id and what it joins."""
        return f"{run.id}, {self.plan.run_title(run)}"

    @cached_property
    def families(self) -> tuple[DeviceFamily, ...]:
        """Device families that the code takes as protection of a circuit."""
        return tuple(f for f in self.parts.device_families.values() if f.id not in self.code.unlisted)

    @cached_property
    def _terminals_c(self) -> dict[bool, tuple[float, float]]:
        """What the code takes terminals, and posts, to be rated for, °C: by whether their conductors are large."""
        rated = {True: self.code.limit("large_terminal_c"), False: self.code.limit("terminal_c")}
        return {large: (c, min(c, self.code.limit("post_c"))) for large, c in rated.items()}

    def terminal_c(self, run: Run) -> float:
        """Lowest temperature rating of what a run lands on, C."""
        area = self.parts.conductors[run.conductor].area_mm2
        default, post = self._terminals_c[area > self.code.limit("large_terminal_mm2")]
        ends = (self.plan.by_id[split_ref(ref)[0]] for ref in (run.a, run.b))
        return min(
            post
            if isinstance(x, Battery)
            else (x.terminal_c or default)
            if isinstance(x, Inline | Equipment)
            else default
            for x in ends
        )

    @cached_property
    def _highest_v(self) -> dict[int, float]:
        return highest_v(self.wiring)

    def operating_v(self, device: Inline) -> float:
        """Highest operating voltage of the system that a device stands in, V; of the highest where nothing feeds it."""
        found = self._highest_v.get(self.wiring.rail_of(device.ref("a")))
        return found if found is not None else max(self._highest_v.values(), default=0.0)

    def interrupt_a(self, device: Fuse | Breaker) -> float | None:
        """What a device can interrupt at its system's highest voltage, A; None where its family ends below it."""
        return self.parts.device_families[device.family].interrupt_a(self.operating_v(device))

    @cached_property
    def sharings(self) -> dict[str, tuple[Sharing, ...]]:
        """How each bank shares, scenario by scenario, by the bank's id."""
        return {b.id: tuple(sharing(b, s) for s in self.study.states) for b in self.wiring.banks}

    @cached_property
    def every_sharing(self) -> dict[str, tuple[Sharing, ...]]:
        """How each bank shares in each of `Study.every`: what units and links are to carry, by the bank's id."""
        once_warm = self.study.every[len(self.study.states) :]
        return {b.id: self.sharings[b.id] + tuple(sharing(b, s) for s in once_warm) for b in self.wiring.banks}

    def sharing_in(self, bank: str, state: State) -> Sharing:
        """How a bank shares in one of `Study.every`.

        Parameters
        ----------
        bank : str
            Its id.
        """
        return next(found for found, s in zip(self.every_sharing[bank], self.study.every, strict=True) if s is state)

    @cached_property
    def _ambient(self) -> dict[str, float]:
        hottest = self.study.hottest_ambient_c
        return {r.id: float(hottest[self.wiring.branch[r.id]]) for r in self.plan.runs}

    @cached_property
    def ampacities(self) -> dict[str, Ampacity]:
        """Ampacity of every run of some length, by id, all its parallel conductors together."""
        runs = [r for r in self.plan.runs if r.length_m > 0.0]
        return dict(zip((r.id for r in runs), self._ampacities(runs), strict=True))

    @cached_property
    def _bears_a(self) -> Floats:
        """Ampacity of each run that can be damaged, in the order of the table of withstand."""
        return np.array([self.ampacities[r.id].amps for r in self.protection.withstand.runs])

    @cached_property
    def greatest_faults(self) -> tuple[RunFaults, ...]:
        """What becomes of each conductor in short circuits at its ends, from the greatest down; everything closed first."""
        p = self.protection
        return at_greatest(p.faults, p.run_faults, p.devices, p.withstand, self._bears_a)

    @cached_property
    def least_faults(self) -> tuple[RunFaults, ...]:
        """What becomes of each conductor in the least short circuits at its ends, in every way the plan is switched."""
        p = self.protection
        return at_least(p.faults, p.run_faults, p.devices, p.withstand, self._bears_a)

    def _ampacities(self, runs: list[Run]) -> list[Ampacity]:
        if not runs:
            return []
        insulation = [self.parts.insulations[r.insulation].max_c for r in runs]
        terminal = [self.terminal_c(r) for r in runs]
        ambient = [self._ambient[r.id] for r in runs]
        heat = steady_current(cable_of(runs, self.parts), np.minimum(insulation, terminal), np.array(ambient))
        # Of a plan's conductors most lie as others do.
        alike: dict[tuple[Any, ...], Ampacity] = {}
        found = []
        for k, r in enumerate(runs):
            table = self.code.ampacity
            table = (self.in_conduit(r) and table.conduit) or table
            given = (
                self.parts.conductors[r.conductor].area_mm2, insulation[k], terminal[k], ambient[k],
                self.plan.zone_of(r.zone).engine_space, self._company(r), float(heat[k]) / r.parallel,
            )  # fmt: skip
            key = id(table), r.parallel, *given
            if key not in alike:
                alike[key] = ampacity(table, *given).times(r.parallel)
            found.append(alike[key])
        return found

    def in_conduit(self, run: Run) -> bool:
        """Whether a run lies in a conduit: so it is said of itself, or of its route."""
        return run.conduit or run.route in self._conduits

    def lies_alone(self, run: Run) -> bool:
        """Whether a run loses its heat to the air by itself: nothing beside it, no conduit, no covering."""
        return self._company(run) == 1 and not self.in_conduit(run) and not run.sheathed

    @cached_property
    def _conduits(self) -> frozenset[str]:
        return frozenset(r.id for r in self.plan.routes if r.inner_mm is not None)

    def _company(self, run: Run) -> int:
        """Conductors that carry current side by side with a run, itself among them: as the plan says, or as its route holds."""
        return max(run.bundle, run.parallel, self._in_route.get(run.route or "", 0))

    @cached_property
    def _in_route(self) -> dict[str, int]:
        """Conductors that lie side by side in each route; what a device parts is one conductor."""
        return {
            route.id: sum(max(r.parallel for r in line) for line in lines_in(self.plan, route))
            for route in self.plan.routes
        }

    def for_load(self, amp: Ampacity) -> tuple[float, str, str]:
        """What a conductor may be asked to carry for good, A; what governs that, and its source.

        Some codes want a share more than that of its table's figure, before ambient and company lower it.
        """
        share = self.code.limit("conductor_share")
        if amp.before_a / share < amp.amps:
            governs = say("{percent:.0f} % of what flows for good", percent=100.0 * share)
            return amp.before_a / share, governs, self.code.source("conductor_share")
        return amp.amps, amp.governs, amp.source

    def may_carry(self, run: Run) -> float:
        """What a run, of this plan or as it might be, may be asked to carry for good, A."""
        return self.for_load(self._ampacities([run])[0])[0]

    def ampacities_of(self, runs: list[Run]) -> list[Ampacity]:
        """Ampacity of runs, of this plan or as they might be."""
        return self._ampacities(runs)

    def smallest_conductor(self, run: Run, amps: float) -> str | None:
        """The smallest thicker size of the run's own system that may carry a current; None if none.

        Parameters
        ----------
        amps : float
            Current to be carried for good, A.
        """
        now = self.parts.conductors[run.conductor]
        sizes = [s for s in self.parts.sizes(now.system) if s.area_mm2 > now.area_mm2]
        tried = self._ampacities([run.model_copy(update={"conductor": s.id}) for s in sizes])
        return next((s.id for s, a in zip(sizes, tried, strict=True) if self.for_load(a)[0] >= amps), None)

    def sizes_of(self, run: Run) -> list[tuple[Conductor, float]]:
        """Every size of a run's own system, thinnest first, with the ampacity it would have there, A."""
        sizes = self.parts.sizes(self.parts.conductors[run.conductor].system)
        tried = self._ampacities([run.model_copy(update={"conductor": s.id}) for s in sizes])
        return [(s, a.amps) for s, a in zip(sizes, tried, strict=True)]

    def capacity(self, branch: int) -> float:
        """What a branch may carry for long, A: a run's ampacity, an item's rating; inf if unknown.

        Parameters
        ----------
        branch : int
            Number of the branch.
        """
        b = self.wiring.branches[branch]
        if b.kind == "run":
            return self.ampacities[b.owner].amps if b.owner in self.ampacities else inf
        thing = self.plan.by_id[b.owner]
        match thing:
            case Bar() | Disconnect() | Shunt():
                return thing.rating_a
            case PlugConnector():
                return thing.carries_a
            case Contactor():
                return thing.rating_a or inf
        return inf

    def thread_at(self, ref: str) -> Thread | None:
        """Stud at a terminal; None where it is a clamp, blade or lead."""
        return thread_at(self.plan, self.parts, ref)

    def drop_limit(self, e: Equipment) -> tuple[float, str]:
        """How much drop equipment may have, in per cent of its system's nominal voltage, and the source."""
        name = (
            "charge_drop_percent" if isinstance(e, Source)
            else "drop_critical_percent" if e.critical
            else "drop_other_percent"
        )  # fmt: skip
        return self.code.limit(name), self.code.source(name)

    @staticmethod
    def conduit_limit(cables: int) -> str:
        """Name of the limit that holds for so many cables in a conduit.

        Parameters
        ----------
        cables : int
            In the conduit.
        """
        return {0: "conduit_one_percent", 1: "conduit_one_percent", 2: "conduit_two_percent"}.get(
            cables, "conduit_more_percent"
        )

    @cached_property
    def fills(self) -> tuple[Fill, ...]:
        """How full every route is, beside what this practice allows."""
        return fills(self.plan, self.parts, lambda cables: self.code.limit(self.conduit_limit(cables)) / 100.0)

    def chain(self, e: Equipment, terminal: str) -> list[Run]:
        """Runs from a terminal of equipment back to the first hub, in that order."""
        return chain(self.plan, e.ref(terminal))
