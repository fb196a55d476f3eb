"""What the Plan menu adds and works out: equipment, banks, circuits, devices, zones."""

from __future__ import annotations

from functools import partial
from threading import Event
from typing import TYPE_CHECKING

from jaunty_copper.language import say, say_many
from jaunty_copper.plan import edits
from jaunty_copper.plan.edits import Edit, EditError
from jaunty_copper.plan.model import Bar, Inline, Plan, Run, Zone, split_ref

if TYPE_CHECKING:
    from jaunty_copper.choosing.draft import Draft
    from jaunty_copper.desktop.shell.window import Window


class Additions:
    """The entries of the Plan menu that change the plan."""

    def __init__(self, window: Window) -> None:
        self.window = window

    def protect(self) -> None:
        """Propose a consistent set of devices, and show every difference before it is made."""
        from jaunty_copper.desktop.shell import protecting

        self._protecting = protecting.open_for(self.window.document.plan, self.window)
        self._protecting.wanted.connect(self.window.do)

    def sizes(self) -> None:
        """Choose sizes at the least cost, with a proof, and show what differs before it is made."""
        from jaunty_copper.desktop.shell import least

        w = self.window
        dialog = least.open_for(w.document.plan, sorted(w.map.chosen), w.scenarios.shown or "", w.looks.palette, w)
        dialog.wanted.connect(w.do)

    def draft(self) -> None:
        """Draft whole plans from the list of equipment, and take one."""
        from jaunty_copper.desktop.shell import drafting

        before = self.window.document.plan
        if not before.equipment:
            self.window.show_notice(say("There is no equipment yet to draft a plan for: add it on the page Needs"))
            return
        drafting.open_for(before, self.window).taken.connect(lambda draft: self._take(before, draft))

    def _take(self, before: Plan, draft: Draft) -> None:
        assert draft.plan is not None
        self.window.map.select(None)
        self.window.do(
            Edit(say("Draft: {title}", title=draft.title), partial(edits.made_of, before=before, after=draft.plan))
        )

    def line(self) -> None:
        """Go to where equipment is written down, a line each."""
        self.window.show_page("needs")
        self.window.pages["needs"].write()

    def equipment(self) -> None:
        """Ask what is to be added, and where each side of it goes."""
        from jaunty_copper.desktop.shell import adding

        before = self.window.document.plan
        dialog = adding.open_for(before, self.window.map.selected, self.window.looks.units, self.window)
        dialog.made.connect(lambda plan, line: self._put(say("Add {line}", line=line), before, plan))

    def bank(self) -> None:
        """Ask for one more bank, and draw its core beside what there is."""
        from jaunty_copper.desktop.shell import beginning

        before = self.window.document.plan
        beginning.open_for(self.window, before).begun.connect(lambda plan: self._put(say("Add a bank"), before, plan))

    def _put(self, label: str, before: Plan, after: Plan) -> None:
        """Take over a plan that was worked out, and select the first thing that is new in it."""
        known = {x.id for x in before.placed}
        new = [x.id for x in (*after.equipment, *after.items) if x.id not in known]
        other = [
            x.id for x in (*before.runs, *before.items)
            if isinstance(x, Run | Inline) and x != (after.run_by_id.get(x.id) or after.by_id.get(x.id))
        ]  # fmt: skip
        self.window.select_next = new[0] if new else None
        if not self.window.do(Edit(label, partial(edits.made_of, before=before, after=after))):
            self.window.select_next = None
        elif other:
            self.window.show_notice(
                say(
                    "{label}: what was there changed with it, so that it stays in order: {other}",
                    label=label,
                    other=", ".join(other[:6]),
                )
            )

    def wire_up(self) -> None:
        """Lay circuits for all equipment that has no conductors yet."""
        from jaunty_copper.choosing.wiring_up import loose, wire_up
        from jaunty_copper.desktop.work.patience import Cancelled, waited

        plan = self.window.document.plan
        if not loose(plan):
            self.window.show_notice(say("Everything has conductors already"))
            return
        gone = Event()
        try:
            found = waited(self.window, say("Laying circuits…"), partial(wire_up, plan, overtaken=gone.is_set))
        except Cancelled:
            gone.set()
            return
        if found.done:
            count = (
                say_many("{count} circuit", "{count} circuits", len(found.done))
                if len(found.done) > 1
                else plan.by_id[found.done[0]].title
            )
            self.window.do(
                Edit(say("Wire up {count}", count=count), partial(edits.made_of, before=plan, after=found.plan))
            )
        if found.left:
            reasons = "; ".join(f"{plan.by_id[id_].title}: {why}" for id_, why in list(found.left.items())[:3])
            self.window.show_notice(say("Not wired up: {reasons}", reasons=reasons))

    def redraft(self) -> None:
        """Choose the circuits of the bar that is selected anew, and order them by their currents."""
        from jaunty_copper.choosing.redrafting import redrafted
        from jaunty_copper.desktop.work.patience import Cancelled, waited

        plan, gone = self.window.document.plan, Event()
        bar = plan.by_id.get(split_ref(self.window.map.selected or "")[0])
        if not isinstance(bar, Bar):
            self.window.show_notice(say("Select a bar first: its circuits are chosen anew"))
            return
        try:
            found = waited(
                self.window,
                say("Drafting {bar} anew…", bar=bar.title),
                partial(redrafted, plan, bar.id, overtaken=gone.is_set),
            )
        except Cancelled:
            gone.set()
            return
        except EditError as error:
            self.window.show_notice(say("Not drafted anew: {error}", error=error))
            return
        if found.plan == plan:
            self.window.show_notice(say("{bar} stays as it is: anew it would be no better", bar=bar.title))
            return
        self.window.do(Edit(say("Redraft {bar}", bar=bar.title), partial(edits.made_of, before=plan, after=found.plan)))
        self.window.show_notice(
            say(
                "{bar} drafted anew: {circuits} circuits; findings {before} before, {after} now",
                bar=bar.title, circuits=len(found.circuits), before=sum(found.before), after=sum(found.after),
            )
        )  # fmt: skip

    def device(self) -> None:
        """Let the plan carry a device family of its own."""
        from jaunty_copper.desktop.shell import own_device
        from jaunty_copper.parts.catalogue import library

        self._own_device = own_device.open_for(library().with_own(self.window.document.plan.parts), self.window)
        self._own_device.wanted.connect(self.window.do)

    def zone(self) -> None:
        """Add a zone; its fields are in the inspector of the plan."""
        zone = Zone(id=edits.fresh_id(self.window.document.plan, "zone"), name=say("New zone"))
        self.window.map.select(None)
        self.window.do(Edit(say("Add zone {zone}", zone=zone.id), partial(_add, thing=zone)))


def _add(plan: Plan, thing: Zone) -> Plan:
    return edits.add(plan, thing)
