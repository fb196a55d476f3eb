"""What Enter does in a dialog: a button made the default before it has a dialog is none, and Cancel is taken instead."""

import pytest
from PySide6.QtWidgets import QPushButton

from jaunty_copper.desktop.shell.adding import AddDialog
from jaunty_copper.desktop.shell.beginning import BeginningDialog
from jaunty_copper.desktop.shell.drafting import Drafting
from jaunty_copper.desktop.shell.least import LeastSizes
from jaunty_copper.desktop.shell.own_device import OwnDevice
from jaunty_copper.desktop.shell.protecting import Protecting
from jaunty_copper.desktop.shell.reporting import ReportDialog
from jaunty_copper.desktop.shell.settings import Settings
from jaunty_copper.documents.palette import LIGHT
from jaunty_copper.documents.words import Units
from jaunty_copper.parts.catalogue import library
from jaunty_copper.plan.examples import example

PLAN = example("seed_shed")


@pytest.mark.parametrize(
    ("make", "word"),
    [
        (lambda: AddDialog(PLAN, None, Units()), "Add it"),
        (lambda: BeginningDialog(), "Draw it"),
        (lambda: BeginningDialog(plan=PLAN), "Draw it"),
        (lambda: Drafting(PLAN), "Draft"),
        (lambda: LeastSizes(PLAN, (), PLAN.scenarios[0].id, LIGHT), "Choose sizes"),
        (lambda: OwnDevice(library()), "Add to this plan"),
        (lambda: Protecting(PLAN), "Make these changes"),
        (lambda: ReportDialog(Settings()), "Write…"),
    ],
)
def test_enter_does_what_the_dialog_is_for(qtbot, make, word):
    dialog = make()
    qtbot.addWidget(dialog)
    dialog.show()
    qtbot.waitExposed(dialog)
    assert [b.text() for b in dialog.findChildren(QPushButton) if b.isDefault()] == [word]
    dialog.close()


@pytest.mark.parametrize("make", [lambda: BeginningDialog(), lambda: AddDialog(PLAN, None, Units())])
def test_the_keyboard_comes_to_the_fields_before_the_buttons(qtbot, make):
    dialog = make()
    qtbot.addWidget(dialog)
    dialog.show()
    qtbot.waitExposed(dialog)
    assert not isinstance(dialog.focusWidget(), QPushButton)
    dialog.close()
