"""Invented example systems that ship with the program."""

from pathlib import Path

from jaunty_copper.plan.files import SUFFIX, parse
from jaunty_copper.plan.model import Plan

DEMO = "orchard_station"


def names() -> tuple[str, ...]:
    """Names of all examples."""
    folder = Path(__file__).parent
    return tuple(sorted(f.name.removesuffix(SUFFIX) for f in folder.iterdir() if f.name.endswith(SUFFIX)))


def example(name: str) -> Plan:
    """One example by its name."""
    file = f"{name}{SUFFIX}"
    return parse((Path(__file__).parent / file).read_bytes(), file)
