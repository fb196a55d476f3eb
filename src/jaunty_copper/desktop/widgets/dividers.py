"""Dividers between two parts of a page: a thin line with a name, moved by the mouse or the arrow keys."""

from PySide6.QtCore import QEvent, QObject, Qt
from PySide6.QtGui import QKeyEvent
from PySide6.QtWidgets import QApplication, QSplitter, QSplitterHandle, QWidget
from shiboken6 import isValid

LINE_PX, HELD_PX = 1, 5
"""As it is drawn, Qt lets the mouse take hold of two pixels more on either side; and while it has the keyboard."""
STEP_PX, FAR_PX = 16, 96
"""How far an arrow key moves it, and one with Shift."""
HELD = "held"
"""Property of a splitter whose divider has the keyboard."""
WAYS = {Qt.Key.Key_Left: -1, Qt.Key.Key_Up: -1, Qt.Key.Key_Right: 1, Qt.Key.Key_Down: 1}
ENDS = (Qt.Key.Key_Escape, Qt.Key.Key_Return, Qt.Key.Key_Enter)


class _Hand(QObject):
    """Moves a divider by keys while it has the keyboard, then gives that back to where it was."""

    def __init__(self, splitter: QSplitter) -> None:
        super().__init__(splitter)
        self._splitter = splitter
        self.back: QWidget | None = None
        splitter.handle(1).installEventFilter(self)

    def eventFilter(self, _: QObject, event: QEvent) -> bool:
        """Show that a divider has the keyboard, and move it by the arrow keys."""
        if event.type() in (QEvent.Type.FocusIn, QEvent.Type.FocusOut):
            self._show(event.type() == QEvent.Type.FocusIn)
        elif isinstance(event, QKeyEvent) and event.type() == QEvent.Type.KeyPress:
            if event.key() in ENDS:
                self._give_back()
                return True
            # Not every key has a name: those of other scripts have none.
            if event.key() in WAYS:
                far = bool(event.modifiers() & Qt.KeyboardModifier.ShiftModifier)
                self._move(WAYS[Qt.Key(event.key())] * (FAR_PX if far else STEP_PX))
                return True
        return False

    def _give_back(self) -> None:
        gone = self.back is None or not isValid(self.back) or not self.back.isVisible()
        to = self._splitter.widget(0) if gone else self.back
        if to is not None:
            to.setFocus(Qt.FocusReason.OtherFocusReason)

    def _show(self, held: bool) -> None:
        splitter = self._splitter
        splitter.setProperty(HELD, held)
        splitter.style().unpolish(splitter)
        splitter.style().polish(splitter)
        splitter.setHandleWidth(HELD_PX if held else LINE_PX)

    def _move(self, by_px: int) -> None:
        first, second = self._splitter.sizes()[:2]
        by_px = max(-first, min(by_px, second))
        self._splitter.setSizes([first + by_px, second - by_px])
        # As the mouse does: whoever remembers the place hears of it.
        self._splitter.splitterMoved.emit(self._splitter.sizes()[0], 1)


def name_divider(splitter: QSplitter, name: str) -> None:
    """Give the divider of a splitter of two parts its width and its accessible name, and let keys move it."""
    splitter.setHandleWidth(LINE_PX)
    splitter.handle(1).setAccessibleName(name)
    _Hand(splitter)


def hold_next(window: QWidget) -> None:
    """Give the keyboard to the next divider in sight; after the last comes the first."""
    named = (h for h in window.findChildren(QSplitterHandle) if h.isVisible() and h.accessibleName())
    # A dialog is a child of the window too, with dividers of its own.
    handles = [h for h in named if h.window() is window]
    if not handles:
        return
    now = QApplication.focusWidget()
    at = handles.index(now) if isinstance(now, QSplitterHandle) and now in handles else -1
    handle = handles[(at + 1) % len(handles)]
    # Going from one to the next, all give it back to the same place.
    back = _hand(handles[at]).back if at >= 0 else now
    _hand(handle).back = back
    handle.setFocus(Qt.FocusReason.ShortcutFocusReason)


def _hand(handle: QSplitterHandle) -> _Hand:
    (found,) = handle.splitter().findChildren(_Hand, options=Qt.FindChildOption.FindDirectChildrenOnly)
    return found
