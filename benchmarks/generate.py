"""Generated plans of any size, alike in kind: a 24 V bank, sub-bars, circuits, converters."""

import random

from jaunty_copper.plan.model import (
    AnyEquipment,
    Bar,
    BarStud,
    Battery,
    Charger,
    Converter,
    CurrentLoad,
    Fuse,
    Item,
    Plan,
    PowerLoad,
    ResistiveLoad,
    Run,
    Scenario,
    Shunt,
    Zone,
)

CIRCUITS_PER_BAR = 12


def generated(runs: int, seed: int = 1) -> Plan:
    """A plan with about that many runs.

    Parameters
    ----------
    runs : int
        At least 30.
    seed : int
        Same seed, same plan.
    """
    rng = random.Random(seed)
    items: list[Item] = []
    equipment: list[AnyEquipment] = []
    wires: list[Run] = []

    def wire(a: str, b: str, length: float, size: str) -> None:
        wires.append(Run(id=f"W{len(wires) + 1}", a=a, b=b, length_m=round(length, 2), conductor=size))

    units = max(2, min(8, runs // 60))
    items += [Battery(id=f"B{k}", chemistry="lifepo4", nominal_v=24, capacity_ah=300) for k in range(units)]
    for k in range(units - 1):
        wire(f"B{k}.plus", f"B{k + 1}.plus", 0.3, "mm2-95")
        wire(f"B{k}.minus", f"B{k + 1}.minus", 0.3, "mm2-95")
    circuits = max(4, (runs - len(wires) - 3) * 5 // 16)
    bars = -(-circuits // CIRCUITS_PER_BAR)
    items.append(Fuse(id="F0", family="class-t-fuse", rating_a=400))
    items.append(Shunt(id="S0", rating_a=500))
    for name in ("P0", "M0"):
        items.append(Bar(id=name, studs=_studs(bars + 1), rating_a=600, width_mm=40, thickness_mm=10))
    wire("B0.plus", "F0.a", 0.15, "mm2-120")
    wire("F0.b", "P0.s0", 0.5, "mm2-120")
    wire(f"B{units - 1}.minus", "S0.a", 0.4, "mm2-120")
    wire("S0.b", "M0.s0", 0.4, "mm2-120")
    for bar in range(bars):
        here = min(CIRCUITS_PER_BAR, circuits - bar * CIRCUITS_PER_BAR)
        twelve = bar % 4 == 3
        for side in ("P", "M"):
            items.append(Bar(id=f"{side}{bar + 1}", studs=_studs(here + 2), rating_a=200))
        items.append(Fuse(id=f"G{bar + 1}", family="strip-fuse-sf51", rating_a=125))
        wire(f"P0.s{bar + 1}", f"G{bar + 1}.a", 0.12, "mm2-50")
        if twelve:
            cv = f"CV{bar + 1}"
            equipment.append(Converter(id=cv, nominal_v=24, set_v=12.8, current_a=60, efficiency=0.93, min_v=20))
            wire(f"G{bar + 1}.b", f"{cv}.in_plus", 2.0, "mm2-35")
            wire(f"{cv}.in_minus", f"M0.s{bar + 1}", 2.0, "mm2-35")
            wire(f"{cv}.out_plus", f"P{bar + 1}.s0", 0.5, "mm2-16")
            wire(f"{cv}.out_minus", f"M{bar + 1}.s0", 0.5, "mm2-16")
        else:
            wire(f"G{bar + 1}.b", f"P{bar + 1}.s0", rng.uniform(1, 4), "mm2-50")
            wire(f"M{bar + 1}.s0", f"M0.s{bar + 1}", rng.uniform(1, 4), "mm2-50")
        for k in range(here):
            number = bar * CIRCUITS_PER_BAR + k + 1
            v = 12.0 if twelve else 24.0
            power = rng.uniform(3, 25 if twelve else 60)
            size = rng.choice(("mm2-1.5", "mm2-2.5", "mm2-4"))
            length = rng.uniform(1, 6)
            e: AnyEquipment
            match rng.choice("PPPCRX" if not twelve else "PPCR"):
                case "P":
                    e = PowerLoad(id=f"E{number}", nominal_v=v, power_w=power, surge_w=1.5 * power)
                case "C":
                    e = CurrentLoad(id=f"E{number}", nominal_v=v, current_a=power / v)
                case "R":
                    e = ResistiveLoad(id=f"E{number}", nominal_v=v, power_w=power)
                case _:
                    e = Charger(id=f"E{number}", nominal_v=v, set_v=28.0, current_a=5)
            equipment.append(e)
            items.append(Fuse(id=f"F{number}", family="blade-fuse", rating_a=15))
            wire(f"P{bar + 1}.s{k + 1}", f"F{number}.a", 0.1, size)
            wire(f"F{number}.b", f"E{number}.plus", length, size)
            wire(f"E{number}.minus", f"M{bar + 1}.s{k + 1}", length + 0.1, size)
    chargers = [e.id for e in equipment if isinstance(e, Charger)]
    surging = next(e.id for e in equipment if isinstance(e, PowerLoad))
    return Plan(
        name=f"generated, {len(wires)} runs",
        zones=(Zone(id="warm", ambient_c=45.0),),
        items=tuple(items),
        equipment=tuple(equipment),
        runs=tuple(wires),
        scenarios=(
            Scenario(id="night", soc_percent=50.0, states=dict.fromkeys(chargers, "off")),
            Scenario(id="day", soc_percent=80.0, states={}),
            Scenario(id="surge", soc_percent=30.0, states={**dict.fromkeys(chargers, "off"), surging: "surge"}),
        ),
    )


def _studs(count: int) -> tuple[BarStud, ...]:
    return tuple(BarStud(id=f"s{k}") for k in range(count))


def row_of_units(units: int) -> Plan:
    """Units side by side, linked from one to the next, with one load that lasts twelve hours."""
    batteries = tuple(Battery(id=f"B{k}", chemistry="lifepo4", capacity_ah=100) for k in range(units))
    links = tuple(
        Run(id=f"{t[0]}{k}", a=f"B{k}.{t}", b=f"B{k + 1}.{t}", length_m=0.35, conductor="mm2-95")
        for k in range(units - 1)
        for t in ("plus", "minus")
    )
    out = (
        Run(id="out", a="B0.plus", b="E.plus", length_m=1.0, conductor="mm2-95"),
        Run(id="back", a="E.minus", b="B0.minus", length_m=1.0, conductor="mm2-95"),
    )
    load = PowerLoad(id="E", power_w=90.0 * units)
    return Plan(items=batteries, equipment=(load,), runs=(*links, *out), scenarios=(Scenario(id="s", soc_percent=95),))
