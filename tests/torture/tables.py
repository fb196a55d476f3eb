"""Tables that people, other programs and bad disks wrote: each is read, or refused with its line and reason."""

import random
from functools import cache

import numpy as np

from jaunty_copper.commissioning.model import bench
from jaunty_copper.commissioning.points import everything_on
from jaunty_copper.commissioning.readings_file import ReadingsError, read_readings, write_readings
from jaunty_copper.parts.curve_file import CurveError, read_curve
from jaunty_copper.parts.price_file import PriceError, read_prices
from jaunty_copper.plan.examples import example

CELLS = (
    "", " ", "nan", "inf", "-inf", "1e400", "1_2", "0x10", "1e30", "-0", "٣", "½", '"', "'", "=1+1", "a\x00b", "\ufeff", "1,5", "1;5", "x" * 200_000,
    "volts", "amps", "joint", "1e-320", "+.5", "9" * 400,
)  # fmt: skip
ERRORS = (ReadingsError, CurveError, PriceError)
LONGEST_REASON = 400


@cache
def _bench():
    plan = example("seed_shed")
    return bench(plan, everything_on(plan))


@cache
def _sound():
    curve = "current_a,shortest_s,longest_s\n10,100,1000\n20,1,10\n50,0.1,0.5\n"
    prices = "key,what,price\ncable:mm2-10,Cable,3.2\nlug:M8,Lug,0.8\n"
    return (write_readings(_bench()), curve, prices, prices.replace(",", ";"))


def damaged(seed):
    """A table's text after a few misfortunes."""
    r = random.Random(seed)
    lines = r.choice(_sound()).split("\n")
    mark = ";" if ";" in lines[0] else ","
    for _ in range(r.choice((0, 1, 2, 5))):
        at = r.randrange(len(lines))
        cells = lines[at].split(mark)
        match r.randrange(6):
            case 0:
                lines.pop(at)
            case 1:
                lines.insert(at, r.choice(lines))
            case 2 | 3:
                cells[r.randrange(len(cells))] = r.choice(CELLS)
                lines[at] = mark.join(cells)
            case 4:
                r.shuffle(cells)
                lines[at] = mark.join(cells)
            case _:
                lines[at] = lines[at][: r.randrange(len(lines[at]) + 1)] + r.choice(("\r", "\t", '"', "", ";"))
        lines = lines or [""]
    return r.choice(("\n", "\r\n", "\r")).join(lines)


def use(text):
    """Read it as each kind of table; how many kinds it was."""
    readers = (
        lambda: read_readings(text, _bench()),
        lambda: read_curve(text, 10.0),
        lambda: read_prices(text).prices,
    )
    return sum(_read(reader) for reader in readers)


def _read(reader):
    try:
        found = reader()
    except ERRORS as error:
        why = str(error)
    else:
        values = found.values() if isinstance(found, dict) else list(np.ravel(np.array(found, dtype=float)))
        assert all(np.isnan(v) or abs(v) <= 1e9 for v in values)
        return True
    assert 0 < len(why) < LONGEST_REASON, why[:500]
    return False
