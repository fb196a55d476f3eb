"""A device's own curve from a CSV file: current, shortest and longest opening time."""

import csv
from io import StringIO

from jaunty_copper.language import say
from jaunty_copper.parts.figures import CsvError, figure_at
from jaunty_copper.parts.models import LEAST, MOST, Gate

COLUMNS = ("current_a", "shortest_s", "longest_s")


class CurveError(ValueError):
    """A curve file that cannot be read; says which line and why."""


def read_curve(text: str, rating_a: float, file: str = "curve") -> tuple[Gate, ...]:
    """Read a curve.

    Parameters
    ----------
    text : str
        CSV with the columns current_a, shortest_s and longest_s, in this order; a first line of
        words is a header, lines that begin with # are left out, an empty time is no limit.
        Comma, semicolon or tabulator part the columns.
    rating_a : float
        Rated current of the device that the curve was measured on, A.
    file : str
        What to call it in an error.

    Returns
    -------
    tuple of Gate
        Multiples of the rating with shortest and longest time, ascending.

    Raises
    ------
    CurveError
        With file, line and reason.
    """
    if not rating_a > 0.0:
        raise CurveError(say("{file}: the rating must be above 0 A", file=file))
    lines = [
        (n, line) for n, line in enumerate(text.lstrip("\ufeff").splitlines(), 1) if line.strip() and line[0] != "#"
    ]
    gates: list[Gate] = []
    for n, line in lines:
        mark = next((m for m in (";", "\t") if m in line), ",")
        try:
            cells = [c.strip() for c in next(csv.reader(StringIO(line), delimiter=mark))]
        except csv.Error as error:
            raise CurveError(say("{file}, line {n}: {error}", file=file, n=n, error=error)) from None
        if not gates and any(c.isalpha() for c in cells[0]):
            continue
        if len(cells) != len(COLUMNS):
            raise CurveError(
                say(
                    "{file}, line {n}: expected {columns}; found {cells} columns",
                    file=file,
                    n=n,
                    columns=", ".join(COLUMNS),
                    cells=len(cells),
                )
            )
        values = [
            _number(c.replace(",", ".") if mark != "," else c, file, n, what)
            for c, what in zip(cells, COLUMNS, strict=True)
        ]
        current, shortest, longest = values
        if current is None:
            raise CurveError(say("{file}, line {n}: current_a is missing", file=file, n=n))
        gates.append((current / rating_a, shortest, longest))
    if len(gates) < 2:
        raise CurveError(say("{file}: a curve takes at least two lines of figures", file=file))
    return tuple(sorted(gates, key=lambda g: g[0]))


def _number(cell: str, file: str, line: int, what: str) -> float | None:
    if not cell:
        return None
    try:
        value = figure_at(cell, file, line, what)
    except CsvError as error:
        raise CurveError(str(error)) from None
    if not LEAST <= value <= MOST:
        raise CurveError(
            say(
                "{file}, line {line}: {what} must be above 0 and finite, not {cell}",
                file=file,
                line=line,
                what=what,
                cell=cell[:40],
            )
        )
    return value
