"""What is typed and left without Return: it is taken over where it was typed, whatever comes next."""

import json

import pytest

from .person import of
from .test_dialogs_and_pages import cell, type_into

LEAVES = {
    "next finding": ("f8",), "previous finding": ("shift+f8",), "other units": ("ctrl+u",), "next scenario": ("ctrl+tab",),
    "another page": ("alt+2", "alt+3"), "keyboard to the map": ("f6",), "keyboard to the findings": ("f7",), "a short there": ("ctrl+k",),
}  # fmt: skip
"""By which keys a field is left."""


def on_disk(p):
    return json.loads(p.file.read_text())


def test_a_value_lands_where_it_was_typed(person):
    p = person
    p.open_copy()
    watts = 500
    for how, keys in LEAVES.items():
        p.key("alt+3", "f6")
        p.select("PUMP")
        watts += 1
        p.fill("Power, W", str(watts), end=None)
        before = p.ask("plan")["text"]
        p.key(*keys)
        p.until(lambda b=before: p.ask("plan")["text"] != b, "a plan with what was typed")
        p.calm()
        found = p.saved()
        assert of(found, "PUMP")["power_w"] == watts
        assert sum(str(watts) in str(thing) for part in ("items", "equipment", "runs") for thing in found[part]) == 1
        p.record(area="typed and left", gesture=how, by="keyboard")


@pytest.mark.parametrize("how", ["mouse", "keyboard"])
def test_saving_and_leaving_keep_what_is_typed(person, how):
    p = person
    p.open_copy()
    p.select("W21")
    p.fill("Length one way, m", "2.25", end=None)
    p.menu("File", "Save", by=how, record=False)
    p.until(lambda: of(on_disk(p), "W21")["length_m"] == 2.25, "the length in the file")
    p.fill("Length one way, m", "2.5", end=None)
    p.key("ctrl+w")
    p.click("Save", "Button")
    p.until(lambda: not p.program.runs, "the end")
    assert of(on_disk(p), "W21")["length_m"] == 2.5
    for gesture in ("saved", "closed"):
        p.record(area="typed and left", gesture=gesture, by=how)


def test_undo_takes_back_what_was_typed_and_left(person):
    p = person
    p.open_copy()
    before = p.saved()
    p.select("PUMP")
    p.fill("Power, W", "777", end=None)
    p.menu("Edit", "Undo*", record=False)
    p.calm()
    assert p.saved() == before
    assert p.value("Power, W", "EditableText") == f"{of(before, 'PUMP')['power_w']:g}"
    p.record(area="typed and left", gesture="undone", by="mouse")


def test_what_cannot_be_taken_over_is_told_and_lands_nowhere(person):
    p = person
    p.open_copy()
    before = p.saved()
    p.select("PUMP")
    p.fill("Power, W", "twelve", end=None)
    p.key("f8")
    p.sees("“twelve” is no number")
    p.calm()
    assert p.saved() == before
    p.record(area="typed and left", gesture="nonsense", by="keyboard")


def test_a_cell_of_a_table_is_taken_over_too(person):
    p = person
    p.open_copy()
    p.key("alt+1")
    name = of(p.saved(), "PUMP")["name"]
    type_into(p, cell(p, name, 1, "Equipment by scenarios"), "640", "ctrl+s")
    p.until(lambda: of(on_disk(p), "PUMP")["power_w"] == 640, "the figure in the file")
    p.calm()
    type_into(p, cell(p, name, 1, "Equipment by scenarios"), "650", "alt+2")
    p.key("alt+3")
    assert of(p.saved(), "PUMP")["power_w"] == 650
    p.record(area="typed and left", gesture="a cell", by="keyboard")
    p.key("alt+1")
    type_into(p, cell(p, name, 1, "Equipment by scenarios"), "plenty")
    p.sees("“plenty” is no number")
