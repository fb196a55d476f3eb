"""The pages on methods and codes and the tour, to read and search in the window: nothing is fetched."""

from __future__ import annotations

import posixpath
import re
from functools import cache
from importlib.resources import files
from pathlib import Path
from typing import Any, NamedTuple

from PySide6.QtCore import Qt, QUrl
from PySide6.QtGui import (
    QColor,
    QTextBlockFormat,
    QTextCharFormat,
    QTextCursor,
    QTextDocument,
    QTextFormat,
    QTextLength,
    QTextTable,
)
from PySide6.QtWidgets import (
    QDialog,
    QDialogButtonBox,
    QHBoxLayout,
    QLineEdit,
    QListWidget,
    QListWidgetItem,
    QSplitter,
    QTextBrowser,
    QTextEdit,
    QVBoxLayout,
    QWidget,
)

from jaunty_copper.desktop.widgets.asking import answers
from jaunty_copper.language import say

TOUR = "README.md"
SECTION = "A tour in ten minutes"
FOLDERS = ("methods", "codes")
MOST_MARKED = 500
MARGIN_PX, HEAD_PX, PARAGRAPH_PX, LINE_PERCENT = 24, 14, 8, 112


class HelpPage(NamedTuple):
    """One page.

    Attributes
    ----------
    name : str
        Its file, below the folder of all pages.
    title, text : str
        Its heading, and all of it as Markdown.
    """

    name: str
    title: str
    text: str

    def holds(self, words: list[str]) -> bool:
        """Whether every one of some words is in it."""
        lower = self.text.lower()
        return all(w in lower for w in words)


@cache
def help_pages() -> tuple[HelpPage, ...]:
    """The tour, then methods in the order of their overview, then what the codes ask for."""
    folder = Path(str(files("jaunty_copper.desktop"))) / "assets" / "help"
    found = [HelpPage(TOUR, say("A tour in ten minutes"), _tour((folder / TOUR).read_text(encoding="utf-8")))]
    for part in FOLDERS:
        texts = {p.name: p.read_text(encoding="utf-8") for p in sorted((folder / part).glob("*.md"))}
        overview = texts.get("README.md", "")
        order = ["README.md", *re.findall(r"\(([a-z0-9-]+\.md)\)", overview)]
        names = sorted(texts, key=lambda name: (order.index(name) if name in order else len(order), name))
        found += [HelpPage(f"{part}/{name}", _title(texts[name]), texts[name]) for name in names]
    return tuple(found)


def _title(text: str) -> str:
    return next((line[2:].strip() for line in text.splitlines() if line.startswith("# ")), "")


def _tour(text: str) -> str:
    """The tour alone, without its pictures."""
    _, _, after = text.partition(f"\n## {SECTION}\n")
    body, _, _ = after.partition("\n## ")
    return f"# {SECTION}\n" + re.sub(r"^!\[.*\]\(.*\)$", "", body, flags=re.M)


class Reader(QTextBrowser):
    """Shows pages of its own; whatever else a page names is not loaded."""

    def loadResource(self, type_: int, name: QUrl | str) -> object:  # noqa: ARG002 - Qt's own signature
        """Nothing: pages have no pictures here."""
        return None

    def show_text(self, text: str) -> None:
        """Show Markdown with room between its paragraphs, around it, and in its tables."""
        self.setMarkdown(text)
        document = self.document()
        document.setDocumentMargin(MARGIN_PX)
        cursor = QTextCursor(document)
        cursor.beginEditBlock()
        block = document.begin()
        while block.isValid():
            form, cell = block.blockFormat(), QTextCursor(block).currentTable() is not None
            form.setTopMargin(HEAD_PX if form.headingLevel() else 0)
            tight = cell or block.textList() is not None or form.hasProperty(QTextFormat.Property.BlockCodeFence.value)
            form.setBottomMargin(0 if tight else PARAGRAPH_PX)
            form.setLineHeight(LINE_PERCENT, QTextBlockFormat.LineHeightTypes.ProportionalHeight.value)
            cursor.setPosition(block.position())
            cursor.setBlockFormat(form)
            block = block.next()
        for frame in document.rootFrame().childFrames():
            if isinstance(frame, QTextTable):
                table = frame.format()
                table.setCellPadding(4)
                table.setCellSpacing(0)
                table.setBorderCollapse(True)
                table.setColumnWidthConstraints(_widths(frame))
                table.setBottomMargin(PARAGRAPH_PX)
                frame.setFormat(table)
        cursor.endEditBlock()
        cursor.movePosition(QTextCursor.MoveOperation.Start)
        self.setTextCursor(cursor)


def _widths(table: QTextTable) -> list[QTextLength]:
    """Columns as wide as their longest word asks, and their texts in the mean."""
    asked = []
    for c in range(table.columns()):
        cells = [table.cellAt(r, c) for r in range(table.rows())]
        texts = [QTextCursor(x.firstCursorPosition()).block().text() for x in cells]
        longest = max((len(w) for t in texts for w in t.split()), default=1)
        asked.append(max(1.3 * longest, sum(map(len, texts)) / len(texts)) + 2)
    return [QTextLength(QTextLength.Type.PercentageLength, 100.0 * a / sum(asked)) for a in asked]


class HelpDialog(QDialog):
    """Pages at the left, what holds the words that are searched for; one of them at the right."""

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setWindowTitle(say("Help"))
        self.resize(1000, 680)
        self.search = QLineEdit()
        self.search.setPlaceholderText(say("Search all pages"))
        self.search.setAccessibleName(say("Search all pages"))
        self.search.setClearButtonEnabled(True)
        self.search.textChanged.connect(self._searched)
        self.list = QListWidget()
        self.list.setAccessibleName(say("Pages"))
        self.list.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.list.currentItemChanged.connect(lambda *_: self._show())
        self.reader = Reader()
        self.reader.setAccessibleName(say("Page"))
        self.reader.setOpenLinks(False)
        self.reader.anchorClicked.connect(self._follow)
        side = QWidget()
        left = QVBoxLayout(side)
        left.setContentsMargins(0, 0, 0, 0)
        left.addWidget(self.search)
        left.addWidget(self.list, 1)
        split = QSplitter(Qt.Orientation.Horizontal)
        split.addWidget(side)
        split.addWidget(self.reader)
        split.setStretchFactor(1, 1)
        split.setSizes([270, 730])
        buttons = answers(QDialogButtonBox.StandardButton.Close)
        buttons.rejected.connect(self.reject)
        row = QHBoxLayout()
        row.addWidget(buttons)
        column = QVBoxLayout(self)
        column.addWidget(split, 1)
        column.addLayout(row)
        self._searched("")
        self.search.setFocus()

    @property
    def page(self) -> HelpPage | None:
        """What is shown."""
        item = self.list.currentItem()
        found: HelpPage | None = None if item is None else item.data(Qt.ItemDataRole.UserRole)
        return found

    def go(self, name: str) -> None:
        """Show a page; all of them are listed again where the search has left it out."""
        if not self._choose(name):
            self.search.clear()
            self._choose(name)

    def _choose(self, name: str) -> bool:
        for k in range(self.list.count()):
            if self.list.item(k).data(Qt.ItemDataRole.UserRole).name == name:
                self.list.setCurrentRow(k)
                return True
        return False

    @property
    def _words(self) -> list[str]:
        return self.search.text().lower().split()

    def _searched(self, _: str) -> None:
        before = self.page.name if self.page is not None else None
        blocked = self.list.blockSignals(True)
        self.list.clear()
        for page in help_pages():
            if page.holds(self._words):
                item = QListWidgetItem(page.title)
                item.setData(Qt.ItemDataRole.UserRole, page)
                self.list.addItem(item)
        self.list.blockSignals(blocked)
        if before is None or not self._choose(before):
            self.list.setCurrentRow(0)
        self._show()

    def _show(self) -> None:
        page = self.page
        if page is None:
            self.reader.show_text(say("No page holds these words."))
            return
        self.reader.show_text(page.text)
        self._mark()

    def _mark(self) -> None:
        """Show where the words are, and go to the first of them."""
        marks, ink = list[Any](), QTextCharFormat()
        ink.setBackground(QColor("#f2c14e"))
        ink.setForeground(QColor("#1c1f24"))
        for word in self._words:
            cursor = QTextCursor(self.reader.document())
            while len(marks) < MOST_MARKED:
                cursor = self.reader.document().find(word, cursor, QTextDocument.FindFlag(0))
                if cursor.isNull():
                    break
                mark: Any = QTextEdit.ExtraSelection()
                mark.cursor, mark.format = cursor, ink
                marks.append(mark)
        self.reader.setExtraSelections(marks)
        if marks:
            first = min((m.cursor for m in marks), key=lambda c: c.selectionStart())
            at = QTextCursor(first)
            at.setPosition(first.selectionStart())
            self.reader.setTextCursor(at)
            self.reader.ensureCursorVisible()

    def _follow(self, url: QUrl) -> None:
        """Go to the page that a link names; links to anywhere else lead nowhere."""
        page = self.page
        if page is not None and url.isRelative():
            name = posixpath.normpath(posixpath.join(posixpath.dirname(page.name), url.path()))
            if any(p.name == name for p in help_pages()):
                self.go(name)


def open_for(parent: QWidget, name: str | None = None) -> HelpDialog:
    """Show the pages, one of them first; the window stays in reach."""
    made = HelpDialog(parent)
    made.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
    if name is not None:
        made.go(name)
    made.show()
    return made
