"""The netlist, solved by programs that share no line with ours."""

import os
import random
import re
import subprocess

import numpy as np
import pytest
from benchmarks.generate import generated
from scipy.optimize import root

from jaunty_copper.cli.main import main
from jaunty_copper.documents.circuit import NoOperatingPoint, fault_netlist, netlist
from jaunty_copper.network.study import study
from jaunty_copper.network.wiring import wire
from jaunty_copper.plan.examples import example, names
from jaunty_copper.plan.files import dumps
from jaunty_copper.plan.model import PowerLoad
from jaunty_copper.protection.faults import faults_of
from tests.build import loop
from tests.networks import network
from tests.trials import trials

SPICE = os.environ.get("SPICE")
STATES = [(name, s.id) for name in names() for s in example(name).scenarios]


def state_of(name, scenario):
    return study(example(name)).state(scenario)


def solve_text(text):
    """Solve a netlist from its text alone: resistors, sources, behavioural current sources."""
    nodes, parts = {"0": -1}, []
    for line in text.splitlines()[1:]:
        if line.startswith(("*", ".")):
            continue
        name, a, b, rest = line.split(maxsplit=3)
        for n in (a, b):
            nodes.setdefault(n, len(nodes) - 1)
        parts.append((name, nodes[a], nodes[b], rest))
    count = len(nodes) - 1
    current_of = {p[0]: count + k for k, p in enumerate(p for p in parts if p[0][0] == "V")}

    def expression(rest, x):
        def volts(m):
            a, b = (nodes[n] for n in m.group(1).split(","))
            return f"({x[a] if a >= 0 else 0.0!r}-({x[b] if b >= 0 else 0.0!r}))"

        return eval(re.sub(r"V\(([^)]*)\)", volts, rest[2:]), {"__builtins__": {}})

    def equations(x):
        f = np.zeros(x.size)
        x = [float(v) for v in x]
        for name, a, b, rest in parts:
            va, vb = (x[n] if n >= 0 else 0.0 for n in (a, b))
            if name in current_of:
                i = x[current_of[name]]
                f[current_of[name]] = va - vb - float(rest.split()[-1])
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
    start = np.zeros(len(nodes) - 1)
    for ref, k in state.wiring.node.items():
        start[nodes[str(k + 1)]] = round(state.volts(ref), 2)
    found = root(equations, start, method="hybr", options={"xtol": 1e-12, "maxfev": 20000})
    largest = max(abs(state.volts(ref)) for ref in state.wiring.refs)
    for ref, k in state.wiring.node.items():
        assert found.x[nodes[str(k + 1)]] == pytest.approx(state.volts(ref), abs=1e-6 * largest)


def run(text, file, options=""):
    """What a circuit solver says of a netlist: voltages by node, and the current of a fault."""
    file.write_text(text.replace(".end\n", f"{options}.control\nset numdgt=12\nop\nprint all\n.endc\n.end\n"))
    out = subprocess.run([SPICE, "-b", str(file)], capture_output=True, text=True, check=False).stdout
    volts = {k: float(v) for k, v in re.findall(r"(?m)^(?:v\()?(\d+)\)? = (\S+)$", out, re.IGNORECASE)}
    amps = re.search(r"(?mi)^vfault#branch = (\S+)$", out)
    return volts, float(amps.group(1)) if amps else None, out


@pytest.mark.skipif(not SPICE, reason="SPICE names no circuit solver")
@pytest.mark.parametrize("which", [*STATES, "generated"])
def test_an_independent_circuit_solver_agrees_to_one_part_in_a_million(which, tmp_path):
    state = study(generated(150)).states[0] if which == "generated" else state_of(*which)
    options = ".options reltol=1e-9 abstol=1e-12 vntol=1e-12\n"
    volts, _, out = run(netlist(state), tmp_path / "x.cir", options)
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


@pytest.mark.chance
@pytest.mark.skipif(not SPICE, reason="SPICE names no circuit solver")
def test_the_usual_settings_of_a_solver_lead_it_to_the_same_voltages_on_networks_drawn_by_chance(tmp_path):
    for seed in range(trials(100)):
        for state in (s for s in study(network(seed)).states if s.solved):
            volts, _, out = run(netlist(state), tmp_path / "x.cir")
            assert len(volts) >= len(state.wiring.refs), out[-2000:]
            for ref, k in state.wiring.node.items():
                assert volts[str(k + 1)] == pytest.approx(state.volts(ref), abs=1e-3), (seed, ref)


def by_text(text):
    """Current of the fault in a netlist, a linear one, solved from its text alone."""
    nodes, _, equations = solve_text(text)
    size = len(nodes)
    zero = equations(np.zeros(size))
    matrix = np.array([equations(one) - zero for one in np.eye(size)]).T
    return float(np.linalg.solve(matrix, -zero)[-1])


def some_faults(faults, seed):
    columns = range(len(faults.places.refs))
    return random.Random(seed).sample(columns, min(4, len(columns)))


@pytest.mark.parametrize("case", ["peak", "steady", "least"])
def test_a_fault_written_down_is_the_fault_that_is_told(case):
    plans = [example(name) for name in names()] + [network(seed) for seed in range(trials(60))]
    for seed, plan in enumerate(plans):
        faults = faults_of(wire(plan))
        # A running motor drives in the first moment; the netlist has none.
        told = getattr(faults, case) if case != "peak" or not any(s.motor for s in faults.stores) else None
        for column in some_faults(faults, seed) if told is not None else ():
            found = by_text(fault_netlist(faults, column, case))
            assert found == pytest.approx(float(told.current_a[column]), rel=1e-5, abs=1e-3), (
                seed,
                faults.places.refs[column],
            )


@pytest.mark.chance
@pytest.mark.skipif(not SPICE, reason="SPICE names no circuit solver")
def test_a_circuit_solver_finds_the_fault_that_is_told(tmp_path):
    for seed in range(trials(60)):
        faults = faults_of(wire(network(seed)))
        for column in some_faults(faults, seed)[:2]:
            _, amps, out = run(fault_netlist(faults, column, "peak"), tmp_path / "x.cir")
            assert amps is not None, out[-2000:]
            assert amps == pytest.approx(float(faults.peak.current_a[column]), rel=1e-3, abs=1e-2)


def test_the_command_line_writes_a_fault(tmp_path, capsys):
    file = tmp_path / "demo.copper.json"
    file.write_bytes(dumps(example("orchard_station")))
    faults = faults_of(wire(example("orchard_station")))
    for least, told in ((False, faults.most_a("PUMP.plus")), (True, faults.least_a("PUMP.plus"))):
        assert (
            main(["export", str(file), "--to", "circuit", "--fault", "PUMP.plus", *(["--least"] if least else [])]) == 0
        )
        assert abs(by_text(capsys.readouterr().out)) == pytest.approx(told, rel=1e-5)
    assert main(["export", str(file), "--to", "circuit", "--fault", "NOTHING"]) == 2
    assert "NOTHING" in capsys.readouterr().err
