"""Patterns as edits: which conductors they make, what they keep, what they refuse."""

import pytest

from jaunty_copper.battery.patterns import PATTERNS, arrange, fitting, move_unit, strings_in_line, why_not
from jaunty_copper.plan import edits
from jaunty_copper.plan.banks import banks_of
from jaunty_copper.plan.edits import EditError
from jaunty_copper.plan.examples import example
from jaunty_copper.plan.model import Bar, Charger, Run
from jaunty_copper.plan.topology import topology
from tests.battery.test_sharing import row
from tests.build import loop, ohms


def bank(plan):
    return banks_of(topology(plan))[0]


def joined(plan):
    """Pairs of terminals that links and leads join."""
    return {frozenset((plan.run_by_id[r].a, plan.run_by_id[r].b)) for r in bank(plan).inside}


def pair(a, b):
    return frozenset((a, b))


def takeoff(plan, run):
    r = plan.run_by_id[run]
    return r.a if r.b.startswith("E") else r.b


@pytest.mark.parametrize("m", [2, 3, 4, 5, 6])
def test_linked_patterns_make_one_chain_a_side_and_move_the_take_offs(m):
    where = {"one_end": (0, 0), "opposite": (0, m - 1), "middle": ((m - 1) // 2, m // 2)}
    for pattern, (p, n) in where.items():
        if pattern == "middle" and m == 2:
            continue
        plan = arrange(row(m), "B0x0", pattern)
        chain = {pair(f"B{k}x0.{t}", f"B{k + 1}x0.{t}") for k in range(m - 1) for t in ("plus", "minus")}
        assert joined(plan) == chain
        assert takeoff(plan, "out") == f"B{p}x0.plus"
        assert takeoff(plan, "back") == f"B{n}x0.minus"


@pytest.mark.parametrize("m", [2, 3, 4, 7])
def test_leads_are_alike_in_length_and_end_on_studs_of_their_own(m):
    plan = arrange(row(m), "B0x0", "bars")
    bars = [x for x in plan.items if isinstance(x, Bar)]
    assert [b.name for b in bars] == ["Bank plus bar", "Bank minus bar"]
    leads = [plan.run_by_id[r] for r in bank(plan).inside]
    assert len(leads) == 2 * m
    assert len({r.length_m for r in leads}) == 1
    studs = [r.b for r in leads]
    assert len(set(studs)) == len(studs)
    # The take-off stands among the leads, not at the bar's end.
    names = bars[0].terminal_names
    at = names.index(takeoff(plan, "out").split(".")[1])
    assert 0 < at < len(names) - 1


def test_halves_are_linked_and_taken_off_at_opposite_corners():
    plan = arrange(row(6), "B0x0", "halves")
    links = {p for p in joined(plan) if all(x.startswith("B") and "x0" in x for x in p)}
    assert links == {pair(f"B{k}x0.{t}", f"B{k + 1}x0.{t}") for k in (0, 1, 3, 4) for t in ("plus", "minus")}
    leads = {x for p in joined(plan) - links for x in p if "x0" in x}
    assert leads == {"B0x0.plus", "B3x0.plus", "B2x0.minus", "B5x0.minus"}


def test_patterns_fit_the_number_of_strings():
    ids = {m: {p.id for p in fitting(bank(row(m)))} for m in (2, 3, 4, 5)}
    assert ids[2] == {"one_end", "opposite", "bars"}
    assert ids[3] == {"one_end", "middle", "opposite", "bars"}
    assert ids[4] == {p.id for p in PATTERNS}
    assert ids[5] == ids[3]
    with pytest.raises(EditError, match="does not go with 3"):
        arrange(row(3), "B0x0", "halves")


def test_series_links_stay_and_strings_are_joined_at_their_ends():
    plan = arrange(row(3, series=2), "B0x1", "opposite")
    assert {"S0x1", "S1x1", "S2x1"} <= set(plan.run_by_id)
    assert takeoff(plan, "out") == "B0x1.plus"
    assert takeoff(plan, "back") == "B2x0.minus"
    assert bank(plan).strings == bank(row(3, series=2)).strings


def test_size_insulation_zone_and_number_side_by_side_are_kept():
    plan = row(3)
    for r in bank(plan).inside:
        plan = edits.change(plan, r, conductor="mm2-70", insulation="xlpe-125", parallel=2, measured_ohm=None)
    for id_ in bank(arrange(plan, "B0x0", "bars")).inside:
        r = arrange(plan, "B0x0", "bars").run_by_id[id_]
        assert (r.conductor, r.insulation, r.parallel) == ("mm2-70", "xlpe-125", 2)


def test_a_charger_that_senses_at_the_take_off_senses_at_the_new_one():
    plan = edits.add(
        row(2), Charger(id="G", set_v=14.0, current_a=10.0, sense_plus="B0x0.plus", sense_minus="B0x0.minus"),
        ohms("gp", "G.plus", "B0x0.plus", 0.01), ohms("gm", "B0x0.minus", "G.minus", 0.01),
    )  # fmt: skip
    moved = arrange(plan, "B0x0", "opposite").by_id["G"]
    assert (moved.sense_plus, moved.sense_minus) == ("B0x0.plus", "B1x0.minus")


def test_several_conductors_at_the_take_off_all_move():
    plan = edits.add(row(4), ohms("more", "B0x0.plus", "E.plus", 0.01), ohms("less", "E.minus", "B0x0.minus", 0.01))
    made = arrange(plan, "B0x0", "bars")
    ends = {takeoff(made, r) for r in ("out", "more")}
    assert all(x.startswith("BP1.") for x in ends)


def test_strings_stand_from_left_to_right_whatever_their_ids():
    plan = row(3)
    plan = edits.change(plan, "B2x0", at_mm=(-900.0, 0.0))
    assert [s[0] for s in strings_in_line(plan, bank(plan))] == ["B2x0", "B0x0", "B1x0"]
    assert takeoff(arrange(plan, "B0x0", "opposite"), "out") == "B2x0.plus"


def test_what_cannot_be_rearranged_says_why():
    assert why_not(loop(), bank(loop())) == "there is only one string"
    with pytest.raises(EditError, match="no pattern called"):
        arrange(row(2), "B0x0", "star")
    with pytest.raises(EditError, match="is no battery"):
        arrange(row(2), "E", "opposite")


def test_moving_keeps_the_slack_of_a_link_and_never_makes_it_too_short():
    plan = example("orchard_station")
    away = move_unit(plan, "B1", -300.0, 0.0)
    assert away.run_by_id["L1p"].length_m == pytest.approx(0.25 + 0.3, abs=1e-3)
    back = move_unit(away, "B1", 0.0, 0.0)
    assert back.run_by_id["L1p"].length_m == pytest.approx(0.25, abs=1e-3)
    behind = move_unit(plan, "B4", 0.0, 400.0)
    length = behind.run_by_id["L3p"].length_m
    assert length >= 0.4
    with pytest.raises(EditError, match="is no battery"):
        move_unit(plan, "F1", 0.0, 0.0)


def test_a_run_of_the_bank_that_is_no_link_stays_where_it_is():
    plan = edits.add(row(2), Run(id="sense", a="B0x0.plus", b="E.plus", length_m=2.0))
    assert arrange(plan, "B0x0", "opposite").run_by_id["sense"].a == "B0x0.plus"
