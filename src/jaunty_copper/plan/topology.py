"""What a plan joins to what: terminals, branches, rails. No resistances, no numbers.

Plain Python without NumPy: the map is laid out from this alone, so the window can show it
before the numerical libraries are loaded.
"""

from dataclasses import dataclass
from functools import cached_property
from typing import Literal

from jaunty_copper.physics import graph
from jaunty_copper.plan.model import Bar, Battery, Chassis, Converter, Equipment, Inline, Named, Plan, Run, split_ref

BranchKind = Literal["run", "body", "segment", "battery", "inside", "point"]


@dataclass(frozen=True)
class Branch:
    """A way for current between two terminals, and what it stands for.

    Attributes
    ----------
    kind : str
        A run, the body of an inline item, a bar's segment, a battery, a converter's common
        minus, or the way from a chassis point into the chassis.
    owner : str
        Id of the run or item.
    a, b : int
        Its ends; of a battery minus and plus.
    index : int
        Which segment or point, from 0.
    """

    kind: BranchKind
    owner: str
    a: int
    b: int
    index: int = 0


@dataclass(frozen=True, eq=False)
class Joints:
    """What a plan joins to what, numbered; plans that differ in lengths, sizes, ratings and loads alone share it.

    Attributes
    ----------
    things : tuple of Named
        All that has terminals; but for batteries only their kinds, terminals and switches are those of every plan.
    ends : tuple of (str, str, str)
        Of each run its id and its two terminals.
    refs : tuple of str
        Terminals by number, and one hidden node per chassis, written ``id.``.
    node : dict
        Number of each terminal.
    branches : tuple of Branch
        All branches: bodies and batteries first, then runs in their order, then what lies
        inside converters.
    """

    things: tuple[Named, ...]
    ends: tuple[tuple[str, str, str], ...]
    refs: tuple[str, ...]
    node: dict[str, int]
    branches: tuple[Branch, ...]

    def are_of(self, plan: Plan, ends: tuple[tuple[str, str, str], ...]) -> bool:
        """Whether another plan joins the same, by the ends of its runs."""
        if ends != self.ends:
            return False
        things = tuple(plan.placed)
        pairs = zip(self.things, things, strict=False)
        return len(things) == len(self.things) and all(x is y or _alike(x, y) for x, y in pairs)

    @cached_property
    def branch(self) -> dict[str, int]:
        """Branch of each run, inline item and battery, by id."""
        return {b.owner: k for k, b in enumerate(self.branches) if b.kind in ("run", "body", "battery")}

    @cached_property
    def segments(self) -> dict[str, list[int]]:
        """Branches of each bar's segments, by the bar's id, in the order of its studs."""
        found: dict[str, list[int]] = {}
        for k, b in enumerate(self.branches):
            if b.kind == "segment":
                found.setdefault(b.owner, []).append(k)
        return found

    @cached_property
    def rail(self) -> list[int]:
        """The rail of each node: what copper joins with every switch closed."""
        copper = [b for b in self.branches if b.kind != "battery"]
        return graph.components(len(self.refs), (b.a for b in copper), (b.b for b in copper))

    def rail_of(self, ref: str) -> int:
        """The rail of a terminal."""
        return self.rail[self.node[ref]]

    def own_rail_of(self, ref: str) -> int:
        """The rail of a terminal, cross-overs open that are drawn open."""
        return self.own_rail[self.node[ref]]

    @cached_property
    def drawn_open(self) -> frozenset[str]:
        """Ids of switches that are drawn open."""
        return frozenset(x.id for x in self.things if not getattr(x, "closed", True))

    @cached_property
    def own_rail(self) -> list[int]:
        """The rail of each node as `rails_apart` has it, with switches as they are drawn."""
        return self.rails_apart(self.drawn_open)

    def rails_apart(self, opened: frozenset[str]) -> list[int]:
        """The rail of each node with every switch closed but the cross-overs among those that are open."""
        crossings = self.crossings(opened)
        if not crossings:
            return self.rail
        copper = [b for b in self.branches if b.kind != "battery" and b.owner not in crossings]
        return graph.components(len(self.refs), (b.a for b in copper), (b.b for b in copper))

    def crossings(self, opened: frozenset[str]) -> frozenset[str]:
        """Those of some open switches that part two systems, each with units and with equipment or a bar of its own.

        Any other open switch only disconnects: what lies behind it still belongs to the system that it is
        connected to again when it closes. So those are closed in thought, the plainest first, a unit's own
        disconnect or the bank's main one before whatever has a unit on both sides; what then still stands
        between two systems that live without each other is a cross-over.
        """
        if opened not in self._crossings:
            self._crossings[opened] = self._crossings_of(opened)
        return self._crossings[opened]

    @cached_property
    def _crossings(self) -> dict[frozenset[str], frozenset[str]]:
        return {frozenset(): frozenset()}

    def _crossings_of(self, opened: frozenset[str]) -> frozenset[str]:
        copper = [b for b in self.branches if b.kind != "battery" and not (b.kind == "body" and b.owner in opened)]
        own = graph.components(len(self.refs), (b.a for b in copper), (b.b for b in copper))
        units, served = set[int](), set[int]()
        for x in self.things:
            if isinstance(x, Battery | Equipment | Bar):
                held = units if isinstance(x, Battery) else served
                held |= {own[self.node[x.ref(t)]] for t in x.terminal_names}
        pairs = {b.owner: {own[b.a], own[b.b]} for b in self.branches if b.kind == "body" and b.owner in opened}

        def parts(sides: set[int]) -> int:
            """How certainly a switch separates two systems: 0 where it only disconnects, 3 where both live without it."""
            fed = [side in units for side in sides]
            live = [side in units and side in served for side in sides]
            return 3 if all(live) else 2 if all(fed) else 0 if any(fed) and not any(live) else 1

        while pairs := {id_: sides for id_, sides in pairs.items() if len(sides) == 2}:
            plainest = min(pairs, key=lambda id_: parts(pairs[id_]))
            if parts(pairs[plainest]) == 3:
                break
            kept, gone = pairs.pop(plainest)
            for held in (units, served):
                if gone in held:
                    held.add(kept)
            pairs = {id_: {kept if side == gone else side for side in sides} for id_, sides in pairs.items()}
        return frozenset(pairs)


def _alike(x: Named, y: Named) -> bool:
    """Whether one thing takes another's place without anything being joined otherwise; a battery, whose voltage makes banks, never."""
    if isinstance(x, Battery) or type(x) is not type(y):
        return False
    return (x.id, x.terminal_names, *_ways(x)) == (y.id, y.terminal_names, *_ways(y))


def _ways(x: Named) -> tuple[bool, bool]:
    """Whether something is a closed way, and one between its two sides."""
    return getattr(x, "closed", True), getattr(x, "isolated", True)


@dataclass(frozen=True)
class Topology:
    """A plan, and what it joins.

    Attributes
    ----------
    plan : Plan
        The plan.
    joints : Joints
        Its terminals and branches, numbered; what they say is said here too.
    """

    plan: Plan
    joints: Joints

    @property
    def refs(self) -> tuple[str, ...]:
        """Terminals by number."""
        return self.joints.refs

    @property
    def node(self) -> dict[str, int]:
        """Number of each terminal."""
        return self.joints.node

    @property
    def branches(self) -> tuple[Branch, ...]:
        """All branches."""
        return self.joints.branches

    @property
    def branch(self) -> dict[str, int]:
        """Branch of each run, inline item and battery, by id."""
        return self.joints.branch

    @property
    def segments(self) -> dict[str, list[int]]:
        """Branches of each bar's segments, by the bar's id."""
        return self.joints.segments

    @property
    def rail(self) -> list[int]:
        """The rail of each node, every switch closed."""
        return self.joints.rail

    @property
    def own_rail(self) -> list[int]:
        """The rail of each node, cross-overs open that are drawn open."""
        return self.joints.own_rail

    @property
    def drawn_open(self) -> frozenset[str]:
        """Ids of switches that are drawn open."""
        return self.joints.drawn_open

    def rail_of(self, ref: str) -> int:
        """The rail of a terminal."""
        return self.joints.rail_of(ref)

    def own_rail_of(self, ref: str) -> int:
        """The rail of a terminal, cross-overs open that are drawn open."""
        return self.joints.own_rail_of(ref)

    def rails_apart(self, opened: frozenset[str]) -> list[int]:
        """As of the joints."""
        return self.joints.rails_apart(opened)

    def crossings(self, opened: frozenset[str]) -> frozenset[str]:
        """As of the joints."""
        return self.joints.crossings(opened)


_latest: tuple[Joints, ...] = ()
"""What was joined lately: most edits join nothing."""
KEPT = 4


def topology(plan: Plan) -> Topology:
    """Number a plan's terminals and branches.

    Parameters
    ----------
    plan : Plan
        A plan without `problems`.
    """
    global _latest
    ends = tuple((r.id, r.a, r.b) for r in plan.runs)
    joints = next((j for j in _latest if j.are_of(plan, ends)), None)
    if joints is None:
        joints = _joined(plan, ends)
        _latest = (joints, *_latest[: KEPT - 1])
    return Topology(plan, joints)


def _joined(plan: Plan, ends: tuple[tuple[str, str, str], ...]) -> Joints:
    refs = [x.ref(t) for x in plan.placed for t in x.terminal_names]
    refs += [f"{x.id}." for x in plan.items if isinstance(x, Chassis)]
    node = {ref: k for k, ref in enumerate(refs)}
    branches: list[Branch] = []

    def put(kind: BranchKind, owner: str, a: str, b: str, index: int = 0) -> None:
        branches.append(Branch(kind, owner, node[a], node[b], index))

    for item in plan.items:
        match item:
            case Battery():
                put("battery", item.id, item.ref("minus"), item.ref("plus"))
            case Bar():
                names = item.terminal_names
                for k in range(len(names) - 1):
                    put("segment", item.id, item.ref(names[k]), item.ref(names[k + 1]), k)
            case Chassis():
                for k, point in enumerate(item.points):
                    put("point", item.id, item.ref(point.id), f"{item.id}.", k)
            case Inline():
                put("body", item.id, item.ref("a"), item.ref("b"))
    for run in plan.runs:
        put("run", run.id, run.a, run.b)
    for e in plan.equipment:
        if isinstance(e, Converter) and not e.isolated:
            put("inside", e.id, e.ref("in_minus"), e.ref("out_minus"))
    return Joints(tuple(plan.placed), ends, tuple(refs), node, tuple(branches))


def chassis_of(plan: Plan, run: Run) -> frozenset[str]:
    """Chassis that a run ends on."""
    ends = (split_ref(ref)[0] for ref in (run.a, run.b))
    return frozenset(id_ for id_ in ends if isinstance(plan.by_id[id_], Chassis))


def is_return(plan: Plan, run: Run) -> bool:
    """Whether equipment returns through a chassis by a run."""
    ends = (split_ref(ref)[0] for ref in (run.a, run.b))
    return bool(chassis_of(plan, run)) and any(isinstance(plan.by_id[id_], Equipment) for id_ in ends)


def bonds_of(plan: Plan) -> list[Run]:
    """Runs that bond a pole to a chassis."""
    return [r for r in plan.runs if len(chassis_of(plan, r)) == 1 and not is_return(plan, r)]


def distributor_of(plan: Plan, device: str) -> Bar | None:
    """The distributor in one of whose positions a device stands: bolted to a bar that is made for fuses.

    Parameters
    ----------
    device : str
        Id of a fuse or breaker.
    """
    for ref in (f"{device}.a", f"{device}.b"):
        for run in plan.runs_at.get(ref, ()):
            bar = plan.by_id[split_ref(run.b if run.a == ref else run.a)[0]]
            if run.length_m == 0.0 and isinstance(bar, Bar) and bar.fuse_family is not None:
                return bar
    return None


def chain(plan: Plan, ref: str) -> list[Run]:
    """Runs from a terminal through fuses, switches and the like to the first hub, in that order.

    Ends where conductors meet, or nothing goes on.
    """
    runs: list[Run] = []
    while True:
        here = [r for r in plan.runs_at.get(ref, ()) if r not in runs]
        if len(here) != 1:
            return runs
        runs.append(here[0])
        far = here[0].b if here[0].a == ref else here[0].a
        item_id, end = split_ref(far)
        item = plan.by_id[item_id]
        if not isinstance(item, Inline):
            return runs
        ref = item.ref("b" if end == "a" else "a")
