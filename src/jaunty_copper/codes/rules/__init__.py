"""The rules, one module a subject; every rule is one small function beside its siblings."""

from jaunty_copper.codes.checks import Rule
from jaunty_copper.codes.rules import (
    bank,
    bars,
    bonding,
    charging,
    conductors,
    connection,
    cross_overs,
    drop,
    faults,
    hydrogen,
    ignition,
    inrush,
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

METHODS = {
    connection: "operating-point", unprotected: "guarding", protection: "guarding", faults: "faults", survival: "devices",
    selectivity: "devices", switching: "isolation", inrush: "replay", bars: "busbars", ignition: "isolation", isolation: "isolation",
    bonding: "bonding", cross_overs: "sharing", units: "sharing", bank: "sharing", charging: "chargers", hydrogen: "hydrogen", conductors: "ampacity",
    ratings: "devices", small_parts: "isolation", drop: "resistance", terminals: "ampacity",
}  # fmt: skip
"""By the module of a rule, the page in docs/methods that says how it is computed."""


def method_of(rule: Rule) -> str:
    """The page in docs/methods that says how a rule's figures are computed; the overview for one of no module here.

    Parameters
    ----------
    rule : Rule
        Any.
    """
    return next((page for module, page in METHODS.items() if rule in module.RULES), "README")


RULES: tuple[Rule, ...] = (
    *connection.RULES,
    *unprotected.RULES,
    *protection.RULES,
    *faults.RULES,
    *survival.RULES,
    *selectivity.RULES,
    *switching.RULES,
    *inrush.RULES,
    *bars.RULES,
    *ignition.RULES,
    *isolation.RULES,
    *bonding.RULES,
    *cross_overs.RULES,
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
