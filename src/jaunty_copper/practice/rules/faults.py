"""Devices against the short circuit that may flow through them, and against the heat they stand in."""

from collections.abc import Iterator
from functools import partial

from jaunty_copper.parts.models import DeviceFamily
from jaunty_copper.physics.curves import ambient_factor
from jaunty_copper.plan import edits
from jaunty_copper.plan.edits import Edit
from jaunty_copper.plan.model import Breaker, Fuse
from jaunty_copper.practice.case import Case, Rule
from jaunty_copper.practice.findings import Finding, Severity
from jaunty_copper.practice.rules.words import amps

HOW = "IEC 61660-1: charged units, 1.05 of nominal voltage, 0.9 of their resistance, conductors at 20 °C"


def kiloamps(value: float) -> str:
    """Fault currents to three figures."""
    return f"{value / 1000.0:.3g} kA" if value >= 1000.0 else amps(value)


def interrupt_rating(case: Case, rule: Rule) -> Iterator[Finding]:
    """Fuses and breakers that cannot interrupt the current of a fault beyond them."""
    for device in case.plan.items:
        if not isinstance(device, Fuse | Breaker):
            continue
        family = case.parts.device_families[device.family]
        volts = case.system_v(device)
        most, where = case.study.faults.greatest_through(device.id)
        able = case.interrupt_a(device)
        if able is None or most <= able:
            # A voltage beyond the family's is a finding of its own.
            continue
        yield case.finding(
            rule, Severity.STOP, device.id,
            f"{device.title} can interrupt {kiloamps(able)} at {volts:g} V; a short {_place(case, device, where)} drives {kiloamps(most)} through it",
            figure=most, limit=able, unit="A", source=f"{family.source}; current by {HOW}",
            mend=_stronger(case, device, volts, most),
        )  # fmt: skip


def _place(case: Case, device: Fuse | Breaker, ref: str) -> str:
    item, _, _ = ref.partition(".")
    return "right behind it" if item == device.id else f"at {case.title(item)}"


def able_families(case: Case, device: Fuse | Breaker, volts: float, most: float) -> list[DeviceFamily]:
    """Families of a device's kind and rating that interrupt a current at a voltage, the least able first."""
    kind = "fuse" if isinstance(device, Fuse) else "breaker"
    found = [
        (able, f)
        for f in case.parts.device_families.values()
        if f.kind == kind
        and f.min_a <= device.rating_a <= f.max_a
        and f.max_v_dc >= volts
        and (able := f.interrupt_a(volts)) is not None
        and able >= most
    ]
    return [f for _, f in sorted(found, key=lambda pair: pair[0])]


def _stronger(case: Case, device: Fuse | Breaker, volts: float, most: float) -> Edit | None:
    families = able_families(case, device, volts, most)
    if not families:
        return None
    new = families[0]
    return Edit(
        f"Change {device.title} to {new.label}", partial(edits.change, id_=device.id, family=new.id, thread=None)
    )


def heat(case: Case, rule: Rule) -> Iterator[Finding]:
    """Devices whose rating, at the air around them, falls below what they carry for long."""
    for device in case.plan.items:
        if not isinstance(device, Fuse | Breaker):
            continue
        family = case.parts.device_families[device.family]
        k = case.wiring.branch[device.id]
        air = float(case.study.hottest_ambient_c[k])
        left = device.rating_a * float(ambient_factor(family.release, air))
        current = float(case.study.continuous_a[k])
        if not left < current <= device.rating_a:
            continue
        yield case.finding(
            rule, Severity.MEND, device.id,
            f"{device.title} carries {amps(current)}; at {air:.0f} °C its {device.rating_a:g} A are worth {amps(left)}: heat will open it",
            figure=current, limit=left, unit="A", source="Ambient factor of its kind of release, representative",
        )  # fmt: skip


RULES = (
    Rule("interrupt_rating", "Interrupt rating",
         "A device that cannot interrupt a short bursts, and the arc goes on burning.", interrupt_rating),
    Rule("heat_opens", "Device in a hot place",
         "In a hot place a thermal device opens below its rating, again and again, with nothing wrong.", heat),
)  # fmt: skip
