"""What can flow for good, on networks drawn by chance: a search over loads, and a linear program, beside the cut."""

import random
from itertools import combinations
from math import inf, isfinite

import numpy as np
import pytest
from scipy.optimize import linprog

from jaunty_copper.codes.case import Case
from jaunty_copper.network.study import study
from jaunty_copper.network.wiring import wire
from jaunty_copper.physics import graph
from jaunty_copper.plan import edits
from jaunty_copper.plan.model import Breaker, Converter, Disconnect, Fuse, Plan, PlugConnector, PowerLoad, Source
from jaunty_copper.protection.copper import MOST_SWITCHES
from jaunty_copper.protection.guard import Guard
from jaunty_copper.protection.protection import Protection
from tests.build import bar, battery
from tests.build import wire as lead
from tests.networks import network
from tests.trials import WHOLE

ENOUGH = 1e5
SEARCHED = 150


class Search:
    """Loads of any strength at any equipment, and what flows then: Kirchhoff's laws and nothing else."""

    def __init__(self, plan):
        self.wiring = w = wire(plan)
        c = w.circuit
        self.a, self.b = c.a, c.b
        self.g = 1.0 / np.maximum(c.fixed_ohm + c.copper_ohm, 1e-7)
        self.devices = [(w.branch[x.id], x.rating_a) for x in plan.items if isinstance(x, Fuse | Breaker)]
        node = w.node
        ports = [(e, node[e.port[0]], node[e.port[1]]) for e in plan.equipment]
        self.loads = [(p, m) for e, p, m in ports if not isinstance(e, Source)]
        self.sources = [
            ((node[e.ref("out_plus")], node[e.ref("out_minus")]) if isinstance(e, Converter) else (p, m), e.current_a)
            for e, p, m in ports
            if isinstance(e, Source | Converter)
        ]
        n = c.nodes
        laplace = np.zeros((n, n))
        for p, q, g in zip(self.a, self.b, self.g, strict=True):
            laplace[[p, q], [p, q]] += g
            laplace[p, q] -= g
            laplace[q, p] -= g
        self.part = np.array(graph.components(n, self.a.tolist(), self.b.tolist()))
        held = np.unique(self.part, return_index=True)[1]
        laplace[held, held] += 1.0
        self.z = np.linalg.inv(laplace)
        powered = set(self.part[self.a[c.is_battery]].tolist())
        self.weak = [k for k, ((p, _), _) in enumerate(self.sources) if self.part[p] not in powered]
        parts_fed = powered | {self.part[self.sources[k][0][0]] for k in self.weak}
        self.loads = [(p, m) for p, m in self.loads if self.part[p] == self.part[m] and self.part[p] in parts_fed]

    def flows(self, push):
        """Current of every branch for what is pushed into each node."""
        v = self.z @ push
        return self.g * (v[self.a] - v[self.b])

    def pushed(self, amps, ports):
        """What currents into the plus and out of the minus of ports push into each node."""
        push = np.zeros(self.z.shape[0])
        for (p, m), a in zip(ports, amps, strict=True):
            push[p] += a
            push[m] -= a
        return push

    def trial(self, r):
        """One pattern of loads, as strong as the first device or source lets it be; None where it has no limit."""
        loads = r.exponential(1.0, len(self.loads)) * (r.random(len(self.loads)) < r.choice((0.2, 0.6, 1.0)))
        limits = np.array([most for _, most in self.sources])
        shares = r.random(limits.size) * (r.random(limits.size) < 0.5) * limits
        # Where no battery is, sources give just what loads take.
        rising = np.zeros(limits.size)
        for part in {self.part[self.sources[k][0][0]] for k in self.weak}:
            own = [k for k in self.weak if self.part[self.sources[k][0][0]] == part]
            shares[own] = 0.0
            weights = r.random(len(own)) + 0.01
            wanted = sum(a for (p, _), a in zip(self.loads, loads, strict=True) if self.part[p] == part)
            rising[own] = wanted * weights / weights.sum()
        ports = [port for port, _ in self.sources]
        flow = self.flows(self.pushed(-loads, self.loads) + self.pushed(rising, ports))
        given = self.flows(self.pushed(shares, ports))
        # The largest t with |t flow + given| within every rating.
        most = min([ENOUGH, *(limits[rising > 0.0] / rising[rising > 0.0])])
        for k, rating in self.devices:
            if abs(given[k]) > rating:
                return None
            if abs(flow[k]) > 1e-9:
                most = min(most, (rating - np.sign(flow[k]) * given[k]) / abs(flow[k]))
        return most * flow + given


@pytest.mark.parametrize("seed", range(SEARCHED))
def test_no_pattern_of_loads_drives_more_than_the_bound(seed):
    plan = network(seed)
    search, r = Search(plan), np.random.default_rng(seed)
    guard = Guard(search.wiring)
    bounds = {k: guard.bound(k).amps for k in (*guard.conductors, *guard.returns)}
    tried = 0
    for _ in range(60):
        found = search.trial(r)
        if found is None:
            continue
        tried += 1
        for k, most in bounds.items():
            assert abs(found[k]) <= most * (1 + 1e-6) + 1e-3, (search.wiring.branches[k], found[k], guard.bound(k))
    assert tried


def by_linear_program(search, k, towards_sources):
    """The most that Kirchhoff's current law lets through a branch, whatever the resistances, loads as strong as need be.

    A load may stand right at the branch's far end: what opens only beyond it is no limit. On a rail of returns currents
    run the other way, towards what drives them.
    """
    w, n = search.wiring, search.wiring.circuit.nodes
    rating = dict(search.devices)
    columns = [
        *zip(search.a.tolist(), search.b.tolist(), strict=True),
        *search.loads,
        *((m, p) for (p, m), _ in search.sources),
    ]
    balance = np.zeros((n, len(columns)))
    for j, (p, q) in enumerate(columns):
        balance[p, j] -= 1.0
        balance[q, j] += 1.0
    copper = [j for j in range(search.a.size) if j != k and not w.circuit.is_battery[j]]
    side = graph.components(n, search.a[copper].tolist(), search.b[copper].tolist())
    best = 0.0
    for sign, here, there in ((1.0, search.a[k], search.b[k]), (-1.0, search.b[k], search.a[k])):
        beyond = side[here if towards_sources else there] if side[there] != side[here] else -1
        most = [ENOUGH if side[search.a[j]] == beyond else rating.get(j, ENOUGH) for j in range(search.a.size)]
        bounds = [(-x, x) for x in most] + [(0.0, ENOUGH)] * len(search.loads) + [(0.0, x) for _, x in search.sources]
        goal = np.zeros(len(columns))
        goal[k] = -sign
        solved = linprog(goal, A_eq=balance, b_eq=np.zeros(n), bounds=bounds)
        assert solved.status == 0
        best = max(best, -solved.fun)
    return best


@pytest.mark.parametrize("seeds", [range(k, 40, 4) for k in range(4)])
def test_the_bound_is_what_kirchhoffs_law_lets_through_and_seldom_more(seeds):
    equal = more = 0
    for seed in seeds:
        search = Search(network(seed))
        w = search.wiring
        guard = Guard(w)
        pluses = {w.rail[p] for (p, _), _ in search.sources} | {w.rail[n] for n in search.b[w.circuit.is_battery]}
        minuses = {w.rail[m] for (_, m), _ in search.sources} | {w.rail[n] for n in search.a[w.circuit.is_battery]}
        copper = [k for k in range(search.a.size) if not w.circuit.is_battery[k]]
        blocks = graph.blocks(w.circuit.nodes, [(int(search.a[k]), int(search.b[k])) for k in copper])
        alone = {k for k, block in zip(copper, blocks, strict=True) if blocks.count(block) == 1}
        for k in (*guard.conductors, *guard.returns):
            rail = w.rail[search.a[k]]
            # Within a string, and where ways meet again, the law alone knows less than the bound does.
            if (
                w.branches[k].kind != "run"
                or k not in alone
                or rail in pluses & minuses
                or rail not in pluses | minuses
            ):
                continue
            most = by_linear_program(search, k, rail in minuses)
            found = guard.bound(k).amps
            assert found >= min(most, ENOUGH) - 0.02, (seed, w.branches[k].owner, found, most)
            if most > 1e-6:
                same = abs(found - most) < 0.02 or (most > 0.99 * ENOUGH and not isfinite(found))
                equal, more = equal + same, more + (not same)
    # What it asks too much of: units whose current other units or their own string's device hold back.
    assert more <= 0.2 * (equal + more)


# Switches beside one another


def switched_ways(seed):
    """Two or three ways of random copper between two bars, some with a switch in them, behind one fuse; and its switches."""
    r = random.Random(seed)
    ways, items, runs = r.randint(2, 3), [], []
    for k in range(ways):
        size, length = r.choice(("mm2-6", "mm2-10", "mm2-16")), r.uniform(0.4, 3.0)
        if r.random() < 0.6:
            items.append(
                Disconnect(id=f"Q{k}", rating_a=200.0)
                if r.random() < 0.7
                else PlugConnector(id=f"Q{k}", rating_a=200.0)
            )
            runs += [
                lead(f"a{k}", f"S.s{k + 2}", f"Q{k}.a", length, size),
                lead(f"b{k}", f"Q{k}.b", f"P.s{k + 1}", length, size),
            ]
        else:
            runs.append(lead(f"a{k}", f"S.s{k + 2}", f"P.s{k + 1}", 2.0 * length, size))
    plan = Plan(
        items=(battery("B"), bar("S", 6), bar("P", 6), bar("M", 4), Fuse(id="F", family="class-t-fuse", rating_a=110.0), *items),
        equipment=(PowerLoad(id="E", power_w=60.0),),
        runs=(
            lead("u", "B.plus", "F.a", 0.1, "mm2-70"), lead("v", "F.b", "S.s1", 0.3, "mm2-70"),
            lead("m", "B.minus", "M.s1", 0.5, "mm2-70"), *runs,
            lead("e", "P.s5", "E.plus", 1.0, "mm2-70"), lead("r", "E.minus", "M.s3", 1.0, "mm2-70"),
        ),
    )  # fmt: skip
    return plan, [x.id for x in items]


@pytest.mark.parametrize("seed", range(30))
def test_a_way_beside_one_that_can_be_switched_off_may_have_to_carry_all(seed):
    """By brute force: the greatest bound of all plans without some of the switches."""
    plan, switches = switched_ways(seed)

    def bounds(of):
        guard = Guard(wire(of))
        return {run.id: guard.bound(guard.wiring.branch[run.id]).amps for run in of.runs}

    got = bounds(plan)
    most = dict.fromkeys(got, 0.0)
    for count in range(1, len(switches) + 1):
        for off in combinations(switches, count):
            for id_, amps in bounds(edits.remove(plan, *off)).items():
                assert got[id_] >= amps * (1.0 - 1e-9), (off, id_)
                most[id_] = max(most[id_], amps)
    # A way with no switch of its own is in all of those plans: no more is told of it than in the worst of them.
    for id_ in most:
        if switches and id_[0] == "a" and f"Q{id_[1:]}" not in switches:
            assert got[id_] == pytest.approx(most[id_], rel=1e-9), id_
    # Where nothing can be opened each carries its share by resistance, and no more is told.
    if not switches:
        assert got["a0"] < 110.0
    assert max(got[run.id] for run in plan.runs if run.id[0] in "ab") <= 110.0 + 1e-6


def test_of_very_many_plugs_in_a_ring_all_are_out_at_once():
    plan = switched_ways(0)[0]
    plan = edits.remove(
        plan, *(x.id for x in plan.runs if x.id[0] in "ab"), *(x.id for x in plan.items if x.id[0] == "Q")
    )
    count = MOST_SWITCHES + 2
    plugs = tuple(PlugConnector(id=f"Q{k}", rating_a=200.0) for k in range(count))
    ends = ["S.s3", *(ref for k in range(count) for ref in (f"Q{k}.a", f"Q{k}.b")), "P.s2"]
    chain = (lead(f"b{k}", ends[2 * k], ends[2 * k + 1], 0.2, "mm2-10") for k in range(count + 1))
    plan = edits.change_plan(
        plan, items=(*plan.items, *plugs), runs=(*plan.runs, lead("a0", "S.s2", "P.s1", 1.0, "mm2-10"), *chain)
    )
    guard = Guard(wire(plan))
    assert guard.bound(guard.wiring.branch["a0"]).amps == pytest.approx(110.0)


@pytest.mark.parametrize("seed", range(12))
def test_a_way_beside_one_that_is_off_takes_the_whole_fault(seed):
    """When each conductor is damaged at the soonest: no later than in a plan without some of the switches."""
    plan, switches = switched_ways(seed)

    def soonest(of):
        case = Case(Protection(study(of)))
        runs = case.protection.withstand.runs
        return {
            run.id: min((float(f.found.damaged_s[n]) for f in case.greatest_faults for n in f.of(row)), default=inf)
            for row, run in enumerate(runs)
        }

    got = soonest(plan)
    for off in (one for count in range(1, len(switches) + 1) for one in combinations(switches, count)):
        for id_, seconds in soonest(edits.remove(plan, *off)).items():
            # Currents are tried at steps of a twelfth, so that times may lie a fifth apart.
            assert got[id_] <= 1.2 * seconds, (off, id_)


def test_two_thin_ways_bear_a_fault_together_that_one_of_them_does_not():
    """By hand: each of two ways of 2.5 mm² takes half, a quarter of the heat; with the plug of the other out, four times that."""
    ways = [
        lead("a0", "S.s2", "P.s1", 1.2, "mm2-2.5"), lead("a1", "S.s3", "Q.a", 0.6, "mm2-2.5"), lead("b1", "Q.b", "P.s2", 0.6, "mm2-2.5")
    ]  # fmt: skip

    def told(plugged):
        plan, _ = switched_ways(0)
        plan = edits.remove(
            plan, *(x.id for x in plan.runs if x.id[0] in "ab"), *(x.id for x in plan.items if x.id[0] == "Q")
        )
        more = (PlugConnector(id="Q", rating_a=200.0),) if plugged else ()
        kept = ways if plugged else [ways[0], lead("a1", "S.s3", "P.s2", 1.2, "mm2-2.5")]
        plan = edits.change_plan(plan, items=(*plan.items, *more), runs=(*plan.runs, *kept))
        case = Case(Protection(study(plan)))
        row = case.protection.withstand.row["a0"]
        return max(float(f.found.let_a2s[n]) for f in case.greatest_faults for n in f.of(row))

    assert told(True) > 2.0 * told(False)


def _changed(plan, rng):
    """A plan with one thing of it otherwise: what bounds may depend on, and what they may not."""
    things = [x for x in plan.placed if isinstance(x, Fuse | Breaker | Source | Converter)]
    what = rng.choice(("length", "length", "size", "rating", "flow", "floating", "gone", "turned"))
    run = rng.choice(plan.runs)
    if what == "length":
        return edits.change(plan, run.id, length_m=rng.choice((0.2, 4.0, 30.0)))
    if what == "size":
        return edits.change(plan, run.id, conductor=rng.choice(("awg-14", "mm2-16", "awg-2/0")))
    if what == "rating" and any(isinstance(x, Fuse | Breaker) for x in things):
        x = rng.choice([x for x in things if isinstance(x, Fuse | Breaker)])
        return edits.change(plan, x.id, rating_a=rng.choice((15.0, 80.0, 250.0)))
    if what == "flow" and any(isinstance(x, Source | Converter) for x in things):
        x = rng.choice([x for x in things if isinstance(x, Source | Converter)])
        return edits.change(plan, x.id, current_a=rng.choice((7.0, 35.0, 90.0)))
    if what == "floating":
        return plan.model_copy(update={"floating": not plan.floating})
    if what == "gone":
        return edits.remove(plan, run.id)
    return edits.change(plan, run.id, a=run.b, b=run.a)


@pytest.mark.chance("networks whose bounds of overload, kept from one edit to the next, are those found anew")
@pytest.mark.parametrize("seed", range(40) if WHOLE else range(10))
def test_what_is_known_of_one_plan_is_never_told_of_another(seed):
    """Bounds that plans of one form share are those that each has by itself."""
    from jaunty_copper.protection import guard as guards

    def bounds(plan):
        guard = Guard(wire(plan))
        return {
            (guard.wiring.branches[k].owner, k): (guard.bound(k), guard.is_open(k))
            for k in (*guard.conductors, *guard.returns)
        }

    rng, plan = random.Random(seed), network(seed)
    plans = [plan]
    for _ in range(8):
        plans.append(_changed(plans[-1], rng))
    together = [bounds(p) for p in plans]
    for p, found in zip(plans, together, strict=True):
        guards._known.cache_clear()
        assert bounds(p) == found


def test_a_length_asks_for_no_greatest_current_anew():
    """Where nothing goes round, what limits what does not depend on lengths: it is worked out once."""
    plan = next(p for p in map(network, range(40)) if not Guard(wire(p))._copper.ring_of)
    first = Guard(wire(plan))
    known = {k: first.bound(k) for k in first.conductors}
    longer = Guard(wire(edits.change(plan, plan.runs[0].id, length_m=12.3)))
    assert all(longer.bound(k) is known[k] for k in longer.conductors)
