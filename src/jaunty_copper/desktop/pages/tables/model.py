"""A sheet of a plan as Qt's model: rows sorted and filtered, cells as text, what is typed or pasted as one edit."""

import csv
import re
from collections.abc import Iterable, Sequence
from functools import partial
from io import StringIO
from math import isfinite
from typing import Any, NamedTuple

from PySide6.QtCore import QAbstractTableModel, QModelIndex, QPersistentModelIndex, Qt, Signal

from jaunty_copper.desktop.inspector.fields import Field
from jaunty_copper.desktop.pages.tables.cells import Pairs, shown, typed, unit_of
from jaunty_copper.desktop.pages.tables.sheets import SHEETS, Fact, Sheet, SheetRow, Value
from jaunty_copper.desktop.widgets.quantity import NotUnderstood
from jaunty_copper.documents.map.picture import Picture
from jaunty_copper.documents.words import Units
from jaunty_copper.language import say
from jaunty_copper.plan import edits
from jaunty_copper.plan.edits import Edit
from jaunty_copper.plan.model import Plan

Index = QModelIndex | QPersistentModelIndex
FIGURES = ("number", "blank", "count")
MOST_PASTED = 1_000_000
"""Letters that are taken from the clipboard at once."""


class SheetColumn(NamedTuple):
    """A column: what is computed, or a field; the key where it is neither."""

    title: str
    fact: Fact | None = None
    field: Field | None = None

    @property
    def figures(self) -> bool:
        """Whether figures stand in it, at the right."""
        return self.field is not None and self.field.kind in FIGURES


class SheetModel(QAbstractTableModel):
    """Rows of one sheet; every change is one edit."""

    wanted = Signal(object)
    refused = Signal(str)
    """Why what was typed was not taken over."""

    def __init__(self) -> None:
        super().__init__()
        self.sheet: Sheet = SHEETS["conductors"]
        self.picture: Picture | None = None
        self.scenario: str | None = None
        self.units = Units()
        self.columns: tuple[SheetColumn, ...] = ()
        self.rows: list[SheetRow] = []
        self.words = ""
        """Only rows that hold all of them are shown."""
        self.sorted_by: tuple[str, bool] | None = None
        """Title of a column, and whether from the largest down."""
        self._facts: dict[tuple[str, str], Value] = {}
        self._choices: dict[tuple[type, str], Pairs] = {}

    # What is shown

    def show_sheet(self, sheet: Sheet, picture: Picture, scenario: str | None, units: Units) -> None:
        """Show a sheet of a plan; the view keeps its place where rows and columns are the same."""
        other = sheet is not self.sheet
        before = (self.columns, [r.key for r in self.rows])
        self.sheet, self.picture, self.scenario, self.units = sheet, picture, scenario, units
        self._facts, self._choices = {}, {}
        if other:
            self.words, self.sorted_by = "", None
        columns = self._columns()
        found = self._kept(self._found(), [] if other else before[1])
        if (columns, [r.key for r in found]) == before:
            self.rows = found
            if found:
                self.dataChanged.emit(self.index(0, 0), self.index(len(found) - 1, len(columns) - 1))
            return
        self.beginResetModel()
        self.columns, self.rows = columns, found
        self.endResetModel()

    def filter(self, words: str) -> None:
        """Show only rows that hold some words, in the order in force."""
        self.beginResetModel()
        self.words = words
        self.rows = self._ordered(self._found())
        self.endResetModel()

    def sort(self, column: int, order: Qt.SortOrder = Qt.SortOrder.AscendingOrder) -> None:
        """Sort by a column; what is typed later does not move its row."""
        if not 0 <= column < len(self.columns):
            return
        self.beginResetModel()
        self.sorted_by = (self.columns[column].title, order == Qt.SortOrder.DescendingOrder)
        self.rows = self._ordered(self.rows)
        self.endResetModel()

    @property
    def plan(self) -> Plan:
        """The plan that is shown."""
        return self.picture.plan if self.picture is not None else Plan()

    def _columns(self) -> tuple[SheetColumn, ...]:
        sheet, feet = self.sheet, self.units.awg

        def head(f: Field) -> SheetColumn:
            unit = unit_of(f, feet)
            return SheetColumn(f"{f.label}, {unit}" if unit else f.label, None, f)

        usual = [f for f in sheet.columns if not f.group]
        rest = [f for f in sheet.columns if f.group]
        found = [
            *(SheetColumn(x.title, x) for x in sheet.lead), *map(head, usual), *(SheetColumn(x.title, x) for x in sheet.facts),
            *map(head, rest), *map(head, sheet.more(self.plan)), SheetColumn(sheet.key),
        ]  # fmt: skip
        return tuple(found)

    def _found(self) -> list[SheetRow]:
        wanted = self.words.lower().split()
        rows = self.sheet.rows(self.plan)
        return [r for r in rows if all(w in self._text_of(r) for w in wanted)] if wanted else rows

    def _text_of(self, row: SheetRow) -> str:
        facts = {f.title for f in self.sheet.facts}
        return " ".join(self.text(row, c) for c in self.columns or self._columns() if c.title not in facts).lower()

    @staticmethod
    def _kept(rows: list[SheetRow], order: Sequence[str]) -> list[SheetRow]:
        """Rows in an order that there was, new ones behind."""
        place = {key: k for k, key in enumerate(order)}
        return sorted(rows, key=lambda r: place.get(r.key, len(place)))

    def _ordered(self, rows: list[SheetRow]) -> list[SheetRow]:
        if self.sorted_by is None:
            return rows
        title, down = self.sorted_by
        column = next((c for c in self.columns if c.title == title), None)
        if column is None:
            return rows
        full = [r for r in rows if self.text(r, column)]
        bare = [r for r in rows if not self.text(r, column)]
        return [*sorted(full, key=lambda r: self._weight(r, column), reverse=down), *bare]

    def _weight(self, row: SheetRow, column: SheetColumn) -> tuple[float, list[tuple[float, str]]]:
        """What rows are sorted by: figures by size, words with their numbers by size."""
        if column.fact is not None and isinstance(value := self._fact(row, column.fact), float):
            return value, []
        field = self.field(row, column)
        if field is not None and field.kind in FIGURES:
            return float(self.sheet.value(row.thing, field.name)), []
        parts = re.findall(r"\d+(?:\.\d+)?|\D+", self.text(row, column).lower())
        return 0.0, [(float(p), "") if p[0].isdigit() else (-1.0, p) for p in parts]

    def field(self, row: SheetRow, column: SheetColumn) -> Field | None:
        """What a cell edits; a kind of thing may not have it, or have it under another name."""
        if column.field is None:
            return None
        own = self.sheet.fields[type(row.thing)]
        return own.get(column.field.name) or (column.field if column.field in self.sheet.more(self.plan) else None)

    def choices(self, row: SheetRow, field: Field) -> Pairs:
        """What can be chosen in a cell."""
        key = (type(row.thing), field.name)
        if key not in self._choices:
            case = self.picture.case if self.picture is not None else None
            self._choices[key] = (
                tuple(field.choices(self.plan, case, self.units))
                if field.choices is not None and case is not None
                else ()
            )
        return self._choices[key]

    def _fact(self, row: SheetRow, fact: Fact) -> Value:
        key = (row.key, fact.title)
        if key not in self._facts:
            assert self.picture is not None
            self._facts[key] = fact.of(self.picture, self.scenario, row)
        return self._facts[key]

    def text(self, row: SheetRow, column: SheetColumn) -> str:
        """What a cell shows."""
        if column.fact is not None:
            value = self._fact(row, column.fact)
            if isinstance(value, float):
                return f"{value:.4g}" if isfinite(value) else ""
            return value or ""
        if column.field is None:
            return row.key
        field = self.field(row, column)
        if field is None:
            return ""
        return shown(field, self.sheet.value(row.thing, field.name), self.choices(row, field), self.units.awg)

    # What is typed

    def edit_of(self, cells: Iterable[tuple[int, int, str]]) -> Edit | None:
        """One edit of several cells, each with its row, column and text; None where nothing changes.

        Raises
        ------
        NotUnderstood
            One of them is not what can stand there; the text says which, and why.
        """
        changes: dict[str, dict[str, Any]] = {}
        names: dict[str, str] = {}
        label = ""
        for r, c, text in cells:
            row, column = self.rows[r], self.columns[c]
            if text.strip() == self.text(row, column) or column.fact is not None:
                continue
            if column.field is None:
                if not self.sheet.renames:
                    raise NotUnderstood(say("{key} keeps its {column}", key=row.key, column=column.title.lower()))
                names[row.key], label = text.strip(), say("Call {key} {text}", key=row.key, text=text.strip())
                continue
            field = self.field(row, column)
            if field is None:
                if text.strip():
                    raise NotUnderstood(say("{key} has no {column}", key=row.key, column=column.title.lower()))
                continue
            try:
                value = typed(field, text, self.choices(row, field), self.units.awg)
            except NotUnderstood as error:
                raise NotUnderstood(
                    say("{column} of {key}: {error}", column=column.title, key=row.key, error=error)
                ) from None
            changes.setdefault(row.key, {})[field.name] = value
            label = say("{field} of {key}", field=field.label, key=row.key)
        count = sum(map(len, changes.values())) + len(names)
        if not count:
            return None
        return Edit(
            label if count == 1 else say("{count} cells of {sheet}", count=count, sheet=self.sheet.title),
            partial(_all, put=self.sheet.put, changes=changes, names=names),
            slow=count > 1,
        )

    def pasted(self, at: tuple[int, int], chosen: Sequence[tuple[int, int]], text: str) -> Edit | None:
        """The edit of what is on the clipboard: a block from a cell on, or one value into all that are chosen.

        Raises
        ------
        NotUnderstood
            It does not fit, or a value cannot stand where it would.
        """
        if len(text) > MOST_PASTED:
            raise NotUnderstood(
                say("there are more than {most_pasted:,} letters on the clipboard", most_pasted=MOST_PASTED)
            )
        try:
            block = list(csv.reader(StringIO(text, newline=""), delimiter="\t"))
        except csv.Error as error:
            raise NotUnderstood(say("what is on the clipboard is no table: {error}", error=error)) from None
        if not block or not any(block):
            raise NotUnderstood(say("there is no text on the clipboard"))
        if len(block) == 1 and len(block[0]) == 1 and len(chosen) > 1:
            return self.edit_of((r, c, block[0][0]) for r, c in chosen)
        high, wide = len(block), max(map(len, block))
        if at[0] + high > len(self.rows) or at[1] + wide > len(self.columns):
            raise NotUnderstood(
                say(
                    "{high} rows of {wide} cells do not fit from here on: there are {rows} rows and {columns} columns left",
                    high=high,
                    wide=wide,
                    rows=len(self.rows) - at[0],
                    columns=len(self.columns) - at[1],
                )
            )
        return self.edit_of((at[0] + r, at[1] + c, cell) for r, line in enumerate(block) for c, cell in enumerate(line))

    def block(self, chosen: Sequence[tuple[int, int]]) -> str:
        """Cells as a spreadsheet takes them from the clipboard."""
        rows, columns = (sorted({cell[k] for cell in chosen}) for k in (0, 1))
        held, out = set(chosen), StringIO(newline="")
        writer = csv.writer(out, delimiter="\t", lineterminator="\n")
        writer.writerows(
            [self.text(self.rows[r], self.columns[c]) if (r, c) in held else "" for c in columns] for r in rows
        )
        return out.getvalue().removesuffix("\n")

    # Qt's side

    def rowCount(self, parent: Index | None = None) -> int:
        """One row a thing."""
        return 0 if parent is not None and parent.isValid() else len(self.rows)

    def columnCount(self, parent: Index | None = None) -> int:
        """What is computed, fields, the key."""
        return 0 if parent is not None and parent.isValid() else len(self.columns)

    def data(self, index: Index, role: int = Qt.ItemDataRole.DisplayRole) -> Any:
        """Text and side of a cell."""
        row, column = self.rows[index.row()], self.columns[index.column()]
        if role in (Qt.ItemDataRole.DisplayRole, Qt.ItemDataRole.EditRole):
            return self.text(row, column)
        if role == Qt.ItemDataRole.TextAlignmentRole:
            right = column.figures or (column.fact is not None and isinstance(self._fact(row, column.fact), float))
            side = Qt.AlignmentFlag.AlignRight if right else Qt.AlignmentFlag.AlignLeft
            return side | Qt.AlignmentFlag.AlignVCenter
        return None

    def headerData(self, section: int, orientation: Qt.Orientation, role: int = Qt.ItemDataRole.DisplayRole) -> Any:
        """Titles; beside the rows their keys, which stay in sight."""
        if role != Qt.ItemDataRole.DisplayRole:
            return None
        return self.columns[section].title if orientation == Qt.Orientation.Horizontal else self.rows[section].key

    def editable(self, row: int, column: int) -> bool:
        """Whether something can be typed into a cell."""
        c = self.columns[column]
        return self.sheet.renames if c.fact is None and c.field is None else self.field(self.rows[row], c) is not None

    def flags(self, index: Index) -> Qt.ItemFlag:
        """Cells that a thing has can be edited."""
        base = Qt.ItemFlag.ItemIsEnabled | Qt.ItemFlag.ItemIsSelectable
        return base | Qt.ItemFlag.ItemIsEditable if self.editable(index.row(), index.column()) else base

    def setData(self, index: Index, value: Any, role: int = Qt.ItemDataRole.EditRole) -> bool:
        """Ask for the edit; what cannot be read is reported, and left as it was."""
        if role != Qt.ItemDataRole.EditRole:
            return False
        try:
            edit = self.edit_of([(index.row(), index.column(), str(value))])
        except NotUnderstood as error:
            self.refused.emit(say("{error}. It is as before.", error=error))
            return False
        if edit is not None:
            self.wanted.emit(edit)
        return edit is not None


def _all(plan: Plan, put: Any, changes: dict[str, dict[str, Any]], names: dict[str, str]) -> Plan:
    plan = put(plan, changes)
    for old, new in names.items():
        plan = edits.rename(plan, old, new)
    return plan
