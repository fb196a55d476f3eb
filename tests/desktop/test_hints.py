"""What is said at a field while something is typed agrees with what the rules say once it is taken over."""

import pytest

from jaunty_copper.assessment.assessment import Assessment
from jaunty_copper.desktop.inspector.hints import HINTS, hint
from jaunty_copper.desktop.shell.document import Document
from jaunty_copper.desktop.shell.window import Window
from jaunty_copper.desktop.work.making import picture_of
from jaunty_copper.plan import edits
from jaunty_copper.plan.examples import example
from jaunty_copper.plan.model import Breaker, Fuse, PowerLoad, Run
from jaunty_copper.plan.topology import chain

DEMO = example("orchard_station")
PICTURE = picture_of(DEMO)
RATINGS = PICTURE.case.parts.device_ratings_a


def found(plan, place, *rules):
    return [f.headline for f in Assessment(plan).findings if f.place == place and f.rule.id in rules]


@pytest.mark.parametrize("device", ["F3", "F5", "F6", "F11", "F13"])
def test_a_rating_beyond_what_is_said_is_found_fault_with(device):
    family = PICTURE.case.parts.device_families[DEMO.by_id[device].family]
    for rating in PICTURE.case.parts.ratings(family):
        said = hint(PICTURE, device, "rating_a", rating, None)
        wrong = found(
            edits.change(DEMO, device, rating_a=rating),
            device,
            "device_too_large",
            "device_too_small",
            "closest_rating",
        )
        assert bool(wrong) == said.beyond, (rating, said, wrong)


@pytest.mark.parametrize("device", ["F2", "F6", "F12"])
def test_a_family_that_interrupts_less_is_found_fault_with(device):
    rating = DEMO.by_id[device].rating_a
    for family in PICTURE.case.parts.device_families.values():
        if family.kind != "fuse" or not family.min_a <= rating <= family.max_a:
            continue
        said = hint(PICTURE, device, "family", family.id, None)
        wrong = found(edits.change(DEMO, device, family=family.id), device, "interrupt_rating")
        assert bool(wrong) == said.beyond, (family.id, said, wrong)


@pytest.mark.parametrize("run", ["W21", "W62", "W40"])
def test_the_ampacity_that_is_said_of_a_size_is_what_it_has(run):
    for size in ("mm2-2.5", "mm2-16", "mm2-70", "awg-2"):
        said = hint(PICTURE, run, "conductor", size, "work")
        amp = Assessment(edits.change(DEMO, run, conductor=size)).case.ampacities[run].amps
        shown = float(said.text.split()[2])
        assert shown == pytest.approx(amp, rel=0.01)


def test_what_a_load_draws_is_held_against_its_conductors():
    e = next(x for x in DEMO.equipment if isinstance(x, PowerLoad))
    own = [r.id for ref in e.port for r in chain(DEMO, ref)]
    bears = min(PICTURE.case.ampacities[id_].amps for id_ in own)
    assert not hint(PICTURE, e.id, "power_w", 0.9 * bears * e.nominal_v, None).beyond
    much = hint(PICTURE, e.id, "power_w", 1.1 * bears * e.nominal_v, None)
    assert much.beyond
    assert f"{1.1 * bears:.3g} A at {e.nominal_v:g} V" in much.text


def test_nothing_is_said_where_nothing_is_known():
    assert hint(PICTURE, "F6", "rating_a", None, None) is None
    assert hint(PICTURE, "gone", "rating_a", 5.0, None) is None
    assert hint(PICTURE, "W21", "bundle", 3, None) is None
    assert {Run, Fuse, Breaker} <= {kind for kind, _ in HINTS}


def test_nothing_is_said_of_a_field_in_which_nobody_is(qtbot):
    window = Window(Document(DEMO))
    qtbot.addWidget(window)
    window.show()
    qtbot.waitUntil(lambda: window.picture is not None, timeout=60000)
    for id_ in ("F1", "W21", "F2"):
        window.map.select(id_)
        assert any(id_ in str(e.value) for e in window.inspector.entries[:3])
        assert window.inspector._bubble is None or not window.inspector._bubble.isVisible()
    window.document.path = None
