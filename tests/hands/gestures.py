"""Which gestures hands have made, against all that the program offers: the table in README.md beside this file.

Every process of a run writes down what its hands did and what it was offered, a line each; at the end the
lines become the table. A gesture that is offered and that no hand made, or a table that is not the one in the
repository, fails the run.
"""

import json
import os
from collections import defaultdict
from pathlib import Path

TABLE = Path(__file__).with_name("README.md")
FOLDER = "HANDS_RECORDS"
"""Environment variable: where the processes of a run write."""
BOTH = ("mouse", "keyboard")
HEAD = """# What hands have done

Made by the tests themselves (`./run test tests/hands`): which gestures were made through the X server, by
mouse and by keyboard, and in which tests. What the program offers, every entry of every menu, is read from
the program; an entry that no test chose shows here as **none**, and fails the run.

"""


def write(kind, **what):
    """Add a line to this process's record."""
    folder = os.environ.get(FOLDER)
    if folder:
        with open(Path(folder) / f"{os.getpid()}.jsonl", "a") as file:
            file.write(json.dumps({"kind": kind, **what}) + "\n")


def _read(folder):
    for file in Path(folder).glob("*.jsonl"):
        for line in file.read_text().splitlines():
            yield json.loads(line)


def summed(folder):
    """What was done, by area and gesture and means, in which tests; and what is lacking."""
    done, wanted = defaultdict(lambda: defaultdict(set)), defaultdict(set)
    for line in _read(folder):
        key = (line["area"], line["gesture"])
        if line["kind"] == "done":
            done[key][line["by"]].add(line["test"])
        else:
            wanted[key].update(line["by"])
    lacking = [(*key, by) for key, means in sorted(wanted.items()) for by in sorted(means) if by not in done[key]]
    return done, wanted, lacking


def table(done, wanted):
    """The table as the README has it."""
    lines, areas = [HEAD], defaultdict(list)
    for key in sorted({*done, *wanted}):
        areas[key[0]].append(key)
    for area, keys in areas.items():
        lines.append(f"## {area[0].upper()}{area[1:]}\n\n| gesture | mouse | keyboard |\n|---|---|---|\n")
        for key in keys:
            cells = []
            for by in BOTH:
                tests = sorted(done[key].get(by, ()))
                cells.append(
                    ", ".join(f"`{t}`" for t in tests[:1]) if tests else "**none**" if by in wanted[key] else ""
                )
            lines.append(f"| {key[1].replace('|', '/')} | {cells[0]} | {cells[1]} |\n")
        lines.append("\n")
    return "".join(lines).rstrip() + "\n"


def close(folder):
    """Hold the run against the table; words for what is wrong, or nothing."""
    done, wanted, lacking = summed(folder)
    made = table(done, wanted)
    was = TABLE.read_text() if TABLE.exists() else ""
    if made != was:
        TABLE.write_text(made)
    wrong = [f"no hand made: {area}: {gesture} by {by}" for area, gesture, by in lacking]
    if made != was:
        wrong.append(f"the table in {TABLE} was not up to date: it is now, look at it and commit it")
    return wrong
