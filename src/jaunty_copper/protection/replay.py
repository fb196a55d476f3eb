"""One fault of a plan in time: which device melts first, what flows, how hot each conductor gets."""

from collections.abc import Callable
from dataclasses import dataclass, replace
from typing import Literal

import numpy as np

from jaunty_copper.network.study import Study
from jaunty_copper.network.wiring import cable_of
from jaunty_copper.physics.circuit import Ints
from jaunty_copper.physics.copper import Floats
from jaunty_copper.physics.fault_course import Devices, FaultCourse, Network
from jaunty_copper.physics.heat import steady_current
from jaunty_copper.physics.transient import course
from jaunty_copper.physics.withstand import BETA_C, K_COPPER
from jaunty_copper.plan.model import Run
from jaunty_copper.protection.fault_network import DECAY_S, branches_of, ends_of, henry_of, stores_of
from jaunty_copper.protection.protection import Protection

FAULT_OHM = 1e-4
"""Of the fault itself: copper on copper, representative."""
ARC_TIMES = 1.5
"""Arc voltage of a clearing device over the system's; representative."""
LEAST_ARC_V = 20.0
LONGEST_S = 3600.0


@dataclass(frozen=True)
class Replay:
    """A fault followed in time.

    Attributes
    ----------
    at, to : str
        Terminals that it joins.
    devices : tuple of str
        Ids, in the order of the course's devices.
    fault : int
        Branch of the fault itself.
    branch : dict
        Branches of the course by the id of their run, device, battery or equipment.
    limits_c : dict
        What the insulation of each run withstands for some seconds, C, by id.
    """

    at: str
    to: str
    certainly: bool
    course: FaultCourse
    devices: tuple[str, ...]
    fault: int
    branch: dict[str, int]
    limits_c: dict[str, float]

    @property
    def opened(self) -> tuple[tuple[str, float, float], ...]:
        """Devices that opened, with the time, s, and the current then, A, in order."""
        return tuple((self.devices[e.device], e.time_s, e.current_a) for e in self.course.events if not e.cleared)

    @property
    def ended_s(self) -> float | None:
        """When the fault current was gone, s; None where it still flowed at the end."""
        c = self.course
        return float(c.times_s[-1]) if abs(float(c.current_a[-1, self.fault])) <= 1.0 else None

    @property
    def most_a(self) -> float:
        """Greatest current in the fault, A."""
        return float(np.abs(self.course.current_a[:, self.fault]).max())

    def hottest(self) -> list[tuple[str, float, float]]:
        """Runs that warmed, with their greatest temperature and what they withstand, C, the worst first."""
        c = self.course.conductor_c
        found = [
            (id_, float(c[:, self.branch[id_]].max()), limit)
            for id_, limit in self.limits_c.items()
            if c[:, self.branch[id_]].max() > c[0, self.branch[id_]] + 1.0
        ]
        return sorted(found, key=lambda f: f[1] - f[2], reverse=True)


def replay(
    protection: Protection,
    at: str,
    *,
    to: str | None = None,
    run: tuple[str, float] | None = None,
    case: Literal["peak", "least"] = "peak",
    certainly: bool = False,
    fault_ohm: float = FAULT_OHM,
    loaded: bool = False,
    overtaken: Callable[[], bool] = lambda: False,
) -> Replay:
    """Follow a fault at a terminal in time.

    Parameters
    ----------
    protection : Protection
        Of the plan.
    at : str
        Terminal of the fault.
    to : str, optional
        What it is shorted to; the opposite pole where none is given.
    run : (str, float), optional
        Instead of the terminal itself a place on a run: its id and the share of its length from
        its first end.
    case : str
        peak: charged units, cold copper; least: low, old, cold units, warm copper, poor joints.
    certainly : bool
        Devices open by the slow edge of their bands; else by the fast one.
    fault_ohm : float
        Resistance of the fault itself, ohm.
    loaded : bool
        Conductors begin at the temperature that their insulation is rated for, as IEC 60949 takes it.
    overtaken : callable
        Asked now and then whether to stop.

    Raises
    ------
    KeyError
        There is no such terminal, or it has no opposite pole.
    """
    study = protection.study
    w, f = study.wiring, protection.faults
    to = to or f.places.refs[f.at[at]][1]
    # Of all ways in which the plan is switched, the one in which least flows there.
    open_ = f.switchings[f.least_in(f.far[at])] if case == "least" and at in f.far else None
    network = _network(study, w.node[at], w.node[to], case, fault_ohm, open_)
    if loaded:
        hot = network.start_c.copy()
        hot[w.circuit.heated] = protection.withstand.start_c
        network = replace(network, start_c=hot)
    if run is not None:
        network = _split(network, w.branch[run[0]], run[1])
    devices = [protection.devices[d] for d in f.devices]
    # A device that opens early is one that is hot, and one that opens late one that is cool.
    ratings = np.array([d.slow_a if certainly else d.fast_a for d in devices])
    highest_v = max((b.nominal_v for b in w.banks), default=0.0)
    guards = Devices(
        np.array([d.branch for d in devices], dtype=np.int64), ratings, tuple(d.band for d in devices), certainly,
        max(ARC_TIMES * highest_v, LEAST_ARC_V),
    )  # fmt: skip
    found = course(network, guards, LONGEST_S, overtaken)
    place = dict(w.branch)
    first = w.circuit.a.size
    place |= {e.id: first + k for k, e in enumerate(w.sources)}
    place |= {s.owner: first + len(w.sources) + k for k, s in enumerate(stores_of(w))}
    e = protection.withstand
    limits = dict(zip((r.id for r in e.runs), e.end_c.tolist(), strict=True))
    return Replay(at, to, certainly, found, f.devices, network.a.size - 1, place, limits)


def _network(
    study: Study, at: int, to: int, case: Literal["peak", "least"], fault_ohm: float, open_: frozenset[str] | None
) -> Network:
    """The plan's network with a fault, which joins two of its nodes."""
    w = study.wiring
    first, late = branches_of(w, case, open_), branches_of(w, "steady" if case == "peak" else case, open_)
    a, b = ends_of(w)
    stores = stores_of(w)
    fixed = first.fixed_ohm.copy()
    lasting = late.fixed_ohm.copy()
    per_farad = np.zeros(a.size)
    for k, s in enumerate(stores, a.size - len(stores)):
        fixed[k] = lasting[k] = s.ohm
        per_farad[k] = 1.0 / s.farad
    # What drives nothing in this case is left out: a branch of infinite resistance.
    on = np.isfinite(fixed)
    a = np.where(on, a, 0)
    b = np.where(on, b, 0)
    fixed, lasting = np.where(on, fixed, 1.0), np.where(on, lasting, 1.0)
    area, loss = np.full(a.size, np.inf), np.zeros(a.size)
    air = np.full(a.size, 20.0)
    air[: w.circuit.a.size] = study.hottest_ambient_c
    heated = w.circuit.heated
    area[heated], loss[heated] = _heat(list(w.heated_runs), study, air[heated])
    # Batteries fall off, and what is limited comes down to its limit.
    late_emf, late_ohm = late.emf_v.copy(), lasting - fixed

    def more(values: Floats, last: float) -> Floats:
        return np.append(values, last)

    def joined(ends: Ints, node: int) -> Ints:
        return np.append(ends, node)

    return Network(
        nodes=w.circuit.nodes, a=joined(a, at), b=joined(b, to),
        fixed_ohm=more(fixed, fault_ohm), copper_ohm=more(first.copper_ohm, 0.0), henry=more(henry_of(w), 1e-9),
        emf_v=more(first.emf_v, 0.0), late_emf_v=more(late_emf, 0.0), late_ohm=more(late_ohm, 0.0), decay_s=DECAY_S,
        per_farad=more(per_farad, 0.0), area_mm2=more(area, np.inf), start_c=more(first.warm_c, 20.0),
        ambient_c=more(air, 20.0), loss_per_s=more(loss, 0.0),
    )  # fmt: skip


def _heat(runs: list[Run], study: Study, air: Floats) -> tuple[Floats, Floats]:
    """Section of each run and the share of its rise that it loses each second.

    The loss is the one that its own steady current balances at its rated temperature.
    """
    parts = study.wiring.parts
    cable = cable_of(runs, parts)
    hot = np.array([parts.insulations[r.insulation].max_c for r in runs])
    steady = steady_current(cable, hot, np.minimum(air, hot - 1.0))
    area = cable.area_mm2 * np.array([r.parallel for r in runs], dtype=float)
    rise = hot - np.minimum(air, hot - 1.0)
    return area, (steady / (K_COPPER * area)) ** 2 * (hot + BETA_C) / rise


def _split(n: Network, k: int, share: float) -> Network:
    """Move the fault from a terminal to a place on branch `k`, at a share of its length."""
    share = min(max(share, 1e-3), 1.0 - 1e-3)
    last = n.a.size - 1

    def split(values: Floats, scaled: bool) -> Floats:
        made = np.insert(values, last, values[k] * ((1.0 - share) if scaled else 1.0))
        if scaled:
            made[k] = values[k] * share
        return made

    node = n.nodes
    a, b = np.insert(n.a, last, node), np.insert(n.b, last, n.b[k])
    b[k] = node
    a[last + 1] = node
    return Network(
        nodes=node + 1, a=a, b=b, fixed_ohm=split(n.fixed_ohm, True), copper_ohm=split(n.copper_ohm, True),
        henry=split(n.henry, True), emf_v=split(n.emf_v, False), late_emf_v=split(n.late_emf_v, False),
        late_ohm=split(n.late_ohm, False), decay_s=n.decay_s, per_farad=split(n.per_farad, False),
        area_mm2=split(n.area_mm2, False), start_c=split(n.start_c, False), ambient_c=split(n.ambient_c, False),
        loss_per_s=split(n.loss_per_s, False),
    )  # fmt: skip
