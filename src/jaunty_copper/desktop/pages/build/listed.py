"""A listing of the documents as a table of the window."""

from collections.abc import Callable
from typing import Any

from jaunty_copper.desktop.widgets.table import ViewColumn
from jaunty_copper.documents.dossier import Dossier
from jaunty_copper.documents.listings import ListColumn, Listing
from jaunty_copper.documents.words import Units


def columns_of(
    listing: Listing, dossier: Callable[[], Dossier | None], units: Callable[[], Units]
) -> tuple[ViewColumn, ...]:
    """What a window shows of a listing, in the units that it shows."""

    def text(column: ListColumn) -> Callable[[Any], str]:
        return lambda row: column.shown(d, row, units()) if (d := dossier()) is not None else ""

    return tuple(ViewColumn(c.title, text(c), c.px, c.right) for c in listing.columns if c.px is not None)
