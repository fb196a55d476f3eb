"""The Qt binding must not lose references: one release did, and ended Python after a while."""

import subprocess
import sys

from PySide6.QtGui import QColor, QImage, QPainter

from jaunty_copper.desktop.shell.ahead import BEHIND_PAGES


def alone(code):
    """What a fresh process says that runs some code."""
    done = subprocess.run([sys.executable, "-c", code], capture_output=True, text=True, check=False)
    assert done.returncode == 0, done.stderr
    return done.stdout.split()


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
    assert alone(code) == []


def test_solver_and_rules_are_not_loaded_before_the_window_stands():
    """They cost as much as half of the window: the first study loads them, off the window's thread."""
    code = (
        "import sys\nimport jaunty_copper.desktop.shell.window\n"
        "late = ('network', 'protection', 'assessment', 'choosing', 'commissioning', 'fabrication', 'codes.case')\n"
        "late = (*('jaunty_copper.' + name for name in late), 'numpy', 'scipy', 'urllib.request')\n"
        "found = [m for m in sys.modules if m.startswith(late)]\n"
        "assert not found, found\n"
    )
    assert alone(code) == []


def test_a_first_study_makes_nothing_known_that_it_does_not_need():
    """All kinds of widgets would cost as much as painting the map; parts of the libraries as much as the judging."""
    code = (
        "import enum, sys\nmade, make = [], enum.EnumType.__new__\n"
        "def noting(meta, name, *more, **still):\n    made.append(name)\n    return make(meta, name, *more, **still)\n"
        "enum.EnumType.__new__ = noting\n"
        "from PySide6.QtCore import QEventLoop\n"
        "from jaunty_copper.desktop.shell.app import application\n"
        "from jaunty_copper.desktop.shell.document import demo_document\n"
        "from jaunty_copper.desktop.shell.window import Window\n"
        "app, window = application(), Window(demo_document())\nwindow.show()\n"
        "while window.picture is None: app.processEvents(QEventLoop.ProcessEventsFlag.WaitForMoreEvents)\n"
        "found = [name for name in made if name in ('WizardStyle', 'SegmentStyle', 'StandardPixmap')]\n"
        "found += [m for m in sys.modules if m.startswith(('scipy', 'numpy.ma.', 'numpy.random.', 'numpy.f2py'))]\n"
        "assert 'Orientation' in made and 'numpy' in sys.modules\n"
        "print(*found, flush=True)\nimport os\nos._exit(0)\n"
    )
    assert alone(code) == []
