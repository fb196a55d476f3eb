"""Edits that many places follow: what names a thing is renamed and removed with it."""

from jaunty_copper.language import say
from jaunty_copper.plan.edits.basic import LISTS, EditError, _put, _rebuilt, _with, checked, find
from jaunty_copper.plan.model import LONGEST_ENTRY, AnyEquipment, Entry, Equipment, Item, Plan, Reading
from jaunty_copper.plan.references import SPACES, Reference, followed, item_of, named_in, names_of, of_holder, renamed


def rename(plan: Plan, old: str, new: str) -> Plan:
    """Give a thing another id, and everything that names it likewise."""
    field, index = find(plan, old)
    if new == old:
        return plan
    if any(thing.id == new for name in LISTS for thing in getattr(plan, name)):
        raise EditError(say("{new} is taken", new=new))
    plan = _put(plan, field, index, _rebuilt(getattr(plan, field)[index], {"id": new}))
    return checked(renamed(plan, SPACES.get(field, ()), old, new))


def remove(plan: Plan, *ids: str) -> Plan:
    """Remove things, the runs that end at them, and what scenarios say of them."""
    gone: dict[str, set[str]] = {}
    for id_ in ids:
        gone.setdefault(find(plan, id_)[0], set()).add(id_)
    left = _with(plan, **{name: tuple(x for x in getattr(plan, name) if x.id not in out) for name, out in gone.items()})

    def stays(r: Reference, name: str) -> str | None:
        # Readings and the log go by what stands in the end, and say what went.
        if r.holder in ("readings", "log"):
            return name
        item = item_of(r, name)
        return None if any(item in out and r.to in SPACES.get(field, ()) for field, out in gone.items()) else name

    return checked(without_dangling(followed(left, stays)))


def remove_all(plan: Plan, ids: tuple[str, ...]) -> Plan:
    """Take things out, as `remove` does; for edits that are given what they need by name."""
    return remove(plan, *ids)


def without_dangling(plan: Plan) -> Plan:
    """Let readings go with what they were taken at; the log keeps its entries, and says what went."""
    if not plan.readings and not plan.log:
        return plan
    names, of_reading = names_of(plan), of_holder("readings")
    stands = names["point"]

    def stays(r: Reading) -> bool:
        return all(name in names[ref.to] for ref, name in named_in(r, of_reading))

    def kept(entry: Entry) -> Entry:
        readings = tuple(r for r in entry.readings if stays(r))
        lost, words = len(entry.readings) - len(readings), []
        if entry.about and entry.about not in stands:
            words.append(say("About {about}, since removed.", about=entry.about))
        if lost:
            words.append(
                say("{lost} reading{words} went with what was removed.", lost=lost, words="s" if lost > 1 else "")
            )
        if not words:
            return entry
        about = entry.about if entry.about in stands else ""
        text = " ".join(filter(None, (entry.text, *words)))[:LONGEST_ENTRY]
        return entry.model_copy(update={"about": about, "readings": readings, "text": text})

    return _with(plan, readings=tuple(r for r in plan.readings if stays(r)), log=tuple(kept(e) for e in plan.log))


def replace_item(plan: Plan, item_id: str, new: Item | AnyEquipment) -> Plan:
    """Put another thing in the place of one; it must have the terminals that runs use."""
    field, index = find(plan, item_id)
    wants_equipment = isinstance(new, Equipment)
    if field != ("equipment" if wants_equipment else "items"):
        raise EditError(say("{new} cannot stand in the place of {item_id}", new=new.id, item_id=item_id))
    if new.id != item_id:
        plan = rename(plan, item_id, new.id)
    return checked(_put(plan, field, index, new))
