"""Pages on methods and codes in the window: complete, linked, searchable, and nothing else is read."""

import posixpath
import re
from pathlib import Path

from PySide6.QtCore import QUrl
from PySide6.QtGui import QTextDocument

from jaunty_copper.codes.code import code_names
from jaunty_copper.codes.rules import METHODS, RULES, method_of
from jaunty_copper.desktop.shell.help_pages import TOUR, HelpDialog, help_pages

DOCS = Path(__file__).parents[2] / "docs"
NAMES = [page.name for page in help_pages()]


def test_every_method_and_every_code_is_a_page():
    assert set(NAMES) == {TOUR, *(f"{d}/{p.name}" for d in ("methods", "codes") for p in (DOCS / d).glob("*.md"))}
    assert {f"codes/{name}.md" for name in code_names()} <= set(NAMES)
    assert len(set(NAMES)) == len(NAMES)
    assert all(page.title for page in help_pages())


def test_every_rule_leads_to_its_method():
    assert all(f"methods/{method_of(rule)}.md" in NAMES for rule in RULES)
    assert sum(len(module.RULES) for module in METHODS) == len(RULES)


def test_links_between_pages_lead_to_pages():
    followed = 0
    for page in help_pages()[1:]:
        for link in re.findall(r"\]\(([^)#:]+\.md)\)", page.text):
            name = posixpath.normpath(posixpath.join(posixpath.dirname(page.name), link))
            followed += name in NAMES
            assert name in NAMES or (DOCS / name).exists(), f"{page.name}: {link}"
    assert followed > 30


def test_search_finds_pages_and_marks_the_words(qtbot):
    dialog = HelpDialog()
    qtbot.addWidget(dialog)
    assert dialog.list.count() == len(NAMES)
    dialog.search.setText("Churchill")
    found = [dialog.list.item(k).text() for k in range(dialog.list.count())]
    assert "Conductor temperature" in found
    assert len(found) < len(NAMES) / 2
    dialog.go("methods/temperature.md")
    marks = dialog.reader.extraSelections()
    assert marks
    assert all(m.cursor.selectedText().lower() == "churchill" for m in marks)
    dialog.search.setText("no page has thesewords")
    assert dialog.page is None
    assert "No page" in dialog.reader.toPlainText()
    dialog.go("codes/iec_60364.md")
    assert dialog.search.text() == ""
    assert dialog.page.name == "codes/iec_60364.md"


def test_a_link_shows_its_page_and_one_to_elsewhere_shows_nothing_else(qtbot):
    dialog = HelpDialog()
    qtbot.addWidget(dialog)
    dialog.go("methods/altering.md")
    dialog.reader.anchorClicked.emit(QUrl("guarding.md"))
    assert dialog.page.name == "methods/guarding.md"
    for elsewhere in ("https://nowhere.invalid/x.md", "file:///etc/passwd", "../../../pyproject.toml"):
        dialog.reader.anchorClicked.emit(QUrl(elsewhere))
        assert dialog.page.name == "methods/guarding.md"
    kind = QTextDocument.ResourceType.ImageResource.value
    assert dialog.reader.loadResource(kind, QUrl("file:///etc/hostname")) is None


def test_the_tour_is_the_readme_s_without_its_pictures():
    text = help_pages()[0].text
    assert "![" not in text
    assert "**Read the map.**" in text
    assert "## " not in text.removeprefix("# ")
