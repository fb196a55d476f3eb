"""Whether the device next to a fault opens first, and alone."""

from collections.abc import Iterator

from jaunty_copper.codes.case import Case
from jaunty_copper.codes.checks import Check, Rule, Verdict
from jaunty_copper.codes.rules.words import amps

SOURCE = "Opening bands of the families at the air they stand in, representative; IEC 60364-5-53 535"


def unselective(case: Case, rule: Rule) -> Iterator[Check]:
    """Pairs of devices in series of which the upstream one may open first, and takes more with it."""
    for p in case.protection.pairs:
        if p.same:
            continue
        check = case.check(rule, p.downstream, p.most_a, p.up_to_a, "A", source=SOURCE)
        up, down = case.title(p.upstream), case.title(p.downstream)
        span = f"{amps(p.least_a)} to {amps(p.most_a)}"
        if p.verdict == "total":
            yield check
        elif p.verdict == "none":
            yield check.fails(Verdict.DEFECT, f"{up} may open before {down} does, at any fault behind it ({span})")
        else:
            yield check.fails(
                Verdict.ADVICE, f"{down} opens before {up} only up to {amps(p.up_to_a)}; faults behind it drive {span}"
            )


RULES = (
    Rule("selectivity", "Selectivity",
         "One fault in a small branch darkens everything, and nobody knows where to look.", unselective,
         "{} pairs of devices are not selective", page="curves", topic="Selectivity"),
)  # fmt: skip
