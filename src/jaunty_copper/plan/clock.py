"""Hours of a day as people write them: "6-8, 17:30-22 50 %"; or 24 shares, one an hour."""

import re
from decimal import Decimal

from jaunty_copper.language import say

HOURS = 24
TIME = r"(\d{1,2})(?::(\d{2}))?"
SPAN = re.compile(rf"^{TIME}\s*(?:-|–|to)\s*{TIME}(?:\s+(\d+(?:[.,]\d+)?)\s*%?)?$", re.IGNORECASE)
BETWEEN = re.compile(r"[;\s]+|,\s+")
LEAST = 1e-6


class NotOnTheClock(ValueError):
    """What is typed is no span of hours; the text says why."""


def hours_read(text: str) -> tuple[float, ...]:
    """Share of each hour from midnight on; none for an empty text.

    Parameters
    ----------
    text : str
        Spans such as 18-23 or 17:30-22, also past midnight, each with a share in % where it is not the whole;
        commas between them. Or 24 shares between 0 and 1.

    Raises
    ------
    NotOnTheClock
        It is neither.

    Examples
    --------
    >>> hours_read("5:30-7, 22-1 50 %")[:8]
    (0.5, 0.0, 0.0, 0.0, 0.0, 0.5, 1.0, 0.0)
    """
    text = text.strip()
    if not text:
        return ()
    words = [w for w in BETWEEN.split(text) if w]
    if len(words) == HOURS and not any("-" in w or ":" in w for w in words):
        return tuple(_share(word) for word in words)
    found = [0.0] * HOURS
    for part in re.split(r"\s*[,;]\s+|\s*[,;](?=\d{1,2}[:\-–])", text):
        for k, share in enumerate(_span(part.strip())):
            found[k] += share
    if max(found) > 1.0 + LEAST:
        raise NotOnTheClock(say("two spans of {text} overlap", text=text))
    return tuple(min(x, 1.0) for x in found)


def _share(word: str) -> float:
    try:
        share = float(word.replace(",", "."))
    except ValueError:
        share = -1.0
    if not 0.0 <= share <= 1.0:
        raise NotOnTheClock(say("{word} is no share of an hour between 0 and 1", word=word))
    return share


def _span(part: str) -> list[float]:
    match = SPAN.match(part)
    if match is None:
        raise NotOnTheClock(say("{part} is no span of hours: write 18-23, or 6-8 50 %, 17:30-22", part=part))
    begin, end = (int(match[k]) + int(match[k + 1] or 0) / 60.0 for k in (1, 3))
    share = float((match[5] or "100").replace(",", ".")) / 100.0
    if begin >= HOURS or end > HOURS or int(match[2] or 0) > 59 or int(match[4] or 0) > 59:
        raise NotOnTheClock(say("{part}: a day goes from 0 to 24", part=part))
    if not 0.0 <= share <= 1.0:
        raise NotOnTheClock(say("{part}: a share goes from 0 to 100 %", part=part))
    spans = [(begin, end)] if begin < end else [(begin, float(HOURS)), (0.0, end)]
    return [sum(max(0.0, min(b, k + 1.0) - max(a, k)) for a, b in spans) * share for k in range(HOURS)]


def hours_text(shares: tuple[float, ...]) -> str:
    """Hours as `hours_read` understands them: spans of one share each.

    Parameters
    ----------
    shares : tuple of float
        24 of them, or none.
    """
    spans: list[tuple[float, float, float]] = []
    for k, share in enumerate(shares):
        begin, end, level = spans[-1] if spans else (0.0, 0.0, 0.0)
        even = abs(60.0 * share - round(60.0 * share)) < LEAST and abs(60.0 * level - round(60.0 * level)) < LEAST
        if share and share == level and end == k:
            spans[-1] = begin, k + 1.0, level
        elif even and share and level == 1.0 and end == k and share < 1.0:
            # The rest of an hour after whole ones is its first minutes.
            spans[-1] = begin, k + share, level
        elif even and share == 1.0 and level < 1.0 and begin == k - 1.0 and end == k:
            # The only hour before whole ones is its last minutes.
            spans[-1] = k - level, k + 1.0, 1.0
        elif share:
            spans.append((float(k), k + 1.0, share))
    if len(spans) > 1 and spans[0][0] == 0.0 and spans[-1][1] == HOURS and spans[0][2] == spans[-1][2]:
        # What goes on past midnight is one span.
        spans = [*spans[1:-1], (spans[-1][0], spans[0][1], spans[0][2])]
    return ", ".join(
        f"{_time(begin)}-{_time(end)}" + ("" if share == 1.0 else f" {Decimal(f'{100.0 * share:.6g}'):f} %")
        for begin, end, share in spans
    )


def _time(hour: float) -> str:
    whole, minutes = divmod(round(60.0 * hour), 60)
    return f"{whole}:{minutes:02d}" if minutes else f"{whole}"


class SunNotRead(ValueError):
    """What is typed are no days of sun; the text says why."""


MOST_DAYS = 30


def sun_read(text: str) -> tuple[float, ...]:
    """Days of sun as shares, from figures in %; none for an empty text.

    Parameters
    ----------
    text : str
        One figure a day.

    Raises
    ------
    SunNotRead
        One of them is no share, or there are too many.

    Examples
    --------
    >>> sun_read("100 30, 30 %")
    (1.0, 0.3, 0.3)
    """
    words = [w for w in re.split(r"[;\s%]+|,\s*", text) if w]
    if len(words) > MOST_DAYS:
        raise SunNotRead(say("{count} days are more than {most}", count=len(words), most=MOST_DAYS))
    found = []
    for word in words:
        if not re.fullmatch(r"\d+(\.\d+)?", word) or float(word) > 100.0:
            raise SunNotRead(say("{word} is no share between 0 and 100 %", word=word))
        found.append(float(word) / 100.0)
    return tuple(found)


def sun_text(sun: tuple[float, ...]) -> str:
    """Days of sun as `sun_read` understands them.

    Parameters
    ----------
    sun : tuple of float
        Of each day.
    """
    return " ".join(f"{100.0 * x:g}" for x in sun)


def clock(hour: float, day: bool = False) -> str:
    """An hour since the first midnight as a clock shows it; perhaps with its day.

    Parameters
    ----------
    hour : float
        From 0.
    day : bool
        Whether to say which day it is.
    """
    minutes = round(60.0 * hour)
    text = f"{minutes // 60 % HOURS}:{minutes % 60:02d}"
    return say("day {day}, {text}", day=minutes // (60 * HOURS) + 1, text=text) if day else text
