"""Boards: outlines, air, bends; studs with their lugs; conduits."""

from math import pi

import pytest

from jaunty_copper.codes.case import Case
from jaunty_copper.fabrication.board import (
    BEND_TIMES,
    LUG_MM,
    Placed,
    arranged,
    outline,
    placed,
    room_for,
    terminal_at,
)
from jaunty_copper.fabrication.cuts import cuts_of
from jaunty_copper.fabrication.fitting import socket_room_mm, troubles
from jaunty_copper.fabrication.order import torque
from jaunty_copper.fabrication.terminals import stacks_of
from jaunty_copper.network.study import study
from jaunty_copper.network.wiring import wire
from jaunty_copper.parts.catalogue import library
from jaunty_copper.plan import edits
from jaunty_copper.plan.examples import example, names
from jaunty_copper.plan.model import Board, Disconnect, Route, Spot
from tests.build import judge

DEMO = example("orchard_station")
PARTS = wire(DEMO).parts


def on_board(*spots, width=600.0, height=400.0):
    return edits.add(edits.remove(DEMO, "panel"), Board(id="b", width_mm=width, height_mm=height, spots=spots))


def words(plan):
    return [t.words for t in troubles(wire(plan), plan.boards[0])]


def switch(x, y, turned=False, id_="Q"):
    return Placed(Disconnect(id=id_, rating_a=100.0), x, y, 70.0, 70.0, 15.0, 75.0, turned)


# Outlines and air


def test_a_bar_is_as_long_as_its_studs_and_batteries_stand_elsewhere():
    bar = DEMO.by_id["P24"]
    assert outline(bar, PARTS).along == (len(bar.studs) + 1) * bar.spacing_mm
    assert outline(DEMO.by_id["B1"], PARTS) is None
    assert outline(DEMO.by_id["LAMP"], PARTS) is None


def test_overlaps_too_little_air_and_edges_are_told():
    plan = on_board(Spot(of="Q1", at_mm=(10.0, 10.0)), Spot(of="S1", at_mm=(60.0, 20.0)))
    assert words(plan)[0] == "Main switch and Shunt overlap"
    plan = on_board(Spot(of="Q1", at_mm=(10.0, 10.0)), Spot(of="S1", at_mm=(90.0, 20.0)))
    assert words(plan) == ["10 mm of air between Main switch and Shunt, 15 needed"]
    plan = on_board(Spot(of="Q1", at_mm=(10.0, 10.0)), Spot(of="S1", at_mm=(95.0, 20.0)))
    assert words(plan) == []
    plan = on_board(Spot(of="Q1", at_mm=(560.0, 10.0)))
    assert words(plan) == ["Main switch stands over the edge"]


def test_a_turned_part_takes_its_room_the_other_way():
    plan = on_board(Spot(of="S1", at_mm=(0.0, 0.0), turned=True))
    (p,) = placed(plan, plan.boards[0], PARTS)
    size = outline(DEMO.by_id["S1"], PARTS)
    assert (p.w, p.h) == (size.across, size.along)


def test_what_hangs_below_a_device_is_clear_of_longer_ones_beside_it():
    """The charger's switch, with a fuse twice as long left and right of the charger's own."""
    plan = example("seed_shed")
    for id_ in ("F3", "F4"):
        plan = edits.change(plan, id_, family="class-t-fuse", rating_a=110.0, thread="M12")
    for width in (300.0, 500.0, 900.0):
        board = arranged(plan, Board(id="b", width_mm=width, height_mm=900.0), PARTS)
        assert "Q2" in {s.of for s in board.spots}
        wrong = troubles(wire(plan.model_copy(update={"boards": (board,)})), board)
        assert not [t for t in wrong if "overlap" in t.words or "of air" in t.words]


# The lid, spanners, crossing cables


def test_what_is_taller_than_the_lid_lets_it_be_is_told():
    plan = on_board(Spot(of="Q1", at_mm=(10.0, 10.0)), Spot(of="S1", at_mm=(200.0, 20.0)))
    assert words(edits.change(plan, "b", depth_mm=80.0)) == []
    assert words(edits.change(plan, "b", depth_mm=79.0)) == [
        "Main switch stands 75 mm off the board; under the lid there are 79, and 5 stay free"
    ]


def test_a_socket_needs_half_its_outside_and_half_the_nut_beside_it():
    """By hand, M10: flats of 16 mm; a socket of 24 mm outside, a nut of 18.5 mm from corner to corner: 12 + 9.2."""
    assert socket_room_mm("M10", "M10") == pytest.approx(12.0 + 9.24)
    bar = DEMO.by_id["P24"]
    studs = tuple(s.model_copy(update={"thread": "M10"}) for s in bar.studs)
    plan = edits.change(on_board(Spot(of="P24", at_mm=(20.0, 20.0))), "P24", studs=studs, spacing_mm=22.0)
    assert words(plan) == []
    (told,) = words(edits.change(plan, "P24", spacing_mm=21.0))
    assert told == "24 V plus bar: a socket for M10 needs 21.2 mm beside a nut M10; the studs are 21 mm apart"


def crossing(shift, **fields):
    """The main plus cable from left to right, the bank's minus cable from above to below it or beside it."""
    spots = (
        Spot(of="F1", at_mm=(20.0, 150.0)), Spot(of="Q1", at_mm=(320.0, 138.0)),
        Spot(of="S1", at_mm=(200.0 + shift, 15.0), turned=True), Spot(of="M24", at_mm=(150.0 + shift, 330.0)),
    )  # fmt: skip
    plan = on_board(*spots, width=1200.0, height=500.0)
    between = next(r.id for r in plan.runs if {r.a.split(".")[0], r.b.split(".")[0]} == {"S1", "M24"})
    plan = edits.change(edits.change(plan, "W2", length_m=0.5), between, length_m=0.5, **fields)
    return [t for t in words(plan) if "cross" in t]


def test_plus_and_minus_that_cross_are_told_unless_one_is_in_a_sleeve():
    (told,) = crossing(0.0)
    assert told == "W2 and W5 cross, plus and minus: put one in a sleeve, or lead it round"
    assert crossing(0.0, sheathed=True) == []
    assert crossing(600.0) == []


# Bends


def test_a_straight_cable_needs_two_lugs_and_no_bend():
    need, there = room_for(switch(0, 0), "b", switch(200, 0), "a", 12.0)
    assert (need, there) == (pytest.approx(2 * LUG_MM), pytest.approx(130.0))


def test_a_cable_round_two_right_angles_needs_two_radii_more():
    """From a terminal that looks down to one that looks down, side by side: an arc of 90 degrees at each end."""
    need, there = room_for(switch(0, 0, turned=True), "b", switch(300, 0, turned=True), "b", 10.0)
    assert need == pytest.approx(2 * LUG_MM + 2 * BEND_TIMES * 10.0)
    assert there == pytest.approx(300.0)


def test_a_cable_that_turns_right_back_needs_a_whole_bend():
    need, _ = room_for(switch(300, 0), "b", switch(0, 0), "b", 10.0)
    assert need == pytest.approx(2 * LUG_MM + 2 * BEND_TIMES * 10.0)


def test_terminals_lie_at_the_ends_and_along_a_bar():
    assert terminal_at(switch(0, 0), "a") == ((0.0, 35.0), (-1.0, 0.0))
    assert terminal_at(switch(0, 0, turned=True), "b") == ((35.0, 70.0), (0.0, 1.0))
    plan = on_board(Spot(of="P24", at_mm=(0.0, 0.0)), Spot(of="INV", at_mm=(0.0, 100.0)))
    bar, inverter = placed(plan, plan.boards[0], PARTS)
    assert terminal_at(bar, "s2")[0][0] == pytest.approx(2 * DEMO.by_id["P24"].spacing_mm)
    assert terminal_at(inverter, "plus")[1] == (0.0, 1.0)


def test_a_cable_planned_shorter_than_the_way_is_told():
    plan = on_board(Spot(of="F1", at_mm=(0.0, 0.0)), Spot(of="Q1", at_mm=(500.0, 0.0)))
    (told,) = words(plan)
    assert told.startswith("W2 is planned with 300 mm")


def test_what_is_arranged_neither_overlaps_nor_lacks_air():
    board = Board(id="b", width_mm=900.0, height_mm=900.0)
    made = arranged(DEMO, board, PARTS)
    plan = edits.add(edits.remove(DEMO, "panel"), made)
    assert len(made.spots) > 14
    assert not [t for t in words(plan) if "overlap" in t or "air" in t or "edge" in t]
    assert arranged(DEMO, Board(id="b", width_mm=20.0, height_mm=20.0), PARTS).spots == ()


@pytest.mark.parametrize("width", [300.0, 500.0, 1200.0])
@pytest.mark.parametrize("name", names())
def test_whatever_is_arranged_has_its_air_on_boards_of_any_size(name, width):
    plan = example(name)
    made = arranged(plan, Board(id="b", width_mm=width, height_mm=700.0), PARTS)
    wrong = troubles(wire(plan.model_copy(update={"boards": (made,)})), made)
    assert not [t.words for t in wrong if "overlap" in t.words or "air" in t.words or "edge" in t.words]
    assert len({spot.of for spot in made.spots}) == len(made.spots)


def test_what_is_arranged_follows_the_current():
    board = Board(id="b", width_mm=900.0, height_mm=900.0)
    at = {spot.of: spot.at_mm for spot in arranged(DEMO, board, PARTS).spots}
    # From the bank through main fuse and switch to the bar, from left to right in one row; the shunt before the minus bar.
    assert at["F1"][0] < at["Q1"][0] < at["P24"][0]
    middle = {p.thing.id: p.y + p.h / 2 for p in placed(DEMO, arranged(DEMO, board, PARTS), PARTS)}
    assert middle["F1"] == middle["Q1"] == middle["P24"] < middle["S1"] == middle["M24"]
    # What the bar feeds hangs below it in the order of its studs.
    below = [at[x] for x in ("F2", "F3", "F5", "F6", "F7")]
    assert [x for x, _ in below] == sorted(x for x, _ in below)
    assert all(x >= at["P24"][0] and y > at["P24"][1] for x, y in below)
    plan = edits.add(edits.remove(DEMO, "panel"), arranged(DEMO, board, PARTS))
    assert not [t for t in words(plan) if "is planned with" in t]


# Studs


def test_the_thickest_lug_lies_on_the_metal_and_the_torque_is_the_studs():
    w = wire(DEMO)
    found = {s.ref: s for s in stacks_of(w, cuts_of(w))}
    assert [mark for mark, _ in found["M24.s9"].lugs] == ["W122", "W112"]
    assert (found["P24.s3"].thread, found["P24.s3"].torque_nm) == ("M8", torque("M8"))
    own = wire(edits.change_plan(DEMO, stud_material="steel", torques={"M8:steel": 15.5}))
    again = {s.ref: s for s in stacks_of(own, cuts_of(own))}
    assert (again["M24.s9"].torque_nm, again["M24.s9"].own) == (15.5, True)
    assert again["S1.a"].torque_nm == torque("M10", "steel")


# Conduits


def test_the_fill_of_a_conduit_by_hand():
    (f,) = Case(study(DEMO)).fills
    outer = PARTS.conductors["mm2-4"].outer_mm
    assert f.cables == 2
    assert f.share == pytest.approx(2 * outer**2 / 16.9**2)
    assert f.area_mm2 == pytest.approx(2 * pi / 4 * outer**2)
    assert (f.limit, f.full) == (0.31, False)


@pytest.mark.parametrize(("cables", "limit"), [(1, 0.53), (2, 0.31), (3, 0.40), (6, 0.40)])
def test_how_full_a_conduit_may_be(cables, limit):
    plan = edits.change(edits.change(DEMO, "W63", route=None), "W62", parallel=cables)
    (f,) = Case(study(plan)).fills
    assert (f.cables, f.limit) == (cables, limit)


def test_a_conduit_too_full_is_found_and_mended():
    plan = edits.change(DEMO, "well_duct", inner_mm=10.0)
    (found,) = [f for f in judge(study(plan)) if f.rule.id == "conduit_fill"]
    assert "31 % allowed" in found.headline
    assert not [f for f in judge(study(found.fix().apply(plan))) if f.rule.id == "conduit_fill"]
    assert not [f for f in judge(study(edits.change(plan, "well_duct", inner_mm=None))) if f.rule.id == "conduit_fill"]


def test_an_open_route_has_no_fill():
    plan = edits.add(DEMO, Route(id="clips"))
    found = Case(study(plan)).fills
    assert [f.cables for f in found] == [2, 0]
    assert not found[1].full


def test_a_plans_own_limit_of_conduit_fill_is_kept():
    plan = edits.set_override(DEMO, "conduit_two_percent", 10.0, "old and rough conduit")
    (found,) = [f for f in judge(study(plan)) if f.rule.id == "conduit_fill"]
    assert (found.limit, found.unit) == (10.0, "%")
    assert "NFPA 70" in found.source or "old and rough" in found.source


def test_what_is_bolted_to_a_bar_touches_it():
    plan, parts = example("orchard_station"), library()
    board = arranged(plan, plan.boards[0], parts)
    at = {p.thing.id: p for p in placed(plan, board, parts)}
    assert plan.run_by_id["W20"].length_m == 0.0
    assert at["F2"].y == at["P24"].y + at["P24"].h
    assert not troubles(wire(plan), board)
    apart = tuple(
        s.model_copy(update={"at_mm": (s.at_mm[0], s.at_mm[1] + 40.0)}) if s.of == "F2" else s for s in board.spots
    )
    (told,) = troubles(wire(plan), board.model_copy(update={"spots": apart}))
    assert told.words == "24 V plus bar and Inverter fuse are bolted together, and stand 40 mm apart"
