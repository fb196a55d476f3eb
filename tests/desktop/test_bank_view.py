"""What the Bank page draws, and the bank's block on the map."""

from itertools import pairwise
from math import hypot

import pytest
from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QImage, QPainter

from jaunty_copper.battery.arrangements import bad_joint, options
from jaunty_copper.battery.patterns import arrange
from jaunty_copper.battery.sharing import bank_of, sharing
from jaunty_copper.desktop.pages.bank.cards import Cards, PatternCard
from jaunty_copper.desktop.pages.bank.scene import Moment
from jaunty_copper.desktop.pages.bank.view import BankView
from jaunty_copper.desktop.work.making import picture_of
from jaunty_copper.documents.palette import DARK, LIGHT
from jaunty_copper.plan import edits
from jaunty_copper.plan.examples import example
from tests.battery.test_sharing import row
from tests.desktop.conftest import settled

LEFT = Qt.MouseButton.LeftButton


def view_of(plan, scenario=0, size=(880, 340)):
    picture = picture_of(plan)
    state = picture.study.states[scenario]
    unit = picture.study.wiring.banks[0].id
    bank = bank_of(state.wiring, unit)
    view = BankView()
    view.resize(*size)
    view.show_bank(plan, bank, state, sharing(bank, state))
    return view


def painted(view):
    image = QImage(view.size(), QImage.Format.Format_RGB32)
    painter = QPainter(image)
    view.render(painter, QPointF(0, 0).toPoint())
    painter.end()
    return image


@pytest.fixture
def demo(qapp):
    return view_of(example("orchard_station"))


def test_units_stand_side_by_side_inside_the_view_and_apart(demo):
    cases = [demo.case(u) for u in demo.bank.units]
    room = QRectF(demo.rect())
    for a, b in pairwise(cases):
        assert a.right() < b.left()
        assert a.top() == pytest.approx(b.top())
    assert all(room.contains(c) for c in cases)


@pytest.mark.parametrize("size", [(500, 220), (880, 340), (1600, 700)])
def test_everything_fits_whatever_the_views_size(qapp, size):
    for plan in (
        example("orchard_station"),
        arrange(example("orchard_station"), "B1", "bars"),
        row(16),
        row(4, series=4),
    ):
        view = view_of(plan, size=size)
        room = QRectF(view.rect())
        assert all(room.contains(view.case(u)) for u in view.bank.units)
        for id_ in view.bank.inside:
            run = plan.run_by_id[id_]
            for ref in (run.a, run.b):
                assert room.contains(view.post(ref)), (id_, ref)
        assert not painted(view).isNull()


def test_a_strap_is_as_much_longer_than_the_straight_way_as_its_run(demo):
    plan = edits.change(example("orchard_station"), "L1p", length_m=0.30)
    view = view_of(plan)
    path = view.strap(plan.run_by_id["L1p"])
    a, b = view.post("B1.plus"), view.post("B2.plus")
    straight = hypot(b.x() - a.x(), b.y() - a.y())
    assert path.length() / straight == pytest.approx(0.30 / 0.23, rel=0.06)
    short = view_of(edits.change(plan, "L1p", length_m=0.1))
    assert short.strap(short.plan.run_by_id["L1p"]).length() == pytest.approx(straight, rel=1e-3)


def test_plus_links_arch_to_the_back_and_minus_links_to_the_front(demo):
    plus = demo.strap(demo.plan.run_by_id["L1p"]).pointAtPercent(0.5)
    minus = demo.strap(demo.plan.run_by_id["L1m"]).pointAtPercent(0.5)
    assert plus.y() < demo.post("B1.plus").y()
    assert minus.y() > demo.post("B1.minus").y()


def test_a_bad_joint_is_seen_in_the_colour_of_stop(qapp):
    def reds(plan):
        image = painted(view_of(plan))
        over = QColor(LIGHT.over)
        return sum(
            image.pixelColor(x, y) == over for x in range(0, image.width(), 2) for y in range(0, image.height(), 2)
        )

    plan = example("orchard_station")
    assert reds(bad_joint(plan, "L2p")) > reds(plan) + 20


def test_a_unit_beyond_its_limit_is_hatched_and_a_moment_shows_charge(qapp):
    plan = edits.change(example("orchard_station"), "B1", max_discharge_a=5.0)
    view = view_of(plan)
    assert view.sharing.by_unit["B1"].used > 1.0
    before = painted(view)
    view.show_moment(Moment(2.0, {f"B{k}": 10.0 for k in range(1, 5)}, {f"B{k}": 40.0 for k in range(1, 5)}))
    assert painted(view) != before
    view.show_moment(None)
    assert painted(view) == before


def test_bars_have_a_place_for_every_stud_and_their_take_offs(qapp):
    plan = arrange(example("orchard_station"), "B1", "bars")
    view = view_of(plan)
    for bar in ("BP1", "BM1"):
        places = [view.post(plan.by_id[bar].ref(t)) for t in plan.by_id[bar].terminal_names]
        assert None not in places
        assert [p.x() for p in places] == sorted(p.x() for p in places)
    assert view.post("BP1.s1").x() < view.post("BM1.s1").x()
    assert view.post("F1.b") is None


def test_dark_and_light_differ(demo):
    light = painted(demo)
    demo.palette_ = DARK
    assert painted(demo) != light


def test_an_empty_view_says_so(qapp):
    view = BankView()
    view.resize(400, 200)
    assert not painted(view).isNull()
    assert view.hit(QPointF(10, 10)) is None
    assert view.tip("B1") == ""


# Cards


def test_cards_tell_their_spread_and_only_patterns_can_be_chosen(qtbot):
    plan = example("orchard_station")
    found = tuple(options(plan, "B1", plan.scenarios[0]))
    cards = Cards()
    qtbot.addWidget(cards)
    chosen = []
    cards.chosen.connect(chosen.append)
    cards.show_options(found, 20.0)
    cards.resize(880, 116)
    cards.show()
    assert cards.cards[0].name == "as it is"
    assert sum(c.best for c in cards.cards) == 1
    qtbot.mouseClick(cards.cards[0], LEFT)
    assert not chosen
    qtbot.mouseClick(cards.cards[3], LEFT)
    assert [p.id for p in chosen] == ["opposite"]
    qtbot.keyClick(cards.cards[4], Qt.Key.Key_Space)
    assert [p.id for p in chosen] == ["opposite", "halves"]
    assert "Worst link" in cards.cards[3].toolTip()
    assert "spread" in cards.cards[3].accessibleName()
    cards.set_palette(DARK)
    assert all(c.palette_ is DARK for c in cards.cards)


def test_a_card_beyond_the_limit_says_so_in_words_and_colour(qapp):
    plan = example("orchard_station")
    option = next(iter(options(plan, "B1", plan.scenarios[0])))

    def shades(limit):
        card = PatternCard(option, False, limit, LIGHT)
        card.resize(140, 116)
        image = painted(card)
        return {image.pixelColor(x, y).name() for x in range(image.width()) for y in range(image.height())}

    assert LIGHT.mend in shades(20.0)
    assert LIGHT.mend not in shades(50.0)
    assert LIGHT.good in shades(50.0)


# The block on the map


def test_the_block_answers_for_all_that_is_inside(window, qtbot):
    block = next(s for s in window.picture.diagram.shapes if s.kind == "bank" and s.side == "plus")
    middle = (block.box.cx, block.box.cy)
    for id_ in ("B1", "B3", "L2p"):
        assert window.map.place(id_) == middle
        window.map.select(id_, show=True)
        assert window.inspector.editor(id_, "length_m" if id_.startswith("L") else "capacity_ah")
    words = window.map.describe("B1")
    assert "current sharing spread 34 %" in words
    assert "double click" in words
    assert "bank_spread" in {f.rule.id for f in window.picture.findings if f.place in block.holds}


def test_a_double_click_on_the_block_opens_the_bank(window, qtbot):
    block = next(s for s in window.picture.diagram.shapes if s.kind == "bank" and s.side == "minus")
    at = window.map.to_view(block.box.cx, block.box.cy).toPoint()
    qtbot.mouseDClick(window.map.viewport(), LEFT, pos=at)
    assert window.page == "bank"


def test_after_a_pattern_with_bars_the_map_still_shows_one_bank(open_window, qtbot):
    window = open_window(arrange(example("orchard_station"), "B1", "bars"))
    settled(window, qtbot)
    assert [s.kind for s in window.picture.diagram.shapes if s.kind in ("bank", "unit")] == ["bank", "bank"]
    assert "BP1" in next(s for s in window.picture.diagram.shapes if s.kind == "bank").holds
    window.map.viewport().grab()
