"""The Qt binding must not lose references: one release did, and ended Python after a while."""

import sys

from PySide6.QtGui import QColor, QImage, QPainter


def test_calls_that_return_nothing_keep_nothing_alive_and_well(qapp):
    image = QImage(4, 4, QImage.Format.Format_ARGB32)
    painter = QPainter(image)
    before = sys.getrefcount(None)
    for _ in range(1000):
        painter.setPen(QColor("red"))
    after = sys.getrefcount(None)
    painter.end()
    assert abs(after - before) < 500
