"""The window's own bars: pages at its side; title, lenses, scenario, units and look above."""

from functools import partial

from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import QComboBox, QHBoxLayout, QPushButton, QToolButton, QVBoxLayout, QWidget

from jaunty_copper.desktop.pages import PAGES
from jaunty_copper.desktop.widgets.choice_group import ChoiceGroup
from jaunty_copper.desktop.widgets.label import TitleLabel
from jaunty_copper.documents.map.lens import LENSES
from jaunty_copper.language import say


class Rail(QWidget):
    """A button for each page."""

    chosen = Signal(str)

    def __init__(self) -> None:
        super().__init__()
        self.setObjectName("rail")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self.setFixedWidth(58)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 10, 0, 10)
        self.buttons: dict[str, QToolButton] = {}
        group = ChoiceGroup(self)
        for page, (title, hint, _) in PAGES.items():
            button = QToolButton()
            button.setText(title)
            button.setCheckable(True)
            button.setChecked(page == "map")
            button.setFixedWidth(58)
            button.setToolTip(hint)
            button.clicked.connect(partial(self.chosen.emit, page))
            group.take(button)
            column.addWidget(button)
            self.buttons[page] = button
        column.addStretch(1)

    @property
    def page(self) -> str:
        """The page that is shown."""
        return next(name for name, button in self.buttons.items() if button.isChecked())

    def show_chosen(self, page: str) -> None:
        """Show which page is shown."""
        self.buttons[page].setChecked(True)


class TopBar(QWidget):
    """What the plan is called, and how it is looked at."""

    lens_chosen = Signal(str)
    scenario_chosen = Signal(object)
    """Its id; None for the worst of all."""

    def __init__(self) -> None:
        super().__init__()
        self.setObjectName("bar")
        row = QHBoxLayout(self)
        row.setContentsMargins(16, 6, 14, 8)
        row.setSpacing(10)
        self.title = TitleLabel()
        self.title.setObjectName("title")
        self.title.setMinimumWidth(80)
        row.addWidget(self.title, 1)
        lenses = QHBoxLayout()
        lenses.setSpacing(0)
        self.lenses = ChoiceGroup(self)
        for k, lens in enumerate(LENSES):
            button = QPushButton(lens.title)
            button.setObjectName("lens")
            button.setCheckable(True)
            button.setChecked(k == 0)
            button.setToolTip(f"{lens.hint} ({k + 1})")
            button.clicked.connect(partial(self.lens_chosen.emit, lens.id))
            self.lenses.take(button, k)
            lenses.addWidget(button)
        row.addLayout(lenses)
        self.scenarios = QComboBox()
        self.scenarios.setAccessibleName(say("Scenario"))
        self.scenarios.setToolTip(
            say("What runs together. Worst case: each thing in the scenario that is hardest on it, surges left out")
        )
        self.scenarios.setMinimumWidth(170)
        self.scenarios.activated.connect(lambda k: self.scenario_chosen.emit(self.scenarios.itemData(k)))
        row.addWidget(self.scenarios)
        self.units = QPushButton()
        self.units.setToolTip(say("Metric or AWG, for the whole window"))
        row.addWidget(self.units)
        self.look = QPushButton()
        self.look.setToolTip(say("Light or dark"))
        row.addWidget(self.look)

    def show_lenses(self, on: bool) -> None:
        """Lenses are of the map only."""
        for button in self.lenses.buttons():
            button.setVisible(on)
