"""The chapter on another plan: what differs from it, and how the one is altered into the other."""

from collections.abc import Iterator

from reportlab.platypus import Flowable

from jaunty_copper.documents.alteration import AlterationSheet
from jaunty_copper.documents.comparison import Comparison
from jaunty_copper.documents.dossier import Dossier
from jaunty_copper.documents.map.drawing import map_drawing
from jaunty_copper.documents.pdf.sheet import BODY, CAUTION, HEIGHT, SUB, Figure, head, whole, words
from jaunty_copper.language import say


def differing_from(d: Dossier, before: Dossier) -> Iterator[Flowable]:
    """What differs from a plan, and the order of the work from it."""
    yield from head(say("What differs"))
    found = Comparison(before, d)
    name, code = before.plan.title or say("another plan"), before.case.code.name
    yield words(say("Before: {name}, by {code}. After: this plan.", name=name, code=code), BODY)
    for one in found.tables():
        yield from head(one.title, SUB)
        yield whole(one) if one.rows else words(say("None."), BODY)
    if found.changes:
        yield from head(say("Both maps"), SUB)
        yield words(say("In the worst case: before above, after below; what differs is ringed."), BODY)
        for which, ringed in zip((before, d), found.ringed, strict=True):
            yield Figure(map_drawing(which.known, None, ringed=ringed), most=HEIGHT / 2 - 60)
    sheet = AlterationSheet(before, d)
    if not sheet.found.steps:
        return
    yield from head(say("From the one to the other"))
    if sheet.stays_live:
        yield words(say("Live while hands are at work: {live}.", live=sheet.stays_live), CAUTION)
    for one in sheet.tables():
        if one.rows:
            yield from head(one.title, SUB)
            yield whole(one)
