"""What the delete key takes away, wherever something is selected."""

from functools import partial

from jaunty_copper.language import say
from jaunty_copper.plan import edits
from jaunty_copper.plan.edits import Edit
from jaunty_copper.plan.model import Bar, Equipment, Inline, Plan


def removal(plan: Plan, selected: str) -> Edit | None:
    """What the delete key does at a selection."""
    id_, _, terminal = selected.partition(".")
    if id_ in plan.run_by_id:
        return Edit(say("Remove {id}", id=id_), partial(edits.remove_all, ids=(id_,)))
    thing = plan.by_id.get(id_)
    match thing:
        case Bar() if terminal:
            return Edit(
                say("Remove stud {terminal} of {thing}", terminal=terminal, thing=thing.title),
                partial(edits.remove_stud, hub_id=id_, stud_id=terminal),
            )
        case Inline():
            return Edit(say("Remove {thing}", thing=thing.title), partial(edits.remove_inline, item_id=id_))
        case Equipment():
            return Edit(say("Remove {thing}", thing=thing.title), partial(edits.remove_circuit, equipment_id=id_))
        case None:
            return None
    return Edit(say("Remove {thing}", thing=thing.title), partial(edits.remove_all, ids=(id_,)))


def remove_all(plan: Plan, ids: tuple[str, ...]) -> Plan:
    """Remove several things, each as the delete key does; what went with another is gone already."""
    for id_ in ids:
        edit = removal(plan, id_)
        if edit is not None:
            plan = edit.apply(plan)
    return plan
