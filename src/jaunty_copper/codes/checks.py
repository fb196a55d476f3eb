"""Rules, and what they yield: checks that hold, and findings."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import dataclass
from enum import IntEnum
from typing import TYPE_CHECKING, NamedTuple

from jaunty_copper.language import say, say_many
from jaunty_copper.plan.edits import Edit

if TYPE_CHECKING:
    from jaunty_copper.codes.case import Case

PAGES = ("needs", "bank", "map", "curves", "build", "log")
"""Pages of the work on which a check can be looked at."""


ROUNDED = 1.0 + 1e-9
"""What is asked for exactly is enough, whatever the last bit says."""


class Verdict(IntEnum):
    """What a check comes to, the worst first: shown by a word and a shape each."""

    DANGER = 0
    DEFECT = 1
    ADVICE = 2
    HOLDS = 3

    @property
    def word(self) -> str:
        """As shown to people."""
        return WORDS[self]

    @property
    def id(self) -> str:
        """As programs read it."""
        return ("stop", "mend", "note", "holds")[self]

    def counted(self, count: int) -> str:
        """So many of them, in words.

        Parameters
        ----------
        count : int
            How many.
        """
        return COUNTED[self](count)


WORDS = {
    Verdict.DANGER: say("danger"),
    Verdict.DEFECT: say("defect"),
    Verdict.ADVICE: say("advice"),
    Verdict.HOLDS: say("holds"),
}
COUNTED = {
    Verdict.DANGER: lambda n: say_many("{count} danger", "{count} dangers", n),
    Verdict.DEFECT: lambda n: say_many("{count} defect", "{count} defects", n),
    Verdict.ADVICE: lambda n: say_many("{count} advice", "{count} advice", n),
    Verdict.HOLDS: lambda n: say_many("{count} holds", "{count} hold", n),
}
FAILING = (Verdict.DANGER, Verdict.DEFECT, Verdict.ADVICE)
"""Verdicts of findings."""


@dataclass(frozen=True)
class Rule:
    """A rule: one small function, and what is the same in all its checks.

    Attributes
    ----------
    id, title : str
        Its name in files and for people.
    why : str
        Why it matters, in one sentence a tired person understands.
    check : callable
        From a case to its checks, passing or not.
    many : str
        What several of its findings have in common; ``{}`` stands for their number.
    only : frozenset of str
        Codes that have it; all where empty.
    page : str
        The page on which it is looked at.
    topic : str
        What it is about, as a heading over its checks.
    """

    id: str
    title: str
    why: str
    check: Callable[[Case, Rule], Iterator[Check]]
    many: str
    only: frozenset[str] = frozenset()
    page: str = "map"
    topic: str = ""


class Check(NamedTuple):
    """One figure or fact held against a rule; a finding where it fails.

    Attributes
    ----------
    rule : Rule
        That it is held against.
    place : str
        Id of the item, equipment, run or scenario.
    figure, limit : float or None
        What is, and what may be; None where it is no matter of figures.
    unit : str
        Of both.
    scenario : str or None
        Id of the scenario in which it shows.
    code, source : str
        Id of the code in force, and where the limit comes from.
    verdict : Verdict
        Whether it holds, or how bad it is.
    headline : str
        What is wrong, with its place and figures, in one line; empty where it holds.
    proposal : callable or None
        Works out the edit that fixes it.
    """

    rule: Rule
    place: str
    figure: float | None
    limit: float | None
    unit: str
    scenario: str | None
    code: str
    source: str
    verdict: Verdict = Verdict.HOLDS
    headline: str = ""
    proposal: Callable[[], Edit | None] | None = None

    def fails(
        self, verdict: Verdict, headline: str, proposal: Callable[[], Edit | None] | None = None, **changes: object
    ) -> Check:
        """Turn into a finding; `changes` are attributes that differ from those of a passing check."""
        return self._replace(verdict=verdict, headline=headline, proposal=proposal, **changes)  # type: ignore[arg-type]

    @property
    def why(self) -> str:
        """Why it matters, for somebody tired."""
        return self.rule.why

    def fix(self) -> Edit | None:
        """Work out what fixes it; None where nothing can be computed."""
        return self.proposal() if self.proposal is not None else None


Finding = Check
"""A check that fails."""
