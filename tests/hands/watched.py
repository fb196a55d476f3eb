"""Starts the program as a person would, and answers what a person could see: names, texts, places.

Run as a program of its own: ``python -m tests.hands.watched SOCKET ARGUMENTS...``. It reads and never acts: no
method that changes anything is called here, no action triggered, no text set.
"""

import collections
import faulthandler
import json
import os
import socket
import sys
import threading
import time
from fnmatch import fnmatchcase

from PySide6.QtCore import QEvent, QModelIndex, QObject, QPoint, QPointF, QRect, Qt, QTimer, Signal
from PySide6.QtGui import QAccessible
from PySide6.QtWidgets import (
    QAbstractItemView,
    QApplication,
    QComboBox,
    QLineEdit,
    QMainWindow,
    QMenu,
    QMenuBar,
    QPlainTextEdit,
    QTableView,
    QTextEdit,
    QToolTip,
    QWidget,
)
from shiboken6 import isValid

from jaunty_copper.cli.main import main
from jaunty_copper.desktop.pages.map.pulling import handles
from jaunty_copper.desktop.shell import place_menu
from jaunty_copper.desktop.shell.app import application
from jaunty_copper.plan.files import dumps, parse

BEAT_MS = 50
MOST_CELLS = 600


_main = []
"""The window that was found last: to go through all that lies at the top costs more than most answers."""


def main_window():
    """The program's window."""
    if not (_main and isValid(_main[0]) and _main[0].isVisible()):
        _main[:] = [w for w in QApplication.topLevelWidgets() if isinstance(w, QMainWindow) and w.isVisible()][:1]
    return _main[0] if _main else None


def plain(text):
    """A label without the mark of its access key."""
    return text.replace("&&", "\0").replace("&", "").replace("\0", "&")


def in_sight(widget):
    """The part of a widget that no frame around it cuts off."""
    shown, offset, at = widget.rect(), QPoint(0, 0), widget
    while not at.isWindow():
        offset += at.pos()
        at = at.parentWidget()
        shown = shown.translated(offset).intersected(at.rect()).translated(-offset)
    return shown


def node(role, name, rect, value="", **states):
    return {"role": role, "name": name, "rect": rect, "value": value, **states}


def of_menu(menu):
    """Entries of a menu or a menu bar."""
    active = menu.activeAction()
    for action in menu.actions():
        if action.isVisible() and not action.isSeparator():
            box = menu.actionGeometry(action)
            at = menu.mapToGlobal(box.topLeft())
            yield node(
                "BarEntry" if isinstance(menu, QMenuBar) else "Entry", plain(action.text()), [at.x(), at.y(), box.width(), box.height()],
                enabled=action.isEnabled(), checked=action.isChecked(), active=action is active, opens=action.menu() is not None,
                key=action.text()[action.text().find("&") + 1 : action.text().find("&") + 2].lower() if "&" in action.text() else "",
            )  # fmt: skip


def of_view(view):
    """Cells of a list or table that are in sight."""
    model, port = view.model(), view.viewport()
    if model is None:
        return
    count, area, current, shows = 0, port.rect(), view.currentIndex(), in_sight(port)
    corner, within = port.mapToGlobal(QPoint(0, 0)), view.accessibleName()
    columns = range(model.columnCount(QModelIndex()) if isinstance(view, QTableView) else 1)
    for row in range(model.rowCount(QModelIndex())):
        for column in columns:
            index = model.index(row, column, QModelIndex())
            box = view.visualRect(index)
            if not box.intersects(area):
                if box.top() > area.bottom():
                    return
                continue
            text = index.data(Qt.ItemDataRole.AccessibleTextRole) or index.data(Qt.ItemDataRole.DisplayRole)
            shown = box.intersected(shows).translated(corner)
            yield node(
                "Cell", "" if text is None else str(text), list(shown.getRect()), within=within, row=row, column=column,
                current=index == current, enabled=True, editable=bool(model.flags(index) & Qt.ItemFlag.ItemIsEditable),
            )  # fmt: skip
            count += 1
            if count > MOST_CELLS:
                return


def heads(window, name):
    """Titles of the columns of a table."""
    view = next(v for v in window.findChildren(QTableView) if v.accessibleName() == name and v.isVisible())
    model = view.model()
    return [model.headerData(k, Qt.Orientation.Horizontal) for k in range(model.columnCount(QModelIndex()))]


def of_widget(widget, box, role=None):
    """One widget as accessibility tells it, where it is of the role that is looked for."""
    interface = QAccessible.queryAccessibleInterface(widget)
    if interface is None:
        return
    own = interface.role().name
    if role is not None and own != role:
        return
    state = interface.state()
    if isinstance(widget, QLineEdit):
        value = widget.text()
    elif isinstance(widget, QComboBox):
        value = widget.currentText()
    elif isinstance(widget, QPlainTextEdit | QTextEdit):
        value = widget.toPlainText()
    else:
        value = interface.text(QAccessible.Text.Value)
    # On Linux Qt gives a list's chosen text for its name, and its name by a relation.
    name = widget.accessibleName() or interface.text(QAccessible.Text.Name)
    yield node(
        own, plain(name), list(box.getRect()), value, enabled=widget.isEnabled(),
        focused=widget.hasFocus(), checked=bool(state.checked), tip=interface.text(QAccessible.Text.Description),
    )  # fmt: skip


def in_view(widget, corner, port, found):
    """Collect a widget and what shows in it, each with the part of it on the screen that no frame around it cuts off."""
    box = QRect(corner, widget.size()).intersected(port)
    if box.isEmpty():
        return
    found.append((widget, box))
    for child in widget.children():
        if child.isWidgetType() and child.isVisible():
            if child.isWindow():
                found += whole(child)
            else:
                in_view(child, corner + child.pos(), box, found)


def whole(window):
    """A window and what shows in it."""
    found, corner = [], window.mapToGlobal(QPoint(0, 0))
    in_view(window, corner, QRect(corner, window.size()), found)
    return found


OF_MENUS, OF_VIEWS = ("Entry", "BarEntry"), ("Cell",)
"""Roles that no widget has by itself."""


def tops():
    """Windows in sight."""
    return [top for top in QApplication.topLevelWidgets() if top.isVisible() and not top.isMinimized()]


def nodes_of(top, role=None):
    """What is in sight of a window; what has one role, where only that is looked for."""
    for widget, box in whole(top):
        if isinstance(widget, QMenu | QMenuBar):
            if role is None or role in OF_MENUS:
                yield from of_menu(widget)
            continue
        if role is None or role not in OF_MENUS + OF_VIEWS:
            yield from of_widget(widget, box, role)
        if isinstance(widget, QAbstractItemView) and (role is None or role in OF_VIEWS):
            yield from of_view(widget)


def tree():
    """Everything in sight, window by window; what lies under a modal dialog or a menu too."""
    found = []
    for top in tops():
        kind = "menu" if isinstance(top, QMenu) else "dialog" if top.isModal() else "window"
        list_ = top.windowType() == Qt.WindowType.Popup and not isinstance(top, QMenu)
        kind = "list" if list_ else kind
        box = [top.x(), top.y(), top.width(), top.height()]
        found.append({"title": top.windowTitle(), "kind": kind, "rect": box, "nodes": list(nodes_of(top))})
    return found


def nodes(role):
    """What is in sight; what has one role, where only that is looked for."""
    if role == "Entry":
        return (n for menu in menus() for n in of_menu(menu))
    return (n for top in tops() for n in nodes_of(top, role))


def seen(name, role, more):
    """What is in sight by a name, a role and more of what it shows."""
    return [
        n for n in nodes(role)
        if (name is None or fnmatchcase(n["name"], name)) and (role is None or n["role"] == role)
        and all(n.get(k) == v for k, v in more.items())
    ]  # fmt: skip


def all_words():
    """All words in sight, one a line."""
    nodes = (n for top in tops() for n in nodes_of(top))
    return "\n".join(dict.fromkeys(text for n in nodes for text in (n["name"], n["value"]) if text))


def focused():
    """What has the keyboard, as far as it shows."""
    widget = QApplication.focusWidget()
    if widget is None or not widget.isVisible() or widget.window().isMinimized():
        return None
    box = in_sight(widget).translated(widget.mapToGlobal(QPoint(0, 0)))
    return None if box.isEmpty() else next(of_widget(widget, box), None)


def menus():
    """Menus in sight."""
    if QApplication.activePopupWidget() is None:
        return []
    return [w for w in QApplication.topLevelWidgets() if isinstance(w, QMenu) and w.isVisible()]


# Places of what is painted


def grid_of(box, n=7):
    """Points of a rectangle, from its middle outwards."""
    points = [
        (box.x() + box.width() * (i + 0.5) / n, box.y() + box.height() * (j + 0.5) / n)
        for i in range(n)
        for j in range(n)
    ]
    middle = box.center()
    return sorted(points, key=lambda p: abs(p[0] - middle.x()) + abs(p[1] - middle.y()))


def first_hit(widget, port, id_, points, hit):
    """The first of some points at which a click would meet a thing, on the screen."""
    area = port.rect().adjusted(3, 3, -3, -3)
    for x, y in points:
        at = QPointF(x, y)
        if area.contains(at.toPoint()) and hit(at) == id_:
            there = port.mapToGlobal(at.toPoint())
            return [there.x(), there.y()]
    return None


def on_map(window, only):
    """Things on the map that a click would meet; one of them where only that is asked for."""
    view = window.map
    if view.picture is None or not view.isVisible():
        return {}
    found, chart = {}, view.picture.diagram

    def put(id_, points, name):
        """Points are looked for only where the thing is asked for and not yet found."""
        if name not in found and only in (None, name):
            at = first_hit(view, view.viewport(), id_, points(), view.hit)
            if at is not None:
                found[name] = at

    def about(box):
        corner, end = (view.to_view(x, y).toPoint() for x, y in ((box.x, box.y), (box.x + box.w, box.y + box.h)))
        return grid_of(QRect(corner, end))

    def along(ribbon):
        points = (view.to_view(*ribbon.point(t / 20)) for t in (10, 8, 12, 6, 14, 4, 16, 2, 18, 9, 11, 1, 19))
        return [(p.x(), p.y()) for p in points]

    for stud in chart.studs:
        put(stud.ref, lambda s=stud: [view.to_view(s.x, s.y).toTuple()], stud.ref)
    for shape in (*chart.shapes, *chart.loose):
        put(shape.id, lambda s=shape: about(s.box), f"fold of {shape.id}" if shape.kind == "fold" else shape.id)
    for ribbon in chart.ribbons:
        put(ribbon.run, lambda r=ribbon: along(r), ribbon.run)
    return found


def an_empty_place(window):
    """A point of the map at which nothing lies."""
    view = window.map
    area = view.viewport().rect().adjusted(8, 8, -8, -8)
    for x in range(area.left(), area.right(), 13):
        for y in range(area.bottom(), area.top(), -13):
            if all(view.hit(QPointF(x + i, y + j)) is None for i in (-6, 0, 6) for j in (-6, 0, 6)):
                there = view.viewport().mapToGlobal(QPoint(x, y))
                return [there.x(), there.y()]
    return None


def on_bank(window, _):
    """Units, links and devices on the Bank page."""
    page = window.pages.get("bank")
    if page is None or not page.view.isVisible() or page.view.bank is None:
        return {}
    view, found = page.view, {}
    for unit in view.bank.units:
        found[unit.id] = first_hit(view, view, unit.id, grid_of(view.case(unit).toRect()), view.hit)
    for id_ in view.bank.inside:
        path = view.strap(view.plan.run_by_id[id_])
        if path is not None:
            points = [path.pointAtPercent(t / 30) for t in (15, 12, 18, 9, 21, 6, 24, 3, 27)]
            found[id_] = first_hit(view, view, id_, [(p.x(), p.y()) for p in points], view.hit)
    return {k: v for k, v in found.items() if v is not None}


def on_board(window, _):
    """Parts on the board of the Build page."""
    page = window.pages.get("build")
    view = page and next(
        (v for v in page.findChildren(QWidget) if type(v).__name__ == "BoardView" and v.isVisible()), None
    )
    if view is None or view.board is None:
        return {}
    found, s = {}, view._scale
    for t in view.things():
        at = view.mapToGlobal(QPoint(round(14 + (t.x + t.w / 2) * s), round(14 + (t.y + t.h / 2) * s)))
        found[t.thing.id] = [at.x(), at.y()]
    return found


def terminals(window, _):
    """Terminals on the map from which a conductor can be drawn, and the handles of the selected one."""
    view = window.map
    chart, plan = view.picture.diagram, view.picture.plan
    points = [(t.ref, t.x, t.y) for t in chart.terminals]
    points += [(f"{view.selected}:{end}", x, y) for end, x, y in handles(chart, plan, view.selected)]
    found = {}
    for name, x, y in points:
        there = view.viewport().mapToGlobal(view.to_view(x, y).toPoint())
        found[name] = [there.x(), there.y()]
    return found


PLACES = {"map": on_map, "bank": on_bank, "board": on_board, "terminals": terminals}


# What the program offers, to hold the tests against


def leaves(actions, path=()):
    """Entries that do something, by the menus that lead to them."""
    for action in actions:
        if action.isSeparator():
            continue
        here = (*path, plain(action.text()))
        if action.menu() is not None:
            yield from leaves(action.menu().actions(), here)
        else:
            yield {"path": here, "keys": [k.toString() for k in action.shortcuts()]}


def inventory(window, ids):
    """Every entry of the menu bar, and of the context menus of some things on the map and the bank."""
    bar = list(leaves(window.menuBar().actions()))
    on_map_ = {id_: [e["path"] for e in leaves(place_menu.of(window, id_).actions())] for id_ in ids.get("map", [])}
    page = window.pages.get("bank")
    on_bank_ = (
        {id_: [e["path"] for e in leaves(page.menu_for(id_).actions())] for id_ in ids.get("bank", [])} if page else {}
    )
    return {"bar": bar, "map": on_map_, "bank": on_bank_}


TOLD = {
    QEvent.Type.MouseButtonPress, QEvent.Type.MouseButtonRelease, QEvent.Type.MouseButtonDblClick, QEvent.Type.KeyPress, QEvent.Type.Hide,
    QEvent.Type.Close,
}  # fmt: skip


class Recorder(QObject):
    """Remembers what last happened in the window: a test that fails on a busy machine tells it.

    What the X server sends to windows, and who has the keyboard: to look at every event of every widget costs a twentieth of all.
    """

    def __init__(self, app):
        super().__init__(app)
        self.last = collections.deque(maxlen=120)
        app.focusChanged.connect(lambda old, new: self._tell("keyboard", f"{called(old)} -> {called(new)}"))
        app.focusWindowChanged.connect(self._focus_window)
        app.applicationStateChanged.connect(lambda state: self._tell("state", state.name))

    def _tell(self, what, more):
        self.last.append(f"{time.monotonic():.3f} {what} {more}".rstrip())

    def _focus_window(self, window):
        self._tell("window", "none" if window is None else window.title())
        self.watch(window)

    def watch(self, window):
        """Remember what comes to one more window."""
        if window is not None and not window.property("told"):
            window.setProperty("told", True)
            window.installEventFilter(self)

    def eventFilter(self, watched, event):
        if event.type() in TOLD:
            self._tell(
                event.type().name, f"{watched.title()} {event.text() if event.type() == QEvent.Type.KeyPress else ''}"
            )
        return False


def called(widget):
    """A widget by its kind and name."""
    return "none" if widget is None else f"{type(widget).__name__} {widget.accessibleName()}".strip()


class Eyes(QObject):
    """Answers questions from another process, one a line, on the window's thread between two of its events."""

    asked = Signal(object)

    def __init__(self, path, recorder):
        super().__init__()
        self.recorder = recorder
        self.held_s = self.own_s = 0.0
        self.written = None, ""
        self.last = (time.monotonic(), time.thread_time())
        self.asked.connect(self._asked, Qt.ConnectionType.QueuedConnection)
        self.heart = QTimer(self, interval=BEAT_MS, timerType=Qt.TimerType.PreciseTimer)
        self.heart.timeout.connect(self._beat)
        self.heart.start()
        self.server = socket.socket(socket.AF_UNIX)
        self.server.bind(path)
        self.server.listen(1)
        threading.Thread(target=self._serve, daemon=True).start()

    def _beat(self):
        """Notice for how long the window did not answer: only what its own thread computed counts, not a busy machine."""
        now = (time.monotonic(), time.thread_time())
        held = min(now[0] - self.last[0], now[1] - self.last[1]) - self.own_s
        self.held_s, self.last, self.own_s = max(self.held_s, held), now, 0.0

    def _serve(self):
        stream, _ = self.server.accept()
        with stream, stream.makefile("rwb") as file:
            for line in file:
                answered = threading.Event()
                question = {"ask": json.loads(line), "answered": answered}
                try:
                    self.asked.emit(question)
                except RuntimeError:  # The window is closed, and Qt has taken its objects down.
                    return
                answered.wait()
                file.write(json.dumps(question["answer"]).encode() + b"\n")
                file.flush()

    def _asked(self, question):
        def answer():
            begin = time.thread_time()
            try:
                question["answer"] = self.answer(question["ask"])
            except Exception as error:
                question["answer"] = {"error": f"{type(error).__name__}: {error}"}
            self.own_s += time.thread_time() - begin
            question["answered"].set()

        QTimer.singleShot(round(question["ask"]["after_ms"]), answer)

    def answer(self, ask):
        window = main_window()
        match ask["about"]:
            case "tree":
                return tree()
            case "seen":
                return seen(ask["name"], ask["role"], ask["more"])
            case "words":
                return all_words()
            case "focused":
                return focused()
            case "menus":
                shown = menus()
                for menu in shown:
                    self.recorder.watch(menu.windowHandle())
                return [list(of_menu(menu)) for menu in shown]
            case "places":
                return PLACES[ask["of"]](window, ask["only"]) if window else {}
            case "selected":
                return window.map.selected
            case "inventory":
                return inventory(window, ask["ids"])
            case "names":
                plan = window.document.plan
                return sorted({*plan.by_id, *plan.run_by_id, *(x.title for x in plan.placed)}, key=len, reverse=True)
            case "empty":
                return an_empty_place(window)
            case "heads":
                return heads(window, ask["of"])
            case "active":
                return QApplication.activeWindow() is not None or QApplication.activePopupWidget() is not None
            case "calm":
                # As `tree` would have it, without looking at all the rest.
                side, working = (window.side, window._working) if window else (None, None)
                return side is not None and side.findings.isVisible() and not (working.isVisible() and working.text())
            case "tip":
                return QToolTip.text() if QToolTip.isVisible() else ""
            case "plan":
                plan, document = window.document.plan, window.document
                if plan is not self.written[0]:
                    data = dumps(plan)
                    if parse(data, "here") != plan:
                        return {"error": "the plan reads back as another"}
                    self.written = plan, data.decode()
                return {"text": self.written[1], "unsaved": document.unsaved, "undo": document.undo_label}
            case "happened":
                return [f"{time.monotonic():.3f} asked", *self.recorder.last]
            case "held":
                held, self.held_s = self.held_s, 0.0
                return held
        raise ValueError(ask["about"])


def begin(path, arguments, env=None, folder=None, log=None):
    """Start the program and answer at a socket; in a process that was forked, as if it had begun with these surroundings."""
    if env is not None:
        os.environ.clear()
        os.environ.update(env)
        os.chdir(folder)
        os.dup2(os.open(log, os.O_WRONLY | os.O_APPEND), 2)
        os.dup2(os.open(os.devnull, os.O_WRONLY), 1)
        faulthandler.enable()
        sys.argv[:] = [__file__, path, *arguments]
    eyes = Eyes(path, Recorder(application()))
    sys.exit(main(arguments) if eyes else 2)


if __name__ == "__main__":
    begin(sys.argv[1], sys.argv[2:])
