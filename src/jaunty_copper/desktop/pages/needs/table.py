"""Equipment by scenarios: what each needs, how long a day, and where it runs."""

from collections.abc import Callable
from functools import partial
from typing import Any, NamedTuple

from PySide6.QtCore import QAbstractTableModel, QModelIndex, QPersistentModelIndex, Qt, Signal

from jaunty_copper.choosing import sizing
from jaunty_copper.desktop.widgets.label import plain_tip
from jaunty_copper.desktop.widgets.quantity import NotUnderstood, read
from jaunty_copper.language import say
from jaunty_copper.plan import edits
from jaunty_copper.plan.clock import NotOnTheClock, hours_read, hours_text
from jaunty_copper.plan.edits import Edit
from jaunty_copper.plan.model import Converter, CurrentLoad, Equipment, Inverter, Load, Plan, Source

AnyIndex = QModelIndex | QPersistentModelIndex


class NeedsColumn(NamedTuple):
    """One column before the scenarios.

    Attributes
    ----------
    field : callable
        From equipment to the name of its field; None where it has none.
    factor : float
        From the field's value to what is shown.
    may_be_empty : bool
        Whether an empty cell means none.
    """

    title: str
    hint: str
    field: Callable[[Equipment], str | None]
    factor: float = 1.0
    may_be_empty: bool = False


def _draw(e: Equipment) -> str | None:
    return (
        "current_a" if isinstance(e, CurrentLoad | Source | Converter) else "power_w" if isinstance(e, Load) else None
    )


def _surge(e: Equipment) -> str | None:
    return "surge_a" if isinstance(e, CurrentLoad) else "surge_w" if isinstance(e, Load) else None


def _lowest(e: Equipment) -> str | None:
    return "cut_out_v" if isinstance(e, Inverter) else "min_v" if isinstance(e, Load | Converter) else None


def _of_load(name: str, e: Equipment) -> str | None:
    return name if isinstance(e, Load) else None


COLUMNS = (
    NeedsColumn(say("Rated"), say("Watts, or amperes where it is held to a current"), _draw),
    NeedsColumn(say("Surge"), say("Watts or amperes when it starts"), _surge, may_be_empty=True),
    NeedsColumn(say("Surge s"), say("How long the surge lasts"), partial(_of_load, "surge_s")),
    NeedsColumn(say("Min. V"), say("Lowest voltage it tolerates"), _lowest, may_be_empty=True),
    NeedsColumn(say("h/day"), say("How long it is on; of a source, hours at its most"), lambda e: "hours_per_day" if isinstance(e, Load | Source) else None),
    NeedsColumn(say("When"), say("Hours of the day, such as 18-23, or 6-8 50 %, 17:30-22; 24 shares can be pasted"), lambda e: "by_hour" if isinstance(e, Load | Source) else None, may_be_empty=True),
    NeedsColumn(say("Duty %"), say("How much of that time it draws its power"), partial(_of_load, "duty"), 100.0),
)  # fmt: skip
UNIT_OF = {
    "current_a": "A", "power_w": "W", "surge_a": "A", "surge_w": "W", "surge_s": "s", "cut_out_v": "V", "min_v": "V", "hours_per_day": "h",
    "duty": "%",
}  # fmt: skip
STATES = {"": None, "on": "on", "off": "off", "surge": "surge"}


class NeedsTable(QAbstractTableModel):
    """The matrix; every change is one edit."""

    wanted = Signal(object)
    refused = Signal(str)
    """Why what was typed was not taken over."""

    def __init__(self) -> None:
        super().__init__()
        self.plan: Plan = Plan()

    def show_plan(self, plan: Plan) -> None:
        """Show another plan; the view keeps its place where rows and columns are the same."""
        same = self._form(plan) == self._form(self.plan)
        if not same:
            self.beginResetModel()
        self.plan = plan
        if not same:
            self.endResetModel()
        elif plan.equipment:
            self.dataChanged.emit(self.index(0, 0), self.index(self.rowCount() - 1, self.columnCount() - 1))

    @staticmethod
    def _form(plan: Plan) -> tuple[object, ...]:
        return tuple((e.id, e.kind) for e in plan.equipment), tuple((s.id, s.title) for s in plan.scenarios)

    def rowCount(self, parent: AnyIndex = QModelIndex()) -> int:
        """One row for each piece of equipment."""
        return 0 if parent.isValid() else len(self.plan.equipment)

    def columnCount(self, parent: AnyIndex = QModelIndex()) -> int:
        """What it needs, then the scenarios."""
        return 0 if parent.isValid() else 1 + len(COLUMNS) + len(self.plan.scenarios)

    def headerData(self, section: int, orientation: Qt.Orientation, role: int = Qt.ItemDataRole.DisplayRole) -> Any:
        """Titles and their explanation."""
        if orientation is not Qt.Orientation.Horizontal:
            return None
        k = section - 1
        if role == Qt.ItemDataRole.DisplayRole:
            if k < 0:
                return say("Equipment")
            return COLUMNS[k].title if k < len(COLUMNS) else self.plan.scenarios[k - len(COLUMNS)].title
        if role == Qt.ItemDataRole.ToolTipRole:
            if k < 0:
                return say("Its name")
            if k < len(COLUMNS):
                return COLUMNS[k].hint
            return plain_tip(
                say(
                    "{scenarios}: on, off, surge, or per cent of its power",
                    scenarios=self.plan.scenarios[k - len(COLUMNS)].title,
                )
            )
        return None

    def _field(self, index: AnyIndex) -> tuple[Equipment, str | None, NeedsColumn | None]:
        e: Equipment = self.plan.equipment[index.row()]
        k = index.column() - 1
        if k < 0:
            return e, "name", None
        return e, COLUMNS[k].field(e), COLUMNS[k]

    def data(self, index: AnyIndex, role: int = Qt.ItemDataRole.DisplayRole) -> Any:
        """What a cell shows."""
        shown = role in (Qt.ItemDataRole.DisplayRole, Qt.ItemDataRole.EditRole)
        if role == Qt.ItemDataRole.TextAlignmentRole and index.column():
            return int(Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter)
        if not shown:
            return None
        k = index.column() - 1 - len(COLUMNS)
        if k >= 0:
            return _state_words(self.plan, self.plan.scenarios[k].states.get(self.plan.equipment[index.row()].id, "on"))
        e, field, column = self._field(index)
        if column is None:
            return e.title if role == Qt.ItemDataRole.DisplayRole else e.name
        if field is None:
            return ""
        value = getattr(e, field)
        if value is None:
            return ""
        if field == "by_hour":
            return hours_text(value)
        # Where it is said when, their number follows.
        value = e.on_hours if field == "hours_per_day" and isinstance(e, Load | Source) else value
        text = f"{value * column.factor:g}"
        if role == Qt.ItemDataRole.DisplayRole and field.endswith(("_w", "_a")):
            return f"{text} {field[-1].upper()}"
        return text

    def flags(self, index: AnyIndex) -> Qt.ItemFlag:
        """Cells that mean something can be edited."""
        base = Qt.ItemFlag.ItemIsEnabled | Qt.ItemFlag.ItemIsSelectable
        k = index.column() - 1 - len(COLUMNS)
        return base | Qt.ItemFlag.ItemIsEditable if k >= 0 or self._field(index)[1] else base

    def setData(self, index: AnyIndex, value: Any, role: int = Qt.ItemDataRole.EditRole) -> bool:
        """Ask for the edit; what cannot be read is reported, and left as it was."""
        if role != Qt.ItemDataRole.EditRole:
            return False
        try:
            edit = self._edit(index, str(value).strip())
        except NotUnderstood as error:
            self.refused.emit(say("{index}: {error}. It is as before.", index=self._field_title(index), error=error))
            return False
        if edit is None:
            return False
        self.wanted.emit(edit)
        return True

    def _field_title(self, index: AnyIndex) -> str:
        return say(
            "{headerdata} of {equipment}",
            headerdata=self.headerData(index.column(), Qt.Orientation.Horizontal),
            equipment=self.plan.equipment[index.row()].title,
        )

    def _edit(self, index: AnyIndex, text: str) -> Edit | None:
        k = index.column() - 1 - len(COLUMNS)
        if k >= 0:
            return self._state_edit(self.plan.equipment[index.row()].id, k, text)
        e, field, column = self._field(index)
        if field is None:
            return None
        if column is None:
            return Edit(say("Name {e}", e=e.id), partial(edits.change, id_=e.id, name=text))
        value: Any
        if field == "by_hour":
            try:
                value = hours_read(text)
            except NotOnTheClock as error:
                raise NotUnderstood(str(error)) from None
        else:
            value = None if column.may_be_empty and not text else read(text, UNIT_OF[field]) / column.factor
        return Edit(
            say("{column} of {e}", column=column.title, e=e.title),
            partial(sizing.change_field, id_=e.id, field=field, value=value),
        )

    def _state_edit(self, id_: str, k: int, text: str) -> Edit | None:
        scenario = self.plan.scenarios[k]
        word = text.lower()
        state: Any = STATES[word] if word in STATES else max(0.0, min(read(word, "%") / 100.0, 1.0))
        title = self.plan.by_id[id_].title
        return Edit(
            say("{title} in {scenario}", title=title, scenario=scenario.title),
            partial(edits.set_state, scenario_id=scenario.id, id_=id_, state=state),
        )


def _state_words(_: Plan, state: object) -> str:
    return f"{100 * state:g} %" if isinstance(state, float) else str(state)
