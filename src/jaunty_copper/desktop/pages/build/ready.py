"""The part of the Build page that weighs cables bought ready-made against making them."""

from PySide6.QtWidgets import QHBoxLayout, QVBoxLayout

from jaunty_copper.desktop.pages.build.lengths import LengthsField
from jaunty_copper.desktop.pages.build.listed import columns_of
from jaunty_copper.desktop.pages.build.prices import take_price
from jaunty_copper.desktop.widgets.label import Label
from jaunty_copper.desktop.widgets.part import ViewPart
from jaunty_copper.desktop.widgets.table import Rows, table_view
from jaunty_copper.documents.dossier import Dossier
from jaunty_copper.documents.listings import READY_MADE, READY_PRICE, READY_PRICES, choice_words
from jaunty_copper.documents.words import Units
from jaunty_copper.fabrication.materials import Line
from jaunty_copper.language import say


class ReadyPane(ViewPart):
    """Each size ready-made and made oneself, what its tool saves, and the prices that decide."""

    def __init__(self) -> None:
        super().__init__()
        self.dossier: Dossier | None = None
        self.units = Units()
        self.words = Label()
        self.words.setWordWrap(True)
        self.rows = Rows(columns_of(READY_MADE, lambda: self.dossier, lambda: self.units))
        self.prices = Rows(columns_of(READY_PRICES, lambda: self.dossier, lambda: self.units), editable=READY_PRICE)
        self.prices.edited.connect(self._priced)
        self.lengths = LengthsField(say("Lengths sold ready-made"), "ready_m", needed=False)
        self.lengths.setPlaceholderText(say("made to length"))
        self.lengths.setToolTip(
            say("Lengths in which ready-made cables are sold, separated by spaces; none: made to length")
        )
        self.lengths.wanted.connect(self.wanted)
        self.lengths.refused.connect(self.refused)
        row = QHBoxLayout()
        row.addWidget(Label(say("Lengths sold ready-made, m")))
        row.addWidget(self.lengths, 1)
        caption = Label(
            say("* representative; type a price to replace it, 12.50 / 10 for ten of them; 0 for a tool that is there already")
        )  # fmt: skip
        caption.setObjectName("caption")
        caption.setWordWrap(True)
        column = QVBoxLayout(self)
        column.setContentsMargins(12, 0, 12, 8)
        column.addWidget(self.words)
        column.addLayout(row)
        column.addWidget(table_view(self.rows, READY_MADE.title), 2)
        column.addWidget(caption)
        column.addWidget(table_view(self.prices, READY_PRICES.title), 3)

    def show_dossier(self, d: Dossier) -> None:
        """Show another plan's cables."""
        self.dossier = d
        found = d.ready_made
        nothing = say("No cable of this plan has a lug at an end: nothing is crimped.")
        self.words.setText("\n".join(choice_words(tool) for tool in found.choices) or nothing)
        self.rows.show_rows(found.rows)
        self.prices.show_rows(found.price_lines)

    def _priced(self, line: Line, text: str) -> None:
        assert self.dossier is not None
        take_price(self, self.dossier.plan, line, text)
