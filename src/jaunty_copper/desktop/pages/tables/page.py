"""The Tables page: one sheet at a time, typed through like a spreadsheet."""

from collections.abc import Callable, Sequence
from functools import partial

from PySide6.QtCore import QEvent, QModelIndex, QPersistentModelIndex, Qt, Signal
from PySide6.QtGui import QKeyEvent, QKeySequence
from PySide6.QtWidgets import (
    QAbstractItemDelegate,
    QAbstractItemView,
    QApplication,
    QCompleter,
    QHBoxLayout,
    QInputDialog,
    QLineEdit,
    QListWidget,
    QPushButton,
    QStyleOptionViewItem,
    QTableView,
    QVBoxLayout,
    QWidget,
)

from jaunty_copper.desktop.pages.base import Page
from jaunty_copper.desktop.pages.tables.adding import SheetAdding
from jaunty_copper.desktop.pages.tables.model import SheetModel
from jaunty_copper.desktop.pages.tables.sheets import SHEETS
from jaunty_copper.desktop.widgets.asking import ask
from jaunty_copper.desktop.widgets.label import Label
from jaunty_copper.desktop.widgets.passing_menu import PassingMenu
from jaunty_copper.desktop.widgets.pending import CellDelegate, guard_cells
from jaunty_copper.desktop.widgets.quantity import NotUnderstood
from jaunty_copper.documents.map.picture import Picture
from jaunty_copper.documents.words import Units
from jaunty_copper.language import say
from jaunty_copper.plan.edits import Edit
from jaunty_copper.plan.model import Plan

WIDEST, NARROWEST, HEAD_PX, AROUND = 240, 44, 42, 22
SORTS = {Qt.Key.Key_Up: Qt.SortOrder.AscendingOrder, Qt.Key.Key_Down: Qt.SortOrder.DescendingOrder}
"""With Alt: the column where the keyboard is, from the smallest, from the largest."""
SEEN = 200
"""Rows by which columns are made wide enough."""


LEAVES = {
    Qt.Key.Key_Return: QAbstractItemDelegate.EndEditHint.SubmitModelCache, Qt.Key.Key_Enter: QAbstractItemDelegate.EndEditHint.SubmitModelCache,
    Qt.Key.Key_Tab: QAbstractItemDelegate.EndEditHint.EditNextItem, Qt.Key.Key_Backtab: QAbstractItemDelegate.EndEditHint.EditPreviousItem,
}  # fmt: skip
"""Keys that leave a cell, and where to."""


class CellLine(QLineEdit):
    """The line in a cell; what is offered below it does not keep Return or Tab from leaving the cell."""

    left = Signal(object)

    def event(self, event: QEvent) -> bool:
        """Leave the cell though a list hangs below it."""
        if isinstance(event, QKeyEvent) and event.type() == QEvent.Type.KeyPress and event.key() in LEAVES:
            completer = self.completer()
            offered = completer.popup() if completer is not None else None
            if offered is not None and offered.isVisible():
                offered.hide()
                self.left.emit(LEAVES[Qt.Key(event.key())])
                return True
        return super().event(event)


class ChoosingDelegate(CellDelegate):
    """Cells are lines; where one of several values is wanted, those that fit are offered while one types."""

    def createEditor(
        self, parent: QWidget, _: QStyleOptionViewItem, index: QModelIndex | QPersistentModelIndex
    ) -> QWidget:
        """A line, with what can be chosen."""
        line = CellLine(parent)
        line.left.connect(partial(self._leave, line))
        model = index.model()
        assert isinstance(model, SheetModel)
        row = model.rows[index.row()]
        field = model.field(row, model.columns[index.column()])
        words = [word for _, word in model.choices(row, field)] if field is not None and field.choices else []
        if field is not None and field.kind == "flag":
            words = ["yes", "no"]
        line.setAccessibleName(say("{columns} of {key}", columns=model.columns[index.column()].title, key=row.key))
        if words:
            completer = QCompleter(words, line)
            completer.setCaseSensitivity(Qt.CaseSensitivity.CaseInsensitive)
            completer.setFilterMode(Qt.MatchFlag.MatchContains)
            line.setCompleter(completer)
        return line

    def _leave(self, line: CellLine, hint: QAbstractItemDelegate.EndEditHint) -> None:
        self.commitData.emit(line)
        self.closeEditor.emit(line, hint)


class Grid(QTableView):
    """The view: Return goes down, Tab to the right; blocks are copied, pasted and emptied."""

    removed, left = Signal(), Signal()
    """Ctrl+Delete takes away what is selected; Escape leads out, since Tab goes from cell to cell."""

    def __init__(self, model: SheetModel) -> None:
        super().__init__()
        self.sheet_model = model
        self.setModel(model)
        guard_cells(self)
        self.setItemDelegate(ChoosingDelegate(self))
        self.setAccessibleName(say("Table"))
        self.setSelectionMode(QAbstractItemView.SelectionMode.ExtendedSelection)
        self.setSelectionBehavior(QAbstractItemView.SelectionBehavior.SelectItems)
        self.setEditTriggers(
            QAbstractItemView.EditTrigger.DoubleClicked
            | QAbstractItemView.EditTrigger.AnyKeyPressed
            | QAbstractItemView.EditTrigger.EditKeyPressed
        )
        self.setWordWrap(False)
        self.setHorizontalScrollMode(QAbstractItemView.ScrollMode.ScrollPerPixel)
        self.verticalHeader().setDefaultSectionSize(25)
        self.verticalHeader().setHighlightSections(True)
        head = self.horizontalHeader()
        head.setDefaultAlignment(
            Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag(Qt.TextFlag.TextWordWrap)
        )
        head.setFixedHeight(HEAD_PX)
        head.setSectionsClickable(True)
        head.setSortIndicatorShown(True)
        head.setSortIndicator(-1, Qt.SortOrder.AscendingOrder)
        head.sortIndicatorChanged.connect(self._sort)

    def fit(self) -> None:
        """Columns as wide as what stands in them, their heads on two lines where that saves room."""
        model, letters = self.sheet_model, self.fontMetrics()
        for c, column in enumerate(model.columns):
            words = column.title.split()
            # The narrowest at which the head fits on two lines.
            head = min(
                max(letters.horizontalAdvance(" ".join(part)) for part in (words[:k], words[k:]))
                for k in range(1, len(words) + 1)
            )
            cells = max((letters.horizontalAdvance(model.text(r, column)) for r in model.rows[:SEEN]), default=0)
            self.setColumnWidth(c, max(min(max(head, cells) + AROUND, WIDEST), NARROWEST))

    def _sort(self, column: int, order: Qt.SortOrder) -> None:
        if column >= 0:
            self.sheet_model.sort(column, order)

    def chosen(self) -> list[tuple[int, int]]:
        """Rows and columns of what is selected."""
        return [(i.row(), i.column()) for i in self.selectionModel().selectedIndexes()]

    def closeEditor(self, editor: QWidget, hint: QAbstractItemDelegate.EndEditHint) -> None:
        """Return takes the cell over and goes to the one below."""
        super().closeEditor(editor, hint)
        if hint == QAbstractItemDelegate.EndEditHint.SubmitModelCache:
            now = self.currentIndex()
            below = now.siblingAtRow(now.row() + 1)
            if below.isValid():
                self.setCurrentIndex(below)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        """Copy, paste, empty, remove and leave; all else is the table's own."""
        if event.matches(QKeySequence.StandardKey.Copy):
            if self.chosen():
                QApplication.clipboard().setText(self.sheet_model.block(self.chosen()))
        elif event.matches(QKeySequence.StandardKey.Paste):
            self.take(QApplication.clipboard().text())
        elif event.key() == Qt.Key.Key_Delete:
            if event.modifiers() & Qt.KeyboardModifier.ControlModifier:
                self.removed.emit()
            else:
                self._empty()
        elif event.key() == Qt.Key.Key_Escape:
            self.left.emit()
        elif event.key() in SORTS and event.modifiers() & Qt.KeyboardModifier.AltModifier:
            self.horizontalHeader().setSortIndicator(self.currentIndex().column(), SORTS[Qt.Key(event.key())])
        else:
            super().keyPressEvent(event)

    def take(self, text: str) -> None:
        """Paste from the cell where the keyboard is."""
        model, cells = self.sheet_model, self.chosen()
        if not cells:
            model.refused.emit(say("Select the cell from which to paste on"))
            return
        try:
            edit = model.pasted(min(cells), cells, text)
        except NotUnderstood as error:
            model.refused.emit(say("Not pasted: {error}.", error=error))
            return
        if edit is not None:
            model.wanted.emit(edit)

    def _empty(self) -> None:
        model = self.sheet_model
        cells = [(r, c, "") for r, c in self.chosen() if model.editable(r, c) and model.columns[c].field is not None]
        try:
            edit = model.edit_of(cells)
        except NotUnderstood as error:
            model.refused.emit(say("Not emptied: {error}.", error=error))
            return
        if edit is not None:
            model.wanted.emit(edit)


class TablesPage(Page):
    """Sheets at the left, one of them beside."""

    def __init__(self) -> None:
        super().__init__()
        self.units = Units()
        self.picture: Picture | None = None
        self.scenario: str | None = None
        self.sheet = "conductors"
        self.model = SheetModel()
        self.model.wanted.connect(self.wanted)
        self.model.refused.connect(self.refused)
        self.view = Grid(self.model)
        self.view.selectionModel().currentChanged.connect(self._current)
        self.list = QListWidget()
        self.list.setObjectName("panel")
        self.list.setAccessibleName(say("Which table"))
        self.list.setFixedWidth(132)
        for sheet in SHEETS.values():
            self.list.addItem(sheet.title)
        self.list.setCurrentRow(0)
        self.list.currentRowChanged.connect(lambda k: self.show_sheet(list(SHEETS)[k]))
        self.hint = Label()
        self.hint.setObjectName("caption")
        self.hint.setWordWrap(True)
        self.words = QLineEdit()
        self.words.setAccessibleName(say("Show only"))
        self.words.setPlaceholderText(say("show only rows with…"))
        self.words.setFixedWidth(160)
        self.words.textChanged.connect(self.model.filter)
        self.adding = QPushButton(say("Add"))
        self.adding.clicked.connect(self._add)
        self.removing = QPushButton(say("Remove"))
        self.removing.setToolTip(say("The things whose cells are selected"))
        self.removing.clicked.connect(self._remove)
        self.view.removed.connect(self._remove)
        self.view.left.connect(partial(self.words.setFocus, Qt.FocusReason.OtherFocusReason))
        top = QHBoxLayout()
        top.setContentsMargins(12, 8, 12, 6)
        top.setSpacing(8)
        top.addWidget(self.hint, 1)
        top.addWidget(self.words)
        top.addWidget(self.adding)
        top.addWidget(self.removing)
        right = QVBoxLayout()
        right.setContentsMargins(0, 0, 0, 0)
        right.setSpacing(0)
        right.addLayout(top)
        right.addWidget(self.view, 1)
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(0)
        row.addWidget(self.list)
        row.addLayout(right, 1)

    def show_picture(self, picture: Picture, scenario: str | None) -> None:
        """Show another plan, or another scenario."""
        if picture.case is None:
            return
        self.picture, self.scenario = picture, scenario
        self._show()

    def show_sheet(self, name: str) -> None:
        """Show another sheet."""
        self.sheet = name
        self.words.clear()
        self.view.horizontalHeader().setSortIndicator(-1, Qt.SortOrder.AscendingOrder)
        self._show()
        self.view.fit()

    def _show(self) -> None:
        if self.picture is None or self.picture.case is None:
            return
        first = not self.model.columns
        sheet = SHEETS[self.sheet]
        self.model.show_sheet(sheet, self.picture, self.scenario, self.units)
        self.hint.setText(sheet.hint)
        self.adding.setVisible(any(True for _ in sheet.adding(self.picture.plan, self.picture.case)))
        self.removing.setVisible(sheet.drop is not None)
        if first:
            self.show_sheet(self.sheet)

    def set_units(self, units: Units) -> None:
        """Metres or feet, square millimetres or gauges."""
        self.units = units
        self._show()

    def select(self, id_: str | None) -> None:
        """Go to the row of something, on the sheet that has it."""
        now = self.view.currentIndex()
        if id_ is None or (now.isValid() and self.model.rows[now.row()].key == id_):
            return
        row = next((k for k, r in enumerate(self.model.rows) if r.key == id_), None)
        if row is not None:
            self.view.setCurrentIndex(self.model.index(row, max(now.column(), 0)))

    def _current(self, now: QModelIndex, _: QModelIndex) -> None:
        if now.isValid():
            key = self.model.rows[now.row()].key
            id_ = key.partition(".")[0]
            if id_ in self.model.plan.by_id or id_ in self.model.plan.run_by_id:
                self.picked.emit(key)

    def _add(self) -> None:
        """Add what can be added here; where it can be several things, ask which."""
        if self.picture is None or self.picture.case is None:
            return
        found = list(SHEETS[self.sheet].adding(self.picture.plan, self.picture.case))
        if len(found) == 1 and not found[0].asks:
            self.wanted.emit(found[0].make(""))
            return
        shown = PassingMenu(self)
        for adding in found:
            shown.addAction(adding.text).triggered.connect(partial(self._ask, adding))
        shown.popup(self.adding.mapToGlobal(self.adding.rect().bottomLeft()))

    def _ask(self, adding: SheetAdding) -> None:
        """Add something, after asking what has to be said with it."""
        if not adding.asks:
            self.wanted.emit(adding.make(""))
            return
        dialog = QInputDialog(self)
        dialog.setWindowTitle(adding.text)
        dialog.setLabelText(adding.asks)
        dialog.textValueSelected.connect(lambda text: self.wanted.emit(adding.make(text.strip())))
        ask(dialog)

    def _remove(self) -> None:
        """Take away the things whose cells are selected."""
        drop = SHEETS[self.sheet].drop
        keys = list(dict.fromkeys(self.model.rows[r].key for r, _ in self.view.chosen()))
        if drop is None or not keys:
            self.refused.emit(say("Select what is to be removed"))
            return
        found = [edit for key in keys if (edit := drop(self.model.plan, key)) is not None]
        if found:
            label = (
                found[0].label
                if len(found) == 1
                else say("Remove {found} of {sheet}", found=len(found), sheet=SHEETS[self.sheet].title)
            )
            self.wanted.emit(Edit(label, partial(_one_by_one, keys=keys, drop=drop)))


def _one_by_one(plan: Plan, keys: Sequence[str], drop: Callable[[Plan, str], Edit | None]) -> Plan:
    """Remove several things; what went with another is gone already."""
    for key in keys:
        edit = drop(plan, key)
        if edit is not None:
            plan = edit.apply(plan)
    return plan
