"""A first plan: its core without a finding, and circuits for all that is written down."""

import itertools
import random

import pytest

from jaunty_copper.assessment.assessment import Assessment
from jaunty_copper.battery.building import shape_of
from jaunty_copper.choosing.beginning import SYSTEMS_V, Beginning, begun
from jaunty_copper.choosing.changes import QUESTIONS
from jaunty_copper.choosing.sizing import sized
from jaunty_copper.choosing.wiring_up import loose, wire_up
from jaunty_copper.codes.code import code_names
from jaunty_copper.parts.catalogue import library
from jaunty_copper.plan.banks import banks_of
from jaunty_copper.plan.edits import EditError
from jaunty_copper.plan.files import dumps, parse
from jaunty_copper.plan.lines import add_line
from jaunty_copper.plan.model import Breaker, Chassis, Fuse, Plan, Source
from jaunty_copper.plan.topology import topology
from tests.trials import WHOLE

ASKED = [
    Beginning(system, chemistry, unit, 100.0, parallel, code, bonding)
    for system, unit, chemistry, parallel, code, bonding in itertools.product(
        SYSTEMS_V, (12.0, 24.0), library().battery_chemistries, (1, 2, 4), code_names(), ("not said", "minus", "plus", "floating")
    )
    if unit <= system
]  # fmt: skip


def beyond_all(known, finding):
    """Whether a short circuit is more than any device of the library that the code takes can interrupt."""
    if finding.rule.id != "interrupt_rating":
        return False
    volts = known.case.operating_v(known.plan.by_id[finding.place])
    return max(f.interrupt_a(volts) or 0.0 for f in known.case.families) < finding.figure


@pytest.mark.chance("cores begun by chance without a finding")
@pytest.mark.parametrize("asked", random.Random(5).sample(ASKED, 200 if WHOLE else 16), ids=str)
def test_the_core_has_no_finding(asked):
    plan = begun(asked)
    # What the bank really drives into a short is asked of its data sheet, and of nothing else.
    known = Assessment(plan)
    assert [f.headline for f in known.findings if f.rule.id not in QUESTIONS and not beyond_all(known, f)] == []
    (bank,) = banks_of(topology(plan))
    assert shape_of(bank) == (asked.series, asked.parallel)
    assert bank.nominal_v == pytest.approx(asked.system_v)
    assert parse(dumps(plan), "here") == plan
    frames = [x for x in plan.items if isinstance(x, Chassis)]
    assert len(frames) == (asked.bonding in ("minus", "plus"))
    assert plan.floating == (asked.bonding == "floating")
    if frames:
        joined = topology(plan)
        assert joined.rail_of(frames[0].ref("p1")) == joined.rail_of(bank.takeoffs[asked.bonding][0])
    hot = "minus" if asked.bonding == "plus" else "plus"
    (main,) = [x for x in plan.items if isinstance(x, Fuse | Breaker) and x.id == "F1"]
    assert topology(plan).rail_of(main.ref("a")) == topology(plan).rail_of(bank.takeoffs[hot][0])


def test_units_that_do_not_make_up_the_voltage_are_refused():
    with pytest.raises(EditError, match="no number of 24 V units"):
        begun(Beginning(system_v=12.0, unit_v=24.0))


def test_circuits_for_all_that_is_loose_each_sized_and_protected():
    plan = begun(Beginning(24.0, "agm", 12.0, 110.0, 2, "iec_60364", "minus"))
    for line in (
        "Inverter 1 kW 1.2 m", "charger 40 A 2 m", "2 x Lamp 20 W 5 m", "Pump 90 W 6 m critical", "converter 24 to 12 V 20 A 1 m",
        "Radio 12 V 3 A 4 m", "Fridge 12 V 60 W 3 m", "Odd one 48 V 10 W",
    ):  # fmt: skip
        plan, _ = add_line(plan, line, 24.0)
    found = wire_up(plan)
    assert [plan.by_id[id_].name for id_ in found.left] == ["Odd one"]
    assert "no bar for 48 V" in found.left[next(iter(found.left))]
    assert len(found.done) == 8
    assert [e.name for e in loose(found.plan)] == ["Odd one"]
    own = {r.id for r in found.plan.runs} - {r.id for r in plan.runs} | set(found.done)
    own |= {x.id for x in found.plan.items} - {x.id for x in plan.items}
    wrong = [f for f in Assessment(found.plan).findings if f.place in own and f.rule.id != "selectivity"]
    assert [f.headline for f in wrong] == []
    # As long as was said, on both ways, the short piece to a device or a source's switch within it.
    for e in (found.plan.by_id[id_] for id_ in found.done):
        for ref in e.port:
            (run,) = found.plan.runs_at[ref]
            assert run.length_m in [
                pytest.approx(e.distance_m - 0.1 * k) for k in range(3 if isinstance(e, Source) else 2)
            ]
    # The radio is on the converter's own bars.
    radio = next(e for e in found.plan.equipment if e.name == "Radio")
    joined, converter = topology(found.plan), next(e for e in found.plan.equipment if e.kind == "converter")
    assert joined.rail_of(radio.ref("plus")) == joined.rail_of(converter.ref("out_plus"))


def test_it_stops_when_asked():
    plan, _ = add_line(begun(Beginning()), "4 x Lamp 10 W", 12.0)
    asked = []
    found = wire_up(plan, lambda: not asked.append(1))
    assert asked
    assert parse(dumps(found.plan), "here") == found.plan
    assert wire_up(Plan()).done == ()


def test_many_sized_together_are_as_each_alone():
    """One assessment judges them all: what comes of it is in order, and not thicker than one by one."""
    plan, ids = add_line(begun(Beginning(24.0, "agm", 12.0, 110.0, 2, "iec_60364", "minus")), "3 x Lamp 20 W 9 m", 24.0)
    plan, more = add_line(plan, "2 x Pump 300 W 14 m", 24.0)
    laid = wire_up(plan, lambda: True).plan
    alone = laid
    for id_ in (*ids, *more):
        alone = sized(alone, id_)
    together = sized(laid, *ids, *more)
    assert [r.conductor for r in together.runs] == [r.conductor for r in alone.runs]
    devices = [[(x.id, x.family, x.rating_a) for x in p.items if isinstance(x, Fuse)] for p in (together, alone)]
    assert devices[0] == devices[1]
