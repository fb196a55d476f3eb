"""Bring a document of an older format version to today's, one version at a time."""

from collections.abc import Callable, Mapping
from typing import Any

from jaunty_copper.language import say
from jaunty_copper.plan.model import VERSION

MIGRATIONS: Mapping[int, Callable[[dict[str, Any]], dict[str, Any]]] = {}
"""For each old version the function that makes the next one of it.

A change of the format adds its entry here, and raises `VERSION`.
"""


class UnknownVersion(ValueError):
    """The document's version is none that this program reads."""


def migrate(
    document: dict[str, Any],
    steps: Mapping[int, Callable[[dict[str, Any]], dict[str, Any]]] = MIGRATIONS,
    to: int = VERSION,
) -> dict[str, Any]:
    """Apply migrations until a document has the wanted version.

    Parameters
    ----------
    document : dict
        As read from JSON.
    steps : mapping
        What leads on from each version.
    to : int
        The wanted version.

    Raises
    ------
    UnknownVersion
        The document is newer than this program, or has no usable version.
    """
    version = document.get("version", 1)
    if not isinstance(version, int) or isinstance(version, bool) or version < 1:
        raise UnknownVersion(say("version: {version!r} is no format version", version=version))
    if version > to:
        raise UnknownVersion(
            say(
                "version: written by a newer program (format {version}); this one reads up to {to}",
                version=version,
                to=to,
            )
        )
    while version < to:
        document = {**steps[version](document), "version": version + 1}
        version += 1
    return document
