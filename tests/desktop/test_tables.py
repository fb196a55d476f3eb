"""The Tables page without hands: cells to text and back, sorting, filtering, blocks; and an editor for every field."""

import typing

import pytest
from hypothesis import given
from hypothesis import strategies as st
from pydantic import BaseModel
from PySide6.QtCore import Qt

from jaunty_copper.desktop.inspector.fields import FIELDS, Field
from jaunty_copper.desktop.pages.tables.cells import shown, typed
from jaunty_copper.desktop.pages.tables.fields import LISTED
from jaunty_copper.desktop.pages.tables.model import SheetModel
from jaunty_copper.desktop.pages.tables.sheets import SHEETS
from jaunty_copper.desktop.widgets.quantity import NotUnderstood
from jaunty_copper.desktop.work.making import picture_of
from jaunty_copper.documents.words import Units
from jaunty_copper.plan import edits
from jaunty_copper.plan.edits import EditError
from jaunty_copper.plan.examples import example
from jaunty_copper.plan.model import Battery, Override, Plan
from tests.hands.gestures import TABLE
from tests.networks import network
from tests.trials import WHOLE

SEEDS = 60 if WHOLE else 4
DEMO = example("orchard_station")
PICTURE = picture_of(DEMO)
SIZES = [
    ("mm2-16", "16 mm²"),
    ("mm2-1.5", "1.5 mm²"),
    ("mm2-10", "10 mm²"),
    ("awg-1/0", "1/0 AWG"),
    ("awg-10", "10 AWG"),
]
CHOICE = Field("size", "Size", "choice")


def model_of(name, picture=PICTURE, awg=False):
    model = SheetModel()
    model.show_sheet(SHEETS[name], picture, None, Units(awg))
    return model


def keys(model):
    return [r.key for r in model.rows]


def place(model, key, title):
    return keys(model).index(key), next(k for k, c in enumerate(model.columns) if c.title.startswith(title))


def text(model, key, title):
    r, c = place(model, key, title)
    return model.text(model.rows[r], model.columns[c])


@pytest.mark.parametrize(
    ("words", "meant"),
    [
        ("16", "mm2-16"), ("16mm2", "mm2-16"), ("1,5", "mm2-1.5"), ("1/0", "awg-1/0"), ("awg-10", "awg-10"),
        ("10 AWG", "awg-10"), ("10 mm²", "mm2-10"), ("1/0 awg", "awg-1/0"),
    ],
)  # fmt: skip
def test_a_size_is_taken_as_people_write_it(words, meant):
    assert typed(CHOICE, words, SIZES, False) == meant


@pytest.mark.parametrize(
    ("words", "meant"),
    [("none", "none"), ("not known", None), ("diode", "diode"), ("diode alone", "diode"), ("", None)],
)
def test_that_nothing_is_fitted_is_another_thing_than_that_nobody_knows(words, meant):
    kinds = [(None, "not known"), ("none", "none"), ("diode", "diode alone"), ("fast", "diode and Zener or resistor")]
    assert typed(CHOICE, words, kinds, False) == meant


@pytest.mark.parametrize(("words", "why"), [("10", "can be"), ("17", "none of"), ("", "none of")])
def test_a_size_that_is_none_or_several_is_refused(words, why):
    with pytest.raises(NotUnderstood, match=why):
        typed(CHOICE, words, SIZES, False)


@given(st.sampled_from([f for fields in (*FIELDS.values(), *LISTED.values()) for f in fields]), st.data())
def test_what_a_cell_shows_is_understood_as_the_same(field, data):
    """Copy and paste of a table onto itself changes nothing, whatever it holds."""
    numbers = st.floats(1e-3, 1e5).map(lambda x: float(f"{x:.3g}"))
    values = {
        "text": st.text("abc 12").map(str.strip), "words": st.none() | st.just("2024-05"), "flag": st.booleans(),
        "count": st.integers(1, 60), "number": numbers, "blank": st.none() | numbers,
        "hours": st.just(()) | st.lists(st.sampled_from([0.0, 0.0, 1.0, 1.0, 0.5, 0.25]), min_size=24, max_size=24).filter(any).map(tuple),
        "pairs": st.lists(st.tuples(numbers, numbers), min_size=1).map(tuple),
    }  # fmt: skip
    if field.kind == "choice":
        choices = tuple(field.choices(DEMO, PICTURE.case, Units()))
        if not choices:
            return
        value = data.draw(st.sampled_from([v for v, _ in choices]))
    else:
        choices, value = (), data.draw(values[field.kind])
    feet = data.draw(st.booleans())
    back = typed(field, shown(field, value, choices, feet), choices, feet)
    if isinstance(value, float):
        assert back == pytest.approx(value, rel=1e-5)
    elif field.kind == "pairs":
        assert [x for pair in back for x in pair] == pytest.approx([x for pair in value for x in pair], rel=1e-5)
    else:
        assert back == value


def test_every_sheet_shows_every_thing_of_its_kind():
    assert keys(model_of("conductors")) == [r.id for r in DEMO.runs]
    assert set(keys(model_of("devices"))) | set(keys(model_of("batteries"))) | set(keys(model_of("bars"))) == {
        x.id for x in DEMO.items
    }
    assert keys(model_of("studs")) == [
        x.ref(t) for x in DEMO.items if x.kind in ("bar", "chassis") for t in x.terminal_names
    ]


def test_sorting_goes_by_size_and_leaves_what_is_empty_behind():
    model = model_of("conductors")
    model.sort(place(model, "W1", "Size")[1])
    sizes = [DEMO.run_by_id[k].conductor for k in keys(model)]
    areas = [PICTURE.case.parts.conductors[s].area_mm2 for s in sizes]
    assert areas == sorted(areas)
    model = model_of("devices")
    model.sort(place(model, "F1", "Rating")[1], Qt.SortOrder.DescendingOrder)
    ratings = [DEMO.by_id[k].rating_a for k in keys(model)]
    assert ratings == sorted(ratings, reverse=True)
    model.sort(place(model, "F1", "Family")[1], Qt.SortOrder.DescendingOrder)
    assert [hasattr(DEMO.by_id[k], "family") for k in keys(model)[-3:]] == [False] * 3


def test_what_is_typed_does_not_move_its_row():
    model = model_of("conductors")
    model.sort(place(model, "W1", "Length")[1])
    before = keys(model)
    changed = edits.change(DEMO, before[0], length_m=40.0)
    model.show_sheet(SHEETS["conductors"], picture_of(changed), None, Units())
    assert keys(model) == before
    assert text(model, before[0], "Length") == "40"


def test_only_rows_with_all_words_are_shown():
    model = model_of("conductors")
    model.filter("pump 4")
    assert keys(model)
    assert all("pump" in DEMO.run_title(DEMO.run_by_id[k]).lower() for k in keys(model))
    model.filter("nothing like it")
    assert keys(model) == []


def test_a_block_comes_back_as_one_edit():
    model = model_of("conductors")
    (r, c), wide = place(model, "W60", "Length"), 2
    lines = "0.5\t6 mm²\n1,25 m\t10 mm2"
    edit = model.pasted((r, c), [(r, c)], lines)
    after = edit.apply(DEMO)
    first, second = (after.run_by_id[k] for k in keys(model)[r : r + 2])
    assert ((first.length_m, first.conductor), (second.length_m, second.conductor)) == (
        (0.5, "mm2-6"),
        (1.25, "mm2-10"),
    )
    assert edit.label == "4 cells of Conductors"
    whole = [(k, n) for k in range(r, r + 2) for n in range(c, c + wide)]
    model.show_sheet(SHEETS["conductors"], picture_of(after), None, Units())
    assert model.pasted((r, c), [(r, c)], model.block(whole)) is None


def test_one_value_goes_into_all_that_are_chosen():
    model = model_of("equipment")
    chosen = [place(model, key, "Distance") for key in ("PUMP", "FAN", "LAMP")]
    after = model.pasted(chosen[0], chosen, "3.5").apply(DEMO)
    assert [after.by_id[k].distance_m for k in ("PUMP", "FAN", "LAMP")] == [3.5] * 3


@pytest.mark.parametrize(
    ("lines", "why"),
    [
        ("0.5\tthick", "Size of W60"),
        ("1\t2\t3\t" * 20, "do not fit"),
        ("", "no text"),
        ("soon", "Length one way, m of W60"),
    ],
)
def test_a_block_that_does_not_fit_changes_nothing_and_says_where(lines, why):
    model = model_of("conductors")
    at = place(model, "W60", "Length")
    with pytest.raises(NotUnderstood, match=why):
        model.pasted(at, [at], lines)


def test_a_name_with_quotes_and_tabs_comes_back_as_it_was():
    odd = edits.change(DEMO, "PUMP", name='the "deep"\tpump')
    model = model_of("equipment", picture_of(odd))
    cells = [place(model, key, "Name") for key in ("PUMP", "FAN")]
    block = model.block(cells)
    assert model.pasted(min(cells), cells[:1], block) is None
    model = model_of("equipment")
    after = model.pasted(min(cells), cells[:1], block).apply(DEMO)
    assert after.by_id["PUMP"].name == 'the "deep"\tpump'


@pytest.mark.parametrize(
    ("text", "why"), [("x" * 2_000_000, "more than"), ("y" * 200_000, "no table"), ("\n\n", "no text")]
)
def test_what_is_no_table_is_refused_in_words(text, why):
    model = model_of("equipment")
    at = place(model, "PUMP", "Name")
    with pytest.raises(NotUnderstood, match=why):
        model.pasted(at, [at], text)


def test_a_name_typed_over_is_followed_everywhere():
    model = model_of("devices")
    after = model.edit_of([(*place(model, "F6", "Id"), "F60")]).apply(DEMO)
    assert "F60" in after.by_id
    assert {r.id for r in after.runs_at["F60.a"]} == {r.id for r in DEMO.runs_at["F6.a"]}
    with pytest.raises(EditError, match="taken"):
        model.edit_of([(*place(model, "F6", "Id"), "F7")]).apply(DEMO)


def test_feet_are_typed_where_feet_are_shown():
    model = model_of("conductors", awg=True)
    after = model.edit_of([(*place(model, "W60", "Length"), "10")]).apply(DEMO)
    assert after.run_by_id["W60"].length_m == pytest.approx(3.048)


def test_a_limit_is_replaced_with_its_reason_and_given_back():
    sheet = SHEETS["overrides"]
    adding = next(a for a in sheet.adding(DEMO, PICTURE.case) if a.text.startswith("drop critical"))
    assert adding.asks
    with pytest.raises(EditError, match="reason"):
        adding.make("").apply(DEMO)
    plan = adding.make("agreed with the owner").apply(DEMO)
    model = model_of("overrides", picture_of(plan))
    key = keys(model)[0]
    plan = model.edit_of([(*place(model, key, "Value"), "5")]).apply(plan)
    assert plan.overrides == (Override(limit=key, value=5.0, reason="agreed with the owner"),)
    assert picture_of(plan).case.code.limit(key) == 5.0
    assert sheet.drop(plan, key).apply(plan).overrides == ()


@pytest.mark.parametrize("name", [n for n in SHEETS if n.startswith("own_")])
def test_a_part_of_ones_own_begins_like_one_of_the_library(name):
    sheet = SHEETS[name]
    adding = next(iter(sheet.adding(DEMO, PICTURE.case)))
    plan = adding.make("shop-one").apply(DEMO)
    model = model_of(name, picture_of(plan))
    assert keys(model) == ["shop-one"]
    plan = model.edit_of([(*place(model, "shop-one", "Source"), "data sheet 7")]).apply(plan)
    assert sheet.rows(plan)[0].thing.source == "data sheet 7"
    assert sheet.drop(plan, "shop-one").apply(plan) == DEMO


def test_an_own_part_that_is_in_use_stays():
    plan = next(iter(SHEETS["own_sizes"].adding(DEMO, PICTURE.case))).make("odd").apply(DEMO)
    plan = edits.change(plan, "W60", conductor="odd")
    with pytest.raises(EditError, match="no conductor odd"):
        SHEETS["own_sizes"].drop(plan, "odd").apply(plan)


def test_each_zone_has_its_warmth_in_each_scenario():
    model = model_of("scenarios")
    zone = DEMO.zones[0]
    after = model.edit_of([(*place(model, "work", f"Ambient of {zone.title}"), "41 °C")]).apply(DEMO)
    assert next(s for s in after.scenarios if s.id == "work").ambient_c == {zone.id: 41.0}


ELSEWHERE = {
    "Plan.name": "name of the plan", "Plan.note": "note on the plan", "Plan.practice": "code of the plan",
    "Plan.floating": "floating on purpose", "Plan.devices_by": "school of choosing devices", "Plan.autonomy_days": "days wanted", "Plan.sun": "days ahead, and their sun",
    "Plan.reels_m": "lengths that can be bought", "Plan.prices": "type a price", "Plan.packs": "type a price", "Plan.ready_m": "lengths sold ready-made", "Plan.stud_material": "material of the studs",
    "Plan.torques": "type a torque", "Plan.readings": "type a reading", "Plan.log": "write into the logbook",
    "Plan.done": "tick a step", "Plan.done_on": "tick a step", "Scenario.states": "state in a scenario",
    "Battery.at_mm": "a unit", "Board.spots": "a part on the board", "Spot.of": "a part on the board", "Spot.at_mm": "a part on the board",
    "Spot.turned": "Board: R", **{f"Reading.{n}": "type a reading" for n in ("scenario", "quantity", "a", "b", "value")},
    **{f"Entry.{n}": "write into the logbook" for n in ("on", "kind", "about", "text", "value", "hours", "picture")},
    "Entry.readings": "readings into the log", "Bar.studs": "Add a stud here", "Chassis.points": "one more stud, or point of the chassis",
    "BarStud.id": "Add a stud here", "ChassisPoint.id": "one more stud, or point of the chassis",
}  # fmt: skip
"""Fields that neither the inspector nor a table types: the gesture that sets each, which hands have made."""
GIVEN = {"format", "version", "id", "kind", "limit"}
"""What the program gives a thing when it is added, by what is added."""
HELD = {"overrides", "zones", "items", "equipment", "runs", "scenarios", "parts", "stock", "routes", "boards"}


def models(kind, seen):
    """All models that a plan can hold, from its annotations."""
    if isinstance(kind, type) and issubclass(kind, BaseModel):
        if kind in seen:
            return seen
        seen.add(kind)
        for field in kind.model_fields.values():
            models(field.annotation, seen)
    for part in typing.get_args(kind):
        models(part, seen)
    return seen


def test_everything_that_a_plan_can_hold_has_an_editor():
    known = models(Plan, set())
    assert Battery in known
    shown_in = {kind: sheet for sheet in SHEETS.values() for kind in sheet.kinds}
    gestures = TABLE.read_text("utf-8")
    lacking = []
    for kind in known:
        typed_in = {f.name for f in FIELDS.get(kind, LISTED.get(kind, ()))}
        if kind in shown_in:
            # Columns that there are for what the plan holds, such as the warmth of each zone.
            typed_in |= {f.name.partition(".")[0] for f in shown_in[kind].more(DEMO)}
        if typed_in and kind not in shown_in:
            lacking.append(f"{kind.__name__} is on no sheet")
        for name in kind.model_fields:
            gesture = ELSEWHERE.get(f"{kind.__name__}.{name}")
            if gesture is not None:
                if gesture not in gestures:
                    lacking.append(f"{kind.__name__}.{name}: no hand has made {gesture}")
            elif name not in typed_in | GIVEN and not (
                kind.__name__ in ("Plan", "OwnParts") and (name in HELD or kind is not Plan)
            ):
                lacking.append(f"{kind.__name__}.{name}")
    assert lacking == []


@pytest.mark.chance
@pytest.mark.parametrize("awg", [False, True])
def test_any_plan_pasted_onto_itself_is_the_same(awg):
    """Every cell of every sheet shows something that is understood as what it was."""
    for seed in range(SEEDS):
        picture = picture_of(network(seed))
        for name in SHEETS:
            model = model_of(name, picture, awg)
            cells = [(r, c) for r in range(model.rowCount()) for c in range(model.columnCount())]
            if not cells:
                continue
            edit = model.pasted((0, 0), cells[:1], model.block(cells))
            assert edit is None or edit.apply(picture.plan) == picture.plan, (seed, name)
            for c in range(model.columnCount()):
                model.sort(c)
                assert len(model.rows) == len(set(keys(model))) == model.rowCount()
