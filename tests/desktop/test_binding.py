"""The Qt binding must not lose references: one release did, and ended Python after a while."""

import subprocess
import sys

from PySide6.QtGui import QColor, QImage, QPainter

from jaunty_copper.desktop.shell.ahead import BEHIND_PAGES


def test_calls_that_return_nothing_keep_nothing_alive_and_well(qapp):
    image = QImage(4, 4, QImage.Format.Format_ARGB32)
    painter = QPainter(image)
    before = sys.getrefcount(None)
    for _ in range(1000):
        painter.setPen(QColor("red"))
    after = sys.getrefcount(None)
    painter.end()
    assert abs(after - before) < 500


def test_what_is_loaded_in_a_second_thread_knows_no_qt():
    """The binding's types are not made safely by two threads at once: it ends the process."""
    code = (
        "import sys\nfrom importlib import import_module\n"
        f"for name in {BEHIND_PAGES!r}: import_module('jaunty_copper.' + name)\n"
        "assert not [m for m in sys.modules if m.startswith(('PySide6', 'shiboken', 'pyqtgraph'))]\n"
    )
    done = subprocess.run([sys.executable, "-c", code], capture_output=True, text=True, check=False)
    assert done.returncode == 0, done.stderr


def test_solver_and_rules_are_not_loaded_before_the_window_stands():
    """They cost as much as half of the window: the first study loads them, off the window's thread."""
    code = (
        "import sys\nimport jaunty_copper.desktop.shell.window\n"
        "late = ('network', 'protection', 'assessment', 'choosing', 'commissioning', 'fabrication', 'codes.case')\n"
        "found = [m for m in sys.modules if m.startswith(tuple('jaunty_copper.' + name for name in late)) or m == 'scipy']\n"
        "assert not found, found\n"
    )
    done = subprocess.run([sys.executable, "-c", code], capture_output=True, text=True, check=False)
    assert done.returncode == 0, done.stderr
