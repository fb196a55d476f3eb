"""What the program says to people: every text passes through one call, where a translator reaches it.

Only English ships. A compiled catalogue ``<language>/LC_MESSAGES/jaunty-copper.mo`` below ``locale`` in this folder, or
below ``~/.local/share/locale``, is used when the desktop's language asks for it. ``./run words`` writes the texts to
translate.
"""

import gettext
import os
import struct
from pathlib import Path

DOMAIN = "jaunty-copper"


def _folders() -> tuple[Path, ...]:
    own = os.environ.get("XDG_DATA_HOME") or Path.home() / ".local" / "share"
    return Path(own) / "locale", Path(__file__).parent / "locale"


def _catalogue() -> gettext.NullTranslations:
    for folder in _folders():
        try:
            return gettext.translation(DOMAIN, folder)
        except (OSError, ValueError, struct.error):
            continue
    return gettext.NullTranslations()


_CATALOGUE = _catalogue()


def say(text: str, /, **figures: object) -> str:
    """A text in the language of the desktop, with figures and names put in.

    Parameters
    ----------
    text : str
        In English; ``{name}`` stands for a figure, as in `str.format`. Written where it is called, never computed.
    **figures : object
        What stands for the names: of any unit, as the text says.

    Returns
    -------
    str
        The text; in English where a translation does not fit its figures.

    Examples
    --------
    >>> say("{run} carries {amps:.0f} A", run="W1", amps=119.7)
    'W1 carries 120 A'
    """
    said = _CATALOGUE.gettext(text)
    return _filled(said, text, figures) if figures else said


def say_many(one: str, several: str, count: int, /, **figures: object) -> str:
    """A text about so many things, in the form that the language has for that number.

    Parameters
    ----------
    one, several : str
        In English, for 1 and for any other number; ``{count}`` stands for it.
    count : int
        How many.
    **figures : object
        What else stands for names in it.

    Returns
    -------
    str
        The text.

    Examples
    --------
    >>> say_many("{count} unit", "{count} units", 1), say_many("{count} unit", "{count} units", 4)
    ('1 unit', '4 units')
    """
    english = one if count == 1 else several
    return _filled(_CATALOGUE.ngettext(one, several, count), english, {"count": count, **figures})


def _filled(said: str, english: str, figures: dict[str, object]) -> str:
    try:
        return said.format(**figures)
    except (LookupError, ValueError, AttributeError):
        return english.format(**figures)
