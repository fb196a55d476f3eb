"""A solved state as a SPICE netlist, so that an independent solver can check it."""

from jaunty_copper import __version__
from jaunty_copper.network.demand import duty_of
from jaunty_copper.network.study import State
from jaunty_copper.physics.circuit import Mode
from jaunty_copper.plan.model import Converter


class NoOperatingPoint(ValueError):
    """The scenario has no operating point, so there is nothing to write down."""


def netlist(state: State) -> str:
    """Write the circuit of one scenario in its solved state.

    Resistances stand at their solved temperature, sources in their solved mode, constant
    powers as behavioural current sources. Comment lines tie each node number to its
    terminal. `.nodeset` lines tell a solver where to begin, not where to end. Node 0 is tied to one node of each galvanic part through 1 ohm that carries no
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
    duty = duty_of(w, state.scenario)
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
            inner = f"emf_{branch.owner}"
            lines.append(f"V{name} {inner} {a} DC {float(duty.emf_v[k])!r}")
            lines.append(f"R{name} {inner} {b} {float(p.ohm[k])!r}")
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
        given = {
            Mode.OFF: "0",
            Mode.CURRENT: repr(float(duty.source_a[k])),
            Mode.POWER: f"{float(duty.source_w[k])!r}/V({plus},{minus})",
            Mode.VOLTAGE: f"-I(V{source.id})",
        }[mode]
        if mode is Mode.VOLTAGE:
            sense_plus, sense_minus = node[c.sense_plus[k]], node[c.sense_minus[k]]
            volts = float(duty.source_v[k])
            if (sense_plus, sense_minus) == (plus, minus):
                lines.append(f"V{source.id} {plus} {minus} DC {volts!r}")
            else:
                # The source takes whatever voltage makes the sensed one right.
                lines.append(f"V{source.id} {plus} drive_{source.id} DC 0")
                lines.append(
                    f"B{source.id} drive_{source.id} {minus} "
                    f"V=V(drive_{source.id},{minus})+{volts!r}-V({sense_plus},{sense_minus})"
                )
        elif mode is Mode.OFF:
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
