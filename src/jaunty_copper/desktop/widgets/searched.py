"""A table in a dialog, and a line to search it."""

from collections.abc import Sequence
from typing import Any

from PySide6.QtCore import QEvent, QItemSelectionModel, QModelIndex, QObject, Qt, Signal
from PySide6.QtGui import QKeyEvent
from PySide6.QtWidgets import QApplication, QDialog, QDialogButtonBox, QLineEdit, QVBoxLayout, QWidget

from jaunty_copper.desktop.widgets.asking import answers
from jaunty_copper.desktop.widgets.table import Rows, ViewColumn, table_view

STEPS = (Qt.Key.Key_Up, Qt.Key.Key_Down, Qt.Key.Key_PageUp, Qt.Key.Key_PageDown)
"""Keys that go through the table while the line has the keyboard."""


class Searched(QDialog):
    """All rows whose columns hold every word that is typed; Return or a double click chooses one.

    Parameters
    ----------
    title : str
        Of the dialog and its table.
    columns : sequence of ViewColumn
        What is shown, and searched.
    rows : sequence
        One for each line.
    search, hint : str
        Name of the line, and what it says while it is empty.
    """

    chosen = Signal(object)
    """A row."""

    def __init__(
        self, title: str, columns: Sequence[ViewColumn], rows: Sequence[Any], search: str, hint: str, parent: QWidget | None
    ) -> None:  # fmt: skip
        super().__init__(parent)
        self.setWindowTitle(title)
        self.resize(720, 560)
        self._held = [(row, [c.text(row).lower() for c in columns]) for row in rows]
        self.search = QLineEdit()
        self.search.setAccessibleName(search)
        self.search.setPlaceholderText(hint)
        self.search.setClearButtonEnabled(True)
        self.search.textChanged.connect(self._filter)
        self.search.installEventFilter(self)
        self.table = Rows(columns)
        self.view = table_view(self.table, title)
        self.view.activated.connect(self._choose)
        buttons = answers(QDialogButtonBox.StandardButton.Close)
        buttons.rejected.connect(self.reject)
        column = QVBoxLayout(self)
        column.addWidget(self.search)
        column.addWidget(self.view, 1)
        column.addWidget(buttons)
        self._filter("")
        self.search.setFocus(Qt.FocusReason.OtherFocusReason)

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        """Lead the keys that go through rows, and Return, from the line to the table."""
        if watched is self.search and isinstance(event, QKeyEvent) and event.type() == QEvent.Type.KeyPress:
            if event.key() in STEPS:
                QApplication.sendEvent(self.view, event)
                return True
            if event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
                self._choose(self.view.currentIndex())
                return True
        return super().eventFilter(watched, event)

    def _filter(self, text: str) -> None:
        words, whole = text.lower().split(), text.lower().strip()
        found = [(r, texts) for r, texts in self._held if all(w in " ".join(texts) for w in words)]
        # What is called exactly so comes first: a search for an id finds its own.
        self.table.show_rows([r for r, texts in sorted(found, key=lambda x: whole not in x[1])])
        self.view.selectionModel().setCurrentIndex(
            self.table.index(0, 0),
            QItemSelectionModel.SelectionFlag.ClearAndSelect | QItemSelectionModel.SelectionFlag.Rows,
        )

    def _choose(self, index: QModelIndex) -> None:
        if index.isValid():
            self.chosen.emit(self.table.rows[index.row()])
