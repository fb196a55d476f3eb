"""The font that ships with the program, and how wide words in it are."""

from functools import cache, lru_cache
from pathlib import Path

from reportlab.pdfbase import pdfmetrics
from reportlab.pdfbase.ttfonts import TTFont

import jaunty_copper

PLAIN, STRONG = "Inter", "Inter-SemiBold"


@cache
def load_fonts() -> None:
    """Make the fonts that ship with the program known to the PDF library."""
    folder = Path(jaunty_copper.__file__).parent / "desktop" / "assets" / "fonts"
    for name, file in ((PLAIN, "Inter-Regular.ttf"), (STRONG, "Inter-SemiBold.ttf")):
        pdfmetrics.registerFont(TTFont(name, str(folder / file)))
    pdfmetrics.registerFontFamily(PLAIN, normal=PLAIN, bold=STRONG, italic=PLAIN, boldItalic=STRONG)


@lru_cache(maxsize=8192)
def printed_width(text: str, px: float, strong: bool) -> float:
    """Width of words as they are printed.

    Parameters
    ----------
    px : float
        Size of the font, in the units of the width.
    """
    load_fonts()
    return float(pdfmetrics.stringWidth(text, STRONG if strong else PLAIN, px))
