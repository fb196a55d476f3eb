"""Compile a plan to a circuit, and remember what each node and branch stands for."""

from dataclasses import dataclass
from functools import cached_property, lru_cache

import numpy as np

from jaunty_copper.language import say
from jaunty_copper.parts.catalogue import Catalogue, library
from jaunty_copper.parts.models import Thread
from jaunty_copper.physics import graph
from jaunty_copper.physics.battery import internal_resistance
from jaunty_copper.physics.circuit import Circuit, Ints
from jaunty_copper.physics.copper import bar_resistance
from jaunty_copper.physics.heat import Cable
from jaunty_copper.plan.banks import Bank, banks_of
from jaunty_copper.plan.model import (
    Bar,
    Battery,
    Breaker,
    Chassis,
    Contactor,
    Converter,
    Disconnect,
    Equipment,
    Fuse,
    Inline,
    Load,
    Plan,
    PlugConnector,
    Post,
    Run,
    Shunt,
    Source,
    Splice,
    split_ref,
)
from jaunty_copper.plan.topology import Branch, Topology, topology

JOINT_OHM = 40e-6
"""A crimped lug on its stud as planned: 20 to 60 microhm, representative."""
DISCONNECT_OHM = 0.2e-3
"""Representative of a closed switch, manual or driven."""
HALF_FULL = 5
"""Tenths of charge at which a cell shows about the voltage that its unit is named by."""
COMMON_MINUS_OHM = 0.5e-3
"""Between input and output minus inside a converter that is not isolated, representative."""


@dataclass(frozen=True)
class Wiring(Topology):
    """A plan's topology with its circuit: the same nodes and branches, with resistances.

    Attributes
    ----------
    loads, sources : tuple of Equipment
        Equipment in the order of the circuit's load and source arrays.
    heated_runs : tuple of Run
        Runs in the order of the circuit's `heated`.
    """

    parts: Catalogue
    circuit: Circuit
    loads: tuple[Load, ...]
    sources: tuple[Source | Converter, ...]
    heated_runs: tuple[Run, ...]

    @cached_property
    def part(self) -> Ints:
        """The galvanic part of each node: what copper, batteries and source ports join."""
        c = self.circuit
        label = graph.components(
            c.nodes,
            [*c.a.tolist(), *c.source_plus.tolist()],
            [*c.b.tolist(), *c.source_minus.tolist()],
        )
        return np.array(label, dtype=np.int64)

    @cached_property
    def zone_branches(self) -> dict[str | None, Ints]:
        """Branches in each zone, by its id; None for the open air."""
        zones = [
            (self.plan.run_by_id[b.owner] if b.kind == "run" else self.plan.by_id[b.owner]).zone for b in self.branches
        ]
        return {z: np.array([k for k, own in enumerate(zones) if own == z], dtype=np.int64) for z in set(zones)}

    @cached_property
    def banks(self) -> tuple[Bank, ...]:
        """The plan's banks."""
        return banks_of(self)

    @cached_property
    def load_index(self) -> dict[str, int]:
        """Position of each load in the circuit's arrays, by id."""
        return {e.id: k for k, e in enumerate(self.loads)}

    @cached_property
    def load_by_port(self) -> dict[str, Load]:
        """Loads by their plus terminals."""
        return {e.port[0]: e for e in self.loads}

    @cached_property
    def source_index(self) -> dict[str, int]:
        """Position of each source and converter in the circuit's arrays, by id."""
        return {e.id: k for k, e in enumerate(self.sources)}


def body_ohm(item: Inline, parts: Catalogue) -> float:
    """Resistance of an inline item's body, ohm: measured, or as usual for its kind.

    Fuse and breaker bodies drop their family's voltage at rated current; a shunt its own.

    Parameters
    ----------
    item : Inline
        A device, switch, shunt or plug.
    parts : Catalogue
        For its family.
    """
    if item.measured_ohm is not None:
        return item.measured_ohm
    match item:
        case Fuse() | Breaker():
            return parts.device_families[item.family].body_v_at_rated / item.rating_a
        case Shunt():
            return item.drop_mv * 1e-3 / item.rating_a
        case PlugConnector() | Splice():
            return item.contact_ohm
        case Disconnect() | Contactor():
            return DISCONNECT_OHM
    raise TypeError(say("no resistance known for a {name}", name=type(item).__name__))


def battery_ohm(battery: Battery, parts: Catalogue) -> float:
    """Internal resistance of a unit, ohm: its own, or from its chemistry.

    Parameters
    ----------
    battery : Battery
        A unit.
    parts : Catalogue
        For its chemistry.
    """
    if battery.internal_ohm is not None:
        return battery.internal_ohm
    chemistry = parts.battery_chemistries[battery.chemistry]
    return float(internal_resistance(cells(battery, parts), chemistry.r_ohm_ah, held_ah(battery)))


def held_ah(battery: Battery) -> float:
    """Ampere-hours that a unit still holds.

    Parameters
    ----------
    battery : Battery
        A unit, worn by its capacity share.
    """
    return battery.capacity_ah * battery.capacity_share


def cells(battery: Battery, parts: Catalogue) -> int:
    """Cells in series in a unit: of 12 V, 24 V and so on by name, of any other voltage by that of its half full cells.

    Parameters
    ----------
    battery : Battery
        A unit.
    parts : Catalogue
        For its chemistry.
    """
    chemistry = parts.battery_chemistries[battery.chemistry]
    by_name = battery.nominal_v % 12.0 == 0.0
    per_cell_v = 12.0 / chemistry.cells_per_12v if by_name else chemistry.ocv_per_cell_v[HALF_FULL]
    return max(1, round(battery.nominal_v / per_cell_v))


def run_ohms(run: Run, parts: Catalogue) -> tuple[float, float]:
    """Resistance of a run, ohm: what stays (joints) and what copper has at 20 C.

    A run of no length is a part bolted straight to another: one joint, no copper.

    Parameters
    ----------
    run : Run
        A conductor with its joints, or several in parallel.
    parts : Catalogue
        For its size.

    Returns
    -------
    float, float
        Ohm.
    """
    if run.measured_ohm is not None:
        return run.measured_ohm, 0.0
    first = JOINT_OHM / run.parallel if run.joint_a_ohm is None else run.joint_a_ohm
    second = JOINT_OHM / run.parallel if run.joint_b_ohm is None else run.joint_b_ohm
    if run.length_m == 0.0:
        return first if run.joint_b_ohm is None else max(first, second), 0.0
    copper = parts.conductors[run.conductor].r_ohm_per_km * 1e-3 * run.length_m / run.parallel
    return first + second, copper


def branch_ohms(branch: Branch, plan: Plan, parts: Catalogue) -> tuple[float, float]:
    """Resistance of any branch, ohm: what stays, and what copper has at 20 C.

    Parameters
    ----------
    branch : Branch
        Of the plan's topology.
    plan : Plan
        For what it stands for.
    parts : Catalogue
        For sizes and families.

    Returns
    -------
    float, float
        Ohm.
    """
    if branch.kind == "run":
        return run_ohms(plan.run_by_id[branch.owner], parts)
    match plan.by_id[branch.owner]:
        case Battery() as battery:
            return battery_ohm(battery, parts), 0.0
        case Bar() as bar:
            return 0.0, _segment_ohm(bar.spacing_mm, bar.width_mm, bar.thickness_mm)
        case Chassis() as chassis:
            return chassis.points[branch.index].ohm, 0.0
        case Inline() as item:
            return body_ohm(item, parts), 0.0
    return COMMON_MINUS_OHM, 0.0


@lru_cache(maxsize=256)
def _segment_ohm(spacing_mm: float, width_mm: float, thickness_mm: float) -> float:
    return float(bar_resistance(spacing_mm * 1e-3, width_mm, thickness_mm))


def wire(plan: Plan) -> Wiring:
    """Compile a plan.

    Parameters
    ----------
    plan : Plan
        A plan without `problems`.

    Returns
    -------
    Wiring
        Nodes are terminals (and one hidden node per chassis); branches are runs, bodies, bar
        segments, batteries.
    """
    parts = library().with_own(plan.parts)
    joined = topology(plan)
    node = joined.node
    ohms = [branch_ohms(b, plan, parts) for b in joined.branches]
    heated = [k for k, b in enumerate(joined.branches) if b.kind == "run" and ohms[k][1] > 0.0]
    heated_runs = [plan.run_by_id[joined.branches[k].owner] for k in heated]
    loads = tuple(e for e in plan.equipment if isinstance(e, Load))
    sources = tuple(e for e in plan.equipment if isinstance(e, Source | Converter))
    end = np.array([(b.a, b.b) for b in joined.branches], dtype=np.int64).reshape(-1, 2)
    ohm = np.array(ohms, dtype=float).reshape(-1, 2)
    is_battery = np.array([b.kind == "battery" for b in joined.branches], dtype=bool)
    circuit = Circuit(
        nodes=len(node),
        a=end[:, 0],
        b=end[:, 1],
        is_battery=is_battery,
        fixed_ohm=ohm[:, 0],
        copper_ohm=ohm[:, 1],
        heated=np.array(heated, dtype=np.int64),
        cable=cable_of(heated_runs, parts),
        load_plus=_nodes(node, [e.ref("plus") for e in loads]),
        load_minus=_nodes(node, [e.ref("minus") for e in loads]),
        source_plus=_nodes(node, [e.output[0] for e in sources]),
        source_minus=_nodes(node, [e.output[1] for e in sources]),
        sense_plus=_nodes(node, [_sense(e)[0] for e in sources]),
        sense_minus=_nodes(node, [_sense(e)[1] for e in sources]),
        feed_plus=_nodes(node, [e.ref("in_plus") if isinstance(e, Converter) else None for e in sources]),
        feed_minus=_nodes(node, [e.ref("in_minus") if isinstance(e, Converter) else None for e in sources]),
        efficiency=np.array([e.efficiency if isinstance(e, Converter) else 1.0 for e in sources]),
        grounds=_grounds(joined),
    )
    return Wiring(plan, joined.joints, parts, circuit, loads, sources, tuple(heated_runs))


def cable_of(runs: list[Run], parts: Catalogue) -> Cable:
    """Sections and insulation of runs.

    Conductors in parallel share the current; their resistance over the square of their
    number lets the heat balance take the current of the whole run.

    Parameters
    ----------
    runs : list of Run
        In the order of the arrays.
    parts : Catalogue
        For their sizes.
    """
    sizes = [parts.conductors[r.conductor] for r in runs]
    count = np.array([r.parallel for r in runs], dtype=float)
    return Cable(
        r20_ohm_per_m=np.array([s.r_ohm_per_km for s in sizes], dtype=float) * 1e-3 / count**2,
        area_mm2=np.array([s.area_mm2 for s in sizes], dtype=float),
        outer_mm=np.array([s.outer_mm for s in sizes], dtype=float),
    )


def thread_at(plan: Plan, parts: Catalogue, ref: str) -> Thread | None:
    """Stud at a terminal; None where it is a clamp, blade or lead, or not known.

    Parameters
    ----------
    plan : Plan
        For what stands there.
    parts : Catalogue
        For its kind.
    ref : str
        A terminal.
    """
    id_, terminal = split_ref(ref)
    thing = plan.by_id[id_]
    match thing:
        case Bar(studs=studs):
            return next(s.thread for s in studs if s.id == terminal)
        case Chassis(points=points):
            return next(p.thread for p in points if p.id == terminal)
        case Post(thread=thread):
            return thread
        case Fuse(thread=None) | Breaker(thread=None):
            usual = parts.device_families[thing.family].terminals
            return None if usual == "blade" or usual == "clamp" else usual
        case Battery() | Inline() | Equipment():
            return thing.thread
    return None


def _nodes(node: dict[str, int], refs: list[str | None]) -> Ints:
    return np.array([-1 if ref is None else node[ref] for ref in refs], dtype=np.int64)


def _sense(e: Source | Converter) -> tuple[str, str]:
    if isinstance(e, Source) and e.sense_plus is not None and e.sense_minus is not None:
        return e.sense_plus, e.sense_minus
    return e.output


def _grounds(joined: Topology) -> tuple[int, ...]:
    """Chassis first; then battery minus terminals, the lowest of a string first; then outputs."""
    plan, node = joined.plan, joined.node
    chassis = [node[f"{x.id}."] for x in plan.items if isinstance(x, Chassis)]
    batteries = [x for x in plan.items if isinstance(x, Battery)]
    edges = [(joined.rail_of(b.ref("minus")), joined.rail_of(b.ref("plus")), b.nominal_v) for b in batteries]
    volts, _, _ = graph.potentials(max(joined.rail, default=-1) + 1, edges)
    minuses = sorted((node[b.ref("minus")] for b in batteries), key=lambda n: volts[joined.rail[n]])
    outputs = [node[x.ref("out_minus")] for x in plan.equipment if isinstance(x, Converter)]
    return (*chassis, *minuses, *outputs)
