"""Readings in a CSV file, as the expected ones are written."""

import csv
from collections.abc import Mapping
from io import StringIO

import numpy as np

from jaunty_copper.commission.model import Bench, Point
from jaunty_copper.physics.copper import Floats

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


def read_readings(text: str, bench: Bench, file: str = "readings") -> Floats:
    """Readings at every point of a bench; nan where none was taken.

    Raises
    ------
    ReadingsError
        With file, line and reason.
    """
    rows = csv.DictReader(StringIO(text.lstrip("\ufeff")))
    if rows.fieldnames is None or not {"quantity", "a", "read"} <= set(rows.fieldnames):
        raise ReadingsError(f"{file}: expected the columns {', '.join(COLUMNS)}")
    at = {tuple(p): k for k, p in enumerate(bench.points)}
    found = np.full(len(bench.points), np.nan)
    for n, row in enumerate(rows, 2):
        key = (row["quantity"] or "", row["a"] or "", row.get("b") or "")
        if key not in at:
            raise ReadingsError(f"{file}, line {n}: nothing is measured at {' '.join(key).strip() or 'an empty place'}")
        cell = (row["read"] or "").strip()
        if not cell:
            continue
        try:
            value = float(cell)
        except ValueError:
            raise ReadingsError(f"{file}, line {n}: read is no number: {cell!r}") from None
        if not np.isfinite(value):
            raise ReadingsError(f"{file}, line {n}: read must be finite, not {cell}")
        found[at[key]] = value
    return found
