"""The main window: page rail, map with its strip, inspector, findings; files and history."""

from __future__ import annotations

from dataclasses import replace
from functools import partial
from pathlib import Path
from threading import Event
from typing import TYPE_CHECKING, Literal

from PySide6.QtCore import QPoint, QSize, Qt, QTimer
from PySide6.QtGui import QCloseEvent
from PySide6.QtWidgets import (
    QApplication,
    QHBoxLayout,
    QMenu,
    QSplitter,
    QStackedWidget,
    QVBoxLayout,
    QWidget,
)

from jaunty_copper.codes.checks import Finding
from jaunty_copper.desktop.pages import make_page
from jaunty_copper.desktop.pages.map import menu
from jaunty_copper.desktop.pages.map.lens import LENSES
from jaunty_copper.desktop.pages.map.strip import Strip
from jaunty_copper.desktop.pages.map.view import MapView
from jaunty_copper.desktop.shell.ahead import Ahead
from jaunty_copper.desktop.shell.bars import Rail, TopBar
from jaunty_copper.desktop.shell.document import Document
from jaunty_copper.desktop.shell.document_window import DocumentWindow, dialogs
from jaunty_copper.desktop.shell.menus import Menus
from jaunty_copper.desktop.shell.settings import Settings
from jaunty_copper.desktop.widgets.dividers import name_divider
from jaunty_copper.desktop.widgets.label import Label, plain_tip
from jaunty_copper.desktop.widgets.pending import settle
from jaunty_copper.desktop.widgets.theme import PALETTES, style_sheet
from jaunty_copper.desktop.widgets.words import Units
from jaunty_copper.desktop.work.picture import WORST, Picture
from jaunty_copper.desktop.work.studying import sketch_of, study_of
from jaunty_copper.desktop.work.trouble import each
from jaunty_copper.desktop.work.worker import Worker
from jaunty_copper.diagram import folding
from jaunty_copper.diagram.layout import lay_out
from jaunty_copper.plan import edits
from jaunty_copper.plan.autosave import Autosave
from jaunty_copper.plan.edits import Edit, EditError
from jaunty_copper.plan.examples import DEMO, example
from jaunty_copper.plan.files import PlanError, dumps, parse
from jaunty_copper.plan.joining import bar_for
from jaunty_copper.plan.model import Bar, Battery, Equipment, Inline, Plan, Run, Scenario, Zone, split_ref
from jaunty_copper.plan.supply import supply_of
from jaunty_copper.plan.topology import topology

STRIP_PX, HIGHEST_STRIP = 144, 0.45
"""Height of the strip below the map; the most of both that it takes where the map is small."""
CAUTION = (
    "A planning aid: local codes and licensed practice decide. Isolate the bank and cover its posts before you work."
)
if TYPE_CHECKING:
    from jaunty_copper.desktop.findings.panel import Findings
    from jaunty_copper.desktop.inspector.panel import Inspector
    from jaunty_copper.desktop.pages.base import Page
    from jaunty_copper.desktop.pages.log.measured import Measured
    from jaunty_copper.desktop.shell.exporting import Exporter
    from jaunty_copper.desktop.shell.side import Side


class Window(DocumentWindow):
    """One plan in one window."""

    def __init__(self, document: Document, settings: Settings | None = None, autosave: Autosave | None = None) -> None:
        super().__init__(document, settings, autosave)
        self.picture: Picture | None = None
        self.units = Units(bool(self.settings.get("awg", False)))
        self.palette_ = PALETTES.get(self.settings.get("look", "light"), PALETTES["light"])
        self.studying = Worker("study")
        self.studying.done.connect(self._show)
        self.studying.failed.connect(self._study_failed)
        self.studying.busy.connect(self._busy)
        self._select_next: str | None = None
        self._folds: tuple[str, ...] = ()
        self._weighed: Measured | None = None
        self._ahead = Ahead(self)
        self._side: Side | None = None
        self._exporter: Exporter | None = None
        self.resize(1280, 800)
        self._build()
        self.menus = Menus(self)
        self._disk_timer.start()
        self._adopt(document)

    # Building

    def _build(self) -> None:
        self.map = MapView()
        self.strip = Strip(self.map)
        middle = QSplitter(Qt.Orientation.Vertical)
        middle.addWidget(self.map)
        middle.addWidget(self.strip)
        middle.setStretchFactor(0, 1)
        middle.setSizes([574, STRIP_PX])
        self._middle, self._divided = middle, False
        middle.splitterMoved.connect(self._divided_by_hand)
        name_divider(middle, "Divider between map and strip")
        middle.setCollapsible(0, False)
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
        name_divider(self._across, "Divider beside the panel")
        self._across.setCollapsible(0, False)
        self.notice = self._notice_bar()
        self.rail, self.bar = Rail(), TopBar()
        self.rail.chosen.connect(self.show_page)
        self.bar.lens_chosen.connect(self.set_lens)
        self.bar.scenario_chosen.connect(self.set_scenario)
        self.bar.units.clicked.connect(self.switch_units)
        self.bar.look.clicked.connect(self.switch_look)
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
        self.map.opened.connect(self._opened)
        self.map.removal_wanted.connect(self._remove)
        self.map.stud_moved.connect(self._stud_moved)
        self.map.refused.connect(self.show_notice)
        self.map.fold_wanted.connect(self.fold)
        self.map.connect_wanted.connect(lambda selected: self.connect_from(selected))
        self.map.joined.connect(self.connect_from)
        self.map.aimed.connect(self._aimed)
        self.map.carried.connect(self._carried)

    def _furnish(self) -> None:
        """Make what can wait until the map stands, and begin the first study."""
        from jaunty_copper.desktop.shell.side import Side

        self._side = Side()
        sizes = self._across.sizes()
        blank_side = self._across.replaceWidget(1, self._side)
        assert blank_side is not None
        blank_side.deleteLater()
        self._across.setSizes(sizes)
        self.inspector.wanted.connect(self.do)
        self.inspector.refused.connect(self.show_notice)
        self.findings.chosen.connect(self._jump)
        self.findings.fix_wanted.connect(self.do)
        self.findings.set_palette(self.palette_)
        self._show_inspector()
        self._study()

    @property
    def inspector(self) -> Inspector:
        """What is selected, once the map stands."""
        assert self._side is not None
        return self._side.inspector

    @property
    def findings(self) -> Findings:
        """What is found, once the map stands."""
        assert self._side is not None
        return self._side.findings

    @property
    def page(self) -> str:
        """The page that is shown."""
        return self.rail.page

    def show_page(self, name: str) -> None:
        """Go to a page; it is made when first gone to."""
        settle()
        self.rail.show_chosen(name)
        if self._side is not None:
            self._side.for_page(name)
        self.bar.show_lenses(name == "map")
        for action in (*self.menus.lenses, *self.menus.circuits):
            # Their keys are digits, or those of the clipboard, which a table wants for itself.
            action.setEnabled(name == "map")
        if name == "map":
            self.stack.setCurrentIndex(0)
            self.map.setFocus()
            return
        page = self._page(name)
        if self.stack.indexOf(page) < 0:
            self.stack.addWidget(page)
        self.stack.setCurrentWidget(page)
        page.setFocus()
        if self.picture is not None:
            page.show_picture(self.picture, self._scenario)
        page.select(self.map.selected)

    def _page(self, name: str) -> Page:
        """A page, made when it is first asked for."""
        if name not in self.pages:
            made = make_page(name)
            made.wanted.connect(self.do)
            made.picked.connect(self._picked_on_page)
            made.refused.connect(self.show_notice)
            made.measured.connect(self._measured)
            made.asked.connect(
                lambda what: {"protect": self.protect, "new scenario": self.new_scenario, "wire up": self.wire_up}[
                    what
                ]()
            )
            made.set_palette(self.palette_)
            made.set_units(self.units)
            self.pages[name] = made
            self.stack.addWidget(made)
        page = self.pages[name]
        page.set_folder(self.document.path.parent if self.document.path is not None else None)
        return page

    def _measured(self, found: Measured) -> None:
        """Readings were weighed: show them on the map."""
        self._weighed = found
        if self.picture is not None and found.plan is self.picture.plan:
            self.picture = self._with_readings(self.picture)
            self.map.set_picture(self.picture)
            self.strip.update()

    def _with_readings(self, picture: Picture) -> Picture:
        """A picture with what was read, where that was weighed before the picture came, or again after it."""
        found = self._weighed
        if found is None or found.plan is not picture.plan:
            return picture
        return replace(picture, read=found.over, read_in=found.scenario.title)

    def _weigh_readings(self) -> None:
        """Let the Log page work out what to expect, for the lens that shows it."""
        if self.picture is not None and self.map.look.lens.id == "read":
            page = self._page("log")
            page.show_picture(self.picture, self._scenario)
            page.weigh_readings()

    def _picked_on_page(self, id_: str) -> None:
        self.map.select(id_ or None, show=True)
        self._show_inspector()

    def protect(self) -> None:
        """Propose a consistent set of devices, and show every difference before it is made."""
        from jaunty_copper.desktop.shell import protecting

        self._protecting = protecting.open_for(self.document.plan, self)
        self._protecting.wanted.connect(self.do)

    def add_line(self) -> None:
        """Go to where equipment is written down, a line each."""
        self.show_page("needs")
        self.pages["needs"].write()

    def add_equipment(self) -> None:
        """Ask what is to be added, and where each side of it goes."""
        from jaunty_copper.desktop.shell import adding

        before = self.document.plan
        dialog = adding.open_for(before, self.map.selected, self.units, self)
        dialog.made.connect(lambda plan, line: self._put(f"Add {line}", before, plan))

    def add_bank(self) -> None:
        """Ask for one more bank, and draw its core beside what there is."""
        from jaunty_copper.desktop.shell import beginning

        before = self.document.plan
        beginning.open_for(self, before).begun.connect(lambda plan: self._put("Add a bank", before, plan))

    def _put(self, label: str, before: Plan, after: Plan) -> None:
        """Take over a plan that was worked out, and select the first thing that is new in it."""
        known = {x.id for x in before.placed}
        new = [x.id for x in (*after.equipment, *after.items) if x.id not in known]
        other = [
            x.id for x in (*before.runs, *before.items)
            if isinstance(x, Run | Inline) and x != (after.run_by_id.get(x.id) or after.by_id.get(x.id))
        ]  # fmt: skip
        self._select_next = new[0] if new else None
        if not self.do(Edit(label, partial(_made_of, before=before, after=after))):
            self._select_next = None
        elif other:
            self.show_notice(
                f"{label}: what was there changed with it, so that it stays in order: {', '.join(other[:6])}"
            )

    def wire_up(self) -> None:
        """Lay circuits for all equipment that has no conductors yet."""
        from jaunty_copper.choosing.wiring_up import loose, wire_up
        from jaunty_copper.desktop.work.patience import Cancelled, waited

        plan = self.document.plan
        if not loose(plan):
            self.show_notice("Everything has conductors already")
            return
        gone = Event()
        try:
            found = waited(self, "Laying circuits…", partial(wire_up, plan, overtaken=gone.is_set))
        except Cancelled:
            gone.set()
            return
        if found.done:
            count = f"{len(found.done)} circuits" if len(found.done) > 1 else plan.by_id[found.done[0]].title
            self.do(Edit(f"Wire up {count}", partial(_made_of, before=plan, after=found.plan)))
        if found.left:
            reasons = "; ".join(f"{plan.by_id[id_].title}: {why}" for id_, why in list(found.left.items())[:3])
            self.show_notice(f"Not wired up: {reasons}")

    def export(self, name: str, path: Path | None = None) -> None:
        """Write a document of the plan; asks where to, unless it is said."""
        from jaunty_copper.desktop.shell.exporting import Exporter

        if self.picture is None or self.picture.known is None:
            self.show_notice("Nothing can be written yet: the plan is being studied")
            return
        if self._exporter is None:
            self._exporter = Exporter()
            self._exporter.said.connect(self.show_notice)
        if path is not None:
            self._exporter.write(name, self.picture.known, path)
        else:
            folder = self.document.path.parent if self.document.path is not None else Path.home()
            self._exporter.ask(self, name, self.picture.known, folder)

    def own_device(self) -> None:
        """Let the plan carry a device family of its own."""
        from jaunty_copper.desktop.shell import own_device
        from jaunty_copper.parts.catalogue import library

        self._own_device = own_device.open_for(library().with_own(self.document.plan.parts), self)
        self._own_device.wanted.connect(self.do)

    def short_here(self, id_: str | None = None) -> None:
        """Follow a short circuit at what is selected, or at what is given."""
        self.show_page("curves")
        page, place = self.pages["curves"], id_ or self.map.selected
        if place is not None:
            page.short_at(place)

    def _opened(self, id_: str) -> None:
        """A double click: into the bank, or into the first field."""
        if isinstance(self.document.plan.by_id.get(id_), Battery):
            self.map.select(id_)
            self.show_page("bank")
        else:
            self.inspector.focus_first()

    # The document

    def _adopt(self, document: Document) -> None:
        """Show another document."""
        self.document = document
        document.changed.connect(self._plan_changed)
        document.history.connect(self._history)
        self.picture = None
        self.map.look.row = None
        self.map.look.selected = None
        self._folds = ()
        first = document.plan.scenarios[0].id if document.plan.scenarios else WORST
        self._scenario: str | None = first
        self.show_sketch()
        self._plan_changed()
        self._history()
        self.set_scenario(first)
        self.hide_notice()
        if document.open_elsewhere:
            self.show_notice("This plan is open in another window too. Saving here overwrites what is saved there.")

    def show_sketch(self) -> None:
        """Show the map before anything is solved."""
        self.map.set_picture(self._with_folds(sketch_of(self.document.plan)))

    def _with_folds(self, picture: Picture) -> Picture:
        """A picture whose map has the circuits of some bars in one line each."""
        if not self._folds:
            return picture
        able = folding.foldable(picture.plan)
        self._folds = tuple(bar for bar in self._folds if bar in able)
        return replace(picture, diagram=folding.fold(picture.plan, self._folds))

    def fold(self, bar: str) -> None:
        """Fold the circuits of a bar into one line, or show them all again."""
        plan = self.document.plan
        if bar not in self._folds and bar not in folding.foldable(plan):
            self.show_notice("Select a busbar with several circuits to fold them into one line")
            return
        self._refold(tuple(b for b in self._folds if b != bar) if bar in self._folds else (*self._folds, bar))

    def fold_all(self) -> None:
        """Fold the circuits of every bar; where some are folded, show all again."""
        plan = self.document.plan
        bars = [x.id for x in plan.items if isinstance(x, Bar) and supply_of(plan, x).side == "plus"]
        able = folding.foldable(plan)
        self._refold(() if self._folds else tuple(b for b in bars if b in able))

    def _refold(self, folds: tuple[str, ...]) -> None:
        self._folds = folds
        if self.picture is None:
            self.show_sketch()
            return
        chart = folding.fold(self.picture.plan, folds) if folds else lay_out(topology(self.picture.plan))
        self.picture = replace(self.picture, diagram=chart)
        self.map.set_picture(self.picture)
        self.strip.update()

    def do(self, edit: Edit) -> bool:
        """Apply an edit; say so where it makes no sense."""
        from jaunty_copper.desktop.work.patience import Cancelled, waited

        try:
            if edit.slow:
                before = self.document.plan
                after = waited(self, f"{edit.label}…", partial(edit.apply, before))
                edit = Edit(edit.label, partial(_made_of, before=before, after=after))
            self.document.do(edit)
        except Cancelled:
            self.inspector.show_again()
            self._show_on_page()
            return False
        except EditError as error:
            self.show_notice(f"{edit.label}: not done. {error}")
            self.inspector.show_again()
            self._show_on_page()
            return False
        return True

    def _study(self) -> None:
        """Study the plan, once the map stands: until then the interpreter has enough to do."""
        if self.map.painted:
            self.studying.ask(study_of(self.document.plan))

    def _plan_changed(self) -> None:
        # Autosave first: whatever fails in showing the plan, the work is kept.
        each(self.keep_soon, self._study, self._fill_scenarios, self._show_inspector)

    def _show(self, picture: Picture) -> None:
        """Show a study, unless the plan has moved on."""
        if picture.plan is not self.document.plan:
            return
        self.picture = self._with_folds(self._with_readings(picture))
        self._ahead.start()
        each(
            partial(self.map.set_picture, self.picture), self._share_height, self._select_or_refresh, self._show_beside, self.strip.update,
            self._show_on_page, self._weigh_readings,
        )  # fmt: skip

    def _divided_by_hand(self) -> None:
        self._divided = True

    def _share_height(self) -> None:
        """Below a small map there is room for more of its strip, until a person has divided the two."""
        total = sum(self._middle.sizes())
        if self._divided or total <= 0:
            return
        strip = round(min(max(total - self.map.height_wanted() - 12, STRIP_PX), HIGHEST_STRIP * total))
        if abs(self._middle.sizes()[1] - strip) > 4:
            self._middle.setSizes([total - strip, strip])

    def _select_or_refresh(self) -> None:
        """Select what the last edit made, or show the figures of what is selected."""
        select, self._select_next = self._select_next, None
        if select is not None:
            self.map.select(select, show=True)
        else:
            self._show_inspector()

    def _show_beside(self) -> None:
        if self._side is not None and self.picture is not None:
            self._side.show_picture(self.picture)

    def _show_on_page(self) -> None:
        """Bring the page that is looked at up to date; the others follow when gone to."""
        if self.picture is not None and self.page in self.pages:
            self.pages[self.page].show_picture(self.picture, self._scenario)

    def _study_failed(self, trace: str) -> None:
        last = trace.strip().splitlines()[-1]
        self.show_notice(
            f"This plan could not be studied: {last}. It can still be edited and saved; undo brings the last study back."
        )

    def _busy(self, on: bool) -> None:
        self._working.setText("computing…" if on else "")

    def _history(self) -> None:
        d = self.document
        name = d.path.name if d.path else "not saved yet"
        self.setWindowTitle(f"{d.plan.title or 'Plan'} — {name}[*] — Jaunty Copper")
        self.setWindowModified(d.unsaved)
        self.bar.title.setText(f"{d.plan.title or 'Plan without a name'}{' •' if d.unsaved else ''}")
        self.bar.title.setToolTip(plain_tip(str(d.path or "not saved yet")))
        self.menus.undo.setEnabled(d.undo_label is not None)
        self.menus.undo.setText(f"&Undo: {d.undo_label}" if d.undo_label else "&Undo")
        self.menus.redo.setEnabled(d.redo_label is not None)
        self.menus.redo.setText(f"&Redo: {d.redo_label}" if d.redo_label else "&Redo")
        self.bar.units.setText("AWG" if self.units.awg else "mm²")
        self.bar.look.setText("Dark" if self.palette_.name == "light" else "Light")

    # Looking

    def set_lens(self, lens_id: str) -> None:
        """Look through another lens."""
        for k, lens in enumerate(LENSES):
            if lens.id == lens_id:
                self.bar.lenses.button(k).setChecked(True)
        self.map.set_lens(lens_id)
        self._weigh_readings()

    def set_scenario(self, scenario: str | None) -> None:
        """Look at another scenario, or the worst of all."""
        self._scenario = scenario
        self.map.set_scenario(scenario)
        self._fill_scenarios()
        self._show_inspector()
        self.strip.update()
        self._show_on_page()

    def _fill_scenarios(self) -> None:
        plan = self.document.plan
        entries: list[tuple[str, str | None]] = [(s.title, s.id) for s in plan.scenarios]
        entries.append(("Worst case" if plan.scenarios else "Everything on", WORST))
        if self._scenario not in [id_ for _, id_ in entries]:
            self._scenario = entries[0][1]
            self.map.set_scenario(self._scenario)
        box = self.bar.scenarios
        if [(box.itemText(k), box.itemData(k)) for k in range(box.count())] != entries:
            box.clear()
            for title, id_ in entries:
                box.addItem(title, id_)
        box.setCurrentIndex([id_ for _, id_ in entries].index(self._scenario))

    def next_scenario(self, by: int) -> None:
        """Go to the next scenario, or to the one before."""
        box = self.bar.scenarios
        self.set_scenario(box.itemData((box.currentIndex() + by) % box.count()))

    def switch_units(self) -> None:
        """Metric to AWG and back."""
        self.units = Units(not self.units.awg)
        self.settings.put("awg", self.units.awg)
        self.map.set_units(self.units)
        for page in self.pages.values():
            page.set_units(self.units)
        self._show_inspector()
        self._history()

    def switch_look(self) -> None:
        """Light to dark and back."""
        self.set_look("dark" if self.palette_.name == "light" else "light")

    def set_look(self, name: str) -> None:
        """Light or dark."""
        self.palette_ = PALETTES[name]
        self.settings.put("look", name)
        self.apply_look()

    def apply_look(self) -> None:
        """Give every part the colours in force."""
        sheet = style_sheet(self.palette_)
        if self.styleSheet() != sheet:
            for page in self.pages.values():
                # To dress what nobody sees would hold the window: it is done when the page is gone to.
                if page is not self.stack.currentWidget():
                    self.stack.removeWidget(page)
                    page.setParent(None)
            self.setStyleSheet(sheet)
        self.map.set_palette(self.palette_)
        self.map.set_units(self.units)
        if self._side is not None:
            self.findings.set_palette(self.palette_)
        for page in self.pages.values():
            page.set_palette(self.palette_)
        self.strip.update()
        self._history()

    # Selecting and editing

    def _picked(self, _: str) -> None:
        self._show_inspector()

    def _show_inspector(self) -> None:
        if self._side is not None:
            self.inspector.units, self.inspector.scenario = self.units, self._scenario
            if self.inspector.shows_other_than(self.map.selected, self.map.look.also):
                settle()
            self.inspector.show_selection(self.document.plan, self.picture, self.map.selected, self.map.look.also)

    def _jump(self, finding: Finding) -> None:
        """Go to a finding's place, in the scenario in which it shows."""
        if finding.scenario is not None and self._scenario is not WORST:
            self.set_scenario(finding.scenario)
        plan = self.document.plan
        if finding.place in plan.by_id or finding.place in plan.run_by_id:
            self.map.select(finding.place, show=True)
            self._show_inspector()
        here = finding.rule.page
        if here != self.page:
            self.show_page(here)
        elif here in self.pages:
            self.pages[here].select(finding.place)

    def apply_fix(self) -> None:
        """Apply the edit of the selected finding."""
        self.findings.apply_fix()

    def step_finding(self, by: int) -> None:
        """Go to the next finding, or to the one before."""
        self.findings.step(by)

    def _menu(self, selected: str, where: QPoint) -> None:
        shown = self.menu_for(selected)
        if not shown.isEmpty():
            # Asked for by an entry of the menu bar: that menu must be gone first, else this one hangs on it.
            QTimer.singleShot(0, shown, partial(shown.popup, where))

    def menu_for(self, selected: str) -> QMenu:
        """The menu of a place on the map."""
        made = QMenu(self)
        groups: dict[str, QMenu] = {}
        for choice in menu.choices(self.document.plan, self.picture, selected or None):
            into = made
            if choice.group:
                if choice.group not in groups:
                    groups[choice.group] = made.addMenu(choice.group)
                into = groups[choice.group]
            into.addAction(choice.text).triggered.connect(partial(self._choose, choice))
        id_ = selected.partition(".")[0]
        if id_ in self.document.plan.by_id or id_ in self.document.plan.run_by_id:
            made.addSeparator()
            if id_ in self.document.plan.by_id:
                made.addAction("Connect to…").triggered.connect(lambda: self.connect_from(selected))
                thing = self.document.plan.by_id[id_]
                if isinstance(thing, Inline) or (isinstance(thing, Bar) and "." in selected):
                    made.addAction("Swap with…").triggered.connect(lambda: self._swap(selected))
                if isinstance(thing, Bar) and (id_ in self._folds or id_ in folding.foldable(self.document.plan)):
                    word = "Unfold" if id_ in self._folds else "Fold"
                    made.addAction(f"{word} its circuits").triggered.connect(lambda: self.fold(id_))
                if isinstance(thing, Equipment):
                    made.addAction("Lead the circuit to…").triggered.connect(lambda: self._lead(id_))
            else:
                made.addAction("Lead its start elsewhere…").triggered.connect(lambda: self._aim(id_, "a"))
                made.addAction("Lead its end elsewhere…").triggered.connect(lambda: self._aim(id_, "b"))
            made.addAction("Short circuit here").triggered.connect(partial(self.short_here, selected))
        made.aboutToHide.connect(made.deleteLater)
        return made

    def _choose(self, choice: menu.Choice) -> None:
        self._select_next = choice.selects
        if not self.do(choice.edit):
            self._select_next = None

    def _remove(self, selected: str) -> None:
        chosen = self.map.chosen
        if len(chosen) > 1 and selected in chosen:
            self.do(Edit(f"Remove {len(chosen)} things", partial(menu.remove_all, ids=chosen)))
            return
        edit = menu.removal(self.document.plan, selected)
        if edit is not None:
            self.do(edit)

    # Whole circuits

    def _circuits(self) -> tuple[str, ...]:
        """Equipment of the circuits that are selected, or that what is selected is in."""
        plan = self.document.plan
        found = dict.fromkeys(
            id_ if isinstance(plan.by_id.get(id_), Equipment) else self.map.row_of(id_) or "" for id_ in self.map.chosen
        )
        return tuple(id_ for id_ in found if isinstance(plan.by_id.get(id_), Equipment))

    def copy_circuits(self) -> bool:
        """Put the selected circuits on the clipboard, as a plan of their own."""
        ids = self._circuits()
        if not ids:
            self.show_notice("Select a circuit to copy: its equipment, or anything on its way")
            return False
        QApplication.clipboard().setText(dumps(edits.cut_out(self.document.plan, ids)).decode())
        return True

    def cut_circuits(self) -> None:
        """Copy the selected circuits, and remove them."""
        ids = self._circuits()
        if self.copy_circuits():
            self.do(Edit(f"Cut {self._named(ids)}", partial(edits.cut_away, equipment_ids=ids)))

    def paste_circuits(self) -> None:
        """Put the circuits on the clipboard into this plan: where they were, or at the bar that is selected."""
        try:
            piece = parse(QApplication.clipboard().text().encode(), "the clipboard")
        except PlanError:
            self.show_notice("There is no circuit on the clipboard")
            return
        self._put_in(piece, "Paste")

    def duplicate_circuits(self) -> None:
        """Lay the selected circuits once more, at the same bars."""
        ids = self._circuits()
        if ids:
            self._put_in(edits.cut_out(self.document.plan, ids), "Duplicate")
        else:
            self.show_notice("Select a circuit to duplicate: its equipment, or anything on its way")

    def _put_in(self, piece: Plan, word: str) -> None:
        hub = split_ref(self.map.selected)[0] if self.map.selected and word == "Paste" else None
        before = {e.id for e in self.document.plan.equipment}
        if self.do(
            Edit(
                f"{word} {self._named(tuple(e.id for e in piece.equipment), piece)}",
                partial(_pasted, piece=piece, hub=hub),
            )
        ):
            self._select_next = next((e.id for e in self.document.plan.equipment if e.id not in before), None)

    def _named(self, ids: tuple[str, ...], plan: Plan | None = None) -> str:
        things = (plan or self.document.plan).by_id
        return things[ids[0]].title if len(ids) == 1 else f"{len(ids)} circuits"

    def _stud_moved(self, bar: str, stud: str, to: int) -> None:
        self.do(Edit(f"Move stud {stud} of {bar}", partial(edits.move_stud, bar_id=bar, stud_id=stud, to=to)))

    def connect_from(self, selected: str | None = None, to: str | None = None) -> None:
        """Lay a conductor from what is selected: asks where to, and how long."""
        from jaunty_copper.desktop.shell import connecting

        plan, begin = self.document.plan, selected or self.map.selected
        known = {r.id for r in plan.runs}
        dialog = connecting.connect(plan, begin, to, self.units, self) if begin else None
        if dialog is None:
            self.show_notice("Select where the conductor is to begin: a terminal, a stud, a device, a unit")
            return
        dialog.wanted.connect(partial(self._lay, known))

    def _lay(self, known: set[str], edit: Edit) -> None:
        if self.do(edit):
            new = [r.id for r in self.document.plan.runs if r.id not in known]
            self._select_next = new[0] if new else None

    def _aim(self, run: str, end: Literal["a", "b"]) -> None:
        from jaunty_copper.desktop.shell import connecting

        connecting.aim(self.document.plan, run, end, self.units, self).wanted.connect(self.do)

    def _swap(self, selected: str) -> None:
        from jaunty_copper.desktop.shell import connecting

        connecting.swap(self.document.plan, selected, self.units, self).wanted.connect(self.do)

    def _lead(self, equipment: str) -> None:
        from jaunty_copper.desktop.shell import connecting

        connecting.lead(self.document.plan, equipment, self.units, self).wanted.connect(self.do)

    def _aimed(self, run: str, end: Literal["a", "b"], to: str) -> None:
        from jaunty_copper.desktop.shell import connecting

        self.do(connecting.aimed(run, end, to))

    def _carried(self, id_: str, onto: str) -> None:
        """A circuit was dragged to a bar, or a device onto another one; what is unusual is asked for once more."""
        from jaunty_copper.desktop.shell import connecting

        plan = self.document.plan
        thing, there = plan.by_id[id_], plan.by_id[onto]
        if isinstance(thing, Inline):
            self.do(Edit(f"Swap {thing.title} and {there.title}", partial(edits.swap_items, one=id_, other=onto)))
        elif isinstance(thing, Equipment) and isinstance(there, Bar):
            found = bar_for(plan, thing, there)
            if found.standing == "forbidden":
                self.show_notice(f"Not led there: {found.why}")
            elif found.standing == "unusual":
                connecting.lead(plan, id_, self.units, self, onto).wanted.connect(self.do)
            else:
                self.do(connecting.led(plan, id_, onto))

    def new_scenario(self) -> None:
        """Add a scenario like the one that is shown."""
        plan = self.document.plan
        like = next((s for s in plan.scenarios if s.id == self._scenario), None)
        id_ = edits.fresh_id(plan, "scenario")
        name = edits.fresh_name([s.title for s in plan.scenarios], like.title if like else "New scenario")
        new = (like or Scenario(id=id_)).model_copy(update={"id": id_, "name": name})
        self._scenario = id_
        self.do(Edit(f"Add scenario {new.title}", partial(_add, thing=new)))
        self.set_scenario(id_)

    def delete_scenario(self) -> None:
        """Delete the scenario that is shown."""
        if self._scenario is not WORST:
            self.do(Edit(f"Delete scenario {self._scenario}", partial(_remove, id_=self._scenario)))
            self.set_scenario(self._scenario)

    def new_zone(self) -> None:
        """Add a zone; its fields are in the inspector of the plan."""
        zone = Zone(id=edits.fresh_id(self.document.plan, "zone"), name="New zone")
        self.map.select(None)
        self.do(Edit(f"Add zone {zone.id}", partial(_add, thing=zone)))

    # Help

    def show_keys(self) -> None:
        """Which keys do what."""
        from jaunty_copper.desktop.shell import keys

        self._keys = keys.open_for(self.menuBar().actions(), self)

    def show_cautions(self) -> None:
        """What may hurt."""
        dialogs().cautions(self)

    def show_about(self) -> None:
        """Name and version."""
        dialogs().about(self)

    # Closing

    def closeEvent(self, event: QCloseEvent) -> None:
        """Leave nothing unsaved by accident."""
        settle()
        if not self.may_leave():
            event.ignore()
            return
        for page in self.pages.values():
            page.close_worker()
        if self._exporter is not None:
            self._exporter.worker.close()
        self.studying.close()
        self._ahead.close()
        self.close_document()
        event.accept()

    def sizeHint(self) -> QSize:
        """A laptop's screen."""
        return QSize(1280, 800)


def _pasted(plan: Plan, piece: Plan, hub: str | None) -> Plan:
    return edits.paste(plan, piece, hub)[0]


def _made_of(plan: Plan, before: Plan, after: Plan) -> Plan:
    """What was worked out for a plan, if that is still the one."""
    if plan is not before:
        raise EditError("the plan was changed meanwhile")
    return after


def _add(plan: Plan, thing: Scenario | Zone) -> Plan:
    return edits.add(plan, thing)


def _remove(plan: Plan, id_: str) -> Plan:
    return edits.remove(plan, id_)


def demo_document() -> Document:
    """The demo system, not saved anywhere yet."""
    return Document(example(DEMO))
