"""Hours of loads and sources from a CSV file, as a logger or a spreadsheet writes it."""

import csv
import re
from io import StringIO

from jaunty_copper.language import say
from jaunty_copper.parts.figures import CsvError, figure_at, figure_rows, mark_of
from jaunty_copper.plan.clock import HOURS, clock
from jaunty_copper.plan.edits import change
from jaunty_copper.plan.model import CurrentLoad, Load, Plan, Source

TIME = re.compile(r"^(?:\d{4}-\d\d-\d\d[ T])?(\d{1,2})(?::[0-5]\d(?::[0-5]\d(?:\.\d+)?)?)?(?:Z|[+-]\d\d:?\d\d)?$")
HEAD = re.compile(r"^(?P<name>.*?)[\s,]*(?P<unit>%|W|kW|A)?$")
OVER = 1.02
"""By how much a logger may read above the rated figure before something else is meant."""


class ProfileError(ValueError):
    """A file of hours that cannot be read; says where and why."""


def with_profiles(plan: Plan, text: str, file: str = "profiles") -> Plan:
    """A plan whose equipment runs in the hours that a CSV file gives.

    Parameters
    ----------
    text : str
        A head: the time, then an id or name of equipment in each column with its unit, W, kW, A or %; shares from 0 to 1
        where it has none. A line each for a time of day, with or without a date; of several in an hour, or on several
        days, the mean counts. Empty cells say nothing; a sign only says which way it flows, and is left out.
    file : str
        What to call it in an error.

    Raises
    ------
    ProfileError
        With file, line or column, and reason.
    """
    text = text.lstrip("\ufeff")
    mark = mark_of(text)
    try:
        rows = list(figure_rows(text, mark))
    except CsvError as error:
        raise ProfileError(f"{file}: {error}") from None
    if not rows:
        raise ProfileError(say("{file}: there is nothing in it", file=file))
    time, *columns = next(csv.reader(StringIO(text, newline=""), delimiter=mark))
    if not columns:
        raise ProfileError(say("{file}: beside the time there is no column of equipment", file=file))
    if len(set(columns)) < len(columns):
        raise ProfileError(say("{file}: two columns have one head", file=file))
    hours = [_hour(row[time], file, line) for line, row in rows]
    known: set[str] = set()
    for column in columns:
        thing, full = _meant(plan, column, file)
        if thing.id in known:
            raise ProfileError(say("{file}: {name} has two columns", file=file, name=thing.title))
        known.add(thing.id)
        sums, counts = [0.0] * HOURS, [0] * HOURS
        for hour, (line, row) in zip(hours, rows, strict=True):
            cell = row[column].strip()
            if cell:
                sums[hour] += _figure(cell.replace(",", ".") if mark == ";" else cell, file, line, column)
                counts[hour] += 1
        if 0 in counts:
            raise ProfileError(
                say(
                    "{file}, {column}: there is no figure for {hour}",
                    file=file,
                    column=column,
                    hour=clock(counts.index(0)),
                )
            )
        shares = [s / n / full for s, n in zip(sums, counts, strict=True)]
        _within(shares, file, column)
        plan = change(plan, thing.id, by_hour=tuple(min(round(s, 6), 1.0) for s in shares))
    return plan


def _hour(cell: str, file: str, line: int) -> int:
    found = TIME.match(cell.strip())
    if found is None or int(found[1]) >= HOURS:
        raise ProfileError(say("{file}, line {line}: {cell!r} is no time of day", file=file, line=line, cell=cell[:40]))
    return int(found[1])


def _figure(cell: str, file: str, line: int, column: str) -> float:
    try:
        return abs(figure_at(cell, file, line, column))
    except CsvError as error:
        raise ProfileError(str(error)) from None


def _meant(plan: Plan, column: str, file: str) -> tuple[Load | Source, float]:
    """The equipment of a column, and the figure that stands for all of it."""
    found = HEAD.match(column.strip())
    name, unit = (found["name"].strip(), found["unit"]) if found is not None else (column, None)
    things = [e for e in plan.equipment if isinstance(e, Load | Source) and name in (e.id, e.title)]
    if len(things) != 1:
        raise ProfileError(say("{file}: {name!r} is no one load or source of the plan", file=file, name=name[:40]))
    thing = things[0]
    rated_a = thing.current_a if isinstance(thing, CurrentLoad | Source) else thing.power_w / thing.nominal_v
    full = {
        None: 1.0,
        "%": 100.0,
        "A": rated_a,
        "W": rated_a * thing.nominal_v,
        "kW": rated_a * thing.nominal_v / 1000.0,
    }
    if unit in ("A", "W", "kW") and isinstance(thing, Load):
        full[unit] *= thing.duty
    if full[unit] <= 0.0:
        raise ProfileError(
            say(
                "{file}: {name} draws nothing, so that {unit} are no share of it",
                file=file,
                name=thing.title,
                unit=unit,
            )
        )
    return thing, full[unit]


def _within(shares: list[float], file: str, column: str) -> None:
    most = max(shares)
    if most > OVER:
        raise ProfileError(
            say(
                "{file}, {column}: {percent:.0f} % of its rated figure at {hour}",
                file=file, column=column, percent=100.0 * most, hour=clock(shares.index(most)),
            )
        )  # fmt: skip
