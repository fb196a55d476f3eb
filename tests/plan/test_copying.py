"""Circuits cut out, pasted, doubled and led to other bars."""

import pytest

from jaunty_copper.assessment.assessment import Assessment
from jaunty_copper.plan import edits
from jaunty_copper.plan.blank import blank
from jaunty_copper.plan.edits import EditError
from jaunty_copper.plan.examples import example, names
from jaunty_copper.plan.files import dumps, parse
from jaunty_copper.plan.model import Contactor, Converter, Inline, Plan, PowerLoad
from jaunty_copper.plan.topology import topology
from tests.build import fused

PLANS = {"blank": blank(), **{name: example(name) for name in names()}}
CIRCUITS = [
    (name, e.id) for name, plan in PLANS.items() for e in plan.equipment if len(edits.circuit_of(plan, e.id)[2]) == 2
]


def kinds(plan, id_):
    """What a circuit is made of, without names: sizes, lengths and kinds of device."""
    runs, items, hubs = edits.circuit_of(plan, id_)
    return (
        sorted((r.conductor, r.length_m, r.parallel) for r in runs),
        sorted((x.kind, getattr(x, "rating_a", None)) for x in items),
        sorted(start.partition(".")[2] for start in hubs),
    )


@pytest.mark.parametrize(("name", "id_"), CIRCUITS)
def test_a_circuit_cut_out_and_pasted_beside_itself_is_the_same_again(name, id_):
    plan = PLANS[name]
    piece = parse(dumps(edits.cut_out(plan, (id_,))), "the clipboard")
    twice, (new,) = edits.paste(plan, piece)
    assert kinds(twice, new) == kinds(plan, id_)
    assert kinds(twice, id_) == kinds(plan, id_)
    joined = topology(twice)
    for old, fresh in zip(plan.by_id[id_].port, twice.by_id[new].port, strict=True):
        assert joined.rail_of(old) == joined.rail_of(fresh)
    # What was there stays as it was; nothing shares a stud with it.
    assert {r.id: r for r in plan.runs}.items() <= {r.id: r for r in twice.runs}.items()
    if not isinstance(plan.by_id[id_], Converter):
        cut = {f.place for f in Assessment(twice).findings if f.rule.id in ("cut_off", "dangling")}
        assert new not in cut
    assert parse(dumps(twice), "here") == twice


def test_what_others_hang_on_too_is_not_copied():
    plan = PLANS["relay_mast"]
    runs, items, hubs = edits.circuit_of(plan, "LAMP")
    assert len(hubs) < 2
    pasted, (new,) = edits.paste(plan, edits.cut_out(plan, ("LAMP",)))
    assert len(pasted.items) - len(plan.items) == len(items)
    assert len(pasted.runs) - len(plan.runs) < len(runs)
    assert new != "LAMP"


def test_several_at_once_and_away_again():
    demo = example("orchard_station")
    piece = edits.cut_out(demo, ("PUMP", "FAN"))
    assert {e.id for e in piece.equipment} == {"PUMP", "FAN"}
    less = edits.cut_away(demo, ("PUMP", "FAN"))
    assert {e.id for e in demo.equipment} - {e.id for e in less.equipment} == {"PUMP", "FAN"}
    back, ids = edits.paste(less, piece)
    assert ids == ("PUMP", "FAN")
    for id_ in ids:
        assert kinds(back, id_) == kinds(demo, id_)


def test_into_another_plan_at_the_bar_that_is_chosen():
    piece = edits.cut_out(example("seed_shed"), ("FAN",))
    for hub in ("P12", "M24"):
        pasted, (new,) = edits.paste(example("orchard_station"), piece, hub)
        joined = topology(pasted)
        plus, minus = (joined.rail_of(ref) for ref in pasted.by_id[new].port)
        home = joined.rail_of(pasted.by_id[hub].ref(pasted.by_id[hub].terminal_names[0]))
        assert home in (plus, minus)
        assert plus != minus
        assert pasted.by_id[new].zone in (None, *(z.id for z in pasted.zones))


def test_with_nowhere_to_go_it_stays_loose():
    piece = edits.cut_out(example("seed_shed"), ("FAN",))
    pasted, (new,) = edits.paste(Plan(), piece)
    assert all(isinstance(x, Inline) for x in pasted.items)
    assert not any(split.startswith("P1.") for r in pasted.runs for split in (r.a, r.b))
    assert pasted.by_id[new]


def test_a_circuit_is_led_to_another_bar_with_both_poles():
    demo = example("orchard_station")
    led = edits.lead_circuit(demo, "LAMP", "P24")
    _, _, hubs = edits.circuit_of(led, "LAMP")
    assert hubs["LAMP.plus"].startswith("P24.")
    assert kinds(led, "LAMP") == kinds(demo, "LAMP")
    with pytest.raises(EditError, match="no bar"):
        edits.lead_circuit(demo, "LAMP", "F1")
    with pytest.raises(EditError, match="no equipment"):
        edits.cut_out(demo, ("P24",))
    with pytest.raises(EditError, match="nothing of it"):
        edits.cut_out(demo, ())
    with pytest.raises(EditError, match="no circuit"):
        edits.paste(demo, Plan())


def coil_and_contactor():
    """A pump behind a contactor, and the coil that drives it."""
    plan = edits.insert_inline(fused(), "W5", Contactor(id="K", rating_a=20.0), 1.0)
    plan = edits.add(plan, PowerLoad(id="COIL", power_w=6.0, drives="K"))
    for a, b in (("P", "COIL.plus"), ("COIL.minus", "M")):
        plan, _ = edits.connect(plan, a, b)
    return plan


def test_a_coil_copied_alone_drives_nothing_and_with_its_contactor_the_copy():
    plan = coil_and_contactor()
    alone = edits.cut_out(plan, ("COIL",))
    assert alone.by_id["COIL"].drives is None
    after, (new,) = edits.paste(plan, alone)
    assert after.by_id[new].drives is None
    assert after.by_id["COIL"].drives == "K"
    both = edits.cut_out(plan, ("E", "COIL"))
    after, ids = edits.paste(plan, both)
    (coil,) = [after.by_id[id_] for id_ in ids if getattr(after.by_id[id_], "drives", None)]
    assert coil.drives not in (None, "K")
    assert isinstance(after.by_id[coil.drives], Contactor)
