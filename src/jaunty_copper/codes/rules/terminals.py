"""Lugs against studs and conductors."""

from collections.abc import Iterator
from functools import partial

from jaunty_copper.codes.case import Case
from jaunty_copper.codes.checks import Check, Rule, Verdict
from jaunty_copper.language import say
from jaunty_copper.plan import edits
from jaunty_copper.plan.edits import Edit
from jaunty_copper.plan.model import Bar, Run, split_ref


def lug_and_stud(case: Case, rule: Rule) -> Iterator[Check]:
    """Lugs whose hole is not the stud's."""
    studs = case.parts.studs
    for run in case.plan.runs:
        for end in ("a", "b"):
            lug = getattr(run, f"lug_{end}")
            ref = getattr(run, end)
            thread = case.thread_at(ref)
            if lug is None or thread is None:
                continue
            check = case.check(
                rule, run.id, studs[lug].hole_mm, studs[thread].hole_mm, "mm", source=studs[thread].source
            )
            small = studs[lug].hole_mm < studs[thread].hole_mm
            words = say("does not go over") if small else say("sits loosely on")
            yield check if lug == thread else check.fails(
                Verdict.DANGER if small else Verdict.DEFECT,
                say('{run}: a lug for {lug} {words} the {thread} stud at {split_ref}', run=case.run_title(run), lug=lug, words=words, thread=thread, split_ref=split_ref(ref)[0]),
                partial(
                    Edit, say('Take a lug for {thread} on {run}', thread=thread, run=run.id),
                    partial(edits.change_field, id_=run.id, field=f"lug_{end}", value=None),
                ),
            )  # fmt: skip


def lug_and_conductor(case: Case, rule: Rule) -> Iterator[Check]:
    """Studs for which no lug of the conductor's size is sold."""
    for run in case.plan.runs:
        if run.length_m == 0.0:
            continue
        area = case.parts.conductors[run.conductor].area_mm2
        for end in ("a", "b"):
            thread = getattr(run, f"lug_{end}") or case.thread_at(getattr(run, end))
            if thread is None:
                continue
            stud = case.parts.studs[thread]
            limit = stud.lug_min_mm2 if area < stud.lug_min_mm2 * 0.8 else stud.lug_max_mm2
            check = case.check(rule, run.id, area, limit, "mm²", source=stud.source)
            yield (
                check
                if stud.lug_min_mm2 * 0.8 <= area <= stud.lug_max_mm2
                else check.fails(
                    Verdict.DEFECT,
                    say(
                        "{run}: lugs for {thread} come for {lug_min_mm2:g} to {lug_max_mm2:g} mm², this is {area:.4g} mm²",
                        run=case.run_title(run),
                        thread=thread,
                        lug_min_mm2=stud.lug_min_mm2,
                        lug_max_mm2=stud.lug_max_mm2,
                        area=area,
                    ),
                )
            )


def lugs_per_stud(case: Case, rule: Rule) -> Iterator[Check]:
    """Studs with more lugs than the code allows."""
    most = case.code.limit("lugs_per_stud")
    for ref, runs in case.plan.runs_at.items():
        count = sum(r.parallel for r in runs)
        id_, terminal = split_ref(ref)
        check = case.check(rule, id_, float(count), most, "lugs", source=case.code.source("lugs_per_stud"))
        yield check if count <= most else check.fails(
            Verdict.DEFECT, say('{count} lugs on {id} {terminal}; {most:g} allowed', count=count, id=case.plan.by_id[id_].title, terminal=terminal, most=most),
            partial(_to_free_stud, case, ref, runs[-1]),
        )  # fmt: skip


def _to_free_stud(case: Case, ref: str, last: Run) -> Edit | None:
    """The last run moved to a stud of the same bar with nothing on it."""
    hub = case.plan.by_id[split_ref(ref)[0]]
    if not isinstance(hub, Bar):
        return None
    free = next((t for t in hub.terminal_names if not case.plan.runs_at.get(hub.ref(t))), None)
    if free is None:
        return None
    return Edit(
        say("Move {last} to the free stud {free}", last=last.id, free=free),
        partial(edits.change_field, id_=last.id, field="a" if last.a == ref else "b", value=hub.ref(free)),
    )


TOPIC = say("Terminals")
RULES = (
    Rule("lug_stud", say("Lug and stud"),
         say("A lug too large touches on its rim only and heats; a lug too small gets drilled out."), lug_and_stud,
         say("{} lugs do not fit their stud"), topic=TOPIC),
    Rule("lug_conductor", say("Lug and conductor"),
         say("Without a lug of the right size somebody will fold the strand or cut some of it off."), lug_and_conductor,
         say("{} conductors have no lug for their stud"), topic=TOPIC),
    Rule("lugs_per_stud", say("Lugs on one stud"),
         say("In a tall stack the current of the upper lugs passes through all the lower ones, and the nut loosens."), lugs_per_stud,
         say("{} studs carry too many lugs"), topic=TOPIC),
)  # fmt: skip
