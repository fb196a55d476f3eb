"""Hours of equipment from a file that a person chooses."""

from __future__ import annotations

from functools import partial
from pathlib import Path
from typing import TYPE_CHECKING

from PySide6.QtWidgets import QFileDialog

from jaunty_copper.language import say
from jaunty_copper.plan.edits import Edit
from jaunty_copper.plan.profiles import ProfileError, with_profiles
from jaunty_copper.plan.storage import MOST_TEXT, read_text

if TYPE_CHECKING:
    from jaunty_copper.desktop.pages.needs.days import DaysView


def take_hours(view: DaysView) -> None:
    """Let equipment run in the hours that a CSV file gives; says what is wrong with it."""
    name, _ = QFileDialog.getOpenFileName(
        view, say("Hours from a CSV file"), str(Path.home()), say("CSV (*.csv);;All files (*)")
    )
    if not name:
        return
    path = Path(name)
    try:
        text = read_text(path, MOST_TEXT)
        with_profiles(view.plan, text, path.name)
    except (ProfileError, OSError, UnicodeDecodeError) as error:
        view.refused.emit(say("Not read: {error}", error=error))
        return
    view.wanted.emit(Edit(say("Hours from {path}", path=path.name), partial(with_profiles, text=text, file=path.name)))
