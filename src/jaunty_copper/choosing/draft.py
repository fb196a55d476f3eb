"""Whole plans from a list of equipment: bank, bars, converters, circuits, protection; several, to choose from."""

from collections import deque
from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass, field, replace
from functools import cached_property, partial
from typing import Any, NamedTuple

from jaunty_copper.assessment.assessment import Assessment
from jaunty_copper.battery.needs import COPPER_KG_PER_DM3, Needs, needs
from jaunty_copper.choosing.beginning import MINUS_BAR, Beginning, another, begun
from jaunty_copper.choosing.brief import (
    MOST_PARALLEL,
    UNITS_AH,
    Brief,
    adapted,
    bank_for,
    combinations,
    scenarios_for,
    second_bank,
)
from jaunty_copper.choosing.changes import QUESTIONS
from jaunty_copper.choosing.protect import protect
from jaunty_copper.choosing.side_by_side import Spread, in_turn
from jaunty_copper.choosing.wiring_up import wire_up
from jaunty_copper.codes.checks import Finding
from jaunty_copper.fabrication.materials import workshop_of
from jaunty_copper.language import say, say_many
from jaunty_copper.network.wiring import wire
from jaunty_copper.parts.catalogue import library
from jaunty_copper.plan import edits
from jaunty_copper.plan.edits import EditError
from jaunty_copper.plan.model import (
    AnyEquipment,
    Converter,
    Plan,
)

DECISIONS = QUESTIONS | {"source_end"}
"""Advice that a person decides with a maker's instructions: no plan can have settled it."""
MENDS = 12
REPORTED = ("findings", "decisions")
FIGURES = ("price", "copper_kg", "loss_w", "fault_a", *REPORTED)
"""Of a draft, what is read from its study."""


@dataclass(frozen=True)
class Draft:
    """One whole plan.

    Attributes
    ----------
    begun : Beginning
        Its bank.
    plan : Plan or None
        None where there is none.
    why_not : str
        Why there is none, or what is left wrong with it.
    second : Beginning or None
        A bank of their own for the loads of another voltage, where it has one.
    judged : Assessment or None
        The plan as it was judged when it was made, where that is known.
    """

    begun: Beginning
    plan: Plan | None
    why_not: str = ""
    second: Beginning | None = None
    judged: Assessment | None = field(default=None, repr=False, compare=False)

    def __getstate__(self) -> dict[str, Any]:
        # From another process come its figures and what is wrong with it, not the study that they were read from.
        kept = {name: self.__dict__[name] for name in FIGURES if name in self.__dict__}
        kept |= {name: tuple(f._replace(proposal=None) for f in kept[name]) for name in REPORTED if name in kept}
        return kept | {
            "begun": self.begun,
            "plan": self.plan,
            "why_not": self.why_not,
            "second": self.second,
            "judged": None,
        }

    def read(self) -> None:
        """Read all its figures from its study, while that is at hand."""
        for name in FIGURES if self.plan is not None else ():
            getattr(self, name)

    @property
    def title(self) -> str:
        """Voltage and units of its banks."""
        return say(" and ").join(_banked(b) for b in (self.begun, self.second) if b is not None)

    @cached_property
    def known(self) -> Assessment:
        """The plan, judged."""
        assert self.plan is not None
        return self.judged or Assessment(self.plan)

    @cached_property
    def findings(self) -> tuple[Finding, ...]:
        """What is wrong with it, apart from what only a person can say."""
        return tuple(f for f in self.known.findings if f.rule.id not in DECISIONS)

    @cached_property
    def decisions(self) -> tuple[Finding, ...]:
        """What a person decides with a maker's instructions."""
        return tuple(f for f in self.known.findings if f.rule.id in DECISIONS - QUESTIONS)

    @cached_property
    def needs(self) -> Needs:
        """What its equipment asks of its bank."""
        assert self.plan is not None
        return needs(wire(self.plan))

    @cached_property
    def price(self) -> float:
        """Of all that is bought, by the plan's own prices or representative ones, without equipment."""
        return workshop_of(self.known.wiring).total

    @cached_property
    def copper_kg(self) -> float:
        """Of cables."""
        w = self.known.wiring
        dm3 = sum(w.parts.conductors[r.conductor].area_mm2 * r.length_m * r.parallel for r in w.plan.runs) / 1000.0
        return dm3 * COPPER_KG_PER_DM3

    @cached_property
    def loss_w(self) -> float:
        """In conductors and their joints, in the scenario in which most is lost."""
        return self.known.study.most_lost_w

    @cached_property
    def fault_a(self) -> float:
        """Greatest prospective short-circuit current."""
        return max((self.known.protection.faults.prospective(d)[0] for d in self.known.protection.devices), default=0.0)


def _banked(b: Beginning) -> str:
    return say(
        "{volts:g} V: {series}s{parallel}p {label} {unit_v:g} V {unit_ah:g} Ah",
        volts=b.system_v, series=b.series, parallel=b.parallel, label=library().battery_chemistries[b.chemistry].label,
        unit_v=b.unit_v, unit_ah=b.unit_ah,
    )  # fmt: skip


Measure = tuple[str, str, Callable[[Draft], float]]
MEASURES: tuple[Measure, ...] = (
    (say("the cheapest"), say("the dearest"), lambda d: d.price),
    (say("least copper"), say("most copper"), lambda d: d.copper_kg),
    (say("least lost in cables"), say("most lost in cables"), lambda d: d.loss_w),
    (say("the smallest currents"), say("the largest currents"), lambda d: d.needs.continuous_a),
    (say("the lowest short-circuit current"), say("the highest short-circuit current"), lambda d: d.fault_a),
    (say("the longest autonomy"), say("the shortest autonomy"), lambda d: -d.needs.autonomy_days),
)
"""What drafts are compared by: words for the least and the most of it, and the figure."""


def decides(draft: Draft, others: Sequence[Draft]) -> str:
    """What speaks for and against a draft beside others, in two sentences.

    Parameters
    ----------
    draft : Draft
        With a plan.
    others : sequence of Draft
        All of them, itself too.
    """
    whole = [d for d in others if d.plan is not None]
    good = (
        [best for best, _, of in MEASURES if of(draft) <= min(map(of, whole)) * (1.0 + 1e-9)] if len(whole) > 1 else []
    )
    bad = (
        [worst for _, worst, of in MEASURES if of(draft) >= max(map(of, whole)) * (1.0 - 1e-9)]
        if len(whole) > 1
        else []
    )
    both = [(g, b) for g, b, of in MEASURES if g in good and b in bad]
    good, bad = [g for g in good if g not in {x for x, _ in both}], [b for b in bad if b not in {x for _, x in both}]
    plan = draft.plan
    assert plan is not None
    converters = sum(isinstance(e, Converter) for e in plan.equipment)
    asks = (
        say(
            "Loads on the second bank run on if the converter fails; what they draw when they start comes from that bank."
        )
        if draft.second is not None
        else say_many(
            "It asks for {count} converter, which must not fail.",
            "It asks for {count} converters, which must not fail.",
            converters,
        )
        if converters
        else say("Nothing in it needs a converter.")
    )
    first = (
        say("For it: {good}.", good=", ".join(good))
        if good
        else say("Best by none of the figures.")
        if bad
        else say("In the middle by every figure.")
    )
    second = say(" Against it: {bad}. {asks}", bad=", ".join(bad), asks=asks) if bad else f" {asks}"
    return first + second


class Candidate(NamedTuple):
    """What one whole plan is to be: the system voltage, V, the chemistry and the voltage of its units, V.

    Attributes
    ----------
    of_two : bool
        With a bank of their own for the loads of another voltage.
    """

    volts: float
    chemistry: str
    unit_v: float
    of_two: bool = False

    def title(self, plan: Plan) -> str:
        """What it will be, as far as that is known before."""
        kind = library().with_own(plan.parts).battery_chemistries[self.chemistry]
        words = say(
            "{volts:g} V, {label}, units of {unit_v:g} V", volts=self.volts, label=kind.label, unit_v=self.unit_v
        )
        return say("{one}, and a second bank", one=words) if self.of_two else words


def drafts(
    plan: Plan,
    brief: Brief,
    overtaken: Callable[[], bool] = lambda: False,
    progress: Callable[[str], None] = lambda _: None,
    spread: Spread = in_turn,
) -> Iterator[Draft]:
    """Whole plans for a plan's equipment, each as soon as it is made.

    Parameters
    ----------
    plan : Plan
        For its equipment, scenarios, zones, prices and stock; how it is wired does not matter.
    brief : Brief
        What else is asked.
    overtaken : callable
        Asked now and then whether to stop.
    progress : callable
        Is given what is being made.
    spread : callable
        How they are made: one after the other, or `side_by_side` in two processes.
    """
    waiting = deque(Candidate(*c) for c in combinations(plan, brief))
    two = set[float]()
    for candidate, draft in spread(partial(_made, plan, brief), waiting, overtaken, lambda c: progress(c.title(plan))):
        yield draft
        if draft.plan is not None and not draft.why_not and candidate.volts not in two:
            two.add(candidate.volts)
            of_two = candidate._replace(of_two=True)
            if _banks(plan, brief, of_two)[2] is not None:
                waiting.append(of_two)


def _made(plan: Plan, brief: Brief, candidate: Candidate, overtaken: Callable[[], bool]) -> tuple[Candidate, Draft]:
    """A candidate, and the plan that it becomes."""
    first, equipment, second = _banks(plan, brief, candidate)
    if isinstance(first, str):
        volts, chemistry, unit_v, _ = candidate
        none = Beginning(
            volts, chemistry, unit_v, UNITS_AH[-1], MOST_PARALLEL, brief.practice, brief.bonding, brief.air_c
        )
        return candidate, Draft(none, None, first)
    try:
        made = _drafted(plan, brief, first, equipment, overtaken, second)
    except EditError as error:
        return candidate, Draft(first, None, str(error), second)
    made.read()
    return candidate, made


def _banks(
    plan: Plan, brief: Brief, candidate: Candidate
) -> tuple[Beginning | str, tuple[AnyEquipment, ...], Beginning | None]:
    """A candidate's bank, or why there is none; the equipment as it would be bought; and the second bank, where it has one."""
    volts, chemistry, unit_v, of_two = candidate
    equipment = adapted(plan, volts, library().with_own(plan.parts).battery_chemistries[chemistry])
    first = bank_for(plan, brief, volts, chemistry, unit_v, equipment)
    own = second_bank(plan, brief, first, equipment) if of_two and not isinstance(first, str) else None
    return (first, own[1], own[0]) if own is not None else (first, equipment, None)


def _drafted(
    plan: Plan, brief: Brief, beginning: Beginning, equipment: Sequence[AnyEquipment], overtaken: Callable[[], bool],
    second: Beginning | None = None,
) -> Draft:  # fmt: skip
    core = begun(beginning)
    if second is not None:
        # The converter between them joins their minus poles: they have one minus bar, and one bond.
        core = another(core, second, say("{volts:g} V", volts=second.system_v), MINUS_BAR)
    own = _beside(core, plan, equipment)
    drawn = edits.change_plan(
        core,
        name=plan.name, note=plan.note, equipment=own.equipment, scenarios=own.scenarios,
        zones=(*core.zones, *(z for z in own.zones if z not in core.zones)), autonomy_days=brief.autonomy_days,
        overrides=plan.overrides, devices_by=plan.devices_by, prices=plan.prices, stock=plan.stock, reels_m=plan.reels_m,
        sun=plan.sun, parts=plan.parts, stud_material=plan.stud_material, torques=plan.torques,
    )  # fmt: skip
    wired = wire_up(drawn, overtaken)
    if wired.left:
        id_, why = next(iter(wired.left.items()))
        return Draft(beginning, None, f"{drawn.by_id[id_].title}: {why}", second)
    known = _in_order(wired.plan, overtaken)
    made = Draft(beginning, known.plan, second=second, judged=known)
    if made.findings:
        return replace(made, why_not=made.findings[0].headline)
    return made


def _beside(core: Plan, plan: Plan, equipment: Sequence[AnyEquipment]) -> Plan:
    """A plan's equipment, scenarios and zones alone, under ids that a core does not have; a zone that is the same stays."""
    own = edits.change_plan(
        Plan(), zones=plan.zones, equipment=tuple(equipment), scenarios=scenarios_for(plan, equipment)
    )
    taken = {x.id for name in edits.LISTS for x in getattr(core, name)}
    for x in (*own.zones, *own.equipment):
        if x.id in taken and x not in core.zones:
            stem = x.id.rstrip("0123456789") or "E"
            also = {*taken, *(y.id for name in edits.LISTS for y in getattr(own, name))}
            own = edits.rename(own, x.id, next(n for k in range(1, len(also) + 2) if (n := f"{stem}{k}") not in also))
    return own


def _wrong(known: Assessment) -> list[Finding]:
    return [f for f in known.findings if f.rule.id not in DECISIONS]


def _in_order(plan: Plan, overtaken: Callable[[], bool]) -> Assessment:
    """A plan with its findings mended, as far as fixes and other devices can; what is fixed is kept where less is wrong then."""
    known, tried = Assessment(plan), set[frozenset[str]]()
    found = _wrong(known)
    for _ in range(MENDS):
        if not found or overtaken():
            return known
        better = next((b for some in _to_fix(found) if (b := _fixed(known, found, some, tried)) is not None), None)
        if better is None:
            break
        known, found = better
    return protect(known.plan, overtaken=overtaken, known=known).known if found else known


def _to_fix(found: list[Finding]) -> Iterator[list[Finding]]:
    """What is fixed in one go: all that one rule finds, then one after the other."""
    for rule in dict.fromkeys(f.rule.id for f in found):
        alike = [f for f in found if f.rule.id == rule]
        if len(alike) > 1:
            yield alike
        yield from ([f] for f in alike)


def _fixed(
    known: Assessment, found: list[Finding], some: list[Finding], tried: set[frozenset[str]]
) -> tuple[Assessment, list[Finding]] | None:
    """A plan with some of its findings fixed, and what is wrong with it then; None where that is not so much less."""
    mark = frozenset(f.headline for f in some)
    if mark in tried:
        return None
    tried.add(mark)
    ways = [edit for f in some if (edit := f.fix()) is not None]
    if len(ways) < len(some):
        return None
    fixed = known.plan
    try:
        for edit in ways:
            fixed = edit.apply(fixed)
    except EditError:
        # One of them leaves nothing to the next.
        return None
    then = Assessment(fixed)
    left = _wrong(then)
    return (then, left) if len(left) <= len(found) - len(some) else None
