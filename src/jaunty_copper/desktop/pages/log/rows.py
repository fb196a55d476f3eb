"""The rows of the table of readings."""

from collections.abc import Callable

from jaunty_copper.commissioning.model import Bench
from jaunty_copper.commissioning.points import Point, joints_of
from jaunty_copper.desktop.pages.log.measured import Measured
from jaunty_copper.desktop.pages.log.said import ReadingRow, estimated, expect, off_by, ohms, reading_text, to
from jaunty_copper.desktop.widgets.table import ViewColumn
from jaunty_copper.language import say
from jaunty_copper.plan.model import Inline, Plan, split_ref

SHOWN = {
    "all": say("All points"),
    "fewest": say("The fewest that reveal a bad joint"),
    "read": say("What was read"),
    "left": say("What is left to read"),
}
READ, ESTIMATED = 4, 7


def reading_columns(plan: Callable[[], Plan | None]) -> tuple[ViewColumn, ...]:
    """The table's columns."""
    return (
        ViewColumn(say("Measure"), lambda r: what_of(plan(), r.expected.point), 0),
        ViewColumn(say("From"), lambda r: r.expected.point.a, 76),
        ViewColumn(say("To"), to, 76),
        ViewColumn(say("Expect"), expect, 116, True),
        ViewColumn(say("Read"), lambda r: "" if r.read is None else reading_text(r.expected.point, r.read), 82, True),
        ViewColumn(say("Off by"), off_by, 124),
        ViewColumn(say("V/A"), ohms, 78, True),
        ViewColumn(say("All readings, mΩ"), estimated, 116, True),
    )


def reading_rows(f: Measured, b: Bench, shown: str) -> list[ReadingRow]:
    """The points that are shown: all, the fewest that reveal a bad joint, what was read, what is left."""
    rows = list[ReadingRow]()
    branch, by_ends = b.wiring.branch, {(r.a, r.b): r.id for r in f.plan.runs}
    few = {b.points[k] for k in f.fewest} | set(f.more)
    measurable = {p.owner for p in b.places if b.wiring.branches[p.branch].kind in ("run", "body", "battery")}
    for e in f.expected:
        read = f.taken.get(e.point)
        show = {"all": True, "fewest": e.point in few, "read": read is not None, "left": read is None}
        if show[shown]:
            p = e.point
            owner = by_ends.get((p.a, p.b)) or (p.a if p.quantity == "joint" else split_ref(p.a)[0])
            planned = float(b.base.current_a[branch[owner]]) if owner in branch else float("nan")
            rows.append(
                ReadingRow(
                    e,
                    read,
                    f.taken.get(Point("amps", owner, ""), planned),
                    f.estimated.get(owner) if owner in measurable else None,
                )
            )
    return rows


def what_of(plan: Plan | None, p: Point) -> str:
    """What is measured, in words."""
    if p.quantity == "amps":
        return say("current of {short}", short=_short(plan, p.a))
    if p.quantity == "celsius":
        words = say("warmth of {short}", short=_short(plan, p.a))
        return words + (say(" after {minutes} min", minutes=p.b) if p.b else "")
    if p.quantity == "joint":
        return say("lug to stud of {a}", a=p.a)
    run = next((r for r in plan.runs if (r.a, r.b) == (p.a, p.b)), None) if plan else None
    if run is not None:
        return say("drop over {run}", run=run.id)
    owner = split_ref(p.a)[0]
    across = plan is not None and isinstance(plan.by_id.get(owner), Inline)
    return f"{say('drop over') if across else say('voltage of')} {_short(plan, owner)}"


def _short(plan: Plan | None, id_: str) -> str:
    """A thing's name where it has one; a conductor by its id: its ends stand beside it."""
    thing = plan.by_id.get(id_) if plan is not None else None
    return thing.title if thing is not None else id_


def more_at(f: Measured, p: Point) -> tuple[Point, ...]:
    """What more can be measured of the conductor or device at a point: joints by themselves, current, warmth."""
    run = next((r for r in f.plan.runs if (r.a, r.b) == (p.a, p.b) or r.id == p.a), None)
    owner = run.id if run is not None else split_ref(p.a)[0]
    assert f.bench is not None
    if owner not in f.bench.wiring.branch:
        return ()
    units = {u.id for b in f.bench.wiring.banks for u in b.units}
    warmth = () if owner in units else (Point("celsius", owner, ""),)
    return (*(joints_of(run) if run is not None else ()), Point("amps", owner, ""), *warmth)
