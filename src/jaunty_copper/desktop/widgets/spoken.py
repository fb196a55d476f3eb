"""What is painted, for those who hear it: every thing by its name where it is, and what is chosen said aloud."""

from collections.abc import Callable, Iterable
from typing import NamedTuple

from PySide6.QtCore import QObject, QRect, Qt, QTimer
from PySide6.QtGui import QAccessible, QAccessibleAnnouncementEvent, QPaintEvent
from PySide6.QtWidgets import QWidget

from jaunty_copper.desktop.widgets.label import Label

AFTER_MS, LISTENS_MS = 250, 2000
"""How long a picture rests before its names follow; how often it is asked whether anybody listens by now."""
MOST = 400
"""Of one picture: who goes through more goes by the tables."""


class SpokenThing(NamedTuple):
    """Something that is painted.

    Attributes
    ----------
    id, text : str
        What it is, and how it is called with its figures.
    box : QRect
        Where it is, in pixels of the widget that it is painted on.
    """

    id: str
    text: str
    box: QRect


class _Name(Label):
    """A name that lies over a picture, seen by nothing but the accessibility interface."""

    def __init__(self, port: QWidget) -> None:
        super().__init__()
        self.setParent(port)
        self.setAttribute(Qt.WidgetAttribute.WA_TransparentForMouseEvents)
        self.show()

    def paintEvent(self, _: QPaintEvent) -> None:
        """Paint nothing: it is painted below."""


class Spoken(QObject):
    """Keeps names over a picture as long as something listens; without a listener there is none.

    Parameters
    ----------
    port : QWidget
        That the picture is painted on.
    things : callable
        What is in sight there.
    """

    def __init__(self, port: QWidget, things: Callable[[], Iterable[SpokenThing]]) -> None:
        super().__init__(port)
        self._port, self._things = port, things
        self._names: dict[str, _Name] = {}
        self._timer = QTimer(self, singleShot=True, interval=AFTER_MS)
        self._timer.timeout.connect(self._rested)

    def later(self) -> None:
        """What is painted has changed: names follow once it rests."""
        if not self._timer.isActive():
            self._timer.start(AFTER_MS if QAccessible.isActive() else LISTENS_MS)

    def _rested(self) -> None:
        if QAccessible.isActive():
            self.refresh()
        elif self._port.isVisible():
            self._timer.start(LISTENS_MS)

    def refresh(self) -> None:
        """Put every name where its thing is."""
        found = dict[str, SpokenThing]()
        for thing in self._things():
            if len(found) >= MOST:
                break
            found.setdefault(thing.id, thing)
        for id_ in self._names.keys() - found.keys():
            self._names.pop(id_).deleteLater()
        for id_, thing in found.items():
            name = self._names.get(id_)
            if name is None:
                name = self._names[id_] = _Name(self._port)
            if name.text() != thing.text:
                name.setText(thing.text)
                name.setAccessibleName(thing.text)
            if name.geometry() != thing.box:
                name.setGeometry(thing.box)

    def chosen(self, describe: Callable[[str], str]) -> Callable[[str], None]:
        """What tells, where something listens, what was just chosen: of its id, in the words of a function."""

        def say_aloud(id_: str) -> None:
            if not QAccessible.isActive():
                return
            text = describe(id_) if id_ else ""
            self._port.setAccessibleDescription(text)
            if text:
                QAccessible.updateAccessibility(QAccessibleAnnouncementEvent(self._port, text))

        return say_aloud
