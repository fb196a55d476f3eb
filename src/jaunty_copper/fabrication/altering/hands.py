"""Hands on a site: each step is done while it is written down, so that what it makes live is known."""

from collections.abc import Iterable, Sequence
from typing import NamedTuple
from zlib import crc32

from jaunty_copper.fabrication.altering.differing import Differing
from jaunty_copper.fabrication.altering.isolating import hot_terminals
from jaunty_copper.fabrication.altering.site import Act, Side, Worksite
from jaunty_copper.language import say, say_many
from jaunty_copper.plan.model import Equipment, Inline, split_ref

MOST_NAMED = 8


class WorkStep(NamedTuple):
    """One step of an alteration.

    Attributes
    ----------
    part : str
        One of `PARTS`.
    text, caution : str
        What to do, and what may hurt there; empty where nothing more than usual.
    acts : tuple of Act
        What hands do by it, in this order.
    """

    part: str
    text: str
    caution: str = ""
    acts: tuple[Act, ...] = ()

    @property
    def id(self) -> str:
        """What a tick at it is kept by: as long as the same is to be done, it stays the same."""
        return f"alter-{self.part}-{crc32(repr((self.text, self.acts)).encode()):08x}"


class Hands:
    """What is done on a site, and how it is said.

    Parameters
    ----------
    work : Differing
        What is to be done.
    hot : frozenset of str
        Terminals of either plan at which a source holds a pole that is not bonded.
    """

    def __init__(self, work: Differing, hot: frozenset[str]) -> None:
        self.work = work
        self.hot = hot
        self.site = Worksite(work.now, work.then, hot)
        self._hot_rails = {work.after.rail_of(ref) for ref in hot_terminals(work.after)}

    def step(self, part: str, text: str, caution: str = "", acts: Iterable[Act] = ()) -> WorkStep:
        """Do something, and say it."""
        acts = tuple(acts)
        for act in acts:
            self.site.do(act)
        return WorkStep(part, text, caution, acts)

    def lift(self, part: str, id_: str, side: Side) -> WorkStep:
        """One end comes off; covered at once where it stays live."""
        ref = self.site.ref(id_, side)
        was_live = ref in self.site.live()
        text = say("Disconnect {run} from {ref}", run=id_, ref=self.place(ref))
        acts = [Act("lift", id_, side)]
        self.site.do(acts[0])
        if (id_, side) in self.site.bare():
            acts.append(Act("cap", id_, side))
            text = say("{text}, and cover its lug at once: it is live from its other end", text=text)
        caution = say("Live stud: cover it as soon as the lug is off") if was_live else ""
        return self.step(part, text, caution, acts)

    def live_first(self, id_: str, sides: Iterable[Side]) -> list[Side]:
        """Sides of a conductor, those at live terminals first: then the rest of it is dead."""
        live = self.site.live()
        return sorted(sides, key=lambda side: self.site.ref(id_, side) not in live)

    def land(self, part: str, id_: str, side: Side) -> WorkStep:
        """One end goes on; what becomes live by it is covered before."""
        ref = self.site.ref(id_, side)
        other: Side = "b" if side == "a" else "a"
        live = self.site.live()
        acts, text = [], say("Connect {run} to {ref}", run=id_, ref=self.place(ref))
        loose = (id_, other) not in self.site.landed
        if loose and ref in live and (id_, other) not in self.site.capped:
            acts.append(Act("cap", id_, other))
            text = say("{text}, its other lug covered before: it becomes live", text=text)
        others = self._covers(id_, side)
        if others:
            text = say(
                "{text}; cover the loose lugs of {others} before: they become live",
                text=text,
                others=", ".join(dict.fromkeys(run for run, _ in others)),
            )
        caution = say("Live stud: insulated tools, everything else covered") if ref in live else ""
        acts += [Act("cap", *end) for end in others]
        return self.step(part, text, caution, [*acts, Act("land", id_, side)])

    def _covers(self, id_: str, side: Side) -> list[tuple[str, Side]]:
        """Loose ends of other conductors that become live when this one is connected."""
        before = set(self.site.bare())
        had_cap = (id_, side) in self.site.capped
        self.site.do(Act("land", id_, side))
        new = [end for end in self.site.bare() if end not in before and end[0] != id_]
        self.site.landed.discard((id_, side))
        if had_cap:
            self.site.capped.add((id_, side))
        return new

    def edge_of_live(self) -> tuple[str, ...]:
        """Where what is live can be touched: at posts, and at what is live at one end only."""
        live = self.site.live()
        found = [ref for ref in self.site.feeding() if ref in live]
        for x in self.site.things.values():
            if isinstance(x, Inline):
                ends = [x.ref(t) for t in x.terminal_names if x.ref(t) in live]
                found += ends if len(ends) == 1 else []
        return tuple(dict.fromkeys(found))

    def named(self, refs: Sequence[str]) -> str:
        """Some terminals as people call them, the first of many."""
        names = [self.place(ref) for ref in refs[:MOST_NAMED]]
        more = len(refs) - len(names)
        return ", ".join(names) + (say_many(" and {count} more", " and {count} more", more) if more else "")

    def place(self, ref: str) -> str:
        """A terminal as people call it."""
        owner, terminal = split_ref(ref)
        thing = self.site.things.get(owner) or self.work.then.by_id.get(owner) or self.work.now.by_id[owner]
        return f"{thing.title} {terminal}"

    def grounded_first(self, ends: Iterable[tuple[str, Side]]) -> list[tuple[str, Side]]:
        """Ends in the order in which they are connected: the bonded pole first, equipment's own ends before bars'."""

        def key(end: tuple[str, Side]) -> tuple[bool, bool, str]:
            ref = self.site.ref(*end)
            return (
                self.work.after.rail_of(ref) in self._hot_rails,
                not isinstance(self.work.then.by_id[split_ref(ref)[0]], Equipment),
                end[0],
            )

        return sorted(ends, key=key)
