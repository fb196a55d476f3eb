"""Whatever is joined to whatever: what can be chosen, protected and replayed there is, and nothing fails."""

from hypothesis import given, settings

from jaunty_copper.choosing.devices import choices
from jaunty_copper.choosing.protect import protect
from jaunty_copper.codes.case import Case
from jaunty_copper.network.study import study
from jaunty_copper.plan.check import problems
from jaunty_copper.protection.protection import Protection
from jaunty_copper.protection.replay import replay
from tests.codes.test_bank_rules import tangles


@settings(max_examples=7, deadline=None)
@given(tangles())
def test_choosing_protecting_and_replaying_never_fail(plan):
    s = Protection(study(plan))
    case = Case(s)
    for device in s.devices:
        assert len(choices(case, device)) == len(case.parts.device_families)
    made = protect(plan)
    # What is missing never gets more, and the plan is one that can be read.
    missing = [sum(f.rule.id in ("no_protection", "branch_unprotected") for f in x) for x in (made.found, made.left)]
    assert missing[1] <= missing[0]
    assert problems(made.plan) == []
    for ref in list(s.faults.at)[:2]:
        found = replay(s, ref)
        assert found.most_a >= 0.0
        assert (found.course.times_s >= 0.0).all()
