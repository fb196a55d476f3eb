"""Whole plans from lists of equipment drawn by chance, in every code: without a finding, or with a plain reason."""

import json
import random

import pytest

from jaunty_copper.assessment.assessment import Assessment
from jaunty_copper.battery.feeding import charged_by
from jaunty_copper.choosing.brief import Brief, adapted
from jaunty_copper.choosing.draft import DECISIONS, decides, drafts
from jaunty_copper.cli.main import main
from jaunty_copper.codes.code import code_names
from jaunty_copper.network.study import study
from jaunty_copper.parts.catalogue import library
from jaunty_copper.plan import edits
from jaunty_copper.plan.examples import example
from jaunty_copper.plan.files import dumps, parse, save
from jaunty_copper.plan.lines import add_line
from jaunty_copper.plan.model import Converter, Inverter, Load, Plan, Scenario, Source, Zone
from tests.trials import WHOLE

LINES = (
    "Lamp {w} W {m} m {h} h", "Pump {w2} W {m} m {h} h", "Radio {a} A {m} m 24 h critical", "Fan {w} W {m} m {h} h", "Fridge {w} W {m} m 10 h min 10.5 V",
)  # fmt: skip


def needs_by_chance(seed):
    """A list of 3 to 12 loads of 12 V, perhaps an inverter, a charger, the sun."""
    r = random.Random(seed)
    plan = Plan(name=f"List {seed}")
    for _ in range(r.randint(3, 40 if WHOLE else 12)):
        line = r.choice(LINES).format(
            w=r.choice((5, 10, 20, 60)), w2=r.choice((40, 90, 150)), a=r.choice((0.5, 1, 3)), m=r.choice((1, 2.5, 4, 8)), h=r.choice((1, 3, 6)),
        )  # fmt: skip
        plan = add_line(plan, line, 12.0)[0]
    for line in ("Kitchen inverter {p} W 1.5 m 1 h", "Mains charger {c} A 2 m 2 h", "Roof solar {s} W 4 m 4 h"):
        if r.random() < 0.6:
            plan = add_line(plan, line.format(p=r.choice((300, 800, 1500)), c=r.choice((10, 20, 30)), s=r.choice((120, 300, 600))), 12.0)[0]  # fmt: skip
    return plan


@pytest.mark.chance("lists of 3 to 40 loads drafted into a plan without a finding, the others with a reason")
@pytest.mark.parametrize("seed", range(50) if WHOLE else range(2))
def test_lists_by_chance_become_plans_without_a_finding(seed):
    plan = needs_by_chance(seed)
    code = code_names()[seed % len(code_names())]
    bonding = "plus" if code == "telecom_dc_48v" else "minus"
    found = list(drafts(plan, Brief(code, "lifepo4" if not WHOLE else None, 1.0, bonding)))
    assert found
    clean = small = 0
    for d in found:
        if d.plan is None:
            assert d.why_not
            continue
        # Judged anew, from its file.
        told = [f for f in Assessment(parse(dumps(d.plan))).findings if f.rule.id not in DECISIONS]
        assert bool(told) == bool(d.why_not)
        clean += not told
        small += {f.rule.id for f in told} == {"charge_rate"}
        assert d.plan.practice == code
        assert {e.name for e in plan.equipment} <= {e.name for e in d.plan.equipment}
        assert d.needs.autonomy_days >= 1.0
        assert decides(d, found)
    # Sources of a list that are too small for what it asks are no matter of wiring: then that is all there is to say.
    assert clean or small


def test_the_demo_s_list_gives_several_plans_to_choose_from():
    demo = example("orchard_station")
    asked = []
    found = list(drafts(demo, Brief(demo.practice, None, demo.autonomy_days), progress=asked.append))
    assert len(asked) == len(found)
    whole = [d for d in found if d.plan is not None]
    # What is worst by some figure is not in the middle by every one.
    assert not [d.title for d in whole if all(x in decides(d, found) for x in ("In the middle", "Against it"))]
    clean = [d for d in whole if not d.findings]
    assert len(clean) >= 3
    assert {d.begun.system_v for d in clean} == {24.0, 48.0}
    # 12 V would be some 385 A for good.
    assert all("higher voltage" in d.why_not for d in found if d.begun.system_v == 12.0)
    # Two of the largest units side by side drive more than any fuse interrupts.
    (stiff,) = [d for d in found if d.begun.system_v == 24.0 and d.begun.unit_v == 24.0]
    assert "can interrupt" in stiff.why_not
    cheapest = min(whole, key=lambda d: d.price)
    assert "the cheapest" in decides(cheapest, found)
    assert [s.id for s in clean[0].plan.scenarios] == [s.id for s in demo.scenarios]
    (two,) = [d for d in clean if d.second is not None]
    assert "run on if the converter fails" in decides(two, found)
    # With the converter off, solved: what hangs on the second bank gets its power all the same, and nothing of the first.
    (converter,) = [e for e in two.plan.equipment if isinstance(e, Converter)]
    loads = [e for e in two.plan.equipment if isinstance(e, Load) and e.nominal_v == 12.0]
    assert loads
    dead = {e.id: "off" for e in two.plan.equipment if isinstance(e, Source | Converter)}
    (state,) = study(
        two.plan.model_copy(update={"scenarios": (Scenario(id="dead", soc_percent=60.0, states=dead),)})
    ).states
    assert state.solved
    first, second = state.wiring.banks
    assert (first.nominal_v, second.nominal_v) == (24.0, 12.0)
    assert charged_by(state.wiring, converter) == second
    for e in loads:
        assert state.volts(e.port[0]) - state.volts(e.port[1]) > 11.0
    watts = sum((state.volts(e.port[0]) - state.volts(e.port[1])) * state.port(e)[1] for e in loads)
    given = sum(
        state.point.current_a[state.wiring.branch[u.id]] * (state.volts(u.ref("plus")) - state.volts(u.ref("minus")))
        for u in second.units
    )
    assert abs(given) == pytest.approx(abs(watts), rel=0.1)


def test_a_bank_in_a_hot_place_is_drafted_all_the_same_and_says_so():
    (hot, *_) = [d for d in drafts(needs_by_chance(2), Brief("iec_60364", "lifepo4", air_c=62.0)) if d.plan is not None]
    assert {f.rule.id for f in hot.findings} == {"hot_bank"}
    assert "62 °C" in hot.why_not


def test_equipment_of_the_cores_own_names_is_drafted_too():
    # As if somebody had called a lamp F1, a charger Q1, and their room as the core's.
    plan = needs_by_chance(8)
    ids = [e.id for e in plan.equipment]
    for old, new in zip(ids, ("F1", "Q1", "P1"), strict=False):
        plan = edits.rename(plan, old, new)
    source = next((e for e in plan.equipment if isinstance(e, Source)), None)
    assert source is not None
    plan = edits.change_plan(
        plan, zones=(Zone(id="site", name="Attic", ambient_c=48.0),),
        scenarios=(Scenario(id="s", states={"F1": 0.5}, ambient_c={"site": 55.0}),),
    )  # fmt: skip
    plan = edits.change_each(plan, {"F1": {"zone": "site", "runs_with": source.id}})
    lamp = plan.by_id["F1"]
    first = next(d for d in drafts(plan, Brief("iec_60364", "lifepo4")) if d.plan is not None)
    (found,) = [e for e in first.plan.equipment if e.name == lamp.name]
    assert found.id != "F1"
    assert first.plan.zone_of(found.zone).ambient_c == 48.0
    assert first.plan.by_id[found.runs_with].name == source.name
    assert first.plan.scenarios[0].states[found.id] == 0.5
    assert first.plan.scenarios[0].ambient_c[found.zone] == 55.0
    assert len({e.id for e in first.plan.equipment}) == len(first.plan.equipment) >= len(plan.equipment)


def test_it_can_be_stopped():
    demo = example("seed_shed")
    assert list(drafts(demo, Brief(demo.practice), overtaken=lambda: True)) == []


@pytest.mark.parametrize("volts", [12.0, 24.0, 48.0])
def test_equipment_is_taken_as_it_would_be_bought(volts):
    demo = example("orchard_station")
    kind = library().battery_chemistries["lifepo4"]
    found = adapted(demo, volts, kind)
    by_id = {e.id: e for e in found}
    for e in demo.equipment:
        new = by_id.get(e.id)
        if isinstance(e, Converter):
            assert new is None
        elif isinstance(e, Inverter):
            assert (new.nominal_v, new.power_w) == (volts, e.power_w)
            assert new.cut_out_v == pytest.approx(e.cut_out_v * volts / e.nominal_v, abs=0.01)
        elif isinstance(e, Source):
            assert new.nominal_v == volts
            assert new.current_a * volts == pytest.approx(e.current_a * e.nominal_v, rel=0.01)
            assert new.set_v == pytest.approx(volts / 12.0 * 4 * kind.full_v)
        else:
            assert new.nominal_v == e.nominal_v
    # A converter for each other voltage, for what its loads take together and the largest start among them.
    wanted = {e.nominal_v for e in found if isinstance(e, Load)} - {volts}
    converters = [e for e in found if isinstance(e, Converter)]
    assert {c.out_nominal_v for c in converters} == wanted
    for c in converters:
        loads = [e for e in found if isinstance(e, Load) and e.nominal_v == c.out_nominal_v]
        running = sum(getattr(e, "current_a", None) or e.power_w / e.nominal_v for e in loads)
        assert c.current_a >= running


def test_the_command(tmp_path, capsys):
    path, out = tmp_path / "list.copper.json", tmp_path / "drawn.copper.json"
    needs = needs_by_chance(8)
    save(needs.model_copy(update={"equipment": needs.equipment[:3]}), path)
    assert main(["draft", str(path), "--chemistry", "lifepo4", "--json", "--take", "2", "-o", str(out)]) == 0
    found = json.loads(capsys.readouterr().out)
    assert [d["system_v"] for d in found if "second" not in d] == [12.0, 24.0, 24.0, 48.0, 48.0]
    assert {(d["system_v"], d["second"]["system_v"]) for d in found if "second" in d} == {(24.0, 12.0), (48.0, 12.0)}
    assert found[1]["findings"] == []
    assert main(["check", str(out)]) == 0
    capsys.readouterr()
    for wrong in (["--practice", "none"], ["--chemistry", "none"], ["--take", "9", "-o", str(out)]):
        assert main(["draft", str(path), "--chemistry", "lifepo4", *wrong]) == 2
