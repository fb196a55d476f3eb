"""The program's start is made quicker by its entry points; who imports the core finds the interpreter as it was."""

import subprocess
import sys
from importlib.util import find_spec
from pathlib import Path

from jaunty_copper.cli.startup import LOADER
from jaunty_copper.plan import examples

DEMO = Path(examples.__file__).parent / f"{examples.DEMO}.copper.json"


def run(code):
    done = subprocess.run([sys.executable, "-c", code], capture_output=True, text=True, check=False)
    assert done.returncode == 0, done.stderr
    return done.stdout.split()


def test_importing_the_core_or_the_window_changes_nothing_of_the_interpreter():
    code = (
        "import builtins, gc, sys; before = builtins.__import__, gc.get_threshold()\n"
        "from jaunty_copper.assessment.assessment import Assessment\n"
        "assert (builtins.__import__, gc.get_threshold()) == before\n"
        f"print(type(sys.modules[{LOADER!r}]).__name__)\n"
        "import jaunty_copper.desktop.shell.window\n"
        "assert gc.get_threshold() == before[1]\n"
    )
    assert run(code) == ["module"]


def test_the_library_still_has_what_the_start_goes_round():
    """Where the validation library moves its loader this fails, and the start is to be looked at again."""
    assert find_spec(LOADER) is not None
    code = f"import {LOADER} as real; assert callable(real.get_plugins), 'gone'\nprint(len(list(real.get_plugins())))\n"
    assert run(code) == ["0"]
    code = (
        "from jaunty_copper.cli.main import main\nimport sys\n"
        "try: main(['schema'])\nexcept SystemExit: pass\n"
        f"print(type(sys.modules[{LOADER!r}]).__name__, 'email' in sys.modules, file=sys.stderr)\n"
    )
    done = subprocess.run([sys.executable, "-c", code], capture_output=True, text=True, check=False)
    assert done.stderr.split() == ["SimpleNamespace", "False"], done.stderr


def test_a_thumbnail_and_a_report_of_a_small_plan_load_no_library_that_they_do_not_need(tmp_path):
    """SciPy takes longer to load than a map takes to be drawn; a file manager asks for one map after the other."""
    for arguments in (
        ["thumbnail", str(DEMO), str(tmp_path / "map.png")],
        ["export", str(DEMO), "--to", "report", "-o", str(tmp_path / "report.pdf")],
    ):
        code = (
            f"import sys\nfrom jaunty_copper.cli.main import main\nassert main({arguments!r}) == 0\n"
            "assert 'numpy' in sys.modules\nprint(*(m for m in sys.modules if m.startswith('scipy')))\n"
        )
        assert [m for m in run(code) if m.startswith("scipy")] == []


def test_qt_s_own_import_does_not_stay():
    assert run(
        "import builtins; before = builtins.__import__\n"
        "from jaunty_copper.cli.startup import load_qt\nload_qt()\nprint(builtins.__import__ is before)\n"
    ) == ["True"]


def test_the_window_s_start_looks_for_garbage_again_once_all_is_loaded():
    code = (
        "import gc, os, threading, time\nfrom jaunty_copper.cli.main import main\nseen = [gc.get_threshold()[0]]\n"
        "def watch():\n"
        "    while not gc.get_freeze_count():\n"
        "        seen.append(gc.get_threshold()[0])\n        time.sleep(0.02)\n"
        "    time.sleep(0.1)\n    print(max(seen), gc.get_threshold()[0], flush=True)\n    os._exit(0)\n"
        "threading.Thread(target=watch, daemon=True).start()\nmain(['demo'])\n"
    )
    most, then = run(code)
    assert int(most) > int(then) > 10_000
