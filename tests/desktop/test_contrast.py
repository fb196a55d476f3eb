"""Contrast of what is read, measured by WCAG 2.1 (1.4.3, 1.4.11) in both looks, on the palettes and on the screen."""

import re
from itertools import product

import numpy as np
import pytest
from PySide6.QtCore import QPoint, QRect
from PySide6.QtGui import QColor, QImage
from PySide6.QtWidgets import QApplication, QLabel, QPushButton

from jaunty_copper.desktop.widgets.theme import style_sheet
from jaunty_copper.documents.palette import PALETTES

TEXT, SHAPE = 4.5, 3.0
WRITTEN = ("ink", "soft", "stop", "mend", "note", "good", "accent", "over")
GROUNDS = ("paper", "sheet", "raised")


def luminance(color):
    """Relative luminance, WCAG 2.1."""
    parts = [c / 12.92 if c <= 0.04045 else ((c + 0.055) / 1.055) ** 2.4 for c in QColor(color).getRgbF()[:3]]
    return 0.2126 * parts[0] + 0.7152 * parts[1] + 0.0722 * parts[2]


def contrast(one, other):
    bright, dark = sorted((luminance(one), luminance(other)), reverse=True)
    return (bright + 0.05) / (dark + 0.05)


def tones_of(image):
    """Every colour of a picture but of its edge, once."""
    image = image.convertToFormat(QImage.Format.Format_RGB32)
    pixels = np.frombuffer(image.constBits(), np.uint32).reshape(image.height(), image.bytesPerLine() // 4)
    return np.unique(pixels[3 : image.height() - 3, 2 : image.width() - 2])


def seen(widget, window):
    """The part of a window in which a widget can show: no frame around it cuts it off there."""
    shown, at = window.rect(), widget.parentWidget()
    while at is not None and at is not window:
        shown = shown.intersected(QRect(at.mapTo(window, QPoint(0, 0)), at.size()))
        at = at.parentWidget()
    return shown


def test_the_formula_gives_the_standard_s_own_values():
    assert contrast("#000000", "#ffffff") == pytest.approx(21.0)
    assert contrast("#767676", "#ffffff") == pytest.approx(4.54, abs=0.01)


@pytest.mark.parametrize("look", PALETTES)
def test_every_tone_of_text_stands_out_from_every_ground(look):
    p = PALETTES[look]
    low = {
        (tone, ground): round(found, 2) for tone, ground in product(WRITTEN, GROUNDS)
        if (found := contrast(getattr(p, tone), getattr(p, ground))) < TEXT
    }  # fmt: skip
    assert low == {}
    assert contrast(p.on_accent, p.accent) >= TEXT
    assert contrast(p.paper, p.ink) >= TEXT


@pytest.mark.parametrize("look", PALETTES)
def test_shapes_and_the_mark_of_the_keyboard_stand_out(look):
    p = PALETTES[look]
    for tone, ground in product(("accent", "steel", "full", "stop", "mend", "note"), ("paper", "sheet")):
        assert contrast(getattr(p, tone), getattr(p, ground)) >= SHAPE, (tone, ground)


@pytest.mark.parametrize("look", PALETTES)
def test_what_fills_with_the_accent_shows_the_keyboard_in_another_tone(look):
    p, sheet = PALETTES[look], style_sheet(PALETTES[look])
    rules = dict(re.findall(r"^([^\n{]+?) \{ ([^}]*) \}$", sheet, flags=re.M))
    filled = [name for name, rule in rules.items() if f"background: {p.accent}" in rule and "QPushButton" in name]
    assert filled
    for name in filled:
        focus = rules[f"{name}:focus"]
        (tone,) = re.findall(r"#[0-9a-f]{6}", focus)
        assert contrast(tone, p.accent) >= SHAPE, name


@pytest.mark.parametrize("look", PALETTES)
def test_words_on_the_screen_stand_out_as_painted(open_window, qtbot, look):
    """Of every label and button in sight: its darkest and its brightest pixel, as somebody sees them."""
    window = open_window()
    if window.looks.palette.name != look:
        window.looks.switch()
    qtbot.waitUntil(lambda: window.picture is not None and window.picture.judged, timeout=60_000)
    QApplication.processEvents()  # What came with the findings is laid out.
    whole = window.grab().toImage()
    measured, low = 0, {}
    for widget in (*window.findChildren(QLabel), *window.findChildren(QPushButton)):
        if not widget.isVisible() or not widget.text().strip() or not widget.isEnabled() or widget.width() < 20:
            continue
        corner = widget.mapTo(window, QPoint(0, 0))
        image = whole.copy(QRect(corner, widget.size()).intersected(seen(widget, window)))
        tones = tones_of(image)
        if len(tones) < 8:
            continue
        bright = [luminance(QColor(int(t))) for t in tones]
        found = (max(bright) + 0.05) / (min(bright) + 0.05)
        measured += 1
        if found < TEXT:
            low[widget.text()[:40]] = round(found, 2)
    assert low == {}
    assert measured > 30
