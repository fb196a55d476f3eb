"""Claims about chance: a fifth of the trials at every run of the tests, all of them by `./run validate`.

Each claim is held at either size; the whole run prints the table that docs/validation.md holds.
"""

import json
import os
from pathlib import Path

WHOLE = os.environ.get("VALIDATE") == "1"
FOLDER = "VALIDATION_RECORDS"
"""Environment variable: where the processes of a run write."""
PAGE = Path(__file__).parents[1] / "docs" / "validation.md"
HEAD = """# Validation

What readings say, over many systems drawn by chance: made by `./run validate`, which goes through all trials and
writes this page. `./run test` makes a fifth of them and holds the same limits. The systems deviate from the plan in
everything, as copper does that somebody built; the meters have noise.

| claim | trials | found | limit |
|---|---|---|---|
"""


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
    folder = os.environ.get(FOLDER)
    if folder:
        line = {"claim": claim, "trials": of, "found": f"{found} ({100 * found / of:.0f} %)", "limit": limit}
        with open(Path(folder) / f"{os.getpid()}.jsonl", "a") as file:
            file.write(json.dumps(line) + "\n")
    if at_least is not None:
        assert found >= at_least * of, f"{claim}: {found} of {of}"
    else:
        assert found <= at_most * of, f"{claim}: {found} of {of}"


def page(folder):
    """The page, from what the processes of a run wrote."""
    rows = sorted(
        (json.loads(line) for file in Path(folder).glob("*.jsonl") for line in file.read_text().splitlines()),
        key=lambda row: row["claim"],
    )
    return HEAD + "".join(f"| {r['claim']} | {r['trials']} | {r['found']} | {r['limit']} |\n" for r in rows)
