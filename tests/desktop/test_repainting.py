"""Of a map that has changed only what differs is painted, and the window shows what painting all of it would."""

import random

import numpy as np
import pytest
from PySide6.QtCore import QRect, QRectF
from PySide6.QtGui import QColor, QImage, QPainter, QRegion
from PySide6.QtWidgets import QApplication

from jaunty_copper.desktop.widgets.drawn import paint_marks
from jaunty_copper.desktop.widgets.theme import load_fonts, screen_width
from jaunty_copper.documents.drawing import Circle, Path, Rect, Text, line
from jaunty_copper.documents.map.differing import differing, extent
from jaunty_copper.documents.map.lens import LENSES
from jaunty_copper.plan import edits
from jaunty_copper.plan.edits import Edit
from jaunty_copper.plan.examples import example, names
from tests.desktop.conftest import settled

GROUND = 0xFFFFFFFF
ROUNDING = 2
"""Levels of 255 by which a line differs where it is cut off by the edge of what is painted."""


def on_screen(window):
    """The map as the screen has it, and as it has it once all of it has been painted."""
    port = window.map.viewport()
    area = QRect(port.mapTo(window, port.rect().topLeft()), port.size())

    def screen():
        return levels(window.screen().grabWindow(window.winId()).toImage().copy(area))

    shown = screen()
    port.update()
    QApplication.processEvents()
    return shown, screen()


def levels(image):
    """Red, green and blue of every pixel, 0 to 255."""
    image = image.convertToFormat(QImage.Format.Format_RGB32)
    flat = np.frombuffer(image.constBits(), np.uint8).reshape(image.height(), image.width(), 4)
    return flat[..., :3].astype(int)


def gesture(window, rng):
    """Something that changes what the map shows."""
    plan, map_ = window.document.plan, window.map
    ids = [r.id for r in plan.runs] + [x.id for x in plan.placed]
    match rng.randrange(10):
        case 0:
            run = rng.choice(plan.runs).id
            window.do(Edit("length", lambda p: edits.change(p, run, length_m=rng.uniform(0.2, 30.0))))
        case 1:
            run = rng.choice(plan.runs).id
            size = rng.choice([r.conductor for r in plan.runs])
            window.do(Edit("size", lambda p: edits.change(p, run, conductor=size)))
        case 2:
            map_.select(rng.choice(ids))
        case 3:
            map_.add(rng.choice(ids))
        case 4:
            map_._hover(rng.choice([*ids, None]))
        case 5:
            window.document.undo()
        case 6:
            window.set_lens(rng.choice(LENSES).id)
        case 7:
            map_.zoom(rng.choice([0.8, 1.3]))
        case 8:
            map_.fit()
        case _:
            bar = rng.choice([map_.verticalScrollBar(), map_.horizontalScrollBar()])
            bar.setValue(rng.randint(0, bar.maximum()))


def at_rest(window, qtbot):
    """Wait until nothing more comes to the map: figures, findings, and what its lens has worked out."""

    def whole():
        picture, lens = window.picture, window.map.look.lens.id
        awaited = {"spread": picture.bands is not None, "read": picture.read_in != ""}
        return picture.judged and awaited.get(lens, True)

    settled(window, qtbot)
    qtbot.waitUntil(whole)


@pytest.mark.parametrize("plan", names())
def test_the_screen_shows_what_painting_all_of_the_map_would(open_window, qtbot, plan):
    rng = random.Random(plan)
    window = open_window(example(plan))
    regions = []
    find = window.map.shown.differing
    window.map.shown.differing = lambda: regions.append(find()) or regions[-1]
    port = window.map.viewport()
    for _ in range(45):
        gesture(window, rng)
        at_rest(window, qtbot)
        QApplication.processEvents()
        shown, wanted = on_screen(window)
        assert np.abs(shown - wanted).max() <= ROUNDING
    # Else nothing but whole paintings was seen.
    sizes = [sum(q.width() * q.height() for q in r) for r in regions if r is not None]
    assert sum(0 < size < port.width() * port.height() / 4 for size in sizes) >= 8


def test_without_what_differs_painted_the_screen_would_be_seen_to_be_stale(window, qtbot):
    window.map.shown.differing = QRegion
    window.map.select(window.document.plan.runs[0].id)
    QApplication.processEvents()
    shown, wanted = on_screen(window)
    assert np.abs(shown - wanted).max() > 50


def test_a_map_that_nobody_sees_is_not_made(window, qtbot):
    window.show_page("tables")
    made = []
    window.map.shown.differing = lambda: made.append(True)
    run = window.document.plan.runs[0].id
    window.do(Edit("length", lambda p: edits.change(p, run, length_m=7.0)))
    settled(window, qtbot)
    window.map.select(run)
    assert not made
    window.show_page("map")
    QApplication.processEvents()
    shown, wanted = on_screen(window)
    assert np.abs(shown - wanted).max() <= ROUNDING


def test_the_overview_is_drawn_again_where_it_shows_something_else(window, qtbot, monkeypatch):
    window.map.zoom(3.0)
    overview, drawn = window.map.overview, []
    assert overview.isVisible()
    draw = overview._draw_blocks
    monkeypatch.setattr(overview, "_draw_blocks", lambda *rest: drawn.append(True) or draw(*rest))

    def anew():
        shown, overview._shown = overview.grab().toImage(), None
        return shown, overview.grab().toImage()

    def follows():
        drawn.clear()
        shown = overview.grab().toImage()
        return shown, bool(drawn)

    shown, wanted = anew()
    assert shown == wanted
    window.map.verticalScrollBar().setValue(200)
    moved, again = follows()
    assert moved != shown
    assert not again
    run = next(r for r in window.document.plan.runs if r.length_m > 1.0)
    for change in (
        lambda: window.looks.switch(),
        lambda: window.do(Edit("without", lambda p: edits.remove(p, window.document.plan.equipment[0].id))),
        lambda: window.do(Edit("thin", lambda p: edits.change(p, run.id, conductor="mm2-1.5", length_m=60.0))),
    ):
        before = follows()[0]
        change()
        settled(window, qtbot)
        QApplication.processEvents()
        shown, wanted = anew()
        assert shown == wanted
        assert shown != before


def any_mark(rng):
    x, y = rng.uniform(60, 140), rng.uniform(60, 140)
    width = rng.choice([0.0, 0.8, 3.0, 9.0])
    near = [(x + rng.uniform(-40, 40), y + rng.uniform(-40, 40)) for _ in range(4)]
    match rng.randrange(5):
        case 0:
            return Rect(
                x, y, rng.uniform(2, 40), rng.uniform(2, 40), "#204060", "#000000", width, rng.choice([0.0, 4.0])
            )
        case 1:
            return Circle(x, y, rng.uniform(1, 30), "#204060", "#000000", width)
        case 2:
            return line(near, stroke="#000000", width=width, blunt=rng.random() < 0.5)
        case 3:
            return Path((("M", near[0]), ("C", (*near[1], *near[2], *near[3]))), stroke="#000000", width=width)
    words = rng.choice(["12.4 A", "jQ fÅ", "◂ 230 A", "W"])
    anchor, size = rng.choice(["start", "middle", "end"]), rng.choice([9.0, 14.0, 24.0])
    return Text(x, y, words, anchor, size, rng.random() < 0.5, turned=rng.random() < 0.3)


def inked(marks):
    image = QImage(200, 200, QImage.Format.Format_RGB32)
    image.fill(GROUND)
    painter = QPainter(image)
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    paint_marks(painter, marks)
    painter.end()
    return image


def test_no_mark_reaches_out_of_its_extent(qapp):
    load_fonts()
    rng = random.Random(7)
    for _ in range(300):
        mark = any_mark(rng)
        box = extent(mark, screen_width)
        image = inked([mark])
        painter = QPainter(image)
        painter.fillRect(QRectF(*box).toAlignedRect().adjusted(-1, -1, 1, 1), QColor("#ffffff"))
        painter.end()
        assert image == inked([]), mark


def test_what_differs_is_what_one_alone_has_or_all_of_it_where_the_order_does(qapp):
    rng = random.Random(3)
    marks = [any_mark(rng) for _ in range(12)]
    assert differing(marks, marks) == []
    other = any_mark(rng)
    assert differing(marks, [*marks[:5], other, *marks[6:]]) == [marks[5], other]
    assert differing(marks, [*marks[:5], *marks[6:]]) == [marks[5]]
    assert differing(marks, [marks[1], marks[0], *marks[2:]]) is None
    assert differing(marks, [*marks, marks[0]]) is None
