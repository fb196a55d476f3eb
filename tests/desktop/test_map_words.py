"""No words and no badge on the map cover other words, other badges or blocks, as they are painted, in any network."""

import pytest
from PySide6.QtCore import QRectF
from PySide6.QtGui import QFontMetricsF

from jaunty_copper.desktop.widgets.theme import font, screen_width
from jaunty_copper.desktop.work.making import picture_of
from jaunty_copper.diagram.shapes import Box
from jaunty_copper.documents.drawing import Text
from jaunty_copper.documents.fonts import printed_width
from jaunty_copper.documents.map import marks
from jaunty_copper.documents.map.lens import LENSES
from jaunty_copper.documents.map.look import Look
from jaunty_copper.documents.map.marks import MapMarks
from jaunty_copper.documents.palette import LIGHT, PRINT
from jaunty_copper.documents.words import Units
from jaunty_copper.plan.examples import example, names
from jaunty_copper.plan.model import Bar, Fuse
from tests.networks import network
from tests.trials import WHOLE, hold

SEEDS = 2000 if WHOLE else 14
INK_PX = 1.0
"""By how much two may touch: letters stand inside their line."""


class Drawn:
    """What a pass over the map puts down, on the screen or on paper: words where their letters are, badges where they stand."""

    def __init__(self, monkeypatch, printed=False):
        self.words, self.badges, self.printed = [], [], printed
        mark = marks.badge

        def marking(palette, verdict, x, y, *size):
            self.badges.append(QRectF(x - 7.0, y - 7.0, 14.0, 14.0))
            return mark(palette, verdict, x, y, *size)

        monkeypatch.setattr(marks, "badge", marking)

    def paint(self, picture, lens):
        """Put down a whole map at full size."""
        self.words.clear()
        self.badges.clear()
        chart = picture.diagram
        look = Look(PRINT if self.printed else LIGHT, lens, None, Units(), named=self.printed)
        measure = printed_width if self.printed else screen_width
        for m in MapMarks(picture, look, measure, Box(0.0, 0.0, chart.width, chart.height)).marks():
            if isinstance(m, Text):
                self.words.append((self._inked(m, measure(m.text, m.size, m.strong)), m.text))

    def _inked(self, m, wide):
        x = m.x - {"start": 0.0, "middle": 0.5, "end": 1.0}[m.anchor] * wide
        high = QFontMetricsF(font(m.size, m.strong)).tightBoundingRect(m.text).height()
        middle = m.y - 0.364 * m.size
        return QRectF(x, middle - high / 2, wide, high)

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
    wrong = []
    for seed in range(SEEDS):
        with monkeypatch.context() as patch:
            picture, drawn = picture_of(network(seed)), Drawn(patch, printed=seed % 3 == 2)
            drawn.paint(picture, LENSES[seed % 4])
        wrong += [f"{seed}: {fault}" for fault in drawn.faults(picture)]
        assert drawn.words
    assert wrong == []
    hold("maps on which what is written or marked covers something", len(wrong), SEEDS, at_most=0.0)


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
    paper = Drawn(monkeypatch, printed=True)
    paper.paint(picture, lens)
    assert list(paper.faults(picture)) == []
    named = " ".join(w for _, w in paper.words)
    assert sum(f.id in named for f in plan.items if isinstance(f, Fuse)) >= 0.8 * sum(
        isinstance(f, Fuse) for f in plan.items
    )
