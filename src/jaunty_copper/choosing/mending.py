"""Mending what is left of a plan's protection, each mend judged in full before it is kept."""

from collections.abc import Callable, Iterator
from dataclasses import dataclass
from typing import Literal

from jaunty_copper.assessment.assessment import Assessment
from jaunty_copper.choosing.changes import PROTECTION, QUESTIONS, Change, change_key, made
from jaunty_copper.choosing.ways import ways_out
from jaunty_copper.codes.checks import Finding
from jaunty_copper.plan.model import Plan

Pass = Literal["quick", "deep", "every"]
PASSES: tuple[Pass, ...] = ("quick", "deep", "every")
"""What a finding proposes; that with what must be mended then; every device of the library that may stand there."""
MENDS = 24
"""So many mends are made one after the other in the end."""
DEEP = 6
"""So many to mend what one of them makes worse."""
LAST = 6
"""So many times the first judgements more, where so much was wrong that those did not suffice."""
KEPT = 3
"""One in so many judgements is kept for the last pass: whatever else was tried, every device had its turn."""


@dataclass
class Mender:
    """Mends what is wrong, each mend judged in full before it is kept.

    Attributes
    ----------
    begin : Plan
        As it was.
    judge : callable
        A plan by the code in force.
    allowed : set
        What was wrong in it.
    left : int
        Judgements that may still be made.
    spent : bool
        Whether there was more that could have been tried.
    """

    begin: Plan
    judge: Callable[[Plan], Assessment]
    allowed: set[tuple[str, str]]
    overtaken: Callable[[], bool]
    left: int
    spent: bool = False

    def __post_init__(self) -> None:
        self._first, self._kept = self.left, self.left // KEPT
        self._tried: tuple[Assessment | None, set[tuple[str, str, str]]] = None, set()

    def last_turn(self, changes: list[Change], known: Assessment) -> tuple[list[Change], Assessment]:
        """Where judgements ran out: some more, for every device that something is left at, from where it was ended."""
        if self.spent:
            self.grant(LAST * self._first)
            self._kept = 0
            changes, known = self.mend(changes, known, passes=("every",))
        return changes, known

    def grant(self, judgements: int) -> None:
        """Let so many more be made.

        Parameters
        ----------
        judgements : int
            How many.
        """
        self.left += judgements
        self._kept, self.spent = self.left // KEPT, False

    def mend(
        self,
        changes: list[Change],
        known: Assessment | None = None,
        passes: tuple[Pass, ...] = PASSES,
        most: int = MENDS,
    ) -> tuple[list[Change], Assessment]:
        """Changes and what mends the rest; and what is then known.

        Parameters
        ----------
        passes : tuple of str
            What is tried, the next only where none before it makes anything better.
        most : int
            So many mends.
        """
        known = known or self.judge(made(self.begin, changes))
        tried = self._tried[1] if known is self._tried[0] else set[tuple[str, str, str]]()
        for _ in range(most):
            nexts = (self._next(changes, known, one, tried) for one in passes)
            found = next((n for n in nexts if n is not None), None)
            if found is None:
                break
            changes, known = found
        self._tried = known, tried
        return changes, known

    def _next(
        self, changes: list[Change], known: Assessment, one: Pass, tried: set[tuple[str, str, str]]
    ) -> tuple[list[Change], Assessment] | None:
        """The first mend that makes it better."""
        (*_, score) = self._scores(known)
        judged = set[str]()
        for f, new in _in_turns(known, self.todo(known), one):
            what = "; ".join(f"{c.place} {c.after}" for c in new)
            mark = (one, f.headline, what)
            # What mends one finding of a device or another is judged once.
            if what in judged or mark in tried or self.overtaken():
                continue
            if self.left <= (0 if one == "every" else self._kept):
                self.spent = True
                break
            tried.add(mark)
            judged.add(what)
            self.left -= 1
            then = [*changes, *new], self.judge(made(known.case.plan, new))
            if one == "deep":
                then = self.mend(*then, passes=("quick",), most=DEEP)
            if self._better(then[1], score):
                return then
        return None

    def todo(self, known: Assessment) -> list[Finding]:
        """What protecting is to leave nothing of, and what was in order before; that first."""
        found = [f for f in known.findings if self._counts(f)]
        return sorted(found, key=lambda f: (change_key(f) in self.allowed, f.verdict))

    def _counts(self, f: Finding) -> bool:
        return f.rule.id in PROTECTION or not (change_key(f) in self.allowed or f.rule.id in QUESTIONS)

    def _scores(self, known: Assessment) -> Iterator[tuple[int, ...]]:
        """How bad it is: what is newly wrong, then dangers, defects, advice about protection; after each finding more."""
        score = [0, 0, 0, 0]
        yield tuple(score)
        for f in known.each_finding():
            if self._counts(f):
                score[0] += change_key(f) not in self.allowed
                score[1 + f.verdict] += 1
                yield tuple(score)

    def _better(self, known: Assessment, than: tuple[int, ...]) -> bool:
        """Whether it is less bad; a score only grows, so that the first that is not ends it."""
        return all(score < than for score in self._scores(known))


def _in_turns(known: Assessment, findings: list[Finding], one: Pass) -> Iterator[tuple[Finding, list[Change]]]:
    """What may mend each finding; of all that may stand there one at a time of each, so that each has its turn."""
    if one != "every":
        yield from ((f, new) for f in findings for new in ways_out(known, f, every=False))
        return
    left = [(f, ways_out(known, f, every=True)) for f in findings]
    while left:
        going = []
        for f, ways in left:
            if (new := next(ways, None)) is not None:
                yield f, new
                going.append((f, ways))
        left = going
