"""Dividers between two parts of a page: a thin line with a name."""

from PySide6.QtWidgets import QSplitter

LINE_PX = 1
"""As it is drawn; Qt lets the mouse take hold of two pixels more on either side."""


def name_divider(splitter: QSplitter, name: str) -> None:
    """Give the divider of a splitter of two parts its width and its accessible name."""
    splitter.setHandleWidth(LINE_PX)
    splitter.handle(1).setAccessibleName(name)
