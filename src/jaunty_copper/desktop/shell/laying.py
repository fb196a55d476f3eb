"""Conductors laid, led elsewhere and swapped, from menus, keys and drags on the map."""

from __future__ import annotations

from functools import partial
from types import ModuleType
from typing import TYPE_CHECKING, Literal

from jaunty_copper.desktop.pages.map import removing
from jaunty_copper.language import say
from jaunty_copper.plan import edits
from jaunty_copper.plan.edits import Edit
from jaunty_copper.plan.joining import bar_for
from jaunty_copper.plan.model import Bar, Equipment, Inline

if TYPE_CHECKING:
    from jaunty_copper.desktop.shell.window import Window


def _dialogs() -> ModuleType:
    """The dialogs that ask where to: loaded with the first of them, not with the window."""
    from jaunty_copper.desktop.shell import connecting

    return connecting


class Laying:
    """What is done with the ends of conductors."""

    def __init__(self, window: Window) -> None:
        self.window = window

    def remove(self, selected: str) -> None:
        """Take something off the map, with all else that is selected too."""
        w, chosen = self.window, self.window.map.chosen
        if len(chosen) > 1 and selected in chosen:
            w.do(Edit(say("Remove {chosen} things", chosen=len(chosen)), partial(removing.remove_all, ids=chosen)))
            return
        edit = removing.removal(w.document.plan, selected)
        if edit is not None:
            w.do(edit)

    def move_stud(self, bar: str, stud: str, to: int) -> None:
        """A stud was dragged to another place of its bar."""
        self.window.do(
            Edit(
                say("Move stud {stud} of {bar}", stud=stud, bar=bar),
                partial(edits.move_stud, bar_id=bar, stud_id=stud, to=to),
            )
        )

    def connect(self, selected: str | None = None, to: str | None = None) -> None:
        """Lay a conductor from what is selected: asks where to, and how long."""
        connecting = _dialogs()
        plan, begin = self.window.document.plan, selected or self.window.map.selected
        known = {r.id for r in plan.runs}
        dialog = connecting.connect(plan, begin, to, self.window.looks.units, self.window) if begin else None
        if dialog is None:
            self.window.show_notice(say("Select where the conductor is to begin: a terminal, a stud, a device, a unit"))
            return
        dialog.wanted.connect(partial(self._lay, known))

    def _lay(self, known: set[str], edit: Edit) -> None:
        if self.window.do(edit):
            new = [r.id for r in self.window.document.plan.runs if r.id not in known]
            self.window.select_next = new[0] if new else None

    def aim(self, run: str, end: Literal["a", "b"]) -> None:
        """Lead one end of a conductor elsewhere: asks where to."""
        connecting = _dialogs()
        connecting.aim(self.window.document.plan, run, end, self.window.looks.units, self.window).wanted.connect(
            self.window.do
        )

    def swap(self, selected: str) -> None:
        """Let two things change places: asks which."""
        connecting = _dialogs()
        connecting.swap(self.window.document.plan, selected, self.window.looks.units, self.window).wanted.connect(
            self.window.do
        )

    def lead(self, equipment: str) -> None:
        """Lead a circuit to another bar: asks which."""
        connecting = _dialogs()
        connecting.lead(self.window.document.plan, equipment, self.window.looks.units, self.window).wanted.connect(
            self.window.do
        )

    def aimed(self, run: str, end: Literal["a", "b"], to: str) -> None:
        """An end of a conductor was dragged to a terminal."""
        connecting = _dialogs()
        self.window.do(connecting.aimed(run, end, to))

    def carried(self, id_: str, onto: str) -> None:
        """A circuit was dragged to a bar, or a device onto another one; what is unusual is asked for once more."""
        connecting = _dialogs()
        plan = self.window.document.plan
        thing, there = plan.by_id[id_], plan.by_id[onto]
        if isinstance(thing, Inline):
            self.window.do(
                Edit(
                    say("Swap {thing} and {there}", thing=thing.title, there=there.title),
                    partial(edits.swap_items, one=id_, other=onto),
                )
            )
        elif isinstance(thing, Equipment) and isinstance(there, Bar):
            found = bar_for(plan, thing, there)
            if found.standing == "forbidden":
                self.window.show_notice(say("Not led there: {why}", why=found.why))
            elif found.standing == "unusual":
                connecting.lead(plan, id_, self.window.looks.units, self.window, onto).wanted.connect(self.window.do)
            else:
                self.window.do(connecting.led(plan, id_, onto))
