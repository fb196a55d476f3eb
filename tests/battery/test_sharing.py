"""Shares against hand-made loop equations, courses against the units' own curves."""

import random
from fractions import Fraction

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from jaunty_copper.battery.arrangements import influences, longest, options
from jaunty_copper.battery.discharge import over_time
from jaunty_copper.battery.paralleling import meeting
from jaunty_copper.battery.patterns import PATTERNS, arrange, fitting, move_unit, why_not
from jaunty_copper.battery.sharing import bank_of, sharing
from jaunty_copper.network.study import study
from jaunty_copper.network.wiring import wire
from jaunty_copper.plan import edits
from jaunty_copper.plan.banks import banks_of, unit_places
from jaunty_copper.plan.edits import EditError
from jaunty_copper.plan.examples import example
from jaunty_copper.plan.model import Charger, CurrentLoad, Fuse, Plan, Post, PowerLoad, Run, Scenario
from jaunty_copper.plan.topology import topology
from tests.build import agm_emf, battery, changes_ah, judge, ohms

R, A = 0.004, 0.0003


def row(m, series=1, load=None, soc=50.0, ohm=R, **unit):
    """m strings side by side, linked from unit to unit, a load at their left end."""
    units, runs = [], []
    for k in range(m):
        for s in range(series):
            units.append(battery(f"B{k}x{s}", ohm=ohm / series, **unit))
            if s:
                runs.append(ohms(f"S{k}x{s}", f"B{k}x{s - 1}.plus", f"B{k}x{s}.minus", 0.0))
    top = series - 1
    for k in range(m - 1):
        runs.append(ohms(f"P{k}", f"B{k}x{top}.plus", f"B{k + 1}x{top}.plus", A))
        runs.append(ohms(f"M{k}", f"B{k}x0.minus", f"B{k + 1}x0.minus", A))
    e = load or CurrentLoad(id="E", current_a=100.0, nominal_v=12.0 * series)
    runs += [ohms("out", f"B0x{top}.plus", "E.plus", 0.001), ohms("back", "E.minus", "B0x0.minus", 0.001)]
    return Plan(items=tuple(units), equipment=(e,), runs=tuple(runs), scenarios=(Scenario(id="s", soc_percent=soc),))


def with_links(plan, ohm=A):
    """All links of one resistance, whatever their length."""
    bank = wire(plan).banks[0]
    for id_ in bank.inside:
        plan = edits.change(plan, id_, measured_ohm=ohm)
    return plan


def shares(plan):
    made = study(plan)
    (bank,) = made.wiring.banks
    return sharing(bank, made.states[0])


def by_hand(m, plus_at, minus_at, r=Fraction(4), a=Fraction(3, 10), total=Fraction(100)):
    """Unit currents from the loop equations of a row, in exact fractions.

    Loop over units k and k+1: both see the same voltage but for what two links drop. Link k
    carries everything on the side away from the take-off.
    """
    rows = []
    for k in range(m - 1):
        right = [Fraction(j > k) for j in range(m)]
        left = [Fraction(j <= k) for j in range(m)]
        # v(p_k+1) - v(p_k), and v(n_k) - v(n_k+1), in units of the link's resistance.
        plus = right if k >= plus_at else [-x for x in left]
        minus = right if k >= minus_at else [-x for x in left]
        # E - r I_k = v(p_k) - v(n_k), and the same for k+1.
        row_ = [a * (p + q) for p, q in zip(plus, minus, strict=True)]
        row_[k] -= r
        row_[k + 1] += r
        rows.append((row_, Fraction(0)))
    rows.append(([Fraction(1)] * m, total))
    return solved(rows)


def solved(rows):
    """Gauss and Jordan in exact fractions."""
    n = len(rows)
    table = [[*row_, right] for row_, right in rows]
    for k in range(n):
        pivot = next(j for j in range(k, n) if table[j][k])
        table[k], table[pivot] = table[pivot], table[k]
        table[k] = [x / table[k][k] for x in table[k]]
        for j in range(n):
            if j != k:
                table[j] = [x - table[j][k] * y for x, y in zip(table[j], table[k], strict=True)]
    return [float(row_[-1]) for row_ in table]


TAKEOFF = {
    "one_end": lambda m: (0, 0),
    "opposite": lambda m: (0, m - 1),
    "middle": lambda m: ((m - 1) // 2, m // 2),
}


@pytest.mark.parametrize("m", [2, 3, 4])
@pytest.mark.parametrize("pattern", ["one_end", "opposite", "middle"])
def test_linked_rows_share_as_their_loop_equations_say(m, pattern):
    if not next(p for p in PATTERNS if p.id == pattern).fits(m):
        pytest.skip(f"{pattern} does not go with {m}")
    plan = with_links(arrange(row(m), "B0x0", pattern))
    got = [s.current_a for s in shares(plan).shares]
    np.testing.assert_allclose(got, by_hand(m, *TAKEOFF[pattern](m)), rtol=1e-9)


def test_two_units_at_one_end_by_the_closed_form():
    # The far unit sees two links more than the near one.
    near, far = (s.current_a for s in shares(row(2)).shares)
    assert near / far == pytest.approx((R + 2 * A) / R, rel=1e-9)
    assert shares(row(2)).spread == pytest.approx(2 * (near - far) / (near + far), rel=1e-12)


@pytest.mark.parametrize("m", [2, 3, 4])
def test_equal_leads_to_one_stud_share_evenly_and_an_unequal_one_as_ohm_says(m):
    units = tuple(battery(f"B{k}", ohm=R) for k in range(m))
    leads = tuple(
        ohms(f"{t[0]}{k}", f"B{k}.{t}", f"{t[0].upper()}.stud", A) for k in range(m) for t in ("plus", "minus")
    )
    plan = Plan(
        items=(*units, Post(id="P"), Post(id="M")), equipment=(CurrentLoad(id="E", current_a=100.0),),
        runs=(*leads, ohms("out", "P.stud", "E.plus", 0.001), ohms("back", "E.minus", "M.stud", 0.001)),
    )  # fmt: skip
    assert [s.current_a for s in shares(plan).shares] == pytest.approx([100.0 / m] * m, rel=1e-9)
    assert shares(plan).spread < 1e-9
    worse = edits.change(plan, "p0", measured_ohm=A + 1e-3)
    g = [1 / (R + 2 * A + 1e-3)] + [1 / (R + 2 * A)] * (m - 1)
    assert [s.current_a for s in shares(worse).shares] == pytest.approx([100.0 * x / sum(g) for x in g], rel=1e-9)


def test_halved_groups_share_evenly_up_to_the_bars_own_resistance():
    plan = with_links(arrange(row(4), "B0x0", "halves"))
    assert shares(plan).spread < 2e-3


def test_charge_mirrors_discharge():
    out = shares(row(4)).shares
    source = Charger(id="E", nominal_v=12.0, set_v=40.0, current_a=100.0)
    back = shares(row(4, load=source)).shares
    assert [s.current_a for s in back] == pytest.approx([-s.current_a for s in out], rel=1e-9)
    assert [s.share for s in back] == pytest.approx([s.share for s in out], rel=1e-9)


def test_the_order_in_the_file_does_not_matter():
    plan = row(4, series=2)
    mixed = plan.model_copy(
        update={"items": tuple(reversed(plan.items)), "runs": tuple(random.Random(3).sample(plan.runs, len(plan.runs)))}
    )
    one, two = shares(plan).by_unit, shares(mixed).by_unit
    assert one.keys() == two.keys()
    for unit, s in one.items():
        assert two[unit].current_a == pytest.approx(s.current_a, rel=1e-9)


def test_series_strings_are_found_and_share_like_units():
    plan = row(3, series=2)
    (bank,) = banks_of(topology(plan))
    assert bank.strings == (("B0x0", "B0x1"), ("B1x0", "B1x1"), ("B2x0", "B2x1"))
    assert bank.groups == ((0, 1, 2),)
    assert bank.nominal_v == 24.0
    assert {r[0] for r in bank.inside} == {"P", "M", "S"}
    got = [shares(plan).by_unit[f"B{k}x0"].current_a for k in range(3)]
    # The link inside a string is never better than a microhm.
    np.testing.assert_allclose(got, by_hand(3, 0, 0, r=Fraction(4001, 1000)), rtol=1e-9)


def test_ties_between_strings_make_groups_of_units():
    plan = edits.add(row(2, series=2), ohms("tie", "B0x0.plus", "B1x0.plus", A))
    (bank,) = banks_of(topology(plan))
    assert len(bank.strings) == 4
    assert sorted(len(g) for g in bank.groups) == [2, 2]
    assert "cross_ties" in {f.rule.id for f in judge(study(plan))}
    assert "tied" in why_not(plan, bank)
    with pytest.raises(EditError, match="tied"):
        arrange(plan, "B0x0", "opposite")


@given(st.integers(1, 16), st.integers(1, 4), st.sampled_from([p.id for p in PATTERNS]))
def test_any_bank_in_any_pattern_is_a_plan_that_solves(strings, series, pattern):
    if strings * series > 16:
        strings = 16 // series
    plan = row(strings, series)
    (bank,) = banks_of(topology(plan))
    if strings > 1 and pattern in {p.id for p in fitting(bank)}:
        plan = arrange(plan, "B0x0", pattern)
    shared = shares(plan)
    assert sum(s.share for s in shared.shares) == pytest.approx(series)
    assert sum(shared.by_unit[s[0]].current_a for s in shared.bank.strings) == pytest.approx(100.0, rel=1e-9)
    assert shared.bank.nominal_v == 12.0 * series


def test_patterns_can_be_changed_back_and_forth_and_keep_what_is_outside():
    plan = example("orchard_station")
    first = {p.id: arrange(plan, "B1", p.id) for p in PATTERNS}
    for a in PATTERNS:
        for b in PATTERNS:
            again = arrange(first[a.id], "B1", b.id)
            assert shares_of(again) == pytest.approx(shares_of(first[b.id]), rel=1e-6)
            assert len(again.items) == len(first[b.id].items)
    for p in first.values():
        outside = [r for r in p.runs if not r.id.startswith("L")]
        assert [r.id for r in outside] == [r.id for r in plan.runs if not r.id.startswith("L")]


def shares_of(plan):
    made = study(plan)
    return [s.current_a for s in sharing(bank_of(made.wiring, "B1"), made.states[0]).shares]


def test_leads_to_a_bar_that_serves_more_than_the_bank_leave_the_bar_alone():
    plan = arrange(row(3), "B0x0", "bars")
    bar = next(x for x in plan.items if x.id.startswith("BP"))
    second = PowerLoad(id="E2", power_w=10.0)
    free, _ = edits.add_stud(plan, bar.id)
    stud = free.by_id[bar.id].studs[-1].id
    both = edits.add(free, second, Run(id="x", a=f"{bar.id}.{stud}", b="E2.plus", length_m=1.0),
                     Run(id="y", a="E2.minus", b="E.minus", length_m=1.0))  # fmt: skip
    linked = arrange(both, "B0x0", "opposite")
    assert bar.id in linked.by_id
    assert sum(shares(linked).by_unit[f"B{k}x0"].current_a for k in range(3)) > 100.0


def test_moving_a_unit_takes_its_links_along_and_never_into_another_unit():
    plan = example("orchard_station")
    at = unit_places(tuple(x for x in plan.items if x.kind == "battery"))
    moved = move_unit(plan, "B4", at["B4"][0] + 200.0, 0.0)
    assert moved.run_by_id["L3p"].length_m == pytest.approx(plan.run_by_id["L3p"].length_m + 0.2, abs=1e-3)
    assert moved.run_by_id["L1p"].length_m == plan.run_by_id["L1p"].length_m
    with pytest.raises(EditError, match="inside"):
        move_unit(plan, "B4", at["B3"][0] + 10.0, 0.0)


# What moves the shares


def test_options_put_the_bank_side_by_side_and_the_demo_is_badly_arranged():
    plan = example("orchard_station")
    found = {o.pattern.id if o.pattern else None: o for o in options(plan, "B1", plan.scenarios[0])}
    assert set(found) == {None, *(p.id for p in PATTERNS)}
    assert found[None].sharing.spread > 0.3
    assert found["opposite"].sharing.spread < 0.1
    (finding,) = [f for f in judge(study(plan)) if f.rule.id == "bank_spread"]
    assert "Unit 1" in finding.headline
    after = finding.fix().apply(plan)
    assert "bank_spread" not in {f.rule.id for f in judge(study(after))}


def test_a_bad_joint_parts_two_even_units_as_ohm_says():
    plan = with_links(arrange(row(2), "B0x0", "opposite"))
    plan = plan.model_copy(update={"equipment": (CurrentLoad(id="E", current_a=10.0),)})
    found = {(i.place, i.what): i.spread for i in influences(plan, "B0x0", plan.scenarios[0])}
    (link,) = (r.id for r in plan.runs if r.id in wire(plan).banks[0].inside and r.a.endswith("plus"))
    # Unit 1 then has A + 1 milliohm, unit 0 A: currents as the inverse resistances.
    one, two = 1 / (R + A), 1 / (R + A + 1e-3)
    assert found[link, "with a joint of 1 mΩ"] == pytest.approx(2 * (one - two) / (one + two), rel=1e-6)


def test_the_greatest_length_keeps_the_spread_just_within():
    plan = arrange(example("orchard_station"), "B1", "opposite")
    s = plan.scenarios[1]
    link = bank_of(wire(plan), "B1").inside[0]
    most = longest(plan, link, "B1", s, 0.2)
    state = lambda length: next(iter(options(edits.change(plan, link, length_m=length), "B1", s))).sharing.spread  # noqa: E731
    assert plan.run_by_id[link].length_m < most < 5.0
    assert state(most) <= 0.2 < state(most + 0.002)
    assert np.isnan(longest(example("orchard_station"), "L1p", "B1", s, 0.1))


# Over time


def test_a_lone_unit_reproduces_its_own_curve():
    plan = row(1, load=CurrentLoad(id="E", current_a=5.0), soc=100.0)
    h = over_time(plan, plan.scenarios[0], 16.0)
    hours, soc = h.course.hours, h.course.soc_percent[:, 0]
    np.testing.assert_allclose(soc, 100.0 - 5.0 * hours, atol=1e-6)
    for hour in (0.0, 4.0, 10.0, 14.0):
        k = int(np.argmin(np.abs(hours - hour)))
        rise = R * 0.8 * max(0.0, 1.0 - (100.0 - 5.0 * hour) / 30.0)
        want = agm_emf(100.0 - 5.0 * hour) * 6 / 6 - 5.0 * (R + rise)
        assert h.course.terminal_v[k, 0] == pytest.approx(want, abs=2e-4)


def test_ampere_hours_and_charge_balance():
    plan = example("orchard_station")
    for scenario in plan.scenarios:
        h = over_time(plan, scenario, 2.0)
        c = h.course
        step = np.diff(c.hours)[:, None]
        np.testing.assert_allclose(changes_ah(plan, c.current_a[:-1], step[:, 0]), -h.stored_ah, rtol=1e-6, atol=1e-6)
        np.testing.assert_allclose((c.current_a[:-1] * step).sum(axis=0), h.taken_ah, rtol=1e-12)


def test_a_course_agrees_with_full_solutions_made_along_it():
    plan = example("orchard_station")
    s = plan.scenarios[0]
    h = over_time(plan, s, 2.0)
    k = len(h.course.hours) // 2
    there = plan
    for unit, soc in zip(h.units, h.course.soc_percent[k], strict=True):
        there = edits.change(there, unit, soc_percent=float(soc))
    want = shares_of(there)
    np.testing.assert_allclose(h.course.current_a[k], want, rtol=2e-3)


def test_half_the_step_changes_little():
    plan = example("orchard_station")
    one, two = (over_time(plan, plan.scenarios[1], 0.5, step).course.soc_percent[-1] for step in (20.0, 10.0))
    np.testing.assert_allclose(one, two, atol=0.2)


def test_a_weak_unit_stops_first_and_costs_the_bank_what_the_others_hold():
    plan = edits.change(row(2, load=CurrentLoad(id="E", current_a=40.0)), "B1x0", capacity_share=0.6)
    h = over_time(plan, plan.scenarios[0], 12.0)
    assert h.course.stopped.kind == "empty"
    assert h.left_ah > 0.5
    even = over_time(row(2, load=CurrentLoad(id="E", current_a=40.0), soc=50.0), plan.scenarios[0], 12.0)
    assert even.course.hours[-1] > h.course.hours[-1]


def test_charging_ends_when_the_first_is_full_and_a_charger_tapers():
    source = Charger(id="E", nominal_v=12.0, set_v=14.2, current_a=60.0)
    plan = row(2, load=source, soc=40.0)
    h = over_time(plan, plan.scenarios[0], 24.0)
    assert {e.kind for e in h.course.events} >= {"source_mode"}
    first, last = abs(h.course.current_a[0].sum()), abs(h.course.current_a[-1].sum())
    assert first == pytest.approx(60.0, rel=1e-6)
    assert last < 50.0


def test_an_inverter_that_cuts_out_is_told_and_the_rest_goes_on():
    plan = example("orchard_station")
    low = plan.scenarios[1].model_copy(update={"soc_percent": 6.0})
    h = over_time(plan, low, 3.0)
    assert "load_stops" in {e.kind for e in h.course.events}
    assert np.abs(h.course.current_a[-1]).sum() < np.abs(h.course.current_a[0]).sum()


def test_units_of_different_charge_meet_with_the_closed_forms_peak():
    plan = row(2).model_copy(
        update={
            "equipment": (),
            "runs": (ohms("P", "B0x0.plus", "B1x0.plus", A), ohms("M", "B0x0.minus", "B1x0.minus", A)),
        }
    )
    m = meeting(plan, "B0x0", {"B0x0": 90.0, "B1x0": 40.0})
    assert m.peak_a == pytest.approx((agm_emf(90) - agm_emf(40)) / (2 * R + 2 * A), rel=1e-9)
    assert m.heat_w == pytest.approx(m.peak_a * (agm_emf(90) - agm_emf(40)), rel=1e-9)
    assert 0.1 < m.level_h < 24.0
    level = meeting(plan, "B0x0", {"B0x0": 60.0, "B1x0": 60.0})
    assert level.peak_a == pytest.approx(0.0, abs=1e-6)


# Whatever the bank


@st.composite
def rows_of_anything(draw):
    """Rows of units that differ in resistance, capacity and charge, with links that differ in length."""
    m, series = draw(st.integers(1, 5)), draw(st.integers(1, 2))
    plan = row(m, series, load=PowerLoad(id="E", power_w=draw(st.sampled_from([40.0, 300.0])), nominal_v=12.0 * series))
    for x in plan.items:
        plan = edits.change(
            plan, x.id, internal_ohm=draw(st.sampled_from([0.003, 0.004, 0.02])),
            capacity_share=draw(st.sampled_from([0.6, 0.9, 1.0])), soc_percent=draw(st.sampled_from([35.0, 50.0, 80.0])),
        )  # fmt: skip
    for id_ in wire(plan).banks[0].inside:
        plan = edits.change(plan, id_, measured_ohm=draw(st.sampled_from([1e-4, 3e-4, 2e-3])))
    return plan


@settings(max_examples=25, deadline=None)
@given(rows_of_anything())
def test_charge_and_energy_balance_in_any_bank(plan):
    h = over_time(plan, plan.scenarios[0], 1.0, 30.0)
    c = h.course
    if len(c.hours) < 2:
        return
    step = np.diff(c.hours)[:, None]
    np.testing.assert_allclose(changes_ah(plan, c.current_a[:-1], step[:, 0]), -h.stored_ah, rtol=1e-6, atol=1e-7)
    # Units in series carry one current; what the bank gives is at least what the load takes.
    for string in wire(plan).banks[0].strings:
        columns = [h.units.index(u) for u in string]
        np.testing.assert_allclose(
            c.current_a[:, columns], c.current_a[:, columns[:1]] * np.ones(len(string)), rtol=1e-6, atol=1e-6
        )
    assert h.taken_wh.sum() >= 0.999 * plan.equipment[0].power_w * c.hours[-1] - 1e-6


@settings(max_examples=25, deadline=None)
@given(rows_of_anything())
def test_shares_add_up_and_spread_has_no_sign(plan):
    shared = shares(plan)
    if any(np.isnan(s.current_a) for s in shared.shares):
        return
    for group in shared.bank.groups:
        assert sum(shared.by_unit[shared.bank.strings[k][0]].share for k in group) == pytest.approx(1.0)
        assert sum(shared.by_unit[shared.bank.strings[k][0]].even for k in group) == pytest.approx(1.0)
    assert shared.spread >= 0.0
    assert all(w >= 0.0 for w in shared.heat_w.values())


def test_a_string_fuse_that_joining_overloads_is_told_with_its_times():
    plan = row(2).model_copy(update={"equipment": (), "runs": (ohms("M", "B0x0.minus", "B1x0.minus", A),)})
    plan = edits.add(
        plan, Fuse(id="F", family="blade-fuse", rating_a=20.0, measured_ohm=1e-3),
        ohms("P", "B0x0.plus", "F.a", A), ohms("Q", "F.b", "B1x0.plus", 1e-6),
    )  # fmt: skip
    m = meeting(plan, "B0x0", {"B0x0": 90.0, "B1x0": 40.0})
    (o,) = m.fuses
    assert (o.device, o.times) == ("F", pytest.approx(m.peak_a / 20.0))
    # Between the gates at 2 and 3.5 times the rating.
    assert 2.0 < o.times < 3.5
    assert 0.04 < o.shortest_s < 0.15
    assert 0.5 < o.longest_s < 5.0
    assert meeting(plan, "B0x0", {"B0x0": 60.0, "B1x0": 59.0}).fuses == ()
