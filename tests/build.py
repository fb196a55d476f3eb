"""Small plans for tests, written down as briefly as they can be thought."""

import numpy as np

from jaunty_copper.assessment.assessment import Assessment
from jaunty_copper.parts.catalogue import library
from jaunty_copper.plan.model import (
    Bar,
    BarStud,
    Battery,
    Fuse,
    Plan,
    PowerLoad,
    Run,
    Scenario,
)


def judge(study, code=None):
    """What a code finds wrong, worst first."""
    return Assessment(study, code).findings


def changes_ah(plan, current_a, hours):
    """What currents out of each unit (rows of time) change of its charge, Ah: by its chemistry's efficiency and Peukert's law."""
    units = [x for x in plan.items if isinstance(x, Battery)]
    kinds = [library().battery_chemistries[x.chemistry] for x in units]
    eta, k = (np.array([getattr(c, name) for c in kinds]) for name in ("charge_efficiency", "rate_exponent"))
    twenty = np.array([x.capacity_ah * x.capacity_share / 20.0 for x in units])
    counted = np.where(current_a < 0.0, eta, np.maximum(current_a / twenty, 1.0) ** (k - 1.0)) * current_a
    return (counted * np.asarray(hours)[:, None]).sum(axis=0)


COLD = {"measured_ohm": 0.0}


def ohms(id_, a, b, ohm):
    """A run of a known resistance, which temperature does not change."""
    return Run(id=id_, a=a, b=b, length_m=1.0, measured_ohm=ohm)


def wire(id_, a, b, length=1.0, conductor="mm2-10", **more):
    return Run(id=id_, a=a, b=b, length_m=length, conductor=conductor, **more)


def battery(id_="B", volts=12.0, ohm=0.01, **more):
    return Battery(id=id_, chemistry="agm", nominal_v=volts, capacity_ah=100.0, internal_ohm=ohm, **more)


def bar(id_, studs, **more):
    values = {"rating_a": 300.0, "studs": tuple(BarStud(id=f"s{k}") for k in range(1, studs + 1)), **more}
    return Bar(id=id_, **values)


def agm_emf(soc, volts=12.0):
    """EMF of an AGM unit by its table, at a multiple of ten per cent of charge."""
    table = (1.93, 1.955, 1.98, 2.00, 2.02, 2.035, 2.055, 2.08, 2.10, 2.12, 2.14)
    return table[round(soc / 10)] * volts / 2.0


def loop(load=None, out=0.02, back=0.02, ohm=0.01, soc=50.0, **scenario):
    """A battery, one load, a resistance out and one back."""
    e = load or PowerLoad(id="E", power_w=60.0)
    return Plan(
        items=(battery(ohm=ohm),),
        equipment=(e,),
        runs=(ohms("out", "B.plus", "E.plus", out), ohms("back", "E.minus", "B.minus", back)),
        scenarios=(Scenario(id="s", soc_percent=soc, **scenario),),
    )


def fused(
    power=60.0, length=3.0, conductor="mm2-2.5", rating=10.0, to_fuse=0.1, volts=12.0, family="blade-fuse", **run
):
    """A battery, a bar behind a main fuse, one circuit with a fuse, a bar back."""
    return Plan(
        items=(
            battery(volts=volts, ohm=0.011),
            Fuse(id="F0", family="class-t-fuse", rating_a=60.0),
            bar("P", 4),
            bar("M", 4),
            Fuse(id="F1", family=family, rating_a=rating),
        ),
        equipment=(PowerLoad(id="E", nominal_v=volts, power_w=power),),
        runs=(
            wire("W1", "B.plus", "F0.a", 0.15, "mm2-16"),
            wire("W2", "F0.b", "P.s1", 0.5, "mm2-16"),
            wire("W3", "M.s1", "B.minus", 0.6, "mm2-16"),
            wire("W4", "P.s2", "F1.a", to_fuse, conductor, **run),
            wire("W5", "F1.b", "E.plus", length, conductor, **run),
            wire("W6", "E.minus", "M.s2", length, conductor, **run),
        ),
        scenarios=(Scenario(id="s", soc_percent=50.0),),
    )


def covers(suspect, owner):
    """Whether a suspect names something, or what the readings cannot part from it."""
    return owner == suspect.owner or any(owner == name.partition(":")[0] for name in suspect.with_it)


def spread(upstream_a=60.0, practice="iec_60364", family="class-t-fuse", ohm=0.0014, length=2.5, volts=24.0):
    """Circuits behind limiters on bars of their own, all behind one fuse, by leads laid apart from a strong bank."""

    def lead(id_, a, b, length=length):
        return Run(id=id_, a=a, b=b, length_m=length, conductor="mm2-95", apart=True)

    def run(id_, a, b, length):
        return Run(id=id_, a=a, b=b, length_m=length, conductor="mm2-16")

    limiters = tuple(Fuse(id=f"D{k}", family="open-link-limiter", rating_a=35.0) for k in (1, 2))
    return Plan(
        practice=practice,
        items=(
            battery(volts=volts, ohm=ohm), Fuse(id="U", family=family, rating_a=upstream_a), bar("P", 4), bar("M", 4),
            *limiters,
        ),
        equipment=tuple(PowerLoad(id=f"E{k}", nominal_v=volts, power_w=300.0) for k in (1, 2)),
        runs=(
            lead("W1", "B.plus", "U.a", 0.1), lead("W2", "U.b", "P.s3"), lead("W3", "M.s3", "B.minus"),
            *(run(f"D{k}p", f"P.s{k}", f"D{k}.a", 0.1) for k in (1, 2)),
            *(run(f"E{k}p", f"D{k}.b", f"E{k}.plus", 3.0) for k in (1, 2)),
            *(run(f"E{k}m", f"E{k}.minus", f"M.s{k}", 3.0) for k in (1, 2)),
        ),
        scenarios=(Scenario(id="s", soc_percent=70.0),),
    )  # fmt: skip
