"""What may stand at each place of a plan, and what it costs."""

from collections.abc import Iterable, Iterator, Mapping
from dataclasses import dataclass
from functools import cached_property
from itertools import islice
from typing import Any, Literal

import numpy as np

from jaunty_copper.battery.needs import COPPER_KG_PER_DM3
from jaunty_copper.choosing.devices import that_carry
from jaunty_copper.choosing.putting import device_like
from jaunty_copper.choosing.sizing import SMALLEST_MM2, rated_current
from jaunty_copper.codes.case import Case
from jaunty_copper.fabrication.prices import device_price, lug_price, metre_of, price_of, rates
from jaunty_copper.network.study import study
from jaunty_copper.network.wiring import thread_at
from jaunty_copper.parts.models import Conductor, DeviceFamily
from jaunty_copper.plan import edits
from jaunty_copper.plan.model import Battery, Breaker, Converter, Fuse, Plan, Run, split_ref
from jaunty_copper.plan.topology import chain, distributor_of

Aim = Literal["price", "copper"]
MOST_DEVICES = 16
"""So many ratings and families are looked at in each place, the least costly first."""
BESIDE_MM2 = 50.0
"""From this section on two conductors side by side are looked at where the code has no limit of its own: nobody doubles a thin one."""
THICKEST = 20.0
"""Sizes up to so many times the thinnest that carries the current are looked at."""
ROUNDED = 0.999
"""What may carry so much of the least that ever flows is left to the rules."""


@dataclass(frozen=True)
class SizeOption:
    """What may stand at a place.

    Attributes
    ----------
    fields : dict
        Fields that it sets.
    label : str
        It in words.
    price, copper_kg : float
        Of all that stands at the place.
    area_mm2 : float
        Section of a conductor, all that lie side by side together; 0 of a device.
    """

    fields: dict[str, Any]
    label: str
    price: float
    copper_kg: float
    area_mm2: float = 0.0

    @property
    def each_mm2(self) -> float:
        """Section of each of the conductors that lie side by side, mm2."""
        return self.area_mm2 / float(self.fields.get("parallel", 1))

    @property
    def rating_a(self) -> float:
        """Rating of a device, A; 0 of a conductor."""
        return float(self.fields.get("rating_a", 0.0))

    @property
    def family(self) -> str:
        """Family of a device; nothing of a conductor."""
        return str(self.fields.get("family", ""))


@dataclass(frozen=True)
class SizedPlace:
    """A place with its options: a conductor, a device, or several that must be alike.

    Attributes
    ----------
    ids : tuple of str
        Of the conductors or devices.
    options : tuple of SizeOption
        Conductors by section, devices by price.
    now : int
        The option that stands there.
    least_a : float
        What flows there for good at least, whatever sizes are chosen, A.
    """

    ids: tuple[str, ...]
    options: tuple[SizeOption, ...]
    now: int
    least_a: float

    @cached_property
    def is_run(self) -> bool:
        """Whether it is of conductors."""
        return "conductor" in self.options[0].fields

    def option_in(self, plan: Plan) -> int | None:
        """Number of the option that stands in another plan; None where something else does, or not the same in all places."""
        things = [plan.run_by_id.get(id_) or plan.by_id[id_] for id_ in self.ids]
        return next((n for n, o in enumerate(self.options) if all(_stands(o, x) for x in things)), None)


def spots_of(case: Case, ids: Iterable[str] | None = None) -> tuple[SizedPlace, ...]:
    """Every place of a plan that sizes can be chosen at.

    Not: what joins the units of a bank, what has a resistance of its own, what is bolted straight on, starter cables.
    What leads from the units of one bank to where they meet is chosen alike, for they share by it.

    Parameters
    ----------
    ids : iterable of str, optional
        Conductors and devices to choose; all where none are given.
    """
    plan, wanted = case.plan, None if ids is None else set(ids)
    alike = _alike(case)
    groups: dict[tuple[object, ...], list[str]] = {}
    for x in (*(r for r in plan.runs if _is_free(plan, r)), *(x for x in plan.items if isinstance(x, Fuse | Breaker))):
        if wanted is None or x.id in wanted:
            groups.setdefault(alike.get(x.id, (x.id,)), []).append(x.id)
    rated, least = _rated(case), _least_a(case)
    made = (
        _runs(case, rated, least, g) if g[0] in plan.run_by_id else _devices(case, rated, least, g)
        for g in groups.values()
    )
    return tuple(spot for spot in made if spot is not None)


def _least_a(case: Case) -> dict[str, float]:
    """What flows for good at least, A, by conductor and device: a constant power draws least with the thickest copper."""
    plan, parts = case.plan, case.parts
    thick = {
        r.id: {"conductor": parts.sizes(parts.conductors[r.conductor].system)[-1].id}
        for r in plan.runs
        if _is_free(plan, r)
    }
    other, branch = study(edits.change_each(plan, thick)), case.wiring.branch
    amps = np.minimum(case.study.continuous_a, other.continuous_a)
    return {id_: float(amps[k]) for id_, k in branch.items()}


def _rated(case: Case) -> dict[str, float]:
    """What a piece of equipment draws or gives by its own figures, A, for all that stands in its own circuit.

    Scenarios may have it run at a part of that, or not at all: no conductor and no device of its own is chosen for less.
    """
    plan, found = case.plan, dict[str, float]()
    for e in plan.equipment:
        ports = [(e.port, rated_current(e))]
        if isinstance(e, Converter):
            ports.append(((e.ref("out_plus"), e.ref("out_minus")), e.current_a))
        for refs, amps in ports:
            for run in (r for ref in refs for r in chain(plan, ref)):
                for id_ in (run.id, split_ref(run.a)[0], split_ref(run.b)[0]):
                    found[id_] = max(found.get(id_, 0.0), amps)
    return found


def _is_free(plan: Plan, run: Run) -> bool:
    ends = [plan.by_id[split_ref(ref)[0]] for ref in (run.a, run.b)]
    within = all(isinstance(x, Battery) for x in ends)
    return run.length_m > 0.0 and run.measured_ohm is None and not run.cranking and not within


def _alike(case: Case) -> dict[str, tuple[object, ...]]:
    """What is to be chosen alike: leads of one pole of one bank and devices in them, by how far along they are."""
    found: dict[str, tuple[object, ...]] = {}
    for bank in case.wiring.banks:
        for unit in bank.outlets:
            for side in ("plus", "minus"):
                for k, run in enumerate(chain(case.plan, f"{unit}.{side}")):
                    found.setdefault(run.id, (bank.id, side, k))
                    for ref in (run.a, run.b):
                        id_ = split_ref(ref)[0]
                        if isinstance(case.plan.by_id[id_], Fuse | Breaker):
                            found.setdefault(id_, (bank.id, side, k, "device"))
    return found


def _runs(case: Case, rated: Mapping[str, float], least: Mapping[str, float], ids: list[str]) -> SizedPlace | None:
    """Sizes that may carry what flows, thinnest first, with as many side by side as there are, or two where one does not."""
    runs = [case.plan.run_by_id[id_] for id_ in ids]
    parts, first = case.parts, runs[0]
    sizes = parts.sizes(parts.conductors[first.conductor].system)
    counts = sorted({r.parallel for r in runs})
    forms = [(s, n) for n in counts for s in sizes]
    if counts == [1]:
        thick = case.code.limit("parallel_least_mm2") or BESIDE_MM2
        forms += [(s, 2) for s in sizes if s.area_mm2 >= thick]
    able = set.intersection(
        *(set(_that_carry(case, r, max(ROUNDED * least[r.id], rated.get(r.id, 0.0)), forms)) for r in runs)
    )
    here, thinnest = (
        (first.conductor, first.parallel),
        min((s.area_mm2 * n for s, n in forms if (s.id, n) in able), default=0.0),
    )
    kept = [
        (s, n) for s, n in forms
        if (s.id, n) == here or ((s.id, n) in able and s.area_mm2 * n <= THICKEST * thinnest)
    ]  # fmt: skip
    options = sorted((_run_option(case, runs, s.id, n) for s, n in kept), key=lambda o: (o.area_mm2, o.price))
    now = next((k for k, o in enumerate(options) if _stands(o, first)), None)
    return SizedPlace(tuple(ids), tuple(options), now, least[first.id]) if options and now is not None else None


def _that_carry(case: Case, run: Run, amps: float, forms: list[tuple[Conductor, int]]) -> Iterator[tuple[str, int]]:
    """Forms of a run that may carry a current for good, A, and are no thinner than what breaks."""
    least = min(SMALLEST_MM2, case.parts.conductors[run.conductor].area_mm2)
    made = [run.model_copy(update={"conductor": s.id, "parallel": n}) for s, n in forms]
    for (size, n), known in zip(forms, case.ampacities_of(made), strict=True):
        if size.area_mm2 >= least and case.for_load(known)[0] >= amps:
            yield size.id, n


def _run_option(case: Case, runs: list[Run], conductor: str, parallel: int) -> SizeOption:
    size = case.parts.conductors[conductor]
    price, _ = metre_of(case.plan, case.parts, conductor)
    metres = sum(r.length_m for r in runs) * parallel
    lugs = parallel * sum(
        lug_price(case.plan, case.parts, conductor, str(thread))
        for r in runs for ref in (r.a, r.b) if (thread := thread_at(case.plan, case.parts, ref)) is not None
    )  # fmt: skip
    label = f"{parallel} × {size.label}" if parallel > 1 else size.label
    fields = {"conductor": conductor, "parallel": parallel}
    kg = size.area_mm2 * metres / 1000.0 * COPPER_KG_PER_DM3
    return SizeOption(fields, label, metres * price + lugs, kg, size.area_mm2 * parallel)


def _devices(case: Case, rated: Mapping[str, float], least: Mapping[str, float], ids: list[str]) -> SizedPlace | None:
    """Ratings and families that could stand there whatever the conductors are, the least costly first."""
    items = [case.protection.devices[id_].item for id_ in ids]
    here = {(x.family, x.rating_a) for x in items}
    if len(here) > 1:
        return None
    first, *others = (that_carry(case, x.id, ROUNDED * least[x.id], rated.get(x.id, 0.0)) for x in items)
    also = [{(c.family.id, c.rating_a) for c in able} for able in others]
    fit = (c for c in first if all((c.family.id, c.rating_a) in one for one in also))
    options = [_device_option(case, ids, c.family.id, float(c.rating_a or 0.0)) for c in islice(fit, MOST_DEVICES)]
    ((family, rating),) = here
    if not any(_stands(o, items[0]) for o in options):
        options.append(_device_option(case, ids, family, rating))
    now = next(k for k, o in enumerate(options) if _stands(o, items[0]))
    return SizedPlace(tuple(ids), tuple(options), now, least[ids[0]])


def _device_option(case: Case, ids: list[str], family: str, rating: float) -> SizeOption:
    kind = case.parts.device_families[family]
    price = sum(_device_price(case, id_, kind, rating) for id_ in ids)
    return SizeOption({"family": family, "rating_a": rating}, f"{rating:g} A {kind.label}", price, 0.0)


def _device_price(case: Case, id_: str, family: DeviceFamily, rating: float) -> float:
    """Of a device with its holder; of one that stands in a distributor without."""
    bar = distributor_of(case.plan, id_)
    if bar is not None and bar.fuse_family == family.id:
        return price_of(case.plan, f"insert:{family.id}:{rating:g}", rates("insert", rating)[0])
    return price_of(case.plan, f"{family.id}:{rating:g}", device_price(family, rating))


def option_as(case: Case, spot: SizedPlace, plan: Plan) -> SizeOption:
    """What stands at a place in another plan, be it one of its options or not."""
    n = spot.option_in(plan)
    if n is not None:
        return spot.options[n]
    if spot.is_run:
        runs = [plan.run_by_id[id_] for id_ in spot.ids]
        return _run_option(case, runs, runs[0].conductor, runs[0].parallel)
    x = plan.by_id[spot.ids[0]]
    assert isinstance(x, Fuse | Breaker)
    return _device_option(case, list(spot.ids), x.family, x.rating_a)


def _stands(o: SizeOption, x: object) -> bool:
    return all(getattr(x, name) == value for name, value in o.fields.items())


def with_options(plan: Plan, spots: tuple[SizedPlace, ...], chosen: Mapping[int, int]) -> Plan:
    """A plan with an option at each of some places.

    Parameters
    ----------
    chosen : mapping
        Number of the option by number of the place; a place that is not named stays as it is.
    """
    runs, devices = dict[str, dict[str, Any]](), dict[str, Fuse | Breaker]()
    for k, n in chosen.items():
        spot, option = spots[k], spots[k].options[n]
        if n == spot.now:
            continue
        for id_ in spot.ids:
            if spot.is_run:
                runs[id_] = option.fields
            else:
                x = plan.by_id[id_]
                assert isinstance(x, Fuse | Breaker)
                devices[id_] = device_like(x, x.kind, option.family, option.rating_a, x.follows_load)
    items = tuple(devices.get(x.id, x) for x in plan.items)
    return edits.change_each(plan.model_copy(update={"items": items}), runs)
