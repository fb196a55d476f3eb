"""Parts of the Build page that hold some state of their own: studs, conduits, boards."""

from functools import partial
from typing import Any

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QComboBox, QHBoxLayout, QLineEdit, QPushButton, QSplitter, QVBoxLayout

from jaunty_copper.desktop.pages.build.board import BoardView
from jaunty_copper.desktop.pages.build.listed import columns_of
from jaunty_copper.desktop.widgets.dividers import name_divider
from jaunty_copper.desktop.widgets.label import Label
from jaunty_copper.desktop.widgets.part import ViewPart
from jaunty_copper.desktop.widgets.quantity import NotUnderstood, positive
from jaunty_copper.desktop.widgets.table import Rows, ViewColumn, table_view
from jaunty_copper.documents.dossier import Dossier
from jaunty_copper.documents.listings import CONDUITS, INNER, STUDS, TORQUE
from jaunty_copper.documents.words import Units
from jaunty_copper.fabrication.board import arranged, outline
from jaunty_copper.fabrication.fitting import BoardTrouble, troubles
from jaunty_copper.fabrication.terminals import Stack
from jaunty_copper.language import say
from jaunty_copper.network.conduits import Fill
from jaunty_copper.plan import edits
from jaunty_copper.plan.edits import Edit
from jaunty_copper.plan.model import Board, Plan, Route

FITS = BoardTrouble((), say("Nothing: all parts have their place and their air, and each cable gets round its bends"))


class StudsPane(ViewPart):
    """Every stud with its lugs and torque."""

    def __init__(self) -> None:
        super().__init__()
        self.plan: Plan | None = None
        self.dossier: Dossier | None = None
        self.material = QComboBox()
        self.material.setAccessibleName(say("Studs and bolts of"))
        self.material.addItem(say("brass"), "brass")
        self.material.addItem(say("steel"), "steel")
        self.material.activated.connect(self._material)
        self.table = Rows(columns_of(STUDS, lambda: self.dossier, Units), editable=TORQUE)
        self.table.edited.connect(self._torque)
        self.view = table_view(self.table, STUDS.title)
        row = QHBoxLayout()
        row.addWidget(Label(say("Studs and bolts of")))
        row.addWidget(self.material)
        caption = Label(say("* representative, clean and dry; type a torque to replace it for that thread"))
        caption.setObjectName("caption")
        caption.setWordWrap(True)
        row.addWidget(caption, 1)
        column = QVBoxLayout(self)
        column.setContentsMargins(12, 0, 12, 8)
        column.addLayout(row)
        column.addWidget(self.view, 1)

    def show_dossier(self, d: Dossier) -> None:
        """Show another plan's studs."""
        self.plan, self.dossier = d.plan, d
        self.material.setCurrentIndex(self.material.findData(d.plan.stud_material))
        self.table.show_rows(d.shop.stacks)

    def _material(self, _: int) -> None:
        chosen = self.material.currentData()
        if self.plan is not None and chosen != self.plan.stud_material:
            self.wanted.emit(
                Edit(say("Studs of {chosen}", chosen=chosen), partial(edits.change_plan, stud_material=chosen))
            )

    def _torque(self, stack: Stack, text: str) -> None:
        assert self.plan is not None
        key = f"{stack.thread}:{stack.material}"
        cell = text.replace("*", "").replace("N m", "").strip()
        try:
            torque = positive(cell) if cell else None
        except NotUnderstood as error:
            self.refused.emit(say("Torque of {thread}: {error}. It is as before.", thread=stack.thread, error=error))
            return
        if torque != self.plan.torques.get(key):
            change = partial(edits.put_value, field="torques", key=key, value=torque)
            self.wanted.emit(Edit(say("Torque of {thread}", thread=stack.thread), change))


class RoutesPane(ViewPart):
    """Conduits and other ways, and how full they are."""

    def __init__(self) -> None:
        super().__init__()
        self.plan: Plan | None = None
        self.dossier: Dossier | None = None
        self.run: str | None = None
        self.table = Rows(columns_of(CONDUITS, lambda: self.dossier, Units), editable=INNER)
        self.table.edited.connect(self._inner)
        self.view = table_view(self.table, CONDUITS.title)
        new, lay = QPushButton(say("New conduit")), QPushButton(say("Lay the chosen conductor in it"))
        new.clicked.connect(self._new)
        lay.setToolTip(
            say(
                "The conductor that is selected on the map or in the cut list, into the chosen route; again to take it out"
            )
        )
        lay.clicked.connect(self._lay)
        row = QHBoxLayout()
        self.caption = Label()
        self.caption.setObjectName("caption")
        self.caption.setWordWrap(True)
        row.addWidget(self.caption, 1)
        row.addWidget(lay)
        row.addWidget(new)
        column = QVBoxLayout(self)
        column.setContentsMargins(12, 0, 12, 8)
        column.addLayout(row)
        column.addWidget(self.view, 1)

    def show_dossier(self, d: Dossier) -> None:
        """Show another plan's routes."""
        self.plan, self.dossier = d.plan, d
        held = self.view.currentIndex().row()
        self.table.show_rows(d.case.fills)
        limits = [d.case.code.limit(d.case.conduit_limit(n)) for n in (1, 2, 3)]
        self.caption.setText(
            say("{:g} % of the inner area for one cable, {:g} % for two, {:g} % for three or more").format(*limits)
            + f" ({d.case.code.name})"
        )
        if 0 <= held < len(self.table.rows):
            self.view.setCurrentIndex(self.table.index(held, 0))

    def _new(self) -> None:
        if self.plan is not None:
            id_ = edits.fresh_id(self.plan, "conduit")
            route = Route(id=id_, name=say("New conduit"), inner_mm=21.4)
            self.wanted.emit(Edit(say("Add {id}", id=id_), partial(_added, thing=route)))

    def _lay(self) -> None:
        index = self.view.currentIndex()
        at = index.row() if index.isValid() else 0
        if self.plan is None or not self.table.rows or self.run not in self.plan.run_by_id:
            return
        route = self.table.rows[at].route.id
        assert self.run is not None
        now = None if self.plan.run_by_id[self.run].route == route else route
        words = (
            say("Lay {run} in {route}", run=self.run, route=route)
            if now
            else say("Take {run} out of {route}", run=self.run, route=route)
        )
        self.wanted.emit(Edit(words, partial(edits.change, id_=self.run, route=now)))

    def _inner(self, fill: Fill, text: str) -> None:
        cell = text.strip()
        try:
            inner = positive(cell, "mm") if cell and cell != "open" else None
        except NotUnderstood as error:
            self.refused.emit(
                say("Inner diameter of {route}: {error}. It is as before.", route=fill.route.title, error=error)
            )
            return
        if inner != fill.route.inner_mm:
            change = partial(edits.change, id_=fill.route.id, inner_mm=inner)
            self.wanted.emit(Edit(say("Inner diameter of {route}", route=fill.route.title), change))


class BoardPane(ViewPart):
    """A board, and what does not fit on it."""

    def __init__(self) -> None:
        super().__init__()
        self.dossier: Dossier | None = None
        self.which, self.off = QComboBox(), QComboBox()
        for box in (self.which, self.off):
            box.setSizeAdjustPolicy(QComboBox.SizeAdjustPolicy.AdjustToMinimumContentsLengthWithIcon)
            box.setMinimumContentsLength(4)
        self.which.setAccessibleName(say("Board"))
        self.which.activated.connect(self._show)
        self.off.setAccessibleName(say("Not on a board yet"))
        self.width_field, self.height_field, self.depth_field = QLineEdit(), QLineEdit(), QLineEdit()
        for field, name in (
            (self.width_field, say("Width, mm")),
            (self.height_field, say("Height, mm")),
            (self.depth_field, say("Under its lid, mm; nothing where it is open")),
        ):
            field.setFixedWidth(64)
            field.setAccessibleName(name)
            field.setToolTip(name)
            field.editingFinished.connect(self._size)
        self.depth_field.setPlaceholderText(say("lid"))
        put, new, again = QPushButton(say("Put on")), QPushButton(say("New board")), QPushButton(say("Arrange anew"))
        put.clicked.connect(self._put)
        new.clicked.connect(self._new)
        again.setToolTip(say("Bars with what they feed below them, the rest above, air kept around everything"))
        again.clicked.connect(self._arrange)
        row = QHBoxLayout()
        for widget in (
            self.which,
            self.width_field,
            Label("×"),
            self.height_field,
            Label("×"),
            self.depth_field,
            Label("mm"),
            new,
            again,
        ):
            row.addWidget(widget)
        row.addStretch(1)
        loose = QHBoxLayout()
        loose.addWidget(Label(say("Not on a board yet")))
        loose.addWidget(self.off, 1)
        loose.addWidget(put)
        self.view = BoardView()
        self.view.moved.connect(self._moved)
        self.view.nudged.connect(self._nudged)
        self.view.picked.connect(self.picked)
        self.view.taken_off.connect(self._taken_off)
        self.table = Rows((ViewColumn(say("What does not fit"), lambda t: t.words, 0),))
        self.list = table_view(self.table, say("What does not fit"))
        self.list.selectionModel().currentChanged.connect(lambda index, _: self._trouble(index.row()))
        split = QSplitter(Qt.Orientation.Vertical)
        split.addWidget(self.view)
        split.addWidget(self.list)
        split.setSizes([430, 120])
        split.setStretchFactor(0, 1)
        name_divider(split, say("Divider under the board"))
        column = QVBoxLayout(self)
        column.setContentsMargins(12, 0, 12, 8)
        column.addLayout(row)
        column.addLayout(loose)
        column.addWidget(split, 1)

    @property
    def board(self) -> Board | None:
        """The board that is shown."""
        boards = self.dossier.plan.boards if self.dossier is not None else ()
        return next((b for b in boards if b.id == self.which.currentData()), boards[0] if boards else None)

    def show_dossier(self, d: Dossier) -> None:
        """Show another plan's boards."""
        held = self.which.currentData()
        self.dossier = d
        self.which.clear()
        for b in d.plan.boards:
            self.which.addItem(b.title, b.id)
        self.which.setCurrentIndex(max(0, self.which.findData(held)) if d.plan.boards else -1)
        self.which.setVisible(len(d.plan.boards) > 1)
        self._show()

    def _show(self) -> None:
        d, b = self.dossier, self.board
        if d is None:
            return
        parts = d.study.wiring.parts
        wrong: tuple[BoardTrouble, ...] = troubles(d.study.wiring, b) if b is not None else ()
        self.table.show_rows(wrong or (FITS,) if b is not None else ())
        self.view.show_board(d.plan, b, parts, wrong)
        stands = {s.of for other in d.plan.boards for s in other.spots}
        self.off.clear()
        for x in d.plan.placed:
            if x.id not in stands and outline(x, parts) is not None:
                self.off.addItem(x.title, x.id)
        if b is not None:
            self.width_field.setText(f"{b.width_mm:g}")
            self.height_field.setText(f"{b.height_mm:g}")
            self.depth_field.setText("" if b.depth_mm is None else f"{b.depth_mm:g}")

    def _trouble(self, row: int) -> None:
        if 0 <= row < len(self.table.rows) and self.table.rows[row].places:
            self.view.select(self.table.rows[row].places[-1])

    def _new(self) -> None:
        assert self.dossier is not None
        plan, parts = self.dossier.plan, self.dossier.study.wiring.parts
        made = Board(id=edits.fresh_id(plan, "board"), name=say("Main panel") if not plan.boards else "")
        if not plan.boards:
            made = arranged(plan, made, parts)
        self.wanted.emit(Edit(say("Add {made}", made=made.title), partial(_added, thing=made)))

    def _arrange(self) -> None:
        if self.dossier is not None and (b := self.board) is not None:
            spots = arranged(self.dossier.plan, b, self.dossier.study.wiring.parts).spots
            self.wanted.emit(Edit(say("Arrange {b} anew", b=b.title), partial(edits.change, id_=b.id, spots=spots)))

    def _put(self) -> None:
        if (b := self.board) is not None and self.off.currentData() is not None:
            self._moved(self.off.currentData(), 10.0, b.height_mm - 60.0, False)

    def _moved(self, of: str, x: float, y: float, turned: bool) -> None:
        if (b := self.board) is not None:
            change = partial(edits.put_spot, board=b.id, of=of, at_mm=(x, y), turned=turned)
            self.wanted.emit(Edit(say("Move {of} on {b}", of=of, b=b.title), change))

    def _nudged(self, of: str, dx: float, dy: float, turn: bool) -> None:
        # What is shown may be older than the plan: each edit begins where the plan is.
        if (b := self.board) is not None:
            change = partial(edits.nudge_spot, board=b.id, of=of, by_mm=(dx, dy), turn=turn)
            self.wanted.emit(
                Edit(say("{words} {of} on {b}", words=say("Turn") if turn else say("Move"), of=of, b=b.title), change)
            )

    def _taken_off(self, of: str) -> None:
        if (b := self.board) is not None:
            self.wanted.emit(
                Edit(say("Take {of} off {b}", of=of, b=b.title), partial(edits.take_spot, board=b.id, of=of))
            )

    def _size(self) -> None:
        b = self.board
        if b is None:
            return
        try:
            size: dict[str, Any] = {
                "width_mm": positive(self.width_field.text(), "mm"),
                "height_mm": positive(self.height_field.text(), "mm"),
                "depth_mm": positive(text, "mm") if (text := self.depth_field.text().strip()) else None,
            }
        except NotUnderstood as error:
            self._show()
            self.refused.emit(say("Size of {b}: {error}. It is as before.", b=b.title, error=error))
            return
        if any(value != getattr(b, name) for name, value in size.items()):
            change = partial(edits.change, id_=b.id, **size)
            self.wanted.emit(Edit(say("Size of {b}", b=b.title), change))


def _added(plan: Plan, thing: Route | Board) -> Plan:
    return edits.add(plan, thing)
