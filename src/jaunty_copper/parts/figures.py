"""Figures in files that people and other programs wrote."""

import csv
import re
from collections.abc import Iterator
from io import StringIO

FIGURE = re.compile(r"[+-]?(\d+\.?\d*|\.\d+)([eE][+-]?\d{1,3})?", re.ASCII)


def figure(text: str) -> float:
    """A figure as all the world writes it; not what Python alone would take, such as 1_2 or nan.

    Raises
    ------
    ValueError
        It is none.
    """
    if not FIGURE.fullmatch(text.strip()):
        raise ValueError("no number")
    return float(text)


class CsvError(ValueError):
    """What cannot be read as CSV; says where and why."""


def rows_of(text: str, mark: str = ",", needs: tuple[str, ...] = ()) -> Iterator[tuple[int, dict[str, str]]]:
    """Lines of a CSV with a head, each with its number; cells that are missing are empty.

    Parameters
    ----------
    mark : str
        What parts the columns.
    needs : tuple of str
        Columns that must be there.

    Raises
    ------
    CsvError
        A column is missing, or a line cannot be read.
    """
    rows = csv.reader(StringIO(text.lstrip("\ufeff"), newline=""), delimiter=mark)
    try:
        head = next(rows, [])
        if not set(needs) <= set(head):
            raise CsvError(f"expected the columns {', '.join(needs)}")
        for cells in rows:
            if cells:
                yield rows.line_num, dict.fromkeys(head, "") | dict(zip(head, cells, strict=False))
    except csv.Error as error:
        raise CsvError(f"line {rows.line_num}: {error}") from None
