"""Edits: what each does, what it refuses, and that undo brings the same bytes back."""

import random

import pytest

from jaunty_copper.desktop.shell.document import Document
from jaunty_copper.network.study import study
from jaunty_copper.plan import defaults, edits
from jaunty_copper.plan.blank import blank
from jaunty_copper.plan.check import problems
from jaunty_copper.plan.edits import Edit, EditError
from jaunty_copper.plan.examples import example
from jaunty_copper.plan.files import dumps, parse
from jaunty_copper.plan.model import Battery, Board, Disconnect, Fuse, PowerLoad, Route, Shunt
from tests.build import fused, loop, ohms

DEMO = example("orchard_station")


def total_length(plan):
    return sum(r.length_m for r in plan.runs)


def test_change_replaces_fields_and_nothing_else():
    plan = edits.change(DEMO, "F1", rating_a=200.0)
    assert plan.by_id["F1"].rating_a == 200.0
    assert DEMO.by_id["F1"].rating_a == 250.0
    assert [x.id for x in plan.items] == [x.id for x in DEMO.items]


@pytest.mark.parametrize(
    ("id_", "fields", "words"),
    [
        ("F1", {"rating_a": -1.0}, "greater than 0"),
        ("F1", {"colour": "red"}, "has no colour"),
        ("F1", {"family": "none-such"}, "no device family"),
        ("F1", {"family": "thermal-breaker"}, "family of breakers"),
        ("W1", {"a": "F1.c"}, "no terminal F1.c"),
        ("W1", {"conductor": "mm2-11"}, "no conductor"),
        ("W1", {"zone": "attic"}, "no zone attic"),
        ("nobody", {"name": "x"}, "nothing is called nobody"),
    ],
)
def test_change_refuses_what_makes_no_plan(id_, fields, words):
    with pytest.raises(EditError, match=words):
        edits.change(DEMO, id_, **fields)


def test_inserting_and_removing_keeps_length_and_ends():
    plan = edits.insert_inline(DEMO, "W31", Disconnect(id="Q9", rating_a=80.0), at_m=1.5)
    first, second = plan.run_by_id["W31"], next(r for r in plan.runs if r.a == "Q9.b")
    assert (first.length_m, second.length_m) == (1.5, 2.5)
    assert (first.a, second.b) == ("F3.b", "SUN.plus")
    back = edits.remove_inline(plan, "Q9")
    assert back.run_by_id["W31"] == DEMO.run_by_id["W31"]
    assert dumps(back) == dumps(DEMO)


def test_a_measured_run_forgets_its_measure_when_it_is_cut():
    plan = edits.change(DEMO, "W31", measured_ohm=0.004)
    plan = edits.insert_inline(plan, "W31", Shunt(id="S9", rating_a=80.0))
    assert plan.run_by_id["W31"].measured_ohm is None


def test_removing_an_item_against_the_direction_of_its_runs_works_too():
    plan = fused()
    turned = edits.change(plan, "W4", a="F1.a", b="P.s2")
    joined = edits.remove_inline(turned, "F1")
    (run,) = [r for r in joined.runs if "E.plus" in (r.a, r.b)]
    assert {run.a, run.b} == {"P.s2", "E.plus"}
    assert total_length(joined) == pytest.approx(total_length(plan))


def test_adding_a_circuit_brings_an_equal_pair_and_its_device():
    e, fuse = PowerLoad(id="NEW", power_w=30.0), Fuse(id="FN", family="blade-fuse", rating_a=5.0)
    plan = edits.add_circuit(DEMO, "P24", "M24", e, fuse, length_m=3.0, conductor="mm2-1.5")
    mine = [r for r in plan.runs if r not in DEMO.runs]
    assert sum(r.length_m for r in mine) == pytest.approx(6.0)
    assert {r.conductor for r in mine} == {"mm2-1.5"}
    (state,) = [s for s in study(plan).states if s.scenario.id == "evening"]
    assert state.port(e)[1] > 1.0
    gone = edits.remove_circuit(plan, "NEW")
    assert {x.id for x in gone.placed} == {x.id for x in DEMO.placed}
    assert gone.runs == DEMO.runs


def test_a_full_bar_grows_a_stud():
    plan = DEMO
    for k in range(12):
        plan = edits.add_circuit(plan, "P24", "M24", PowerLoad(id=f"N{k}", power_w=5.0), None)
    assert len(plan.by_id["P24"].studs) > len(DEMO.by_id["P24"].studs)
    assert problems(plan) == []


def test_removing_a_circuit_takes_what_scenarios_say_of_it_too():
    plan = edits.remove_circuit(DEMO, "PUMP")
    assert not {"PUMP", "F6", "C6"} & set(plan.by_id)
    assert all("PUMP" not in s.states for s in plan.scenarios)
    assert not [r for r in plan.runs if r.id.startswith("W6")]


def test_moving_a_stud_moves_what_is_on_it():
    plan = edits.move_stud(DEMO, "P24", "s6", 0)
    assert plan.by_id["P24"].terminal_names[0] == "s6"
    assert edits.move_stud(plan, "P24", "s6", 5) == DEMO
    with pytest.raises(EditError, match="no stud"):
        edits.move_stud(DEMO, "P24", "s99", 0)


def test_only_a_free_stud_can_be_taken_away():
    with pytest.raises(EditError, match="something is on stud s2"):
        edits.remove_stud(DEMO, "P24", "s2")
    assert "s8" not in edits.remove_stud(DEMO, "P24", "s8").by_id["P24"].terminal_names


def test_renaming_follows_every_reference():
    plan = edits.rename(DEMO, "PUMP", "WELL-PUMP")
    assert problems(plan) == []
    assert "WELL-PUMP" in plan.scenarios[0].states
    assert edits.rename(plan, "WELL-PUMP", "PUMP") == DEMO
    relay = example("relay_mast")
    assert edits.rename(relay, "B4", "TOP").by_id["RECT"].sense_plus == "TOP.plus"
    assert edits.rename(DEMO, "lean-to", "shed").by_id["GEN"].zone == "shed"
    with pytest.raises(EditError, match="taken"):
        edits.rename(DEMO, "PUMP", "FAN")


def test_removing_a_zone_leaves_no_dangling_name():
    plan = edits.remove(DEMO, "lean-to")
    assert problems(plan) == []
    assert plan.by_id["GEN"].zone is None


def test_a_battery_that_something_senses_is_not_removed_by_halves():
    with pytest.raises(EditError, match="go together"):
        edits.remove(example("relay_mast"), "B4")


def test_replacing_keeps_the_wires():
    plan = edits.replace_item(DEMO, "F6", defaults.new_inline(DEMO, "breaker", 30.0).model_copy(update={"id": "F6"}))
    assert plan.by_id["F6"].kind == "breaker"
    assert plan.runs == DEMO.runs
    with pytest.raises(EditError, match="cannot stand"):
        edits.replace_item(DEMO, "F6", PowerLoad(id="F6", power_w=1.0))


def test_a_scenario_states_only_what_makes_sense():
    assert edits.set_state(DEMO, "evening", "Q1", "open").scenarios[0].states["Q1"] == "open"
    with pytest.raises(EditError, match="is a switch"):
        edits.set_state(DEMO, "evening", "Q1", "surge")
    with pytest.raises(EditError, match="is equipment"):
        edits.set_state(DEMO, "evening", "PUMP", "open")
    assert "PUMP" not in edits.set_state(DEMO, "evening", "PUMP", None).scenarios[0].states


def test_an_override_needs_its_reason():
    with pytest.raises(EditError, match="reason"):
        edits.set_override(DEMO, "drop_other_percent", 5.0)
    plan = edits.set_override(DEMO, "drop_other_percent", 5.0, "client wants it")
    assert edits.set_override(plan, "drop_other_percent", None) == DEMO


def test_a_unit_in_parallel_takes_its_share():
    plan = defaults.add_unit(DEMO, "B4")
    new = next(x for x in plan.items if isinstance(x, Battery) and x not in DEMO.items)
    assert study(plan).states[0].current(new.id) > 1.0


@pytest.mark.parametrize("kind", [*defaults.INLINE_WORDS, *defaults.HUB_WORDS, *defaults.EQUIPMENT_WORDS])
def test_every_kind_of_new_thing_goes_into_a_plan(kind):
    plan = blank()
    if kind in defaults.INLINE_WORDS:
        plan = edits.insert_inline(plan, "W7", defaults.new_inline(plan, kind, 25.0))
    elif kind in defaults.HUB_WORDS:
        plan = edits.add(plan, *defaults.new_hubs(plan, kind))
    else:
        plan = edits.add_circuit(plan, "P1", "M1", defaults.new_equipment(plan, kind, 12.0), None)
    assert parse(dumps(plan)) == plan
    assert study(plan).states[0].solved
    for make in (defaults.new_inline, defaults.new_equipment):
        with pytest.raises(EditError):
            make(plan, "nonsense", 1.0)


def random_edit(plan, rng):
    """Any gesture of the window, at a random place."""
    run, item = rng.choice(plan.runs), rng.choice(plan.items)
    choices = [
        lambda p: edits.change(p, run.id, length_m=round(rng.uniform(0.1, 9), 2)),
        lambda p: edits.change(p, run.id, conductor=rng.choice(("mm2-4", "awg-6", "sae-8"))),
        lambda p: edits.insert_inline(p, run.id, defaults.new_inline(p, rng.choice(list(defaults.INLINE_WORDS)), 30.0)),
        lambda p: edits.remove(p, run.id),
        lambda p: edits.remove_inline(p, item.id),
        lambda p: edits.change(p, item.id, name=f"n{rng.random()}"),
        lambda p: edits.move_stud(p, item.id, "s1", rng.randrange(8)),
        lambda p: edits.add_circuit(p, "P24", "M24", defaults.new_equipment(p, rng.choice(list(defaults.EQUIPMENT_WORDS)), 24.0), None),
        lambda p: edits.remove_circuit(p, rng.choice(p.equipment).id),
        lambda p: edits.rename(p, item.id, edits.fresh_id(p, "R")),
        lambda p: defaults.add_unit(p, "B1"),
        lambda p: edits.set_state(p, rng.choice(p.scenarios).id, rng.choice(p.equipment).id, rng.choice(("off", "surge", 0.3, None))),
    ]  # fmt: skip
    return Edit("random", rng.choice(choices))


@pytest.mark.parametrize("seed", range(8))
def test_random_edits_give_plans_and_undo_gives_the_same_bytes(seed, qapp):
    rng = random.Random(seed)
    document = Document(DEMO)
    before = [dumps(DEMO)]
    for _ in range(60):
        try:
            document.do(random_edit(document.plan, rng))
        except EditError:
            continue
        if document.plan.runs and document.plan.items and document.plan.equipment:
            data = dumps(document.plan)
            assert parse(data) == document.plan
            if document.undo_label is not None and data != before[-1]:
                before.append(data)
    study(document.plan)
    for data in reversed(before):
        assert dumps(document.plan) == data
        document.undo()
    assert document.undo_label is None
    for data in before[1:]:
        document.redo()
        assert dumps(document.plan) == data


def test_a_run_of_ohms_survives_a_round_trip():
    plan = edits.add(loop(), ohms("x", "B.plus", "E.plus", 0.0))
    assert parse(dumps(plan)) == plan


# The log, routes and boards


def test_what_names_a_thing_follows_it_and_goes_with_it():
    plan = edits.take_reading(loop(), "s", "volts", "B.plus", "E.plus", 0.1)
    plan = edits.take_reading(plan, "s", "joint", "out", "a", 0.01)
    plan = edits.log_readings(plan, "2026-03-01", "first")
    plan = edits.log_entry(plan, "hot", "2026-03-02", about="E", value=71.0)
    plan = edits.put_spot(
        edits.add(plan, Board(id="panel"), Route(id="duct", inner_mm=20.0)), "panel", "E", (10.0, 20.0)
    )
    plan = edits.change(plan, "out", route="duct")
    renamed = edits.rename(edits.rename(edits.rename(plan, "E", "LAMP"), "duct", "way"), "out", "feed")
    assert [(r.a, r.b) for r in renamed.readings] == [("B.plus", "LAMP.plus"), ("feed", "a")]
    assert renamed.log[0].readings == renamed.readings
    assert renamed.log[1].about == "LAMP"
    assert renamed.boards[0].spots[0].of == "LAMP"
    assert renamed.run_by_id["feed"].route == "way"
    gone = edits.remove(renamed, "LAMP", "way")
    assert gone.boards[0].spots == ()
    assert gone.routes == ()
    assert len(gone.log) == 2
    assert edits.remove(plan, "duct").run_by_id["out"].route is None


def test_a_thing_stands_on_one_board_only():
    plan = edits.add(loop(), Board(id="one"), Board(id="two"))
    plan = edits.put_spot(edits.put_spot(plan, "one", "E", (0.0, 0.0)), "two", "E", (5.0, 5.0), turned=True)
    assert [len(b.spots) for b in plan.boards] == [0, 1]
    with pytest.raises(EditError, match="no board"):
        edits.put_spot(plan, "out", "E", (0.0, 0.0))
    with pytest.raises(EditError, match="nothing is called"):
        edits.put_spot(plan, "one", "nobody", (0.0, 0.0))


def test_a_log_needs_readings_before_it_takes_them():
    with pytest.raises(EditError, match="no reading was taken"):
        edits.log_readings(loop(), "2026-03-01")


@pytest.mark.parametrize(
    ("fields", "told"),
    [
        ({"routes": ({"id": "r"}, {"id": "r"})}, "routes have this id"),
        ({"boards": ({"id": "b", "spots": [{"of": "nobody", "at_mm": [0, 0]}]},)}, "nothing is called nobody"),
        ({"boards": ({"id": "b", "spots": [{"of": "E", "at_mm": [0, 0]}]}, {"id": "c", "spots": [{"of": "E", "at_mm": [0, 0]}]})}, "stands on b already"),
        ({"log": ({"id": "x", "on": "2026-01-01"}, {"id": "x", "on": "2026-01-02"})}, "log entries have this id"),
    ],
)  # fmt: skip
def test_what_cannot_be_on_a_board_in_a_route_or_in_a_log_is_told(fields, told):
    with pytest.raises(EditError, match=told):
        edits.change_plan(loop(), **fields)


def test_a_run_is_laid_in_a_route_that_there_is():
    with pytest.raises(EditError, match="there is no route nowhere"):
        edits.change(loop(), "out", route="nowhere")


def test_entries_come_and_go_by_themselves():
    plan = edits.log_entry(edits.log_entry(loop(), "note", "2026-01-01", text="a"), "note", "2026-01-02", text="b")
    assert [e.id for e in plan.log] == ["log-1", "log-2"]
    assert [e.text for e in edits.remove_entry(plan, "log-1").log] == ["b"]
    with pytest.raises(EditError):
        edits.log_entry(plan, "guess", "2026-01-01")


def test_a_bank_can_be_arranged_anew_whatever_stands_on_a_board():
    from jaunty_copper.battery.patterns import arrange

    plan = arrange(DEMO, "B1", "bars")
    back = arrange(
        edits.put_spot(plan, "panel", next(x.id for x in plan.items if x.id not in DEMO.by_id), (1.0, 1.0)),
        "B1",
        "opposite",
    )
    assert problems(back) == []
