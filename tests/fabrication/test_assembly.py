"""Cuts, packing, materials and order agree with the plan to the last cable."""

from collections import Counter
from itertools import combinations

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.optimize import Bounds, LinearConstraint, milp

from jaunty_copper.fabrication.cuts import ALLOWANCE_M, ALLOWANCE_SHARE, cuts_of
from jaunty_copper.fabrication.materials import workshop_of
from jaunty_copper.fabrication.order import steps_of, torque
from jaunty_copper.fabrication.packing import EXACT_UP_TO, KERF_M, TooLong, pack
from jaunty_copper.network.wiring import wire
from jaunty_copper.parts.price_file import PriceError, read_prices
from jaunty_copper.plan import edits
from jaunty_copper.plan.examples import example, names
from jaunty_copper.plan.files import dumps, parse
from jaunty_copper.plan.model import Disconnect, Fuse, StockPiece
from tests.build import battery, fused, loop
from tests.build import wire as wire_

DEMO = example("orchard_station")


# Cuts


@pytest.mark.parametrize("name", names())
def test_every_conductor_of_some_length_is_cut_as_often_as_it_lies_side_by_side(name):
    plan = example(name)
    counted = Counter(c.run for c in cuts_of(wire(plan)))
    assert counted == {r.id: r.parallel for r in plan.runs if r.length_m > 0.0}


def test_a_cut_is_its_way_less_the_bodies_more_the_bow_and_the_lugs():
    cuts = {c.run: c for c in cuts_of(wire(DEMO))}
    # 1.6 m from a cube on M8 studs to an inverter: half of 51 mm off, 3 % and 40 mm on, up to the next 5 mm.
    bare = (1.6 - 0.051 / 2) * (1 + ALLOWANCE_SHARE) + ALLOWANCE_M
    assert cuts["W21"].length_m == pytest.approx(1.665)
    assert 0.0 <= cuts["W21"].length_m - bare < 0.005


def test_links_of_a_parallel_bank_are_cut_alike_and_a_lone_string_s_need_not_be():
    longer = edits.change(DEMO, "L2p", length_m=0.255)
    links = [c for c in cuts_of(wire(longer)) if c.run.startswith("L")]
    assert len({c.length_m for c in links}) == 1
    assert all(len(c.equal.split()) == 5 for c in links)
    assert not any(c.equal for c in cuts_of(wire(example("relay_mast"))))


def test_colours_follow_the_poles_and_the_chassis():
    colours = {c.run: c.colour for c in cuts_of(wire(fused()))}
    assert (colours["W1"], colours["W5"], colours["W6"], colours["W3"]) == ("red", "red", "black", "black")
    relay = wire(example("relay_mast"))
    by_run = {c.run: c for c in cuts_of(relay)}
    for c in by_run.values():
        if "MAST" in c.a.ref + c.b.ref:
            assert c.colour == "green and yellow"
    between = [c for c in by_run.values() if c.a.ref.startswith("B") and c.b.ref.startswith("B")]
    assert between
    assert {c.colour for c in between} == {"grey"}


def test_lugs_fit_cable_and_stud_and_what_takes_none_is_bare():
    cuts = {c.run: c for c in cuts_of(wire(DEMO))}
    assert (cuts["W2"].a.thread, cuts["W2"].b.thread) == ("M8", "M10")
    assert cuts["W71"].a.thread is None
    assert cuts["W30"].a.thread == "M10"
    assert cuts["W21"].a.sleeve_mm == 18.0


# Packing


def cheapest(lengths, stock):
    """The least cost by trying every way to part the cuts into groups."""
    n = len(lengths)
    price = {}
    for size in range(1, n + 1):
        for group in combinations(range(n), size):
            need = sum(lengths[k] for k in group) + KERF_M * (size - 1)
            fits = [cost for s, cost in stock if s >= need]
            if fits:
                price[frozenset(group)] = min(fits)
    best = {frozenset(): 0.0}

    def least(left):
        if left not in best:
            first = min(left)
            best[left] = min(
                (price[g] + least(left - g) for g in price if first in g and g <= left), default=float("inf")
            )
        return best[left]

    return least(frozenset(range(n)))


@settings(max_examples=40, deadline=None)
@given(
    st.lists(st.floats(0.2, 9.0), min_size=1, max_size=6),
    st.lists(st.tuples(st.sampled_from([5.0, 10.0, 25.0]), st.floats(1.0, 50.0)), min_size=1, max_size=3),
)
def test_small_packings_are_the_cheapest_there_are(lengths, stock):
    stock = (*stock, (25.0, 60.0))
    found = pack(tuple(lengths), tuple(stock))
    assert found.cost == pytest.approx(cheapest(lengths, stock), rel=1e-6)
    assert found.proven


def by_programme(lengths, stock, owned):
    """The least cost by a mixed-integer programme: which sets of cuts come out of which length."""
    columns = []
    for size in range(1, len(lengths) + 1):
        for cuts in combinations(range(len(lengths)), size):
            need = sum(lengths[k] for k in cuts) + KERF_M * (size - 1) - 1e-9
            columns += [(cuts, cost, None) for length, cost in stock if length >= need]
            columns += [(cuts, 0.0, k) for k, length in enumerate(owned) if length >= need]
    matrix = np.zeros((len(lengths) + len(owned), len(columns)))
    for j, (cuts, _, own) in enumerate(columns):
        matrix[list(cuts), j] = 1.0
        if own is not None:
            matrix[len(lengths) + own, j] = 1.0
    rows = LinearConstraint(matrix, [1.0] * len(lengths) + [0.0] * len(owned), 1.0)
    costs = np.array([cost for _, cost, _ in columns])
    solved = milp(costs, integrality=np.ones(costs.size), bounds=Bounds(0.0, 1.0), constraints=rows)
    assert solved.status == 0
    return float(solved.fun)


@settings(max_examples=60, deadline=None)
@given(
    st.lists(st.floats(0.2, 9.0), min_size=1, max_size=8),
    st.lists(st.tuples(st.sampled_from([5.0, 10.0, 25.0]), st.floats(1.0, 50.0)), max_size=3),
    st.lists(st.floats(0.5, 12.0), max_size=4),
)
def test_what_is_left_over_is_used_where_that_costs_least(lengths, stock, owned):
    stock = (*stock, (25.0, 60.0))
    found = pack(tuple(lengths), stock, tuple(owned))
    assert found.cost == pytest.approx(by_programme(lengths, stock, owned), abs=1e-6)
    assert Counter(p.stock_m for p in found.pieces if p.owned) <= Counter(owned)


@settings(max_examples=40, deadline=None)
@given(st.lists(st.floats(0.1, 9.9), min_size=1, max_size=40), st.lists(st.floats(0.5, 8.0), max_size=3))
def test_no_length_gives_more_than_it_has_and_every_cut_comes_out_of_one(lengths, owned):
    found = pack(tuple(lengths), ((10.0, 10.0), (50.0, 45.0)), tuple(owned))
    assert sorted(k for p in found.pieces for k in p.cuts) == list(range(len(lengths)))
    for p in found.pieces:
        need = sum(lengths[k] for k in p.cuts) + KERF_M * (len(p.cuts) - 1)
        assert need <= p.stock_m + 1e-9
        assert p.left_m == pytest.approx(p.stock_m - need)
    assert found.bound <= found.cost + 1e-9
    assert Counter(p.stock_m for p in found.pieces if p.owned) <= Counter(owned)
    if len(lengths) > EXACT_UP_TO:
        assert found.cost <= 2.5 * found.bound + 45.0


def test_what_is_left_over_is_used_before_anything_is_bought():
    found = pack((2.0, 1.0), ((10.0, 10.0),), (3.1,))
    assert (found.cost, [p.owned for p in found.pieces]) == (0.0, [True])


def test_a_cut_that_nothing_holds_is_told():
    with pytest.raises(TooLong, match="longer than every length"):
        pack((11.0,), ((10.0, 10.0),))
    shop = workshop_of(wire(edits.change_plan(DEMO, reels_m=(5.0,))))
    assert any(isinstance(p, str) for p in shop.packings.values())
    assert all(line.what for line in shop.lines)


# Materials


def test_materials_count_what_the_plan_has():
    shop = workshop_of(wire(DEMO))
    lines = shop.lines
    lugs = sum(line.quantity for line in lines if line.key.startswith("lug:"))
    assert lugs == sum(e.thread is not None for c in shop.cuts for e in (c.a, c.b))
    devices = sum(line.quantity for line in lines if line.group == "Protection")
    # And the small one in the lead of the monitor.
    assert devices == sum(x.kind in ("fuse", "breaker") for x in DEMO.items) + 1
    assert sum(line.quantity for line in lines if line.key.startswith("battery:")) == 4
    assert next(line.quantity for line in lines if line.key == "cover:post") == 8
    assert shop.total == pytest.approx(sum(line.quantity * line.price for line in lines))
    bought = sum(p.stock_m for x in shop.packings.values() for p in x.pieces)
    left = sum(p.left_m for x in shop.packings.values() for p in x.pieces)
    kerf = KERF_M * sum(len(p.cuts) - 1 for x in shop.packings.values() for p in x.pieces)
    assert bought - left - kerf == pytest.approx(sum(c.length_m for c in shop.cuts))


def test_a_plans_own_price_replaces_the_representative_one():
    key = next(line.key for line in workshop_of(wire(DEMO)).lines if line.group == "Protection")
    plan = edits.change_plan(DEMO, prices={key: 100.0})
    line = next(line for line in workshop_of(wire(plan)).lines if line.key == key)
    assert (line.price, line.own_price) == (100.0, True)
    assert parse(dumps(plan)) == plan


def test_left_overs_of_one_plan_serve_the_next():
    shop = workshop_of(wire(DEMO))
    left = shop.leftovers()
    assert all(p.length_m >= 0.3 for p in left)
    again = workshop_of(wire(edits.change_plan(DEMO, stock=left)))
    assert again.total < shop.total
    assert any(p.owned for x in again.packings.values() for p in x.pieces)
    one = StockPiece(id="x", conductor="mm2-50", insulation="pvc-105", colour="red", length_m=2.0)
    assert parse(dumps(edits.change_plan(DEMO, stock=(one,)))).stock == (one,)


def test_prices_from_a_file_and_what_is_wrong_with_one():
    assert read_prices("key,what,price\nlug:a,x,1.5\nfuse,y,\n") == ({"lug:a": 1.5}, {})
    assert read_prices("key;price\na;1,25\n") == ({"a": 1.25}, {})
    assert read_prices("key,price,pack\nlug:a,12,10\nfuse,3,\n") == ({"lug:a": 12.0, "fuse": 3.0}, {"lug:a": 10})
    for text, told in (
        ("what,price\n", "columns key, price"),
        ("key,price\na,x\n", "line 2"),
        ("key,price\na,-1\n", "0 or more"),
        ("key,price,pack\na,1,0\n", "whole number"),
        ("key,price,pack\na,1,2.5\n", "whole number"),
        ("", "columns"),
    ):
        with pytest.raises(PriceError, match=told):
            read_prices(text)


# Order


@pytest.mark.parametrize("name", names())
def test_every_conductor_is_connected_once_and_the_live_main_link_last(name):
    plan = example(name)
    steps = steps_of(wire(plan))
    runs = [
        s.id.split(":")[1]
        for s in steps
        if s.id.split(":")[0] in ("return", "feed", "bank") and s.id.split(":")[1] in plan.run_by_id
    ]
    assert Counter(runs) == Counter({r.id: 1 for r in plan.runs})
    last = plan.run_by_id[runs[-1]]
    ends = {plan.by_id[ref.split(".")[0]].kind for ref in (last.a, last.b)}
    assert "battery" in ends
    assert ends != {"battery"}
    assert len({s.id for s in steps}) == len(steps)


def test_the_grounded_pole_is_connected_before_the_live_one():
    # Plus is bonded to the mast: there the minus is what must come last.
    plan = example("relay_mast")
    steps = [s.id for s in steps_of(wire(plan))]
    returns = [k for k, s in enumerate(steps) if s.startswith("return:")]
    feeds = [k for k, s in enumerate(steps) if s.startswith("feed:")]
    assert max(returns) < min(feeds)
    last = plan.run_by_id[[s for s in steps if s.startswith("bank:")][-1].split(":")[1]]
    assert "minus" in last.a + last.b


def test_fuses_go_in_with_the_switch_open_and_the_switch_closes_last():
    steps = steps_of(wire(DEMO))
    ids = [s.id for s in steps]
    order = [
        "before:off:GEN", "return:W22", "bank:W1", "live:cover", "live:polarity:F1", "live:in:F1", "live:in:F2", "live:proved:Q1",
        "live:capacitors:INV", "live:close:Q1", "live:in:K4", "live:loads", "live:on:SUN", "live:on:GEN",
    ]  # fmt: skip
    at = [ids.index(x) for x in order if x in ids]
    assert at == sorted(at)
    assert set(order) - set(ids) <= {"live:on:SUN"}
    fuses = {x.id for x in DEMO.items if isinstance(x, Fuse)}
    assert all(ids.index(f"live:in:{x}") < ids.index("live:close:Q1") for x in fuses)
    # Each step names a part that the plan has, and is live by then.
    (first,) = [s for s in steps if s.id.startswith("live:polarity")]
    assert "Main fuse" in first.text
    (proved,) = [s for s in steps if s.id.startswith("live:proved")]
    assert "Main switch" in proved.text


def test_without_a_switch_a_fuse_makes_onto_what_is_behind_and_that_is_said():
    steps = steps_of(wire(fused()))
    (main,) = [s for s in steps if s.id == "live:in:F0"]
    assert "makes onto what is behind" in main.caution
    assert not [s for s in steps if s.id == "bank:level" or s.id.startswith("live:proved")]


def test_the_switch_of_another_bank_parts_nothing():
    """Two banks on one bar, a switch before the one only: the other's fuse makes onto what is live, and so does every branch's."""
    plan = edits.insert_inline(fused(), "W2", Disconnect(id="Q", rating_a=300.0), 0.2)
    plan = edits.add(
        plan, battery("C"), Fuse(id="FC", family="class-t-fuse", rating_a=60.0), wire_("X1", "C.plus", "FC.a", 0.1, "mm2-16"),
        wire_("X2", "FC.b", "P.s4", 0.5, "mm2-16"), wire_("X3", "C.minus", "M.s4", 0.5, "mm2-16"),
    )  # fmt: skip
    cautions = {s.id: s.caution for s in steps_of(wire(plan)) if s.id.startswith("live:in:")}
    assert cautions["live:in:F0"] == ""
    assert "makes onto what is behind" in cautions["live:in:FC"]
    assert "makes onto what is behind" in cautions["live:in:F1"]


def test_only_units_in_parallel_are_levelled():
    assert "bank:level" in {s.id for s in steps_of(wire(DEMO))}
    series = edits.change(loop(), "B", soc_percent=40.0)
    assert "bank:level" not in {s.id for s in steps_of(wire(series))}


def test_ticks_are_kept_in_the_file_and_taken_away():
    plan = edits.tick(DEMO, "before:hands", True)
    assert parse(dumps(plan)).done == ("before:hands",)
    assert edits.tick(plan, "before:hands", False).done == ()
    assert edits.tick(plan, "before:hands", True).done == ("before:hands",)


def test_torques_by_thread_and_material():
    assert torque("M8") < torque("M8", "steel")
    with pytest.raises(KeyError):
        torque("M9")
