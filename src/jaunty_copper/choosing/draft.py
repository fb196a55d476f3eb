"""Whole plans from a list of equipment: bank, bars, converters, circuits, protection; several, to choose from."""

from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass, replace
from functools import cached_property
from itertools import groupby
from math import ceil

from jaunty_copper.assessment.assessment import Assessment
from jaunty_copper.battery.needs import Needs, needs
from jaunty_copper.choosing.beginning import SYSTEMS_V, USUAL_AIR_C, Beginning, Bonding, begun
from jaunty_copper.choosing.changes import QUESTIONS
from jaunty_copper.choosing.protect import protect
from jaunty_copper.choosing.wiring_up import wire_up
from jaunty_copper.codes.checks import Finding
from jaunty_copper.fabrication.materials import workshop_of
from jaunty_copper.language import say, say_many
from jaunty_copper.network.wiring import wire
from jaunty_copper.parts.catalogue import library
from jaunty_copper.parts.models import Chemistry
from jaunty_copper.plan import edits
from jaunty_copper.plan.edits import EditError
from jaunty_copper.plan.model import (
    AnyEquipment,
    Converter,
    CurrentLoad,
    Inverter,
    Load,
    Plan,
    Practice,
    Scenario,
    Source,
)

UNITS_AH = (30.0, 50.0, 80.0, 100.0, 120.0, 150.0, 180.0, 200.0, 230.0, 280.0)
"""Capacities that units are sold in; representative."""
MOST_PARALLEL = 6
CONVERTERS_A = (5.0, 10.0, 15.0, 20.0, 30.0, 40.0, 50.0, 60.0, 80.0, 100.0)
"""Currents that converters are sold for; representative."""
OVER_CONVERTER = 1.25
"""Current of a converter over that of its loads together."""
OUTPUT_LIFT = 1.05
"""A converter's set voltage over its loads' nominal: room for the drop on the way."""
LOSSES = 1.12
"""What loads behind a converter take over their own: its efficiency and its idling."""
SPARE = 1.1
"""What a bank holds and gives over what is asked."""
LOWEST_SHARE = 0.9
"""Of its nominal voltage, what a bank still has when it is nearly empty."""
MOST_A = 300.0
"""Beyond that a higher voltage is the answer, not more copper."""
USUAL = ("lifepo4", "agm")
"""Chemistries that are tried where any will do."""
MENDS = 12


@dataclass(frozen=True)
class Brief:
    """What whole plans are drafted for, besides the equipment.

    Attributes
    ----------
    practice : str
        The code.
    chemistry : str or None
        Of the units; any where None.
    autonomy_days : float
        Without any source.
    bonding : str
        Which pole is joined to chassis or earth.
    air_c : float
        Where the bank stands, C.
    """

    practice: Practice
    chemistry: str | None = None
    autonomy_days: float = 1.0
    bonding: Bonding = "minus"
    air_c: float = USUAL_AIR_C


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
    """

    begun: Beginning
    plan: Plan | None
    why_not: str = ""

    @property
    def title(self) -> str:
        """Voltage and units."""
        b = self.begun
        label = library().battery_chemistries[b.chemistry].label
        return say(
            "{volts:g} V: {series} x {parallel} of {label} {unit_v:g} V {unit_ah:g} Ah",
            volts=b.system_v, series=b.series, parallel=b.parallel, label=label, unit_v=b.unit_v, unit_ah=b.unit_ah,
        )  # fmt: skip

    @cached_property
    def known(self) -> Assessment:
        """The plan, judged."""
        assert self.plan is not None
        return Assessment(self.plan)

    @cached_property
    def findings(self) -> tuple[Finding, ...]:
        """What is wrong with it, questions apart."""
        return tuple(f for f in self.known.findings if f.rule.id not in QUESTIONS)

    @cached_property
    def needs(self) -> Needs:
        """What its equipment asks of its bank."""
        return needs(self.known.wiring)

    @cached_property
    def price(self) -> float:
        """Of all that is bought, by the plan's own prices or representative ones, without equipment."""
        return workshop_of(self.known.wiring).total

    @cached_property
    def copper_kg(self) -> float:
        """Of cables."""
        w = self.known.wiring
        return sum(w.parts.conductors[r.conductor].area_mm2 * r.length_m * r.parallel * 8.89e-3 for r in w.plan.runs)

    @cached_property
    def loss_w(self) -> float:
        """In conductors, joints and devices, in the scenario in which most is lost."""
        found = [0.0]
        for s in self.known.study.states:
            if s.solved and not s.momentary:
                runs = [r.id for r in s.wiring.plan.runs if r.id in s.wiring.branch]
                found.append(sum(abs(s.current(r) * s.drop(r)) for r in runs))
        return max(found)

    @cached_property
    def fault_a(self) -> float:
        """Greatest prospective short-circuit current."""
        return max((self.known.protection.faults.prospective(d)[0] for d in self.known.protection.devices), default=0.0)


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
        say_many(
            "It asks for {count} converter, which must not fail.",
            "It asks for {count} converters, which must not fail.",
            converters,
        )
        if converters
        else say("Nothing in it needs a converter.")
    )
    first = say("For it: {good}.", good=", ".join(good)) if good else say("In the middle by every figure.")
    second = say(" Against it: {bad}. {asks}", bad=", ".join(bad), asks=asks) if bad else f" {asks}"
    return first + second


def drafts(
    plan: Plan,
    brief: Brief,
    overtaken: Callable[[], bool] = lambda: False,
    progress: Callable[[str], None] = lambda _: None,
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
    """
    for volts, chemistry, unit_v in _combinations(plan, brief):
        if overtaken():
            return
        kind = library().with_own(plan.parts).battery_chemistries[chemistry]
        progress(say("{volts:g} V, {label}, units of {unit_v:g} V", volts=volts, label=kind.label, unit_v=unit_v))
        equipment = adapted(plan, volts, kind)
        beginning = _bank(plan, brief, volts, chemistry, unit_v, equipment)
        if isinstance(beginning, str):
            yield Draft(
                Beginning(
                    volts, chemistry, unit_v, UNITS_AH[-1], MOST_PARALLEL, brief.practice, brief.bonding, brief.air_c
                ),
                None,
                beginning,
            )
            continue
        try:
            yield _drafted(plan, brief, beginning, equipment, overtaken)
        except EditError as error:
            yield Draft(beginning, None, str(error))


def _combinations(plan: Plan, brief: Brief) -> list[tuple[float, str, float]]:
    """System voltage, chemistry, unit voltage: lithium in units of the system's voltage too, lead of 12 V in series."""
    found: list[tuple[float, str, float]] = []
    for volts in SYSTEMS_V:
        for chemistry in (brief.chemistry,) if brief.chemistry else USUAL:
            lead = library().with_own(plan.parts).battery_chemistries[chemistry].gas_boost_ma_ah > 0.0
            found.append((volts, chemistry, 12.0))
            if volts > 12.0 and not lead:
                found.append((volts, chemistry, volts))
    if brief.chemistry is None:
        # Of lithium for 48 V the unit of that voltage; four in series have four management systems to agree.
        found = [c for c in found if c != (48.0, "lifepo4", 12.0)]
    return found


def adapted(plan: Plan, volts: float, kind: Chemistry) -> tuple[AnyEquipment, ...]:
    """Equipment as it would be bought for a system voltage: inverters and sources for it, a converter for other loads.

    Parameters
    ----------
    plan : Plan
        For its equipment; its own converters are left out.
    volts : float
        Nominal voltage of the system.
    kind : Chemistry
        Decides what sources hold.
    """
    cells = round(kind.cells_per_12v * volts / 12.0)
    found: list[AnyEquipment] = []
    for e in plan.equipment:
        if isinstance(e, Converter):
            continue
        times = volts / e.nominal_v
        fields: dict[str, object] = (
            {"sense_plus": None, "sense_minus": None, "probe": None} if isinstance(e, Source) else {}
        )
        if isinstance(e, Load):
            fields["drives"] = None
        if isinstance(e, Source):
            same_power = round(e.current_a / times, 1)
            fields |= {
                "nominal_v": volts, "set_v": round(cells * kind.full_v, 2), "current_a": same_power, "float_v": None, "compensation_mv_k": 0.0,
            }  # fmt: skip
        elif isinstance(e, Inverter):
            fields |= {"nominal_v": volts} | {
                n: round(v * times, 2) for n in ("cut_out_v", "min_v") if (v := getattr(e, n)) is not None
            }
            if e.input_uf is not None:
                fields["input_uf"] = e.input_uf / times**2
        found.append(e.model_copy(update=fields))
    return (*_converters(plan, found, volts), *found)


def _converters(plan: Plan, equipment: Sequence[AnyEquipment], volts: float) -> Iterator[Converter]:
    """A converter for the loads of each other voltage."""
    other = sorted((e for e in equipment if isinstance(e, Load) and e.nominal_v != volts), key=lambda e: e.nominal_v)
    taken = {x.id for x in plan.placed}
    for out_v, loads in groupby(other, key=lambda e: e.nominal_v):
        running, starts = zip(*(_amps(e, out_v) for e in loads), strict=True)
        # What starts with the largest surge does so while all else runs.
        amps = sum(running) + max(s - r for r, s in zip(running, starts, strict=True)) / OVER_CONVERTER
        wanted = OVER_CONVERTER * amps
        rating = next((a for a in CONVERTERS_A if a >= wanted), ceil(wanted / 10.0) * 10.0)
        id_ = next(n for k in range(1, len(taken) + 2) if (n := f"CV{k}") not in taken)
        taken.add(id_)
        yield Converter(
            id=id_, name=say("{out:g} V converter", out=out_v), nominal_v=volts, out_nominal_v=out_v,
            set_v=round(out_v * OUTPUT_LIFT, 2), current_a=rating, idle_w=2.0, isolated=False, distance_m=1.0,
        )  # fmt: skip


def _amps(e: Load, volts: float) -> tuple[float, float]:
    """What a load takes when it runs, and when it starts, A."""
    running = e.current_a if isinstance(e, CurrentLoad) else e.power_w / volts  # type: ignore[attr-defined]
    surge = e.surge_a if isinstance(e, CurrentLoad) else (getattr(e, "surge_w", None) or 0.0) / volts
    return running, max(surge or 0.0, running)


def _bank(
    plan: Plan, brief: Brief, volts: float, chemistry: str, unit_v: float, equipment: Sequence[AnyEquipment]
) -> Beginning | str:
    """The smallest bank that gives what is asked, lasts as long, and takes what sources give; or why there is none."""
    kind = library().with_own(plan.parts).battery_chemistries[chemistry]
    # Nothing is wired yet: all of it counts at the bank's own voltage, behind converters a little more.
    loose = plan.model_copy(update={"items": (), "runs": (), "equipment": tuple(e for e in equipment if not isinstance(e, Converter)), "scenarios": _scenarios(plan, equipment)})  # fmt: skip
    asked = needs(wire(loose))
    behind = sum(e.set_v * e.current_a / OVER_CONVERTER for e in equipment if isinstance(e, Converter))
    lasting = max((s.nominal_a for s in asked.states if not s.momentary), default=0.0) * asked.nominal_v / volts
    current = (lasting + (LOSSES - 1.0) * behind / volts) / LOWEST_SHARE
    if current > MOST_A:
        return say(
            "{current:.0f} A for good ask for a higher voltage: more than {most:g} A are bars and paired cables",
            current=current,
            most=MOST_A,
        )
    charge = sum(e.current_a for e in equipment if isinstance(e, Source))
    wh = (LOSSES if behind else 1.0) * asked.used_wh * brief.autonomy_days / kind.usable_fraction
    ah = SPARE * max(wh / volts, current / kind.max_discharge_c, charge / kind.max_charge_c)
    strings = max(1, ceil(ah / UNITS_AH[-1]))
    if strings > MOST_PARALLEL:
        return say(
            "{ah:.0f} Ah would be {strings} strings in parallel: more than {most} never share well", ah=ah, strings=strings, most=MOST_PARALLEL,
        )  # fmt: skip
    unit_ah = next(a for a in UNITS_AH if a * strings >= ah or a == UNITS_AH[-1])
    return Beginning(
        volts, chemistry, unit_v, unit_ah, strings, brief.practice, brief.bonding, brief.air_c, max(current, charge)
    )


def _scenarios(plan: Plan, equipment: Sequence[AnyEquipment]) -> tuple[Scenario, ...]:
    """A plan's scenarios, of the equipment that is still there."""
    ids = {e.id for e in equipment}
    kept = tuple(
        s.model_copy(update={"states": {k: v for k, v in s.states.items() if k in ids}}) for s in plan.scenarios
    )
    return kept or (Scenario(id="all", name=say("Everything on")),)


def _drafted(
    plan: Plan, brief: Brief, beginning: Beginning, equipment: Sequence[AnyEquipment], overtaken: Callable[[], bool]
) -> Draft:
    core = begun(beginning)
    taken = {x.id for x in (*core.items, *core.runs)}
    clash = {e.id: edits.fresh_id(core, "E", [*taken, *(x.id for x in equipment)]) for e in equipment if e.id in taken}
    own = tuple(e.model_copy(update={"id": clash.get(e.id, e.id)}) for e in equipment)
    zones = {z.id for z in core.zones}
    drawn = edits.change_plan(
        core,
        name=plan.name, note=plan.note, equipment=own, scenarios=_scenarios(plan, own),
        zones=(*core.zones, *(z for z in plan.zones if z.id not in zones)), autonomy_days=brief.autonomy_days,
        overrides=plan.overrides, devices_by=plan.devices_by, prices=plan.prices, stock=plan.stock, reels_m=plan.reels_m,
        sun=plan.sun, parts=plan.parts, stud_material=plan.stud_material, torques=plan.torques,
    )  # fmt: skip
    wired = wire_up(drawn, overtaken)
    if wired.left:
        id_, why = next(iter(wired.left.items()))
        return Draft(beginning, None, f"{drawn.by_id[id_].title}: {why}")
    made = Draft(beginning, _in_order(wired.plan, overtaken))
    if made.findings:
        return replace(made, why_not=made.findings[0].headline)
    return made


def _in_order(plan: Plan, overtaken: Callable[[], bool]) -> Plan:
    """A plan with its findings mended, as far as fixes and other devices can; each fix is taken where less is wrong with it."""

    def wrong(p: Plan) -> list[Finding]:
        return [f for f in Assessment(p).findings if f.rule.id not in QUESTIONS]

    found, tried = wrong(plan), set[str]()
    for _ in range(MENDS):
        if not found or overtaken():
            return plan
        better = None
        for f in found:
            edit = f.fix() if f.headline not in tried else None
            tried.add(f.headline)
            if edit is None:
                continue
            fixed = edit.apply(plan)
            left = wrong(fixed)
            if len(left) < len(found):
                better = fixed, left
                break
        if better is None:
            break
        plan, found = better
    return protect(plan, overtaken=overtaken).plan if found else plan
