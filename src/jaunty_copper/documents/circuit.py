"""A solved state as a SPICE netlist, so that an independent solver can check it."""

from math import isfinite

import numpy as np

from jaunty_copper import __version__
from jaunty_copper.network.state import State
from jaunty_copper.physics import graph
from jaunty_copper.physics.circuit import Mode
from jaunty_copper.plan.model import Converter
from jaunty_copper.protection.fault_network import CaseName, branches_of, ends_of
from jaunty_copper.protection.faults import Faults

STIFF_S = 1000.0
"""How stiff a source holds its voltage here, S: it gives its solved current where that is exact."""


class NoOperatingPoint(ValueError):
    """The scenario has no operating point, so there is nothing to write down."""


def netlist(state: State) -> str:
    """Write the circuit of one scenario in its solved state.

    Resistances stand at their solved temperature, sources in their solved mode, constant powers as behavioural current
    sources. Batteries and what holds a voltage are current sources too (Norton): a rail held by voltage sources alone
    leads solvers astray that choose their pivots by size. Comment lines tie each node number to its terminal. `.nodeset` lines tell a solver where to begin, not where to end. Node 0 is tied to one node of each galvanic part through 1 ohm that carries no
    current.

    Parameters
    ----------
    state : State
        A solved scenario.

    Raises
    ------
    NoOperatingPoint
        It has none.
    """
    if not state.solved:
        raise NoOperatingPoint(f"“{state.scenario.title}” has no operating point")
    w, c, p = state.wiring, state.wiring.circuit, state.point
    duty = state.duty
    node = [str(k + 1) for k in range(c.nodes)]
    lines = [
        # One line, whatever stands in a name: a solver would take the next one for an order.
        f"* {w.plan.title or 'plan'}, scenario {state.scenario.title}",
        f"* Jaunty Copper {__version__}; volts, amperes, ohms; resistances at their solved temperature",
        *(f"* node {node[k]} = {ref}" for k, ref in enumerate(w.refs)),
    ]
    for k, branch in enumerate(w.branches):
        a, b = node[c.a[k]], node[c.b[k]]
        name = f"{branch.kind}_{branch.owner}" + (f"_{branch.index + 1}" if branch.kind in ("segment", "point") else "")
        if not duty.closed[k]:
            lines.append(f"* {name} between {a} and {b} is open")
        elif branch.kind == "battery":
            lines += _source(name, a, b, float(duty.emf_v[k]), float(p.ohm[k]))
        else:
            lines.append(f"R{name} {a} {b} {float(p.ohm[k])!r}")
    for k, e in enumerate(w.loads):
        plus, minus = node[c.load_plus[k]], node[c.load_minus[k]]
        if p.unfed[k] or p.reversed_[k] or p.no_return[k]:
            lines.append(f"* {e.id} takes nothing: {state.mode(e)}")
            continue
        if duty.load_w[k] > 0.0:
            lines.append(f"B{e.id} {plus} {minus} I={float(duty.load_w[k])!r}/V({plus},{minus})")
        if duty.load_a[k] > 0.0:
            lines.append(f"I{e.id} {plus} {minus} DC {float(duty.load_a[k])!r}")
        if duty.load_s[k] > 0.0:
            lines.append(f"R{e.id} {plus} {minus} {1.0 / float(duty.load_s[k])!r}")
    for k, source in enumerate(w.sources):
        plus, minus = node[c.source_plus[k]], node[c.source_minus[k]]
        mode = Mode(int(p.mode[k]))
        sensed = f"V({node[c.sense_plus[k]]},{node[c.sense_minus[k]]})"
        given = {
            Mode.OFF: "0",
            Mode.CURRENT: repr(float(duty.source_a[k])),
            Mode.POWER: f"{float(duty.source_w[k])!r}/V({plus},{minus})",
            # More, the further the sensed voltage is below what is set: in the end exactly that.
            Mode.VOLTAGE: f"({float(p.source_a[k])!r}+({float(duty.source_v[k])!r}-{sensed})*{STIFF_S!r})",
        }[mode]
        if mode is Mode.OFF:
            lines.append(f"* {source.id} gives nothing")
        else:
            lines.append(f"B{source.id} {minus} {plus} I={given}")
        if isinstance(source, Converter) and p.feed_a[k] != 0.0:
            fp, fm = node[c.feed_plus[k]], node[c.feed_minus[k]]
            lines.append(
                f"B{source.id}_in {fp} {fm} "
                f"I=(V({plus},{minus})*({given})/{source.efficiency!r}+{float(duty.standby_w[k])!r})/V({fp},{fm})"
            )
    for n in p.pins:
        lines.append(f"Rground_{node[n]} {node[n]} 0 1")
    lines.append("* a constant power has two roots: begin near the one with the higher voltage")
    lines += [f".nodeset V({node[k]})={p.volts[k]:.4g}" for k in range(c.nodes)]
    return "\n".join([*lines, ".op", ".end", ""])


def fault_netlist(faults: Faults, column: int, case: CaseName) -> str:
    """Write the circuit of one short circuit: linear, every source behind its resistance.

    Parameters
    ----------
    faults : Faults
        Of a plan.
    column : int
        Which of its places.
    case : str
        As in `fault_network.branches_of`. The current of the source `Vfault` is the fault's.
    """
    w = faults.wiring
    opened = faults.switchings[faults.least_in(column)] if case == "least" else None
    branches, (a, b) = branches_of(w, case, opened), ends_of(w)
    names = [f"{x.kind}_{x.owner}" + (f"_{x.index + 1}" if x.kind in ("segment", "point") else "") for x in w.branches]
    names += [f"source_{e.id}" for e in w.sources]
    at, to = faults.places.refs[column]
    lines = [
        f"* {w.plan.title or 'plan'}, short circuit from {at} to {to}, {CASES[case]}",
        f"* Jaunty Copper {__version__}; volts, amperes, ohms",
        *(f"* node {k + 1} = {ref}" for k, ref in enumerate(w.refs)),
    ]
    for name, p, q, ohm, emf in zip(
        names, a.tolist(), b.tolist(), branches.ohm.tolist(), branches.emf_v.tolist(), strict=False
    ):
        if not isfinite(ohm):
            lines.append(f"* {name} gives nothing")
        elif emf:
            lines += _source(name, str(p + 1), str(q + 1), emf, ohm)
        else:
            lines.append(f"R{name} {p + 1} {q + 1} {ohm!r}")
    on = np.isfinite(branches.ohm)
    parts = graph.components(w.circuit.nodes, [*a[on].tolist(), w.node[at]], [*b[on].tolist(), w.node[to]])
    lines += [
        f"Rground_{k + 1} {k + 1} 0 1" for k in {part: n for n, part in reversed(list(enumerate(parts)))}.values()
    ]
    lines.append(f"Vfault {w.node[at] + 1} {w.node[to] + 1} DC 0")
    return "\n".join([*lines, ".op", ".print op I(Vfault)", ".end", ""])


CASES: dict[CaseName, str] = {
    "peak": "greatest, first moment", "heat": "greatest for conductors", "steady": "greatest, lasting", "least": "least",
}  # fmt: skip


def _source(name: str, minus: str, plus: str, emf_v: float, ohm: float) -> list[str]:
    """A voltage behind a resistance, as the current that it drives into a short, beside that resistance."""
    return [f"I{name} {minus} {plus} DC {emf_v / ohm!r}", f"R{name} {plus} {minus} {ohm!r}"]
