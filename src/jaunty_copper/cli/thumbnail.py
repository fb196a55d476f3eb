"""thumbnail: a plan's map as a small picture, for file managers that show what is in a file."""

import argparse
import os
import resource
import signal
from pathlib import Path

from jaunty_copper.assessment.assessment import Assessment
from jaunty_copper.cli.inputs import complain, plan_or_complaint
from jaunty_copper.cli.startup import load_qt
from jaunty_copper.documents.map.drawing import map_svg
from jaunty_copper.language import say

MOST_S, MOST_BYTES = 20, 2 << 30
"""A folder of anybody's files is looked at unasked: one that asks for more than this gets no picture."""
LEAST_PX, MOST_PX = 16, 2048


def thumbnail(options: argparse.Namespace) -> int:
    """Draw a plan's map, wide and high at most as asked."""
    size = min(max(options.size, LEAST_PX), MOST_PX)
    limited()
    plan = plan_or_complaint(options.plan)
    if isinstance(plan, int):
        return plan
    known = Assessment(plan)
    state = next((s for s in known.study.states if s.solved), None)
    if state is None:
        complain(say("no scenario has an operating point"))
        return 1
    drawn = picture(map_svg(known, state.scenario.id, judged=False), size)
    try:
        Path(options.picture).write_bytes(drawn)
    except OSError as error:
        return complain(f"{options.picture}: {(error.strerror or say('cannot be written')).lower()}")
    return 0


def limited() -> None:
    """Let the process end where a plan makes it slow or large."""
    signal.signal(signal.SIGALRM, signal.SIG_DFL)
    signal.alarm(MOST_S)
    _, hard = resource.getrlimit(resource.RLIMIT_AS)
    most = MOST_BYTES if hard == resource.RLIM_INFINITY else min(MOST_BYTES, hard)
    resource.setrlimit(resource.RLIMIT_AS, (most, hard))


def picture(svg: str, size: int) -> bytes:
    """An SVG as a PNG.

    Parameters
    ----------
    svg : str
        A document of ours: nothing in it names a file.
    size : int
        Pixels that it is wide and high at most.
    """
    os.environ["QT_QPA_PLATFORM"] = "offscreen"
    load_qt()
    from PySide6.QtCore import QBuffer, QByteArray, QIODevice, Qt
    from PySide6.QtGui import QImage, QImageWriter, QPainter
    from PySide6.QtSvg import QSvgRenderer

    from jaunty_copper.desktop.shell.app import application

    application()
    renderer = QSvgRenderer(QByteArray(svg.encode("utf-8")))
    shown = renderer.defaultSize().scaled(size, size, Qt.AspectRatioMode.KeepAspectRatio)
    image = QImage(max(shown.width(), 1), max(shown.height(), 1), QImage.Format.Format_ARGB32)
    image.fill(Qt.GlobalColor.white)
    painter = QPainter(image)
    renderer.render(painter)
    painter.end()
    buffer = QBuffer()
    buffer.open(QIODevice.OpenModeFlag.WriteOnly)
    QImageWriter(buffer, QByteArray(b"png")).write(image)
    return bytes(buffer.data().data())
