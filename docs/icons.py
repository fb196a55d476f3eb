"""Draw the icons in their sizes from their SVG files. Start it with ``.venv/bin/python docs/icons.py``."""

import os
from pathlib import Path

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")

from PySide6.QtCore import Qt
from PySide6.QtGui import QGuiApplication, QImage, QPainter
from PySide6.QtSvg import QSvgRenderer

ICONS = Path(__file__).parents[1] / "src" / "jaunty_copper" / "desktop" / "share" / "icons" / "hicolor"
SIZES_PX = (16, 22, 24, 32, 48, 64, 128, 256, 512)


def main() -> None:
    """Every drawing in every size."""
    app = QGuiApplication([])
    for drawing in sorted(ICONS.glob("scalable/*/*.svg")):
        renderer = QSvgRenderer(str(drawing))
        for size in SIZES_PX:
            picture = QImage(size, size, QImage.Format.Format_ARGB32)
            picture.fill(Qt.GlobalColor.transparent)
            painter = QPainter(picture)
            renderer.render(painter)
            painter.end()
            file = ICONS / f"{size}x{size}" / drawing.parent.name / f"{drawing.stem}.png"
            file.parent.mkdir(parents=True, exist_ok=True)
            assert picture.save(str(file)), file
    app.quit()


if __name__ == "__main__":
    main()
