"""Orders of alteration, replayed by hands that know nothing of how they were found."""

import random
from itertools import combinations

import pytest

from jaunty_copper.documents.alteration import AlterationSheet
from jaunty_copper.documents.dossier import Dossier
from jaunty_copper.fabrication.altering.differing import INSERTS, differing
from jaunty_copper.fabrication.altering.steps import alteration
from jaunty_copper.fabrication.altering.stock import needs
from jaunty_copper.fabrication.materials import workshop_of
from jaunty_copper.network.wiring import wire
from jaunty_copper.plan.examples import example
from jaunty_copper.plan.model import (
    Bar,
    BarStud,
    Battery,
    Breaker,
    Chassis,
    Converter,
    CurrentLoad,
    Disconnect,
    Equipment,
    Fuse,
    Inline,
    PlugConnector,
    Run,
    Source,
    split_ref,
)
from tests.networks import network
from tests.trials import trials


def flood(edges, starts):
    """All that hangs together with some places."""
    near = {}
    for a, b in edges:
        near.setdefault(a, []).append(b)
        near.setdefault(b, []).append(a)
    seen, waiting = set(starts), list(starts)
    for here in waiting:
        for other in near.get(here, ()):
            if other not in seen:
                seen.add(other)
                waiting.append(other)
    return seen


def bodies(things, opened=()):
    for x in things:
        if isinstance(x, Bar | Chassis) or (isinstance(x, Inline) and x.id not in opened):
            names = x.terminal_names
            yield from ((x.ref(names[0]), x.ref(t)) for t in names[1:])
        if isinstance(x, Converter) and not x.isolated:
            yield x.ref("in_minus"), x.ref("out_minus")


def closed_edges(plan):
    return [*bodies(plan.placed), *((r.a, r.b) for r in plan.runs)]


def hot_of(plan):
    """Terminals at which a source holds a pole that no chassis holds."""
    frame = flood(
        closed_edges(plan), [x.ref(t) for x in plan.items if isinstance(x, Chassis) for t in x.terminal_names]
    )
    units = [x for x in plan.items if isinstance(x, Battery)]
    outputs = [e.output for e in plan.equipment if isinstance(e, Source | Converter)]
    poles = [(x.ref("plus"), x.ref("minus")) for x in units] + outputs
    holds = [(x.ref("plus"), x.ref("minus")) for x in units]
    holds += [e.output for e in plan.equipment if isinstance(e, Converter)]
    bonded = any(ref in frame for pair in holds for ref in pair)
    hot_places = {ref for pair in holds for ref in (pair if bonded or plan.floating else pair[:1]) if ref not in frame}
    reach = flood(closed_edges(plan), hot_places)
    return {ref for pair in poles for ref in pair if ref in reach}


class Replay:
    """A person who does what the steps say, and an onlooker who finds what could hurt."""

    def __init__(self, now, then, hot):
        self.then, self.hot = then, hot
        self.things = {x.id: x for x in now.placed}
        self.runs = {r.id: r for r in now.runs}
        self.on = {r.id: {"a", "b"} for r in now.runs}
        self.capped, self.off, self.filled = set(), set(), set()
        self.opened = {x.id for x in now.items if getattr(x, "closed", True) is False}
        # Units of one bank stand at one voltage, others at another: by that they may not be joined before it is levelled.
        self.charge = {u.id: k for k, bank in enumerate(wire(now).banks) for u in bank.units}
        self.odd = self.contradictions()

    def place(self, run, side):
        return getattr(self.runs[run], side) if side in self.on[run] else (run, side)

    def edges(self):
        return [
            *bodies(self.things.values(), self.opened),
            *((self.place(r, "a"), self.place(r, "b")) for r in self.runs),
        ]

    def live(self):
        starts = []
        for ref in self.hot:
            owner = split_ref(ref)[0]
            x = self.things.get(owner)
            if x is not None and not (owner in self.off and not isinstance(x, Battery)):
                starts.append(ref)
        return flood(self.edges(), starts)

    def fed(self):
        """Equipment that a battery, or a source that is on, reaches by both its poles."""
        units = [x.ref(t) for x in self.things.values() if isinstance(x, Battery) for t in x.terminal_names]
        some = [e for e in self.things.values() if isinstance(e, Source | Converter) and e.id not in self.off]
        reach, edges = flood(self.edges(), units), self.edges()
        fed = {e.id for e in self.things.values() if isinstance(e, Equipment) and all(ref in reach for ref in e.port)}
        for source in some:
            near = flood(edges, source.output)
            fed |= {
                e.id for e in self.things.values()
                if isinstance(e, Equipment) and e.id != source.id and all(ref in near for ref in e.port)
            }  # fmt: skip
        return fed

    def contradictions(self):
        """Whether batteries are joined whose voltages do not go together."""
        near = {}
        for a, b in self.edges():
            near.setdefault(a, []).append((b, 0.0))
            near.setdefault(b, []).append((a, 0.0))
        for x in self.things.values():
            if isinstance(x, Battery):
                volts = x.nominal_v * (1.0 + 0.1 * self.charge[x.id])
                near.setdefault(x.ref("minus"), []).append((x.ref("plus"), volts))
                near.setdefault(x.ref("plus"), []).append((x.ref("minus"), -volts))
        at, wrong = {}, 0
        for start in near:
            if start in at:
                continue
            at[start] = 0.0
            waiting = [start]
            for here in waiting:
                for other, step in near[here]:
                    if other not in at:
                        at[other] = at[here] + step
                        waiting.append(other)
                    elif abs(at[other] - at[here] - step) > 0.5:
                        wrong += 1
        return wrong

    def do(self, step):
        levelled = max(self.charge.values(), default=0) + 1
        for verb, id_, side in step.acts:
            before, was_fed, was_live = self.edges(), self.fed(), self.live()
            if verb == "off":
                self.off.add(id_)
            elif verb == "on":
                self.off.remove(id_)
            elif verb == "fill":
                self.filled.add(id_)
            elif verb == "level":
                self.charge[id_] = levelled
            elif verb == "open":
                assert id_ in self.things
                self.opened.add(id_)
            elif verb == "close":
                self.opened.remove(id_)
            elif verb == "lift":
                capped = ("cap", id_, side) in step.acts
                assert not capped or getattr(self.runs[id_], side) in was_live, "its live end comes off first"
                self.on[id_].remove(side)
            elif verb == "cap":
                self.capped.add((id_, side))
            elif verb == "land":
                owner, terminal = split_ref(getattr(self.runs[id_], side))
                assert terminal in self.things[owner].terminal_names, "a lug lands on what is there"
                self.capped.discard((id_, side))
                self.on[id_].add(side)
            elif verb == "remove" and id_ in self.runs:
                assert not self.on[id_], "a conductor is drawn out with both its ends off"
                del self.runs[id_], self.on[id_]
                self.capped -= {(id_, "a"), (id_, "b")}
            elif verb == "remove":
                there = {split_ref(getattr(r, s))[0] for r in self.runs.values() for s in self.on[r.id]}
                assert id_ not in there, "a thing goes once nothing is on it"
                del self.things[id_]
                self.opened.discard(id_)
                self.off.discard(id_)
            elif verb == "fit" and id_ in self.then.run_by_id:
                self.runs[id_] = self.then.run_by_id[id_]
                self.on.setdefault(id_, set())
            else:
                assert verb == "fit"
                assert id_ not in self.things, "in a place that is free"
                self.things[id_] = self.then.by_id[id_]
                x = self.things[id_]
                held = self.off if isinstance(x, Equipment) else self.opened if isinstance(x, Inline) else set()
                held.add(id_)
                if isinstance(x, Battery):
                    self.charge[id_] = max(self.charge.values(), default=0) + 1
            if self.edges() != before and verb != "off":
                awake = {e for e in was_fed ^ self.fed() if e in self.things and e not in self.off}
                assert not awake, f"{step.text}: {awake} makes or breaks while it is on"
                assert self.contradictions() <= self.odd, f"{step.text}: batteries of different voltages are joined"
                for e in self.things.values():
                    if isinstance(e, Equipment) and e.input_uf and set(e.port) & (self.live() - was_live):
                        assert e.id in self.filled, f"{step.text}: onto empty capacitors"
        live = self.live()
        bare = {(r, s) for r in self.runs for s in "ab" if s not in self.on[r] and (r, s) in live} - self.capped
        assert not bare, f"{step.text}: {bare} is live and bare"


def replayed(now, then):
    """The steps from one plan to another, each of them done and looked at."""
    found = alteration(wire(now), wire(then))
    names = {found.work.old_id[x.id]: x.id for x in (*found.work.now.placed, *found.work.now.runs)}
    hot = {f"{names[owner]}.{end}" for owner, end in map(split_ref, hot_of(now))} | hot_of(then)
    world = Replay(found.work.now, then, hot)
    safe = [s for s in found.steps if s.part == "safe"]
    for step in found.steps:
        world.do(step)
        if step is safe[-1]:
            dead(found, world)
    assert set(world.things) == {x.id for x in then.placed}
    assert {r.id: {r.a, r.b} for r in world.runs.values()} == {r.id: {r.a, r.b} for r in then.runs}
    assert all(world.on[r.id] == {"a", "b"} for r in then.runs), "every end is on its terminal again"
    assert not world.off
    assert not world.capped
    assert world.opened <= {x.id for x in (*then.items, *found.work.now.items) if getattr(x, "closed", True) is False}
    return found


def dead(found, world):
    """Made safe: nothing of the work is live but what no switch, plug or lead parts from a post."""
    live, posts = world.live(), {ref for ref in world.hot if isinstance(world.things.get(split_ref(ref)[0]), Battery)}
    units = {x.id for x in world.things.values() if isinstance(x, Battery)}
    runs = [r for r in world.runs.values() if not {split_ref(r.a)[0], split_ref(r.b)[0]} & units]
    inside = [r for r in world.runs.values() if {split_ref(r.a)[0], split_ref(r.b)[0]} <= units]
    fixed = [x for x in world.things.values() if not opens(x, found.work.after.parts)]
    beyond_help = flood([*bodies(fixed, world.opened), *((r.a, r.b) for r in (*runs, *inside))], posts)
    assert found.work.touched & live <= beyond_help | set(found.isolation.at_posts)
    assert set(found.isolation.at_posts) <= beyond_help | flood(
        [*bodies(fixed), *((r.a, r.b) for r in world.runs.values())], posts
    )


def opens(x, parts):
    if isinstance(x, Fuse):
        return x.holder_a is not None or parts.device_families[x.family].terminals in INSERTS
    return isinstance(x, Breaker | Disconnect | PlugConnector)


def put(plan, **lists):
    return plan.model_copy(update={k: tuple(v) for k, v in lists.items()})


def changed(plan, seed):
    """A plan altered by chance: sizes, devices, units, loads taken away and added, studs changed."""
    r = random.Random(seed)
    for _ in range(r.randint(1, 3)):
        what = r.choice(("size", "device", "unit", "gone", "new", "filled"))
        if what == "size":
            k = r.randrange(len(plan.runs))
            plan = put(
                plan,
                runs=[x.model_copy(update={"conductor": "mm2-95"}) if i == k else x for i, x in enumerate(plan.runs)],
            )
        elif what in ("device", "unit"):
            of = Fuse | Breaker if what == "device" else Battery
            some = [x for x in plan.items if isinstance(x, of)]
            if not some:
                continue
            one = r.choice(some)
            update = {"capacity_ah": 77.0} if what == "unit" else {"rating_a": r.choice((25.0, 125.0))}
            plan = put(plan, items=[x.model_copy(update=update) if x is one else x for x in plan.items])
        elif what == "gone":
            loads = [e for e in plan.equipment if isinstance(e, CurrentLoad)]
            if loads:
                gone = r.choice(loads)
                plan = put(
                    plan, equipment=[e for e in plan.equipment if e is not gone],
                    runs=[x for x in plan.runs if gone.id not in (split_ref(x.a)[0], split_ref(x.b)[0])],
                )  # fmt: skip
        elif what == "new":
            bars = [x for x in plan.items if isinstance(x, Bar)]
            plus, minus = r.choice(bars), r.choice(bars)
            id_ = f"N{len(plan.equipment)}x{len(plan.items)}"
            studs = {plus.id, minus.id}
            bigger = [
                x.model_copy(update={"studs": (*x.studs, BarStud(id=f"n{id_}"))}) if x.id in studs and r.random() < 0.5 else x
                for x in plan.items
            ]  # fmt: skip
            plan = put(
                plan, items=[*bigger, Fuse(id=f"F{id_}", family="blade-fuse", rating_a=10.0)],
                equipment=[*plan.equipment, CurrentLoad(id=id_, current_a=2.0, input_uf=800.0)],
                runs=[
                    *plan.runs,
                    Run(id=f"W{id_}1", a=plus.ref(plus.studs[0].id), b=f"F{id_}.a", length_m=0.2),
                    Run(id=f"W{id_}2", a=f"F{id_}.b", b=f"{id_}.plus", length_m=2.0),
                    Run(id=f"W{id_}3", a=f"{id_}.minus", b=minus.ref(minus.studs[-1].id), length_m=2.0),
                ],
            )  # fmt: skip
        else:
            plan = put(plan, equipment=[e.model_copy(update={"input_uf": 2000.0}) for e in plan.equipment])
    return plan


@pytest.mark.chance("alterations, replayed, in which nothing is worked on live and nothing makes or breaks a current")
@pytest.mark.parametrize("seed", range(trials(250)))
def test_altered_by_chance_nothing_is_live_and_bare_and_nothing_makes_or_breaks(seed):
    plan = network(seed)
    replayed(plan, changed(plan, seed))


@pytest.mark.chance("networks altered into quite another one in the same safety")
@pytest.mark.parametrize("seed", range(trials(60)))
def test_one_network_becomes_quite_another(seed):
    found = replayed(network(seed), network(seed + 1000))
    assert found.steps
    ids = [step.id for step in found.steps]
    assert len(set(ids)) == len(ids), "a tick is about one step"
    again = alteration(wire(network(seed)), wire(network(seed + 1000)))
    assert [step.id for step in again.steps] == ids, "and stays with it"


def test_no_fewer_switches_would_isolate_the_work():
    tried = 0
    for seed in range(0, 90, 2):
        now = network(seed)
        found = alteration(wire(now), wire(changed(now, seed)))
        cut = set(found.isolation.opened) - found.work.inserts
        if found.isolation.at_posts or found.isolation.lifted or not 0 < len(cut) <= 3:
            continue
        plan, parts = found.work.now, found.work.after.parts
        posts = [ref for ref in found.hot if isinstance(plan.by_id.get(split_ref(ref)[0]), Battery)]
        names = [x.id for x in plan.items if opens(x, parts)]

        def reached(opened, plan=plan, posts=posts):
            return flood([*bodies(plan.placed, opened), *((r.a, r.b) for r in plan.runs)], posts)

        assert not reached(cut) & found.work.touched, "all of the work is dead"
        goal = found.work.touched & reached(())
        if goal:
            tried += 1
            assert all(goal & reached(fewer) for fewer in combinations(names, len(cut) - 1))
    assert tried > 5


DEMO = example("orchard_station")


def with_item(plan, id_, **update):
    return put(plan, items=[x.model_copy(update=update) if x.id == id_ else x for x in plan.items])


def with_run(plan, id_, **update):
    return put(plan, runs=[x.model_copy(update=update) if x.id == id_ else x for x in plan.runs])


def said(found, part):
    return [s.text for s in found.steps if s.part == part]


def test_a_fuse_in_its_holder_is_changed_with_its_own_circuit_off_and_everything_else_on():
    found = replayed(DEMO, with_item(DEMO, "F14", rating_a=7.5))
    assert found.isolation.opened == ("F14",)
    assert found.isolation.off == ("LOG",)
    assert not found.isolation.lifted
    assert [s.acts for s in found.steps if s.part in ("out", "fit")] == []


def test_a_main_fuse_at_the_post_asks_for_both_leads_off_the_bonded_pole_first():
    found = replayed(DEMO, with_item(DEMO, "F1", rating_a=300.0))
    assert found.isolation.lifted == (("W4", "a"), ("W1", "a"))
    assert len(found.isolation.off) == len(DEMO.equipment)
    assert {ref.partition(".")[0] for ref in found.stays_live} == {"B1", "B2", "B3", "B4"}
    assert said(found, "back")[-1].startswith("Set Sun controller")


def test_a_device_swapped_at_a_live_stud_is_told():
    """A fuse bolted to the post itself: nothing parts it from the unit."""
    bolted = with_run(DEMO, "W1", length_m=0.0)
    found = replayed(bolted, with_item(bolted, "F1", rating_a=300.0))
    assert "F1.a" not in found.isolation.at_posts, "it comes off the post with its bolt"
    unit = replayed(DEMO, with_item(DEMO, "B1", capacity_ah=200.0))
    assert unit.isolation.at_posts == ("B1.plus",)
    cautioned = [s for s in unit.steps if "cannot be made dead" in s.caution]
    assert len(cautioned) == 1
    assert "B1 plus" in cautioned[0].text or "Unit 1 plus" in cautioned[0].text


def test_a_unit_of_another_history_is_levelled_before_it_is_joined():
    found = replayed(DEMO, with_item(DEMO, "B1", capacity_ah=200.0))
    texts = said(found, "back")
    level = next(k for k, t in enumerate(texts) if "to one voltage" in t)
    assert level < next(k for k, t in enumerate(texts) if "L1p" in t)
    assert not any("to one voltage" in t for t in said(replayed(DEMO, with_item(DEMO, "F1", rating_a=300.0)), "back"))


def test_what_only_has_another_name_asks_for_no_work():
    again = with_item(DEMO, "F1", name="Fuse at the bank")
    again = put(again, runs=[r.model_copy(update={"id": f"X{r.id}"}) for r in again.runs])
    found = alteration(wire(DEMO), wire(again))
    assert found.steps == ()
    assert found.work.nothing


def test_a_switch_that_is_drawn_open_is_kept_open_and_a_contactor_isolates_nothing():
    """Whoever closes it meanwhile would put the bank onto hands that work behind it."""
    drawn = with_item(DEMO, "Q1", closed=False)
    found = replayed(drawn, with_run(drawn, "W3", conductor="mm2-95"))
    assert found.isolation.opened == ("Q1",)
    assert any("Make sure that Main switch is open" in text for text in said(found, "safe"))
    behind = with_item(DEMO, "C6", closed=False)
    found = replayed(behind, with_run(behind, "W62", conductor="mm2-6"))
    assert found.isolation.opened == ("F6",), "not the contactor, though it is drawn open"


def test_a_set_point_alone_is_set_and_nothing_is_opened():
    after = put(DEMO, equipment=[e.model_copy(update={"set_v": 27.6}) if e.id == "GEN" else e for e in DEMO.equipment])
    found = replayed(DEMO, after)
    assert found.isolation.opened == ()
    assert found.isolation.lifted == ()
    assert "Set Generator charger: voltage that it holds, V 28 → 27.6" in said(found, "fit")


def test_cables_taken_out_serve_again_and_the_rest_is_bought():
    """By hand: W140 gets 20 mm shorter and serves again as it is; a run of the same cable 1 m longer must be bought."""
    after = with_run(with_run(DEMO, "W140", length_m=0.07), "W1", conductor="mm2-95")
    work = differing(wire(DEMO), wire(after))
    found = needs(work, workshop_of(wire(DEMO)), workshop_of(wire(after)))
    (again,) = found.again
    assert (again.new.run, again.old.run, again.new_lugs) == ("W140", "W140", 0)
    assert again.spare_m == pytest.approx(again.old.length_m - again.new.length_m)
    (bought,) = [line for line in found.bought if line.key.startswith("cable:")]
    assert "95" in bought.what
    assert [line.quantity for line in found.bought if line.key.startswith("lug:")] == [2]
    assert [c.run for c in found.spare] == ["W1"]


def test_the_sheet_says_it_all_and_reads_before_and_after():
    sheet = AlterationSheet(Dossier(DEMO), Dossier(with_item(DEMO, "F1", rating_a=300.0)))
    tables = {t.name: t for t in sheet.tables()}
    assert len(tables["work"].rows) == len(sheet.found.steps)
    assert ("strip fuse SF51 300 A", "1", "", "35") in tables["buy"].rows
    (before, after) = next((a, b) for p, a, b in sheet.readings if (p.a, p.b) == ("F1.a", "F1.b"))
    assert before > after > 0.0
    assert sheet.stays_live.startswith("Unit ")
