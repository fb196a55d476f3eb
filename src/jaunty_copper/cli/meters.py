"""Meters on the command line: simulated ones, readings taken with any, and what became of a place."""

import argparse
import json
import sys
import time
from pathlib import Path

from jaunty_copper.cli.commission import bench_or_complaint
from jaunty_copper.cli.inputs import complain, plan_or_complaint
from jaunty_copper.commission.diagnose import fewest
from jaunty_copper.commission.meter import MeterError, take
from jaunty_copper.commission.model import Point
from jaunty_copper.commission.readings_file import write_readings
from jaunty_copper.commission.trends import trend as followed
from jaunty_copper.plan.files import write_atomically
from jaunty_copper.stand_ins.practice import NothingToHide, PracticeBench, hide


def stand_ins(options: argparse.Namespace) -> int:
    """Put simulated meters onto the loopback, on a copy of a plan with something hidden."""
    plan = plan_or_complaint(options.plan)
    if isinstance(plan, int):
        return plan
    try:
        hidden = None if options.sound else hide(plan, options.seed)
    except NothingToHide as error:
        return complain(str(error))
    made = PracticeBench(plan, hidden, options.seed, serial=options.serial)
    try:
        for name, meter in made.meters.items():
            print(f"{name:16} {meter.address}")
        print("Ctrl+C ends them" + (" and shows what was hidden." if hidden is not None else "."), flush=True)
        end = time.monotonic() + options.seconds if options.seconds is not None else None
        while end is None or time.monotonic() < end:
            time.sleep(0.1)
    except KeyboardInterrupt:
        print()
    finally:
        made.close()
    if hidden is not None:
        print(f"Hidden was: {hidden.words(plan)}.")
    return 0


def measure(options: argparse.Namespace) -> int:
    """Read meters point by point into a table of readings. What was read is kept, whatever happens after."""
    b = bench_or_complaint(options)
    if isinstance(b, int):
        return b
    rows = tuple(fewest(b)[0]) if options.fewest else tuple(range(len(b.points)))
    taken: dict[Point, float] = {}
    status = 0
    for k in rows:
        point = b.points[k]
        address = options.clamp if point.quantity == "amps" else options.meter
        if address is None:
            continue
        try:
            if not options.unattended:
                where = f"{point.a} and {point.b}" if point.b else f"around {point.a}"
                # Not on standard output: that is the table's.
                print(f"Probes at {where}, then Enter (s skips, q ends): ", end="", file=sys.stderr, flush=True)
                said = input().strip().lower()
                if said == "q":
                    break
                if said == "s":
                    continue
            taken[point] = take(address, point, b.scenario.id, options.timeout).value
        except (EOFError, KeyboardInterrupt):
            break
        except MeterError as error:
            status = complain(f"{error}; {len(taken)} readings were taken and are kept")
            break
    text = write_readings(b, rows, taken)
    if options.output is None:
        sys.stdout.write(text)
        return status
    try:
        write_atomically(Path(options.output), text.encode("utf-8"))
    except OSError as error:
        return complain(f"{options.output}: {(error.strerror or 'cannot be written').lower()}")
    return status


def trend(options: argparse.Namespace) -> int:
    """Resistance of a place over the days of the log."""
    plan = plan_or_complaint(options.plan)
    if isinstance(plan, int):
        return plan
    if options.of not in plan.by_id and options.of not in plan.run_by_id:
        return complain(f"nothing is called {options.of!r}")
    points = followed(plan, options.of)
    if options.json:
        print(json.dumps([p._asdict() for p in points], indent=1))
        return 0
    if not points:
        print("No day's readings in the log say anything of it.")
    for p in points:
        print(f"{p.on}  {1e3 * p.ohm:8.3f} ± {1e3 * p.sigma_ohm:.2g} mΩ   planned {1e3 * p.planned_ohm:.3f}")
    return 0
