"""What the books for fixed installations say, clause by clause, with the figures by hand."""

import pytest

from jaunty_copper.choosing.devices import choices
from jaunty_copper.choosing.protect import protect
from jaunty_copper.codes.case import Case
from jaunty_copper.codes.code import code_of
from jaunty_copper.network.study import study
from jaunty_copper.plan import edits
from jaunty_copper.plan.model import CurrentLoad, Disconnect, Plan, Route, Scenario
from tests.build import bar, battery, fused, judge, wire

NA, ISO, NFPA, IEC = "north_american_small_craft", "iso_small_craft", "nfpa_70", "iec_60364"


def found(plan, rule, code):
    return [f for f in judge(study(plan), code) if f.rule.id == rule]


@pytest.mark.parametrize(("conductor", "most"), [("awg-14", 15.0), ("awg-12", 20.0), ("awg-10", 30.0)])
def test_a_small_conductor_has_a_small_device(conductor, most):
    """NFPA 70 240.4(D), whatever table 310.16 has at 75 or 90 °C."""
    plan = fused(
        conductor=conductor, insulation="xlpe-125", rating=most, family="class-t-fuse", to_fuse=0.1, power=24.0
    )
    assert not [f for f in found(plan, "device_too_large", NFPA) if f.place == "F1"]
    over = edits.change(plan, "F1", rating_a=most + 5.0)
    assert [f.limit for f in found(over, "device_too_large", NFPA) if f.place == "F1"] == [most]
    assert not [f for f in found(over, "device_too_large", NA) if f.place == "F1"]


def steady(amps, conductor, code):
    """A circuit whose current for good is known."""
    plan = fused(conductor=conductor, rating=40.0, family="class-t-fuse")
    load = CurrentLoad(id="E", nominal_v=12.0, current_a=amps)
    return Plan.model_validate(plan.model_copy(update={"equipment": (load,)}).model_dump()), code


def test_a_conductor_carries_a_quarter_more_than_the_load_before_correction():
    """NFPA 70 210.19(A): 10 AWG has 30 A at 60 °C terminals; 24 A for good are 30, 25 A are 31.25."""
    plan, _ = steady(24.0, "awg-10", NFPA)
    assert not found(plan, "ampacity", NFPA)
    over, _ = steady(25.0, "awg-10", NFPA)
    told = found(over, "ampacity", NFPA)
    assert {f.place for f in told} == {"W4", "W5", "W6"}
    assert told[0].limit == pytest.approx(24.0)
    assert "limited by 125 % of what flows for good" in told[0].headline
    assert "210.19(A)" in told[0].source
    after = told[0].fix().apply(over)
    assert not [f for f in found(after, "ampacity", NFPA) if f.place == told[0].place]
    assert not found(over, "ampacity", IEC)


@pytest.mark.parametrize(
    ("code", "count", "factor"),
    [
        (NFPA, 3, 1.0), (NFPA, 4, 0.80), (NFPA, 9, 0.70), (NFPA, 20, 0.50), (NFPA, 21, 0.45), (NFPA, 31, 0.40), (NFPA, 41, 0.35),
        # Circuits of two: 2, 3, 6, 7, 8, 9, 12, 16, 20 of table B.52.17.
        (IEC, 4, 0.80), (IEC, 6, 0.70), (IEC, 12, 0.57), (IEC, 14, 0.54), (IEC, 16, 0.52), (IEC, 18, 0.50), (IEC, 24, 0.45), (IEC, 32, 0.41), (IEC, 40, 0.38),
    ],
)  # fmt: skip
def test_company_lowers_ampacity(code, count, factor):
    alone, many = (
        Case(study(edits.change(fused(), "W5", bundle=n, insulation="pvc-70")), code).ampacities["W5"].by_table
        for n in (1, count)
    )
    assert many == pytest.approx(factor * alone)


def eight(parallel=1):
    """Four circuits, both ways of each in one conduit."""
    circuits = range(4)
    return Plan(
        items=(battery(volts=12.0), bar("P", 6), bar("M", 6)),
        equipment=tuple(CurrentLoad(id=f"E{k}", nominal_v=12.0, current_a=5.0) for k in circuits),
        routes=(Route(id="pipe", inner_mm=50.0),),
        runs=(
            wire("WP", "B.plus", "P.s6", 0.2, "mm2-16"), wire("WM", "M.s6", "B.minus", 0.2, "mm2-16"),
            *(wire(f"P{k}", f"P.s{k + 1}", f"E{k}.plus", 3.0, "mm2-6", route="pipe", insulation="pvc-70", parallel=parallel) for k in circuits),
            *(wire(f"M{k}", f"E{k}.minus", f"M.s{k + 1}", 3.0, "mm2-6", route="pipe", insulation="pvc-70") for k in circuits),
        ),
        scenarios=(Scenario(id="s"),),
    )  # fmt: skip


def table(plan, run, code):
    return Case(study(plan), code).ampacities[run].by_table


def test_what_lies_in_a_conduit_keeps_company_without_being_told_so():
    plan = eight()
    free = edits.change(plan, "P0", route=None, conduit=True)
    for code, factor in ((IEC, 0.65), (NFPA, 0.70)):
        assert table(plan, "P0", code) == pytest.approx(factor * table(free, "P0", code))
    # Conductors in parallel count each: twelve.
    for code, factor in ((IEC, 0.57), (NFPA, 0.50)):
        assert table(eight(2), "P1", code) == pytest.approx(
            factor * table(edits.change(eight(2), "P1", route=None, conduit=True), "P1", code)
        )
    # What a person says besides is believed where it is more.
    assert table(edits.change(plan, "P0", bundle=20), "P0", NFPA) == pytest.approx(0.50 * table(free, "P0", NFPA))


def test_what_a_route_says_to_be_a_conduit_is_one_for_the_table_too():
    """IEC 60364-5-52: 6 mm² has 46 A clipped direct and 41 in a conduit on a wall (method B1, 70 °C)."""
    plan = edits.add(fused(), Route(id="pipe", inner_mm=50.0), Route(id="tray"))
    said = edits.change(plan, "W5", conductor="mm2-6", insulation="pvc-70")
    assert table(said, "W5", IEC) == 46.0
    assert table(edits.change(said, "W5", route="tray"), "W5", IEC) == 46.0
    assert table(edits.change(said, "W5", route="pipe"), "W5", IEC) == 41.0
    assert table(edits.change(said, "W5", conduit=True), "W5", IEC) == 41.0


def test_a_switch_in_a_conductor_makes_no_second_one_of_it():
    plan = eight()
    parted = edits.insert_inline(plan, "P0", Disconnect(id="Q", rating_a=50.0), 1.0)
    halves = [r for r in parted.runs if r.id not in plan.run_by_id or r.id == "P0"]
    parted = edits.change(parted, halves[1].id, route="pipe")
    assert len([r for r in parted.runs if r.route == "pipe"]) == 9
    assert table(parted, "P1", NFPA) == pytest.approx(table(plan, "P1", NFPA))
    (fill,) = Case(study(parted), NFPA).fills
    assert fill.cables == 8
    assert fill.share == pytest.approx(Case(study(plan), NFPA).fills[0].share)


def test_every_book_has_every_limit_and_a_source_for_it():
    books = [code_of(id_) for id_ in (NA, ISO, NFPA, IEC)]
    names = set(books[0].limits)
    for book in books:
        assert set(book.limits) == names
        assert all(limit.source and limit.unit for limit in book.limits.values())
        assert book.covering in ("sheathed", "raceway", "short_proof")


def test_battery_posts_limit_by_their_own_column():
    """16 mm² counts as 6 AWG, whose 105 °C column has 120 A and whose 75 °C column 95 A."""
    plan = fused()
    amp = {id_: Case(study(plan), NA).ampacities[id_] for id_ in ("W1", "W2")}
    assert (amp["W1"].by_terminals, amp["W1"].governs) == (95.0, "terminals")
    assert amp["W2"].amps == 120.0
    # At 70 °C by IEC either end is the same.
    assert len({Case(study(plan), IEC).ampacities[id_].by_terminals for id_ in ("W1", "W2")}) == 1


def test_an_insulation_that_a_book_does_not_have_is_said_to_be_so():
    amp = Case(study(edits.change(fused(), "W5", insulation="pvc-60")), IEC).ampacities["W5"]
    assert (amp.amps, amp.governs) == (0.0, "an insulation that is not in this table")


def test_what_protects_an_appliance_or_a_car_protects_no_branch():
    plan = edits.change(fused(), "F0", rating_a=50.0)
    (finding,) = found(plan, "not_listed", NFPA)
    assert finding.place == "F1"
    after = finding.fix().apply(plan)
    assert (after.by_id["F1"].family, after.by_id["F1"].rating_a) == ("class-t-fuse", 10.0)
    assert not found(after, "not_listed", NFPA)
    for code in (NA, ISO, IEC):
        assert not found(plan, "not_listed", code)


def test_nothing_is_proposed_that_the_book_in_force_does_not_take():
    unlisted = code_of(NFPA).unlisted
    plan = edits.change_plan(edits.remove_inline(fused(rating=40.0), "F0"), practice=NFPA)
    case = Case(study(plan))
    assert {c.family.id for c in choices(case, "F1") if c.fits}.isdisjoint(unlisted)
    assert all("not listed" in " ".join(c.fails) for c in choices(case, "F1") if c.family.id in unlisted)
    for f in judge(study(plan)):
        fix = f.fix()
        for x in fix.apply(plan).items if fix is not None else ():
            if hasattr(x, "family") and getattr(plan.by_id.get(x.id), "family", "") != x.family:
                assert x.family not in unlisted, f.headline
    proposed = protect(plan)
    new = [x for x in proposed.plan.items if hasattr(x, "family")]
    assert new
    assert {x.family for x in new}.isdisjoint(unlisted)


@pytest.mark.parametrize(
    ("code", "thin", "fits"),
    [(NA, "mm2-1", "mm2-1.5"), (ISO, "mm2-0.75", "mm2-1"), (IEC, "mm2-1", "mm2-1.5"), (NFPA, "mm2-1.5", "mm2-2.5")],
)
def test_no_conductor_is_thinner_than_the_least(code, thin, fits):
    """16 AWG is 1.31 mm² and 14 AWG 2.08; ISO has 1 mm², IEC 1.5."""
    plan = edits.change(fused(), "W5", conductor=thin)
    (finding,) = found(plan, "least_size", code)
    assert finding.place == "W5"
    assert finding.fix().apply(plan).run_by_id["W5"].conductor == fits
    assert not found(edits.change(plan, "W5", conductor=fits), "least_size", code)


def test_conductors_in_parallel_are_of_1_0_awg_and_larger():
    """NFPA 70 310.10(G)(1); 53.5 mm²."""
    plan = edits.change(fused(), "W2", parallel=2, conductor="mm2-50")
    (finding,) = found(plan, "least_size", NFPA)
    assert finding.place == "W2"
    assert finding.limit == pytest.approx(53.5)
    assert not found(edits.change(plan, "W2", conductor="mm2-70"), "least_size", NFPA)
    assert not found(plan, "least_size", IEC)
