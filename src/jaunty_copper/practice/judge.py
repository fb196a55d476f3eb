"""Hold a study against a practice."""

from jaunty_copper.practice.case import Case
from jaunty_copper.practice.findings import Finding
from jaunty_copper.practice.rules import RULES
from jaunty_copper.study.study import Study


def judge(study: Study, practice: str | None = None) -> tuple[Finding, ...]:
    """All findings of one practice, worst first.

    Parameters
    ----------
    study : Study
        What was computed from the plan.
    practice : str, optional
        Id of a rule book; the plan's own where none is given.

    Raises
    ------
    UnknownPractice
        There is no such rule book.
    """
    return judge_case(Case(study, practice))


def judge_case(case: Case) -> tuple[Finding, ...]:
    """All findings of a case, worst first, in the order of the rules."""
    found = [
        finding for rule in RULES if not rule.only or case.book.id in rule.only for finding in rule.check(case, rule)
    ]
    return tuple(sorted(found, key=lambda f: f.severity))
