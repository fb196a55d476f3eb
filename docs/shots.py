"""Make the pictures in docs/screenshots from the demo data. Start it with ``./run shots``."""

import os
import sys
import tempfile
import time
from pathlib import Path

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
home = tempfile.mkdtemp()
os.environ["XDG_CONFIG_HOME"] = os.environ["XDG_STATE_HOME"] = home

import numpy as np

from jaunty_copper.desktop.app import application
from jaunty_copper.desktop.window import Window, demo_document

HERE = Path(__file__).parent / "screenshots"
VIEWS = (
    ("needs-light", "needs", "flow", "light", "work", "INV", None),
    ("bank-light", "bank", "flow", "light", "work", "B1", None),
    ("bank-dark", "bank", "flow", "dark", "evening", "B1", None),
    ("map-flow-light", "map", "flow", "light", "work", None, None),
    ("map-drop-light", "map", "drop", "light", "work", "PUMP", None),
    ("map-short-light", "map", "short", "light", "work", "F2", "interrupt_rating"),
    ("map-guard-light", "map", "guard", "light", "work", "PUMP", "no_protection"),
    ("curves-light", "curves", "flow", "light", "work", "F2", None),
    ("curves-dark", "curves", "flow", "dark", "work", "F6", None),
    ("build-cuts-light", "build", "flow", "light", "work", "W21", None),
    ("build-order-dark", "build", "flow", "dark", "work", "W21", None),
    ("log-light", "log", "flow", "light", "work", "W21", None),
    ("map-flow-dark", "map", "flow", "dark", "generator", "W40", "branch_unprotected"),
    ("map-drop-dark", "map", "drop", "dark", None, "INV", None),
)
"""Name, page, lens, look, scenario, what is selected, rule of the finding that is selected."""


def wait(ms: int) -> None:
    """Let the window and its workers go on; Qt's own wait would hold the interpreter."""
    end = time.monotonic() + ms / 1000.0
    while time.monotonic() < end:
        application().processEvents()
        time.sleep(0.005)


def _read_a_loose_lug(window: Window) -> None:
    """Type what meters would read on the demo with 8 milliohm too much at the inverter's cable."""
    log = window.pages["log"]
    bench = log.found.bench
    off = np.zeros(bench.parameters)
    off[bench.wiring.branch["W21"]] = 0.008
    lines = ["quantity,a,b,read"]
    for point, value in zip(bench.points, bench.read(bench.solve(off)), strict=True):
        lines.append(f"{point.quantity},{point.a},{point.b},{value:.5f}")
    sheet = Path(home) / "readings.csv"
    sheet.write_text("\n".join(lines))
    log.load(sheet)
    while not log.suspects:
        wait(20)


def main() -> None:
    """Take every view at 1280x800."""
    wanted = sys.argv[1:]
    app = application()
    for name, page, lens, look, scenario, selected, rule in VIEWS:
        if wanted and name not in wanted:
            continue
        window = Window(demo_document())
        window.set_look(look)
        window.show()
        while window.picture is None:
            wait(20)
        window.set_lens(lens)
        window.set_scenario(scenario)
        if selected:
            window.map.select(selected, show=True)
        if rule:
            model = window.findings.model
            row = next(k for k, f in enumerate(model.shown) if f.rule == rule)
            window.findings.list.setCurrentIndex(model.index(row))
        window.show_page(page)
        while page == "bank" and (window.pages["bank"].facts is None or window.pages["bank"].facts.influences is None):
            wait(20)
        while page == "curves" and (window.pages["curves"].replay.found is None or window.pages["curves"].fits is None):
            wait(20)
        while page == "build" and window.pages["build"].shop is None:
            wait(20)
        while page == "log" and window.pages["log"].found is None:
            wait(20)
        if page == "log":
            _read_a_loose_lug(window)
        if page == "build":
            window.pages["build"].select(selected)
            window.pages["build"].show_section(name.split("-")[1])
        if look == "dark" and page == "bank":
            window.pages["bank"].course.slider.setValue(800)
        wait(120)
        window.grab().save(str(HERE / f"{name}.png"))
        # Else closing would ask whether to save.
        while window.document.undo_label is not None:
            window.document.undo()
        window.close()
        app.processEvents()
        print(HERE / f"{name}.png")


if __name__ == "__main__":
    main()
