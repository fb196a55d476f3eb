"""Figures: read from files that people and other programs wrote, and written for people."""

import csv
import re
from collections.abc import Iterator
from io import StringIO
from math import floor, isfinite, log10

from jaunty_copper.language import say

FIGURE = re.compile(r"[+-]?(\d+\.?\d*|\.\d+)([eE][+-]?\d{1,3})?", re.ASCII)


def figure(text: str) -> float:
    """A figure as all the world writes it; not what Python alone would take, such as 1_2 or nan.

    Raises
    ------
    ValueError
        It is none.
    """
    if not FIGURE.fullmatch(text.strip()):
        raise ValueError(say("no number"))
    return float(text)


class CsvError(ValueError):
    """What cannot be read as CSV; says where and why."""


def figure_at(cell: str, file: str, line: int, what: str) -> float:
    """A figure in a cell of a file that a person gave.

    Parameters
    ----------
    line : int
        Its number, from 1.
    what : str
        What the column is called.

    Raises
    ------
    CsvError
        It is none; says in which file and line, and what stands there.
    """
    try:
        return figure(cell)
    except ValueError:
        raise CsvError(
            say("{file}, line {line}: {what} is no number: {cell!r}", file=file, line=line, what=what, cell=cell[:40])
        ) from None


def mark_of(text: str) -> str:
    """What parts the columns of a CSV file: a semicolon where its head has one, and then commas stand in figures."""
    return ";" if ";" in text.partition("\n")[0] else ","


def figure_rows(text: str, mark: str = ",", needs: tuple[str, ...] = ()) -> Iterator[tuple[int, dict[str, str]]]:
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
            raise CsvError(say("expected the columns {needs}", needs=", ".join(needs)))
        for cells in rows:
            if cells:
                yield rows.line_num, dict.fromkeys(head, "") | dict(zip(head, cells, strict=False))
    except csv.Error as error:
        raise CsvError(say("line {line_num}: {error}", line_num=rows.line_num, error=error)) from None


PREFIXES = ((1e9, "G"), (1e6, "M"), (1e3, "k"), (1.0, ""), (1e-3, "m"), (1e-6, "µ"), (1e-9, "n"))


def short(value: float) -> str:
    """A figure to three significant digits, without an exponent and without idle zeros.

    Parameters
    ----------
    value : float
        Of any size; inf and nan too.

    Examples
    --------
    >>> short(1234.5), short(0.012345), short(9.996), short(100.0)
    ('1230', '0.0123', '10', '100')
    """
    if not isfinite(value):
        return "–"
    if value == 0.0:
        return "0"
    places = 2 - floor(log10(abs(value)))
    rounded = round(value, places)
    return f"{rounded:.{max(places, 0)}f}".rstrip("0").rstrip(".") if places > 0 else f"{rounded:.0f}"


def quantity(value: float, unit: str) -> str:
    """A quantity to three significant digits with the prefix that suits it.

    Parameters
    ----------
    value : float
        In the unit without a prefix.
    unit : str
        Its sign.

    Examples
    --------
    >>> quantity(12340.0, "A"), quantity(0.00518, "Ω"), quantity(3742992.0, "A²s"), quantity(0.0, "V")
    ('12.3 kA', '5.18 mΩ', '3.74 MA²s', '0 V')
    """
    if not isfinite(value) or value == 0.0:
        return f"{short(value)} {unit}"
    # What rounds up to a thousand has the next prefix.
    size = abs(round(value, 2 - floor(log10(abs(value)))))
    factor, prefix = next(((f, p) for f, p in PREFIXES if size >= f), PREFIXES[-1])
    return f"{short(value / factor)} {prefix}{unit}"
