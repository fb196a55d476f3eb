"""What a rule has to say."""

from enum import IntEnum
from typing import NamedTuple

from jaunty_copper.plan.edits import Edit


class Severity(IntEnum):
    """How bad: shown by a word and a shape each."""

    STOP = 0
    MEND = 1
    NOTE = 2

    @property
    def word(self) -> str:
        """As shown to people."""
        return ("danger", "defect", "advice")[self]

    def counted(self, count: int) -> str:
        """So many of them, in words."""
        return f"{count} {self.word}" + ("s" if count != 1 and self is not Severity.NOTE else "")

    @property
    def id(self) -> str:
        """As programs read it."""
        return self.name.lower()


class Finding(NamedTuple):
    """One thing that is not as it should be.

    Attributes
    ----------
    rule : str
        Id of the rule that says so.
    severity : Severity
        How bad.
    place : str
        Id of the item, equipment, run or scenario.
    headline : str
        What is wrong, with its place and figures, in one line.
    figure, limit : float or None
        What is, and what may be; None where it is no matter of figures.
    unit : str
        Of both.
    scenario : str or None
        The scenario in which it shows.
    practice, source : str
        Practice in force, and where the limit comes from.
    why : str
        Why it matters, for somebody tired.
    mend : Edit or None
        The edit that mends it, where one can be computed.
    """

    rule: str
    severity: Severity
    place: str
    headline: str
    figure: float | None
    limit: float | None
    unit: str
    scenario: str | None
    practice: str
    source: str
    why: str
    mend: Edit | None
