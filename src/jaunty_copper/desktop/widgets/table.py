"""A table of rows that are known at once, some of whose cells can be edited."""

from collections.abc import Callable, Sequence
from typing import Any, NamedTuple

from PySide6.QtCore import QAbstractTableModel, QModelIndex, QPersistentModelIndex, Qt, Signal
from PySide6.QtGui import QResizeEvent
from PySide6.QtWidgets import QAbstractItemView, QHeaderView, QTableView

from jaunty_copper.desktop.widgets.pending import guard_cells

Index = QModelIndex | QPersistentModelIndex
NAMING_COLUMNS = 3
LEAST_PX, WORDS_PX = 48, 120
"""Of any column, the one that takes what is left too: beyond that the table scrolls."""


class ViewColumn(NamedTuple):
    """One column.

    Attributes
    ----------
    title : str
        Its head.
    text : callable
        From a row to what is shown.
    px : int
        Width; the one with 0 takes what is left.
    right : bool
        Whether figures stand at the right.
    """

    title: str
    text: Callable[[Any], str]
    px: int
    right: bool = False


class Rows(QAbstractTableModel):
    """Rows of one kind."""

    edited = Signal(object, str)
    """A row, and what was typed into its editable column."""

    def __init__(self, columns: Sequence[ViewColumn], editable: int | None = None) -> None:
        super().__init__()
        self.columns = columns
        self.editable = editable
        self.rows: Sequence[Any] = ()

    def show_rows(self, rows: Sequence[Any]) -> None:
        """Show other rows; a cell that is being edited stays open where its row is still there."""
        if self.editable is not None and rows and self._names(rows) == self._names(self.rows):
            self.rows = rows
            self.dataChanged.emit(self.index(0, 0), self.index(len(rows) - 1, len(self.columns) - 1))
            return
        self.beginResetModel()
        self.rows = rows
        self.endResetModel()

    def _names(self, rows: Sequence[Any]) -> list[tuple[str, ...]]:
        """What tells rows apart: what stands before the cell that can be edited."""
        before = self.columns[: min(self.editable or 0, NAMING_COLUMNS)]
        return [tuple(c.text(row) for c in before) for row in rows]

    def rowCount(self, parent: Index | None = None) -> int:
        """Number of rows."""
        return 0 if parent is not None and parent.isValid() else len(self.rows)

    def columnCount(self, parent: Index | None = None) -> int:
        """Number of columns."""
        return 0 if parent is not None and parent.isValid() else len(self.columns)

    def data(self, index: Index, role: int = Qt.ItemDataRole.DisplayRole) -> Any:
        """Text and alignment of a cell."""
        column = self.columns[index.column()]
        if role in (Qt.ItemDataRole.DisplayRole, Qt.ItemDataRole.EditRole):
            return column.text(self.rows[index.row()])
        if role == Qt.ItemDataRole.TextAlignmentRole:
            side = Qt.AlignmentFlag.AlignRight if column.right else Qt.AlignmentFlag.AlignLeft
            return side | Qt.AlignmentFlag.AlignVCenter
        return None

    def headerData(self, section: int, orientation: Qt.Orientation, role: int = Qt.ItemDataRole.DisplayRole) -> Any:
        """Heads of the columns."""
        if role == Qt.ItemDataRole.DisplayRole and orientation == Qt.Orientation.Horizontal:
            return self.columns[section].title
        return None

    def flags(self, index: Index) -> Qt.ItemFlag:
        """Which cells can be edited."""
        flags = super().flags(index)
        return flags | Qt.ItemFlag.ItemIsEditable if index.column() == self.editable else flags

    def setData(self, index: Index, value: Any, role: int = Qt.ItemDataRole.EditRole) -> bool:
        """Hand on what was typed; the row changes when the plan does."""
        if role != Qt.ItemDataRole.EditRole or index.column() != self.editable:
            return False
        self.edited.emit(self.rows[index.row()], str(value))
        return True


class _Table(QTableView):
    """Keeps the chosen row in sight where others come above it, or something takes the table's height."""

    def __init__(self) -> None:
        super().__init__()
        self.taking: tuple[int, ...] = ()
        """Columns that take what is left."""
        self.verticalScrollBar().rangeChanged.connect(self._keep, Qt.ConnectionType.QueuedConnection)

    def resizeEvent(self, event: QResizeEvent) -> None:
        """Where hardly anything is left, a column that takes it keeps room for some words, and the table is scrolled."""
        super().resizeEvent(event)
        head = self.horizontalHeader()
        others = sum(head.sectionSize(k) for k in range(head.count()) if k not in self.taking)
        scarce = self.viewport().width() - others < WORDS_PX * len(self.taking)
        for k in self.taking:
            head.setSectionResizeMode(k, QHeaderView.ResizeMode.Fixed if scarce else QHeaderView.ResizeMode.Stretch)
            if scarce:
                head.resizeSection(k, WORDS_PX)

    def _keep(self) -> None:
        self.scrollTo(self.currentIndex())


def table_view(model: Rows, name: str) -> QTableView:
    """A view of rows: whole rows chosen, columns as wide as they say, one that takes what is left."""
    view = _Table()
    view.setModel(model)
    guard_cells(view)
    view.setAccessibleName(name)
    view.verticalHeader().hide()
    view.verticalHeader().setDefaultSectionSize(25)
    whole = (
        QAbstractItemView.SelectionBehavior.SelectItems
        if model.editable is not None
        else QAbstractItemView.SelectionBehavior.SelectRows
    )
    view.setSelectionBehavior(whole)
    # The Tab key leads out of the table; in a cell that is being typed into, to the next one.
    view.setTabKeyNavigation(False)
    view.setSelectionMode(QAbstractItemView.SelectionMode.SingleSelection)
    view.setEditTriggers(
        QAbstractItemView.EditTrigger.DoubleClicked
        | QAbstractItemView.EditTrigger.AnyKeyPressed
        | QAbstractItemView.EditTrigger.EditKeyPressed
    )
    view.setShowGrid(False)
    view.setWordWrap(False)
    head = view.horizontalHeader()
    head.setHighlightSections(False)
    head.setMinimumSectionSize(LEAST_PX)
    head.setDefaultAlignment(Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter)
    for k, c in enumerate(model.columns):
        if c.px:
            view.setColumnWidth(k, c.px)
        else:
            head.setSectionResizeMode(k, QHeaderView.ResizeMode.Stretch)
    view.taking = tuple(k for k, c in enumerate(model.columns) if not c.px)
    return view
