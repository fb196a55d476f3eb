"""What is typed and not yet taken over: it is, before anything else happens."""

from PySide6.QtCore import QModelIndex, QPersistentModelIndex
from PySide6.QtWidgets import QAbstractItemView, QApplication, QLineEdit, QStyledItemDelegate, QTableView, QWidget
from shiboken6 import isValid


class CellDelegate(QStyledItemDelegate):
    """Edits cells; a figure that comes in while somebody types does not overwrite what is typed."""

    def setEditorData(self, editor: QWidget, index: QModelIndex | QPersistentModelIndex) -> None:
        """Show a cell's value, unless another is being typed."""
        if not (isinstance(editor, QLineEdit) and editor.isModified()):
            super().setEditorData(editor, index)


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
    if not isinstance(widget, QLineEdit) or not isValid(widget):
        return
    viewport = widget.parentWidget()
    around = viewport.parentWidget() if viewport is not None else None
    if isinstance(around, QAbstractItemView):
        _settle_cell(around)
    else:
        widget.editingFinished.emit()
