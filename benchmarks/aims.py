"""What the program is to reach on two idle cores, beside what was measured before and what a run measures now."""

from typing import NamedTuple


class Aim(NamedTuple):
    """One figure to reach.

    Attributes
    ----------
    words : str
        What is measured.
    unit : str
        s, MB, or "floors": times the floor.
    aim, before : float
        To be reached; and what it was when the aim was set, nan where nobody had measured it.
    """

    words: str
    unit: str
    aim: float
    before: float = float("nan")


AIMS = {
    "start": Aim("start to a usable window, in empty windows", "floors", 1.6),
    "start judged": Aim("start to the demo judged, in empty windows", "floors", 2.2, 3.1),
    "window memory": Aim("memory of the window on the demo", "MB", 250.0),
    "demo figures": Aim("edit of the demo to figures on the map", "s", 0.030),
    "demo findings": Aim("edit of the demo to all findings", "s", 0.050, 0.120),
    "held": Aim("longest that an edit holds the window", "s", 0.016),
    "demo study": Aim("demo studied and judged by all rules", "s", 0.030, 0.105),
    "demo faults": Aim("demo, all faults, sequences and checks of devices", "s", 0.050),
    "2000 study": Aim("2,000 conductors studied and judged", "s", 0.8, 1.4),
    "2000 faults": Aim("2,000 conductors, all faults, sequences and checks", "s", 1.2),
    "2000 figures": Aim("edit of 2,000 conductors to figures on the map", "s", 0.300),
    "2000 diagnosis": Aim("memory of a diagnosis of 2,000 conductors", "MB", 400.0, 1400.0),
    "10000 study": Aim("10,000 conductors studied and judged", "s", 4.0, 12.5),
    "10000 memory": Aim("memory of 10,000 conductors studied and judged", "MB", 600.0, 2100.0),
}
"""On two idle cores; a machine that is slower shows by its floor."""

_measured: dict[str, tuple[float, float]] = {}


def reach(key: str, value: float, floor: float = float("nan")) -> None:
    """Note what was measured.

    Parameters
    ----------
    key : str
        Of an aim.
    value : float
        In its unit.
    floor : float
        What it is a ratio to, in the same unit; nan where it is none.
    """
    _measured[key] = value, floor


def _text(value: float, unit: str) -> str:
    if value != value:
        return "-"
    return f"{1e3 * value:.0f} ms" if unit == "s" else f"{value:.0f} MB" if unit == "MB" else f"{value:.2f}"


def table() -> list[str]:
    """A line for each aim that was measured: before, aim, now, now over aim, now over the floor."""
    lines = []
    for key, (value, floor) in _measured.items():
        aim = AIMS[key]
        over = f"{value / floor:8.1f}" if floor == floor else "       -"
        lines.append(
            f"aims   {aim.words:50} {_text(aim.before, aim.unit):>9} {_text(aim.aim, aim.unit):>9}"
            f" {_text(value, aim.unit):>9} {value / aim.aim:6.2f} {over}"
        )
    if lines:
        head = f"{'':57} {'before':>9} {'aim':>9} {'now':>9} {'of aim':>6} {'of floor':>8}"
        lines.insert(0, head.rstrip())
    return lines
