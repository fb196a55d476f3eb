"""The sheet of labels: two for every cable, to be printed, cut and wrapped."""

from io import BytesIO

from reportlab.lib.pagesizes import A4
from reportlab.lib.units import mm
from reportlab.pdfbase.pdfmetrics import stringWidth
from reportlab.pdfgen.canvas import Canvas

from jaunty_copper.documents.dossier import Dossier
from jaunty_copper.documents.pdf.sheet import PLAIN, STRONG, load_fonts
from jaunty_copper.language import say

ACROSS, DOWN = 3, 14
WIDTH, HEIGHT = 62.0 * mm, 19.0 * mm
LEFT, TOP = 12.0 * mm, 15.0 * mm


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
    canvas.save()
    return out.getvalue()


def _title(d: Dossier, ref: str) -> str:
    item, _, terminal = ref.partition(".")
    return f"{d.plan.by_id[item].title} {terminal}"


def _fitting(text: str, width: float) -> str:
    """A text cut to a width."""
    while len(text) > 4 and stringWidth(text, PLAIN, 8) > width:
        text = f"{text[:-2].rstrip()}…"
    return text
