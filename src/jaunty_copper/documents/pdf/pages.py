"""The pages of a report: margins, running foot, page numbers, contents."""

from io import BytesIO
from typing import Any

from reportlab.lib.pagesizes import A4
from reportlab.pdfgen.canvas import Canvas
from reportlab.platypus import BaseDocTemplate, Flowable, Frame, PageTemplate, Paragraph

from jaunty_copper.documents.fonts import PLAIN
from jaunty_copper.documents.pdf.sheet import (
    GREY,
    HEIGHT,
    MARGIN,
    WIDTH,
)


class NumberedDocument(BaseDocTemplate):
    """Pages with a foot, whose heads go into the contents."""

    def __init__(self, out: BytesIO, foot: str) -> None:
        super().__init__(
            out,
            pagesize=A4,
            leftMargin=MARGIN,
            rightMargin=MARGIN,
            topMargin=MARGIN,
            bottomMargin=MARGIN,
            title=foot,
            invariant=1,
        )
        frame = Frame(MARGIN, MARGIN, WIDTH, HEIGHT, 0, 0, 0, 0)
        self.foot = foot
        self.heads = 0
        self.addPageTemplates(PageTemplate("page", [frame], onPage=self._foot))

    def beforeDocument(self) -> None:
        """Each pass counts its heads anew."""
        self.heads = 0

    def _foot(self, canvas: Any, _: Any) -> None:
        canvas.saveState()
        canvas.setFont(PLAIN, 8)
        canvas.setFillColor(GREY)
        canvas.drawString(MARGIN, 0.55 * MARGIN, self.foot)
        canvas.restoreState()

    def afterFlowable(self, flowable: Flowable) -> None:
        """Note the page of a head."""
        if isinstance(flowable, Paragraph) and flowable.style.name == "head":
            self.heads += 1
            text, key = flowable.getPlainText(), f"head-{self.heads}"
            self.canv.bookmarkPage(key)
            self.canv.addOutlineEntry(text, key, 0, False)
            self.notify("TOCEntry", (0, text, self.page, key))


class NumberedCanvas(Canvas):
    """Knows how many pages there are when it numbers them."""

    def __init__(self, *args: Any, **more: Any) -> None:
        super().__init__(*args, **more)
        self._pages: list[dict[str, Any]] = []

    def showPage(self) -> None:
        """Keep the page until their number is known."""
        self._pages.append(dict(self.__dict__))
        self._startPage()  # type: ignore[attr-defined]

    def save(self) -> None:
        """Number the pages, and write them."""
        for state in self._pages:
            self.__dict__.update(state)
            self.setFont(PLAIN, 8)
            self.setFillColor(GREY)
            self.drawRightString(A4[0] - MARGIN, 0.55 * MARGIN, f"{self.getPageNumber()} of {len(self._pages)}")
            super().showPage()
        super().save()
