"""The Build page."""

from functools import partial
from pathlib import Path

from PySide6.QtCore import QModelIndex
from PySide6.QtGui import QShowEvent
from PySide6.QtWidgets import (
    QHBoxLayout,
    QPushButton,
    QScrollArea,
    QStackedWidget,
    QVBoxLayout,
    QWidget,
)

from jaunty_copper.assessment.assessment import Assessment
from jaunty_copper.desktop.pages.base import Page
from jaunty_copper.desktop.pages.build import files
from jaunty_copper.desktop.pages.build.cable import CableView, Reels
from jaunty_copper.desktop.pages.build.lengths import LengthsField
from jaunty_copper.desktop.pages.build.listed import columns_of
from jaunty_copper.desktop.pages.build.panes import BoardPane, RoutesPane, StudsPane
from jaunty_copper.desktop.pages.build.prices import take_price
from jaunty_copper.desktop.pages.build.ready import ReadyPane
from jaunty_copper.desktop.pages.build.steps import StepsPane
from jaunty_copper.desktop.widgets.label import Label
from jaunty_copper.desktop.widgets.sections import Sections
from jaunty_copper.desktop.widgets.table import Rows, table_view
from jaunty_copper.desktop.work.worker import Task, Work, Worker
from jaunty_copper.documents.dossier import Dossier
from jaunty_copper.documents.listings import CUTS, MATERIALS, PRICE
from jaunty_copper.documents.map.picture import Picture
from jaunty_copper.documents.palette import Palette
from jaunty_copper.documents.words import Units
from jaunty_copper.fabrication.materials import Line, Workshop
from jaunty_copper.language import say
from jaunty_copper.plan import edits
from jaunty_copper.plan.edits import Edit

SECTIONS = {
    "cuts": (say("Cuts"), say("Every cable with its length and ends")),
    "reels": (say("Reels"), say("What is cut from which length")),
    "materials": (say("Materials"), say("What to buy, with prices and mass")),
    "ready_made": (say("Ready-made"), say("Cables bought ready-made, or made oneself with a tool")),
    "terminals": (say("Studs"), say("Every stud with its lugs in their order, and its torque")),
    "conduits": (say("Conduits"), say("How full each route is")),
    "board": (say("Board"), say("Parts on a panel: outlines, air, and whether cables get round their bends")),
    "order": (say("Order"), say("In which order to connect, to tick off")),
}
"""Parts of the page, by the name that their table has in a file."""


class BuildPage(Page):
    """Cut list, reels, materials, connection order."""

    def __init__(self) -> None:
        super().__init__()
        self.picture: Picture | None = None
        self.shop: Workshop | None = None
        self.dossier: Dossier | None = None
        self.units = Units()
        self.worker = Worker("build")
        self.worker.done.connect(self._found)
        self.worker.failed.connect(self._failed)
        self.head = Label()
        self.head.setObjectName("head")
        self.sections = Sections(SECTIONS)
        self.sections.chosen.connect(self.show_section)
        self.stack = QStackedWidget()
        save = QPushButton(say("Save…"))
        save.setToolTip(
            say(
                "What is shown: a table as CSV or spreadsheet, the board as SVG; labels and report are in the File menu"
            )
        )
        save.clicked.connect(lambda: self.save())
        top = QHBoxLayout()
        top.setContentsMargins(16, 6, 12, 0)
        top.addWidget(self.sections)
        top.addStretch(1)
        self.note = Label()
        self.note.setObjectName("caption")
        self.note.setWordWrap(True)
        under = QHBoxLayout()
        under.setContentsMargins(16, 0, 12, 0)
        under.addWidget(self.head)
        under.addWidget(self.note, 1)
        under.addWidget(save)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(4)
        column.addLayout(top)
        column.addLayout(under)
        column.addWidget(self.stack, 1)
        self.studs, self.routes, self.boards, self.steps = StudsPane(), RoutesPane(), BoardPane(), StepsPane()
        self.ready = ReadyPane()
        self.panes = (self.ready, self.studs, self.routes, self.boards, self.steps)
        for pane in self.panes:
            pane.wanted.connect(self.wanted)
            pane.picked.connect(self.picked)
            pane.refused.connect(self.refused)
        for part in (
            self._cuts(),
            self._reels(),
            self._materials(),
            *self.panes,
        ):
            self.stack.addWidget(part)

    # Building

    def _cuts(self) -> QWidget:
        self.cuts = Rows(columns_of(CUTS, lambda: self.dossier, lambda: self.units))
        self.cut_view = table_view(self.cuts, CUTS.title)
        self.cut_view.selectionModel().currentChanged.connect(self._cut_chosen)
        self.cable = CableView()
        page = QWidget()
        column = QVBoxLayout(page)
        column.setContentsMargins(12, 0, 12, 8)
        column.addWidget(self.cut_view, 1)
        column.addWidget(self.cable)
        return page

    def _reels(self) -> QWidget:
        self.reels = Reels()
        self.reels.picked.connect(self._run_picked)
        area = QScrollArea()
        area.setWidgetResizable(True)
        area.setWidget(self.reels)
        self.lengths = LengthsField(say("Lengths that can be bought"), "reels_m", needed=True)
        self.lengths.setToolTip(say("Lengths in which cable can be bought, separated by spaces"))
        self.lengths.wanted.connect(self.wanted)
        self.lengths.refused.connect(self.refused)
        self.keep = QPushButton(say("Keep what is left as stock"))
        self.keep.setToolTip(say("In place of the stock there was; another plan can begin with it"))
        self.keep.clicked.connect(self._keep)
        row = QHBoxLayout()
        row.addWidget(Label(say("Lengths that can be bought, m")))
        row.addWidget(self.lengths, 1)
        row.addWidget(self.keep)
        page = QWidget()
        column = QVBoxLayout(page)
        column.setContentsMargins(12, 0, 12, 8)
        column.addLayout(row)
        column.addWidget(area, 1)
        return page

    def _materials(self) -> QWidget:
        self.lines = Rows(columns_of(MATERIALS, lambda: self.dossier, lambda: self.units), editable=PRICE)
        self.lines.edited.connect(self._priced)
        self.line_view = table_view(self.lines, MATERIALS.title)
        prices = QPushButton(say("Own prices from CSV…"))
        prices.setToolTip(say("Columns key and price, as this table is saved"))
        prices.clicked.connect(lambda: self.read_prices())
        row = QHBoxLayout()
        caption = Label(say("* representative; type a price to replace it, 12.50 / 10 for a pack of ten"))
        caption.setObjectName("caption")
        row.addWidget(caption, 1)
        row.addWidget(prices)
        page = QWidget()
        column = QVBoxLayout(page)
        column.setContentsMargins(12, 0, 12, 8)
        column.addWidget(self.line_view, 1)
        column.addLayout(row)
        return page

    # What is shown

    @property
    def section(self) -> str:
        """The part that is shown."""
        return list(SECTIONS)[self.stack.currentIndex()]

    def show_section(self, name: str) -> None:
        """Go to a part of the page."""
        self.stack.setCurrentIndex(self.sections.show_chosen(name))

    def show_picture(self, picture: Picture, _: str | None) -> None:
        """Show another plan's cables, once they are known."""
        self.picture = picture
        for lengths in (self.lengths, self.ready.lengths):
            lengths.show_plan(picture.plan)
        self._ask()

    def showEvent(self, _: QShowEvent) -> None:
        """Compute when the page is looked at, not before."""
        self._ask()

    def _ask(self) -> None:
        known = self.picture.known if self.picture is not None else None
        if known is None or not self.isVisible() or (self.shop is not None and self.shop.plan is known.plan):
            return
        self.worker.ask(_work(known))

    def _found(self, made: Dossier) -> None:
        shop = made.shop
        if self.picture is None or shop.plan is not self.picture.plan:
            return
        self.dossier, self.shop = made, shop
        cut = sum(c.length_m for c in shop.cuts)
        packings = [p for p in shop.packings.values() if not isinstance(p, str)]
        bought = sum(not piece.owned for p in packings for piece in p.pieces)
        self.head.setText(say("{cuts} cables, {cut}", cuts=len(shop.cuts), cut=self.units.length(cut)))
        unproven = sum(not p.proven for p in packings)
        too_long = sum(isinstance(p, str) for p in shop.packings.values())
        words = say(
            "From {bought} lengths; {total:.2f} in all (without currency), {mass_kg:.1f} kg; representative prices, "
            "torques and allowances: put in your own.",
            bought=bought,
            total=shop.total,
            mass_kg=shop.mass_kg,
        )
        if too_long:
            words += say(" {too_long} kinds of cable are longer than what can be bought.", too_long=too_long)
        elif unproven:
            words += say(
                " {unproven} kinds are packed by rule of thumb, with a bound; the rest is proven.", unproven=unproven
            )
        self.note.setText(words)
        chosen = self._chosen_run()
        self.cuts.show_rows(shop.cuts)
        self.lines.show_rows(shop.lines)
        self.reels.show_shop(shop)
        for pane in self.panes:
            pane.show_dossier(made)
        self.select(chosen or (shop.cuts[0].run if shop.cuts else None))

    def _failed(self, trace: str) -> None:
        self.note.setText(
            say("Nothing could be made of this plan: {splitlines}", splitlines=trace.strip().splitlines()[-1])
        )

    def _chosen_run(self) -> str | None:
        return self.cable.cut.run if self.cable.cut is not None else None

    def set_palette(self, palette: Palette) -> None:
        """Change colours."""
        for view in (self.cable, self.reels, self.boards.view):
            view.palette_ = palette
            view.update()

    def set_units(self, units: Units) -> None:
        """Metric or AWG."""
        self.units = self.cable.units = self.ready.units = units
        self.ready.rows.show_rows(self.ready.rows.rows)
        self.cuts.show_rows(self.cuts.rows)
        self.cable.update()

    def close_worker(self) -> None:
        """End the page's thread."""
        self.worker.close()

    # What is done

    def select(self, id_: str | None) -> None:
        """Select a cable, or a part on its board."""
        if self.shop is not None and id_ in self.shop.plan.by_id:
            self.boards.view.select(id_)
        elif self.shop is not None and id_ in self.shop.plan.run_by_id:
            self.routes.run = id_
        at = next((k for k, c in enumerate(self.cuts.rows) if c.run == id_), None)
        self.reels.selected = id_
        self.reels.update()
        if at is not None:
            self.cut_view.setCurrentIndex(self.cuts.index(at, 0))
        self.cable.show_cut(self.shop, self.cuts.rows[at] if at is not None else None)

    def _cut_chosen(self, index: QModelIndex, _: QModelIndex) -> None:
        if index.isValid() and self.cut_view.hasFocus():
            self._run_picked(self.cuts.rows[index.row()].run)

    def _run_picked(self, run: str) -> None:
        self.select(run)
        self.picked.emit(run)

    def _keep(self) -> None:
        if self.shop is not None:
            left = self.shop.leftovers()
            self.wanted.emit(
                Edit(
                    say("Keep {left} left-over lengths as stock", left=len(left)),
                    partial(edits.change_plan, stock=left),
                )
            )

    def _priced(self, line: Line, text: str) -> None:
        assert self.shop is not None
        take_price(self, self.shop.plan, line, text)

    def read_prices(self, path: Path | None = None) -> None:
        """Take prices from a file; says what is wrong with it."""
        files.take_prices(self, path)

    def save(self, path: Path | None = None) -> None:
        """Save the table that is shown."""
        files.save_shown(self, path)


def _work(known: Assessment) -> Work:
    """Cuts, packings, materials and steps; reports them as a `Dossier`."""

    def work(task: Task) -> None:
        made = Dossier(known)
        assert made.shop.lines is not None
        assert made.steps is not None
        assert made.shop.stacks is not None
        assert made.ready_made.price_lines is not None
        task.report(made)

    return work
