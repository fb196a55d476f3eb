"""The devices of a path from source to equipment, each changed where it stands, and what fits at one."""

from functools import partial
from math import isfinite

from PySide6.QtCore import Qt, Signal
from PySide6.QtGui import QMouseEvent
from PySide6.QtWidgets import QFrame, QHBoxLayout, QPushButton, QScrollArea, QVBoxLayout, QWidget

from jaunty_copper.choosing.devices import Choice
from jaunty_copper.choosing.putting import applying, put_device
from jaunty_copper.codes.case import Case
from jaunty_copper.codes.interrupting import interrupting
from jaunty_copper.desktop.inspector.editors import ChoiceEditor
from jaunty_copper.desktop.pages.curves.facts import Fits
from jaunty_copper.desktop.widgets.label import Label, plain_tip
from jaunty_copper.desktop.widgets.part import replace_body
from jaunty_copper.documents import words
from jaunty_copper.documents.curves import FaultPath
from jaunty_copper.language import say
from jaunty_copper.plan import edits
from jaunty_copper.plan.edits import Edit
from jaunty_copper.protection.devices import Device
from jaunty_copper.protection.selectivity import Pair

WIDTH = 316


class DeviceCard(QFrame):
    """One device: its family and rating, and what it must interrupt."""

    wanted = Signal(object)
    picked = Signal(str)

    def __init__(self, case: Case, device: Device, selected: bool) -> None:
        super().__init__()
        self.device = device
        self.setObjectName("chosen" if selected else "card")
        item = device.item
        column = QVBoxLayout(self)
        column.setContentsMargins(10, 7, 10, 8)
        column.setSpacing(4)
        head = QHBoxLayout()
        head.setSpacing(8)
        for words_, name in ((item.title, "fact"), (item.id, "caption")):
            label = Label(words_)
            label.setObjectName(name)
            head.addWidget(label)
        head.addStretch(1)
        column.addLayout(head)
        row = QHBoxLayout()
        row.setSpacing(6)
        families = [(f.id, f.label) for f in case.parts.device_families.values()]
        self.family = ChoiceEditor(families)
        self.family.show_value(item.family)
        self.family.setAccessibleName(say("Family of {item}", item=item.title))
        self.family.committed.connect(self._family)
        ratings = sorted({*case.parts.ratings(device.family), item.rating_a})
        self.rating = ChoiceEditor([(r, f"{r:g} A") for r in ratings])
        self.rating.show_value(item.rating_a)
        self.rating.setAccessibleName(say("Rating of {item}", item=item.title))
        self.rating.committed.connect(self._rating)
        self.rating.setFixedWidth(84)
        row.addWidget(self.family, 1)
        row.addWidget(self.rating)
        column.addLayout(row)
        found = interrupting(case, item.id)
        if isfinite(found.prospective_a):
            able, enough = found.able_a, found.able_a is not None and found.is_enough
            rated = (
                say("interrupt rating {able}", able=words.amps(able))
                if able is not None
                else say("not made for this voltage")
            )
            behind = (
                say(", {wanted_a} let through by {by}", wanted_a=words.amps(found.wanted_a), by=found.backed.by)
                if found.backed
                else ""
            )
            text = Label(
                say(
                    "{words} {rated}; {prospective_a} prospective{behind}",
                    words="✓" if enough else "✕",
                    rated=rated,
                    prospective_a=words.amps(found.prospective_a),
                    behind=behind,
                )
            )
            text.setWordWrap(True)
            text.setObjectName("caption" if enough else "bad")
            column.addWidget(text)
        self._case = case

    def mousePressEvent(self, event: QMouseEvent) -> None:
        """Pick the device."""
        self.picked.emit(self.device.item.id)
        event.accept()

    def _family(self, value: object) -> None:
        family = self._case.parts.device_families[str(value)]
        item = self.device.item
        ratings = self._case.parts.ratings(family)
        rating = min(ratings, key=lambda r: abs(r - item.rating_a), default=item.rating_a)
        self.wanted.emit(
            Edit(
                say("Make {item} a {family} of {rating:g} A", item=item.title, family=family.label, rating=rating),
                partial(put_device, id_=item.id, kind=family.kind, family=family.id, rating_a=rating),
            )
        )

    def _rating(self, value: object) -> None:
        item = self.device.item
        self.wanted.emit(
            Edit(
                say("Make {item} {value:g} A", item=item.title, value=value),
                partial(edits.change, id_=item.id, rating_a=value),
            )
        )


class ChainPanel(QScrollArea):
    """Cards of a path with the verdict between each two, and below what fits at the chosen one."""

    wanted = Signal(object)
    picked = Signal(str)
    protect_wanted = Signal()

    def __init__(self) -> None:
        super().__init__()
        self.setWidgetResizable(True)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.setFixedWidth(WIDTH)
        self.cards: list[DeviceCard] = []
        self.verdicts: list[Label] = []
        self.uses: list[tuple[Choice, QPushButton]] = []

    def show_path(self, case: Case | None, path: FaultPath | None, selected: str | None, fits: Fits | None) -> None:
        """Show the devices of a path; `fits` when it is known."""
        place = self.verticalScrollBar().value()
        body = QWidget()
        column = QVBoxLayout(body)
        column.setContentsMargins(6, 4, 10, 10)
        column.setSpacing(4)
        self.cards, self.verdicts, self.uses = [], [], []
        if case is None or path is None:
            column.addWidget(_caption(say("Choose equipment to see the devices before it.")))
        elif not path.devices:
            column.addWidget(_caption(say("No fuse or breaker stands before it: see the findings.")))
        else:
            before: Device | None = None
            for device in path.devices:
                if before is not None:
                    self._verdict(column, path.pairs.get((before.item.id, device.item.id)))
                card = DeviceCard(case, device, device.item.id == selected)
                card.wanted.connect(self.wanted)
                card.picked.connect(self.picked)
                column.addWidget(card)
                self.cards.append(card)
                before = device
            self._fits(column, case, fits if fits is not None and fits.device == selected else None)
        column.addStretch(1)
        replace_body(self, body)
        self.verticalScrollBar().setValue(place)

    def _verdict(self, column: QVBoxLayout, pair: Pair | None) -> None:
        text = Label(verdict_words(pair))
        text.setWordWrap(True)
        text.setObjectName("bad" if pair is not None and not pair.same and pair.verdict == "none" else "caption")
        text.setContentsMargins(12, 0, 0, 0)
        column.addWidget(text)
        self.verdicts.append(text)

    def _fits(self, column: QVBoxLayout, case: Case, fits: Fits | None) -> None:
        column.addSpacing(6)
        if fits is None:
            column.addWidget(_caption(say("Trying every family…")))
            return
        item = case.protection.devices[fits.device].item
        head = Label(say("What fits as {item}", item=item.title))
        head.setObjectName("fact")
        column.addWidget(head)
        column.addWidget(_caption(window_words(fits)))
        for choice in fits.choices:
            if choice.fits:
                self._row(column, case, item.id, choice)
        wrong = [c for c in fits.choices if not c.fits]
        if wrong:
            column.addWidget(_caption("\n".join(f"✕ {c.family.label}: {'; '.join(c.fails)}" for c in wrong)))
        button = QPushButton(say("Protect the whole plan…"))
        button.setToolTip(say("Propose a consistent set of devices; shows every difference before anything is changed"))
        button.clicked.connect(self.protect_wanted)
        column.addSpacing(4)
        column.addWidget(button)

    def _row(self, column: QVBoxLayout, case: Case, id_: str, choice: Choice) -> None:
        row = QHBoxLayout()
        row.setSpacing(6)
        text = Label(
            say(
                "✓ {family} {rating_a:g} A\n   selectivity {selective}",
                family=choice.family.label,
                rating_a=choice.rating_a,
                selective=choice.selective,
            )
        )
        text.setWordWrap(True)
        text.setToolTip(plain_tip(choice.with_whom))
        row.addWidget(text, 1)
        now = case.protection.devices[id_]
        if (now.family.id, now.item.rating_a) == (choice.family.id, choice.rating_a):
            row.addWidget(_caption(say("in place")))
        else:
            button = QPushButton(say("Use"))
            button.clicked.connect(partial(self._use, case, id_, choice))
            row.addWidget(button)
            self.uses.append((choice, button))
        column.addLayout(row)

    def _use(self, case: Case, id_: str, choice: Choice) -> None:
        self.wanted.emit(applying(case, id_, choice))


def verdict_words(pair: Pair | None) -> str:
    """Selectivity of two neighbours on a path."""
    if pair is None:
        return say("│ fed from elsewhere too")
    if pair.same:
        return say("│ one circuit: it is all one which opens")
    span = say("faults {least_a} to {most_a}", least_a=words.amps(pair.least_a), most_a=words.amps(pair.most_a))
    if pair.verdict == "total":
        return say("✓ selective: the lower opens first at all {span}", span=span)
    if pair.verdict == "partial":
        return say("◐ selective up to {up_to_a}; {span}", up_to_a=words.amps(pair.up_to_a), span=span)
    return say("✕ not selective: the upper may open first, {span}", span=span)


def window_words(fits: Fits) -> str:
    """The permitted window with both its ends."""
    low, high = fits.window
    most = say("at most {amps:.3g} A: {why}", amps=high.amps, why=high.why) if isfinite(high.amps) else high.why
    return say(
        "At least {amps:.3g} A: {why}\n{most}{most_2}",
        amps=low.amps,
        why=low.why,
        most=most[0].upper(),
        most_2=most[1:],
    )


def _caption(text: str) -> Label:
    made = Label(text)
    made.setObjectName("caption")
    made.setWordWrap(True)
    return made
