"""The sheet of labels: two for every cable, to be printed, cut and wrapped; then the notices for the spot."""

from io import BytesIO

from reportlab.lib.pagesizes import A4
from reportlab.lib.units import mm
from reportlab.lib.utils import simpleSplit
from reportlab.pdfbase.pdfmetrics import stringWidth
from reportlab.pdfgen.canvas import Canvas

from jaunty_copper.documents.dossier import Dossier
from jaunty_copper.documents.fonts import PLAIN, STRONG, load_fonts
from jaunty_copper.documents.notices import notices_of
from jaunty_copper.language import say

ACROSS, DOWN = 3, 14
WIDTH, HEIGHT = 62.0 * mm, 19.0 * mm
LEFT, TOP = 12.0 * mm, 15.0 * mm
BY, HIGH, MOST_LINES = 2, 6, 7
BROAD, TALL = 93.0 * mm, 44.0 * mm
"""Notices: so many beside and below one another, so large."""


def labels_pdf(d: Dossier) -> bytes:
    """A PDF of labels, as many pages as they need."""
    load_fonts()
    out = BytesIO()
    canvas = Canvas(out, pagesize=A4, invariant=1)
    canvas.setTitle(say("Labels, {plan}", plan=d.plan.title or "plan"))
    cells = [(c, end, far) for c in d.shop.cuts for end, far in ((c.a, c.b), (c.b, c.a))]
    for k, (cut, end, far) in enumerate(cells):
        n = k % (ACROSS * DOWN)
        if k and n == 0:
            canvas.showPage()
        x = LEFT + (n % ACROSS) * WIDTH
        y = A4[1] - TOP - (n // ACROSS + 1) * HEIGHT
        canvas.setLineWidth(0.3)
        canvas.setDash([2, 2])
        canvas.rect(x, y, WIDTH, HEIGHT)
        several = d.plan.run_by_id[cut.run].parallel > 1
        canvas.setFont(STRONG, 13)
        canvas.drawString(x + 6, y + HEIGHT - 17, f"{cut.run}.{cut.number}" if several else cut.run)
        size = d.study.wiring.parts.conductors[cut.conductor].label
        canvas.setFont(PLAIN, 8)
        canvas.drawRightString(x + WIDTH - 6, y + HEIGHT - 15, f"{size}, {cut.colour}")
        canvas.drawString(x + 6, y + 18, _fitting(say("here {d}", d=_title(d, end.ref)), WIDTH - 12))
        canvas.drawString(x + 6, y + 7, _fitting(say("to {d}", d=_title(d, far.ref)), WIDTH - 12))
    if cells:
        canvas.showPage()
    _notices(canvas, d)
    canvas.save()
    return out.getvalue()


def _notices(canvas: Canvas, d: Dossier) -> None:
    for k, notice in enumerate(notices_of(d)):
        n = k % (BY * HIGH)
        if k and n == 0:
            canvas.showPage()
        x, y = LEFT + (n % BY) * BROAD, A4[1] - TOP - (n // BY + 1) * TALL
        canvas.setDash([2, 2])
        canvas.rect(x, y, BROAD, TALL)
        canvas.setFont(STRONG, 14)
        canvas.drawString(x + 8, y + TALL - 22, _fitting(notice.head, BROAD - 16, STRONG, 14))
        canvas.setFont(PLAIN, 9)
        canvas.drawString(x + 8, y + TALL - 36, _fitting(f"{notice.place}, {notice.where}", BROAD - 16))
        lines = [part for line in notice.lines for part in simpleSplit(line, PLAIN, 9, BROAD - 16)]
        for m, line in enumerate(lines[:MOST_LINES]):
            canvas.drawString(x + 8, y + TALL - 52 - 12 * m, line)


def _title(d: Dossier, ref: str) -> str:
    item, _, terminal = ref.partition(".")
    return f"{d.plan.by_id[item].title} {terminal}"


def _fitting(text: str, width: float, face: str = PLAIN, size: float = 8) -> str:
    """A text cut to a width."""
    while len(text) > 4 and stringWidth(text, face, size) > width:
        text = f"{text[:-2].rstrip()}…"
    return text
