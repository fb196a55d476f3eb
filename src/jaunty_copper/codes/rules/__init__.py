"""The rules, one module a subject; every rule is one small function beside its siblings."""

from jaunty_copper.codes.checks import Rule
from jaunty_copper.codes.rules import (
    bank,
    bars,
    bonding,
    charging,
    conductors,
    connection,
    drop,
    faults,
    hydrogen,
    ignition,
    isolation,
    protection,
    ratings,
    selectivity,
    small_parts,
    survival,
    switching,
    terminals,
    units,
    unprotected,
)

RULES: tuple[Rule, ...] = (
    *connection.RULES,
    *unprotected.RULES,
    *protection.RULES,
    *faults.RULES,
    *survival.RULES,
    *selectivity.RULES,
    *switching.RULES,
    *bars.RULES,
    *ignition.RULES,
    *isolation.RULES,
    *bonding.RULES,
    *units.RULES,
    *bank.RULES,
    *charging.RULES,
    *hydrogen.RULES,
    *conductors.RULES,
    *ratings.RULES,
    *small_parts.RULES,
    *drop.RULES,
    *terminals.RULES,
)
"""All rules, in the order in which their findings are shown within one severity."""
