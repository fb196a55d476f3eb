"""Whatever is joined to whatever: what can be chosen, protected and replayed there is, and nothing fails."""

from hypothesis import given, settings

from jaunty_copper.practice.case import Case
from jaunty_copper.sizing.choose import choices
from jaunty_copper.sizing.protect import protect
from jaunty_copper.study.replay import replay
from jaunty_copper.study.study import study
from tests.practice.test_bank_rules import tangles


@settings(max_examples=20, deadline=None)
@given(tangles())
def test_choosing_protecting_and_replaying_never_fail(plan):
    s = study(plan)
    case = Case(s)
    for device in s.devices:
        assert len(choices(case, device)) == len(case.parts.device_families)
    assert len(protect(plan).left) <= len(protect(plan).found) + len(plan.runs)
    for ref in list(s.faults.at)[:2]:
        found = replay(s, ref)
        assert found.most_a >= 0.0
        assert (found.course.times_s >= 0.0).all()
