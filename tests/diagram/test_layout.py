"""The map: everything is on it, nothing on top of another, in the order of the studs."""

import itertools

import pytest
from benchmarks.generate import generated
from hypothesis import given
from hypothesis import strategies as st

from jaunty_copper.battery.patterns import arrange
from jaunty_copper.diagram.layout import lay_out
from jaunty_copper.diagram.sizes import BAR_W, STUD_GAP
from jaunty_copper.diagram.spread import spread
from jaunty_copper.network.wiring import wire as compiled
from jaunty_copper.plan import defaults, edits
from jaunty_copper.plan.examples import example, names
from jaunty_copper.plan.model import Disconnect, Fuse, Plan, PowerLoad
from tests.build import bar, battery, fused, loop, ohms, wire

PLANS = {
    **{name: example(name) for name in names()},
    "sixty circuits": generated(200),
    "small": loop(),
    "doubled": edits.add(loop(), ohms("twin", "B.plus", "E.plus", 0.02)),
    "ring": edits.add(fused(), wire("ring", "P.s3", "E.plus", 2.0)),
    "two batteries": edits.add(fused(), battery("C"), wire("c1", "C.plus", "P.s4", 1.0), wire("c2", "C.minus", "M.s4", 1.0)),
    "more units": defaults.add_unit(defaults.add_unit(fused(), "B"), "B"),
    "open end": edits.remove(fused(), "E"),
    "no return": edits.remove(fused(), "W6"),
    "loose": edits.add(fused(), *defaults.new_hubs(Plan(), "bar"), Fuse(id="LOST", family="blade-fuse", rating_a=5.0)),
    "joint": edits.add(fused(), PowerLoad(id="E2", power_w=5.0), wire("j1", "F1.b", "E2.plus", 1.0), wire("j2", "E2.minus", "M.s3", 1.0)),
    "empty": Plan(),
}  # fmt: skip


@pytest.mark.parametrize("name", PLANS)
def test_every_run_and_every_thing_is_on_the_map_once(name):
    plan = PLANS[name]
    chart = lay_out(compiled(plan))
    held = {id_ for s in chart.shapes for id_ in s.holds}
    runs = {r.id for r in plan.runs}
    assert sorted([*(r.run for r in chart.ribbons), *(held & runs)]) == sorted(runs)
    shown = {s.id.split(".")[0] for s in (*chart.shapes, *chart.loose)} | held
    assert shown >= {x.id for x in plan.placed}


def test_a_bank_is_one_block_a_side_with_its_links_and_the_bars_that_serve_it_alone():
    for pattern in ("one_end", "opposite", "halves", "bars"):
        plan = arrange(example("orchard_station"), "B1", pattern)
        chart = lay_out(compiled(plan))
        blocks = [s for s in chart.shapes if s.kind == "bank"]
        assert [s.side for s in blocks] == ["plus", "minus"]
        inside = {"B1", "B2", "B3", "B4", *(r.id for r in plan.runs if r.id.startswith("L"))}
        assert set(blocks[0].holds) - {"BP1", "BM1"} == inside
        assert ("BP1" in blocks[0].holds) == (pattern in ("halves", "bars"))
        (band,) = [b for b in chart.bands if "bank" in b.label]
        assert band.root == "B1"
        assert blocks[0].stands_for("B3")
        assert not blocks[0].stands_for("F1")


def test_units_with_fuses_of_their_own_stay_apart_so_that_the_fuses_can_be_seen():
    plan = Plan(
        items=(battery("B"), battery("C"), Fuse(id="F", family="blade-fuse", rating_a=20.0), Fuse(id="G", family="blade-fuse", rating_a=20.0), bar("P", 4), bar("M", 4)),
        equipment=(PowerLoad(id="E", power_w=60.0),),
        runs=(
            wire("a", "B.plus", "F.a"), wire("b", "F.b", "P.s1"), wire("c", "C.plus", "G.a"), wire("d", "G.b", "P.s2"),
            wire("e", "B.minus", "M.s1"), wire("f", "C.minus", "M.s2"), wire("g", "P.s3", "E.plus"), wire("h", "E.minus", "M.s3"),
        ),
    )  # fmt: skip
    chart = lay_out(compiled(plan))
    assert {s.id for s in chart.shapes if s.kind == "item"} == {"F", "G"}


@pytest.mark.parametrize("name", PLANS)
def test_nothing_lies_on_top_of_another(name):
    chart = lay_out(compiled(PLANS[name]))
    solid = [s for s in (*chart.shapes, *chart.loose) if s.kind not in ("joint",)]
    for a, b in itertools.combinations(solid, 2):
        apart = (
            a.box.right <= b.box.x + 0.5 or b.box.right <= a.box.x + 0.5
            or a.box.bottom <= b.box.y + 0.5 or b.box.bottom <= a.box.y + 0.5
        )  # fmt: skip
        assert apart, (a, b)
    for s in solid:
        assert s.box.x >= 0
        assert s.box.y >= 0
        assert s.box.right <= chart.width
        assert s.box.bottom <= chart.height


@pytest.mark.parametrize("name", PLANS)
def test_studs_stand_in_their_order_and_apart(name):
    plan = PLANS[name]
    chart = lay_out(compiled(plan))
    by_owner = {}
    for stud in chart.studs:
        by_owner.setdefault(stud.owner, []).append(stud)
    for owner, studs in by_owner.items():
        assert [s.ref.split(".")[1] for s in studs] == list(plan.by_id[owner].terminal_names)
        for a, b in itertools.pairwise(studs):
            assert b.y - a.y >= STUD_GAP - 1e-6


def test_current_flows_left_to_right_in_every_row_of_the_demo():
    chart = lay_out(compiled(PLANS["orchard_station"]))
    for row in chart.rows:
        xs = [x for x, _ in row.path]
        assert xs == sorted(xs), row.id
        assert row.path[0][1].split(".")[1] in ("plus", "out_plus")
        fed_by_converter = row.path[0][1] == "CV.out_plus"
        assert row.path[-1][1] == ("CV.out_minus" if fed_by_converter else "B1.minus")


def test_rows_follow_the_studs_and_a_moved_stud_moves_its_row():
    plan = PLANS["orchard_station"]

    def order(p):
        return [r.id for r in lay_out(compiled(p)).rows]

    assert order(plan)[:6] == ["INV", "SUN", "GEN", "CV", "PUMP", "FAN"]
    assert order(edits.move_stud(plan, "P24", "s6", 1))[:2] == ["PUMP", "INV"]


def test_a_device_at_the_far_end_of_its_cable_stands_at_that_end():
    chart = lay_out(compiled(PLANS["orchard_station"]))
    shapes = {s.id: s.box for s in chart.shapes if s.kind in ("item", "equipment")}
    assert shapes["GEN"].x - shapes["K4"].right < shapes["K4"].x - shapes["F3"].right


def test_bands_name_their_systems():
    assert [b.label for b in lay_out(compiled(PLANS["orchard_station"])).bands] == [
        "24 V bank",
        "12 V from 12 V converter",
    ]
    assert lay_out(compiled(PLANS["relay_mast"])).bands[0].label == "48 V bank"


def test_a_ring_and_a_twin_swing_out():
    (twin,) = [r for r in lay_out(compiled(PLANS["doubled"])).ribbons if r.run == "twin"]
    assert twin.bulge > 0
    x, y = twin.point(0.5)
    assert twin.distance(x, y) < 1.0
    assert twin.distance(x, y - twin.bulge) > 5.0


@given(
    st.lists(st.one_of(st.none(), st.floats(0, 1000)), min_size=1, max_size=30).filter(
        lambda t: any(x is not None for x in t)
    )
)
def test_spread_keeps_order_and_distance(targets):
    placed = spread(targets, 5.0)
    known = [p for p, t in zip(placed, targets, strict=True) if t is not None]
    assert all(b - a >= 5.0 - 1e-6 for a, b in itertools.pairwise(known))
    assert all(b - a >= -1e-6 for a, b in itertools.pairwise(placed))


def test_spread_leaves_alone_what_fits():
    assert spread([10.0, 40.0, 90.0], 5.0) == [10.0, 40.0, 90.0]
    assert spread([10.0, 10.0], 4.0) == [8.0, 12.0]


def test_a_switch_does_not_change_where_things_stand():
    plan = edits.insert_inline(fused(), "W2", Disconnect(id="Q", rating_a=100.0))
    opened = edits.change(plan, "Q", closed=False)
    assert lay_out(compiled(plan)) == lay_out(compiled(opened))
    assert BAR_W > 0
