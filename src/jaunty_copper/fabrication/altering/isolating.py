"""What must be open before hands may touch: the nearest cut between every battery and the places of the work."""

from collections.abc import Callable, Iterable
from math import inf
from typing import NamedTuple

from jaunty_copper.fabrication.altering.differing import INSERTS, Differing
from jaunty_copper.fabrication.altering.site import SIDES, Side
from jaunty_copper.network.wiring import Wiring
from jaunty_copper.physics import graph
from jaunty_copper.physics.blocks import Blocks
from jaunty_copper.physics.flow import Flows
from jaunty_copper.plan.model import (
    Battery,
    Breaker,
    Converter,
    Disconnect,
    Equipment,
    Fuse,
    PlugConnector,
    Source,
    split_ref,
)
from jaunty_copper.protection.guard import Guard

OPENED, LIFTED = 1.0, 6.0
"""What it costs to open something, and to take a lead off a post: so many switches are opened instead."""


class Isolation(NamedTuple):
    """What is opened before the work, and what stays live all the same.

    Attributes
    ----------
    opened : tuple of str
        Ids of switches, breakers, fuses in holders and plugs, the nearest to the work that do.
    lifted : tuple of (str, str)
        Ends of leads that come off a battery's post.
    at_posts : tuple of str
        Terminals of the work at which nothing can be isolated: posts, and what is bolted to them.
    off : tuple of str
        Ids of equipment that must draw and give nothing meanwhile.
    """

    opened: tuple[str, ...]
    lifted: tuple[tuple[str, Side], ...]
    at_posts: tuple[str, ...]
    off: tuple[str, ...]


def hot_terminals(wiring: Wiring) -> frozenset[str]:
    """Terminals of batteries, chargers and converters' outputs on poles that are not bonded.

    Parameters
    ----------
    wiring : Wiring
        Of a plan.
    """
    plan, live = wiring.plan, Guard(wiring).rails_at_hand
    refs = [x.ref(t) for x in plan.items if isinstance(x, Battery) for t in x.terminal_names]
    refs += [ref for e in plan.equipment if isinstance(e, Source | Converter) for ref in e.output]
    return frozenset(ref for ref in refs if wiring.rail_of(ref) in live)


def isolation(work: Differing, hot: frozenset[str]) -> Isolation:
    """What to open, lift and switch off in a plan as it is, before it is altered.

    Parameters
    ----------
    hot : frozenset of str
        As `hot_terminals` gives them for the plan as it is, by the ids of `work.now`.
    """
    return _Cutting(work, hot).found()


class _Cutting:
    def __init__(self, work: Differing, hot: frozenset[str]) -> None:
        self.work, self.plan = work, work.now
        w = work.before
        # The wiring is of the plan as it was given: the same terminals in the same order, some by another id.
        given = [x.ref(t) for x in w.plan.placed for t in x.terminal_names]
        mine = [x.ref(t) for x in self.plan.placed for t in x.terminal_names]
        self.node = {ref: w.node[was] for ref, was in zip(mine, given, strict=True)}
        self.posts = {self.node[ref] for ref in hot if isinstance(self.plan.by_id[split_ref(ref)[0]], Battery)}
        links = {
            r.id for r in w.plan.runs
            if all(isinstance(w.plan.by_id[split_ref(ref)[0]], Battery) for ref in (r.a, r.b))
        }  # fmt: skip
        self.links = links
        self.name, self.a, self.b, self.cost = [], list[int](), list[int](), list[float]()
        old = {was: id_ for id_, was in work.old_id.items()}
        for branch in w.branches:
            owner = old.get(branch.owner, branch.owner)
            thing = self.plan.by_id.get(owner)
            # What is drawn open may be closed by anybody meanwhile, and a contactor closes unattended: only what is opened for
            # the work and kept open counts.
            if branch.kind in ("battery", "inside"):
                continue
            self.name.append((branch.kind, owner))
            self.a.append(branch.a)
            self.b.append(branch.b)
            lead = branch.kind == "run" and branch.owner not in links and self.posts & {branch.a, branch.b}
            opens = branch.kind == "body" and self._opens(thing)
            self.cost.append(OPENED if opens else LIFTED if lead else inf)
        self.nodes = len(w.refs)

    def _opens(self, thing: object) -> bool:
        """Whether something isolates: it opens by hand and stays open, and no lug comes off for it."""
        if isinstance(thing, Fuse):
            return (
                thing.holder_a is not None or self.work.after.parts.device_families[thing.family].terminals in INSERTS
            )
        return isinstance(thing, Breaker | Disconnect | PlugConnector)

    def found(self) -> Isolation:
        part = self._parts(lambda k: self.cost[k] == inf)
        at_posts = {part[n] for n in self.posts}
        # A fuse that is changed in its holder is pulled itself: what feeds it need not be dead.
        sinks = {self.node[ref] for ref in self.work.touched} | self._orphaned()
        stuck = {n for n in sinks if part[n] in at_posts}
        if stuck:
            sinks |= {self.node[ref] for e in self.plan.equipment for ref in (*e.port, *e.output)}
        cut = self._cut({n for n in sinks if part[n] not in at_posts})
        opened = {self.name[k][1] for k in cut if self.name[k][0] == "body"} | self.work.inserts
        lifted = [self._end(k) for k in cut if self.name[k][0] == "run"]
        near = {part[n] for n in stuck} | {part[self.node[getattr(self.plan.run_by_id[r], side)]] for r, side in lifted}
        if near:
            lifted = [*self._grounded_leads({n for n in self.posts if part[n] in near}), *lifted]
        refs = {n: ref for ref, n in self.node.items()}
        off = self._dead(opened, {id_ for id_, _ in lifted}, sinks)
        order = [x.id for x in self.plan.placed if x.id in opened]
        return Isolation(tuple(order), tuple(lifted), tuple(sorted(refs[n] for n in stuck if n in refs)), off)

    def _parts(self, kept: Callable[[int], bool]) -> list[int]:
        ks = [k for k in range(len(self.cost)) if kept(k)]
        return graph.components(self.nodes, (self.a[k] for k in ks), (self.b[k] for k in ks))

    def _cut(self, sinks: Iterable[int]) -> tuple[int, ...]:
        goals = sorted(sinks)
        if not goals or not self.posts:
            return ()
        ends = [(n, self.nodes) for n in goals]
        a, b = [*self.a, *(n for n, _ in ends)], [*self.b, *(t for _, t in ends)]
        flows = Flows(
            Blocks(self.nodes + 1, a, b), [*self.cost, *(inf for _ in ends)], [(n, inf) for n in sorted(self.posts)]
        )
        return tuple(k for k in flows.into(self.nodes).cut if 0 <= k < len(self.cost))

    def _end(self, k: int) -> tuple[str, Side]:
        return self.name[k][1], "a" if self.a[k] in self.posts else "b"

    def _orphaned(self) -> set[int]:
        """Terminals of equipment that loses a bank by one of its poles in the work: it must be fed by nothing."""
        gone = {*self.work.removed, *self.work.runs_out, *(id_ for id_, _ in self.work.lifted)}
        losing = self._losing(self._parts(lambda k: self.name[k][1] not in gone))
        return {self.node[ref] for e in losing for ref in (*e.port, *e.output)}

    def _losing(self, part: list[int]) -> list[Equipment]:
        """Equipment that loses a bank, or all that supplies it, by one of its poles, with what hangs together as given."""
        w, before = self.work.before, self._parts(lambda _: True)
        banks = [{w.node[u.ref(t)] for u in bank.units for t in u.terminal_names} for bank in w.banks]
        outputs = {
            e.id: {self.node[ref] for ref in e.output} for e in self.plan.equipment if isinstance(e, Source | Converter)
        }

        def supplied(own: list[int], ends: tuple[str, str], supply: set[int]) -> bool:
            there = {own[n] for n in supply}
            return all(own[self.node[ref]] in there for ref in ends)

        def loses(e: Equipment, ends: tuple[str, str]) -> bool:
            if any(supplied(before, ends, bank) and not supplied(part, ends, bank) for bank in banks):
                return True
            others = [*banks, *(output for id_, output in outputs.items() if id_ != e.id)]
            had, has = ([s for s in others if supplied(own, ends, s)] for own in (before, part))
            return bool(had) and not has

        return [e for e in self.plan.equipment if any(loses(e, ends) for ends in (e.port, e.output))]

    def _grounded_leads(self, posts: set[int]) -> list[tuple[str, Side]]:
        """Leads at the bonded poles of the banks that some posts belong to: with them off a slip finds no return."""
        w = self.work.before
        mine = {was: id_ for id_, was in self.work.old_id.items()}
        units = [
            self.plan.by_id[mine[u.id]]
            for bank in w.banks if any(w.node[u.ref(t)] in posts for u in bank.units for t in u.terminal_names)
            for u in bank.units
        ]  # fmt: skip
        grounded = {self.node[u.ref(t)] for u in units for t in u.terminal_names} - self.posts
        return [
            (r.id, side) for r in self.plan.runs for side in SIDES
            if self.node[getattr(r, side)] in grounded and self.work.old_id[r.id] not in self.links
        ]  # fmt: skip

    def _dead(self, opened: set[str], lifted: set[str], sinks: set[int]) -> tuple[str, ...]:
        """Equipment that loses a bank by either pole, and what meets the places of the work."""
        part = self._parts(lambda k: self.name[k][1] not in opened and self.name[k][1] not in lifted)
        rail, live = self.work.before.rail, Guard(self.work.before).rails_at_hand
        places = {part[n] for n in sinks if rail[n] in live}
        losing = {e.id for e in self._losing(part)}
        return tuple(
            e.id for e in self.plan.equipment
            if e.id in losing or any(part[self.node[ref]] in places for ref in (*e.port, *e.output))
        )  # fmt: skip
