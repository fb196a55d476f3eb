"""Strips of the lenses short and guard, and what all plots share, against the study they show."""

import itertools

import pytest
from PySide6.QtCore import QRectF
from PySide6.QtGui import QImage, QPainter

from jaunty_copper.desktop.pages.map import shorts
from jaunty_copper.desktop.widgets.plots import AMPS, TIMES, LogAxis, colour, label, still_plot
from jaunty_copper.documents.palette import DARK, LIGHT

AREA = QRectF(0.0, 0.0, 880.0, 144.0)


class Said(QPainter):
    """A painter that remembers what it wrote."""

    def __init__(self, image):
        super().__init__(image)
        self.words = []

    def drawText(self, *arguments):
        self.words.append(arguments[-1])
        super().drawText(*arguments)


def painted(window, paint, equipment, palette=LIGHT):
    """What a strip writes for a row."""
    picture = window.picture
    image = QImage(880, 144, QImage.Format.Format_RGB32)
    image.fill(0xFFFFFF)
    p = Said(image)
    row = next(r for r in picture.diagram.rows if r.id == equipment)
    paint(p, picture, picture.plan.by_id[equipment], row, palette, AREA, lambda x: x)
    p.end()
    return p.words, image


def test_the_short_strip_tells_currents_and_which_device_is_too_weak(window):
    words, _ = painted(window, shorts.paint_faults, "INV")
    f = window.picture.protection.faults
    k = f.at["INV.plus"]
    assert f"{abs(f.peak.current_a[k]) / 1000:.3g} kA" in words
    assert f"{abs(f.least.current_a[k]) / 1000:.3g} kA" in words
    assert "✕ F1 2 kA" in words
    assert "✕ F2 5 kA" in words


def test_a_device_that_is_able_has_a_tick(window):
    words, _ = painted(window, shorts.paint_faults, "LAMP")
    assert "✓ F11 1 kA" in words


def test_the_guard_strip_numbers_the_devices_in_the_order_in_which_they_open(window):
    words, _ = painted(window, shorts.paint_guard, "PUMP")
    assert words[0] == "A short at Well pump: which devices open, in which order"
    # The pump's fuse opens; at what a short at the pump drives, the main fuse does not.
    assert words.index("1") < words.index("F6")
    assert words[words.index("F1") + 1] == "need not open"
    # On the bar the main fuse opens, and chargers go on.
    both, _ = painted(window, shorts.paint_guard, "GEN")
    opened = window.picture.protection.sequence("GEN.plus").openings
    assert [both[both.index(str(n + 1)) + 1] for n in range(len(opened))] == [o.device for o in opened]


@pytest.mark.parametrize("paint", [shorts.paint_faults, shorts.paint_guard])
@pytest.mark.parametrize("palette", [LIGHT, DARK])
def test_every_row_can_be_painted_in_both_looks(window, paint, palette):
    pictures = []
    for row in window.picture.diagram.rows:
        words, image = painted(window, paint, row.id, palette)
        assert window.picture.plan.by_id[row.id].title in words[0]
        pictures.append(image)
    assert any(a != b for a, b in itertools.pairwise(pictures))


def test_unguarded_guarded_and_return_conductors_are_drawn_apart(window):
    picture = window.picture
    styles = {
        run: shorts._guarding(picture, picture.plan.run_by_id[run].a, picture.plan.run_by_id[run].b, LIGHT)
        for run in ("W1", "W21", "W22")
    }
    assert styles["W1"][0] == LIGHT.over
    assert styles["W21"][0] == LIGHT.accent
    assert styles["W22"][0] == LIGHT.line


# Axes


def test_an_axis_of_decades_spells_them_and_leaves_some_out_where_there_is_no_room():
    axis = LogAxis("bottom", TIMES)
    (_, wide), (_, between) = axis.tickValues(-3.0, 4.0, 700.0)
    assert wide == [float(k) for k in range(-3, 5)]
    assert between
    (_, narrow), (_, none) = axis.tickValues(-5.0, 4.0, 250.0)
    assert all(k % 2 == 0 for k in narrow)
    assert none == []
    assert axis.tickStrings([-3.0, 0.0, 0.301], 1.0, 1.0) == ["1 ms", "1 s", ""]
    assert LogAxis("bottom", AMPS).tickStrings([2.0, 2.301, 3.0], 1.0, 1.0) == ["100 A", "200 A", "1 kA"]


def test_a_plot_stands_still_and_takes_the_colours_of_the_look(qtbot):
    plot = still_plot("Current", 40, bottom=LogAxis("bottom", TIMES))
    qtbot.addWidget(plot)
    assert plot.accessibleName() == "Current"
    assert plot.getViewBox().state["mouseEnabled"] == [False, False]
    for palette in (LIGHT, DARK):
        colour(plot, palette, "Current, A")
        assert plot.backgroundBrush().color().name() == palette.sheet
    before = len(plot.getPlotItem().items)
    label(plot, LIGHT, "F1", 0.0, 0.0, LIGHT.ink, (0.0, 0.5), True)
    assert len(plot.getPlotItem().items) == before + 1
