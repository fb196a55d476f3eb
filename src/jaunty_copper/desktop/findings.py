"""The list of findings: counted, filterable, each a jump to its place and, where it can be, a mend."""

import textwrap

from PySide6.QtCore import QAbstractListModel, QModelIndex, QPersistentModelIndex, QRect, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QColor, QFontMetrics, QPainter
from PySide6.QtWidgets import (
    QHBoxLayout,
    QListView,
    QPushButton,
    QStyledItemDelegate,
    QStyleOptionViewItem,
    QVBoxLayout,
    QWidget,
)

from jaunty_copper.desktop.label import Label
from jaunty_copper.desktop.map.paint import badge
from jaunty_copper.desktop.theme import LIGHT, Palette, font
from jaunty_copper.practice.findings import Finding, Severity

MEND_COLUMNS = 38
"""Letters in a line of the mend button."""

Index = QModelIndex | QPersistentModelIndex


class Model(QAbstractListModel):
    """Findings that pass the filter."""

    def __init__(self) -> None:
        super().__init__()
        self.all: tuple[Finding, ...] = ()
        self.shown: list[Finding] = []
        self.hidden: set[Severity] = set()

    def set_findings(self, findings: tuple[Finding, ...]) -> None:
        """Show other findings."""
        self.beginResetModel()
        self.all = findings
        self.shown = [f for f in findings if f.severity not in self.hidden]
        self.endResetModel()

    def show_severity(self, severity: Severity, on: bool) -> None:
        """Let a severity through, or not."""
        (self.hidden.discard if on else self.hidden.add)(severity)
        self.set_findings(self.all)

    def rowCount(self, parent: Index | None = None) -> int:
        """How many are shown."""
        return 0 if parent is not None and parent.isValid() else len(self.shown)

    def data(self, index: Index, role: int = Qt.ItemDataRole.DisplayRole) -> object:
        """A finding, or its words."""
        finding = self.shown[index.row()]
        if role == Qt.ItemDataRole.DisplayRole:
            return finding.headline
        if role == Qt.ItemDataRole.AccessibleTextRole:
            return f"{finding.severity.word}: {finding.headline}"
        if role == Qt.ItemDataRole.UserRole:
            return finding
        return None


class Delegate(QStyledItemDelegate):
    """Paints one finding: its shape, its word, its headline."""

    def __init__(self, view: QListView) -> None:
        super().__init__(view)
        self.palette: Palette = LIGHT
        self.view = view

    def _text_rect(self, width: int, text: str) -> QRect:
        return QFontMetrics(font(13)).boundingRect(QRect(0, 0, width - 72, 2000), int(Qt.TextFlag.TextWordWrap), text)

    def sizeHint(self, _: QStyleOptionViewItem, index: Index) -> QSize:
        """Room for the whole headline."""
        width = self.view.viewport().width()
        return QSize(width, self._text_rect(width, index.data()).height() + 33)

    def paint(self, painter: QPainter, option: QStyleOptionViewItem, index: Index) -> None:
        """Paint it."""
        finding: Finding = index.data(Qt.ItemDataRole.UserRole)
        c, box = self.palette, QRectF(option.rect)
        painter.save()
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        if index.row() == self.view.currentIndex().row():
            painter.fillRect(box, QColor(c.raised))
            painter.fillRect(QRectF(box.x(), box.y(), 4, box.height()), QColor(c.accent))
        badge(painter, c, finding.severity, box.x() + 26, box.y() + 18, 18)
        painter.setFont(font(12, True))
        painter.setPen(QColor(c.severity(finding.severity)))
        align = Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter
        painter.drawText(QRectF(box.x() + 44, box.y() + 8, 80, 17), align, finding.severity.word)
        after = box.x() + 44 + painter.fontMetrics().horizontalAdvance(finding.severity.word) + 8
        painter.setPen(QColor(c.soft))
        painter.setFont(font(12))
        painter.drawText(
            QRectF(after, box.y() + 8, box.right() - after - 12, 17), align, finding.rule.replace("_", " ")
        )
        painter.setPen(QColor(c.ink))
        painter.setFont(font(13))
        text = QRectF(box.x() + 44, box.y() + 26, box.width() - 56, box.height() - 28)
        painter.drawText(text, int(Qt.TextFlag.TextWordWrap), finding.headline)
        painter.restore()


class Findings(QWidget):
    """The panel."""

    chosen = Signal(object)
    """A `Finding` was selected."""
    mend_wanted = Signal(object)
    """The `Edit` of a finding."""

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setObjectName("panel")
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 10, 0, 0)
        layout.setSpacing(6)
        top = QHBoxLayout()
        top.setSpacing(5)
        top.setContentsMargins(16, 0, 12, 0)
        head = Label("Findings")
        head.setObjectName("head")
        top.addWidget(head)
        top.addStretch(1)
        self.model = Model()
        self.filters: dict[Severity, QPushButton] = {}
        for severity in Severity:
            button = QPushButton()
            button.setObjectName("filter")
            button.setCheckable(True)
            button.setChecked(True)
            button.setToolTip(f"Show or hide “{severity.word}”")
            button.toggled.connect(lambda on, s=severity: self.model.show_severity(s, on))
            self.filters[severity] = button
            top.addWidget(button)
        layout.addLayout(top)
        self.list = QListView()
        self.list.setModel(self.model)
        self.list.setAccessibleName("Findings")
        self.list.setVerticalScrollMode(QListView.ScrollMode.ScrollPerPixel)
        self.list.setResizeMode(QListView.ResizeMode.Adjust)
        self.list.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.delegate = Delegate(self.list)
        self.list.setItemDelegate(self.delegate)
        self.list.selectionModel().currentChanged.connect(self._chosen)
        self.list.clicked.connect(self._chosen)
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
        self.mend.clicked.connect(self._mend)
        for widget in (self.why, self.source, self.mend):
            inner.addWidget(widget)
        layout.addWidget(self.detail)
        self.detail.hide()
        self.set_findings(())

    @property
    def current(self) -> Finding | None:
        """The finding that is selected."""
        index = self.list.currentIndex()
        return self.model.shown[index.row()] if index.isValid() else None

    def set_palette(self, palette: Palette) -> None:
        """Change colours."""
        self.delegate.palette = palette
        self.list.viewport().update()

    def set_findings(self, findings: tuple[Finding, ...]) -> None:
        """Show other findings, keeping the one that is selected if it is still there."""
        before = self.current
        blocked = self.list.selectionModel().blockSignals(True)
        self.model.set_findings(findings)
        for k, f in enumerate(self.model.shown):
            if before is not None and (f.rule, f.place) == (before.rule, before.place):
                self.list.setCurrentIndex(self.model.index(k))
        self.list.selectionModel().blockSignals(blocked)
        for severity, button in self.filters.items():
            count = sum(f.severity is severity for f in findings)
            button.setText(severity.counted(count))
        self._detail()

    def say_by(self, practice: str) -> None:
        """Say by which practice was judged, where there is nothing else to say."""
        self.nothing.setVisible(not self.model.all)
        self.nothing.setText(
            f"Nothing to fix by {practice}, with the checks that this version has. Local codes and licensed practice decide."
        )

    def _chosen(self, *_: object) -> None:
        self._detail()
        if self.current is not None:
            self.chosen.emit(self.current)

    def _detail(self) -> None:
        finding = self.current
        self.detail.setVisible(finding is not None)
        if finding is None:
            return
        self.why.setText(finding.why)
        self.source.setText(finding.source)
        self.mend.setVisible(finding.mend is not None)
        if finding.mend is not None:
            self.mend.setText(textwrap.fill(finding.mend.label, MEND_COLUMNS))

    def _mend(self) -> None:
        if self.current is not None and self.current.mend is not None:
            # The button goes with its finding: the keyboard stays here and does not land in some field.
            if self.mend.hasFocus():
                self.list.setFocus()
            self.mend_wanted.emit(self.current.mend)
