"""Findings as rows of a list: several of one rule under one line that opens to them."""

from __future__ import annotations

from collections.abc import Iterator
from typing import NamedTuple

from PySide6.QtCore import QAbstractListModel, QModelIndex, QPersistentModelIndex, Qt

from jaunty_copper.codes.checks import Finding, Rule, Verdict
from jaunty_copper.language import say
from jaunty_copper.plan.edits import Edit, EditError
from jaunty_copper.plan.model import Plan

Index = QModelIndex | QPersistentModelIndex


class FindingGroup(NamedTuple):
    """Several findings of one rule.

    Attributes
    ----------
    verdict : Verdict
        Of the worst of them.
    findings : tuple of Finding
        Worst first.
    open : bool
        Whether they are listed below.
    """

    rule: Rule
    verdict: Verdict
    findings: tuple[Finding, ...]
    open: bool

    @property
    def headline(self) -> str:
        """What they have in common."""
        words = self.rule.many.format(len(self.findings))
        return words[:1].upper() + words[1:]

    def fix(self) -> Edit | None:
        """One edit with what fixes each of them; None where nothing can be computed for any."""
        fixes = [fix for f in self.findings if (fix := f.fix()) is not None]
        if not fixes:
            return None
        some = (
            say("Fix all {fixes}", fixes=len(fixes))
            if len(fixes) == len(self.findings)
            else say("Fix {fixes} of {findings}", fixes=len(fixes), findings=len(self.findings))
        )
        return Edit(f"{some}: {self.rule.title.lower()}", lambda plan: _each(plan, fixes))


def _each(plan: Plan, fixes: list[Edit]) -> Plan:
    """Apply several fixes; one that an earlier one has overtaken is left out."""
    done = 0
    for fix in fixes:
        try:
            plan = fix.apply(plan)
            done += 1
        except EditError:
            continue
    if not done:
        raise EditError(say("none of it can be done any more"))
    return plan


Row = FindingGroup | Finding


def grouped(findings: tuple[Finding, ...], opened: set[str]) -> Iterator[Row]:
    """Rows in which findings are shown, worst first; the only one of its rule has a row of its own."""
    by_rule: dict[Rule, list[Finding]] = {}
    for f in findings:
        by_rule.setdefault(f.rule, []).append(f)
    for rule, several in by_rule.items():
        if len(several) == 1:
            yield several[0]
            continue
        is_open = rule.id in opened
        yield FindingGroup(rule, several[0].verdict, tuple(several), is_open)
        yield from several if is_open else ()


class FindingsModel(QAbstractListModel):
    """Findings that pass the filter, grouped by what is wrong."""

    def __init__(self) -> None:
        super().__init__()
        self.all: tuple[Finding, ...] = ()
        self.rows: list[Row] = []
        self.hidden: set[Verdict] = set()
        self.opened: set[str] = set()

    @property
    def shown(self) -> tuple[Finding, ...]:
        """Findings that pass the filter, in a group or not."""
        return tuple(f for f in self.all if f.verdict not in self.hidden)

    def set_findings(self, findings: tuple[Finding, ...]) -> None:
        """Show other findings."""
        self.beginResetModel()
        self.all = findings
        self.rows = list(grouped(self.shown, self.opened))
        self.endResetModel()

    def show_verdict(self, verdict: Verdict, on: bool) -> None:
        """Let a verdict through, or not."""
        (self.hidden.discard if on else self.hidden.add)(verdict)
        self.set_findings(self.all)

    def set_open(self, rule: str, on: bool) -> None:
        """Open the group of a rule, or close it."""
        (self.opened.add if on else self.opened.discard)(rule)
        self.set_findings(self.all)

    def row_of(self, rule: str, place: str | None) -> int:
        """The row of a finding, or without a place that of its group; -1 where there is none."""
        for k, row in enumerate(self.rows):
            if row.rule.id == rule and (None if isinstance(row, FindingGroup) else row.place) == place:
                return k
        return -1

    def rowCount(self, parent: Index | None = None) -> int:
        """How many rows."""
        return 0 if parent is not None and parent.isValid() else len(self.rows)

    def data(self, index: Index, role: int = Qt.ItemDataRole.DisplayRole) -> object:
        """A row, or its words."""
        row = self.rows[index.row()]
        match role:
            case Qt.ItemDataRole.DisplayRole:
                return row.headline
            case Qt.ItemDataRole.AccessibleTextRole:
                opens = (say(", open") if row.open else say(", closed")) if isinstance(row, FindingGroup) else ""
                return f"{row.verdict.word}: {row.headline}{opens}"
            case Qt.ItemDataRole.UserRole:
                return row
        return None
