"""The first page of the report: what was planned, held against what, by whom."""

from collections.abc import Iterator
from io import BytesIO
from typing import NamedTuple

from reportlab.lib.utils import ImageReader
from reportlab.platypus import Flowable, Image, Spacer

from jaunty_copper import __version__
from jaunty_copper.codes.checks import FAILING
from jaunty_copper.documents.dossier import Dossier
from jaunty_copper.documents.pdf.sheet import BODY, CAUTION, CAUTIONS, TITLE, WIDTH, grid, words
from jaunty_copper.language import say
from jaunty_copper.plan.text import one_line

LOGO_PT = 54.0
MOST_LOGO = 20_000_000
"""Bytes of a picture's file."""


class Cover(NamedTuple):
    """What stands on the first page besides the plan.

    Attributes
    ----------
    author, firm : str
        Who answers for it; empty for nobody.
    logo : bytes
        A PNG or JPEG picture; empty for none.
    """

    author: str = ""
    firm: str = ""
    logo: bytes = b""


class NoPicture(ValueError):
    """A logo that is no picture."""


def logo_of(data: bytes) -> Flowable:
    """A picture at the head of the first page, as high as a few lines.

    Parameters
    ----------
    data : bytes
        Of a PNG or JPEG file.

    Raises
    ------
    NoPicture
        It is neither.
    """
    try:
        wide, high = ImageReader(BytesIO(data)).getSize()
        scale = min(LOGO_PT / high, WIDTH / wide)
        return Image(BytesIO(data), wide * scale, high * scale, hAlign="LEFT")
    except Exception as error:
        raise NoPicture(say("the logo is no picture that can be read: PNG or JPEG")) from error


def front(d: Dossier, day: str, cover: Cover) -> Iterator[Flowable]:
    """The first page."""
    plan, book = d.plan, d.case.code
    if cover.logo:
        yield logo_of(cover.logo)
    yield Spacer(1, 24)
    yield words(plan.title or "Plan", TITLE)
    yield words(say("Low-voltage DC distribution: plan and checks. {day}.", day=day), BODY)
    by = ", ".join(filter(None, (one_line(cover.author), one_line(cover.firm))))
    if by:
        yield words(say("By {by}.", by=by), BODY)
    if plan.note:
        yield words(plan.note.strip(), BODY)
    found = ", ".join(s.counted(sum(f.verdict is s for f in d.findings)) for s in FAILING)
    volts = ", ".join(sorted({f"{b.nominal_v:g} V" for b in d.study.wiring.banks})) or say("no bank")
    rows = (
        (say("Code in force"), f"{book.name}: {book.summary}"),
        (
            say("System"),
            say(
                "{volts}; {equipment} pieces of equipment, {runs} conductors, {devices} protective devices",
                volts=volts,
                equipment=len(plan.equipment),
                runs=len(plan.runs),
                devices=len(d.protection.devices),
            ),
        ),
        (say("Scenarios"), ", ".join(s.title for s in plan.scenarios) or say("none")),
        (say("Findings"), found),
        (
            say("Own limits"),
            "; ".join(f"{o.limit} = {o.value:g}: {o.reason}" for o in plan.overrides)
            or say("none: the code as it stands"),
        ),
        (say("Made with"), say("jaunty-copper {version}", version=__version__)),
    )
    yield Spacer(1, 8)
    yield grid(("", ""), rows, (2, 8))
    yield Spacer(1, 10)
    yield words(" ".join(CAUTIONS[:2]), CAUTION)
