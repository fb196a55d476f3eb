"""Words that a person wrote, made harmless for where they are shown: they may come from anybody's file."""

import re

CONTROL = re.compile("[\x00-\x1f\x7f-\x9f\u2028\u2029\u200e\u200f\u202a-\u202e\u2066-\u2069\ud800-\udfff\ufffe\uffff]")
"""What steers a terminal, a file format or the direction of writing; and what no encoding can hold."""
CONTROL_BUT_LINES = re.compile(CONTROL.pattern.replace("\x00-\x1f", "\x00-\x08\x0b-\x1f"))
INSTEAD = "\ufffd"


def one_line(text: str) -> str:
    r"""A name on one line, with nothing in it that steers what shows it.

    Examples
    --------
    >>> one_line("Pump\n.control"), one_line("\x1b[2J")
    ('Pump .control', '\ufffd[2J')
    """
    return (
        text
        if text.isprintable()
        else CONTROL.sub(INSTEAD, re.sub(r"[\t\n\r\v\f\x85\u2028\u2029]+", " ", text)).strip()
    )


def lines(text: str) -> str:
    """Words on several lines, with nothing else in them that steers what shows them."""
    return (
        text
        if text.isprintable()
        else CONTROL_BUT_LINES.sub(INSTEAD, re.sub("\r\n?|[\v\f\x85\u2028\u2029]", "\n", text))
    )
