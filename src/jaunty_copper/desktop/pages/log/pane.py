"""What all parts of the Log page share."""

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QVBoxLayout

from jaunty_copper.desktop.widgets.label import Label
from jaunty_copper.desktop.widgets.part import ViewPart
from jaunty_copper.documents.map.picture import Picture
from jaunty_copper.language import say


class Pane(ViewPart):
    """One part of the page; computes when it is looked at."""

    headline_changed = Signal(str)
    """Its headline changed."""

    def __init__(self) -> None:
        super().__init__()
        self.picture: Picture | None = None
        self.headline = ""

    def show_headline(self, headline: str) -> None:
        """Say something at the head of the page."""
        self.headline = headline
        self.headline_changed.emit(headline)

    def show_picture(self, picture: Picture, _: str | None) -> None:
        """Show another plan."""
        self.picture = picture
        if self.isVisible():
            self.refresh()

    def refresh(self) -> None:
        """Bring what is shown up to date."""

    def select(self, _: str | None) -> None:
        """Go to what there is of something."""

    def close_worker(self) -> None:
        """End threads."""

    def title_of(self, id_: str) -> str:
        """What people call a thing."""
        owner, _, part = id_.partition(":")
        picture = self.picture
        if picture is None:
            return id_
        if owner in picture.plan.run_by_id and picture.case is not None:
            title = picture.case.run_title(picture.plan.run_by_id[owner])
        else:
            thing = picture.plan.by_id.get(owner)
            title = f"{thing.title} ({owner})" if thing is not None and thing.title != owner else owner
        return f"{title}, {PARTS[part]}" if part else title


PARTS = {"a": say("joint at its first end"), "b": say("joint at its second end"), "copper": say("its copper")}


def wrapped_line(column: QVBoxLayout, text: str, name: str) -> Label:
    """A line of words that wraps."""
    label = Label(text)
    label.setObjectName(name)
    label.setWordWrap(True)
    column.addWidget(label)
    return label
