"""A picture of a plan in a widget that scrolls and scales."""

from PySide6.QtCore import QPointF, Qt, Signal
from PySide6.QtGui import (
    QResizeEvent,
)
from PySide6.QtWidgets import QAbstractScrollArea, QFrame, QWidget

from jaunty_copper.desktop.pages.map.shown import Shown
from jaunty_copper.desktop.widgets.viewport import own_viewport
from jaunty_copper.documents.map.lens import LENSES
from jaunty_copper.documents.map.look import Look
from jaunty_copper.documents.map.picture import Picture
from jaunty_copper.documents.palette import LIGHT
from jaunty_copper.documents.words import Units

SCALES = (0.12, 4.0)


class Canvas(QAbstractScrollArea):
    """Where the map lies in its widget, and how large."""

    moved = Signal()
    """Scale or scroll changed: what is aligned with the map follows."""

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setFrameShape(QFrame.Shape.NoFrame)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        own_viewport(self)
        self.setMouseTracking(True)
        self.viewport().setMouseTracking(True)
        self.picture: Picture | None = None
        self.look = Look(LIGHT, LENSES[0], None, Units())
        self.shown = Shown(self)
        self._fitted = True
        for bar in (self.horizontalScrollBar(), self.verticalScrollBar()):
            bar.setSingleStep(24)
            bar.valueChanged.connect(self._scrolled)

    @property
    def is_fitted(self) -> bool:
        """Whether the map follows the width of the window."""
        return self._fitted

    @property
    def origin(self) -> QPointF:
        """Where the map's corner lies in the viewport."""
        assert self.picture is not None
        chart, scale, area = self.picture.diagram, self.look.scale, self.viewport().rect()
        x = -self.horizontalScrollBar().value() + max(0.0, (area.width() - chart.width * scale) / 2)
        y = -self.verticalScrollBar().value()
        return QPointF(x, y)

    def to_view(self, x: float, y: float) -> QPointF:
        """A point of the map in the viewport."""
        return self.origin + QPointF(x, y) * self.look.scale

    def to_map(self, point: QPointF) -> tuple[float, float]:
        """A point of the viewport on the map."""
        at = (point - self.origin) / self.look.scale
        return at.x(), at.y()

    def refresh(self) -> None:
        """Paint again where what is shown is another than was painted; nothing is looked for where nobody sees it."""
        where = self.shown.differing() if self.picture is not None and self.isVisible() else None
        if where is None:
            self.viewport().update()
        else:
            self.viewport().update(where)

    def fit(self) -> None:
        """Fill the width; small plans also fit in height."""
        if self.picture is None:
            return
        self._fitted = True
        chart, area = self.picture.diagram, self.viewport().rect()
        by_width = area.width() / chart.width
        by_height = area.height() / chart.height
        scale = min(by_width, 1.35)
        if chart.height * scale > area.height() and by_height >= 0.8 * scale:
            scale = by_height
        self._set_scale(scale)

    def height_wanted(self) -> float:
        """Height at which the map, filling the width, is seen whole, px."""
        if self.picture is None:
            return 0.0
        chart = self.picture.diagram
        return chart.height * min(self.viewport().width() / chart.width, 1.35)

    def fit_all(self) -> None:
        """Show the whole map, however small."""
        if self.picture is not None:
            chart, area = self.picture.diagram, self.viewport().rect()
            self._fitted = False
            self._set_scale(min(area.width() / chart.width, area.height() / chart.height))

    def zoom(self, factor: float, about: QPointF | None = None) -> None:
        """Scale about a point of the viewport, the middle where none is given."""
        if self.picture is None:
            return
        about = about or QPointF(self.viewport().rect().center())
        before = self.to_map(about)
        self._fitted = False
        self._set_scale(self.look.scale * factor)
        after = self.to_view(*before)
        self.horizontalScrollBar().setValue(round(self.horizontalScrollBar().value() + after.x() - about.x()))
        self.verticalScrollBar().setValue(round(self.verticalScrollBar().value() + after.y() - about.y()))

    def show_as(self, other: "Canvas") -> None:
        """Be as large as another canvas, and no longer fit the width."""
        self._fitted = False
        self._set_scale(other.look.scale)

    def _set_scale(self, scale: float) -> None:
        before, self.look.scale = self.look.scale, min(max(scale, SCALES[0]), SCALES[1])
        self._range()
        if self.look.scale != before:
            self.viewport().update()
        self.moved.emit()

    def _range(self) -> None:
        assert self.picture is not None
        chart, area, scale = self.picture.diagram, self.viewport().rect(), self.look.scale
        self.horizontalScrollBar().setRange(0, max(0, round(chart.width * scale - area.width())))
        self.horizontalScrollBar().setPageStep(area.width())
        self.verticalScrollBar().setRange(0, max(0, round(chart.height * scale - area.height())))
        self.verticalScrollBar().setPageStep(area.height())

    def _scrolled(self) -> None:
        self.viewport().update()
        self.moved.emit()

    def resizeEvent(self, event: QResizeEvent) -> None:
        """Keep the fit."""
        super().resizeEvent(event)
        if self.picture is not None:
            if self._fitted:
                self.fit()
            else:
                self._range()
                self.moved.emit()
