"""The netlist, solved by programs that share no line with ours."""

import os
import re
import subprocess

import numpy as np
import pytest
from benchmarks.generate import generated
from scipy.optimize import root

from jaunty_copper.documents.circuit import NoOperatingPoint, netlist
from jaunty_copper.network.study import study
from jaunty_copper.plan.examples import example, names
from jaunty_copper.plan.model import PowerLoad
from tests.build import loop

STATES = [(name, s.id) for name in names() for s in example(name).scenarios]


def state_of(name, scenario):
    return study(example(name)).state(scenario)


def solve_text(text):
    """Solve a netlist from its text alone: resistors, sources, behavioural sources."""
    nodes, parts = {"0": -1}, []
    for line in text.splitlines()[1:]:
        if line.startswith(("*", ".")):
            continue
        name, a, b, rest = line.split(maxsplit=3)
        for n in (a, b):
            nodes.setdefault(n, len(nodes) - 1)
        parts.append((name, nodes[a], nodes[b], rest))
    count = len(nodes) - 1
    forced = [p for p in parts if p[0][0] == "V" or (p[0][0] == "B" and p[3].startswith("V="))]
    current_of = {p[0]: count + k for k, p in enumerate(forced)}

    def expression(rest, x):
        def volts(m):
            a, b = (nodes[n] for n in m.group(1).split(","))
            return f"({x[a] if a >= 0 else 0.0!r}-({x[b] if b >= 0 else 0.0!r}))"

        rest = re.sub(r"-I\((\w+)\)", lambda m: f"({-x[current_of[m.group(1)]]!r})", rest[2:])
        return eval(re.sub(r"V\(([^)]*)\)", volts, rest), {"__builtins__": {}})

    def equations(x):
        f = np.zeros(x.size)
        x = [float(v) for v in x]
        for name, a, b, rest in parts:
            va, vb = (x[n] if n >= 0 else 0.0 for n in (a, b))
            if name in current_of:
                i = x[current_of[name]]
                wanted = float(rest.split()[-1]) if rest.startswith("DC") else expression(rest, x)
                f[current_of[name]] = va - vb - wanted
            elif name[0] == "R":
                i = (va - vb) / float(rest)
            elif name[0] == "I":
                i = float(rest.split()[-1])
            else:
                i = expression(rest, x)
            if a >= 0:
                f[a] += i
            if b >= 0:
                f[b] -= i
        return f

    return nodes, count, equations


@pytest.mark.parametrize(("name", "scenario"), STATES)
def test_our_solution_satisfies_the_netlist_read_back_from_its_text(name, scenario):
    state = state_of(name, scenario)
    text = netlist(state)
    nodes, _count, equations = solve_text(text)
    start = np.zeros(len([0 for _ in nodes]) - 1 + len(re.findall(r"(?m)^(V|B\w+ \S+ \S+ V=)", text)))
    for ref, k in state.wiring.node.items():
        start[nodes[str(k + 1)]] = round(state.volts(ref), 2)
    for line in text.splitlines():
        if line.startswith("Vbattery"):
            _, inner, minus, _, emf = line.split()
            start[nodes[inner]] = start[nodes[minus]] + float(emf)
    found = root(equations, start, method="hybr", options={"xtol": 1e-12, "maxfev": 20000})
    largest = max(abs(state.volts(ref)) for ref in state.wiring.refs)
    for ref, k in state.wiring.node.items():
        assert found.x[nodes[str(k + 1)]] == pytest.approx(state.volts(ref), abs=1e-6 * largest)


@pytest.mark.skipif("SPICE" not in os.environ, reason="SPICE names no circuit solver")
@pytest.mark.parametrize("which", [*STATES, "generated"])
def test_an_independent_circuit_solver_agrees_to_one_part_in_a_million(which, tmp_path):
    state = study(generated(150)).states[0] if which == "generated" else state_of(*which)
    text = netlist(state).replace(
        ".end\n", ".options reltol=1e-9 abstol=1e-12 vntol=1e-12\n.control\nset numdgt=12\nop\nprint all\n.endc\n.end\n"
    )
    file = tmp_path / "x.cir"
    file.write_text(text)
    out = subprocess.run([os.environ["SPICE"], "-b", str(file)], capture_output=True, text=True, check=False).stdout
    volts = {k: float(v) for k, v in re.findall(r"(?m)^(?:v\()?(\d+)\)? = (\S+)$", out, re.IGNORECASE)}
    assert len(volts) >= len(state.wiring.refs), out[-2000:]
    largest = max(abs(state.volts(ref)) for ref in state.wiring.refs)
    for ref, k in state.wiring.node.items():
        assert volts[str(k + 1)] == pytest.approx(state.volts(ref), abs=1e-6 * largest), ref


def test_every_node_is_tied_to_its_terminal_by_a_comment():
    state = state_of("orchard_station", "evening")
    text = netlist(state)
    for ref, k in state.wiring.node.items():
        assert f"* node {k + 1} = {ref}\n" in text
    assert text.endswith(".op\n.end\n")


def test_what_has_no_operating_point_has_no_netlist():
    with pytest.raises(NoOperatingPoint):
        netlist(study(loop(PowerLoad(id="E", power_w=5000.0))).states[0])
