"""Prices from a file, and what is shown into one."""

from __future__ import annotations

from functools import partial
from pathlib import Path
from typing import TYPE_CHECKING

from PySide6.QtWidgets import QFileDialog

from jaunty_copper.documents.drawing import as_svg
from jaunty_copper.documents.drawings import board_drawing
from jaunty_copper.documents.table import as_csv, as_xlsx
from jaunty_copper.documents.tables import table
from jaunty_copper.language import say
from jaunty_copper.parts.price_file import PriceError, read_prices
from jaunty_copper.plan import edits
from jaunty_copper.plan.edits import Edit
from jaunty_copper.plan.storage import MOST_TEXT, read_text, write_atomically

if TYPE_CHECKING:
    from jaunty_copper.desktop.pages.build.page import BuildPage


def take_prices(page: BuildPage, path: Path | None = None) -> None:
    """Take prices from a file; says what is wrong with it."""
    if path is None:
        name, _ = QFileDialog.getOpenFileName(
            page, say("Own prices"), str(Path.home()), say("CSV (*.csv);;All files (*)")
        )
        if not name:
            return
        path = Path(name)
    assert page.shop is not None
    try:
        own = read_prices(read_text(path, MOST_TEXT), path.name)
    except (PriceError, OSError, UnicodeDecodeError) as error:
        page.note.setText(say("Not read: {error}", error=error))
        return
    page.wanted.emit(
        Edit(
            say("{own} own prices", own=len(own.prices)), partial(edits.put_prices, prices=own.prices, packs=own.packs)
        )
    )


def save_shown(page: BuildPage, path: Path | None = None) -> None:
    """Save the table that is shown."""
    if page.dossier is None:
        return
    board = page.section == "board"
    if path is None:
        kinds = say("SVG (*.svg)") if board else say("CSV (*.csv);;Spreadsheet (*.xlsx)")
        file = str(Path.home() / f"{page.section}.{'svg' if board else 'csv'}")
        name, _ = QFileDialog.getSaveFileName(page, say("Save what is shown"), file, kinds)
        if not name:
            return
        path = Path(name)
    if board:
        shown = page.boards.board
        if shown is None:
            return
        data = as_svg(board_drawing(page.dossier.plan, page.dossier.shop.wiring.parts, shown)).encode("utf-8")
    else:
        made = table(page.dossier, page.section)
        data = as_xlsx((made,)) if path.suffix.lower() == ".xlsx" else as_csv(made).encode("utf-8")
    try:
        write_atomically(path, data)
    except OSError as error:
        page.note.setText(say("Not saved to {path}: {strerror}", path=path, strerror=error.strerror))
        return
    page.note.setText(say("Saved to {path}", path=path))
