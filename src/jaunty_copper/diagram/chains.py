"""Sites and chains: a plan as the map sees it.

A site is where conductors meet or end: a bar, a post, a chassis, a bank, a converter's
output, equipment, an inline item with several lugs on one terminal or none on the other. A chain is the run of
conductors and inline items between two sites.
"""

from collections.abc import Iterable, Iterator
from typing import Literal, NamedTuple

from jaunty_copper.physics import graph
from jaunty_copper.plan.banks import banks_of
from jaunty_copper.plan.model import (
    Bar,
    Battery,
    Chassis,
    Converter,
    Equipment,
    Inline,
    Named,
    Post,
    Run,
    split_ref,
)
from jaunty_copper.plan.topology import Topology

SiteKind = Literal["bank", "output", "bar", "post", "chassis", "joint", "equipment", "end"]
Side = Literal["plus", "minus"]


class Site(NamedTuple):
    """Where chains begin and end.

    Attributes
    ----------
    kind : str
        What it is.
    id : str
        Of the item; of a bank its first unit.
    """

    kind: SiteKind
    id: str

    @property
    def is_hub(self) -> bool:
        """Whether more may branch off from it."""
        return self.kind in ("bar", "post", "chassis", "joint")

    @property
    def has_width(self) -> bool:
        """Whether conductors end at its edge, half a bar from its middle."""
        return self.kind in ("bar", "post", "chassis")

    @property
    def is_root(self) -> bool:
        """Whether current comes from it."""
        return self.kind in ("bank", "output")


class Link(NamedTuple):
    """One run of a chain, and the inline item after it.

    Attributes
    ----------
    run : Run
        The conductor.
    first, second : str
        Its terminals in the chain's direction.
    item : str or None
        Id of the inline item that its second terminal belongs to, inside the chain.
    """

    run: Run
    first: str
    second: str
    item: str | None


class Chain(NamedTuple):
    """Conductors and items in a row between two sites."""

    start: Site
    end: Site
    links: tuple[Link, ...]
    side: Side

    @property
    def first(self) -> str:
        """Terminal at its start."""
        return self.links[0].first

    @property
    def last(self) -> str:
        """Terminal at its end."""
        return self.links[-1].second

    @property
    def items(self) -> tuple[str, ...]:
        """Ids of the inline items in it, in order."""
        return tuple(link.item for link in self.links if link.item is not None)

    def turned(self) -> "Chain":
        """The same chain from its other end."""
        items = [link.item for link in self.links[:-1]]
        links = [
            Link(link.run, link.second, link.first, item)
            for link, item in zip(reversed(self.links), [*reversed(items), None], strict=True)
        ]
        return Chain(self.end, self.start, tuple(links), self.side)


class Wires(NamedTuple):
    """All chains of a plan, with banks, the bars that are part of them, and what hangs loose."""

    chains: tuple[Chain, ...]
    banks: tuple[tuple[Battery, ...], ...]
    blocks: tuple[tuple[Battery | Bar, ...], ...]
    bank_links: tuple[Run, ...]
    loose: tuple[Named, ...]
    site_of: dict[str, Site]


def trace(wiring: Topology) -> Wires:
    """Find sites and chains.

    Parameters
    ----------
    wiring : Topology
        What the plan joins.
    """
    plan = wiring.plan
    blocks, links = _blocks(wiring)
    banks = tuple(tuple(x for x in block if isinstance(x, Battery)) for block in blocks)
    site_of: dict[str, Site] = {}
    for x in plan.placed:
        site_of |= dict(_sites(x, wiring))
    for bank, block in zip(banks, blocks, strict=True):
        for x in block:
            site_of |= {x.ref(t): Site("bank", bank[0].id) for t in x.terminal_names}

    link_ids = {r.id for r in links}
    done = set(link_ids)
    chains: list[Chain] = []
    sides = _sides(wiring)

    def walk(start: str, run: Run) -> Chain:
        first, way = start, list[Link]()
        while True:
            done.add(run.id)
            second = run.b if run.a == first else run.a
            if second in site_of:
                way.append(Link(run, first, second, None))
                side = sides[wiring.rail_of(start)]
                return Chain(site_of[start], site_of[second], tuple(way), side)
            item_id, end = split_ref(second)
            way.append(Link(run, first, second, item_id))
            first = f"{item_id}.{'b' if end == 'a' else 'a'}"
            (run,) = plan.runs_at[first]

    def walk_from(refs: Iterable[str]) -> None:
        for ref in refs:
            for run in plan.runs_at.get(ref, ()):
                if run.id not in done:
                    chains.append(walk(ref, run))

    walk_from(tuple(site_of))
    for run in plan.runs:
        if run.id not in done:
            # A ring of devices that leads nowhere else begins at one of them.
            item = plan.by_id[split_ref(run.a)[0]]
            own = {item.ref(t): Site("joint", item.id) for t in item.terminal_names}
            site_of |= own
            walk_from(own)
    drawn = {split_ref(ref)[0] for c in chains for link in c.links for ref in (link.first, link.second)}
    loose = tuple(
        x for x in plan.placed if x.id not in drawn and not isinstance(x, Battery) and not isinstance(x, Equipment)
    )
    held = {x.id for block in blocks for x in block}
    loose = tuple(x for x in loose if x.id not in held)
    return Wires(tuple(chains), banks, blocks, tuple(links), loose, site_of)


def _blocks(wiring: Topology) -> tuple[tuple[tuple[Battery | Bar, ...], ...], list[Run]]:
    """Units that links join, with bars that serve them alone, and those links and leads."""
    plan = wiring.plan
    inside = {id_ for bank in banks_of(wiring) for id_ in bank.inside}
    own: list[Battery | Bar] = [x for x in plan.items if isinstance(x, Battery)]
    for x in plan.items:
        if isinstance(x, Bar):
            runs = [r for t in x.terminal_names for r in plan.runs_at.get(x.ref(t), ())]
            leads = [r for r in runs if r.id in inside]
            straight = all(
                isinstance(plan.by_id[split_ref(ref)[0]], Bar | Battery) for r in leads for ref in (r.a, r.b)
            )
            ends = {split_ref(ref) for r in leads for ref in (r.a, r.b)}
            # A bar on both poles of one unit shorts it, and serves nobody.
            shorts = any((unit, "plus") in ends and (unit, "minus") in ends for unit, _ in ends)
            if len(leads) >= 2 and len(runs) - len(leads) <= 1 and straight and not shorts:
                own.append(x)
    number = {x.id: k for k, x in enumerate(own)}
    links = [r for r in plan.runs if all(split_ref(ref)[0] in number for ref in (r.a, r.b))]
    group = graph.components(
        len(own), (number[split_ref(r.a)[0]] for r in links), (number[split_ref(r.b)[0]] for r in links)
    )
    blocks = [tuple(x for x, label in zip(own, group, strict=True) if label == k) for k in sorted(set(group))]
    return tuple(b for b in blocks if any(isinstance(x, Battery) for x in b)), links


def _sites(x: Named, wiring: Topology) -> Iterator[tuple[str, Site]]:
    """Terminals of a thing that are sites."""
    match x:
        case Bar():
            yield from ((x.ref(t), Site("bar", x.id)) for t in x.terminal_names)
        case Post():
            yield x.ref("stud"), Site("post", x.id)
        case Chassis():
            yield from ((x.ref(t), Site("chassis", x.id)) for t in x.terminal_names)
        case Converter():
            yield from ((x.ref(t), Site("equipment", x.id)) for t in ("in_plus", "in_minus"))
            yield from ((x.ref(t), Site("output", x.id)) for t in ("out_plus", "out_minus"))
        case Equipment():
            yield from ((x.ref(t), Site("equipment", x.id)) for t in x.terminal_names)
        case Inline():
            counts = [len(wiring.plan.runs_at.get(x.ref(t), ())) for t in x.terminal_names]
            if max(counts) > 1 or min(counts) == 0 < max(counts):
                kind: SiteKind = "joint" if max(counts) > 1 else "end"
                yield from ((x.ref(t), Site(kind, x.id)) for t in x.terminal_names)


def _sides(wiring: Topology) -> dict[int, Side]:
    """On which side of the equipment each rail is drawn: plus left, minus right."""
    plan, sides, votes = wiring.plan, dict[int, Side](), dict[int, int]()
    plus, minus = set[int](), set[int]()
    for x in plan.placed:
        for t in x.terminal_names:
            rail = wiring.rail_of(x.ref(t))
            if isinstance(x, Battery):
                (plus if t == "plus" else minus).add(rail)
            elif isinstance(x, Converter):
                if t == "out_plus":
                    plus.add(rail)
                elif t in ("out_minus", "in_minus"):
                    minus.add(rail)
            if isinstance(x, Equipment):
                votes[rail] = votes.get(rail, 0) + (1 if t.endswith("plus") else -1)
    for rail in range(max(wiring.rail, default=-1) + 1):
        sides[rail] = (
            "plus" if rail in plus
            else "minus" if rail in minus
            else "plus" if votes.get(rail, 0) >= 0
            else "minus"
        )  # fmt: skip
    return sides
