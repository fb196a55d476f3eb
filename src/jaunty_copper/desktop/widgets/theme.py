"""Fonts and the style sheet, light and dark."""

from functools import lru_cache
from pathlib import Path

from PySide6.QtGui import QFont, QFontDatabase, QFontMetrics

from jaunty_copper.documents.palette import Palette

FAMILY = "Inter"
BODY_PX = 13
"""Size of plain text."""


def load_fonts() -> None:
    """Make the fonts that ship with the program known to Qt."""
    folder = Path(__file__).parents[1] / "assets" / "fonts"
    for name in ("Inter-Regular.ttf", "Inter-SemiBold.ttf"):
        QFontDatabase.addApplicationFontFromData((folder / name).read_bytes())


@lru_cache(maxsize=256)
def font(px: float, strong: bool = False) -> QFont:
    """The program's font, with figures of equal width."""
    made = QFont(FAMILY)
    made.setPixelSize(max(1, round(px)))
    made.setWeight(QFont.Weight.DemiBold if strong else QFont.Weight.Normal)
    made.setFeature(QFont.Tag("tnum"), 1)
    return made


@lru_cache(maxsize=8192)
def screen_width(text: str, px: float, strong: bool) -> float:
    """Width of words on the screen, remembered: measuring text is half of painting it.

    Parameters
    ----------
    px : float
        Size of the font.
    """
    return float(QFontMetrics(font(px, strong)).horizontalAdvance(text))


def style_sheet(p: Palette) -> str:
    """Qt style sheet of a look; the font of plain text is the application's own: as a rule of its own it would cost a third of a switch."""
    arrow, up = ((Path(__file__).parents[1] / "assets" / f"{way}-{p.name}.svg").as_posix() for way in ("down", "up"))
    tick = (Path(__file__).parents[1] / "assets" / f"tick-{p.name}.svg").as_posix()
    return f"""
* {{ color: {p.ink}; }}
QMainWindow, QDialog, QMessageBox {{ background: {p.paper}; }}
QToolTip {{ background: {p.ink}; color: {p.paper}; border: 0; padding: 6px; }}
QMenuBar {{ background: {p.paper}; padding: 2px 6px; }}
QMenuBar::item {{ padding: 4px 9px; border-radius: 4px; background: transparent; }}
QMenuBar::item:selected {{ background: {p.raised}; }}
QMenu {{ background: {p.sheet}; border: 1px solid {p.line}; padding: 4px; }}
QMenu::item {{ padding: 6px 26px 6px 14px; border-radius: 4px; }}
QMenu::item:selected {{ background: {p.accent}; color: {p.on_accent}; }}
QMenu::item:disabled {{ color: {p.soft}; }}
QMenu::separator {{ height: 1px; background: {p.line}; margin: 4px 8px; }}
QStatusBar {{ background: {p.paper}; color: {p.soft}; }}
QStatusBar QLabel {{ color: {p.soft}; padding: 0 8px; }}
#rail {{ background: {p.raised}; }}
#rail QToolButton {{ border: 0; border-left: 4px solid transparent; padding: 12px 2px; font-weight: 600; }}
#rail QToolButton:checked {{ border-left: 4px solid {p.accent}; background: {p.paper}; }}
#rail QToolButton:focus {{ color: {p.accent}; }}
#bar {{ background: {p.paper}; }}
#title {{ font-size: 18px; font-weight: 600; }}
#bad {{ color: {p.stop}; font-size: 12px; font-weight: 600; }}
#card {{ background: {p.raised}; border: 1px solid {p.line}; border-radius: 6px; }}
#chosen {{ background: {p.raised}; border: 2px solid {p.accent}; border-radius: 6px; }}
QProgressBar {{ background: {p.raised}; border: 0; height: 6px; }}
QProgressBar::chunk {{ background: {p.accent}; }}
#caption {{ color: {p.soft}; font-size: 12px; }}
#panel {{ background: {p.sheet}; }}
#bubble-caption, #bubble-slip {{ background: {p.sheet}; border: 1px solid {p.accent}; border-radius: 4px; font-size: 12px; }}
#bubble-slip {{ color: {p.over}; border-color: {p.over}; }}
#head {{ font-size: 15px; font-weight: 600; }}
#counts {{ color: {p.soft}; }}
QComboBox, QLineEdit, QPlainTextEdit, QDoubleSpinBox, QSpinBox {{
  background: {p.sheet}; border: 1px solid {p.line}; border-radius: 4px; padding: 3px 6px; min-height: 20px;
  selection-background-color: {p.accent}; selection-color: {p.on_accent}; }}
QComboBox:focus, QLineEdit:focus, QPlainTextEdit:focus, QDoubleSpinBox:focus, QSpinBox:focus {{ border: 2px solid {p.accent}; padding: 2px 5px; }}
QComboBox::drop-down {{ border: 0; width: 20px; }}
QComboBox::down-arrow {{ image: url("{arrow}"); width: 10px; height: 6px; }}
QSpinBox {{ padding: 3px 20px 3px 0; }}
QSpinBox:focus {{ padding: 2px 19px 2px 0; }}
QSpinBox QLineEdit {{ border: 0; padding: 0 6px; min-height: 18px; }}
QSpinBox::up-button, QSpinBox::down-button {{ border: 0; width: 20px; subcontrol-origin: border; background: transparent; }}
QSpinBox::up-button {{ subcontrol-position: top right; }}
QSpinBox::down-button {{ subcontrol-position: bottom right; }}
QSpinBox::up-button:hover, QSpinBox::down-button:hover {{ background: {p.raised}; }}
QSpinBox::up-arrow {{ image: url("{up}"); width: 10px; height: 6px; }}
QSpinBox::down-arrow {{ image: url("{arrow}"); width: 10px; height: 6px; }}
QComboBox QAbstractItemView {{ background: {p.sheet}; border: 1px solid {p.line}; selection-background-color: {p.accent}; selection-color: {p.on_accent}; outline: 0; }}
QPushButton {{ background: {p.raised}; border: 1px solid {p.line}; border-radius: 4px; padding: 5px 12px; }}
QPushButton:hover {{ border-color: {p.accent}; }}
QPushButton:default {{ border-color: {p.accent}; }}
QPushButton:focus {{ border: 2px solid {p.accent}; padding: 4px 11px; }}
QPushButton:disabled {{ color: {p.soft}; }}
QPushButton#mend {{ background: {p.accent}; color: {p.on_accent}; border-color: {p.accent}; font-weight: 600; text-align: left; }}
QPushButton#mend:focus {{ border: 3px double {p.on_accent}; padding: 3px 10px; }}
QPushButton#link {{ background: transparent; border: 2px solid transparent; padding: 0; color: {p.accent}; text-decoration: underline; }}
QPushButton#link:focus {{ border: 2px solid {p.accent}; }}
QPushButton#lens {{ border-radius: 0; padding: 5px 10px; font-weight: 600; }}
QPushButton#lens:checked {{ background: {p.accent}; color: {p.on_accent}; border-color: {p.accent}; }}
QPushButton#lens:checked:focus {{ border: 3px double {p.on_accent}; padding: 3px 8px; }}
QPushButton#filter {{ padding: 3px 5px; background: transparent; }}
QPushButton#filter:checked {{ background: {p.raised}; border-color: {p.ink}; }}
QListView {{ background: {p.sheet}; border: 0; outline: 0; }}
QTableView {{ background: {p.sheet}; border: 0; gridline-color: {p.line}; selection-background-color: {p.raised}; selection-color: {p.ink}; outline: 0; }}
QListWidget {{ background: {p.sheet}; border: 1px solid {p.line}; border-radius: 4px; selection-background-color: {p.raised}; selection-color: {p.ink}; outline: 0; }}
QListWidget::item {{ padding: 4px 6px; }}
QListWidget::item:selected {{ background: {p.raised}; color: {p.ink}; border-left: 3px solid {p.accent}; }}
QTableView::item {{ padding: 0 6px; }}
QTableView::item:selected {{ background: {p.raised}; color: {p.ink}; }}
QTableView::item:focus {{ border: 2px solid {p.accent}; }}
QHeaderView {{ background: {p.paper}; border: 0; }}
QHeaderView::section {{ background: {p.paper}; color: {p.soft}; border: 0; border-right: 1px solid {p.line}; border-bottom: 1px solid {p.line}; padding: 4px 6px; font-size: 12px; font-weight: 400; }}
QSlider::groove:horizontal {{ height: 4px; background: {p.line}; border-radius: 2px; }}
QSlider::sub-page:horizontal {{ background: {p.accent}; border-radius: 2px; }}
QSlider::handle:horizontal {{ width: 16px; margin: -7px 0; border-radius: 8px; background: {p.accent}; border: 2px solid {p.sheet}; }}
QSlider::handle:horizontal:focus {{ border: 2px solid {p.ink}; }}
QScrollArea {{ background: transparent; border: 0; }}
QScrollArea > QWidget > QWidget {{ background: transparent; }}
QScrollBar:vertical {{ background: transparent; width: 11px; margin: 0; }}
QScrollBar:horizontal {{ background: transparent; height: 11px; margin: 0; }}
QScrollBar::handle {{ background: {p.line}; border-radius: 4px; min-height: 30px; min-width: 30px; margin: 2px; }}
QScrollBar::handle:hover {{ background: {p.soft}; }}
QScrollBar::add-line, QScrollBar::sub-line, QScrollBar::add-page, QScrollBar::sub-page {{ background: none; width: 0; height: 0; }}
QSplitter::handle {{ background: {p.line}; }}
QSplitter[held="true"]::handle {{ background: {p.accent}; }}
QCheckBox::indicator {{ width: 15px; height: 15px; border: 1px solid {p.soft}; border-radius: 3px; background: {p.sheet}; }}
QCheckBox::indicator:checked {{ background: {p.accent}; border-color: {p.accent}; image: url("{tick}"); }}
QCheckBox:focus {{ color: {p.accent}; }}
#field {{ color: {p.soft}; }}
#fact {{ font-weight: 600; }}
#notice {{ background: {p.raised}; border-left: 4px solid {p.mend}; padding: 6px 10px; }}
"""
