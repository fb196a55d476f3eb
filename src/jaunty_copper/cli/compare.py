"""compare: two plans side by side."""

import argparse

from jaunty_copper.assessment.assessment import Assessment
from jaunty_copper.cli.inputs import complain, plan_or_complaint
from jaunty_copper.cli.values import print_json
from jaunty_copper.codes.code import code_names
from jaunty_copper.documents.comparison import Comparison
from jaunty_copper.documents.dossier import Dossier
from jaunty_copper.documents.table import as_text
from jaunty_copper.language import say


def compare(options: argparse.Namespace) -> int:
    """What differs between two plans, or one plan under two codes."""
    first = plan_or_complaint(options.plan)
    if isinstance(first, int):
        return first
    if options.practice is not None and options.practice not in code_names():
        return complain(
            say("there is no code {practice!r}; there are: {names}", practice=options.practice, names=", ".join(code_names()))
        )  # fmt: skip
    if options.other is None and options.practice is None:
        return complain(say("compare with what: another plan, or the same under another code with --practice"))
    second = plan_or_complaint(options.other) if options.other is not None else first
    if isinstance(second, int):
        return second
    found = Comparison(Dossier(Assessment(first)), Dossier(Assessment(second, options.practice)))
    if options.json:
        print_json({t.name: [dict(zip(t.head, row, strict=True)) for row in t.rows] for t in found.tables()})
    else:
        for t in found.tables():
            if t.rows:
                print(f"{t.title}\n{as_text(t)}\n")
    return 0
