"""Whole circuits by the clipboard: copied, cut, pasted, laid once more."""

from __future__ import annotations

from functools import partial
from typing import TYPE_CHECKING

from PySide6.QtWidgets import QApplication

from jaunty_copper.language import say, say_many
from jaunty_copper.plan import edits
from jaunty_copper.plan.edits import Edit
from jaunty_copper.plan.files import PlanError, dumps, parse
from jaunty_copper.plan.model import Equipment, Plan, split_ref

if TYPE_CHECKING:
    from jaunty_copper.desktop.shell.window import Window


class Circuits:
    """What the Edit menu does with whole circuits."""

    def __init__(self, window: Window) -> None:
        self.window = window

    def _chosen(self) -> tuple[str, ...]:
        """Equipment of the circuits that are selected, or that what is selected is in."""
        plan = self.window.document.plan
        found = dict.fromkeys(
            id_ if isinstance(plan.by_id.get(id_), Equipment) else self.window.map.row_of(id_) or ""
            for id_ in self.window.map.chosen
        )
        return tuple(id_ for id_ in found if isinstance(plan.by_id.get(id_), Equipment))

    def copy(self) -> bool:
        """Put the selected circuits on the clipboard, as a plan of their own."""
        ids = self._chosen()
        if not ids:
            self.window.show_notice(say("Select a circuit to copy: its equipment, or anything on its way"))
            return False
        QApplication.clipboard().setText(dumps(edits.cut_out(self.window.document.plan, ids)).decode())
        return True

    def cut(self) -> None:
        """Copy the selected circuits, and remove them."""
        ids = self._chosen()
        if self.copy():
            self.window.do(Edit(say("Cut {named}", named=self._named(ids)), partial(edits.cut_away, equipment_ids=ids)))

    def paste(self) -> None:
        """Put the circuits on the clipboard into this plan: where they were, or at the bar that is selected."""
        try:
            piece = parse(QApplication.clipboard().text().encode(), "the clipboard")
        except PlanError:
            self.window.show_notice(say("There is no circuit on the clipboard"))
            return
        self._put_in(piece, "Paste")

    def duplicate(self) -> None:
        """Lay the selected circuits once more, at the same bars."""
        ids = self._chosen()
        if ids:
            self._put_in(edits.cut_out(self.window.document.plan, ids), "Duplicate")
        else:
            self.window.show_notice(say("Select a circuit to duplicate: its equipment, or anything on its way"))

    def _put_in(self, piece: Plan, word: str) -> None:
        hub = split_ref(self.window.map.selected)[0] if self.window.map.selected and word == "Paste" else None
        before = {e.id for e in self.window.document.plan.equipment}
        if self.window.do(
            Edit(
                f"{word} {self._named(tuple(e.id for e in piece.equipment), piece)}",
                partial(_pasted, piece=piece, hub=hub),
            )
        ):
            self.window.select_next = next(
                (e.id for e in self.window.document.plan.equipment if e.id not in before), None
            )

    def _named(self, ids: tuple[str, ...], plan: Plan | None = None) -> str:
        things = (plan or self.window.document.plan).by_id
        return things[ids[0]].title if len(ids) == 1 else say_many("{count} circuit", "{count} circuits", len(ids))


def _pasted(plan: Plan, piece: Plan, hub: str | None) -> Plan:
    return edits.paste(plan, piece, hub)[0]
