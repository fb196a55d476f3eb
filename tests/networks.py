"""Networks drawn by chance: several banks, converters between them, rings, devices where they belong and where not."""

import random
from itertools import pairwise

from jaunty_copper.plan import edits
from jaunty_copper.plan.model import (
    Bar,
    BarStud,
    Battery,
    Breaker,
    Charger,
    Chassis,
    ChassisPoint,
    Converter,
    CurrentLoad,
    Fuse,
    Plan,
    Run,
    Scenario,
)

SIZES = ("mm2-1.5", "mm2-2.5", "mm2-6", "mm2-10", "mm2-16", "mm2-35", "mm2-70")
RATINGS = (5.0, 10.0, 15.0, 20.0, 30.0, 40.0, 60.0, 80.0, 100.0, 150.0, 200.0, 300.0)
FUSES = ("class-t-fuse", "strip-fuse-sf51", "blade-fuse", "terminal-cube-fuse")


class _Drawn:
    """A plan in the making."""

    def __init__(self, seed, families):
        self.random = random.Random(seed)
        self.families = families
        self.items, self.equipment, self.runs = [], [], []
        self.studs = {}
        self.count = 0

    def name(self, letter):
        self.count += 1
        return f"{letter}{self.count}"

    def chance(self, p):
        return self.random.random() < p

    def bar(self, letter):
        id_ = self.name(letter)
        self.studs[id_] = 0
        return id_

    def stud(self, bar):
        """The next free stud of a bar."""
        self.studs[bar] += 1
        return f"{bar}.s{self.studs[bar]}"

    def run(self, a, b, longest=6.0):
        size = self.random.choice(SIZES)
        self.runs.append(
            Run(id=self.name("W"), a=a, b=b, length_m=round(self.random.uniform(0.05, longest), 2), conductor=size)
        )

    def device(self):
        id_, r = self.name("F"), self.random
        if r.random() < 0.8:
            item = Fuse(id=id_, family=r.choice(self.families), rating_a=r.choice(RATINGS))
        else:
            item = Breaker(id=id_, family="hydraulic-magnetic-breaker", rating_a=r.choice(RATINGS))
        self.items.append(item)
        return id_

    def way(self, a, b, near=0.5, far=0.15):
        """A way between two terminals, with devices at its start, at its end, at both, at none."""
        for p, flipped in ((near, False), (far, True)):
            if self.chance(p):
                id_ = self.device()
                if flipped:
                    self.run(f"{id_}.b", b, 0.4)
                    b = f"{id_}.a"
                else:
                    self.run(a, f"{id_}.a", 0.4)
                    a = f"{id_}.b"
        self.run(a, b)

    def bank(self, volts, plus, minus):
        """Units in parallel, or a string of two, with devices of their own or not."""
        for _ in range(self.random.randint(1, 2)):
            ids = [self.name("B") for _ in range(2 if self.chance(0.25) else 1)]
            for id_ in ids:
                self.items.append(
                    Battery(
                        id=id_,
                        chemistry="agm",
                        nominal_v=volts / len(ids),
                        capacity_ah=self.random.choice((60.0, 100.0, 200.0)),
                    )
                )
            for one, two in pairwise(ids):
                self.way(f"{one}.minus", f"{two}.plus", 0.2, 0.0)
            self.way(f"{ids[0]}.plus", self.stud(plus), 0.7, 0.2)
            self.way(f"{ids[-1]}.minus", self.stud(minus), 0.1, 0.0)

    def load(self, volts, plus, minus):
        id_ = self.name("L")
        self.equipment.append(CurrentLoad(id=id_, nominal_v=volts, current_a=self.random.choice((1.0, 3.0, 8.0, 20.0))))
        self.way(self.stud(plus), f"{id_}.plus", 0.7, 0.1)
        self.way(f"{id_}.minus", self.stud(minus), 0.05, 0.0)

    def plan(self):
        bars = [
            Bar(id=id_, rating_a=300.0, studs=tuple(BarStud(id=f"s{k}") for k in range(1, max(n, 2) + 1)))
            for id_, n in self.studs.items()
        ]
        return Plan(
            items=(*self.items, *bars), equipment=tuple(self.equipment), runs=tuple(self.runs),
            scenarios=(Scenario(id="s", soc_percent=60.0),),
        )  # fmt: skip


def network(seed, families=FUSES):
    """A plan drawn by chance; one seed always gives one plan."""
    d = _Drawn(seed, families)
    r, common = d.random, d.bar("M")
    sides = []
    for _ in range(r.choice((1, 1, 2, 2, 3))):
        volts = r.choice((12.0, 24.0))
        plus, minus = d.bar("P"), common if d.chance(0.6) else d.bar("M")
        d.bank(volts, plus, minus)
        sides.append((volts, plus, minus))
    for volts, plus, minus in tuple(sides):
        for _ in range(r.randint(0, 2)):
            d.load(volts, plus, minus)
        if d.chance(0.3):
            id_ = d.name("G")
            d.equipment.append(
                Charger(id=id_, nominal_v=volts, set_v=1.18 * volts, current_a=r.choice((10.0, 30.0, 60.0)))
            )
            d.way(d.stud(plus), f"{id_}.plus", 0.5, 0.3)
            d.way(f"{id_}.minus", d.stud(minus), 0.0, 0.0)
        if d.chance(0.3):
            # Another bar behind this one; sometimes joined to it twice.
            other = d.bar("P")
            for _ in range(1 + d.chance(0.4)):
                d.way(d.stud(plus), d.stud(other), 0.5, 0.4)
            d.load(volts, other, minus)
    for _ in range(r.choice((0, 0, 1, 2))):
        (in_v, in_plus, in_minus), (volts, plus, minus) = r.choice(sides), r.choice(sides)
        own = d.chance(0.4) or in_plus == plus
        if own:
            volts, plus = 12.0, d.bar("P")
        id_ = d.name("C")
        d.equipment.append(
            Converter(
                id=id_, nominal_v=in_v, out_nominal_v=volts, set_v=1.15 * volts, current_a=r.choice((10.0, 25.0, 60.0)),
                isolated=own or minus != in_minus,
            )
        )  # fmt: skip
        d.way(d.stud(in_plus), f"{id_}.in_plus", 0.6, 0.1)
        d.way(f"{id_}.in_minus", d.stud(in_minus), 0.0, 0.0)
        d.way(f"{id_}.out_plus", d.stud(plus), 0.3, 0.3)
        d.way(f"{id_}.out_minus", d.stud(minus), 0.0, 0.0)
        if own:
            for _ in range(r.randint(1, 2)):
                d.load(volts, plus, minus)
    plan = d.plan()
    if d.chance(0.4):
        frame = Chassis(id="H", points=(ChassisPoint(id="p1"), ChassisPoint(id="p2")))
        plan, stud = edits.add_stud(plan, common)
        plan = edits.add(plan, frame, Run(id="WB", a=stud, b="H.p1", length_m=0.3, conductor="mm2-16"))
    return plan
