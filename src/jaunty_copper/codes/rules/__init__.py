"""The rules, one module a subject; every rule is one small function beside its siblings."""

from jaunty_copper.codes.checks import Rule
from jaunty_copper.codes.rules import (
    bank,
    bonding,
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
    *ignition.RULES,
    *isolation.RULES,
    *bonding.RULES,
    *units.RULES,
    *bank.RULES,
    *hydrogen.RULES,
    *conductors.RULES,
    *ratings.RULES,
    *drop.RULES,
    *terminals.RULES,
)
"""All rules, in the order in which their findings are shown within one severity."""
