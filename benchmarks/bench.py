"""Measure, and print every figure as a ratio to a floor measured in the same run.

./run bench            everything
./run bench study      only what begins with that word: start, study, faults, bank, design, readings, documents, edit

It ends with a table of the aims that were measured: benchmarks/aims.py says them.
"""

import json
import math
import os
import statistics
import subprocess
import sys
import tempfile
import time
from collections.abc import Callable
from pathlib import Path
from typing import Any

HERE = Path(__file__).resolve().parent
sys.path.insert(0, str(HERE.parent))
from benchmarks.aims import AIMS, reach, table  # noqa: E402

os.environ["QT_QPA_PLATFORM"] = "offscreen"
os.environ.setdefault("OPENBLAS_NUM_THREADS", "1")  # As the program's entry points do.
os.environ["XDG_CONFIG_HOME"] = os.environ["XDG_STATE_HOME"] = tempfile.mkdtemp()

FLOOR_WINDOW = """
import sys, time
import numpy
from PySide6 import QtCore, QtWidgets
app = QtWidgets.QApplication([])
window = QtWidgets.QMainWindow()
window.resize(1280, 800)
window.show()
app.processEvents()
print(time.clock_gettime(time.CLOCK_MONOTONIC) - float(sys.argv[1]))
"""
OUR_WINDOW = """
import sys, time
# As the program's entry points do.
from jaunty_copper.cli import startup
for prepare in (startup.one_thread, startup.without_plugins, startup.no_garbage, startup.load_qt):
    prepare()
from PySide6.QtCore import QEventLoop
from jaunty_copper.desktop.shell.app import application
from jaunty_copper.desktop.shell.document import demo_document
from jaunty_copper.desktop.shell.window import Window
document = demo_document()
app = application()
window = Window(document)
window.looks.apply()
window.show()
while not window.map.painted:
    app.processEvents()
drawn = time.clock_gettime(time.CLOCK_MONOTONIC) - float(sys.argv[1])
while window.picture is None:
    # As the program waits: asking again and again would take the interpreter from the study.
    app.processEvents(QEventLoop.ProcessEventsFlag.WaitForMoreEvents)
app.processEvents()
judged = time.clock_gettime(time.CLOCK_MONOTONIC) - float(sys.argv[1])
import os, resource
print(drawn, judged, resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1024, flush=True)
os._exit(0)
"""
MEMORY = """
import resource, sys, time
from jaunty_copper.cli.startup import seldom_garbage
seldom_garbage()
sys.path.insert(0, sys.argv[1])
from benchmarks.generate import generated
from jaunty_copper.assessment.assessment import Assessment
from jaunty_copper.network.study import study
plan = generated(int(sys.argv[2]))
begin = time.perf_counter()
Assessment(plan).findings
print(time.perf_counter() - begin, resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1024)
"""
DIAGNOSIS = """
import resource, sys
sys.path.insert(0, sys.argv[1])
import numpy as np
from benchmarks.generate import generated
from jaunty_copper.commissioning.diagnose import diagnose
from jaunty_copper.commissioning.model import bench
from jaunty_copper.commissioning.points import everything_on
plan = generated(int(sys.argv[2]))
b = bench(plan, everything_on(plan))
off = np.zeros(b.parameters)
off[next(k for k, p in enumerate(b.places) if abs(b.base.current_a[p.branch]) > 5.0)] = 0.02
diagnose(b, b.read(b.solve(off), off))
print(resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1024)
"""


def best(work: Callable[[], object], times: int = 5) -> float:
    """Median of some runs, after one to warm up, s."""
    work()
    taken = []
    for _ in range(times):
        begin = time.perf_counter()
        work()
        taken.append(time.perf_counter() - begin)
    return statistics.median(taken)


def child(code: str, *arguments: str) -> list[float]:
    """Numbers that a fresh process prints; its first argument is when it was started."""
    # A machine that forbids compiled files would measure the compiler.
    env = {k: v for k, v in os.environ.items() if k != "PYTHONDONTWRITEBYTECODE"}
    out = subprocess.run(
        [sys.executable, "-c", code, *arguments], capture_output=True, text=True, check=True, env=env
    ).stdout
    return [float(x) for x in out.split()]


def start() -> None:
    """Start to a usable window against an empty Qt window that imports NumPy.

    Run in turn, each against the floor just before it, so that a machine that slows down or
    speeds up in between does so to both.
    """
    rounds: list[tuple[float, float, float]] = []
    for _ in range(13):
        ((floor,), (drawn, studied, megabytes)) = (
            child(script, str(time.clock_gettime(time.CLOCK_MONOTONIC))) for script in (FLOOR_WINDOW, OUR_WINDOW)
        )
        rounds.append((floor, drawn, studied))
    reach("window memory", megabytes)
    words = ("empty Qt window with NumPy", "window usable, map drawn", "demo studied and judged")
    print("start                             median          ratio    half of the ratios lie between")
    for k, what in enumerate(words):
        times = [r[k] for r in rounds[1:]]
        low, middle, high = statistics.quantiles([r[k] / r[0] for r in rounds[1:]], n=4)
        print(f"start  {what:28} {1e3 * statistics.median(times):6.0f} ms    {middle:6.2f}    {low:.2f} and {high:.2f}")
        if k:
            reach(("start", "start judged")[k - 1], middle, 1.0)


MEASURED = {"demo": "demo", "generated 2000": "2000", "2000 runs": "2000"}
"""Plans whose figures are aims."""


def sparse_floor(plan: object) -> float:
    """One sparse factorisation with one solve of a plan's own network, s."""
    import numpy as np
    from scipy.sparse import csc_array
    from scipy.sparse.linalg import splu

    from jaunty_copper.network.wiring import wire

    c = wire(plan).circuit  # type: ignore[arg-type]
    g = 1.0 / np.maximum(c.fixed_ohm + c.copper_ohm, 1e-6)
    pins = np.arange(c.nodes)
    rows = np.concatenate([c.a, c.a, c.b, c.b, pins])
    cols = np.concatenate([c.a, c.b, c.a, c.b, pins])
    values = np.concatenate([g, -g, -g, g, np.full(c.nodes, 1e-3)])
    rhs = np.ones(c.nodes)

    def work() -> None:
        matrix = csc_array((values, (rows, cols)), shape=(c.nodes, c.nodes))
        splu(matrix, permc_spec="MMD_AT_PLUS_A").solve(rhs)

    return best(work)


def study() -> None:
    """Whole study of the demo and of generated plans."""
    from benchmarks.generate import generated
    from jaunty_copper.assessment.assessment import Assessment
    from jaunty_copper.desktop.work.making import picture_of
    from jaunty_copper.network.study import study as solve
    from jaunty_copper.plan.examples import DEMO, example

    print("study  plan            runs   floor     solve            and judge         and lay out")
    points = []
    for name, plan in (("demo", example(DEMO)), *((f"generated {n}", generated(n)) for n in (100, 500, 2000))):
        floor = sparse_floor(plan)
        solved = best(lambda p=plan: solve(p))
        judged = best(lambda p=plan: Assessment(solve(p)).findings)
        shown = best(lambda p=plan: picture_of(p))
        print(
            f"study  {name:14} {len(plan.runs):5}  {1e3 * floor:5.2f} ms"
            f" {1e3 * solved:7.1f} ms {solved / floor:5.0f}  {1e3 * judged:7.1f} ms {judged / floor:5.0f}"
            f"  {1e3 * shown:7.1f} ms {shown / floor:5.0f}"
        )
        if name != "demo":
            points.append((len(plan.runs), judged))
        if name in MEASURED:
            reach(f"{MEASURED[name]} study", judged, floor)
    (n0, t0), (n1, t1) = points[0], points[-1]
    print(f"study  growth exponent from {n0} to {n1} runs: {math.log(t1 / t0) / math.log(n1 / n0):.2f}")
    for runs in ("2000", "10000"):
        seconds, megabytes = child(MEMORY, str(HERE.parent), runs)
        print(f"study  a process that studies and judges {runs} runs: {seconds:.1f} s, peak memory {megabytes:.0f} MB")
    reach("10000 study", seconds, sparse_floor(generated(10000)))
    reach("10000 memory", megabytes)


def faults() -> None:
    """All faults everywhere with all checks of devices, a fault in time, and a whole set of devices."""
    from benchmarks.generate import generated
    from jaunty_copper.choosing.protect import protect
    from jaunty_copper.codes.case import Case
    from jaunty_copper.codes.rules import faults as about_faults
    from jaunty_copper.codes.rules import protection, selectivity, survival, switching
    from jaunty_copper.network.study import Study
    from jaunty_copper.network.study import study as solve
    from jaunty_copper.plan.examples import DEMO, example
    from jaunty_copper.protection.protection import Protection
    from jaunty_copper.protection.replay import replay

    rules = [*about_faults.RULES, *survival.RULES, *protection.RULES, *selectivity.RULES, *switching.RULES]
    for name, plan in (("demo", example(DEMO)), ("2000 runs", generated(2000))):
        floor, solved = sparse_floor(plan), solve(plan)
        solved.hottest_ambient_c, solved.continuous_a  # noqa: B018
        taken = {"currents": 0.0, "checks": 0.0}

        def check(plan: object = plan, states: object = solved, taken: dict[str, float] = taken) -> None:
            # A study of its own, so that nothing is known from the time before; its states are solved.
            fresh = Protection(Study(plan, states.wiring, states.states))  # type: ignore[arg-type, attr-defined]
            begin = time.perf_counter()
            for each in (fresh.faults.peak, fresh.faults.steady, fresh.faults.least):
                assert each.current_a.size
            middle = time.perf_counter()
            case = Case(fresh)
            for rule in rules:
                for _ in rule.check(case, rule):
                    pass
            taken["currents"], taken["checks"] = middle - begin, time.perf_counter() - middle

        whole = best(check, 5)
        print(
            f"faults {name:10} places {len(Protection(solved).faults.places.refs):5}, three cases and all checks {1e3 * whole:7.0f} ms"
            f" {whole / floor:6.0f}  (last: currents {1e3 * taken['currents']:.0f}, checks {1e3 * taken['checks']:.0f})"
        )
        reach(f"{MEASURED[name]} faults", whole, floor)
    demo = solve(example(DEMO))
    floor = sparse_floor(demo.plan)
    for words, work in (
        ("a fault in time", lambda: replay(Protection(demo), "P24.s1")),
        ("protect the whole plan", lambda: protect(demo.plan)),
    ):
        seconds = best(work, 1)
        print(f"faults demo, {words:24} {1e3 * seconds:7.0f} ms {seconds / floor:6.0f}")


def bank() -> None:
    """Twelve hours of sixteen units in 10 s steps, and all patterns of a bank, against one full solve."""
    from benchmarks.generate import row_of_units
    from jaunty_copper.battery.arrangements import influences, options
    from jaunty_copper.battery.discharge import over_time
    from jaunty_copper.network.study import solve_scenario

    plan = row_of_units(16)
    scenario = plan.scenarios[0]
    floor = best(lambda: solve_scenario(plan, scenario))
    print(f"bank   16 units, one full solve        {1e3 * floor:7.1f} ms    1.00")
    for words, work in (
        ("12 h in 10 s steps", lambda: over_time(plan, scenario, 12.0)),
        ("patterns side by side", lambda: list(options(plan, "B0", scenario))),
        ("one fault after the other", lambda: list(influences(plan, "B0", scenario))),
    ):
        taken = best(work, 3)
        print(f"bank   {words:30}  {1e3 * taken:7.0f} ms  {taken / floor:6.0f}")


def design() -> None:
    """Days ahead, variants, and whole plans from the demo's list, against studying and judging the demo once."""
    from benchmarks.generate import generated, row_of_units
    from jaunty_copper.assessment.assessment import Assessment
    from jaunty_copper.battery.days import ahead
    from jaunty_copper.choosing.brief import Brief
    from jaunty_copper.choosing.draft import drafts
    from jaunty_copper.choosing.least_cost.search import least_cost
    from jaunty_copper.choosing.side_by_side import side_by_side
    from jaunty_copper.commissioning.varying import chances
    from jaunty_copper.documents.comparison import Comparison
    from jaunty_copper.documents.dossier import Dossier
    from jaunty_copper.plan.edits import change
    from jaunty_copper.plan.examples import DEMO, example
    from jaunty_copper.plan.model import Plan

    demo, row, circuits = example(DEMO), row_of_units(16), generated(300)
    other = change(demo, "W60", length_m=20.0)
    case = Assessment(demo).case

    def judged(plan: Plan) -> None:
        _ = Assessment(plan).findings

    floor = best(lambda: judged(demo), 3)
    print(f"design demo studied and judged         {1e3 * floor:7.1f} ms    1.00")
    for words, work in (
        ("a day of 16 units, 60 s steps", lambda: ahead(row, row.scenarios[0], (1.0,))),
        ("three days of the demo", lambda: ahead(demo, demo.scenarios[0], (1.0, 1.0, 1.0))),
        ("10,000 variants of the demo", lambda: chances(case, 10_000)),
        ("the demo beside another", lambda: Comparison(Dossier(demo), Dossier(other)).tables()),
        ("whole plans of the demo's list", lambda: list(drafts(demo, Brief(demo.practice), spread=side_by_side))),
        ("the demo's sizes, with proof", lambda: least_cost(demo)),
        ("sizes of 92 circuits, with proof", lambda: least_cost(circuits)),
    ):
        taken = best(work, 1)
        print(f"design {words:32} {1e3 * taken:7.0f} ms  {taken / floor:6.1f}")


def readings() -> None:
    """What to expect everywhere, and what readings say, against one full solve of the same plan."""
    import numpy as np

    from benchmarks.generate import generated
    from jaunty_copper.commissioning.choice import fewest
    from jaunty_copper.commissioning.diagnose import diagnose
    from jaunty_copper.commissioning.model import bench
    from jaunty_copper.commissioning.points import everything_on
    from jaunty_copper.plan.examples import DEMO, example

    for name, plan in (("demo", example(DEMO)), ("generated 500", generated(500))):
        b = bench(plan, everything_on(plan))
        floor = best(lambda b=b: b.solve(np.zeros(b.parameters)), 3)
        off = np.zeros(b.parameters)
        off[next(k for k, p in enumerate(b.places) if abs(b.base.current_a[p.branch]) > 5.0)] = 0.02
        values = b.read(b.solve(off), off)
        print(f"readings {name:14} {len(b.points):4} points, one full solve    {1e3 * floor:7.1f} ms    1.00")
        for words, work in (
            ("what to expect", lambda plan=plan: bench(plan, everything_on(plan)).expected()),
            ("the fewest readings", lambda b=b: fewest(b)),
            ("what readings say", lambda b=b, values=values: diagnose(b, values)),
        ):
            taken = best(work, 3)
            print(f"readings {name:14} {words:30} {1e3 * taken:7.0f} ms {taken / floor:7.0f}")
    (megabytes,) = child(DIAGNOSIS, str(HERE.parent), "2000")
    print(f"readings a process that says what readings of 2000 runs mean: peak memory {megabytes:.0f} MB")
    reach("2000 diagnosis", megabytes)


def documents() -> None:
    """Every table, the spreadsheet and the report of the demo, against studying and judging it."""
    from jaunty_copper.assessment.assessment import Assessment
    from jaunty_copper.documents.dossier import Dossier
    from jaunty_copper.documents.pdf.report import report_pdf
    from jaunty_copper.documents.table import as_xlsx
    from jaunty_copper.documents.tables import all_tables
    from jaunty_copper.network.study import study as solve
    from jaunty_copper.plan.examples import DEMO, example

    plan = example(DEMO)
    floor = best(lambda: Assessment(solve(plan)).findings, 3)
    print(f"documents  study and findings  {1e3 * floor:7.0f} ms    1.00")
    for words, work in (
        ("every table", lambda: all_tables(Dossier(plan))),
        ("spreadsheet", lambda: as_xlsx(all_tables(Dossier(plan)))),
        ("report", lambda: report_pdf(Dossier(plan))),
    ):
        taken = best(work, 3)
        print(f"documents  {words:18} {1e3 * taken:8.0f} ms {taken / floor:7.1f}")


def spin(app: Any, until: Callable[[], bool]) -> None:
    """Let the window work until something holds."""
    from PySide6.QtCore import QEventLoop

    while not until():
        app.processEvents(QEventLoop.ProcessEventsFlag.WaitForMoreEvents)


class Pulse:
    """A timer that should ring every millisecond hears how long the window is held."""

    def __init__(self) -> None:
        from PySide6.QtCore import Qt, QTimer

        self._held, self._rung = 0.0, 0.0
        self._timer = QTimer(interval=1, timerType=Qt.TimerType.PreciseTimer)
        self._timer.timeout.connect(self._ring)

    def _ring(self) -> None:
        now = time.perf_counter()
        self._held, self._rung = max(self._held, now - self._rung), now

    def longest(self, work: Callable[[], object]) -> float:
        """The longest that the window was held in some work, s."""
        self._held, self._rung = 0.0, time.perf_counter()
        self._timer.start()
        work()
        self._timer.stop()
        return self._held


def edit() -> None:
    """Edit to repainted window, of the demo and of a large plan, against one repaint of the map alone."""
    from benchmarks.generate import generated
    from jaunty_copper.plan.examples import DEMO, example

    for name, plan, run, times in (("demo", example(DEMO), "W31", 15), ("2000", generated(2000), "W900", 5)):
        _edit(name, plan, run, times)


def _edit(name: str, plan: Any, run: str, times: int) -> None:
    from jaunty_copper.cli.startup import loaded
    from jaunty_copper.desktop.shell.app import application
    from jaunty_copper.desktop.shell.document import Document
    from jaunty_copper.desktop.shell.window import Window
    from jaunty_copper.plan import edits
    from jaunty_copper.plan.edits import Edit

    app = application()
    window = Window(Document(plan))
    # As the program does.
    window.ahead.done.connect(loaded)
    window.looks.apply()
    window.show()
    spin(app, lambda: window.picture is not None)
    window.map.select(run)
    window.inspector.grab()
    pulse = Pulse()
    # What pages need is loaded once, while nobody waits: what an edit holds is told apart from that.
    loading = pulse.longest(lambda: spin(app, lambda: not window.ahead.loading))
    floor = best(lambda: window.map.viewport().grab())
    lengths = iter(range(1, 1000))
    figures: list[float] = []

    def one() -> None:
        begun, length = time.perf_counter(), float(next(lengths))
        window.do(Edit("length", lambda p: edits.change(p, run, length_m=length)))
        plan = window.document.plan
        # Painted within the same event.
        spin(app, lambda: window.map.picture is not None and window.map.picture.plan is plan)
        figures.append(time.perf_counter() - begun)
        # What looks as it did before it was judged is not painted again.
        spin(app, lambda: window.picture is not None and window.picture.plan is plan)
        app.processEvents()

    taken = best(one, times)
    quickest = min(figures)
    # The machine itself stops now and then for longer than anything here lasts: half of the edits say more than the worst.
    holds = sorted(pulse.longest(one) for _ in range(times))
    for words, seconds, aim in (
        ("one repaint of the map", floor, ""),
        ("edit to figures on the map", quickest, f"{name} figures"),
        ("edit to all findings", taken, f"{name} findings"),
        ("longest the window was held", holds[-1], "held" if name == "demo" else ""),
        ("and in half of the edits", holds[len(holds) // 2], ""),
        ("and once, loading ahead", loading, ""),
    ):
        print(f"edit   {name:5} {words:30} {1e3 * seconds:7.1f} ms  {seconds / floor:6.2f}", flush=True)
        if aim in AIMS:
            reach(aim, seconds, floor)
    window.studying.close()
    window.autosave.close()
    window.hide()


def main() -> None:
    """Run what was asked for."""
    wanted = sys.argv[1:]
    # As the program does.
    from jaunty_copper.cli.startup import seldom_garbage

    seldom_garbage()
    print(json.dumps({"python": sys.version.split()[0], "cores": os.cpu_count()}))
    for part in (start, study, faults, bank, design, readings, documents, edit):
        if not wanted or any(part.__name__.startswith(w) for w in wanted):
            part()
    print("\n".join(table()))


if __name__ == "__main__":
    main()
    sys.stdout.flush()
    os._exit(0)
