"""How an altered system is connected again: fuses while nothing feeds them, leads, switches from the battery outwards."""

from collections.abc import Iterable, Iterator

from jaunty_copper.fabrication.altering.hands import Hands, WorkStep
from jaunty_copper.fabrication.altering.isolating import Isolation
from jaunty_copper.fabrication.altering.site import Act, Side
from jaunty_copper.language import say
from jaunty_copper.plan.model import Battery, Equipment, Fuse, Inline, PlugConnector, Source, split_ref


class Reconnecting:
    """What is left to do once everything is fitted.

    Parameters
    ----------
    hands : Hands
        At the site as it is then.
    isolation : Isolation
        What was opened for the work.
    pending : list of (str, str)
        Ends of runs that are still loose, because their terminals are live.
    """

    def __init__(self, hands: Hands, isolation: Isolation, pending: list[tuple[str, Side]]) -> None:
        self.hands, self.isolation, self.pending = hands, isolation, pending
        self.work, self.then = hands.work, hands.work.then

    def steps(self) -> Iterator[WorkStep]:
        """All of it, in its order."""
        yield from self._level()
        yield from self._fuses(fed=False)
        if self.pending:
            yield from self._filled(self._behind_pending())
        for id_, side in self.hands.grounded_first(self.pending):
            yield self.hands.land("back", id_, side)
        yield from self._fuses(fed=True)
        closing = [x for x in self._to_close() if not isinstance(x, Fuse)]
        for x in closing:
            yield from self._filled(self._behind(x))
            yield self.hands.step("back", say("Close {x}, everything behind it still off", x=x.title) if not isinstance(x, PlugConnector)
                             else say("Plug {x} in", x=x.title), acts=[Act("close", x.id)])  # fmt: skip
        for e in self._asleep():
            if isinstance(e, Source):
                yield self.hands.step(
                    "back", say("Set {e} to {set_v:g} V and let it give: the voltage at the bank must rise to that and no further", e=e.title, set_v=e.set_v),
                    acts=[Act("on", e.id)],
                )  # fmt: skip
            else:
                yield self.hands.step(
                    "back", say("Switch on {e}; it must come up alone", e=e.title), acts=[Act("on", e.id)]
                )

    def _level(self) -> Iterator[WorkStep]:
        """Units that were not in one bank before are brought to one voltage before they are."""
        mine = {was: id_ for id_, was in self.work.old_id.items()}
        together = [{mine[u.id] for u in bank.units} - {*self.work.fitted} for bank in self.work.before.banks]
        for bank in self.work.after.banks:
            units = {u.id for u in bank.units}
            if len(bank.strings) > 1 and not any(units <= some for some in together):
                names = ", ".join(u.title for u in bank.units)
                yield self.hands.step(
                    "back", say("Bring {names} to one voltage before they are joined: strings in parallel no more than 0.1 V apart", names=names),
                    say("Units at different charge drive a current through their links at once"),
                    [Act("level", u.id) for u in bank.units],
                )  # fmt: skip

    def _to_close(self) -> list[Inline]:
        """What ends closed: from the batteries outwards."""
        wanted = [
            x for x in self.then.items
            if isinstance(x, Inline) and x.id in self.hands.site.opened and getattr(x, "closed", True)
            and (x.id in self.isolation.opened or x.id in self.work.fitted or x.id in self.work.inserts)
        ]  # fmt: skip
        near = self._nearness()
        return sorted(wanted, key=lambda x: near.get(x.id, len(near)))

    def _nearness(self) -> dict[str, int]:
        """How many things lie between a battery's hot post and each inline thing, with everything closed."""
        at: dict[str, list[str]] = {}
        for r in self.then.runs:
            a, b = split_ref(r.a)[0], split_ref(r.b)[0]
            at.setdefault(a, []).append(b)
            at.setdefault(b, []).append(a)
        near = {
            split_ref(ref)[0]: 0
            for ref in self.hands.hot
            if isinstance(self.then.by_id.get(split_ref(ref)[0]), Battery)
        }
        waiting = list(near)
        for id_ in waiting:
            if (
                near[id_]
                and not isinstance(self.then.by_id[id_], Inline)
                and isinstance(self.then.by_id[id_], Equipment)
            ):
                continue
            for other in at.get(id_, ()):
                if other not in near:
                    near[other] = near[id_] + 1
                    waiting.append(other)
        return near

    def _fuses(self, fed: bool) -> Iterator[WorkStep]:
        """Fuses go in, the farthest first: those that nothing feeds, or those that are live at one side by now."""
        for x in reversed([x for x in self._to_close() if isinstance(x, Fuse)]):
            live = self.hands.site.live()
            if (x.ref("a") in live or x.ref("b") in live) is not fed:
                continue
            yield from self._filled(self._behind(x))
            yield self.hands.step(
                "back", say("Put in {x} of {rating:g} A", x=x.title, rating=x.rating_a),
                say("One side of it is live: everything behind it must be off") if fed else "", [Act("close", x.id)],
            )  # fmt: skip

    def _behind(self, x: Inline) -> list[Equipment]:
        """Equipment that becomes live when something closes."""
        before = self.hands.site.live()
        self.hands.site.do(Act("close", x.id))
        after = self.hands.site.live()
        self.hands.site.do(Act("open", x.id))
        return self._woken(after - before)

    def _behind_pending(self) -> list[Equipment]:
        before = self.hands.site.live()
        landed, capped = set(self.hands.site.landed), set(self.hands.site.capped)
        for end in self.pending:
            self.hands.site.do(Act("land", *end))
        after = self.hands.site.live()
        self.hands.site.landed, self.hands.site.capped = landed, capped
        return self._woken(after - before)

    def _woken(self, new: frozenset[str]) -> list[Equipment]:
        return [
            e for e in self.hands.site.things.values()
            if isinstance(e, Equipment) and e.input_uf is not None and any(ref in new for ref in (*e.port, *e.output))
        ]  # fmt: skip

    def _filled(self, woken: Iterable[Equipment]) -> Iterator[WorkStep]:
        for e in woken:
            yield self.hands.step(
                "back", say("Fill the capacitors of {e} through a resistor before it is connected", e=e.title),
                say("Empty, they weld contacts"), [Act("fill", e.id)],
            )  # fmt: skip

    def _asleep(self) -> list[Equipment]:
        """Equipment that is off, and shall be on: loads, the largest last, then what gives."""
        found = [e for e in self.hands.site.things.values() if isinstance(e, Equipment) and e.id in self.hands.site.off]
        return sorted(found, key=lambda e: (isinstance(e, Source), getattr(e, "power_w", 0.0)))
