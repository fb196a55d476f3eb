"""Ampacity of a run under a practice, and what governs it."""

from bisect import bisect_right
from dataclasses import dataclass
from math import inf, sqrt

from jaunty_copper.codes.code import AmpacityTable
from jaunty_copper.language import say

ENGINE_SPACE = say("engine space")


@dataclass(frozen=True)
class Ampacity:
    """What a run may carry for long.

    Attributes
    ----------
    amps : float
        The lowest of the three below.
    governs : str
        Which one, in words.
    source : str
        Where that one comes from.
    by_table, by_terminals, by_heat : float
        By the insulation with ambient and bundling; by what its terminals allow; by the heat
        balance. inf where one does not apply.
    before_a : float
        By the cooler of insulation and terminals, before ambient and company lower it; inf below the table.
    """

    amps: float
    governs: str
    source: str
    by_table: float
    by_terminals: float
    by_heat: float
    before_a: float = inf

    def times(self, n: int) -> "Ampacity":
        """Of so many conductors in parallel.

        Parameters
        ----------
        n : int
            How many.
        """
        amps, *others = (x * n for x in (self.amps, self.by_table, self.by_terminals, self.by_heat, self.before_a))
        return Ampacity(amps, self.governs, self.source, *others)


def insulation_column(table: AmpacityTable, class_c: float) -> int | None:
    """Index of the hottest column that a temperature rating reaches; None below all.

    Parameters
    ----------
    class_c : float
        Temperature rating of the insulation or terminal, °C.
    """
    at = bisect_right(table.classes_c, class_c) - 1
    return at if at >= 0 else None


def row(table: AmpacityTable, area_mm2: float) -> int | None:
    """Index of the largest row that a conductor is not thinner than; None below all.

    Parameters
    ----------
    area_mm2 : float
        Section of the conductor, mm².
    """
    at = bisect_right(table.areas_mm2, area_mm2 * 1.001) - 1
    return at if at >= 0 else None


def air_factor(table: AmpacityTable, class_c: int, ambient_c: float, engine_space: bool) -> tuple[float, str]:
    """How much warm air lowers a column, and what to call it.

    Outside engine spaces air above the table's temperature lowers by the square root of the
    rise that is left (the rule of NFPA 70 310.15(B)). In an engine space the code's factor
    holds up to the temperature that it stands for, and the same rule goes on from there.
    Cooler air gives no credit.

    Parameters
    ----------
    class_c : int
        Temperature rating of the column, °C.
    ambient_c : float
        Temperature of the air, °C.
    engine_space : bool
        Whether the conductor is in one.
    """
    factor, base_c = 1.0, table.ambient_c
    if engine_space:
        factor, base_c = table.engine_space_factors.get(class_c, 0.0), table.engine_space_c
    warmer = ambient_c > base_c
    if warmer:
        factor *= sqrt(max(class_c - ambient_c, 0.0) / (class_c - base_c)) if class_c > base_c else 0.0
    return factor, ENGINE_SPACE if engine_space else say("ambient") if warmer else ""


def bundle_factor(table: AmpacityTable, count: int) -> float:
    """How much company lowers ampacity.

    Parameters
    ----------
    count : int
        Conductors that carry current side by side.
    """
    return min((f for n, f in table.bundle_factors if count >= n), default=1.0)


def ampacity(
    table: AmpacityTable,
    area_mm2: float,
    insulation_c: float,
    terminal_c: float,
    ambient_c: float,
    engine_space: bool,
    bundle: int,
    by_heat: float,
) -> Ampacity:
    """Ampacity of one conductor.

    Parameters
    ----------
    table : AmpacityTable
        The practice's table.
    area_mm2, insulation_c : float
        Section and temperature rating of the conductor.
    terminal_c : float
        Lowest temperature rating of what it lands on.
    ambient_c, engine_space, bundle
        Where it lies, and with how many.
    by_heat : float
        Current that brings it to the lower of the two temperatures by the heat balance, A.

    Notes
    -----
    Terminals limit by the column of their own rating, without the bundling factor: the ends
    lie apart even where the conductors do not.
    """
    at = row(table, area_mm2)
    by_table = by_terminals = before = inf
    words = "insulation"
    source = table.source
    if at is not None:
        col = insulation_column(table, insulation_c)
        factor, word = (
            air_factor(table, table.classes_c[col], ambient_c, engine_space) if col is not None else (0.0, "")
        )
        company = bundle_factor(table, bundle)
        by_table = table.amps[at][col] * factor * company if col is not None else 0.0
        if col is None:
            words = say("an insulation that is not in this table")
        elif company < 1.0:
            words, source = say("bundling") + (say(" and {word}", word=word) if word else ""), table.bundle_source
        elif word:
            words, source = word, table.engine_space_source if word == ENGINE_SPACE else table.source
        cooler = insulation_column(table, min(insulation_c, terminal_c))
        before = table.amps[at][cooler] if cooler is not None else 0.0
        if terminal_c < insulation_c:
            col = insulation_column(table, terminal_c)
            by_terminals = (
                table.amps[at][col] * air_factor(table, table.classes_c[col], ambient_c, engine_space)[0]
                if col is not None
                else 0.0
            )
    choices = (
        (by_table, words, source),
        (by_terminals, "terminals", table.source),
        (by_heat, say("heat balance"), say("IEC 60028 resistance, Churchill and Chu 1975 convection")),
    )
    amps, governs, governing_source = min(choices, key=lambda c: c[0])
    return Ampacity(amps, governs, governing_source, by_table, by_terminals, by_heat, before)
