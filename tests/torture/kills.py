"""A process is killed, or its disk is full, while it writes: what was there is whole, and no reading is lost."""

import argparse
import contextlib
import os
import random
import resource
import signal
import sys
import time
from functools import cache

from jaunty_copper.assessment.assessment import Assessment
from jaunty_copper.cli import meters
from jaunty_copper.commissioning.meter import Taken
from jaunty_copper.commissioning.model import bench
from jaunty_copper.commissioning.points import everything_on
from jaunty_copper.commissioning.readings_file import read_readings
from jaunty_copper.documents.map.drawing import map_svg
from jaunty_copper.plan import edits
from jaunty_copper.plan.autosave import Autosave, left_behind
from jaunty_copper.plan.examples import example
from jaunty_copper.plan.files import dumps, load, save
from jaunty_copper.plan.storage import write_atomically

KINDS = ("save", "autosave", "export", "measure", "full disk")
LONGEST_S = 0.02
"""After which a process is killed at the latest; a save takes a few milliseconds."""


@cache
def _plans():
    plan = example("seed_shed")
    return plan, edits.change_plan(plan, name="another name")


@cache
def _pictures():
    return tuple(map_svg(Assessment(plan), plan.scenarios[0].id).encode() for plan in _plans())


@cache
def _bench():
    return bench(_plans()[0], everything_on(_plans()[0]))


def _child(work):
    """Work for ever in a process of its own, which says when it has begun; its number, and where it tells things."""
    heard, told = os.pipe()
    pid = os.fork()
    if pid == 0:
        os.close(heard)
        with contextlib.suppress(BaseException):
            os.write(told, b"b")
            while True:
                work(told)
        os._exit(1)
    os.close(told)
    os.read(heard, 1)
    return pid, heard


def _kill(r, pid, heard):
    time.sleep(r.uniform(0.0, LONGEST_S))
    os.kill(pid, signal.SIGKILL)
    os.waitpid(pid, 0)
    with open(heard, "rb") as stream:
        return stream.read()


def use(seed, folder):
    """One kill; the kind of it.

    Parameters
    ----------
    folder : Path
        Empty.
    """
    r = random.Random(seed)
    kind = KINDS[seed % len(KINDS)]
    {"save": _save, "autosave": _autosave, "export": _export, "measure": _measure, "full disk": _full}[kind](r, folder)
    return kind


def _save(r, folder):
    file = folder / "plan.copper.json"
    one, two = _plans()
    save(one, file)

    def work(_):
        save(two, file)
        save(one, file)

    _kill(r, *_child(work))
    assert load(file) in (one, two)


def _autosave(r, folder):
    one, two = _plans()
    made = []

    def work(_):
        if not made:
            made.append(Autosave(folder))
        made[0].keep(one, None)
        made[0].keep(two, None)

    _kill(r, *_child(work))
    found = left_behind(folder)
    assert len(found) <= 1
    assert all(f.plan in (one, two) for f in found)
    begun = [f for f in os.listdir(folder) if f.startswith("unsaved-") and f.endswith(".json")]
    assert len(found) == len(begun)


def _export(r, folder):
    file = folder / "map.svg"
    one, two = _pictures()
    write_atomically(file, one)

    def work(_):
        write_atomically(file, two)
        write_atomically(file, one)

    _kill(r, *_child(work))
    assert file.read_bytes() in (one, two)


def _options(file):
    return argparse.Namespace(
        plan=str(file.with_name("plan.copper.json")), scenario=None, output=str(file), fewest=False, unattended=True, meter="here",
        clamp="here", timeout=1.0,
    )  # fmt: skip


def _measure_once(file, take):
    meters.take = take
    sys.stdout = sys.stderr = open(os.devnull, "w")  # noqa: SIM115 - for the rest of a short life
    return meters.measure(_options(file))


def _measure(r, folder):
    file = folder / "read.csv"
    save(_plans()[0], folder / "plan.copper.json")
    pause = r.uniform(0.0, 0.002)

    def work(told):
        def take(*_):
            os.write(told, b"r")
            time.sleep(pause)
            return Taken(1.5, "", True)

        _measure_once(file, take)
        time.sleep(10.0)

    asked = len(_kill(r, *_child(work)))
    read = (~(read_readings(file.read_text(), _bench()) != 1.5)).sum() if file.exists() else 0
    # Every reading but the one that was being taken.
    assert asked - 1 <= read <= asked, (asked, read)


def _full(r, folder):
    """A file may grow to so many bytes and no further."""
    file, table = folder / "plan.copper.json", folder / "read.csv"
    one, two = _plans()
    save(one, file)
    most = r.randrange(len(dumps(two)))
    pid = os.fork()
    if pid == 0:
        bad = 1
        with contextlib.suppress(BaseException):
            signal.signal(signal.SIGXFSZ, signal.SIG_IGN)
            resource.setrlimit(resource.RLIMIT_FSIZE, (most, most))
            refused = 0
            autosave = Autosave(folder)
            for work in (
                lambda: save(two, file),
                lambda: autosave.keep(two, None),
                lambda: write_atomically(table, b"x" * 10**6),
            ):
                try:
                    work()
                except OSError:
                    refused += 1
            bad = 0 if refused == 3 else 2
        os._exit(bad)
    _, status = os.waitpid(pid, 0)
    assert os.waitstatus_to_exitcode(status) == 0
    assert load(file) == one
    assert not table.exists()
    assert not [n for n in os.listdir(folder) if n.endswith(".new")]
