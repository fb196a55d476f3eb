"""What the PDFs are made of: the program's font, paragraphs, tables that go on over pages, drawings."""

from collections.abc import Sequence
from html import escape
from math import isfinite
from typing import Any

from reportlab.lib import colors
from reportlab.lib.pagesizes import A4
from reportlab.lib.styles import ParagraphStyle
from reportlab.lib.units import mm
from reportlab.pdfbase import pdfmetrics
from reportlab.platypus import CondPageBreak, Flowable, KeepTogether, Paragraph, Table, TableStyle

from jaunty_copper.documents import table as tables
from jaunty_copper.documents.drawing import Circle, Drawing, Mark, Path, Rect, Text, opaque
from jaunty_copper.documents.fonts import PLAIN, STRONG
from jaunty_copper.language import say
from jaunty_copper.plan.text import lines, one_line

CAUTIONS = (
    say(
        "This is a planning aid. Local codes and licensed practice decide; where this report and a standard's current edition differ, the standard is right."
    ),
    say(
        "Batteries drive thousands of amperes into a short circuit: it burns, blinds and kills. Rings and watch off, eye protection on, insulated tools, posts covered."
    ),
    say(
        "Isolate every source before work: chargers, alternators and solar controllers feed the bars though the bank is off."
    ),
    say(
        "Lead-acid units give off hydrogen while charging: ventilate, and keep sparks away. Lithium units that were crushed, frozen or charged below freezing may burn: out of service."
    ),
    say(
        "The main link is the last to be joined and the first to be opened. Capacitors are filled through a resistor first."
    ),
    say("A blown fuse has a cause: find it before another one goes in."),
)
MARGIN = 17.0 * mm
WIDTH, HEIGHT = A4[0] - 2.0 * MARGIN, A4[1] - 2.0 * MARGIN
GREY, LINE = colors.HexColor("#5c646b"), colors.HexColor("#b9bec3")


def _style(name: str, size: float, **more: Any) -> ParagraphStyle:
    return ParagraphStyle(name, **{"fontName": PLAIN, "fontSize": size, "leading": 1.32 * size, **more})


TITLE = _style("title", 24, fontName=STRONG, spaceAfter=4)
HEAD = _style("head", 15, fontName=STRONG, spaceBefore=14, spaceAfter=5)
SUB = _style("sub", 11, fontName=STRONG, spaceBefore=9, spaceAfter=3)
BODY = _style("body", 9.5, spaceAfter=4)
SMALL = _style("small", 8, textColor=GREY, spaceAfter=3)
CELL = _style("cell", 7.6)
CELL_STRONG = _style("cell-strong", 7.6, fontName=STRONG)
FIGURE = _style("figure", 7.6, alignment=2)
FIGURE_HEAD = _style("figure-head", 7.6, fontName=STRONG, alignment=2)
CAUTION = _style("caution", 9, borderWidth=1.2, borderColor=colors.black, borderPadding=6, spaceBefore=8, spaceAfter=10)


MOST_FOR_A_WORD = 0.2
"""Of a page's width that a column gets for a word that does not break."""
STRONG_WORDS = ("danger", "defect", say("too full"))
"""Cells that are set in bold: what is wrong."""


MANY = ((1e9, "G"), (1e6, "M"))
"""From which figure on it is written with a prefix."""


class _Words(Paragraph):
    """A paragraph that is broken into lines once for a width: a table asks each of its cells six times how high it is."""

    _broken: tuple[Any, Any] = None, None

    def breakLines(self, width: float | list[float] | tuple[float, ...]) -> Any:
        """Its lines."""
        if self._broken[0] != width:
            self._broken = width, super().breakLines(width)
        return self._broken[1]


def words(text: str, style: ParagraphStyle = BODY) -> Paragraph:
    """A paragraph of plain words."""
    return _Words(escape(lines(text), quote=False), style)


def spell(value: object) -> str:
    """A cell in words: figures to four places that count, nothing as nothing."""
    if value is None or (isinstance(value, float) and not isfinite(value)):
        return ""
    if isinstance(value, float):
        value = 0.0 if abs(value) < 1e-9 else value
        for least, prefix in MANY:
            if abs(value) >= least:
                return f"{value / least:.4g} {prefix}"
        return f"{value:.0f}" if abs(value) >= 1000.0 else f"{value:.4g}"
    return lines(str(value))


def grid(head: Sequence[str], rows: Sequence[Sequence[object]], shares: Sequence[float]) -> Table:
    """A table as wide as the page whose head is repeated on every page.

    Parameters
    ----------
    shares : sequence of float
        Widths of the columns, in any unit.
    """
    right = [all(isinstance(r[k], int | float) or r[k] is None for r in rows) and bool(rows) for k in range(len(head))]
    shares = _roomy(head, rows, shares)
    total = sum(shares)
    body = [[words(h, FIGURE_HEAD if right[k] else CELL_STRONG) for k, h in enumerate(head)]]
    for row in rows:
        strong = any(v in STRONG_WORDS for v in row)
        body.append(
            [
                words(
                    spell(v),
                    FIGURE if right[k] else CELL_STRONG if strong and v in STRONG_WORDS else CELL,
                )
                for k, v in enumerate(row)
            ]
        )
    made = Table(body, colWidths=[WIDTH * s / total for s in shares], repeatRows=1)
    made.setStyle(
        TableStyle(
            [
                ("VALIGN", (0, 0), (-1, -1), "TOP"), ("LINEBELOW", (0, 0), (-1, 0), 0.9, colors.black),
                ("LINEBELOW", (0, 1), (-1, -1), 0.3, LINE), ("TOPPADDING", (0, 0), (-1, -1), 2.2),
                ("BOTTOMPADDING", (0, 0), (-1, -1), 2.6), ("LEFTPADDING", (0, 0), (-1, -1), 3),
                ("RIGHTPADDING", (0, 0), (-1, -1), 3),
            ]
        )
    )  # fmt: skip
    return made


def _roomy(head: Sequence[str], rows: Sequence[Sequence[object]], shares: Sequence[float]) -> list[float]:
    """Widths of columns, points: as asked, but none so narrow that a word of it breaks."""
    total = sum(shares)
    asked = [WIDTH * s / total for s in shares]
    least = []
    for k, title in enumerate(head):
        texts = {title, *(spell(row[k]) for row in rows)}
        longest = max((word for text in texts for word in text.split()), key=len, default="")
        least.append(min(pdfmetrics.stringWidth(longest, STRONG, CELL.fontSize) + 8.0, MOST_FOR_A_WORD * WIDTH))
    lacking = sum(max(n - a, 0.0) for n, a in zip(least, asked, strict=True))
    spare = sum(max(a - n, 0.0) for n, a in zip(least, asked, strict=True))
    give = min(lacking / spare, 1.0) if spare > 0.0 else 0.0
    return [n if a < n else a - give * (a - n) for n, a in zip(least, asked, strict=True)]


class Figure(Flowable):
    """A drawing, as wide as is given and never higher than a page."""

    def __init__(self, drawing: Drawing, width: float = WIDTH, most: float = HEIGHT - 60.0) -> None:
        super().__init__()
        self.drawing = drawing
        self.scale = min(width / drawing.width, most / drawing.height)
        self.width, self.height = drawing.width * self.scale, drawing.height * self.scale

    def wrap(self, *_: float) -> tuple[float, float]:
        """Its size."""
        return self.width, self.height + 6.0

    def draw(self) -> None:
        """Put every mark down; y goes down in a drawing and up on a page."""
        c, d = self.canv, self.drawing
        c.saveState()
        c.translate(0.0, self.height + 3.0)
        c.scale(self.scale, -self.scale)
        c.translate(-d.x, -d.y)
        for m in d.marks:
            _mark(c, m)
        c.restoreState()


def _mark(c: Any, m: Mark) -> None:
    if isinstance(m, Text):
        c.saveState()
        c.translate(m.x, m.y)
        c.scale(1.0, -1.0)
        if m.turned:
            c.rotate(90)
        c.setFillColor(colors.HexColor(m.color))
        c.setFillAlpha(1.0)
        c.setFont(STRONG if m.strong else PLAIN, m.size)
        {"start": c.drawString, "middle": c.drawCentredString, "end": c.drawRightString}[m.anchor](
            0.0, 0.0, one_line(m.text)
        )
        c.restoreState()
        return
    fill, stroke = m.fill != "none", m.width > 0.0 and m.stroke != "none"
    if fill:
        color, share = opaque(m.fill)
        c.setFillColor(colors.HexColor(color))
        c.setFillAlpha(share)
    if stroke:
        color, share = opaque(m.stroke)
        c.setStrokeColor(colors.HexColor(color))
        c.setStrokeAlpha(share)
        c.setLineWidth(m.width)
    c.setDash(list(m.dash) if isinstance(m, Path) and m.dash else [])
    match m:
        case Rect():
            c.roundRect(m.x, m.y, max(m.w, 0.01), max(m.h, 0.01), m.round, stroke=stroke, fill=fill)
        case Circle():
            c.circle(m.x, m.y, m.r, stroke=stroke, fill=fill)
        case Path():
            path = c.beginPath()
            for letter, values in m.steps:
                {"M": path.moveTo, "L": path.lineTo, "C": path.curveTo, "Z": path.close}[letter](*values)
            c.drawPath(path, stroke=stroke, fill=fill)


def head(text: str, style: ParagraphStyle = HEAD) -> tuple[Flowable, Flowable]:
    """A head that does not stand alone at the foot of a page."""
    return CondPageBreak(96.0), words(text, style)


def plain(value: float, places: int) -> str:
    """A figure to so many places that count, never with an exponent.

    Parameters
    ----------
    places : int
        Digits that count.
    """
    return f"{float(f'{value:.{places}g}'):g}"


def together(*parts: Flowable) -> KeepTogether:
    """Parts that stay on one page."""
    return KeepTogether(list(parts))


def whole(t: tables.Table) -> Flowable:
    """A table with all its columns."""
    return grid(tuple(c.title for c in t.columns), t.rows, tuple(c.width for c in t.columns))
