"""A device's own curve from a CSV file: current, shortest and longest opening time."""

import csv
from io import StringIO

from jaunty_copper.parts.figures import figure
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
        raise CurveError(f"{file}: the rating must be above 0 A")
    lines = [
        (n, line) for n, line in enumerate(text.lstrip("\ufeff").splitlines(), 1) if line.strip() and line[0] != "#"
    ]
    gates: list[Gate] = []
    for n, line in lines:
        mark = next((m for m in (";", "\t") if m in line), ",")
        try:
            cells = [c.strip() for c in next(csv.reader(StringIO(line), delimiter=mark))]
        except csv.Error as error:
            raise CurveError(f"{file}, line {n}: {error}") from None
        if not gates and any(c.isalpha() for c in cells[0]):
            continue
        if len(cells) != len(COLUMNS):
            raise CurveError(f"{file}, line {n}: expected {', '.join(COLUMNS)}; found {len(cells)} columns")
        values = [
            _number(c.replace(",", ".") if mark != "," else c, file, n, what)
            for c, what in zip(cells, COLUMNS, strict=True)
        ]
        current, shortest, longest = values
        if current is None:
            raise CurveError(f"{file}, line {n}: current_a is missing")
        gates.append((current / rating_a, shortest, longest))
    if len(gates) < 2:
        raise CurveError(f"{file}: a curve takes at least two lines of figures")
    return tuple(sorted(gates, key=lambda g: g[0]))


def _number(cell: str, file: str, line: int, what: str) -> float | None:
    if not cell:
        return None
    try:
        value = figure(cell)
    except ValueError:
        raise CurveError(f"{file}, line {line}: {what} is no number: {cell[:40]!r}") from None
    if not LEAST <= value <= MOST:
        raise CurveError(f"{file}, line {line}: {what} must be above 0 and finite, not {cell[:40]}")
    return value
