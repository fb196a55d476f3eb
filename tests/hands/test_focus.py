"""The keyboard after a wait: what says that something takes a moment may be gone before the desktop gave it the keyboard."""

import subprocess
import sys

WAITS = """
import os, signal, sys, time
from PySide6.QtCore import QEventLoop, QTimer
from PySide6.QtWidgets import QApplication, QDialog, QLineEdit, QMainWindow
from jaunty_copper.desktop.work import patience

manager, rounds = int(sys.argv[1]), int(sys.argv[2])
patience.SILENT_S = 0.0
app = QApplication([])
window = QMainWindow()
window.setCentralWidget(QLineEdit())
window.show()

def pause(seconds):
    loop = QEventLoop()
    QTimer.singleShot(int(1000 * seconds), loop.quit)
    loop.exec()

def has_keyboard():
    end = time.monotonic() + 10
    while time.monotonic() < end and not window.isActiveWindow():
        pause(0.02)
    pause(0.3)
    return window.isActiveWindow()

assert has_keyboard()
def after_a_dialog():
    asked = QDialog(window)
    QLineEdit(asked)
    QTimer.singleShot(60, asked.accept)
    asked.exec()
    # A desktop too busy to see what opens and closes, until both are over.
    os.kill(manager, signal.SIGSTOP)
    patience.waited(window, "Laying circuits", lambda: time.sleep(0.05))

def within_a_dialog():
    asked = QDialog(window)
    QLineEdit(asked)

    def work():
        # The wait has the keyboard by now; it and the dialog are gone before the desktop sees either go.
        time.sleep(0.5)
        os.kill(manager, signal.SIGSTOP)

    def wait():
        patience.waited(asked, "Laying circuits", work)
        asked.accept()

    QTimer.singleShot(60, wait)
    asked.exec()

for wait in (after_a_dialog, within_a_dialog) * rounds:
    wait()
    pause(0.05)
    os.kill(manager, signal.SIGCONT)
    print("kept" if has_keyboard() else "lost", flush=True)
"""


def test_the_window_has_the_keyboard_after_a_wait(screen):
    rounds = 5
    done = subprocess.run(
        [sys.executable, "-c", WAITS, str(screen.manager), str(rounds)],
        env=screen.env, capture_output=True, text=True, timeout=300,
    )  # fmt: skip
    assert done.stdout.split() == ["kept"] * 2 * rounds, done.stderr
