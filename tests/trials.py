"""Claims about chance: a share of the trials at every run of the tests, all of them by `./run validate`.

Each claim is held at either size; a whole run prints the table that docs/validation.md holds. A run of a part of the
claims (`./run validate tests/choosing`) writes anew the rows of that part.
"""

import json
import os
from datetime import date
from pathlib import Path

WHOLE = os.environ.get("VALIDATE") == "1"
FOLDER = "VALIDATION_RECORDS"
"""Environment variable: where the processes of a run write."""
PAGE = Path(__file__).parents[1] / "docs" / "validation.md"
HEAD = """# Validation

Claims held on many systems drawn by chance: made by `./run validate`, which goes through all trials and writes this
page. `./run test` makes a share of them and holds the same limits. Where readings are made up, the systems deviate
from the plan in everything, as copper does that somebody built, and the meters have noise.

| claim | trials | found | limit | tried |
|---|---|---|---|---|
"""
ALL = "all"


def trials(whole, least=10):
    """How many trials to make of so many."""
    return whole if WHOLE else max(whole // 5, least)


def hold(claim, found, of, at_least=None, at_most=None):
    """Hold a claim about a share of trials, and keep the figure for the table.

    Parameters
    ----------
    claim : str
        In words.
    found, of : int
        In how many of how many trials.
    at_least, at_most : float
        Share of the trials.
    """
    assert of > 0
    limit = f"at least {100 * at_least:.0f} %" if at_least is not None else f"at most {100 * at_most:.0f} %"
    keep(claim, found, of, limit)
    if at_least is not None:
        assert found >= at_least * of, f"{claim}: {found} of {of}"
    else:
        assert found <= at_most * of, f"{claim}: {found} of {of}"


def keep(claim, found, of, limit):
    """Keep a figure for the table, in any process of a run."""
    folder = os.environ.get(FOLDER)
    if folder:
        line = [claim, str(of), f"{found} ({100 * found / of:.0f} %)", limit, date.today().isoformat()]
        with open(Path(folder) / f"{os.getpid()}.jsonl", "a") as file:
            file.write(json.dumps(line) + "\n")


class Seeds:
    """Claims whose every trial is a test of its own: what `pytest.mark.chance` says in words, counted by its reports."""

    def __init__(self):
        self.seen = {}

    def pytest_runtest_logreport(self, report):
        for claim in (value for name, value in report.user_properties if name == "claim"):
            if report.when == "call":
                found, of = self.seen.get(claim, (0, 0))
                self.seen[claim] = found + report.passed, of + 1

    def keep(self):
        """Keep what was counted for the table."""
        for claim, (found, of) in self.seen.items():
            keep(claim, found, of, ALL)


def page(folder, before=""):
    """The page: what the processes of a run wrote, and of the page before what they did not try."""
    rows = {
        cells[1].strip(): [c.strip() for c in cells[1:-1]]
        for line in before.splitlines()
        if (cells := line.split("|"))[2:]
    }
    for head in ("claim", "---"):
        rows.pop(head, None)
    for file in Path(folder).glob("*.jsonl"):
        rows |= {(row := json.loads(line))[0]: row for line in file.read_text().splitlines()}
    return HEAD + "".join(f"| {' | '.join(rows[claim])} |\n" for claim in sorted(rows))
