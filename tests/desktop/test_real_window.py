"""One real window on a real X display: started as a user starts it, driven, looked at, closed."""

import os
import shutil
import subprocess
import sys
import time

import pytest

SCRIPT = """
import os
import sys
import traceback
from PySide6.QtCore import Qt, QTimer
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication
from jaunty_copper.cli.main import main
from jaunty_copper.desktop.app import application

def act():
    (window,) = [w for w in QApplication.topLevelWidgets() if type(w).__name__ == "Window"]
    while window.picture is None:
        QTest.qWait(20)
    assert QApplication.platformName() == "xcb"
    at = window.map.to_view(*window.map.place("PUMP")).toPoint()
    QTest.mouseClick(window.map.viewport(), Qt.MouseButton.LeftButton, pos=at)
    assert window.map.selected == "PUMP"
    QTest.keyClick(window.map, Qt.Key.Key_Delete)
    assert "PUMP" not in window.document.plan.by_id
    window.undo_action.trigger()  # without a window manager no window is active, and no shortcut works
    assert "PUMP" in window.document.plan.by_id
    QTest.qWait(300)
    screen = QApplication.primaryScreen().grabWindow(0)
    screen.save(sys.argv[1])
    window.close()

def guarded():
    try:
        act()
    except BaseException:
        traceback.print_exc()
        os._exit(1)

application()
QTimer.singleShot(800, guarded)
sys.exit(main(["demo"]))
"""


@pytest.mark.skipif(shutil.which("Xvfb") is None, reason="needs Xvfb; ./run test installs it")
def test_a_real_window(tmp_path):
    read, write = os.pipe()
    server = subprocess.Popen(
        ["Xvfb", "-displayfd", str(write), "-screen", "0", "1280x800x24", "-nolisten", "tcp"],
        pass_fds=(write,), stderr=subprocess.DEVNULL,
    )  # fmt: skip
    os.close(write)
    try:
        with os.fdopen(read) as pipe:
            display = f":{pipe.readline().strip()}"
        shot = tmp_path / "screen.png"
        run = subprocess.run(
            [sys.executable, "-c", SCRIPT, str(shot)],
            env={**os.environ, "DISPLAY": display, "QT_QPA_PLATFORM": "xcb"},
            capture_output=True, text=True, timeout=60, check=False,
        )  # fmt: skip
        assert run.returncode == 0, run.stderr
        assert "Traceback" not in run.stderr
        assert shot.stat().st_size > 40_000
    finally:
        server.terminate()
        server.wait()
        time.sleep(0.05)
