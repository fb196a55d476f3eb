"""The list of findings: counted, filterable, several of one kind under one line, each a jump to its place."""

import textwrap
from collections.abc import Callable

from PySide6.QtCore import QEvent, QModelIndex, QObject, QPointF, QRect, QRectF, QSize, Qt, QTimer, Signal
from PySide6.QtGui import QColor, QFocusEvent, QFontMetrics, QKeyEvent, QPainter, QPolygonF
from PySide6.QtWidgets import (
    QHBoxLayout,
    QListView,
    QPushButton,
    QStyledItemDelegate,
    QStyleOptionViewItem,
    QVBoxLayout,
    QWidget,
)

from jaunty_copper.codes.checks import FAILING, Finding, Verdict
from jaunty_copper.desktop.findings.rows import FindingGroup, FindingsModel, Index, Row
from jaunty_copper.desktop.widgets.badge import badge
from jaunty_copper.desktop.widgets.label import Label
from jaunty_copper.desktop.widgets.theme import font
from jaunty_copper.desktop.widgets.viewport import own_viewport
from jaunty_copper.documents.palette import LIGHT, Palette
from jaunty_copper.language import say
from jaunty_copper.plan.edits import Edit

FIX_COLUMNS = 38
"""Letters in a line of the fix button."""
INDENT = 18.0
"""By which findings of a group stand farther in."""
TOGGLES = {
    Qt.Key.Key_Space: None, Qt.Key.Key_Return: None, Qt.Key.Key_Enter: None, Qt.Key.Key_Right: True, Qt.Key.Key_Left: False,
}  # fmt: skip
"""Keys that open a group, close it, or turn it over."""


class Delegate(QStyledItemDelegate):
    """Paints one row: its shape, its word, its headline."""

    def __init__(self, view: QListView) -> None:
        super().__init__(view)
        self.palette: Palette = LIGHT
        self.view = view

    def _indent(self, index: Index) -> float:
        row: Row = index.data(Qt.ItemDataRole.UserRole)
        model = index.model()
        inside = (
            isinstance(model, FindingsModel)
            and not isinstance(row, FindingGroup)
            and model.row_of(row.rule.id, None) >= 0
        )
        return INDENT if inside else 0.0

    def _text_rect(self, width: float, text: str, strong: bool) -> QRect:
        room = QRect(0, 0, int(width), 2000)
        return QFontMetrics(font(13, strong)).boundingRect(room, int(Qt.TextFlag.TextWordWrap), text)

    def sizeHint(self, _: QStyleOptionViewItem, index: Index) -> QSize:
        """Room for the whole headline."""
        width = self.view.viewport().width()
        strong = isinstance(index.data(Qt.ItemDataRole.UserRole), FindingGroup)
        return QSize(width, self._text_rect(width - 72 - self._indent(index), index.data(), strong).height() + 33)

    def paint(self, painter: QPainter, option: QStyleOptionViewItem, index: Index) -> None:
        """Paint it."""
        row: Row = index.data(Qt.ItemDataRole.UserRole)
        c, box, inside = self.palette, QRectF(option.rect), self._indent(index)
        painter.save()
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        if index.row() == self.view.currentIndex().row():
            painter.fillRect(box, QColor(c.raised))
            painter.fillRect(QRectF(box.x(), box.y(), 4, box.height()), QColor(c.accent))
        left = box.x() + 44 + inside
        badge(painter, c, row.verdict, left - 18, box.y() + 18, 18)
        painter.setFont(font(12, True))
        painter.setPen(QColor(c.verdict(row.verdict)))
        align = Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter
        painter.drawText(QRectF(left, box.y() + 8, 80, 17), align, row.verdict.word)
        after = left + painter.fontMetrics().horizontalAdvance(row.verdict.word) + 8
        painter.setPen(QColor(c.soft))
        painter.setFont(font(12))
        painter.drawText(QRectF(after, box.y() + 8, box.right() - after - 30, 17), align, row.rule.title)
        painter.setPen(QColor(c.ink))
        painter.setFont(font(13, isinstance(row, FindingGroup)))
        text = QRectF(left, box.y() + 26, box.right() - left - 12, box.height() - 28)
        painter.drawText(text, int(Qt.TextFlag.TextWordWrap), row.headline)
        if isinstance(row, FindingGroup):
            self._arrow(painter, QPointF(box.right() - 18, box.y() + 17), row.open)
        painter.restore()

    def _arrow(self, painter: QPainter, at: QPointF, open_: bool) -> None:
        points = ((-5, -3), (5, -3), (0, 4)) if open_ else ((-3, -5), (4, 0), (-3, 5))
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(QColor(self.palette.soft))
        painter.drawPolygon(QPolygonF([at + QPointF(x, y) for x, y in points]))


class FindingList(QListView):
    """Findings one below the other."""

    def focusInEvent(self, event: QFocusEvent) -> None:
        """Choose nothing for who only comes by with Tab: a finding that is chosen leads to its place, on another page."""
        before = self.currentIndex()
        blocked = self.selectionModel().blockSignals(True)
        super().focusInEvent(event)
        if not before.isValid():
            self.setCurrentIndex(before)
        self.selectionModel().blockSignals(blocked)


class Findings(QWidget):
    """The panel."""

    chosen = Signal(object)
    """A `Finding` was selected."""
    fix_wanted = Signal(object)
    method_wanted = Signal(object)
    """The rule whose method is asked for."""
    """The `Edit` that fixes a finding, or a group of them."""

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setObjectName("panel")
        self.offered: Edit | None = None
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 10, 0, 0)
        layout.setSpacing(6)
        top = QHBoxLayout()
        top.setSpacing(5)
        top.setContentsMargins(16, 0, 12, 0)
        head = Label(say("Findings"))
        head.setObjectName("head")
        top.addWidget(head)
        top.addStretch(1)
        self.model = FindingsModel()
        self.filters: dict[Verdict, QPushButton] = {}
        for verdict in FAILING:
            button = QPushButton()
            button.setObjectName("filter")
            button.setCheckable(True)
            button.setChecked(True)
            button.setToolTip(say("Show or hide “{verdict}”", verdict=verdict.word))
            button.toggled.connect(lambda on, v=verdict: self.model.show_verdict(v, on))
            self.filters[verdict] = button
            top.addWidget(button)
        layout.addLayout(top)
        self.list = FindingList()
        own_viewport(self.list)
        self.list.setModel(self.model)
        self.list.setAccessibleName(say("Findings"))
        self.list.setVerticalScrollMode(QListView.ScrollMode.ScrollPerPixel)
        self.list.setResizeMode(QListView.ResizeMode.Adjust)
        self.list.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.delegate = Delegate(self.list)
        self.list.setItemDelegate(self.delegate)
        self.list.selectionModel().currentChanged.connect(self._chosen)
        # At the press: what is said of a group may move it from under the pointer before the release.
        self.list.pressed.connect(self._pressed)
        self.list.clicked.connect(self._clicked)
        self.list.installEventFilter(self)
        layout.addWidget(self.list, 1)
        self.nothing = Label()
        self.nothing.setObjectName("caption")
        self.nothing.setWordWrap(True)
        self.nothing.setContentsMargins(16, 4, 16, 14)
        layout.addWidget(self.nothing)
        self.detail = QWidget()
        inner = QVBoxLayout(self.detail)
        inner.setContentsMargins(16, 6, 16, 12)
        self.why = Label()
        self.why.setWordWrap(True)
        self.source = Label()
        self.source.setWordWrap(True)
        self.source.setObjectName("caption")
        self.mend = QPushButton()
        self.mend.setObjectName("mend")
        self.mend.clicked.connect(self.apply_fix)
        self.method = QPushButton(say("How it is computed"))
        self.method.setObjectName("link")
        self.method.clicked.connect(self._ask_method)
        for widget in (self.why, self.source, self.mend):
            inner.addWidget(widget)
        inner.insertWidget(2, self.method, alignment=Qt.AlignmentFlag.AlignLeft)
        layout.addWidget(self.detail)
        self.detail.hide()
        self.set_findings(())

    @property
    def current(self) -> Row | None:
        """The row that is selected."""
        index = self.list.currentIndex()
        return self.model.rows[index.row()] if index.isValid() else None

    def set_palette(self, palette: Palette) -> None:
        """Change colours."""
        self.delegate.palette = palette
        self.list.viewport().update()

    def set_findings(self, findings: tuple[Finding, ...]) -> None:
        """Show other findings, keeping the one that is selected if it is still there."""
        self._keeping(lambda: self.model.set_findings(findings))
        for verdict, button in self.filters.items():
            button.setText(verdict.counted(sum(f.verdict is verdict for f in findings)))
        self._detail()

    def say_by(self, code: str) -> None:
        """Say by which code was judged, where there is nothing else to say."""
        self.nothing.setVisible(not self.model.all)
        self.nothing.setText(
            say(
                "Nothing to fix by {code}, with the checks that this version has. Local codes and licensed practice "
                "decide.",
                code=code,
            )
        )

    def step(self, by: int) -> None:
        """Go to the next finding or to the one before, into groups that are closed too."""
        findings = [f for row in self._every_row() for f in (row.findings if isinstance(row, FindingGroup) else (row,))]
        if not findings:
            return
        now = self.current
        if isinstance(now, FindingGroup):
            at = findings.index(now.findings[0]) - (by > 0)
        else:
            at = findings.index(now) if now is not None else -1 if by > 0 else 0
        self.select(findings[(at + by) % len(findings)])

    def select(self, finding: Finding) -> None:
        """Go to a finding that passes the filter, opening its group."""
        if finding not in self.model.rows:
            self._keeping(lambda: self.model.set_open(finding.rule.id, True))
        self.list.setCurrentIndex(self.model.index(self.model.rows.index(finding)))

    def _every_row(self) -> list[Row]:
        """Rows as they are with all groups closed."""
        rows: list[Row] = []
        inside: set[str] = set()
        for row in self.model.rows:
            if isinstance(row, FindingGroup):
                inside.add(row.rule.id)
            if isinstance(row, FindingGroup) or row.rule.id not in inside:
                rows.append(row)
        return rows

    def _ask_method(self) -> None:
        if self.current is not None:
            self.method_wanted.emit(self.current.rule)

    def apply_fix(self) -> None:
        """Ask for the edit that fixes what is selected."""
        offered = self.offered
        if offered is None:
            return
        # The button goes with its finding: the keyboard stays here and does not land in some field.
        # What is shown may change with that; what was pressed does not.
        if self.mend.hasFocus():
            self.list.setFocus()
        self.fix_wanted.emit(offered)

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        """Open and close groups with the keyboard."""
        row = self.current
        if watched is self.list and isinstance(event, QKeyEvent) and event.type() == QEvent.Type.KeyPress:
            if isinstance(row, FindingGroup) and event.key() in TOGGLES:
                wanted = TOGGLES[Qt.Key(event.key())]
                self._open(row, not row.open if wanted is None else wanted)
                return True
            if event.key() == Qt.Key.Key_Left and row is not None and (k := self.model.row_of(row.rule.id, None)) >= 0:
                self.list.setCurrentIndex(self.model.index(k))
                return True
        return super().eventFilter(watched, event)

    def _open(self, group: FindingGroup, on: bool) -> None:
        self._keeping(lambda: self.model.set_open(group.rule.id, on))

    def _keeping(self, change: Callable[[], None]) -> None:
        """Change the rows and select what was selected."""
        before = self.current
        blocked = self.list.selectionModel().blockSignals(True)
        change()
        if before is not None:
            k = self.model.row_of(before.rule.id, None if isinstance(before, FindingGroup) else before.place)
            self.list.setCurrentIndex(self.model.index(k) if k >= 0 else QModelIndex())
        self.list.selectionModel().blockSignals(blocked)

    def _pressed(self, index: QModelIndex) -> None:
        row = self.model.rows[index.row()]
        if isinstance(row, FindingGroup):
            self._open(row, not row.open)
            QTimer.singleShot(0, self.list, self._show_current)

    def _clicked(self, index: QModelIndex) -> None:
        """Go to a finding again that is chosen already; a group is done with at the press."""
        if not isinstance(self.model.rows[index.row()], FindingGroup):
            self._chosen()

    def _chosen(self, *_: object) -> None:
        self._detail()
        if self.current is not None and not isinstance(self.current, FindingGroup):
            self.chosen.emit(self.current)

    def _detail(self) -> None:
        row = self.current
        self.detail.setVisible(row is not None)
        self.offered = row.fix() if row is not None else None
        if row is None:
            return
        self.why.setText(row.rule.why)
        self.source.setText(", ".join(f.place for f in row.findings) if isinstance(row, FindingGroup) else row.source)
        self.mend.setVisible(self.offered is not None)
        if self.offered is not None:
            self.mend.setText(textwrap.fill(self.offered.label, FIX_COLUMNS))
        # What is said of a row takes room from the list: the row must not be pushed out of sight.
        QTimer.singleShot(0, self.list, self._show_current)

    def _show_current(self) -> None:
        """Bring the row into sight, a group with what it holds."""
        hints = QListView.ScrollHint
        opened = isinstance(self.current, FindingGroup) and self.current.open
        self.list.scrollTo(self.list.currentIndex(), hints.PositionAtTop if opened else hints.EnsureVisible)
