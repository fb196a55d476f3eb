"""Where lists and pictures scroll."""

from PySide6.QtWidgets import QAbstractScrollArea, QWidget


def own_viewport(area: QAbstractScrollArea) -> None:
    """Give an area that is there from the start a viewport of Python's making.

    To hand out one of Qt's, the binding first makes all kinds of widgets known, with all their enumerations.
    """
    area.setViewport(QWidget())
