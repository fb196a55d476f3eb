"""The core of a new plan: bank, main protection, switch, bars, shunt, bond, sized to go with one another."""

from dataclasses import dataclass, replace
from math import ceil
from typing import Any, Literal

from jaunty_copper.assessment.assessment import Assessment
from jaunty_copper.battery.building import MOST, fuse_strings, reshape
from jaunty_copper.battery.patterns import arrange
from jaunty_copper.choosing.changes import QUESTIONS
from jaunty_copper.choosing.devices import that_fit
from jaunty_copper.choosing.protect import protect
from jaunty_copper.choosing.putting import put_device
from jaunty_copper.codes.checks import Finding
from jaunty_copper.codes.code import code_of
from jaunty_copper.codes.rules.faults import UNSURE_TIMES
from jaunty_copper.codes.rules.hydrogen import opening_cm2
from jaunty_copper.codes.rules.ratings import rated
from jaunty_copper.language import say
from jaunty_copper.parts.catalogue import library
from jaunty_copper.plan import edits
from jaunty_copper.plan.edits import EditError
from jaunty_copper.plan.model import (
    OPEN_AIR,
    Bar,
    BarStud,
    Battery,
    Chassis,
    ChassisPoint,
    Disconnect,
    Fuse,
    Plan,
    Practice,
    Run,
    Scenario,
    Shunt,
    Zone,
    split_ref,
)
from jaunty_copper.plan.supply import supply_of
from jaunty_copper.plan.topology import bonds_of

Bonding = Literal["minus", "plus", "floating", "not said"]
SYSTEMS_V = (12.0, 24.0, 48.0)
STUDS = 6
MINUS_BAR = "M1"
"""Its id in a core."""
GAP_MM = 75.0
"""Between the bars of both poles: a spanner does not reach across, and the force of a short stays small."""
MOST_MAIN_A = 200.0
"""Largest main device that is proposed before anything is known of the loads."""
MAIN_TIMES = 1.25
"""Rating of the main device over what is to flow for good: what codes ask of continuous load."""
BAR_TIMES = 2.0
"""Rating of the bars over the main device's: what chargers bring comes on top."""
SWITCH_TIMES = 1.25
"""Rated voltage of a switch over the system's: charged units stand above it."""
LEAD_TIMES = 1.25
"""Ampacity of the leads over the main device's rating: fuses carry a little more than that for minutes."""
LARGE_AH = 150.0
"""Capacity from which a unit's posts take M10; representative."""
STRING_TIMES = 1.5
"""Rating of a string's own device over its even share of the main device's: strings never share evenly."""
FIRST_M, LEAD_M = 0.1, 0.5
FIXES = 8
"""Most of what a second bank makes wrong elsewhere that is mended with it."""
USUAL_AIR_C = 25.0


@dataclass(frozen=True)
class Beginning:
    """What a new plan begins with.

    Attributes
    ----------
    system_v : float
        Nominal voltage between its bars.
    chemistry, unit_v, unit_ah : str, float, float
        Of one unit.
    parallel : int
        Strings of units.
    practice : str
        The code by which it is judged.
    bonding : str
        Which pole is joined to chassis or earth, if any; not said where nobody knows yet.
    air_c : float
        Air where it stands, C.
    least_a : float or None
        What flows for good, where that is known: the main device is for that; else for what the bank gives.
    """

    system_v: float = 12.0
    chemistry: str = "lifepo4"
    unit_v: float = 12.0
    unit_ah: float = 100.0
    parallel: int = 1
    practice: Practice = "north_american_small_craft"
    bonding: Bonding = "not said"
    air_c: float = USUAL_AIR_C
    least_a: float | None = None

    @property
    def series(self) -> int:
        """Units in a string.

        Raises
        ------
        EditError
            None make up the system's voltage.
        """
        found = round(self.system_v / self.unit_v)
        if not 1 <= found <= MOST or abs(found * self.unit_v - self.system_v) > 0.1 * self.system_v:
            raise EditError(
                say(
                    "no number of {unit_v:g} V units in series makes {system_v:g} V",
                    unit_v=self.unit_v,
                    system_v=self.system_v,
                )
            )
        return found


def begun(b: Beginning) -> Plan:
    """Draw the core, without a finding where the library has parts for it.

    Raises
    ------
    EditError
        The units do not make up the voltage.
    """
    plan = _sketched(b)
    mains = {x.id for x in plan.items if isinstance(x, Fuse)}
    case = Assessment(plan).case
    unit = plan.by_id["B1"]
    assert isinstance(unit, Battery)
    most = b.parallel * (
        unit.max_discharge_a or case.parts.battery_chemistries[b.chemistry].max_discharge_c * b.unit_ah
    )
    ratings = case.parts.device_ratings_a
    if b.least_a is None:
        main = max((r for r in ratings if r <= min(most, MOST_MAIN_A)), default=ratings[0])
    else:
        main = next((r for r in ratings if r >= MAIN_TIMES * b.least_a), ratings[-1])
    wide = next(r for r in ratings if r >= 1.25 * main)
    for x in plan.items:
        if isinstance(x, Disconnect):
            plan = edits.change(
                plan, x.id, rating_a=max(x.rating_a, wide), max_v=max(x.max_v, SWITCH_TIMES * b.system_v)
            )
        elif isinstance(x, Shunt):
            plan = edits.change(plan, x.id, rating_a=max(x.rating_a, wide))
        elif isinstance(x, Fuse):
            plan = put_device(plan, x.id, "fuse", x.family, main)
    plan = _with_strings(b, plan, main)
    case = Assessment(plan).case
    for x in plan.items:
        if isinstance(x, Bar) and x.rating_a < BAR_TIMES * main:
            # Bars of the bank: what charges it comes on top of what it gives.
            plan = rated(case, x.id, next((r for r in ratings if r >= BAR_TIMES * main), ratings[-1])).apply(plan)
    plan = _with_leads(plan, main, mains)
    for id_ in ("F1", "F2"):
        # Those of strings stay as small as they are: all of them together feed a fault in one.
        if id_ in mains:
            plan = _able(plan, id_, main)
    known = Assessment(plan)
    wrong = any(f.rule.id not in QUESTIONS for f in known.findings)
    return protect(plan, known=known).plan if wrong else plan


def _able(plan: Plan, id_: str, rating_a: float) -> Plan:
    """The best family at a place; one that interrupts more than the bank is likely to drive, if there is one."""
    case = Assessment(plan).case
    fits = that_fit(case, id_, low_a=rating_a)
    volts, most = case.operating_v(case.protection.devices[id_].item), case.protection.faults.prospective(id_)[0]
    sure = [c for c in fits if (c.family.interrupt_a(volts) or 0.0) >= UNSURE_TIMES * most]
    for best in (*sure, *fits):
        if rating_a in case.parts.ratings(best.family):
            return put_device(plan, id_, best.family.kind, best.family.id, rating_a)
    return plan


def _with_strings(b: Beginning, plan: Plan, main_a: float) -> Plan:
    """Strings as the code wants them: one lug a post where it says so, a device to each from as many on as it says."""
    code, ratings = code_of(b.practice), library().device_ratings_a
    apart = b.parallel >= 2 and code.limit("lugs_per_stud") < 2
    if apart:
        plan = arrange(plan, "B1", "bars")
    # Led to bars, the main device stands too far from the posts to guard the leads.
    if apart or b.parallel > code.limit("strings_without_protection"):
        own = next(r for r in ratings if r >= STRING_TIMES * main_a / b.parallel)
        hot = "minus" if b.bonding == "plus" else "plus"
        for pole in ("plus", "minus") if b.bonding == "floating" else (hot,):
            plan = fuse_strings(plan, "B1", own, pole)
    return plan


def _with_leads(plan: Plan, main_a: float, mains: set[str]) -> Plan:
    """Conductors that carry what the main device lets through; links of the bank as thick."""
    case = Assessment(plan).case
    bank = case.wiring.banks[0]
    post = case.plan.by_id["B1"]
    assert isinstance(post, Battery)
    strings = [x.rating_a for x in plan.items if isinstance(x, Fuse) and x.id not in mains]
    # Into a fault in one string all others let what they are rated for.
    others = (len(bank.strings) - 1) * max(strings, default=0.0)
    for run in plan.runs:
        needs = max(LEAD_TIMES * main_a, others if run.id in bank.inside else 0.0)
        sizes = case.sizes_of(run)
        fits = next((s for s, able in sizes if able >= needs), sizes[-1][0])
        if fits.area_mm2 > case.parts.studs[post.thread].lug_max_mm2:
            # No lug of it goes on the units' posts: what carries the device's rating itself has to do.
            fits = next((s for s, able in sizes if able >= max(main_a, others if run.id in bank.inside else 0.0)), fits)
        plan = edits.change(plan, run.id, conductor=fits.id)
    # One size from the posts to the bars, and of the bond: posts, whose own column is the coolest, decide for all.
    areas = {r.conductor: case.parts.conductors[r.conductor].area_mm2 for r in plan.runs}
    main = [r for r in plan.runs if r.id not in bank.inside]
    thickest = max((r.conductor for r in main), key=lambda c: areas[c])
    largest = max((r.conductor for r in plan.runs), key=lambda c: areas[c])
    bonds = {r.id for r in bonds_of(plan)}
    for run in main:
        plan = edits.change(plan, run.id, conductor=largest if run.id in bonds else thickest)
    return plan


def _opening(b: Beginning) -> float | None:
    """Openings that the room of a bank needs each way, cm², rounded up to fives; None where nothing gathers in it."""
    unit = Battery(id="B", chemistry=b.chemistry, nominal_v=b.unit_v, capacity_ah=b.unit_ah)
    least = opening_cm2(library(), [unit] * (b.series * b.parallel))
    return 5.0 * ceil(least / 5.0) if least > 0.0 else None


def _sketched(b: Beginning) -> Plan:
    """The core with parts that are still to be sized."""
    series = b.series
    studs = tuple(BarStud(id=f"s{k}") for k in range(1, STUDS + 1))
    opening = _opening(b)
    zones = (
        ()
        if abs(b.air_c - OPEN_AIR.ambient_c) < 0.5
        else (
            Zone(id="site", name=say("Site"), ambient_c=b.air_c, ventilated=opening is not None, opening_cm2=opening),
        )
    )
    zone = room = zones[0].id if zones else None
    if library().battery_chemistries[b.chemistry].vented == "yes":
        # Vented units stand by themselves: what may spark stands elsewhere.
        zones = (
            *zones,
            Zone(id="bank", name=say("Battery room"), ambient_c=b.air_c, ventilated=True, opening_cm2=opening),
        )
        room = "bank"
    hot, other = ("minus", "plus") if b.bonding == "plus" else ("plus", "minus")
    bars = {"plus": "P1", "minus": MINUS_BAR}
    plan = Plan(
        name=say("New plan"), practice=b.practice, floating=b.bonding == "floating", zones=zones,
        items=(
            Battery(id="B1", name="", chemistry=b.chemistry, nominal_v=b.unit_v, capacity_ah=b.unit_ah, zone=room, thread="M10" if b.unit_ah > LARGE_AH else "M8"),
            Fuse(id="F1", name=say("Main fuse"), family="class-t-fuse", rating_a=100.0, zone=zone),
            Disconnect(id="Q1", name=say("Main switch"), rating_a=100.0, zone=zone),
            Bar(id="P1", name=say("Plus bar"), studs=studs, rating_a=100.0, zone=zone, gap_mm=GAP_MM, support_mm=(STUDS - 1) * 25.0),
            Bar(id=MINUS_BAR, name=say("Minus bar"), studs=studs, rating_a=100.0, zone=zone, gap_mm=GAP_MM, support_mm=(STUDS - 1) * 25.0),
            Shunt(id="S1", name="Shunt", rating_a=100.0, monitor_fuse_a=1.0, zone=zone),
        ),
        runs=(
            _run("W1", f"B1.{hot}", "F1.a", FIRST_M, zone), _run("W2", "F1.b", "Q1.a", LEAD_M, zone),
            _run("W3", "Q1.b", f"{bars[hot]}.s1", LEAD_M, zone), _run("W4", f"{bars[other]}.s1", "S1.b", LEAD_M, zone),
            _run("W5", "S1.a", f"B1.{other}", LEAD_M, zone),
        ),
        scenarios=(Scenario(id="all", name=say("Everything on")),),
    )  # fmt: skip
    if b.bonding == "floating":
        plan = edits.insert_inline(plan, "W5", Fuse(id="F2", name=say("Minus fuse"), family="class-t-fuse", rating_a=100.0, zone=zone), LEAD_M - FIRST_M)  # fmt: skip
        plan = edits.insert_inline(
            plan, "W4", Disconnect(id="Q2", name=say("Minus switch"), rating_a=100.0, zone=zone), 0.2
        )
    elif b.bonding in ("minus", "plus"):
        frame = Chassis(id="H1", name="Chassis", points=(ChassisPoint(id="p1"),))
        plan = edits.add(plan, frame, _run("W6", f"{bars[b.bonding]}.s2", "H1.p1", LEAD_M, zone))
    if (series, b.parallel) == (1, 1):
        return plan
    return reshape(plan, "B1", series, b.parallel)


def _run(id_: str, a: str, b: str, length_m: float, zone: str | None) -> Run:
    return Run(id=id_, a=a, b=b, length_m=length_m, conductor="mm2-35", zone=zone)


def another(plan: Plan, b: Beginning, called: str, minus: str | None = None) -> Plan:
    """Draw the core of one more bank into a plan, with bars of its own.

    Parameters
    ----------
    b : Beginning
        What the bank is; code and bonding are the plan's.
    called : str
        Before the names of what is drawn.
    minus : str, optional
        Id of the bar that is its minus too; a bar of its own where none is given.

    Raises
    ------
    EditError
        The units do not make up the voltage; or there is no such bar.
    """
    shared = plan.by_id.get(minus) if minus is not None else None
    if minus is not None and not isinstance(shared, Bar):
        raise EditError(say("{minus} is no bar", minus=minus))
    frame = next((x for x in plan.items if isinstance(x, Chassis) and not plan.floating and shared is None), None)
    bonding: Bonding = "floating" if plan.floating else supply_of(plan, frame).side if frame is not None else "not said"
    core = begun(replace(b, practice=plan.practice, bonding=bonding))
    before = plan
    home = {z.id: _like(plan, z) for z in core.zones}
    taken, new = {x.id for name in edits.LISTS for x in getattr(plan, name)}, dict[str, str]()
    for x in (*core.items, *core.runs, *(z for z in core.zones if home[z.id] is None)):
        stem = x.id.rstrip("0123456789")
        new[x.id] = next(n for n in (x.id, *(f"{stem}{k}" for k in range(1, len(taken) + 2))) if n not in taken)
        taken.add(new[x.id])
    new |= {id_: at for id_, at in home.items() if at is not None}

    names = [x.name for x in plan.placed]

    def moved(x: Any) -> Any:
        """A thing under its new id, in its new zone, between its new ends."""
        changes: dict[str, Any] = {"id": new[x.id]}
        if getattr(x, "zone", None) is not None:
            changes["zone"] = new[x.zone]
        for end in ("a", "b") if isinstance(x, Run) else ():
            owner, terminal = split_ref(getattr(x, end))
            changes[end] = f"{new[owner]}.{terminal}"
        name = "unit" if isinstance(x, Battery) else getattr(x, "name", "").lower()
        if name and not isinstance(x, Zone):
            changes["name"] = edits.fresh_name(names, f"{called} {name}".strip())
            names.append(changes["name"])
        return x.model_copy(update=changes)

    plan = edits.change_plan(
        plan, items=(*plan.items, *map(moved, core.items)), runs=(*plan.runs, *map(moved, core.runs)),
        zones=(*plan.zones, *(moved(z) for z in core.zones if home[z.id] is None)),
    )  # fmt: skip
    # What both banks have in common is there once.
    common = (new["H1"], frame.id) if frame is not None else (new[MINUS_BAR], shared.id) if shared is not None else None
    return _mended(plan if common is None else _led_to(plan, *common), before)


def _mended(plan: Plan, before: Plan) -> Plan:
    """A plan after the fixes of what was in order before, such as a bond too thin for what a second bank drives.

    Each is taken only where less is wrong with it than without.
    """
    known = {(f.rule.id, f.place) for f in Assessment(before).findings}

    def wrong(p: Plan) -> list[Finding]:
        return [f for f in Assessment(p).findings if (f.rule.id, f.place) not in known and f.rule.id not in QUESTIONS]

    found = wrong(plan)
    for _ in range(FIXES):
        edit = next((fix for f in found if (fix := f.fix()) is not None), None)
        if edit is None:
            break
        fixed = edit.apply(plan)
        left = wrong(fixed)
        if len(left) >= len(found):
            break
        plan, found = fixed, left
    return plan


def _like(plan: Plan, zone: Zone) -> str | None:
    """A zone of a plan that is as another is; none for a room whose openings are those of its own bank."""
    if zone.opening_cm2 is not None:
        return None
    same = (z.id for z in plan.zones if (z.ambient_c, z.ventilated) == (zone.ambient_c, zone.ventilated))
    return next(same, None)


def _led_to(plan: Plan, bar: str, shared: str) -> Plan:
    """Lead what is on a bar, or on the chassis, to another one, and take it away."""
    for run in plan.runs:
        for end in ("a", "b"):
            if split_ref(getattr(run, end))[0] == bar:
                plan, free = edits.free_terminal(plan, plan.by_id[shared], None)
                plan = edits.change(plan, run.id, **{end: free})
    return edits.remove(plan, bar)
