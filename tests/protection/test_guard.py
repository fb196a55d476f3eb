"""Who guards what: on small plans where it can be seen by eye."""

import pytest

from jaunty_copper.network.wiring import run_ohms
from jaunty_copper.network.wiring import wire as compiled
from jaunty_copper.parts.catalogue import library
from jaunty_copper.plan import edits
from jaunty_copper.plan.examples import example
from jaunty_copper.plan.model import Charger, Chassis, ChassisPoint, Converter, CurrentLoad, Fuse
from jaunty_copper.protection.guard import UNLIMITED, Guard
from tests.build import battery, fused, ohms, wire


def guard_of(plan):
    wiring = compiled(plan)
    guard = Guard(wiring)
    return guard, lambda run: guard.bound(wiring.branch[run]), lambda run: guard.stretch(wiring.branch[run])


def test_each_conductor_is_bounded_by_the_device_before_it():
    _, bound, _ = guard_of(fused())
    assert bound("W1").amps == UNLIMITED
    assert bound("W1").feeds == ("B",)
    assert (bound("W2").amps, bound("W2").feeds) == (60.0, ("F0",))
    assert (bound("W4").amps, bound("W4").feeds) == (60.0, ("F0",))
    assert (bound("W5").amps, bound("W5").feeds) == (10.0, ("F1",))


def test_the_return_side_is_not_live_unless_the_plus_is_bonded():
    plan = fused()
    guard, _, _ = guard_of(plan)
    assert guard.wiring.branch["W6"] not in guard.conductors
    bonded = edits.add(plan, Chassis(id="H", points=(ChassisPoint(id="p"),)), ohms("bond", "P.s4", "H.p", 0.001))
    guard, _, _ = guard_of(bonded)
    assert guard.wiring.branch["W6"] in guard.conductors
    assert guard.wiring.branch["W5"] not in guard.conductors


def test_a_tap_is_measured_from_its_bar_to_its_device():
    _, _, stretch = guard_of(fused(to_fuse=0.4))
    tap = stretch("W4")
    assert (tap.start, tap.ends, tap.runs) == ("P.s2", ("F1",), ("W4",))
    assert tap.length_m == pytest.approx(0.4)


def test_a_stretch_without_a_device_has_no_end_but_its_equipment():
    plan = edits.remove_inline(fused(), "F1")
    _, bound, stretch = guard_of(plan)
    open_end = stretch("W4")
    assert open_end.length_m == UNLIMITED
    assert open_end.ends == ("E",)
    assert bound("W4").amps == 60.0


def test_a_stretch_runs_on_through_switches_and_plain_joints():
    plan = edits.insert_inline(fused(to_fuse=0.6), "W4", example("seed_shed").by_id["Q1"], at_m=0.2)
    _, _, stretch = guard_of(plan)
    for run in ("W4", "W4-1"):
        assert stretch(run).start == "P.s2"
        assert stretch(run).length_m == pytest.approx(0.6)


def test_fused_units_in_parallel_feed_each_others_leads_but_not_both_at_once():
    plan = fused()
    plan = edits.add(
        plan, battery("C"), Fuse(id="FC", family="class-t-fuse", rating_a=50.0), wire("X1", "C.plus", "FC.a", 0.1),
        wire("X2", "FC.b", "P.s4", 0.5), wire("X3", "C.minus", "M.s4", 0.5),
    )  # fmt: skip
    _, bound, _ = guard_of(plan)
    # The lead of C carries what C gives through its fuse, or what B gives into a fault beyond it.
    assert bound("X2").amps == 60.0
    assert bound("W2").amps == 60.0
    # What leaves the bar can have both.
    assert bound("W4").amps == 110.0
    assert bound("W4").feeds == ("F0", "FC")


def test_a_ring_is_bounded_by_all_that_feeds_it():
    plan = edits.add(
        fused(),
        Fuse(id="F2", family="blade-fuse", rating_a=15.0),
        wire("R1", "P.s3", "F2.a", 0.1),
        wire("R2", "F2.b", "E.plus", 3.0),
    )
    _, bound, _ = guard_of(plan)
    # From F1 towards the load, or from F2 into a fault near F1: never both at once.
    assert bound("W5").amps == 15.0
    loop = edits.add(plan, wire("R3", "F1.b", "F2.b", 1.0))
    _, bound, _ = guard_of(loop)
    # Towards a load at its far end W5 carries a share of what F1 lets in beside it and of what F2 lets in behind it.
    w5, r2, r3 = (sum(run_ohms(loop.run_by_id[r], library())) for r in ("W5", "R2", "R3"))
    assert bound("W5").amps == pytest.approx((10.0 * (r2 + r3) + 15.0 * r2) / (w5 + r2 + r3), rel=1e-3)
    assert bound("W5").feeds == ("F1", "F2")


def test_a_converter_bounds_what_it_feeds():
    plan = fused()
    plan = edits.add(
        plan, Converter(id="CV", set_v=5.0, out_nominal_v=5.0, current_a=8.0), wire("C1", "P.s3", "CV.in_plus", 1.0),
        wire("C2", "CV.in_minus", "M.s3", 1.0), CurrentLoad(id="L", nominal_v=5.0, current_a=1.0),
        wire("C3", "CV.out_plus", "L.plus", 2.0), wire("C4", "L.minus", "CV.out_minus", 2.0),
    )  # fmt: skip
    _, bound, _ = guard_of(plan)
    assert (bound("C3").amps, bound("C3").feeds) == (8.0, ("CV",))


def test_a_charger_does_not_feed_for_long_but_its_cable_is_guarded_from_the_bank():
    plan = edits.add(
        fused(), Charger(id="G", set_v=14.4, current_a=30.0), Fuse(id="FG", family="blade-fuse", rating_a=40.0),
        wire("G1", "P.s3", "FG.a", 0.1), wire("G2", "FG.b", "G.plus", 2.0), wire("G3", "G.minus", "M.s3", 2.0),
    )  # fmt: skip
    _, bound, _ = guard_of(plan)
    assert bound("G2").amps == 40.0
    assert bound("W5").amps == 10.0


def test_the_demo_as_found_has_its_unprotected_stretches():
    _, bound, stretch = guard_of(example("orchard_station"))
    assert bound("W1").amps == UNLIMITED
    assert stretch("W1").length_m == pytest.approx(0.55)
    assert bound("W40").guards == ("F1",)
    assert bound("W40").feeds == ("F1", "SUN")
    assert stretch("W40").length_m == pytest.approx(6.5)
    assert bound("W61").feeds == ("F6",)
