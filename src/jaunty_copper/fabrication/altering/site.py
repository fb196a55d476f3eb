"""What is joined with what at a moment of the work, and which ends are live then."""

from collections.abc import Iterable, Iterator
from typing import Literal, NamedTuple

from jaunty_copper.physics import graph
from jaunty_copper.plan.model import Bar, Chassis, Contactor, Converter, Equipment, Inline, Plan, Run, Source

Verb = Literal["off", "on", "fill", "level", "open", "close", "lift", "cap", "land", "remove", "fit"]
Side = Literal["a", "b"]
SIDES: tuple[Side, Side] = ("a", "b")


class Act(NamedTuple):
    """One thing that hands do.

    Attributes
    ----------
    verb : str
        What is done. A fuse that is taken out or put in is opened or closed.
    id : str
        To which equipment, item or run.
    side : str
        Which end of a run, where it is lifted, capped or landed.
    """

    verb: Verb
    id: str
    side: Side | Literal[""] = ""


class Worksite:
    """A plan's things and runs as they are joined at one moment; acts change it.

    Parameters
    ----------
    now, then : Plan
        As it is, and as it shall be; a thing in both has one id.
    hot : iterable of str
        Terminals of batteries, chargers and converters on poles that are not bonded, in either plan.
    """

    def __init__(self, now: Plan, then: Plan, hot: Iterable[str]) -> None:
        self.now, self.then = now, then
        self.things = {x.id: x for x in now.placed}
        self.runs = {r.id: r for r in now.runs}
        self.landed: set[tuple[str, str]] = {(r.id, side) for r in now.runs for side in SIDES}
        self.capped: set[tuple[str, str]] = set()
        # A contactor that is drawn open closes when something asks for it: it isolates nothing.
        self.opened = {x.id for x in now.items if not getattr(x, "closed", True) and not isinstance(x, Contactor)}
        self.off: set[str] = set()
        self._hot = frozenset(hot)

    def do(self, act: Act) -> None:
        """Change what is joined.

        Parameters
        ----------
        act : Act
            What is done; a thing that is fitted is as the later plan has it, with its switch open and its fuse out.
        """
        end = (act.id, act.side)
        match act.verb:
            case "off":
                self.off.add(act.id)
            case "on":
                self.off.discard(act.id)
            case "open":
                self.opened.add(act.id)
            case "close":
                self.opened.discard(act.id)
            case "lift":
                self.landed.discard(end)
            case "cap":
                self.capped.add(end)
            case "land":
                self.capped.discard(end)
                self.landed.add(end)
            case "remove":
                self.things.pop(act.id, None)
                self.runs.pop(act.id, None)
                self.capped -= {(act.id, side) for side in SIDES}
            case "fit":
                self._fit(act.id)

    def _fit(self, id_: str) -> None:
        if id_ in self.then.run_by_id:
            self.runs[id_] = self.then.run_by_id[id_]
            return
        thing = self.then.by_id[id_]
        self.things[id_] = thing
        if isinstance(thing, Equipment):
            self.off.add(id_)
        elif isinstance(thing, Inline):
            self.opened.add(id_)

    def ref(self, run: str, side: Side) -> str:
        """Terminal at which an end of a run belongs."""
        r: Run = self.runs[run]
        return r.a if side == "a" else r.b

    def node(self, run: str, side: Side) -> str:
        """Where an end of a run is: at its terminal, or loose."""
        return self.ref(run, side) if (run, side) in self.landed else f"{run}@{side}"

    def loose(self) -> list[tuple[str, Side]]:
        """Ends of runs that are on no terminal."""
        return [(id_, side) for id_ in self.runs for side in SIDES if (id_, side) not in self.landed]

    def parts(self) -> dict[str, int]:
        """For each terminal and loose end, which of what hangs together it belongs to."""
        edges = list(self._edges())
        refs = [x.ref(t) for x in self.things.values() for t in x.terminal_names]
        names = {name: k for k, name in enumerate(dict.fromkeys([*refs, *(n for edge in edges for n in edge)]))}
        label = graph.components(len(names), (names[a] for a, _ in edges), (names[b] for _, b in edges))
        return {name: label[k] for name, k in names.items()}

    def _edges(self) -> Iterator[tuple[str, str]]:
        for x in self.things.values():
            match x:
                case Bar() | Chassis():
                    first = x.ref(x.terminal_names[0])
                    yield from ((first, x.ref(t)) for t in x.terminal_names[1:])
                case Inline() if x.id not in self.opened:
                    yield x.ref("a"), x.ref("b")
        for id_ in self.runs:
            yield self.node(id_, "a"), self.node(id_, "b")

    def feeding(self) -> Iterator[str]:
        """Terminals that are hot by what stands there: of batteries, and of sources that are on."""
        for ref in self._hot:
            owner = ref.partition(".")[0]
            thing = self.things.get(owner)
            if thing is not None and not (isinstance(thing, Source | Converter) and owner in self.off):
                yield ref

    def live(self, parts: dict[str, int] | None = None) -> frozenset[str]:
        """Terminals and loose ends at which a pole of a source can be touched that is not bonded.

        Parameters
        ----------
        parts : dict of str to int, optional
            As `parts` gives them, where they are known.
        """
        parts = self.parts() if parts is None else parts
        hot = {parts[ref] for ref in self.feeding() if ref in parts}
        return frozenset(name for name, own in parts.items() if own in hot)

    def bare(self) -> list[tuple[str, Side]]:
        """Loose ends that are live with nothing over them."""
        live = self.live()
        return [end for end in self.loose() if end not in self.capped and f"{end[0]}@{end[1]}" in live]
