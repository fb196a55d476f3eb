"""alter: the order of the work from a plan as it is to the plan as it shall be."""

import argparse
from itertools import groupby

from jaunty_copper.cli.inputs import plan_or_complaint
from jaunty_copper.cli.values import print_json
from jaunty_copper.documents.alteration import AlterationSheet
from jaunty_copper.documents.dossier import Dossier
from jaunty_copper.documents.table import as_text
from jaunty_copper.language import say


def alter(options: argparse.Namespace) -> int:
    """What is made safe, taken out, fitted, connected and proved, with materials and readings."""
    plans = []
    for path in (options.plan, options.other):
        plan = plan_or_complaint(path)
        if isinstance(plan, int):
            return plan
        plans.append(plan)
    sheet = AlterationSheet(*map(Dossier, plans))
    if options.json:
        made = {t.name: [dict(zip(t.head, row, strict=True)) for row in t.rows] for t in sheet.tables()}
        print_json({**made, "stays_live": list(sheet.found.stays_live), "price": sheet.needs.price})
        return 0
    if not sheet.found.steps:
        print(say("There is nothing to do on site between these two plans."))
        return 0
    work, *others = sheet.tables()
    print(work.title)
    for part, rows in groupby(work.rows, key=lambda row: row[1]):
        print(f"  {part}")
        for number, _, text, caution, done in rows:
            print(f"{done:>2}{number:>4}  {text}" + (f"\n        ⚠ {caution}" if caution else ""))
    print()
    for t in others:
        if t.rows:
            print(f"{t.title}\n{as_text(t)}\n")
    print(say("Local codes and licensed practice decide; so does what you find on the spot."))
    return 0
