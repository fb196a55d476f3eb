"""Lugs against studs and conductors."""

from collections.abc import Iterator
from functools import partial

from jaunty_copper.plan import edits
from jaunty_copper.plan.edits import Edit
from jaunty_copper.plan.model import Bar, split_ref
from jaunty_copper.practice.case import Case, Rule
from jaunty_copper.practice.findings import Finding, Severity


def lug_and_stud(case: Case, rule: Rule) -> Iterator[Finding]:
    """Lugs whose hole is not the stud's."""
    studs = case.parts.studs
    for run in case.plan.runs:
        for end in ("a", "b"):
            lug = getattr(run, f"lug_{end}")
            ref = getattr(run, end)
            thread = case.thread_at(ref)
            if lug is None or thread is None or lug == thread:
                continue
            small = studs[lug].hole_mm < studs[thread].hole_mm
            words = "does not go over" if small else "sits loosely on"
            yield case.finding(
                rule, Severity.STOP if small else Severity.MEND, run.id,
                f"{case.run_title(run)}: a lug for {lug} {words} the {thread} stud at {split_ref(ref)[0]}",
                figure=studs[lug].hole_mm, limit=studs[thread].hole_mm, unit="mm", source=studs[thread].source,
                mend=Edit(f"Take a lug for {thread} on {run.id}", partial(edits.change_field, id_=run.id, field=f"lug_{end}", value=None)),
            )  # fmt: skip


def lug_and_conductor(case: Case, rule: Rule) -> Iterator[Finding]:
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
            if stud.lug_min_mm2 * 0.8 <= area <= stud.lug_max_mm2:
                continue
            limit = stud.lug_max_mm2 if area > stud.lug_max_mm2 else stud.lug_min_mm2
            yield case.finding(
                rule, Severity.MEND, run.id,
                f"{case.run_title(run)}: lugs for {thread} come for {stud.lug_min_mm2:g} to {stud.lug_max_mm2:g} mm², "
                f"this is {area:.4g} mm²",
                figure=area, limit=limit, unit="mm²", source=stud.source,
            )  # fmt: skip


def lugs_per_stud(case: Case, rule: Rule) -> Iterator[Finding]:
    """Studs with more lugs than the practice allows."""
    most = case.book.limit("lugs_per_stud")
    for ref, runs in case.plan.runs_at.items():
        count = sum(r.parallel for r in runs)
        if count <= most:
            continue
        id_, _ = split_ref(ref)
        hub = case.plan.by_id[id_]
        free = (
            next((t for t in hub.terminal_names if not case.plan.runs_at.get(hub.ref(t))), None)
            if isinstance(hub, Bar)
            else None
        )
        last = runs[-1]
        mend = None
        if free is not None:
            end = "a" if last.a == ref else "b"
            mend = Edit(
                f"Move {last.id} to the free stud {free}",
                partial(edits.change_field, id_=last.id, field=end, value=hub.ref(free)),
            )
        yield case.finding(
            rule, Severity.MEND, id_, f"{count} lugs on {hub.title} {split_ref(ref)[1]}; {most:g} allowed",
            figure=float(count), limit=most, unit="lugs", source=case.book.source("lugs_per_stud"), mend=mend,
        )  # fmt: skip


RULES = (
    Rule("lug_stud", "Lug and stud",
         "A lug too large touches on its rim only and heats; a lug too small gets drilled out.", lug_and_stud),
    Rule("lug_conductor", "Lug and conductor",
         "Without a lug of the right size somebody will fold the strand or cut some of it off.", lug_and_conductor),
    Rule("lugs_per_stud", "Lugs on one stud",
         "In a tall stack the current of the upper lugs passes through all the lower ones, and the nut loosens.", lugs_per_stud),
)  # fmt: skip
