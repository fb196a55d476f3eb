"""Make the pictures in docs/screenshots from the demo data. Start it with ``./run shots``."""

import os
import sys
import tempfile
import time
from datetime import date
from functools import partial
from pathlib import Path

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
home = tempfile.mkdtemp()
os.environ["XDG_CONFIG_HOME"] = os.environ["XDG_STATE_HOME"] = home

import numpy as np

from jaunty_copper.battery.building import add_bank
from jaunty_copper.choosing.beginning import Beginning, begun
from jaunty_copper.choosing.laying import lay
from jaunty_copper.choosing.protect import protect
from jaunty_copper.choosing.wiring_up import wire_up
from jaunty_copper.commissioning.model import bench
from jaunty_copper.commissioning.points import everything_on
from jaunty_copper.desktop.shell.app import application
from jaunty_copper.desktop.shell.document import Document, demo_document
from jaunty_copper.desktop.shell.window import Window
from jaunty_copper.documents.dossier import Dossier
from jaunty_copper.documents.map.drawing import map_svg
from jaunty_copper.documents.pdf.report import report_pdf
from jaunty_copper.plan.edits import Edit, change, change_plan, insert_inline
from jaunty_copper.plan.lines import add_line
from jaunty_copper.plan.model import Bar, Entry, Fuse, Plan, Reading
from jaunty_copper.simulator.hidden import AsBuilt, Deviation

HERE = Path(os.environ.get("SHOTS", Path(__file__).parent / "screenshots"))
SIZE = (1280, 800)
VIEWS = (
    ("needs-light", "needs", "flow", "light", "work", "INV", None),
    ("needs-days-dark", "needs", "flow", "dark", "evening", "SUN", None),
    ("bank-light", "bank", "flow", "light", "work", "B1", None),
    ("map-flow-light", "map", "flow", "light", "work", None, None),
    ("map-drop-light", "map", "drop", "light", "work", "PUMP", None),
    ("map-short-light", "map", "short", "light", "work", "F2", "interrupt_rating"),
    ("map-guard-light", "map", "guard", "light", "work", "PUMP", "no_protection"),
    ("curves-light", "curves", "flow", "light", "work", "F2", None),
    ("tables-light", "tables", "flow", "light", "work", "W21", None),
    ("build-cuts-light", "build", "flow", "light", "work", "W21", None),
    ("build-board-light", "build", "flow", "light", "work", "Q1", None),
    ("build-order-dark", "build", "flow", "dark", "work", "W21", None),
    ("log-measure-light", "log", "flow", "light", "work", "W21", None),
    ("log-trends-dark", "log", "flow", "dark", "work", "W21", None),
    ("log-trips-light", "log", "flow", "light", "work", "F3", None),
    ("map-read-light", "map", "read", "light", "work", None, None),
    ("map-flow-dark", "map", "flow", "dark", "generator", "W40", "branch_unprotected"),
    ("map-two-banks-light", "map", "flow", "light", "all", None, None),
    ("map-sixty-circuits-light", "map", "flow", "light", "all", None, None),
)
"""Name, page, lens, look, scenario, what is selected, rule of the finding that is selected."""


def written(lines: tuple[str, ...], **asked: object) -> Plan:
    """A system drawn from its questions and a few lines of equipment."""
    plan = begun(Beginning(**asked))  # type: ignore[arg-type]
    for line in lines:
        plan = add_line(plan, line, asked["system_v"])[0]  # type: ignore[arg-type]
    return wire_up(plan).plan


def two_banks() -> Plan:
    """A 24 V bank of two strings, a converter, and a battery at the converter's bars."""
    lines = (
        "Workshop inverter 2 kW 1.2 m", "Mains charger 40 A 2 m", "Yard lamp 20 W 9 m", "Shed lamp 20 W 5 m", "Well pump 90 W 6 m critical",
        "12 V converter 24 to 12 V 20 A 1 m", "Radio 12 V 3 A 4 m", "Cold box 12 V 60 W 3 m",
    )  # fmt: skip
    plan = written(
        lines,
        system_v=24.0,
        chemistry="agm",
        unit_v=12.0,
        unit_ah=110.0,
        parallel=2,
        practice="iec_60364",
        bonding="minus",
    )
    plan, unit = add_bank(plan)
    plus, minus = (
        next(x.id for x in plan.items if isinstance(x, Bar) and f"12 V {pole}" in x.title) for pole in ("plus", "minus")
    )
    plan = lay(lay(plan, f"{unit}.plus", plus, 0.6), f"{unit}.minus", minus, 0.6)
    (lead,), (back,) = (plan.runs_at[f"{unit}.{pole}"] for pole in ("plus", "minus"))
    plan = change(plan, back.id, conductor=lead.conductor)
    plan = insert_inline(plan, lead.id, Fuse(id="F90", name="Battery fuse", family="class-t-fuse", rating_a=40.0), 0.1)
    return change_plan(protect(plan).plan, name="Two banks")


def sixty_circuits() -> Plan:
    """Ten lamps of each of six kinds."""
    lines = tuple(f"10 x {word} lamp {watts} W {3 + n} m" for n, (word, watts) in enumerate((("Hall", 10), ("Stair", 6), ("Yard", 20), ("Stable", 15), ("Loft", 8), ("Gate", 12))))  # fmt: skip
    plan = written(
        lines,
        system_v=24.0,
        chemistry="lifepo4",
        unit_v=12.0,
        unit_ah=200.0,
        parallel=2,
        practice="iec_60364",
        bonding="minus",
    )
    return change_plan(plan, name="Sixty circuits")


PLANS = {"map-two-banks-light": two_banks, "map-sixty-circuits-light": sixty_circuits}
"""Views of other systems than the demo's."""


def documents() -> None:
    """The demo's map and report beside the pictures."""
    dossier = Dossier(demo_document().plan)
    (HERE.parent / "demo-map.svg").write_text(map_svg(dossier.known, dossier.study.states[1].scenario.id), "utf-8")
    (HERE.parent / "demo-report.pdf").write_bytes(report_pdf(dossier, date(2026, 11, 25)))


def wait(ms: int) -> None:
    """Let the window and its workers go on; Qt's own wait would hold the interpreter."""
    end = time.monotonic() + ms / 1000.0
    while time.monotonic() < end:
        application().processEvents()
        time.sleep(0.005)


def _some_months_on(window: Window) -> None:
    """Let the demo have been measured four times, the inverter's lug loosening, and something have happened since."""
    wanted, rng = [], np.random.default_rng(4)
    plan = window.document.plan
    scenario = everything_on(plan)
    for day, ohm in (("2026-03-02", 0.0), ("2026-05-18", 0.0004), ("2026-08-09", 0.0012), ("2026-10-30", 0.006)):
        built = AsBuilt(plan, Deviation("loose lug", "W21", "b", ohm), seed=2)
        b = bench(plan, scenario)
        values = [built.value(scenario, p) for p in b.points] + rng.normal(size=len(b.points)) * b.meter
        readings = tuple(
            Reading(scenario=scenario.id, quantity=p.quantity, a=p.a, b=p.b, value=round(float(v), 5))
            for p, v in zip(b.points, values, strict=True)
        )
        wanted.append(Entry(id=f"day-{day}", on=day, kind="measured", readings=readings, text="all units rested"))
    since = (
        Entry(
            id="n1", on="2026-03-02", kind="torque", about="W21", value=12.0, text="all studs of the plus bar, marked"
        ),
        Entry(id="n2", on="2026-06-21", kind="charge", about="GEN", value=118.0, hours=3.0, text="from 40 %"),
        Entry(id="n3", on="2026-09-14", kind="hot", about="F2", value=68.0, text="warm to the hand after pressing"),
        Entry(id="n4", on="2026-10-12", kind="charge", about="GEN", value=96.0, hours=3.0),
        Entry(id="n5", on="2026-10-28", kind="capacity", about="B3", value=91.0),
    )
    last = wanted[-1].readings
    window.do(Edit("Some months", partial(change_plan, log=(*wanted, *since), readings=last)))
    while window.picture is None or window.picture.plan is not window.document.plan:
        wait(20)


def main() -> None:
    """Take every view at 1280x800."""
    wanted = sys.argv[1:]
    app = application()
    if not wanted:
        documents()
    for name, page, lens, look, scenario, selected, rule in VIEWS:
        if wanted and name not in wanted:
            continue
        # Each as on a first start: a window comes back as it was left.
        for left in Path(home).rglob("settings.json"):
            left.unlink()
        window = Window(Document(PLANS[name]()) if name in PLANS else demo_document())
        window.looks.show(look)
        window.show()
        while window.picture is None:
            wait(20)
        if page == "log" or lens == "read":
            _some_months_on(window)
        window.set_lens(lens)
        window.scenarios.show(scenario)
        if selected:
            window.map.select(selected, show=True)
        if rule:
            window.findings.select(next(f for f in window.findings.model.shown if f.rule.id == rule))
        window.show_page(page)
        while page == "bank" and (window.pages["bank"].facts is None or window.pages["bank"].facts.influences is None):
            wait(20)
        while page == "curves" and (window.pages["curves"].replay.found is None or window.pages["curves"].fits is None):
            wait(20)
        if name.startswith("needs-days"):
            window.pages["needs"].show_section("days")
            while window.pages["needs"].ahead.found is None:
                wait(20)
        while page == "build" and window.pages["build"].shop is None:
            wait(20)
        if page == "log":
            log = window.pages["log"]
            while not log.measure.says.suspects:
                wait(20)
            log.show_section(name.split("-")[1])
            log.select(selected)
            log.trips.ask()
            while log.trends.isVisible() and log.trends.found is None:
                wait(20)
        while lens == "read" and not window.picture.read:
            wait(20)
        if page == "build":
            window.pages["build"].select(selected)
            window.pages["build"].show_section(name.split("-")[1])
        if look == "dark" and page == "bank":
            window.pages["bank"].course.slider.setValue(800)
        wait(120)
        if (window.width(), window.height()) != SIZE:
            raise SystemExit(f"{name} would be {window.width()}x{window.height()}")
        window.grab().save(str(HERE / f"{name}.png"))
        # Else closing would ask whether to save.
        while window.document.undo_label is not None:
            window.document.undo()
        window.close()
        app.processEvents()
        print(HERE / f"{name}.png")


if __name__ == "__main__":
    main()
