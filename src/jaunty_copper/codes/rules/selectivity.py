"""Whether the device next to a fault opens first, and alone."""

from collections.abc import Iterator

from jaunty_copper.codes.case import Case
from jaunty_copper.codes.checks import Check, Rule, Verdict
from jaunty_copper.codes.rules.words import amps
from jaunty_copper.language import say

SOURCE = say(
    "Opening bands of the families at the air they stand in, representative; IEC 60364-5-53 asks for selectivity where safety needs it: check the edition"
)


def unselective(case: Case, rule: Rule) -> Iterator[Check]:
    """Pairs of devices in series of which the upstream one may open first, and takes more with it."""
    for p in case.protection.pairs:
        if p.same:
            continue
        check = case.check(rule, p.downstream, p.most_a, p.up_to_a, "A", source=SOURCE)
        up, down = case.title(p.upstream), case.title(p.downstream)
        span = say("{least_a} to {most_a}", least_a=amps(p.least_a), most_a=amps(p.most_a))
        if p.verdict == "total":
            yield check
        elif p.verdict == "none":
            yield check.fails(
                Verdict.DEFECT,
                say("{up} may open before {down} does, at any fault behind it ({span})", up=up, down=down, span=span),
            )
        else:
            yield check.fails(
                Verdict.ADVICE,
                say(
                    "{down} opens before {up} only up to {up_to_a}; faults behind it drive {span}",
                    down=down,
                    up=up,
                    up_to_a=amps(p.up_to_a),
                    span=span,
                ),
            )


RULES = (
    Rule("selectivity", say("Selectivity"),
         say("One fault in a small branch darkens everything, and nobody knows where to look."), unselective,
         say("{} pairs of devices are not selective"), page="curves", topic="Selectivity"),
)  # fmt: skip
