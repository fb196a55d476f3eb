"""Compile a plan to a circuit, and remember what each node and branch stands for."""

from dataclasses import dataclass
from functools import cached_property
from typing import Literal

import numpy as np

from jaunty_copper.parts.catalogue import Catalogue, library
from jaunty_copper.physics import graph
from jaunty_copper.physics.battery import internal_resistance
from jaunty_copper.physics.circuit import Circuit
from jaunty_copper.physics.copper import bar_resistance
from jaunty_copper.physics.graph import Ints
from jaunty_copper.physics.heat import Cable
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
    Run,
    Shunt,
    Source,
)

JOINT_OHM = 40e-6
"""A crimped lug on its stud as planned: 20 to 60 microhm, representative."""
DISCONNECT_OHM = 0.2e-3
"""Representative of a closed switch, manual or driven."""
COMMON_MINUS_OHM = 0.5e-3
"""Between input and output minus inside a converter that is not isolated, representative."""

BranchKind = Literal["run", "body", "segment", "battery", "inside", "point"]


@dataclass(frozen=True)
class Branch:
    """What a branch of the circuit stands for.

    Attributes
    ----------
    kind : str
        A run, the body of an inline item, a bar's segment, a battery, a converter's common
        minus, or the way from a chassis point into the chassis.
    owner : str
        Id of the run or item.
    index : int
        Which segment or point, from 0.
    """

    kind: BranchKind
    owner: str
    index: int = 0


@dataclass(frozen=True)
class Wiring:
    """A plan's circuit with the names of its nodes and branches."""

    plan: Plan
    parts: Catalogue
    refs: tuple[str, ...]
    node: dict[str, int]
    branches: tuple[Branch, ...]
    circuit: Circuit
    loads: tuple[Load, ...]
    sources: tuple[Source | Converter, ...]
    heated_runs: tuple[Run, ...]

    @cached_property
    def branch(self) -> dict[str, int]:
        """Branch of each run, inline item and battery, by id."""
        return {b.owner: k for k, b in enumerate(self.branches) if b.kind in ("run", "body", "battery")}

    @cached_property
    def segments(self) -> dict[str, list[int]]:
        """Branches of each bar's segments, by the bar's id, in the order of its studs."""
        found: dict[str, list[int]] = {}
        for k, b in enumerate(self.branches):
            if b.kind == "segment":
                found.setdefault(b.owner, []).append(k)
        return found

    @cached_property
    def part(self) -> Ints:
        """The galvanic part of each node: what copper, batteries and source ports join."""
        c = self.circuit
        return graph.components(
            c.nodes,
            [*c.a.tolist(), *c.source_plus.tolist()],
            [*c.b.tolist(), *c.source_minus.tolist()],
        )

    @cached_property
    def zone_branches(self) -> dict[str | None, Ints]:
        """Branches in each zone, by its id; None for the open air."""
        zones = [
            (self.plan.run_by_id[b.owner] if b.kind == "run" else self.plan.by_id[b.owner]).zone for b in self.branches
        ]
        return {z: np.array([k for k, own in enumerate(zones) if own == z], dtype=np.int64) for z in set(zones)}

    @cached_property
    def load_index(self) -> dict[str, int]:
        """Position of each load in the circuit's arrays, by id."""
        return {e.id: k for k, e in enumerate(self.loads)}

    @cached_property
    def source_index(self) -> dict[str, int]:
        """Position of each source and converter in the circuit's arrays, by id."""
        return {e.id: k for k, e in enumerate(self.sources)}

    @cached_property
    def rail(self) -> Ints:
        """The rail of each node: what copper joins with every switch closed."""
        wire = ~self.circuit.is_battery
        return graph.components(self.circuit.nodes, self.circuit.a[wire].tolist(), self.circuit.b[wire].tolist())


def body_ohm(item: Inline, parts: Catalogue) -> float:
    """Resistance of an inline item's body, ohm: measured, or as usual for its kind.

    Fuse and breaker bodies drop their family's voltage at rated current; a shunt its own.
    """
    if item.measured_ohm is not None:
        return item.measured_ohm
    match item:
        case Fuse() | Breaker():
            return parts.device_families[item.family].body_v_at_rated / item.rating_a
        case Shunt():
            return item.drop_mv * 1e-3 / item.rating_a
        case PlugConnector():
            return item.contact_ohm
        case Disconnect() | Contactor():
            return DISCONNECT_OHM
    raise TypeError(f"no resistance known for a {type(item).__name__}")


def battery_ohm(battery: Battery, parts: Catalogue) -> float:
    """Internal resistance of a unit, ohm: its own, or from its chemistry."""
    if battery.internal_ohm is not None:
        return battery.internal_ohm
    chemistry = parts.battery_chemistries[battery.chemistry]
    return float(internal_resistance(cells(battery, parts), chemistry.r_ohm_ah, battery.capacity_ah))


def cells(battery: Battery, parts: Catalogue) -> int:
    """Cells in series in a unit."""
    return max(1, round(parts.battery_chemistries[battery.chemistry].cells_per_12v * battery.nominal_v / 12.0))


def run_ohms(run: Run, parts: Catalogue) -> tuple[float, float]:
    """Resistance of a run, ohm: what stays (joints) and what copper has at 20 C.

    A run of no length is a part bolted straight to another: one joint, no copper.
    """
    if run.measured_ohm is not None:
        return run.measured_ohm, 0.0
    first = JOINT_OHM / run.parallel if run.joint_a_ohm is None else run.joint_a_ohm
    second = JOINT_OHM / run.parallel if run.joint_b_ohm is None else run.joint_b_ohm
    if run.length_m == 0.0:
        return first if run.joint_b_ohm is None else max(first, second), 0.0
    copper = parts.conductors[run.conductor].r_ohm_per_km * 1e-3 * run.length_m / run.parallel
    return first + second, copper


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
    refs: list[str] = [x.ref(t) for x in plan.placed for t in x.terminal_names]
    refs += [f"{x.id}." for x in plan.items if isinstance(x, Chassis)]
    node = {ref: k for k, ref in enumerate(refs)}
    branches: list[Branch] = []
    ends: list[tuple[int, int]] = []
    ohms: list[tuple[float, float]] = []

    def put(kind: BranchKind, owner: str, a: str, b: str, fixed: float, copper: float = 0.0, index: int = 0) -> None:
        branches.append(Branch(kind, owner, index))
        ends.append((node[a], node[b]))
        ohms.append((fixed, copper))

    for item in plan.items:
        match item:
            case Battery():
                put("battery", item.id, item.ref("minus"), item.ref("plus"), battery_ohm(item, parts))
            case Bar():
                r = float(bar_resistance(item.spacing_mm * 1e-3, item.width_mm, item.thickness_mm))
                names = item.terminal_names
                for k in range(len(names) - 1):
                    put("segment", item.id, item.ref(names[k]), item.ref(names[k + 1]), 0.0, r, k)
            case Chassis():
                for k, point in enumerate(item.points):
                    put("point", item.id, item.ref(point.id), f"{item.id}.", point.ohm, 0.0, k)
            case Inline():
                put("body", item.id, item.ref("a"), item.ref("b"), body_ohm(item, parts))
    heated: list[int] = []
    heated_runs: list[Run] = []
    for run in plan.runs:
        fixed, copper = run_ohms(run, parts)
        if copper > 0.0:
            heated.append(len(branches))
            heated_runs.append(run)
        put("run", run.id, run.a, run.b, fixed, copper)
    for e in plan.equipment:
        if isinstance(e, Converter) and not e.isolated:
            put("inside", e.id, e.ref("in_minus"), e.ref("out_minus"), COMMON_MINUS_OHM)

    loads = tuple(e for e in plan.equipment if isinstance(e, Load))
    sources = tuple(e for e in plan.equipment if isinstance(e, Source | Converter))
    end = np.array(ends, dtype=np.int64).reshape(-1, 2)
    ohm = np.array(ohms, dtype=float).reshape(-1, 2)
    is_battery = np.array([b.kind == "battery" for b in branches], dtype=bool)
    circuit = Circuit(
        nodes=len(refs),
        a=end[:, 0],
        b=end[:, 1],
        is_battery=is_battery,
        fixed_ohm=ohm[:, 0],
        copper_ohm=ohm[:, 1],
        heated=np.array(heated, dtype=np.int64),
        cable=cable_of(heated_runs, parts),
        load_plus=_nodes(node, [e.ref("plus") for e in loads]),
        load_minus=_nodes(node, [e.ref("minus") for e in loads]),
        source_plus=_nodes(node, [e.ref(_out(e)[0]) for e in sources]),
        source_minus=_nodes(node, [e.ref(_out(e)[1]) for e in sources]),
        sense_plus=_nodes(node, [_sense(e)[0] for e in sources]),
        sense_minus=_nodes(node, [_sense(e)[1] for e in sources]),
        feed_plus=_nodes(node, [e.ref("in_plus") if isinstance(e, Converter) else None for e in sources]),
        feed_minus=_nodes(node, [e.ref("in_minus") if isinstance(e, Converter) else None for e in sources]),
        efficiency=np.array([e.efficiency if isinstance(e, Converter) else 1.0 for e in sources]),
        grounds=_grounds(plan, node, end, is_battery),
    )
    return Wiring(plan, parts, tuple(refs), node, tuple(branches), circuit, loads, sources, tuple(heated_runs))


def cable_of(runs: list[Run], parts: Catalogue) -> Cable:
    """Sections and insulation of runs.

    Conductors side by side share the current; their resistance over the square of their
    number lets the heat balance take the current of the whole run.
    """
    sizes = [parts.conductors[r.conductor] for r in runs]
    count = np.array([r.parallel for r in runs], dtype=float)
    return Cable(
        r20_ohm_per_m=np.array([s.r_ohm_per_km for s in sizes], dtype=float) * 1e-3 / count**2,
        area_mm2=np.array([s.area_mm2 for s in sizes], dtype=float),
        outer_mm=np.array([s.outer_mm for s in sizes], dtype=float),
    )


def _nodes(node: dict[str, int], refs: list[str | None]) -> Ints:
    return np.array([-1 if ref is None else node[ref] for ref in refs], dtype=np.int64)


def _out(e: Equipment) -> tuple[str, str]:
    return ("out_plus", "out_minus") if isinstance(e, Converter) else ("plus", "minus")


def _sense(e: Source | Converter) -> tuple[str, str]:
    if isinstance(e, Source) and e.sense_plus is not None and e.sense_minus is not None:
        return e.sense_plus, e.sense_minus
    plus, minus = _out(e)
    return e.ref(plus), e.ref(minus)


def _grounds(
    plan: Plan, node: dict[str, int], end: Ints, is_battery: "np.ndarray[tuple[int], np.dtype[np.bool_]]"
) -> tuple[int, ...]:
    """Chassis first; then battery minus terminals, the lowest of a string first; then outputs."""
    chassis = [node[f"{x.id}."] for x in plan.items if isinstance(x, Chassis)]
    batteries = [x for x in plan.items if isinstance(x, Battery)]
    rail = graph.components(len(node), end[~is_battery, 0].tolist(), end[~is_battery, 1].tolist())
    edges = [(int(rail[node[b.ref("minus")]]), int(rail[node[b.ref("plus")]]), b.nominal_v) for b in batteries]
    volts, _, _ = graph.potentials(int(rail.max(initial=-1)) + 1, edges)
    minuses = sorted((node[b.ref("minus")] for b in batteries), key=lambda n: volts[int(rail[n])])
    outputs = [node[x.ref("out_minus")] for x in plan.equipment if isinstance(x, Converter)]
    return (*chassis, *minuses, *outputs)
