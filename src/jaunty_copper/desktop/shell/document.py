"""The open plan: its edits, its undo, its file. Knows Qt's signals but no widget."""

from pathlib import Path
from typing import NamedTuple

from PySide6.QtCore import QObject, Signal

from jaunty_copper.plan.autosave import OpenFile
from jaunty_copper.plan.edits import Edit, EditError
from jaunty_copper.plan.examples import DEMO, example
from jaunty_copper.plan.files import Stamp, changed_on_disk, load_with_stamp, refused, save
from jaunty_copper.plan.model import Plan


class DocumentStep(NamedTuple):
    """One place in the history: a plan, and the words for the edit that made it."""

    label: str
    plan: Plan


class Document(QObject):
    """A plan being worked on.

    Undo is a list of plans without limit: they share all that an edit leaves alone.
    """

    changed = Signal()
    """The plan is another one."""
    history = Signal()
    """Undo, redo, the file or the saved state changed."""

    def __init__(self, plan: Plan, path: Path | None = None, stamp: Stamp | None = None) -> None:
        super().__init__()
        self._steps = [DocumentStep("", plan)]
        self._at = 0
        self._turned: DocumentStep | None = None
        self._saved: Plan | None = plan
        self.path = path
        self.stamp = stamp
        self.seen = stamp
        self.claim: OpenFile | None = OpenFile(path) if path else None

    @classmethod
    def open(cls, path: Path) -> "Document":
        """Read a plan.

        Raises
        ------
        PlanError
            It cannot be read, or is no plan.
        """
        plan, stamp = load_with_stamp(path)
        return cls(plan, path, stamp)

    @property
    def plan(self) -> Plan:
        """The plan as it is now."""
        return self._steps[self._at].plan

    @property
    def unsaved(self) -> bool:
        """Whether the plan differs from its file."""
        return self.plan is not self._saved and self.plan != self._saved

    @property
    def undo_label(self) -> str | None:
        """What undo would take back."""
        return self._steps[self._at].label if self._at else None

    @property
    def redo_label(self) -> str | None:
        """What redo would do again."""
        return self._steps[self._at + 1].label if self._at + 1 < len(self._steps) else None

    def do(self, edit: Edit) -> None:
        """Apply an edit.

        Raises
        ------
        EditError
            It makes no sense; the plan stays as it was.
        """
        plan = _made(edit, self.plan)
        if plan == self.plan:
            return
        self._steps[self._at + 1 :] = [DocumentStep(edit.label, plan)]
        self._at += 1
        self._moved()

    def turn(self, edit: Edit) -> None:
        """Apply an edit in place of the last one that was turned, if nothing came between: a slider makes one step.

        Raises
        ------
        EditError
            It makes no sense; the plan stays as it was.
        """
        before = self.unturned
        plan = _made(edit, before)
        if self.is_turned:
            self._at -= 1
        elif plan == before:
            return
        del self._steps[self._at + 1 :]
        self._turned = None
        if plan != before:
            self._turned = DocumentStep(edit.label, plan)
            self._steps.append(self._turned)
            self._at += 1
        self._moved()

    @property
    def unturned(self) -> Plan:
        """The plan before a slider made of it what it is now."""
        return self._steps[self._at - 1].plan if self.is_turned else self.plan

    @property
    def is_turned(self) -> bool:
        """Whether the plan is what a slider made of it last."""
        return self._turned is not None and self._steps[self._at] is self._turned

    def settle(self) -> None:
        """What was turned is a step like any other."""
        self._turned = None

    def undo(self) -> None:
        """Take the last edit back."""
        if self._at:
            self._at -= 1
            self._moved()

    def redo(self) -> None:
        """Do again what was taken back."""
        if self._at + 1 < len(self._steps):
            self._at += 1
            self._moved()

    def _moved(self) -> None:
        self.changed.emit()
        self.history.emit()

    def save(self, path: Path | None = None) -> None:
        """Write the plan, to another file if one is given.

        Raises
        ------
        OSError
            The disk refuses; the old file is untouched.
        """
        target = path or self.path
        assert target is not None
        self.stamp = self.seen = save(self.plan, target)
        if target != self.path:
            self.close()
            self.path, self.claim = target, OpenFile(target)
        self._saved = self.plan
        self.history.emit()

    def never_saved(self) -> None:
        """Treat the plan as unsaved: it came out of a crash."""
        self._saved = None
        self.history.emit()

    def noticed(self, stamp: Stamp) -> None:
        """Remember what was noticed on disk, so that it is not reported twice; it is not what was read."""
        self.seen = stamp

    @property
    def changed_outside(self) -> bool:
        """Whether saving would overwrite something else than was read or written here."""
        if self.path is None or not self.path.exists():
            return False
        return self.stamp is None or changed_on_disk(self.path, self.stamp)

    @property
    def open_elsewhere(self) -> bool:
        """Whether another window has the file open."""
        return self.claim is not None and not self.claim.ours

    def close(self) -> None:
        """Let go of the file."""
        if self.claim is not None:
            self.claim.release()
            self.claim = None


def _made(edit: Edit, before: Plan) -> Plan:
    """What an edit makes of a plan, once the file format takes it."""
    plan = edit.apply(before)
    why = refused(plan, before)
    if why is not None:
        raise EditError(why)
    return plan


def demo_document() -> Document:
    """The demo system, not saved anywhere yet."""
    return Document(example(DEMO))
