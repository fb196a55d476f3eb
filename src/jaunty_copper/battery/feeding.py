"""What feeds what: the converter behind a load, the bank behind equipment, the bank that something charges."""

from jaunty_copper.network.wiring import Wiring
from jaunty_copper.plan.banks import Bank
from jaunty_copper.plan.model import Contactor, Converter, Equipment, Source


def feeding(wiring: Wiring) -> dict[str, Converter]:
    """The converter at whose output each load hangs, by the load's id; none for one on a bank."""
    banks = {wiring.own_rail_of(u.ref("plus")) for b in wiring.banks for u in b.units}
    outputs: dict[int, Converter] = {}
    for x in wiring.plan.equipment:
        if isinstance(x, Converter):
            outputs.setdefault(wiring.own_rail_of(x.ref("out_plus")), x)
    rails = {e.id: wiring.own_rail_of(e.port[0]) for e in (*wiring.loads, *outputs.values())}
    return {id_: outputs[rail] for id_, rail in rails.items() if rail not in banks and rail in outputs}


def bank_by_thing(wiring: Wiring, feeds: dict[str, Converter]) -> dict[str, Bank]:
    """The bank that each piece of equipment and each coil hangs on, be it through converters, by its id.

    Parameters
    ----------
    wiring : Wiring
        The system.
    feeds : dict
        From `feeding`.
    """
    rails = [
        (bank, {wiring.own_rail_of(u.ref(t)) for u in bank.units for t in u.terminal_names}) for bank in wiring.banks
    ]
    found: dict[str, Bank] = {}
    for x in wiring.plan.placed:
        if not isinstance(x, Equipment | Contactor):
            continue
        at, passed = x, set[str]()
        while isinstance(at, Equipment) and at.id in feeds and at.id not in passed:
            passed.add(at.id)
            at = feeds[at.id]
        own = {
            wiring.own_rail_of(ref)
            for ref in (at.port if isinstance(at, Equipment) else map(at.ref, at.terminal_names))
        }
        # Where one pole is shared, the bank is the one that has both.
        best = max(rails, key=lambda pair: len(own & pair[1]), default=None)
        if best is not None and own & best[1]:
            found[x.id] = best[0]
    return found


def charged_by(wiring: Wiring, e: Source | Converter) -> Bank | None:
    """The bank that a source or a converter charges; None where its output hangs on none.

    Parameters
    ----------
    wiring : Wiring
        The system.
    e : Source or Converter
        Of the plan.
    """
    rails = tuple(wiring.own_rail_of(ref) for ref in e.output)
    for bank in wiring.banks:
        if rails == tuple(wiring.own_rail_of(bank.takeoffs[side][0]) for side in ("plus", "minus")):
            return bank
    return None
