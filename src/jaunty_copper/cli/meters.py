"""Meters on the command line: simulated ones, readings taken with any, and what became of a place."""

import argparse
import contextlib
import errno
import json
import os
import signal
import sys
import time
from collections.abc import Iterator, Mapping
from math import isfinite
from pathlib import Path

from jaunty_copper.cli.commission import bench_or_complaint
from jaunty_copper.cli.inputs import complain, plan_or_complaint
from jaunty_copper.commissioning.choice import fewest
from jaunty_copper.commissioning.meter import MeterError, take
from jaunty_copper.commissioning.model import Bench
from jaunty_copper.commissioning.points import Point
from jaunty_copper.commissioning.readings_file import ReadingsError, read_readings, with_points_of, write_readings
from jaunty_copper.commissioning.trends import compare, costs, days_of, side_by_side
from jaunty_copper.commissioning.trends import trend as followed
from jaunty_copper.language import say
from jaunty_copper.network.study import study
from jaunty_copper.plan.model import Plan
from jaunty_copper.plan.storage import MOST_TEXT, read_text, write_atomically
from jaunty_copper.simulator.training import NothingToHide, TrainingBench, hide


def stand_ins(options: argparse.Namespace) -> int:
    """Put simulated meters onto the loopback, on a copy of a plan with something hidden."""
    plan = plan_or_complaint(options.plan)
    if isinstance(plan, int):
        return plan
    try:
        hidden = None if options.sound else hide(plan, options.seed)
    except NothingToHide as error:
        return complain(str(error))
    made = TrainingBench(plan, hidden, options.seed, serial=options.serial)
    try:
        for name, meter in made.meters.items():
            print(f"{name:16} {meter.address}")
        print("Ctrl+C ends them" + (say(" and shows what was hidden.") if hidden is not None else "."), flush=True)
        end = time.monotonic() + options.seconds if options.seconds is not None else None
        while end is None or time.monotonic() < end:
            time.sleep(0.1)
    except KeyboardInterrupt:
        print()
    finally:
        made.close()
    if hidden is not None:
        print(say("Hidden was: {words}.", words=hidden.words(plan)))
    return 0


class Stopped(Exception):
    """The terminal was closed, or somebody asked this process to end."""


@contextlib.contextmanager
def _told_to_end() -> Iterator[None]:
    """Let a request to end be heard like Ctrl+C, so that what was read is kept."""

    def stop(*_: object) -> None:
        raise Stopped

    before = {number: signal.signal(number, stop) for number in (signal.SIGTERM, signal.SIGHUP)}
    try:
        yield
    finally:
        for number, handler in before.items():
            signal.signal(number, handler)


def measure(options: argparse.Namespace) -> int:
    """Read meters point by point into a table of readings.

    Each reading is on disk before the next is asked for. A table that is there already is gone on with: what was
    read before stays until the same point is read again.
    """
    b = bench_or_complaint(options)
    if isinstance(b, int):
        return b
    rows = tuple(fewest(b)[0]) if options.fewest else tuple(range(len(b.points)))
    file = Path(options.output) if options.output is not None else None
    try:
        b = _with_points_before(file, b)
        before = _read_before(file, b)
        if file is not None and not before:
            # A folder that is missing or closed is reported before anybody sets a probe.
            sound = file if file.exists() else file.parent
            if not os.access(sound, os.W_OK):
                number = errno.EACCES if sound.exists() else errno.ENOENT
                raise OSError(number, os.strerror(number))
    except (OSError, UnicodeDecodeError, ReadingsError) as error:
        reason = (error.strerror or "").lower() if isinstance(error, OSError) else str(error)
        return complain(
            say(
                "{output}: {reason}; nothing was measured, and it is as it was",
                output=options.output,
                reason=reason or say("cannot be read"),
            )
        )
    taken = dict(before)
    status = 0
    with _told_to_end():
        try:
            for k in rows:
                value = _at(b, b.points[k], options)
                if value is not None:
                    taken[b.points[k]] = value
                    if file is not None:
                        write_atomically(file, _table(b, rows, taken).encode("utf-8"))
        except (EOFError, KeyboardInterrupt, Stopped, Enough):
            pass
        except MeterError as error:
            status = complain(say("{error}; {taken} readings were taken and are kept", error=error, taken=len(taken)))
        except OSError as error:
            return complain(f"{options.output}: {(error.strerror or say('cannot be written')).lower()}")
        finally:
            if file is None:
                sys.stdout.write(_table(b, rows, taken))
    return status


class Enough(Exception):
    """The person has read what was wanted."""


def _at(b: Bench, point: Point, options: argparse.Namespace) -> float | None:
    """One reading; None where it is skipped, or no meter is given for it."""
    address = options.clamp if point.quantity == "amps" else options.meter
    if address is None:
        return None
    if not options.unattended:
        where = say("{a} and {b}", a=point.a, b=point.b) if point.b else say("around {a}", a=point.a)
        # Not on standard output: that is the table's.
        print(
            say("Probes at {where}, then Enter (s skips, q ends): ", where=where), end="", file=sys.stderr, flush=True
        )
        said = input().strip().lower()
        if said == "q":
            raise Enough
        if said == "s":
            return None
    return take(address, point, b.scenario.id, options.timeout).value


def _with_points_before(file: Path | None, b: Bench) -> Bench:
    """The bench, with what a table that is there already has besides."""
    return with_points_of(read_text(file, MOST_TEXT), b) if file is not None and file.exists() else b


def _read_before(file: Path | None, b: Bench) -> dict[Point, float]:
    """What a table that is there already holds."""
    if file is None or not file.exists():
        return {}
    values = read_readings(read_text(file, MOST_TEXT), b, file.name)
    return {p: float(v) for p, v in zip(b.points, values, strict=True) if isfinite(v)}


def _table(b: Bench, rows: tuple[int, ...], taken: Mapping[Point, float]) -> str:
    """The points asked for, and those that were read before."""
    more = tuple(k for k, p in enumerate(b.points) if p in taken and k not in rows)
    return write_readings(b, (*rows, *more), taken)


def trend(options: argparse.Namespace) -> int:
    """Resistance of a place over the days of the log."""
    plan = plan_or_complaint(options.plan)
    if isinstance(plan, int):
        return plan
    if options.before is not None or options.after is not None:
        return _two_days(plan, options)
    if options.of is None:
        return complain(say("say of what: --of ID; or two days to compare: --before DAY --after DAY"))
    if options.of not in plan.by_id and options.of not in plan.run_by_id:
        return complain(say("nothing is called {of!r}", of=options.of))
    points = followed(plan, options.of)
    if options.json:
        print(json.dumps([p._asdict() for p in points], indent=1))
        return 0
    if not points:
        print(say("No day's readings in the log say anything of it."))
    for p in points:
        print(
            say(
                "{on}  {ohm:8.3f} ± {sigma_ohm:.2g} mΩ   planned {planned_ohm:.3f}",
                on=p.on,
                ohm=1000.0 * p.ohm,
                sigma_ohm=1000.0 * p.sigma_ohm,
                planned_ohm=1000.0 * p.planned_ohm,
            )
        )
    return 0


def _two_days(plan: Plan, options: argparse.Namespace) -> int:
    """What changed between two days of readings; the earlier may be another plan's."""
    days = {e.on: e.readings for e in days_of(plan)}
    if not days:
        return complain(say("there are no readings in the log of {plan}", plan=options.plan))
    before, after = options.before or min(days), options.after or max(days)
    if before not in days and Path(before).exists():
        other = plan_or_complaint(before)
        if isinstance(other, int):
            return other
        logged = days_of(other)
        days[before] = logged[-1].readings if logged else other.readings
    for day in (before, after):
        if not days.get(day):
            return complain(say("no readings on {day}; there are: {days}", day=day, days=", ".join(sorted(days))))
    b, difference = compare(plan, days[before], days[after])
    sides = side_by_side(b, days[before], days[after]) if b is not None else ()
    gone = costs(study(plan), difference) if difference.alarm else ()
    if options.json:
        print(
            json.dumps(
                {
                    "before": before, "after": after, "changed": difference.alarm,
                    "costs": [c._asdict() for c in gone],
                    "readings": [{**s.point._asdict(), "before": s.before, "after": s.after, "tolerance": s.tolerance} for s in sides],
                },
                ensure_ascii=False, indent=1,
            )
        )  # fmt: skip
        return 0
    if not difference.alarm:
        print(say("No resistance has changed, within what loads, sources, charge and meter leave open."))
    more = {s.owner: s.more for s in difference.suspects}
    for c in gone:
        print(
            say(
                "{owner}: {more} {word}; in “{scenario}”, at {amps:.0f} A: {volts:+.3g} V, {watts:+.3g} W lost",
                owner=c.owner, more=more[c.owner], word=say("more") if c.volts > 0.0 else say("less"), scenario=c.scenario,
                amps=c.amps, volts=c.volts, watts=c.watts,
            )
        )  # fmt: skip
    for s in sides:
        where = " ".join(x for x in s.point if x)
        print(f"  {where:40} {s.before:10.4f} {s.after:10.4f}  {s.after - s.before:+10.4f} ± {s.tolerance:.4f}")
    return 0
