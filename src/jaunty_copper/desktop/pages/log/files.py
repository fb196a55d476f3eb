"""Points to fill in, as a CSV file, and readings from one."""

from __future__ import annotations

from functools import partial
from math import isfinite
from pathlib import Path
from typing import TYPE_CHECKING

from PySide6.QtWidgets import (
    QFileDialog,
)

from jaunty_copper.commissioning.readings_file import ReadingsError, read_readings, with_points_of, write_readings
from jaunty_copper.desktop.pages.log.said import CAUTION
from jaunty_copper.language import say
from jaunty_copper.plan import edits
from jaunty_copper.plan.edits import Edit
from jaunty_copper.plan.model import Reading
from jaunty_copper.plan.storage import MOST_TEXT, read_text, write_atomically

if TYPE_CHECKING:
    from jaunty_copper.desktop.pages.log.measure import MeasurePane


def save_points(pane: MeasurePane, path: Path | None = None) -> None:
    """Save the points to fill in."""
    f = pane.found
    if f is None or f.bench is None:
        return
    if path is None:
        name, _ = QFileDialog.getSaveFileName(
            pane, say("Points to fill in"), str(Path.home() / "readings.csv"), say("CSV (*.csv)")
        )
        if not name:
            return
        path = Path(name)
    shown = {r.expected.point for r in pane.table.rows}
    rows = tuple(k for k, p in enumerate(f.bench.points) if p in shown)
    try:
        write_atomically(path, write_readings(f.bench, rows, f.taken).encode("utf-8"))
    except OSError as error:
        pane.note.setText(say("Not saved to {path}: {strerror}", path=path, strerror=error.strerror))
        return
    pane.note.setText(say("Saved to {path}: fill in its last column and read it back", path=path))


def load_readings(pane: MeasurePane, path: Path | None = None) -> None:
    """Take readings from a file; says what is wrong with it."""
    f = pane.found
    if f is None or f.bench is None:
        return
    if path is None:
        name, _ = QFileDialog.getOpenFileName(pane, "Readings", str(Path.home()), say("CSV (*.csv);;All files (*)"))
        if not name:
            return
        path = Path(name)
    try:
        text = read_text(path, MOST_TEXT)
        wide = with_points_of(text, f.bench)
        values = read_readings(text, wide, path.name)
    except (ReadingsError, OSError, UnicodeDecodeError) as error:
        pane.note.setText(say("Not read: {error}", error=error))
        return
    new = {p: float(v) for p, v in zip(wide.points, values, strict=True) if isfinite(v)}
    if pane.practice.bench is not None:
        pane.practice.taken[f.scenario.id] = {**pane.practice.taken.get(f.scenario.id, {}), **new}
        pane.refresh()
        return
    taken = [Reading(scenario=f.scenario.id, quantity=p.quantity, a=p.a, b=p.b, value=v) for p, v in new.items()]
    pane.wanted.emit(
        Edit(
            say("{new} readings from {path}", new=len(new), path=path.name),
            partial(edits.take_readings, readings=taken),
        )
    )
    pane.note.setText(CAUTION)
