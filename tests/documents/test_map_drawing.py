"""The map as SVG: well formed, every conductor and thing on it, words escaped."""

import xml.etree.ElementTree as ET

import pytest

from jaunty_copper.assessment.assessment import Assessment
from jaunty_copper.cli.main import MAP_LENSES, main
from jaunty_copper.documents.drawing import Circle, Drawing, Rect, as_svg
from jaunty_copper.documents.map.drawing import map_svg
from jaunty_copper.documents.map.lens import LENSES
from jaunty_copper.documents.map.picture import Picture
from jaunty_copper.plan import edits
from jaunty_copper.plan.examples import example, names
from jaunty_copper.plan.files import save
from tests.build import fused

SVG = "{http://www.w3.org/2000/svg}"


@pytest.mark.parametrize("name", names())
def test_every_conductor_outside_the_bank_is_drawn_as_wide_as_its_section(name):
    known = Assessment(example(name))
    state = known.study.states[0]
    root = ET.fromstring(map_svg(known, state.scenario.id))
    drawn = {p.get("data-run"): float(p.get("stroke-width")) for p in root.iter(f"{SVG}path") if p.get("data-run")}
    inside = {r for bank in state.wiring.banks for r in bank.inside}
    plan = state.wiring.plan
    assert {r.id for r in plan.runs} - inside <= set(drawn)
    sizes = sorted(drawn, key=lambda r: state.wiring.parts.conductors[plan.run_by_id[r].conductor].area_mm2)
    assert drawn[sizes[0]] <= drawn[sizes[-1]]
    text = " ".join(t.text or "" for t in root.iter(f"{SVG}text"))
    assert all(e.title in text for e in plan.equipment)


def test_names_are_escaped_and_currents_told():
    plan = edits.change(fused(), "E", name='Lamps <& "more">')
    known = Assessment(plan)
    state = known.study.states[0]
    root = ET.fromstring(map_svg(known, state.scenario.id))
    words = [t.text for t in root.iter(f"{SVG}text")]
    assert 'Lamps <& "more">' in words
    assert any(w and f"{abs(state.port(plan.by_id['E'])[1]):.3g} A" in w for w in words)


def test_the_command_writes_it(tmp_path):
    path, picture = tmp_path / "p.copper.json", tmp_path / "map.svg"
    save(fused(), path)
    assert main(["export", str(path), "--to", "map", "-o", str(picture)]) == 0
    assert ET.parse(picture).getroot().tag == f"{SVG}svg"
    save(edits.change(fused(), "E", power_w=1e6), path)
    assert main(["export", str(path), "--to", "map"]) == 1


def test_the_map_tells_what_its_lens_asks(tmp_path):
    assert tuple(lens.id for lens in LENSES if lens.id != "read") == MAP_LENSES
    path, picture = tmp_path / "p.copper.json", tmp_path / "map.svg"
    save(fused(), path)
    known = Assessment(fused())
    for lens in MAP_LENSES:
        assert main(["export", str(path), "--to", "map", "--lens", lens, "-o", str(picture)]) == 0
        words = " ".join(t.text or "" for t in ET.parse(picture).getroot().iter(f"{SVG}text"))
        e = known.plan.by_id["E"]
        assert " ".join(by_id(lens).equipment(Picture(known.plan, known.diagram, known), e, "s").split()) in " ".join(
            words.split()
        )
        for run in known.plan.runs:
            assert run.id in words or not any(r.run == run.id and r.x1 - r.x0 > 92.0 for r in known.diagram.ribbons)


def by_id(name):
    return next(lens for lens in LENSES if lens.id == name)


def test_what_is_seen_through_is_laid_down_so():
    marks = (Rect(0.0, 0.0, 1.0, 1.0, "#11223380"), Circle(0.0, 0.0, 1.0, "#112233"))
    drawn = as_svg(Drawing("x", 0.0, 0.0, 1.0, 1.0, list(marks)))
    assert 'fill="#112233" fill-opacity="0.502"' in drawn
    assert drawn.count("opacity") == 1
