"""Variants solved together, against each of them solved by itself in full."""

from dataclasses import replace

import numpy as np
import pytest

from jaunty_copper.network.demand import duty_of, scenarios_of
from jaunty_copper.network.wiring import wire
from jaunty_copper.physics.operating_point import Solver
from jaunty_copper.physics.samples import Variants, vary
from jaunty_copper.plan.examples import example
from tests.networks import network


def drawn(circuit, kinds, count, rng):
    b, loads = circuit.a.size, circuit.load_plus.size
    sigma = np.array([{"run": 0.35, "battery": 0.2}.get(k, 0.2) for k in kinds])
    return Variants(
        np.exp(sigma * rng.normal(size=(count, b))), 1.0 + 0.03 * rng.normal(size=(count, b)),
        0.05 * rng.normal(size=(count, 1)) * circuit.is_battery, 1.0 + 0.05 * rng.normal(size=(count, loads)),
        np.tile(5.0 * rng.normal(size=(count, 1)), (1, b)),
    )  # fmt: skip


def alone(circuit, duty, v, k):
    """One variant, solved in full."""
    c = replace(circuit, fixed_ohm=circuit.fixed_ohm * v.fixed[k], copper_ohm=circuit.copper_ohm * v.copper[k])
    return Solver(c).solve(
        replace(
            duty, emf_v=duty.emf_v + v.emf_v[k], load_w=duty.load_w * v.load[k], load_a=duty.load_a * v.load[k],
            load_s=duty.load_s * v.load[k], ambient_c=duty.ambient_c + v.air_k[k],
        )
    )  # fmt: skip


def check(plan, seed, count=12):
    w, rng = wire(plan), np.random.default_rng(seed)
    for scenario in scenarios_of(plan):
        duty, solver = duty_of(w, scenario), Solver(w.circuit)
        if not solver.solve(duty).solved:
            continue
        v = drawn(w.circuit, [b.kind for b in w.branches], count, rng)
        found = vary(solver, v)
        for k in range(count):
            one = alone(w.circuit, duty, v, k)
            if not found.settled[k]:
                continue
            assert one.solved
            np.testing.assert_allclose(found.volts[k], one.volts, atol=1e-3 * np.abs(one.volts).max())
            most = np.abs(one.current_a).max()
            np.testing.assert_allclose(found.current_a[k], one.current_a, atol=2e-3 * most + 1e-3)
            hot = w.circuit.heated
            np.testing.assert_allclose(found.temperature_c[k][hot], one.temperature_c[hot], atol=1.5)
        yield found.settled.mean()


@pytest.mark.parametrize("name", ["orchard_station", "seed_shed", "relay_mast"])
def test_variants_of_examples_are_what_each_would_be(name):
    settled = list(check(example(name), 1))
    assert settled
    assert min(settled) > 0.8


@pytest.mark.chance("networks whose variants, solved together, are what each would be by itself")
@pytest.mark.parametrize("seed", range(12))
def test_variants_of_networks_by_chance_are_what_each_would_be(seed):
    list(check(network(seed), seed, 6))


def test_no_difference_gives_the_point_itself():
    plan = example("orchard_station")
    w = wire(plan)
    solver = Solver(w.circuit)
    point = solver.solve(duty_of(w, plan.scenarios[0]))
    one = np.ones((3, w.circuit.a.size))
    same = vary(solver, Variants(one, one, 0.0 * one, np.ones((3, w.circuit.load_plus.size)), 0.0 * one))
    assert same.settled.all()
    np.testing.assert_allclose(same.volts, np.tile(point.volts, (3, 1)), atol=1e-5)
    np.testing.assert_allclose(same.current_a, np.tile(point.current_a, (3, 1)), atol=1e-3)


def test_nothing_solved_is_said():
    with pytest.raises(ValueError, match="nothing"):
        Solver(wire(example("seed_shed")).circuit).chord()
