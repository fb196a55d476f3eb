"""The order of an alteration: make safe, take out, fit, reconnect, prove."""

from collections.abc import Iterable, Iterator
from typing import NamedTuple

from jaunty_copper.fabrication.altering.back import Reconnecting
from jaunty_copper.fabrication.altering.differing import SET, Differing, differing
from jaunty_copper.fabrication.altering.hands import Hands, WorkStep
from jaunty_copper.fabrication.altering.isolating import Isolation, hot_terminals, isolation
from jaunty_copper.fabrication.altering.site import SIDES, Act, Side
from jaunty_copper.language import say, say_many
from jaunty_copper.network.wiring import Wiring
from jaunty_copper.plan.model import (
    Battery,
    Breaker,
    Contactor,
    Converter,
    Disconnect,
    Equipment,
    Fuse,
    Named,
    PlugConnector,
    Run,
    Source,
    split_ref,
)

PARTS = {
    "safe": say("Make safe"), "out": say("Take out"), "fit": say("Fit"), "back": say("Reconnect"), "prove": say("Prove"),
}  # fmt: skip


class Alteration(NamedTuple):
    """The work between two plans.

    Attributes
    ----------
    work : Differing
        What is taken out, fitted, moved and set.
    isolation : Isolation
        What is opened for it.
    hot : frozenset of str
        Terminals of either plan at which a source holds a pole that is not bonded.
    steps : tuple of WorkStep
        In their order; none where hands have nothing to do.
    stays_live : tuple of str
        Terminals and ends that are live while things are taken out and fitted.
    """

    work: Differing
    isolation: Isolation
    hot: frozenset[str]
    steps: tuple[WorkStep, ...]
    stays_live: tuple[str, ...]


def alteration(before: Wiring, after: Wiring) -> Alteration:
    """In which order to alter a system, from a plan as it is to a plan as it shall be.

    Parameters
    ----------
    before, after : Wiring
        Of the two plans.
    """
    work = differing(before, after)
    given = hot_terminals(before)
    mine = {was: id_ for id_, was in work.old_id.items()}
    now = frozenset(f"{mine[owner]}.{end}" for owner, end in map(split_ref, given))
    hot = now | hot_terminals(after)
    if work.nothing:
        return Alteration(work, Isolation((), (), (), ()), hot, (), ())
    opened = isolation(work, now)
    order = _Order(work, opened, hot)
    steps = tuple(order.steps())
    return Alteration(work, opened, hot, steps, order.stays_live)


class _Order:
    """Writes the steps down while it does them on a site."""

    def __init__(self, work: Differing, isolation: Isolation, hot: frozenset[str]) -> None:
        self.work, self.isolation = work, isolation
        self.now, self.then = work.now, work.then
        self.hands = Hands(work, hot)
        self.stays_live: tuple[str, ...] = ()
        self.pending: list[tuple[str, Side]] = []

    def steps(self) -> Iterator[WorkStep]:
        """All of them, in their order."""
        yield from self._safe()
        yield from self._out()
        yield from self._fit()
        yield from Reconnecting(self.hands, self.isolation, self.pending).steps()
        yield from self._prove()

    # Make safe

    def _safe(self) -> Iterator[WorkStep]:
        yield self.hands.step(
            "safe", say("Rings and watch off, eye protection on, insulated tools and covers laid out"),
            say("A spanner across a bank melts, burns and blinds"),
        )  # fmt: skip
        away = [self.now.by_id[id_] for id_ in self.isolation.off]
        giving = [e for e in away if isinstance(e, Source | Converter)]
        for e in away:
            if e not in giving:
                yield self.hands.step("safe", say("Switch off {e}", e=e.title), acts=[Act("off", e.id)])
        for k, e in enumerate(giving):
            yield self.hands.step(
                "safe", say("Isolate {e}: it must not be able to give anything", e=e.title),
                "" if k else say("A source feeds the place of the work even with the bank disconnected"),
                [Act("off", e.id)],
            )  # fmt: skip
        opened = [self.now.by_id[id_] for id_ in self.isolation.opened]
        for x in sorted(opened, key=lambda x: isinstance(x, Fuse)):
            text = (
                say("Take {x} out of its holder", x=x.title) if isinstance(x, Fuse)
                else say("Unplug {x}", x=x.title) if isinstance(x, PlugConnector)
                else say("Open {x} and keep it from being closed", x=x.title) if getattr(x, "closed", True)
                else say("Make sure that {x} is open, and keep it from being closed", x=x.title)
            )  # fmt: skip
            yield self.hands.step("safe", text, acts=[Act("open", x.id)])
        if self.isolation.at_posts:
            where = self.hands.named(self.isolation.at_posts)
            yield self.hands.step(
                "safe", say("Nothing isolates {where}: keep covers over every post and stud that is not being worked on", where=where),
                say("Work at a live stud: it cannot be made dead, only kept apart from its other pole. If you are not used to that, have it done"),
            )  # fmt: skip
        for id_, side in self.isolation.lifted:
            yield self.hands.lift("safe", id_, side)
        self.stays_live = self.hands.edge_of_live()
        yield self.hands.step("safe", say("Wait until capacitors are empty"))
        yield self.hands.step(
            "safe",
            say(
                "Try the meter on something live; measure at every place of the work, between the poles and to the chassis: nothing; try the meter again"
            ),
        )
        if self.stays_live:
            live = self.hands.named(self.stays_live)
            yield self.hands.step("safe", say("Cover what is still live"), say("Live meanwhile: {live}", live=live))

    # Take out

    def _out(self) -> Iterator[WorkStep]:
        for id_ in self._hot_first(self.work.runs_out):
            loose = [side for side in SIDES if (id_, side) not in self.hands.site.landed]
            for side in self.hands.live_first(id_, [s for s in SIDES if s not in loose]):
                yield self.hands.lift("out", id_, side)
            yield self.hands.step(
                "out",
                say(
                    "Remove cable {run} ({what})", run=id_, what=self._cable(self.now.run_by_id[id_], self.work.before)
                ),
                acts=[Act("remove", id_)],
            )
        already = set(self.isolation.lifted)
        sides: dict[str, list[Side]] = {}
        for id_, side in self.work.lifted:
            if (id_, side) not in already:
                sides.setdefault(id_, []).append(side)
        for id_ in self._hot_first(sides):
            for side in self.hands.live_first(id_, sides[id_]):
                yield self.hands.lift("out", id_, side)
        for id_ in self.work.removed:
            thing = self.now.by_id[id_]
            live = self._touchable(thing)
            yield self.hands.step(
                "out", say("Take out {x}", x=thing.title),
                say("It is live even when disconnected: cover both its posts before it is moved") if isinstance(thing, Battery)
                else say("It is live at {where}: a device is swapped at a live stud", where=live) if live else "",
                [Act("remove", id_)],
            )  # fmt: skip

    def _touchable(self, thing: Named) -> str:
        live = self.hands.site.live()
        return self.hands.named([ref for t in thing.terminal_names if (ref := thing.ref(t)) in live])

    def _cable(self, run: Run, w: Wiring) -> str:
        return say("{size}, {length:g} m", size=w.parts.conductors[run.conductor].label, length=run.length_m)

    def _hot_first(self, ids: Iterable[str]) -> list[str]:
        """Conductors that can be taken out: those of the poles that are not bonded first."""
        w = self.work.before
        rails = {w.rail_of(ref) for ref in hot_terminals(w)}
        old = self.work.old_id
        return sorted(ids, key=lambda id_: w.rail_of(w.plan.run_by_id[old[id_]].a) not in rails)

    # Fit

    def _fit(self) -> Iterator[WorkStep]:
        for id_ in self.work.fitted:
            thing = self.then.by_id[id_]
            left = (
                say(", its fuse left out") if isinstance(thing, Fuse)
                else say(", open") if isinstance(thing, Breaker | Disconnect | Contactor)
                else say(", off") if isinstance(thing, Equipment) else ""
            )  # fmt: skip
            caution = (
                say("It is live even when disconnected: covers on both its posts") if isinstance(thing, Battery) else ""
            )
            yield self.hands.step("fit", say("Fit {x}{left}", x=thing.title, left=left), caution, [Act("fit", id_)])
        self.pending = list(self._to_land())
        if self.work.runs_in:
            yield self.hands.step(
                "fit", say_many("Make the new cable with its lugs, sleeves and labels", "Make the {count} new cables with their lugs, sleeves and labels", len(self.work.runs_in)),
            )  # fmt: skip
        for id_ in dict.fromkeys(id_ for id_, _ in self.pending):
            acts = [Act("fit", id_)] if self._anew(id_) else []
            if id_ in self.work.runs_in:
                yield self.hands.step(
                    "fit",
                    say("Lay {run} ({what})", run=id_, what=self._cable(self.then.run_by_id[id_], self.work.after)),
                    acts=acts,
                )
            else:
                for act in acts:
                    self.hands.site.do(act)
                if acts:
                    yield WorkStep("fit", say("Lay {run} to its new place", run=id_), "", tuple(acts))
        live = self.hands.site.live()
        dead = [end for end in self.pending if not {self.hands.site.ref(*end), self.hands.site.node(*end)} & live]
        for id_, side in self.hands.grounded_first(dead):
            yield self.hands.land("fit", id_, side)
        self.pending = [end for end in self.pending if end not in dead]
        if dead:
            yield self.hands.step(
                "fit", say("Pull every new lug by hand, check each stud's torque and mark it"),
            )  # fmt: skip
            yield self.hands.step(
                "fit", say("Measure between the poles at every place of the work: no short, and no voltage yet"),
                say("Capacitors read as a short for a moment"),
            )  # fmt: skip
        for d in self.work.settings:
            yield self.hands.step("fit", say("Set {x}: {what} {before} → {after}", x=d.title, what=SET[d.field], before=d.before or "–", after=d.after or "–"))  # fmt: skip

    def _anew(self, id_: str) -> bool:
        return self.hands.site.runs.get(id_) != self.then.run_by_id[id_] and (
            id_ in self.work.runs_in or {self.then.run_by_id[id_].a, self.then.run_by_id[id_].b}
            != {self.now.run_by_id[id_].a, self.now.run_by_id[id_].b}
        )  # fmt: skip

    def _to_land(self) -> Iterator[tuple[str, Side]]:
        for id_ in self.work.runs_in:
            yield from ((id_, side) for side in SIDES)
        out = set(self.work.runs_out)
        yield from (end for end in dict.fromkeys((*self.work.lifted, *self.isolation.lifted)) if end[0] not in out)

    # Prove

    def _prove(self) -> Iterator[WorkStep]:
        yield self.hands.step("prove", say("Measure what the table of readings names, before and after side by side"))
        yield self.hands.step(
            "prove", say("After half an hour at full load feel or measure every joint that was touched: none warmer than its cable")
        )  # fmt: skip
        yield self.hands.step("prove", say("Write into the logbook what was changed, and correct labels and drawings"))
