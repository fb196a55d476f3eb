"""What belongs to the circuit of a place on the map: from plus to minus, and the devices that guard it."""

from itertools import pairwise

from jaunty_copper.documents.map.picture import Picture
from jaunty_copper.plan.model import split_ref


def row_of(picture: Picture, id_: str) -> str | None:
    """The row that something is on."""
    chart = picture.diagram
    for ribbon in chart.ribbons:
        if ribbon.run == id_:
            return ribbon.row
    for shape in chart.shapes:
        if shape.id == id_ and shape.row is not None:
            return shape.row
    if "." in id_:
        return next((r.id for r in chart.rows if any(ref == id_ for _, ref in r.path)), None)
    return None


def circuit_under(picture: Picture, id_: str) -> frozenset[str]:
    """Ids of all that a place's circuit leads through, out and back; of the place alone where it is in none of its own."""
    row = next((r for r in picture.diagram.rows if r.id == (row_of(picture, id_) or id_)), None)
    if row is None:
        return frozenset({id_})
    refs = [ref for _, ref in row.path]
    found = {split_ref(ref)[0] for ref in refs}
    for one, two in pairwise(refs):
        found |= {r.id for r in picture.plan.runs_at.get(one, ()) if two in (r.a, r.b)}
    return frozenset(found)


def guards_of(picture: Picture, id_: str) -> frozenset[str]:
    """Ids of the devices that limit the current at a place: in a conductor, or those on the plus side of equipment."""
    protection = picture.protection
    if protection is None:
        return frozenset()
    plan = protection.study.plan
    thing = plan.by_id.get(split_ref(id_)[0])
    refs = [thing.ref(t) for t in thing.terminal_names] if thing is not None else []
    runs = [id_] if id_ in plan.run_by_id else [r.id for ref in refs for r in plan.runs_at.get(ref, ())]
    branch, guard, found = protection.wiring.branch, protection.guard, set[str]()
    for run in runs:
        k = branch[run]
        if k in guard.conductors:
            bound = guard.bound(k)
            found |= set(bound.guards or bound.feeds) & set(protection.devices)
    return frozenset(found)
