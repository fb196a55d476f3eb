"""What is typed and not yet taken over: it is, before anything else happens."""

from PySide6.QtCore import QEvent, QModelIndex, QObject, QPersistentModelIndex, Qt
from PySide6.QtGui import QKeyEvent
from PySide6.QtWidgets import (
    QAbstractItemDelegate,
    QAbstractItemView,
    QApplication,
    QLineEdit,
    QStyledItemDelegate,
    QTableView,
    QWidget,
)
from shiboken6 import isValid


class CellDelegate(QStyledItemDelegate):
    """Edits cells; a figure that comes in while somebody types does not overwrite what is typed."""

    def setEditorData(self, editor: QWidget, index: QModelIndex | QPersistentModelIndex) -> None:
        """Show a cell's value, unless another is being typed."""
        if not (isinstance(editor, QLineEdit) and editor.isModified()):
            super().setEditorData(editor, index)

    def eventFilter(self, editor: QObject, event: QEvent) -> bool:
        """Take a cell over at once on Return: Qt does so later, and what is typed next would land in the same cell."""
        key = event.key() if isinstance(event, QKeyEvent) and event.type() == QEvent.Type.KeyPress else None
        if isinstance(editor, QLineEdit) and key in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self.commitData.emit(editor)
            self.closeEditor.emit(editor, QAbstractItemDelegate.EndEditHint.SubmitModelCache)
            return True
        return super().eventFilter(editor, event)


def guard_cells(view: QTableView) -> None:
    """Let a table take over what is typed into a cell before its rows become others."""
    view.setItemDelegate(CellDelegate(view))
    view.model().modelAboutToBeReset.connect(lambda: _settle_cell(view))


def _settle_cell(view: QAbstractItemView) -> None:
    editor = view.indexWidget(view.currentIndex())
    if isinstance(editor, QLineEdit):
        delegate = view.itemDelegate()
        if editor.isModified():
            delegate.commitData.emit(editor)
        delegate.closeEditor.emit(editor)


def settle() -> None:
    """Take over what is typed where the keyboard is: before saving, leaving, undoing, or showing something else."""
    widget = QApplication.focusWidget()
    take_over = getattr(widget, "take_over", None)
    if take_over is not None and isValid(widget):
        take_over()
    if not isinstance(widget, QLineEdit) or not isValid(widget):
        return
    viewport = widget.parentWidget()
    around = viewport.parentWidget() if viewport is not None else None
    if isinstance(around, QAbstractItemView):
        _settle_cell(around)
    else:
        widget.editingFinished.emit()
