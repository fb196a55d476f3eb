"""Colours of a look: the window has a light and a dark one, paper its own."""

from typing import NamedTuple

from jaunty_copper.codes.checks import Verdict


class Palette(NamedTuple):
    """One look.

    Attributes
    ----------
    thin, full : str
        Copper of a conductor that carries nothing, and of one at its limit.
    """

    name: str
    paper: str
    sheet: str
    raised: str
    ink: str
    soft: str
    line: str
    accent: str
    on_accent: str
    thin: str
    full: str
    over: str
    steel: str
    stop: str
    mend: str
    note: str
    good: str

    def verdict(self, verdict: Verdict) -> str:
        """Colour of a verdict; its shape and word say the same."""
        return {Verdict.DANGER: self.stop, Verdict.DEFECT: self.mend, Verdict.ADVICE: self.note}[verdict]

    def copper(self, used: float) -> str:
        """Tone of a conductor, #rrggbb.

        Parameters
        ----------
        used : float
            Share of its limit that it uses.
        """
        share = min(max(used, 0.0), 1.0)
        ends = zip(_parts(self.thin), _parts(self.full), strict=True)
        return "#" + "".join(f"{round(a + (b - a) * share):02x}" for a, b in ends)


def _parts(color: str) -> tuple[int, int, int]:
    """Red, green and blue of a colour, each from 0 to 255."""
    return int(color[1:3], 16), int(color[3:5], 16), int(color[5:7], 16)


def faint(color: str, alpha: int) -> str:
    """A colour that what lies below shines through.

    Parameters
    ----------
    alpha : int
        From 0, nothing, to 255, all of it.
    """
    return f"{color}{alpha:02x}"


def is_light(color: str) -> bool:
    """Whether dark marks show on it."""
    parts = _parts(color)
    return max(parts) + min(parts) > 280


LIGHT = Palette(
    name="light", paper="#f4f2ee", sheet="#ffffff", raised="#ebe7e0", ink="#16191d", soft="#4f5862", line="#cfc9bf",
    accent="#a54f1a", on_accent="#ffffff", thin="#e0b48f", full="#7c2f06", over="#b3201a", steel="#3b444d",
    stop="#b3201a", mend="#965900", note="#2c5f8a", good="#1f6b45",
)  # fmt: skip
DARK = Palette(
    name="dark", paper="#14171a", sheet="#1d2125", raised="#2a3036", ink="#f1f2f3", soft="#b3bac2", line="#414952",
    accent="#e08a4c", on_accent="#14171a", thin="#6f4c33", full="#ff9a55", over="#ff6a5e", steel="#c3cad1",
    stop="#ff7a6e", mend="#f2b04a", note="#7fb8e6", good="#6fcf9b",
)  # fmt: skip
PALETTES = {p.name: p for p in (LIGHT, DARK)}
PRINT = LIGHT._replace(name="print", paper="#ffffff", raised="#f1efea")
"""On white paper."""
