"""A table once and for all: its columns, its rows, and how both are written."""

import csv
from collections.abc import Sequence
from io import BytesIO, StringIO
from math import isfinite
from typing import NamedTuple

from jaunty_copper.parts.figures import short
from jaunty_copper.plan.text import lines, one_line

FORMULA = ("=", "+", "-", "@", "\t", "\r")
"""What a spreadsheet takes for the beginning of a formula."""
Cell = str | float | int | None
WIDEST = 90
"""Characters that a cell shows at most on a terminal."""


class Column(NamedTuple):
    """A column of a table.

    Attributes
    ----------
    name : str
        As programs read it, with its unit.
    title : str
        As people read it, with its unit.
    width : float
        Share of a page's width, beside the other columns.
    places : int or None
        Behind the point, on a terminal; None for four figures that count.
    """

    name: str
    title: str
    width: float = 10.0
    places: int | None = None


def column(name: str, title: str = "", width: float = 10.0) -> Column:
    """A column; people read its name where it has no title of its own.

    Parameters
    ----------
    name : str
        In data files.
    title : str
        For people.
    width : float
        Share of the page, beside the others.
    """
    return Column(name, title, width)


def columns(*names: str) -> tuple[Column, ...]:
    """Columns of one width, by their names."""
    return tuple(column(name) for name in names)


class Table(NamedTuple):
    """Rows under heads.

    Attributes
    ----------
    name, title : str
        For files, and for people.
    columns : tuple of Column
        One for each cell of a row.
    rows : tuple of tuple
        Figures as figures, nothing as None.
    """

    name: str
    title: str
    columns: tuple[Column, ...]
    rows: tuple[tuple[Cell, ...], ...]

    @property
    def head(self) -> tuple[str, ...]:
        """Names of the columns, with their units."""
        return tuple(c.name for c in self.columns)


def as_csv(table: Table) -> str:
    """A table as CSV: figures as figures, words that begin like a formula behind an apostrophe."""
    out = StringIO()
    writer = csv.writer(out, lineterminator="\n")
    writer.writerow(table.head)
    for row in table.rows:
        writer.writerow([_cell(c) for c in row])
    return out.getvalue()


def as_text(table: Table, heads: bool = True) -> str:
    """A table as lines of a terminal: figures at the right of their column, long words cut but in the last one.

    Parameters
    ----------
    heads : bool
        Whether the titles of its columns stand above.
    """
    rows = [[_shown(c, value) for c, value in zip(table.columns, row, strict=True)] for row in table.rows]
    rows = [[*(_cut(cell) for cell in row[:-1]), row[-1]] for row in rows]
    body = [[c.title or c.name for c in table.columns], *rows] if heads else rows
    widths = [max(map(len, cells)) for cells in zip(*body, strict=True)]
    right = [
        any(isinstance(row[k], int | float) for row in table.rows)
        and not any(isinstance(row[k], str) for row in table.rows)
        for k in range(len(table.columns))
    ]
    laid = (
        "  ".join(c.rjust(w) if at_right else c.ljust(w) for c, w, at_right in zip(cells, widths, right, strict=True))
        for cells in body
    )
    return "\n".join(f"  {one.rstrip()}" for one in laid)


def _shown(at: Column, value: Cell) -> str:
    if value is None or (isinstance(value, float) and not isfinite(value)):
        return ""
    if isinstance(value, float):
        return f"{value + 0.0:.{at.places}f}" if at.places is not None else short(value)
    return one_line(str(value))


def _cut(text: str) -> str:
    return text if len(text) <= WIDEST else f"{text[: WIDEST - 1]}…"


def _cell(value: Cell) -> str | float | int:
    if value is None or (isinstance(value, float) and not isfinite(value)):
        return ""
    if isinstance(value, str):
        clean = lines(value)
        return f"'{clean}" if clean.startswith(FORMULA) else clean
    return round(value, 6) if isinstance(value, float) else value


def as_xlsx(tables: Sequence[Table]) -> bytes:
    """Tables as one spreadsheet, a sheet each: figures are numbers, words are words and never formulas."""
    from openpyxl import Workbook
    from openpyxl.styles import Font
    from openpyxl.utils import get_column_letter

    book = Workbook()
    book.remove(book.worksheets[0])
    for table in tables:
        sheet = book.create_sheet(table.title[:31])
        for r, row in enumerate((table.head, *table.rows), 1):
            for c, value in enumerate(row, 1):
                if value is None or (isinstance(value, float) and not isfinite(value)):
                    continue
                if isinstance(value, str):
                    sheet.cell(r, c, lines(value)).data_type = "s"
                else:
                    sheet.cell(r, c, round(value, 6) if isinstance(value, float) else value)
        for c in range(1, len(table.head) + 1):
            sheet.cell(1, c).font = Font(bold=True)
            longest = max(
                (len(str(row[c - 1])) for row in (table.head, *table.rows) if row[c - 1] is not None), default=4
            )
            sheet.column_dimensions[get_column_letter(c)].width = min(max(longest + 1, 8), 60)
        sheet.freeze_panes = "A2"
    out = BytesIO()
    book.save(out)
    return out.getvalue()
