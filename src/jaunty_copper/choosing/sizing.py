"""Conductors and devices that follow their load: sized for their place, one circuit or many at once."""

from collections.abc import Callable, Iterable, Iterator, Mapping
from dataclasses import dataclass, field
from typing import Any

from jaunty_copper.assessment.assessment import Assessment
from jaunty_copper.choosing.devices import RANK, Choice, that_fit
from jaunty_copper.choosing.putting import device_like
from jaunty_copper.codes.case import Case
from jaunty_copper.codes.interrupting import interrupting
from jaunty_copper.fabrication.prices import device_price
from jaunty_copper.plan import edits
from jaunty_copper.plan.model import (
    Breaker,
    Converter,
    CurrentLoad,
    Equipment,
    Fuse,
    Inverter,
    Plan,
    Run,
    Source,
    split_ref,
)
from jaunty_copper.plan.topology import chain

LOW_VOLTAGE = 0.92
"""Share of the nominal voltage at which a load of constant power is taken to draw its current: a bank under load."""
WARM_OHM_MM2_M = 0.0215
"""Resistivity of copper at about 65 C, for a first size; the study decides."""
OF_DROP = 0.7
"""Share of the permitted drop that a circuit's own conductors may take at first: the rest is lost in the trunk."""
SMALLEST_MM2 = 2.0
"""Thinnest conductor that is proposed: what is thinner breaks; 16 AWG by ABYC E-11, check the edition."""
CANDIDATES = 3
"""How many devices are tried at one place, the cheapest first."""
PROVISIONAL = "class-t-fuse"
"""Family that stands in until the place is studied: it comes in every rating up to 600 A."""
TRIES = 5
"""How many thicker sizes are tried without fewer findings."""
HELPED_BY_COPPER = frozenset({
    "ampacity", "voltage_drop", "lowest_voltage", "device_too_large", "device_too_small", "fault_withstand", "slow_opening",
    "conventional_current", "surge_opens", "branch_unprotected", "feeds_too_strong",
})  # fmt: skip


@dataclass
class _Port:
    """A port of equipment with what follows its load there.

    Attributes
    ----------
    amps, needs : float
        What flows there, and what a device must be rated for, A.
    own : frozenset of str
        Where a finding is the circuit's own.
    tried : list of (int, dict)
        How much was wrong with each set of sizes, and the things themselves.
    """

    e: Equipment
    refs: tuple[str, ...]
    runs: list[str]
    devices: list[str]
    amps: float
    needs: float
    own: frozenset[str]
    tried: list[tuple[int, dict[str, Any]]] = field(default_factory=list)

    @property
    def best(self) -> int:
        """The set of sizes with least that is wrong, the first of them."""
        return min(range(len(self.tried)), key=lambda k: self.tried[k][0])

    @property
    def settled(self) -> bool:
        """Whether nothing is wrong, or thicker conductors have not helped for long."""
        return self.tried[self.best][0] == 0 or len(self.tried) - self.best > TRIES


def sized(plan: Plan, *equipment_ids: str, overtaken: Callable[[], bool] = lambda: False) -> Plan:
    """Give what follows the loads of some equipment its sizes; what a person chose stays as it is.

    The smallest conductors by ampacity and drop, and the cheapest device that fits each place, from a closed form
    first; then thicker ones while the rules find something that copper helps, and that helps. All circuits are
    tried together: one assessment judges them all.

    Parameters
    ----------
    overtaken : callable
        Asked now and then whether to stop where it is.
    """
    if not any(True for id_ in equipment_ids for _ in _ports(plan, id_, 1.0)):
        return plan
    case = Assessment(plan).case
    share = max(case.code.limit("continuous_share"), 1.0)
    ports = [p for id_ in dict.fromkeys(equipment_ids) for p in _ports(plan, id_, share)]
    changes, devices = dict[str, dict[str, Any]](), dict[str, Any]()
    for port in ports:
        _first_sizes(case, plan, port, changes, devices)
    plan = edits.change_each(_with_things(plan, devices), changes)
    ahead = ports
    while ahead and not overtaken():
        wanted = {id_: p.needs for p in ahead for id_ in p.devices}
        known, plan, unfit = _with_devices(Assessment(plan), plan, wanted)
        wrong = [f.place for f in known.failing(HELPED_BY_COPPER)]
        going, kept, thicker = list[_Port](), dict[str, Any](), dict[str, dict[str, Any]]()
        for p in ahead:
            count = sum(id_ in unfit for id_ in p.devices) + sum(place in p.own for place in wrong)
            p.tried.append((count, _things(plan, (*p.runs, *p.devices))))
            sizes = {} if p.settled else _thicker(known.case, plan, p.runs)
            if sizes:
                thicker |= sizes
                going.append(p)
            else:
                kept |= p.tried[p.best][1]
        plan, ahead = edits.change_each(_with_things(plan, kept), thicker), going
    return plan


def _ports(plan: Plan, equipment_id: str, share: float) -> Iterator[_Port]:
    """The ports of a piece of equipment at which something follows its load: a converter's output before its input."""
    e = plan.by_id[equipment_id]
    assert isinstance(e, Equipment)
    sides = [(e.port, rated_current(e))]
    if isinstance(e, Converter):
        sides.insert(0, ((e.ref("out_plus"), e.ref("out_minus")), e.current_a))
    for refs, amps in sides:
        runs = [r.id for ref in refs for r in chain(plan, ref) if r.follows_load]
        devices = [x.id for x in _devices(plan, refs) if x.follows_load]
        if runs or devices:
            at = {e.id, *runs, *devices} if refs == e.port else {*runs, *devices}
            yield _Port(e, tuple(refs), runs, devices, amps, amps * share, frozenset(at))


def _devices(plan: Plan, port: Iterable[str]) -> Iterator[Fuse | Breaker]:
    ends = {split_ref(ref)[0] for terminal in port for r in chain(plan, terminal) for ref in (r.a, r.b)}
    for x in plan.items:
        if x.id in ends and isinstance(x, Fuse | Breaker):
            yield x


def rated_current(e: Equipment) -> float:
    """Most a piece of equipment draws or gives for long, A, by its own figures."""
    low = LOW_VOLTAGE * e.nominal_v
    match e:
        case Inverter():
            return (e.power_w / e.efficiency + e.idle_w) / max(low, e.cut_out_v or 0.0)
        case Converter():
            return (e.set_v * e.current_a / e.efficiency + e.idle_w) / low
        case CurrentLoad() | Source():
            return e.current_a
    return float(getattr(e, "power_w", 0.0)) / low


def _first_sizes(case: Case, plan: Plan, p: _Port, changes: dict[str, dict[str, Any]], devices: dict[str, Any]) -> None:
    """Sizes by a closed form, and devices that carry the load: a smaller one's resistance would hide what flows.

    Parameters
    ----------
    changes, devices : dict
        Taken into: what changes of conductors, and the devices in the place of others, by their ids.
    """
    needs = p.needs
    if p.devices:
        # A device stands between: the conductor must permit the next rating that carries the load.
        needs = next((r for r in case.parts.device_ratings_a if r >= needs), needs)
    for id_ in p.devices:
        devices[id_] = device_like(plan.by_id[id_], "fuse", PROVISIONAL, needs, follows_load=True)
    both = sum(r.length_m for ref in p.refs for r in chain(plan, ref))
    may_lose = OF_DROP * case.drop_limit(p.e)[0] / 100.0 * p.e.nominal_v
    area = max(WARM_OHM_MM2_M * both * p.amps / max(may_lose, 1e-6), SMALLEST_MM2)
    for id_ in p.runs:
        sizes = case.sizes_of(plan.run_by_id[id_])
        fits = next((s.id for s, able in sizes if able >= needs and s.area_mm2 >= area), sizes[-1][0].id)
        changes[id_] = {"conductor": fits, "follows_load": True}


def _thicker(case: Case, plan: Plan, ids: list[str]) -> dict[str, dict[str, Any]]:
    """The next size for each of some runs; nothing where the thickest is laid already."""
    sizes = {id_: case.smallest_conductor(plan.run_by_id[id_], 0.0) for id_ in ids}
    if None in sizes.values():
        return {}
    return {id_: {"conductor": size, "follows_load": True} for id_, size in sizes.items()}


def _with_devices(known: Assessment, plan: Plan, wanted: Mapping[str, float]) -> tuple[Assessment, Plan, set[str]]:
    """The cheapest device that fits each place, assessed with all of them in place.

    Parameters
    ----------
    wanted : mapping
        By device, what it must carry, A.

    Returns
    -------
    Assessment, Plan, set of str
        The plan with them, and where none fits: what stands there stays.
    """
    fit = {
        id_: [c for c in that_fit(known.case, id_, low_a=needs) if c.rating_a is not None]
        for id_, needs in wanted.items()
    }
    ahead = {id_: sorted(found, key=_cheapest)[:CANDIDATES] for id_, found in fit.items()}
    while ahead := {id_: rest for id_, rest in ahead.items() if rest}:
        new = dict[str, Fuse | Breaker]()
        for id_, rest in ahead.items():
            c = rest.pop(0)
            assert c.rating_a is not None
            device = device_like(plan.by_id[id_], c.family.kind, c.family.id, c.rating_a, follows_load=True)
            if device == plan.by_id[id_]:
                # It stands there already.
                rest.clear()
            else:
                new[id_] = device
        if not new:
            break
        fitted = edits.checked(_with_things(plan, new))
        # With its own resistance in place another current may flow.
        then = Assessment(fitted)
        poor = [id_ for id_ in new if not interrupting(then.case, id_).is_enough]
        for id_ in new.keys() - set(poor):
            ahead[id_].clear()
        if poor:
            plan = _with_things(fitted, _things(plan, poor))
            known = Assessment(plan)
        else:
            known, plan = then, fitted
    return known, plan, {id_ for id_, found in fit.items() if not found}


def _cheapest(c: Choice) -> tuple[int, float]:
    assert c.rating_a is not None
    return RANK[c.selective], device_price(c.family, c.rating_a)


def _things(plan: Plan, ids: Iterable[str]) -> dict[str, Any]:
    """Conductors and devices as they are in a plan."""
    return {id_: plan.run_by_id.get(id_) or plan.by_id[id_] for id_ in ids}


def _with_things(plan: Plan, things: Mapping[str, Any]) -> Plan:
    """A plan with some conductors and devices as they were in another one."""
    return plan.model_copy(
        update={
            "runs": tuple(things.get(r.id, r) for r in plan.runs),
            "items": tuple(things.get(x.id, x) for x in plan.items),
        }
    )


# Changes


def change(plan: Plan, id_: str, **fields: Any) -> Plan:
    """Change fields of a thing; a circuit that follows its load is sized anew where it is touched.

    Raises
    ------
    EditError
        As `edits.change`.
    """
    return change_many(plan, {id_: fields})


def change_field(plan: Plan, id_: str, field: str, value: Any) -> Plan:
    """Change one field by its name, as `change`."""
    return change(plan, id_, **{field: value})


def change_many(plan: Plan, changes: Mapping[str, Mapping[str, Any]]) -> Plan:
    """Change fields of several things, by their ids; circuits that follow their loads are sized anew, all at once."""
    plan = edits.change_each(plan, changes)
    touched = {id_ for id_, fields in changes.items() if not (edits.SIZES & fields.keys() or fields.keys() <= {"name"})}
    if not touched or not _any_follows(plan):
        return plan
    runs = {id_ for id_ in touched if isinstance(plan.run_by_id.get(id_), Run)}
    ids = [
        e.id for e in plan.equipment
        if e.id in touched or (runs and any(r.id in runs for ref in _all_refs(e) for r in chain(plan, ref)))
    ]  # fmt: skip
    return sized(plan, *ids)


def _all_refs(e: Equipment) -> Iterator[str]:
    return (e.ref(t) for t in e.terminal_names)


def _any_follows(plan: Plan) -> bool:
    return any(r.follows_load for r in plan.runs) or any(getattr(x, "follows_load", False) for x in plan.items)
