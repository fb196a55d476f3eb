"""What the open switches of a scenario cut off from what feeds it."""

from collections.abc import Iterable, Mapping

from jaunty_copper.network.demand import opened
from jaunty_copper.network.wiring import Wiring
from jaunty_copper.physics import graph
from jaunty_copper.plan.model import Contactor, Converter, Equipment, Scenario


def cut_off(
    wiring: Wiring, scenario: Scenario, things: Iterable[Equipment | Contactor], feeds: Mapping[str, Converter]
) -> frozenset[str]:
    """Ids of equipment and coils that hang on a bank with every switch closed, and on none in a scenario.

    What nothing feeds yet is not cut off: it is still to be connected.

    Parameters
    ----------
    things : iterable of Equipment or Contactor
        What is asked about.
    feeds : mapping
        The converter at whose output a load hangs, by the load's id.
    """
    off = opened(wiring.plan, scenario)
    if not off:
        return frozenset()
    label = graph.components(
        len(wiring.refs),
        (b.a for b in wiring.branches if b.kind != "battery" and b.owner not in off),
        (b.b for b in wiring.branches if b.kind != "battery" and b.owner not in off),
    )
    # A switch within a string leaves both poles on units, and nothing that drives from one to the other.
    circuit = graph.components(
        len(wiring.refs),
        (b.a for b in wiring.branches if b.owner not in off),
        (b.b for b in wiring.branches if b.owner not in off),
    )
    banks = {label[wiring.node[u.ref(t)]] for b in wiring.banks for u in b.units for t in u.terminal_names}
    whole = {wiring.rail_of(u.ref(t)) for b in wiring.banks for u in b.units for t in u.terminal_names}

    def hangs(x: Equipment | Contactor, here: list[int], on: set[int]) -> bool:
        """Whether both poles of equipment, or either side of a contactor, hang on some rails."""
        refs = x.port if isinstance(x, Equipment) else tuple(map(x.ref, x.terminal_names))
        found = [here[wiring.node[ref]] in on for ref in refs]
        return all(found) if isinstance(x, Equipment) else any(found)

    def driven(x: Equipment | Contactor) -> bool:
        """Whether a bank still stands between the poles."""
        refs = x.port if isinstance(x, Equipment) else (x.ref("a"),)
        return len({circuit[wiring.node[ref]] for ref in refs}) == 1

    def is_cut(x: Equipment | Contactor, seen: frozenset[str] = frozenset()) -> bool:
        converter = feeds.get(x.id)
        if converter is None or x.id in seen:
            return hangs(x, wiring.rail, whole) and not (hangs(x, label, banks) and driven(x))
        out = (converter.ref("out_plus"), converter.ref("out_minus"))
        own, closed = ({here[wiring.node[ref]] for ref in out} for here in (label, wiring.rail))
        return is_cut(converter, seen | {x.id}) or (hangs(x, wiring.rail, closed) and not hangs(x, label, own))

    return frozenset(x.id for x in things if is_cut(x))
