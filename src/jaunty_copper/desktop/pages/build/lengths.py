"""A field of lengths in which something is sold."""

from PySide6.QtCore import Signal

from jaunty_copper.desktop.inspector.editors import TextEditor
from jaunty_copper.desktop.widgets.quantity import NotUnderstood, read_lengths
from jaunty_copper.language import say
from jaunty_copper.plan import edits
from jaunty_copper.plan.edits import Edit
from jaunty_copper.plan.model import Plan


class LengthsField(TextEditor):
    """Lengths in metres, separated by spaces; taken over into a field of the plan.

    Parameters
    ----------
    title : str
        What they are, for people and for the step that is undone.
    field : str
        Of the plan.
    needed : bool
        Whether there is at least one.
    """

    wanted = Signal(object)
    """An `Edit` of the plan."""

    def __init__(self, title: str, field: str, needed: bool) -> None:
        super().__init__()
        self._title, self._field, self._needed = title, field, needed
        self.setAccessibleName(say("{title}, m", title=title))
        self.committed.connect(self._take)

    def show_plan(self, plan: Plan) -> None:
        """Show those of a plan."""
        self.show_value(" ".join(f"{m:g}" for m in getattr(plan, self._field)))

    def _take(self, text: str) -> None:
        before = self._shown
        try:
            lengths = read_lengths(text)
            if self._needed and not lengths:
                raise NotUnderstood(say("at least one length is needed here"))
        except NotUnderstood as error:
            self.setText(before)
            as_before = before or say("none")
            self.refused.emit(
                say(
                    "{title}: {error}. They are {as_before} as before.",
                    title=self._title,
                    error=error,
                    as_before=as_before,
                )
            )
            return
        changes = {self._field: lengths}
        self.wanted.emit(Edit(self._title, lambda plan: edits.change_plan(plan, **changes)))
