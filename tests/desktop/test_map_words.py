"""No words and no badge on the map cover other words, other badges or blocks, as they are painted, in any network."""

import pytest
from PySide6.QtCore import QRectF, Qt
from PySide6.QtGui import QFontMetricsF, QImage, QPainter

from jaunty_copper.desktop.pages.map import paint
from jaunty_copper.desktop.pages.map.lens import LENSES
from jaunty_copper.desktop.pages.map.look import Look
from jaunty_copper.desktop.pages.map.paint import MapPainter
from jaunty_copper.desktop.widgets.theme import LIGHT, font
from jaunty_copper.desktop.widgets.words import Units
from jaunty_copper.desktop.work.making import picture_of
from jaunty_copper.plan.examples import example, names
from jaunty_copper.plan.model import Bar, Fuse
from tests.networks import network
from tests.trials import WHOLE

SEEDS = 2000 if WHOLE else 14
INK_PX = 1.0
"""By how much two may touch: letters stand inside their line."""


class Drawn:
    """What a pass over the map really draws: words where their letters are, badges where they stand."""

    def __init__(self, monkeypatch):
        self.words, self.badges = [], []
        text, mark = MapPainter._text, paint.badge

        def recording(
            painter, box, words, px, strong=False, color=None, align=Qt.AlignmentFlag.AlignCenter, halo=False
        ):
            metrics = QFontMetricsF(font(px, strong))
            shown = metrics.elidedText(words, Qt.TextElideMode.ElideRight, int(box.width()) + 2)
            rect = metrics.boundingRect(box, int(align), shown)
            ink = metrics.tightBoundingRect(shown)
            tight = QRectF(rect.x(), rect.center().y() - ink.height() / 2, rect.width(), ink.height())
            self.words.append((tight, shown))
            text(painter, box, words, px, strong, color, align, halo)

        def marking(painter, palette, verdict, x, y, *size):
            self.badges.append(QRectF(x - 7.0, y - 7.0, 14.0, 14.0))
            mark(painter, palette, verdict, x, y, *size)

        monkeypatch.setattr(MapPainter, "_text", recording)
        monkeypatch.setattr(paint, "badge", marking)

    def paint(self, picture, lens):
        """Paint a whole map at full size."""
        self.words.clear()
        self.badges.clear()
        chart = picture.diagram
        image = QImage(64, 64, QImage.Format.Format_RGB32)
        painter = QPainter(image)
        look = Look(LIGHT, lens, None, Units())
        MapPainter(painter, picture, look, QRectF(0, 0, chart.width, chart.height)).paint()
        painter.end()

    def faults(self, picture):
        """What covers what."""
        chart = picture.diagram
        blocks = [(QRectF(*s.box), s.id) for s in (*chart.shapes, *chart.loose)]
        inked = [(r.adjusted(INK_PX, INK_PX, -INK_PX, -INK_PX), w) for r, w in self.words]
        for k, (one, words) in enumerate(inked):
            yield from (f"“{words}” over “{w}”" for other, w in inked[:k] if one.intersects(other))
            yield from (
                f"“{words}” under a badge" for b in self.badges if one.intersects(b) and not within(one, blocks)
            )
            for box, id_ in blocks:
                if one.intersects(box) and not box.adjusted(-2, -2, 2, 2).contains(one):
                    yield f"“{words}” over {id_}"
        for k, one in enumerate(self.badges):
            yield from ("a badge over a badge" for other in self.badges[:k] if one.intersects(other))
            over = [id_ for box, id_ in blocks if one.intersects(box)]
            if len(over) > 1:
                yield f"a badge over {over}"


def within(rect, blocks):
    return any(box.contains(rect) for box, _ in blocks)


@pytest.mark.chance
def test_nothing_that_is_written_or_marked_covers_anything(qapp, monkeypatch):
    drawn, wrong = Drawn(monkeypatch), []
    for seed in range(SEEDS):
        picture = picture_of(network(seed))
        drawn.paint(picture, LENSES[seed % 4])
        wrong += [f"{seed}: {fault}" for fault in drawn.faults(picture)]
        assert drawn.words
    assert wrong == []


@pytest.mark.parametrize("name", names())
@pytest.mark.parametrize("lens", LENSES, ids=lambda lens: lens.id)
def test_in_the_examples_every_device_and_bar_says_what_it_is(qapp, monkeypatch, name, lens):
    plan = example(name)
    picture, drawn = picture_of(plan), Drawn(monkeypatch)
    drawn.paint(picture, lens)
    assert list(drawn.faults(picture)) == []
    words = [w for _, w in drawn.words]
    for x in plan.items:
        if isinstance(x, Bar):
            assert x.title in words
        elif isinstance(x, Fuse) and lens.id == "flow":
            assert f"{x.rating_a:g} A" in words
    assert len(drawn.badges) >= len({f.place for f in picture.findings if f.place in plan.by_id}) * 0.6
