"""Make the pictures in docs/screenshots from the demo data. Start it with ``./run shots``."""

import os
import sys
import tempfile
from pathlib import Path

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
home = tempfile.mkdtemp()
os.environ["XDG_CONFIG_HOME"] = os.environ["XDG_STATE_HOME"] = home

from PySide6.QtTest import QTest

from jaunty_copper.desktop.app import application
from jaunty_copper.desktop.window import Window, demo_document

HERE = Path(__file__).parent / "screenshots"
VIEWS = (
    ("map-flow-light", "flow", "light", "work", None, None),
    ("map-drop-light", "drop", "light", "work", "PUMP", None),
    ("map-flow-dark", "flow", "dark", "generator", "W40", "branch_unprotected"),
    ("map-drop-dark", "drop", "dark", None, "INV", None),
)


def main() -> None:
    """Take every view at 1280x800."""
    wanted = sys.argv[1:]
    app = application()
    for name, lens, look, scenario, selected, rule in VIEWS:
        if wanted and name not in wanted:
            continue
        window = Window(demo_document())
        window.set_look(look)
        window.show()
        while window.picture is None:
            QTest.qWait(20)
        window.set_lens(lens)
        window.set_scenario(scenario)
        if selected:
            window.map.select(selected, show=True)
        if rule:
            model = window.findings.model
            row = next(k for k, f in enumerate(model.shown) if f.rule == rule)
            window.findings.list.setCurrentIndex(model.index(row))
        QTest.qWait(120)
        window.grab().save(str(HERE / f"{name}.png"))
        window.close()
        app.processEvents()
        print(HERE / f"{name}.png")


if __name__ == "__main__":
    main()
