"""The main window: page rail, map with its strip, inspector, findings; files and history."""

from __future__ import annotations

from functools import partial
from typing import TYPE_CHECKING

from PySide6.QtCore import QPoint, QSize, Qt, QTimer
from PySide6.QtGui import QCloseEvent
from PySide6.QtWidgets import (
    QHBoxLayout,
    QSplitter,
    QStackedWidget,
    QVBoxLayout,
    QWidget,
)

from jaunty_copper.desktop.pages import make_page
from jaunty_copper.desktop.pages.map.area import MapArea
from jaunty_copper.desktop.shell.additions import Additions
from jaunty_copper.desktop.shell.ahead import Ahead
from jaunty_copper.desktop.shell.bars import Rail, TopBar
from jaunty_copper.desktop.shell.circuits import Circuits
from jaunty_copper.desktop.shell.document import Document
from jaunty_copper.desktop.shell.document_window import DocumentWindow
from jaunty_copper.desktop.shell.exports import Exports
from jaunty_copper.desktop.shell.folds import Folds
from jaunty_copper.desktop.shell.going import Going
from jaunty_copper.desktop.shell.helping import Help
from jaunty_copper.desktop.shell.laying import Laying
from jaunty_copper.desktop.shell.looks import Looks
from jaunty_copper.desktop.shell.menus import Menus
from jaunty_copper.desktop.shell.on_map import OnMap
from jaunty_copper.desktop.shell.remembered import Remembered
from jaunty_copper.desktop.shell.scenarios import Scenarios
from jaunty_copper.desktop.shell.settings import Settings
from jaunty_copper.desktop.widgets.dividers import name_divider
from jaunty_copper.desktop.widgets.label import Label, plain_tip
from jaunty_copper.desktop.widgets.pending import settle
from jaunty_copper.desktop.work.studying import sketch_of, study_of
from jaunty_copper.desktop.work.trouble import each
from jaunty_copper.desktop.work.worker import Worker
from jaunty_copper.documents.map.lens import LENSES
from jaunty_copper.documents.map.picture import WORST, Picture
from jaunty_copper.language import say
from jaunty_copper.plan import edits
from jaunty_copper.plan.autosave import Autosave
from jaunty_copper.plan.edits import Edit, EditError

CAUTION = say(
    "A planning aid: local codes and licensed practice decide. Isolate the bank and cover its posts before you work."
)
if TYPE_CHECKING:
    from jaunty_copper.desktop.findings.panel import Findings
    from jaunty_copper.desktop.inspector.panel import Inspector
    from jaunty_copper.desktop.pages.base import Page
    from jaunty_copper.desktop.shell.side import Side


class Window(DocumentWindow):
    """One plan in one window."""

    def __init__(self, document: Document, settings: Settings | None = None, autosave: Autosave | None = None) -> None:
        super().__init__(document, settings, autosave)
        self.picture: Picture | None = None
        self.looks, self.on_map, self.folds = Looks(self), OnMap(self), Folds(self)
        self.scenarios, self.circuits, self.laying, self.additions = (
            Scenarios(self),
            Circuits(self),
            Laying(self),
            Additions(self),
        )
        self.going, self.exports, self.help = Going(self), Exports(self), Help(self)
        self.studying = Worker("study")
        self.studying.done.connect(self._show)
        self.studying.failed.connect(self._study_failed)
        self.studying.busy.connect(self._busy)
        self.select_next: str | None = None
        self.ahead = Ahead(self)
        self.side: Side | None = None
        self.resize(1280, 800)
        self._build()
        self.menus = Menus(self)
        self._disk_timer.start()
        self.remembered = Remembered(self)
        self.remembered.restore()
        self._adopt(document)

    # Building

    def _build(self) -> None:
        middle = MapArea()
        self._middle, self.map, self.strip = middle, middle.map, middle.strip
        self.stack = QStackedWidget()
        self.stack.addWidget(middle)
        self.pages: dict[str, Page] = {}
        self._across = QSplitter(Qt.Orientation.Horizontal)
        self._across.addWidget(self.stack)
        side_to_be = QWidget()
        side_to_be.setObjectName("panel")
        side_to_be.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self._across.addWidget(side_to_be)
        self._across.setStretchFactor(0, 1)
        self._across.setSizes([882, 338])
        name_divider(self._across, say("Divider beside the panel"))
        self._across.setCollapsible(0, False)
        self.notice = self._notice_bar()
        self.rail, self.bar = Rail(), TopBar()
        self.rail.chosen.connect(self.show_page)
        self.bar.lens_chosen.connect(self.set_lens)
        self.bar.scenario_chosen.connect(self.scenarios.show)
        self.bar.units.clicked.connect(self.looks.switch_units)
        self.bar.look.clicked.connect(self.looks.switch)
        page = QWidget()
        column = QVBoxLayout(page)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(0)
        column.addWidget(self.bar)
        column.addWidget(self.notice)
        column.addWidget(self._across, 1)
        body = QWidget()
        row = QHBoxLayout(body)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(0)
        row.addWidget(self.rail)
        row.addWidget(page, 1)
        self.setCentralWidget(body)
        self._working = Label("")
        self.statusBar().addPermanentWidget(self._working)
        caution = Label(CAUTION)
        self.statusBar().addWidget(caution, 1)
        self.statusBar().setSizeGripEnabled(False)

        self.map.stands.connect(self._furnish)
        self.map.picked.connect(self._picked)
        self.map.menu_wanted.connect(self._menu)
        self.map.opened.connect(self.going.open)
        self.map.removal_wanted.connect(self.laying.remove)
        self.map.stud_moved.connect(self.laying.move_stud)
        self.map.refused.connect(self.show_notice)
        self.map.fold_wanted.connect(self.folds.one)
        self.map.connect_wanted.connect(lambda selected: self.laying.connect(selected))
        self.map.joined.connect(self.laying.connect)
        self.map.aimed.connect(self.laying.aimed)
        self.map.carried.connect(self.laying.carried)

    def _furnish(self) -> None:
        """Make what can wait until the map stands, and begin the first study."""
        from jaunty_copper.desktop.shell.side import Side

        self.side = Side()
        sizes = self._across.sizes()
        blank_side = self._across.replaceWidget(1, self.side)
        assert blank_side is not None
        blank_side.deleteLater()
        self._across.setSizes(sizes)
        self.remembered.parts(self.side)
        self.inspector.wanted.connect(self.do)
        self.inspector.refused.connect(self.show_notice)
        self.findings.chosen.connect(self.going.jump)
        self.findings.fix_wanted.connect(self.do)
        self.findings.method_wanted.connect(self.help.method)
        self.findings.set_palette(self.looks.palette)
        self.show_inspector()
        self._study()
        self.remembered.begin()

    @property
    def inspector(self) -> Inspector:
        """What is selected, once the map stands."""
        assert self.side is not None
        return self.side.inspector

    @property
    def findings(self) -> Findings:
        """What is found, once the map stands."""
        assert self.side is not None
        return self.side.findings

    @property
    def page(self) -> str:
        """The page that is shown."""
        return self.rail.page

    def show_page(self, name: str) -> None:
        """Go to a page; it is made when first gone to."""
        settle()
        self.rail.show_chosen(name)
        if self.side is not None:
            self.side.for_page(name)
        self.bar.show_lenses(name == "map")
        for action in (*self.menus.lenses, *self.menus.circuits):
            # Their keys are digits, or those of the clipboard, which a table wants for itself.
            action.setEnabled(name == "map")
        if name == "map":
            self.stack.setCurrentIndex(0)
            self.map.setFocus()
            return
        page = self.page_of(name)
        if self.stack.indexOf(page) < 0:
            self.stack.addWidget(page)
        self.stack.setCurrentWidget(page)
        page.setFocus()
        if self.picture is not None:
            page.show_picture(self.picture, self.scenarios.shown)
        page.select(self.map.selected)

    def page_of(self, name: str) -> Page:
        """A page, made when it is first asked for."""
        if name not in self.pages:
            made = make_page(name)
            made.wanted.connect(self.do)
            made.picked.connect(self._picked_on_page)
            made.refused.connect(self.show_notice)
            made.measured.connect(self.on_map.readings.take)
            made.asked.connect(
                lambda what: {
                    "protect": self.additions.protect,
                    "new scenario": self.scenarios.add,
                    "wire up": self.additions.wire_up,
                }[what]()
            )
            made.set_palette(self.looks.palette)
            made.set_units(self.looks.units)
            self.pages[name] = made
            self.stack.addWidget(made)
            self.remembered.parts(made)
        page = self.pages[name]
        page.set_folder(self.document.path.parent if self.document.path is not None else None)
        return page

    def _picked_on_page(self, id_: str) -> None:
        self.map.select(id_ or None, show=True)
        self.show_inspector()

    # The document

    def _adopt(self, document: Document) -> None:
        """Show another document."""
        self.document = document
        document.changed.connect(self._plan_changed)
        document.history.connect(self.show_history)
        self.picture = None
        self.map.look.row = None
        self.map.look.selected = None
        self.folds.bars = ()
        first = document.plan.scenarios[0].id if document.plan.scenarios else WORST
        self.scenarios.shown = first
        self.show_sketch()
        self._plan_changed()
        self.show_history()
        self.scenarios.show(first)
        self.hide_notice()
        if document.open_elsewhere:
            self.show_notice(
                say("This plan is open in another window too. Saving here overwrites what is saved there.")
            )

    def show_sketch(self) -> None:
        """Show the map before anything is solved."""
        self.map.set_picture(self.folds.over(sketch_of(self.document.plan)))

    def do(self, edit: Edit) -> bool:
        """Apply an edit; say so where it makes no sense."""
        from jaunty_copper.desktop.work.patience import Cancelled, waited

        try:
            if edit.slow:
                before = self.document.plan
                after = waited(self, f"{edit.label}…", partial(edit.apply, before))
                edit = Edit(edit.label, partial(edits.made_of, before=before, after=after))
            self.document.do(edit)
        except Cancelled:
            self.inspector.show_again()
            self.show_on_page()
            return False
        except EditError as error:
            self.show_notice(say("{edit}: not done. {error}", edit=edit.label, error=error))
            self.inspector.show_again()
            self.show_on_page()
            return False
        return True

    def _study(self) -> None:
        """Study the plan, once the map stands: until then the interpreter has enough to do."""
        if self.map.painted:
            self.studying.ask(study_of(self.document.plan, self.scenarios.shown))

    def _plan_changed(self) -> None:
        # Autosave first: whatever fails in showing the plan, the work is kept.
        each(self.keep_soon, self._study, self.scenarios.fill, self.show_inspector)

    def _show(self, picture: Picture) -> None:
        """Show a study, unless the plan has moved on: its figures on the map, and all of it once it is judged."""
        if picture.plan is not self.document.plan:
            return
        if not picture.judged:
            self.folds.show_early(picture)
            return
        self.picture = self.folds.over(self.on_map.over(picture))
        self.ahead.start()
        each(
            partial(self.map.set_picture, self.picture), self._middle.share_height, self._select_or_refresh, self._show_beside, self.strip.update,
            self.show_on_page, self.on_map.work_out,
        )  # fmt: skip

    def _select_or_refresh(self) -> None:
        """Select what the last edit made, or show the figures of what is selected."""
        select, self.select_next = self.select_next, None
        if select is not None:
            self.map.select(select, show=True)
        else:
            self.show_inspector()

    def _show_beside(self) -> None:
        if self.side is not None and self.picture is not None:
            self.side.show_picture(self.picture)

    def show_on_page(self) -> None:
        """Bring the page that is looked at up to date; the others follow when gone to."""
        if self.picture is not None and self.page in self.pages:
            self.pages[self.page].show_picture(self.picture, self.scenarios.shown)

    def _study_failed(self, trace: str) -> None:
        last = trace.strip().splitlines()[-1]
        self.show_notice(
            say("This plan could not be studied: {last}. Edit, save, or undo back to the last study.", last=last)
        )

    def _busy(self, on: bool) -> None:
        self._working.setText(say("computing…") if on else "")

    def show_history(self) -> None:
        """Name the document, and what can be undone, wherever that is shown."""
        d = self.document
        name = d.path.name if d.path else say("not saved yet")
        self.setWindowTitle(say("{plan} — {name}[*] — Jaunty Copper", plan=d.plan.title or say("Plan"), name=name))
        self.setWindowModified(d.unsaved)
        self.bar.title.setText(f"{d.plan.title or say('Plan without a name')}{' •' if d.unsaved else ''}")
        self.bar.title.setToolTip(plain_tip(str(d.path or say("not saved yet"))))
        self.menus.undo.setEnabled(d.undo_label is not None)
        self.menus.undo.setText(say("&Undo: {undo_label}", undo_label=d.undo_label) if d.undo_label else say("&Undo"))
        self.menus.redo.setEnabled(d.redo_label is not None)
        self.menus.redo.setText(say("&Redo: {redo_label}", redo_label=d.redo_label) if d.redo_label else say("&Redo"))
        self.bar.units.setText(say("AWG") if self.looks.units.awg else say("mm²"))
        self.bar.look.setText(say("Dark") if self.looks.palette.name == "light" else say("Light"))

    # Looking

    def set_lens(self, lens_id: str) -> None:
        """Look through another lens."""
        for k, lens in enumerate(LENSES):
            if lens.id == lens_id:
                self.bar.lenses.button(k).setChecked(True)
        self.map.set_lens(lens_id)
        self.on_map.work_out()

    # Selecting and editing

    def _picked(self, _: str) -> None:
        self.show_inspector()

    def show_inspector(self) -> None:
        """Show the fields of what is selected."""
        if self.side is not None:
            self.inspector.units, self.inspector.scenario = self.looks.units, self.scenarios.shown
            if self.inspector.shows_other_than(self.map.selected, self.map.look.also):
                settle()
            self.inspector.show_selection(self.document.plan, self.picture, self.map.selected, self.map.look.also)

    def _menu(self, selected: str, where: QPoint) -> None:
        from jaunty_copper.desktop.shell import place_menu

        shown = place_menu.of(self, selected)
        if not shown.isEmpty():
            # Asked for by an entry of the menu bar: that menu must be gone first, else this one hangs on it.
            QTimer.singleShot(0, shown, partial(shown.popup, where))

    # Closing

    def closeEvent(self, event: QCloseEvent) -> None:
        """Leave nothing unsaved by accident."""
        settle()
        if not self.may_leave():
            event.ignore()
            return
        self.remembered.keep()
        for page in self.pages.values():
            page.close_worker()
        self.exports.close()
        self.on_map.close()
        self.going.close()
        self.studying.close()
        self.ahead.close()
        self.close_document()
        event.accept()

    def sizeHint(self) -> QSize:
        """A laptop's screen."""
        return QSize(1280, 800)
