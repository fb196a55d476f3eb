"""Torture by a seed, for as long as is asked: ``./run torture MINUTES [--only KIND...] [--from SEED]``.

Each kind goes on where it stopped, as long as the program is the same; what failed is kept with its seed.
"""

import argparse
import contextlib
import hashlib
import io
import json
import os
import sys
import tempfile
import time
import traceback
import warnings
from pathlib import Path

from . import folders, kills, plans, tables, talkers

ROOT = Path(__file__).parents[2]
STATE = ROOT / "build" / "torture.json"
LONGEST_S = 2.0
"""Of the program's own computing, for what a person waits for."""
THOROUGHLY_EVERY, DRAWN_EVERY, EDITED_EVERY = 100, 25, 5


def _plans(seed, folder):
    begin = time.process_time()
    data = plans.damaged(seed)
    whole = seed % THOROUGHLY_EVERY == 0
    drawn = _window() if seed % DRAWN_EVERY == 0 else None
    plans.use(data, folder, thoroughly=whole, drawn=drawn, most_s=LONGEST_S, edited=seed % EDITED_EVERY == 0)
    return "plans", time.process_time() - begin


def _window():
    """Draws a picture in the real widgets, off screen."""
    from PySide6.QtWidgets import QApplication

    from jaunty_copper.desktop.shell.document import Document
    from jaunty_copper.desktop.shell.window import Window
    from jaunty_copper.plan.examples import example

    from .drawing import draw

    app = QApplication.instance() or QApplication(sys.argv[:1])
    if not hasattr(app, "tortured"):
        app.tortured = Window(Document(example("seed_shed")))
    caught = []

    def drawn(picture):
        before, sys.excepthook = sys.excepthook, lambda kind, value, trace: caught.append(value)
        try:
            draw(app.tortured, picture, things=1)
            app.processEvents()
        finally:
            sys.excepthook = before
        if caught:
            raise caught[0]

    return drawn


KINDS = {
    "plans": (_plans, 60.0),
    "tables": (lambda seed, _: tables.use(tables.damaged(seed)), 5.0),
    "folders": (folders.use, 10.0),
    "kills": (kills.use, 20.0),
    "meters": (lambda seed, _: talkers.use(seed), 5.0),
}
"""What there is to suffer, and for how many of a hundred seconds."""


def one(kind, seed):
    """One case; its trouble in words, or nothing."""
    with tempfile.TemporaryDirectory(prefix="torture-") as folder, warnings.catch_warnings():
        warnings.simplefilter("error")
        said = io.StringIO()
        try:
            with contextlib.redirect_stdout(said), contextlib.redirect_stderr(said):
                KINDS[kind][0](seed, Path(folder))
        except Exception:
            return traceback.format_exc()
    return ""


def _program():
    """What the program is, in a few letters."""
    made = hashlib.sha256()
    for file in sorted((ROOT / "src").rglob("*.py")):
        made.update(file.read_bytes())
    return made.hexdigest()[:12]


def main(arguments=None):
    """Go on for some minutes; exits 1 where anything broke."""
    parser = argparse.ArgumentParser(prog="./run torture", description=main.__doc__)
    parser.add_argument("minutes", type=float)
    parser.add_argument("--only", choices=KINDS, nargs="+", default=list(KINDS))
    parser.add_argument("--from", type=int, dest="first", default=None, metavar="SEED", help="begin anew at this seed")
    parser.add_argument("--state", type=Path, default=STATE, help="file in which it is kept how far it got")
    options = parser.parse_args(arguments)
    os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
    with tempfile.TemporaryDirectory(prefix="torture-home-") as home:
        for name in ("XDG_STATE_HOME", "XDG_CONFIG_HOME"):
            os.environ[name] = str(Path(home) / name)
        return _go_on(options)


def _go_on(options):
    program, state = _program(), {}
    with contextlib.suppress(OSError, ValueError):
        state = json.loads(options.state.read_text())
    if state.get("program") != program or options.first is not None:
        state = {"program": program, "next": {}, "cases": {}, "broken": state.get("broken", [])}
    whole, begin, broken = sum(KINDS[k][1] for k in options.only), time.monotonic(), 0
    options.state.parent.mkdir(parents=True, exist_ok=True)
    while (left := 60.0 * options.minutes - (time.monotonic() - begin)) > 0.0:
        for kind in options.only:
            end = time.monotonic() + min(left, 30.0) * KINDS[kind][1] / whole
            while time.monotonic() < end:
                seed = state["next"].get(kind, options.first or 0)
                trouble = one(kind, seed)
                state["next"][kind] = seed + 1
                state["cases"][kind] = state["cases"].get(kind, 0) + 1
                if trouble:
                    broken += 1
                    state["broken"].append({"kind": kind, "seed": seed, "program": program, "trouble": trouble})
                    print(f"{kind}, seed {seed}:\n{trouble}", file=sys.stderr, flush=True)
            options.state.write_text(json.dumps(state, indent=1))
    print(", ".join(f"{count} {kind}" for kind, count in state["cases"].items()) + f"; {broken} broken in this run")
    return 1 if broken else 0


if __name__ == "__main__":
    # Cached widgets must not outlive the interpreter's own end.
    status = main()
    sys.stdout.flush()
    os._exit(status)
