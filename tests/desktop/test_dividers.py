"""Dividers that have the keyboard: keys that mean nothing to them, dialogs beside them, places that are gone."""

from PySide6.QtCore import QEvent, Qt
from PySide6.QtGui import QKeyEvent
from PySide6.QtWidgets import QApplication, QDialog, QLineEdit, QSplitter, QVBoxLayout, QWidget

from jaunty_copper.desktop.widgets.dividers import hold_next, name_divider


def split(parent, name):
    made = QSplitter(Qt.Orientation.Horizontal, parent)
    made.addWidget(QLineEdit())
    made.addWidget(QLineEdit())
    name_divider(made, name)
    return made


def shown(qapp, widget):
    widget.resize(400, 300)
    widget.show()
    widget.activateWindow()
    qapp.processEvents()


def press(handle, key):
    QApplication.sendEvent(handle, QKeyEvent(QEvent.Type.KeyPress, key, Qt.KeyboardModifier.NoModifier))


def test_keys_of_other_scripts_do_nothing(qapp):
    window = split(None, "one")
    shown(qapp, window)
    hold_next(window)
    sizes = window.sizes()
    # A small Cyrillic zhe has no name among Qt's keys.
    press(window.handle(1), 0x0436)
    assert window.sizes() == sizes
    press(window.handle(1), Qt.Key.Key_Left)
    assert window.sizes()[0] == sizes[0] - 16
    window.close()


def test_a_dialog_s_dividers_are_its_own(qapp):
    window = QWidget()
    QVBoxLayout(window).addWidget(mine := split(window, "mine"))
    shown(qapp, window)
    dialog = QDialog(window)
    QVBoxLayout(dialog).addWidget(split(dialog, "its own"))
    shown(qapp, dialog)
    window.activateWindow()
    qapp.processEvents()
    for _ in range(3):
        hold_next(window)
        assert window.focusWidget() is mine.handle(1)
    window.close()


def test_the_keyboard_goes_to_the_first_part_where_it_was_elsewhere_before(qapp):
    window = split(None, "one")
    shown(qapp, window)
    window.widget(1).setFocus()
    hold_next(window)
    assert window.focusWidget() is window.handle(1)
    window.widget(1).hide()
    press(window.handle(1), Qt.Key.Key_Escape)
    assert window.focusWidget() is window.widget(0)
    window.close()
