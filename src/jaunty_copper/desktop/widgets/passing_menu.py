"""A menu that is shown once."""

from PySide6.QtWidgets import QMenu, QWidget


class PassingMenu(QMenu):
    """A menu of what can be done here and now: one entry is chosen, and it is gone.

    While the program is busy a second click can wait behind the first. It meets a menu that is hidden already, and
    entries that may name what the first click removed: neither does anything.
    """

    def __init__(self, parent: QWidget) -> None:
        super().__init__(parent)
        self.aboutToHide.connect(self._end)

    def _end(self) -> None:
        for menu in (self, *self.findChildren(QMenu)):
            menu.setEnabled(False)
        self.deleteLater()
