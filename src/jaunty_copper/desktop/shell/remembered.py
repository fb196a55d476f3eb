"""What the window looks like is remembered: its place, its page, dividers, columns, the size of the map."""

from __future__ import annotations

import base64
import binascii
from collections.abc import Iterator
from functools import partial
from typing import TYPE_CHECKING

from PySide6.QtCore import QByteArray
from PySide6.QtWidgets import QHeaderView, QSplitter, QTableView, QWidget

from jaunty_copper.desktop.pages import PAGES

if TYPE_CHECKING:
    from jaunty_copper.desktop.shell.window import Window

WIDTHS_PX = (16, 1200)


class Remembered:
    """Puts a window as it was left, and writes down how it is left."""

    def __init__(self, window: Window) -> None:
        self.window, self.settings = window, window.settings

    def restore(self) -> None:
        """Put the window where it was, before it is shown."""
        try:
            place = base64.b64decode(self.settings.get("place", ""), validate=True)
        except (binascii.Error, ValueError):
            place = b""
        if place:
            self.window.restoreGeometry(QByteArray(place))
        self.parts(self.window)

    def begin(self) -> None:
        """Go to the page that was shown, once the map stands, and give the map its size."""
        zoom = self.settings.get("zoom", 0.0)
        if 0.0 < zoom < 100.0:
            self.window.map.zoom(zoom / self.window.map.look.scale)
        page = self.settings.get("page", "map")
        if page in PAGES and page != self.window.page:
            self.window.show_page(page)

    def parts(self, of: QWidget) -> None:
        """Put dividers and columns of what was just made as they were, and notice when they are moved."""
        divided: dict[str, object] = self.settings.get("dividers", {})
        for splitter, name in _dividers(of):
            sizes = _numbers(divided.get(name))
            if len(sizes) == splitter.count() and sum(sizes) > 0:
                splitter.setSizes(sizes)
                # As if a person had moved it just now: what the layout would share out anew stays as it was.
                splitter.splitterMoved.emit(sizes[0], 1)
            splitter.splitterMoved.connect(partial(self._moved, splitter, name))
        columns: dict[str, object] = self.settings.get("columns", {})
        for table, name in _tables(of):
            head, widths = table.horizontalHeader(), _numbers(columns.get(name))
            if len(widths) == head.count():
                for k, px in enumerate(widths):
                    if head.sectionResizeMode(k) == QHeaderView.ResizeMode.Interactive:
                        head.resizeSection(k, min(max(px, WIDTHS_PX[0]), WIDTHS_PX[1]))
            head.geometriesChanged.connect(partial(self._resized, table, name))
            head.sectionResized.connect(partial(self._resized, table, name))

    def _moved(self, splitter: QSplitter, name: str, *_: int) -> None:
        self.settings.values["dividers"] = {**self.settings.get("dividers", {}), name: splitter.sizes()}

    def _resized(self, table: QTableView, name: str, *_: int) -> None:
        """Keep the widths where a hand is on the head: tables set their own widths too."""
        head = table.horizontalHeader()
        if head.viewport().underMouse():
            widths = [head.sectionSize(k) for k in range(head.count())]
            self.settings.values["columns"] = {**self.settings.get("columns", {}), name: widths}

    def keep(self) -> None:
        """Write down how the window is left."""
        window = self.window
        place = base64.b64encode(window.saveGeometry().data()).decode("ascii")
        self.settings.values |= {"page": window.page, "zoom": 0.0 if window.map.is_fitted else window.map.look.scale}
        self.settings.put("place", place)
        self.settings.write()


def _dividers(of: QWidget) -> Iterator[tuple[QSplitter, str]]:
    """Splitters with a name, the outer ones first."""
    found = [of] if isinstance(of, QSplitter) else []
    for splitter in (*found, *of.findChildren(QSplitter)):
        if splitter.count() > 1 and (name := splitter.handle(1).accessibleName()):
            yield splitter, name


def _tables(of: QWidget) -> Iterator[tuple[QTableView, str]]:
    for table in of.findChildren(QTableView):
        if table.accessibleName() and table.model() is not None:
            yield table, table.accessibleName()


def _numbers(values: object) -> list[int]:
    """Sizes in pixels out of a file that anybody may have written; none where it holds anything else."""
    sound = isinstance(values, list) and all(isinstance(v, int) and 0 <= v < 10_000 for v in values)
    return values if isinstance(values, list) and sound else []
