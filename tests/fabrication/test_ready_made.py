"""Ready-made cables against making them: beside every choice tried, and where one begins to cost as much as the other."""

from itertools import product
from math import inf, isfinite

import pytest

from jaunty_copper.documents.dossier import Dossier
from jaunty_copper.documents.listings import READY_MADE, choice_words
from jaunty_copper.documents.tables import table
from jaunty_copper.fabrication.materials import Workshop, workshop_of
from jaunty_copper.fabrication.prices import lug_price, rates
from jaunty_copper.fabrication.ready_made import CRIMPERS, ReadyMade
from jaunty_copper.network.wiring import wire
from jaunty_copper.plan import edits
from jaunty_copper.plan.examples import example, names
from tests.networks import network

PLANS = [*(example(name) for name in names()), *(network(seed) for seed in range(8))]
HAND, LEVER = (c.key for c in CRIMPERS)


def spent(shop, ready):
    """What is paid for cables, lugs, sleeves and ready-made cables, with those of some sizes ready-made; and the tools that the others ask for."""
    made = [c for c in shop.cuts if not (c.conductor in ready and c.a.thread and c.b.thread)]
    bought = [c for c in shop.cuts if c not in made]
    rest = Workshop(shop.wiring, tuple(made))
    cable = sum(line.total for line in rest.lines if line.key.startswith(("cable:", "lug:", "sleeve:")))
    area = {name: c.area_mm2 for name, c in shop.wiring.parts.conductors.items()}
    wanted = {
        next(t.key for t in CRIMPERS if area[c.conductor] <= t.most_mm2) for c in made if c.a.thread or c.b.thread
    }
    ends = sum(rates("ready-ends", area[c.conductor])[0] for c in bought)
    return cable + ends + sum(rates("ready-metre", area[c.conductor])[0] * c.length_m for c in bought), wanted


@pytest.mark.parametrize("plan", PLANS, ids=lambda p: p.name)
def test_no_other_choice_of_sizes_costs_less(plan):
    shop = workshop_of(wire(plan))
    sizes = {o.conductor for o in ReadyMade(shop).offers}
    # Many lengths of one size are packed by rule of thumb, where fewer may come out dearer.
    exact = all(not isinstance(p, str) and p.proven for p in shop.packings.values())
    if len(sizes) > 6 or not exact:
        pytest.skip("too many choices to try, or a packing without a proof")
    ways = [
        frozenset(s for s, ready in zip(sizes, way, strict=True) if ready) for way in product((0, 1), repeat=len(sizes))
    ]
    # No tool's price changes what all else comes to.
    others = {way: spent(shop, way) for way in ways}
    for price in (0.0, 12.0, 60.0, 400.0):
        priced = workshop_of(wire(edits.put_price(plan, LEVER, price, None)))

        def cost(way, prices=priced.plan.prices):
            rest, wanted = others[way]
            return rest + sum(prices.get(key, rates(key, 0.0)[0]) for key in wanted)

        choices = ReadyMade(priced).choices
        best = cost(frozenset(sizes - {s for t in choices for s in t.made}))
        assert best == pytest.approx(min(map(cost, ways)), abs=0.02)
        saved = sum(t.saves - (0.0 if t.needed else t.price) for t in choices if t.is_bought and t.made)
        assert cost(frozenset(sizes)) - best == pytest.approx(saved, abs=0.02)


def test_at_the_ends_of_where_making_pays_both_cost_the_same():
    seen = 0
    for plan in PLANS:
        for tool, offer in ReadyMade(workshop_of(wire(plan))).rows:
            for each in (0.0, tool.price / 3.0):
                for m in (x for x in offer.made_m(each) if 0.0 < x < inf):
                    ready = offer.ends + offer.metre * m
                    own = each + offer.own_ends + offer.own_metre * m
                    assert ready == pytest.approx(own)
                    low, high = offer.made_m(each)
                    inside = 0.5 * (low + high) if isfinite(high) else 2.0 * low + 1.0
                    assert offer.ends + offer.metre * inside > each + offer.own_ends + offer.own_metre * inside
                    seen += 1
    assert seen > 10


def test_a_tool_that_is_there_already_is_used_and_a_dear_one_is_not():
    plan = edits.change_plan(example("orchard_station"), ready_m=())
    plan = edits.remove_all(plan, [r.id for r in plan.runs if not r.conductor.startswith("mm2-70")])
    at_hand = Dossier(edits.put_price(plan, LEVER, 0.0, None)).ready_made
    dear = Dossier(edits.put_price(plan, LEVER, 5000.0, None)).ready_made
    (one,) = [t for t in at_hand.choices if t.crimper.key == LEVER]
    (other,) = [t for t in dear.choices if t.crimper.key == LEVER]
    assert one.needed == other.needed == 0
    assert one.made == {"mm2-70"}
    assert other.made == frozenset()
    assert "would save" in choice_words(other)
    assert other.pays_from * other.saves / sum(o.cables for o in other.offers) == pytest.approx(5000.0)
    (row,) = table(Dossier(edits.put_price(plan, LEVER, 5000.0, None)), READY_MADE.name).rows
    cells = dict(zip((c.name for c in table(Dossier(plan), READY_MADE.name).columns), row, strict=True))
    assert cells["making_pays_from_m"] is cells["making_pays_to_m"] is None, "so dear a tool pays at no length"
    assert cells["advice"] == "ready-made"


def test_cables_come_in_the_lengths_in_which_they_are_sold():
    plan = example("orchard_station")
    to_length, in_steps = (
        {o.conductor: o for o in ReadyMade(workshop_of(wire(edits.change_plan(plan, ready_m=m)))).offers}
        for m in ((), (0.5, 1.0, 2.0, 5.0, 10.0))
    )
    assert set(to_length) == set(in_steps)
    assert all(in_steps[s].ready >= to_length[s].ready for s in to_length)
    assert any(in_steps[s].ready > to_length[s].ready for s in to_length)
    assert all(in_steps[s].own == pytest.approx(to_length[s].own) for s in to_length)
    short = ReadyMade(workshop_of(wire(edits.change_plan(plan, ready_m=(0.01,)))))
    assert short.offers == ()
    assert all(t.needed for t in short.choices)


def test_a_pack_is_bought_whole_and_its_price_is_of_all_in_it():
    plan = example("orchard_station")
    shop = workshop_of(wire(plan))
    line = next(x for x in shop.lines if x.key.startswith("lug:") and x.quantity % 10)
    (conductor, thread) = line.key.split(":")[1:3]
    packed = edits.put_price(plan, line.key, 12.5, 10)
    after = next(x for x in workshop_of(wire(packed)).lines if x.key == line.key)
    assert (after.bought, after.price, after.quantity) == (-(-line.quantity // 10), 12.5, line.quantity)
    assert after.total == after.bought * 12.5
    assert lug_price(packed, shop.wiring.parts, conductor, thread) == pytest.approx(1.25)
    only = next(x for x in workshop_of(wire(edits.put_price(plan, line.key, None, 10))).lines if x.key == line.key)
    assert only.price == pytest.approx(10.0 * line.price)
    assert not only.own_price
