"""Every text in a window on the demo, a line of JSON each: run by a test in another language."""

import json
import sys

from PySide6.QtCore import QEventLoop, QModelIndex, QTimer
from PySide6.QtWidgets import QApplication, QComboBox, QLineEdit, QListView, QTableView, QWidget

from jaunty_copper.desktop.pages import PAGES
from jaunty_copper.desktop.shell.document import Document
from jaunty_copper.desktop.shell.window import Window
from jaunty_copper.plan.examples import example


def wait(seconds):
    loop = QEventLoop()
    QTimer.singleShot(round(1000 * seconds), loop.quit)
    loop.exec()


def texts_of(widget):
    """What one widget says."""
    yield from (widget.toolTip(), widget.accessibleName())
    for name in ("text", "placeholderText", "title"):
        read = getattr(widget, name, None)
        if callable(read) and not (name == "text" and isinstance(widget, QLineEdit)):
            yield str(read())
    yield from (a.text() for a in widget.actions())
    if isinstance(widget, QComboBox):
        yield from (widget.itemText(k) for k in range(widget.count()))
    if isinstance(widget, QTableView | QListView) and widget.model() is not None:
        model = widget.model()
        columns = range(model.columnCount(QModelIndex()) if isinstance(widget, QTableView) else 1)
        if isinstance(widget, QTableView):
            yield from (str(model.headerData(c, widget.horizontalHeader().orientation()) or "") for c in columns)
        for row in range(min(model.rowCount(QModelIndex()), 40)):
            yield from (str(model.index(row, c).data() or "") for c in columns)


def main():
    """Go through all pages with some things selected."""
    app = QApplication.instance() or QApplication([])
    window = Window(Document(example("orchard_station")))
    window.resize(1280, 800)
    window.show()
    while window.picture is None or window.picture.study is None:
        wait(0.1)
    seen = set()
    for page in PAGES:
        window.show_page(page)
        wait(1.0)
        for place in ("PUMP", "W21", "F1", "B1", "P24", "CV", ""):
            window.map.select(place)
            window.show_inspector()
            app.processEvents()
            for widget in window.findChildren(QWidget):
                seen.update(texts_of(widget))
    for text in sorted(seen):
        print(json.dumps(text))
    sys.stdout.flush()
    window.may_leave = lambda: True
    window.close()


if __name__ == "__main__":
    main()
