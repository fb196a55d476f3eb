"""The Curves page."""

from PySide6.QtCore import Qt
from PySide6.QtGui import QShowEvent
from PySide6.QtWidgets import QComboBox, QHBoxLayout, QSplitter, QVBoxLayout, QWidget

from jaunty_copper.codes.case import Case
from jaunty_copper.desktop.pages.base import Page
from jaunty_copper.desktop.pages.curves.chain import ChainPanel
from jaunty_copper.desktop.pages.curves.chart import Chart
from jaunty_copper.desktop.pages.curves.facts import CurvesAsked, Fits, Followed, fits_of, replay_of
from jaunty_copper.desktop.pages.curves.replay import ReplayView
from jaunty_copper.desktop.widgets.dividers import name_divider
from jaunty_copper.desktop.widgets.label import Label
from jaunty_copper.desktop.work.worker import Worker
from jaunty_copper.documents.curves import FaultPath, equipment_of, path_to
from jaunty_copper.documents.map.picture import Picture
from jaunty_copper.documents.palette import Palette
from jaunty_copper.documents.words import Units
from jaunty_copper.language import say
from jaunty_copper.plan.model import Equipment, Run, split_ref


class CurvesPage(Page):
    """Devices in series before one place, and a fault there."""

    def __init__(self) -> None:
        super().__init__()
        self.picture: Picture | None = None
        self.path: FaultPath | None = None
        self.fits: Fits | None = None
        self._equipment: str | None = None
        self._device: str | None = None
        self._fault: object = None
        self._asked: tuple[object, ...] = ()
        self._followed: CurvesAsked | None = None
        self.choosing = Worker("choosing")
        self.choosing.done.connect(self._found_fits)
        self.choosing.failed.connect(self._choosing_failed)
        self.following = Worker("following")
        self.following.done.connect(self._found_replay)
        self.following.failed.connect(self._following_failed)
        self.chart, self.chain, self.replay = Chart(), ChainPanel(), ReplayView()
        self.head = Label()
        self.head.setObjectName("head")
        self.which = QComboBox()
        self.which.setAccessibleName(say("Path to"))
        self.which.setToolTip(say("The equipment whose devices are shown, from the source on"))
        self.which.activated.connect(lambda k: self._choose(self.which.itemData(k)))
        top = QHBoxLayout()
        top.setContentsMargins(16, 6, 12, 0)
        top.addWidget(self.head, 1)
        top.addWidget(Label(say("Path to")))
        top.addWidget(self.which)
        across = QHBoxLayout()
        across.setContentsMargins(8, 0, 0, 0)
        across.setSpacing(4)
        across.addWidget(self.chart, 1)
        across.addWidget(self.chain)
        upper = QWidget()
        column = QVBoxLayout(upper)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(4)
        column.addLayout(top)
        column.addLayout(across, 1)
        split = QSplitter(Qt.Orientation.Vertical)
        split.addWidget(upper)
        split.addWidget(self.replay)
        split.setSizes([460, 230])
        split.setStretchFactor(0, 1)
        name_divider(split, say("Divider above the replay"))
        split.setCollapsible(0, False)
        page = QVBoxLayout(self)
        page.setContentsMargins(0, 0, 0, 0)
        page.addWidget(split)
        self.chain.wanted.connect(self.wanted)
        self.chain.picked.connect(self._picked)
        self.chain.protect_wanted.connect(lambda: self.asked.emit("protect"))
        self.replay.asked.connect(self._ask_replay)

    # What is shown

    @property
    def case(self) -> Case | None:
        """The study before its book."""
        return self.picture.case if self.picture is not None else None

    @property
    def equipment(self) -> Equipment | None:
        """The equipment whose path is shown."""
        found = self.picture.plan.by_id.get(self._equipment or "") if self.picture is not None else None
        return found if isinstance(found, Equipment) else None

    def show_picture(self, picture: Picture, _: str | None) -> None:
        """Show another study."""
        self.picture = picture
        entries = [(e.title, e.id) for e in picture.plan.equipment]
        if [(self.which.itemText(k), self.which.itemData(k)) for k in range(self.which.count())] != entries:
            self.which.clear()
            for text, id_ in entries:
                self.which.addItem(text, id_)
        if self.equipment is None:
            self._equipment = entries[0][1] if entries else None
        self._show()

    def _show(self) -> None:
        case, e = self.case, self.equipment
        self.which.setCurrentIndex(self.which.findData(self._equipment))
        if case is None or e is None or case.plan.by_id.get(e.id) is None:
            # What it was about may be gone with the equipment.
            self.path = self._device = None
            self.head.setText("" if e is None else say("Not studied: see the findings"))
            self.chart.show_path(None, None, None)
            self.chain.show_path(None, None, None, None)
            self.replay.show_places([])
            self.replay.show_waiting("")
            return
        self.path = path_to(case, e)
        ids = [d.item.id for d in self.path.devices] if self.path else []
        if self._device not in ids:
            self._device = ids[-1] if ids else None
        self.head.setText("  →  ".join([*(case.title(d) for d in ids), e.title]))
        self.chart.show_path(case, self.path, self._device)
        self.chain.show_path(case, self.path, self._device, self.fits if self._current(self.fits) else None)
        self.replay.show_places(self._places(case, e))
        if self._fault is not None:
            wanted, self._fault = self._fault, None
            if not self.replay.choose(wanted):
                self._ask()
                return
        self._ask()

    def _current(self, fits: Fits | None) -> bool:
        return (
            fits is not None and self.case is not None and fits.plan is self.case.plan and fits.device == self._device
        )

    def _places(self, case: Case, e: Equipment) -> list[tuple[str, object]]:
        """Terminals along the path, the equipment first, then the middle of its conductors."""
        f, plan = case.protection.faults, case.plan
        refs = [e.port[0]]
        for device in reversed(self.path.devices if self.path else ()):
            refs += [r for r in (device.item.ref("b"), device.item.ref("a")) if r in f.at]
        kinds = ("bar", "battery", "post", "chassis")
        own = {x.id for x in plan.items if x.kind in kinds}
        hubs = [ref for ref in f.at if split_ref(ref)[0] in own]
        refs += [h for h in hubs if h not in refs]
        found: list[tuple[str, object]] = [(self._place_words(case, ref), ref) for ref in refs if ref in f.at]
        runs = [r for r in case.chain(e, "plus" if "plus" in e.terminal_names else "in_plus") if r.length_m > 0.0]
        found[1:1] = [(say("halfway along {r}", r=r.id), (r.id, 0.5)) for r in runs if r.a in f.at and r.b in f.at]
        return found

    def _place_words(self, case: Case, ref: str) -> str:
        item, terminal = split_ref(ref)
        return f"{case.title(item)}, {terminal}"

    # What is computed

    def _ask(self) -> None:
        case = self.case
        if case is None or not self.isVisible():
            return
        if self._device is not None and not self._current(self.fits):
            self.choosing.ask(fits_of(case, self._device))
        self._ask_replay()

    def _ask_replay(self) -> None:
        case, place = self.case, self.replay.place.currentData()
        if case is None or place is None or not self.isVisible():
            return
        run, at = None, place
        if not isinstance(place, str):
            run = (place[0], place[1])
            at = case.plan.run_by_id[run[0]].a
        asked = CurvesAsked(case.plan, at, run, self.replay.case.currentData(), self.replay.edge.currentData())
        if asked == self._followed and self.replay.found is not None:
            return
        self._followed = asked
        self.replay.show_waiting()
        self.following.ask(replay_of(case, asked))

    def _found_fits(self, fits: Fits) -> None:
        self.fits = fits
        if self._current(fits):
            self.chain.show_path(self.case, self.path, self._device, fits)

    def _found_replay(self, found: Followed) -> None:
        if found.asked == self._followed:
            self.replay.show_replay(found.replay)

    def _choosing_failed(self, trace: str) -> None:
        self.head.setText(say("Nothing could be proposed: {splitlines}", splitlines=trace.strip().splitlines()[-1]))

    def _following_failed(self, trace: str) -> None:
        self.replay.show_waiting(
            say("The fault could not be followed: {splitlines}", splitlines=trace.strip().splitlines()[-1])
        )

    def showEvent(self, _: QShowEvent) -> None:
        """Compute when the page is looked at, not before."""
        self._ask()

    # What is done

    def _choose(self, equipment: str) -> None:
        self._equipment, self._device = equipment, None
        self._show()

    def _picked(self, device: str) -> None:
        self._device = device
        self._show()
        self.picked.emit(device)

    def select(self, id_: str | None) -> None:
        """Go to the path that something lies on."""
        if id_ is None or self.case is None:
            return
        found = equipment_of(self.case, id_)
        on_path = self.path is not None and id_ in [d.item.id for d in self.path.devices]
        if found is not None and not on_path:
            self._equipment = found
        if id_ in self.case.protection.devices:
            self._device = id_
        self._show()

    def short_at(self, id_: str) -> None:
        """Put a short circuit where something is: at its terminal, or halfway along a conductor."""
        if self.picture is None:
            return
        item, terminal = split_ref(id_)
        thing = self.picture.plan.run_by_id.get(item) or self.picture.plan.by_id.get(item)
        if terminal:
            self._fault = id_
        elif isinstance(thing, Run):
            self._fault = (thing.id, 0.5)
        elif isinstance(thing, Equipment):
            self._fault = thing.port[0]
        elif thing is not None:
            terminals = thing.terminal_names
            self._fault = thing.ref("b" if "b" in terminals else terminals[0])
        self.select(item)

    def set_palette(self, palette: Palette) -> None:
        """Change colours."""
        self.chart.set_palette(palette)
        self.replay.set_palette(palette)

    def set_units(self, _: Units) -> None:
        """Currents and times are the same in every system."""

    def close_worker(self) -> None:
        """End the page's threads."""
        self.choosing.close()
        self.following.close()
