"""Readings in a CSV file, as the expected ones are written."""

import csv
from collections.abc import Mapping
from io import StringIO

import numpy as np

from jaunty_copper.commissioning.model import Bench, known
from jaunty_copper.commissioning.points import UNIT, Point
from jaunty_copper.language import say
from jaunty_copper.parts.figures import CsvError, figure_at, figure_rows
from jaunty_copper.physics.copper import Floats

MOST = 1e7
"""Volts, amperes or degrees: what is above this is a slip of the pen, or a meter's word for an exceeded range."""
COLUMNS = ("quantity", "a", "b", "expected", "tolerance", "read")


class ReadingsError(ValueError):
    """A file of readings that cannot be used; says which line and why."""


def write_readings(
    bench: Bench, rows: tuple[int, ...] | None = None, taken: Mapping[Point, float] | None = None
) -> str:
    """Points with what to expect and an empty column to fill in.

    Parameters
    ----------
    bench : Bench
        What is measured on.
    rows : tuple of int, optional
        Which points; all where none are given.
    taken : mapping, optional
        What was read already.
    """
    out = StringIO()
    writer = csv.writer(out, lineterminator="\n")
    writer.writerow(COLUMNS)
    expected = bench.expected()
    for k in rows if rows is not None else range(len(expected)):
        e = expected[k]
        read = f"{taken[e.point]:.6g}" if taken is not None and e.point in taken else ""
        writer.writerow([*e.point, f"{e.value:.6g}", f"{e.tolerance:.2g}", read])
    return out.getvalue()


def with_points_of(text: str, bench: Bench) -> Bench:
    """A bench that also has the points of a table which it lacks and the plan has: a current, a joint, a warmth.

    What is neither a point of the plan nor a table at all is left to `read_readings`, which says so.

    Parameters
    ----------
    text : str
        CSV, as `write_readings` writes it and people go on with it.
    """
    try:
        rows = [row for _, row in figure_rows(text, needs=("quantity", "a", "read"))]
    except CsvError:
        return bench
    named = (Point(row["quantity"], row["a"], row.get("b", "")) for row in rows if row["quantity"] in UNIT)  # type: ignore[arg-type]
    return bench.with_points(p for p in named if known(bench.wiring, p))


def read_readings(text: str, bench: Bench, file: str = "readings") -> Floats:
    """Readings at every point of a bench; nan where none was taken.

    Raises
    ------
    ReadingsError
        With file, line and reason.
    """
    at = {tuple(p): k for k, p in enumerate(bench.points)}
    found = np.full(len(bench.points), np.nan)
    try:
        for n, row in figure_rows(text, needs=("quantity", "a", "read")):
            key = (row["quantity"], row["a"], row.get("b", ""))
            if key not in at:
                where = " ".join(key).strip()[:80] or say("an empty place")
                raise ReadingsError(
                    say("{file}, line {n}: nothing is measured at {where}", file=file, n=n, where=where)
                )
            cell = row["read"].strip()
            if cell:
                found[at[key]] = _reading(cell, file, n)
    except CsvError as error:
        raise ReadingsError(f"{file}: {error}") from None
    return found


def _reading(cell: str, file: str, line: int) -> float:
    try:
        value = figure_at(cell, file, line, "read")
    except CsvError as error:
        raise ReadingsError(str(error)) from None
    if abs(value) > MOST:
        raise ReadingsError(
            say(
                "{file}, line {line}: read is beyond what any meter shows: {cell}", file=file, line=line, cell=cell[:40]
            )
        )
    return value
