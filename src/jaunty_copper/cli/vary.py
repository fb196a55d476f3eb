"""vary: what is not known of a plan, many times at once."""

import argparse

from jaunty_copper.assessment.assessment import Assessment
from jaunty_copper.cli.inputs import complain, plan_or_complaint
from jaunty_copper.cli.values import print_json
from jaunty_copper.commissioning.judged import judged
from jaunty_copper.commissioning.varying import chances
from jaunty_copper.commissioning.varying_described import described, judged_whole, left_out
from jaunty_copper.language import say

LEAST, MOST, MOST_JUDGED = 100, 100_000, 1000


def vary(options: argparse.Namespace) -> int:
    """The chance of every finding that depends on what is not known."""
    plan = plan_or_complaint(options.plan)
    if isinstance(plan, int):
        return plan
    if not LEAST <= options.samples <= MOST:
        return complain(say("--samples goes from {least} to {most}", least=LEAST, most=MOST))
    if not 0 <= options.judged <= MOST_JUDGED:
        return complain(say("--judged goes from 0 to {most}", most=MOST_JUDGED))
    case = Assessment(plan).case
    found = chances(case, options.samples, options.seed)
    found = judged(case, found, options.seed, most=options.judged)
    if options.json:
        values = [{**c._asdict(), "matters": [m._asdict() for m in c.matters]} for c in found.found]
        print_json({"samples": found.samples, "left_out": found.left_out, "judged": found.judged, "found": values})
        return 0
    if found.left_out > 0.0:
        print(left_out(found))
    doubtful = [c for c in found.found if 0.0 < c.chance < 1.0]
    print(say("{samples} variants; spreads are representative", samples=found.samples))
    if found.judged:
        print(judged_whole(found))
    if not doubtful:
        print(say("Every limit is kept in all of them, or broken in all."))
    for c in doubtful:
        row = described(case, c)
        figures = ", ".join(x for x in (row.band, row.limit) if x)
        print(f"  {row.chance:>6}  {row.what}" + (f": {figures}" if figures else ""))
        if row.matters:
            print(say("          most by {matters}", matters=row.matters))
    return 0
