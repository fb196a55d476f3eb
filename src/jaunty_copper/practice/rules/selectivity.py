"""Whether the device next to a fault opens first, and alone."""

from collections.abc import Iterator

from jaunty_copper.practice.case import Case, Rule
from jaunty_copper.practice.findings import Finding, Severity
from jaunty_copper.practice.rules.words import kiloamps

SOURCE = "Opening bands of the families at the air they stand in, representative; IEC 60364-5-53 535"


def unselective(case: Case, rule: Rule) -> Iterator[Finding]:
    """Pairs of devices in series of which the upstream one may open first, and takes more with it."""
    for p in case.study.pairs:
        if p.same or p.verdict == "total":
            continue
        up, down = case.title(p.upstream), case.title(p.downstream)
        span = f"{kiloamps(p.least_a)} to {kiloamps(p.most_a)}"
        if p.verdict == "none":
            words = f"{up} may open before {down} does, at any fault behind it ({span})"
        else:
            words = f"{down} opens before {up} only up to {kiloamps(p.up_to_a)}; faults behind it drive {span}"
        yield case.finding(
            rule, Severity.MEND if p.verdict == "none" else Severity.NOTE, p.downstream, words,
            figure=p.most_a, limit=p.up_to_a, unit="A", source=SOURCE,
        )  # fmt: skip


RULES = (
    Rule("selectivity", "Selectivity",
         "One fault in a small branch darkens everything, and nobody knows where to look.", unselective),
)  # fmt: skip
