"""A field's value as the text of a cell, and back."""

import re
from collections.abc import Sequence
from typing import Any

from jaunty_copper.desktop.inspector.fields import Field
from jaunty_copper.desktop.widgets.quantity import NotUnderstood, read, written
from jaunty_copper.documents.words import FEET
from jaunty_copper.language import say
from jaunty_copper.plan.clock import NotOnTheClock, hours_read, hours_text

Pairs = Sequence[tuple[Any, str]]
YES, NO = {"yes", "y", "x", "true", "1", "on"}, {"", "no", "n", "false", "0", "off", "-"}
NONE = {"", "-", "–", say("not given"), "none"}


def unit_of(field: Field, feet: bool) -> str:
    """The unit that a field is shown in."""
    return "ft" if field.unit == "m" and feet else field.unit


def factor_of(field: Field, feet: bool) -> float:
    """From a field's value to the figure that is shown."""
    return FEET if field.unit == "m" and feet else field.factor


def shown(field: Field, value: Any, choices: Pairs, feet: bool) -> str:
    """A value as the text of a cell; what is not given is empty."""
    match field.kind:
        case "choice":
            return next((word for v, word in choices if v == value), "" if value is None else str(value))
        case "flag":
            return "yes" if value else ""
        case "pairs":
            return ";".join(":".join("" if x is None else written(x) for x in part) for part in value or ())
        case "hours":
            return hours_text(tuple(value or ()))
        case "number" | "blank" | "count":
            return "" if value is None else written(value * factor_of(field, feet))
        case _:
            return "" if value is None else str(value)


def typed(field: Field, text: str, choices: Pairs, feet: bool) -> Any:
    """What was typed or pasted into a cell, as the field's value.

    Raises
    ------
    NotUnderstood
        It is none; the text says why.
    """
    text = text.strip()
    match field.kind:
        case "text" | "long":
            return text
        case "words":
            return text or None
        case "choice":
            return _chosen(text, choices)
        case "flag":
            if text.lower() in YES:
                return True
            if text.lower() in NO:
                return False
            raise NotUnderstood(say("“{text}” is neither yes nor no", text=text))
        case "pairs":
            return _pairs(text)
        case "hours":
            try:
                return hours_read(text)
            except NotOnTheClock as error:
                raise NotUnderstood(str(error)) from None
    if field.kind == "blank" and text.lower() in NONE:
        return None
    value = read(text, unit_of(field, feet))
    if field.kind == "count":
        if value != int(value):
            raise NotUnderstood(say("{text} is no whole number", text=text))
        return int(value)
    return value / factor_of(field, feet)


def _pairs(text: str) -> tuple[tuple[float | None, ...], ...]:
    try:
        return tuple(
            tuple(float(x) if x.strip() else None for x in part.split(":")) for part in text.split(";") if part.strip()
        )
    except ValueError:
        raise NotUnderstood(say("“{text}” is not figures such as 14:10;32:5", text=text)) from None


def _plain(word: object) -> str:
    """Letters and figures only: how a size is spaced or whether its unit is written says nothing."""
    return re.sub(r"[^\w/.°+-]", "", str(word).lower().replace(",", ".").replace("²", "2"))


def _chosen(text: str, choices: Pairs) -> Any:
    """The one of several values that a text means: as it is written, by its id, or by how it begins."""
    wanted = _plain(text)
    if not wanted and any(v is None for v, _ in choices):
        return None
    names = [(v, _plain(word), _plain(v)) for v, word in choices]
    for fits in (
        lambda name, _: wanted == name,
        lambda _, id_: wanted == id_,
        lambda name, _: wanted == re.split(r"(?<=\d)(?=[a-z])", name)[0],
        lambda name, _: wanted and name.startswith(wanted),
        lambda name, _: wanted and wanted in name,
    ):
        found = {v: name for v, name, id_ in names if fits(name, id_)}
        if len(found) == 1:
            return next(iter(found))
        if found:
            first = [word for v, word in choices if v in found][:4]
            raise NotUnderstood(
                say(
                    "“{text}” can be {first}{words}",
                    text=text,
                    first=", ".join(first),
                    words=say(" and others") if len(found) > 4 else "",
                )
            )
    raise NotUnderstood(say("“{text}” is none of what can be chosen here", text=text))
