"""A chosen device put in the place of another one."""

from functools import partial
from typing import Any

from jaunty_copper.choosing.devices import Choice
from jaunty_copper.codes.case import Case
from jaunty_copper.language import say
from jaunty_copper.plan import edits
from jaunty_copper.plan.edits import Edit, EditError
from jaunty_copper.plan.model import Breaker, Fuse, Named, Plan


def applying(case: Case, id_: str, choice: Choice) -> Edit:
    """The edit that puts a choice in a device's place; another kind of device takes its id and name."""
    item = case.protection.devices[id_].item
    assert choice.rating_a is not None
    return Edit(
        say(
            "Make {item} a {family} of {rating_a:g} A",
            item=item.title,
            family=choice.family.label,
            rating_a=choice.rating_a,
        ),
        partial(put_device, id_=id_, kind=choice.family.kind, family=choice.family.id, rating_a=choice.rating_a),
    )


def put_device(plan: Plan, id_: str, kind: str, family: str, rating_a: float) -> Plan:
    """Give a device another family and rating; a fuse becomes a breaker or the other way round.

    Parameters
    ----------
    id_ : str
        Of a fuse or breaker.
    kind : str
        fuse or breaker.
    family : str
        Id of the device family.
    rating_a : float
        Rated current, A.
    """
    item = plan.by_id.get(id_)
    if item is None:
        raise EditError(say("nothing is called {id}", id=id_))
    if getattr(item, "kind", "") == kind:
        return edits.change(plan, id_, family=family, rating_a=rating_a, thread=None, measured_ohm=None)
    return edits.replace_item(plan, id_, device_like(item, kind, family, rating_a))


def device_like(item: Named, kind: str, family: str, rating_a: float, follows_load: bool = False) -> Fuse | Breaker:
    """A device in the place of another one, with family and rating of its own; of another kind it keeps id, name and zone.

    Parameters
    ----------
    kind : str
        fuse or breaker.
    family : str
        Id of the device family.
    rating_a : float
        Rated current, A.
    follows_load : bool
        Whether it is sized anew when its load changes.
    """
    made = Fuse if kind == "fuse" else Breaker
    same = isinstance(item, made)
    kept = made.model_fields if same else ("id", "name", "zone", "terminal_c")
    values: dict[str, Any] = {name: getattr(item, name) for name in kept}
    own = {"family": family, "rating_a": rating_a, "thread": None, "measured_ohm": None, "follows_load": follows_load}
    return made(**{**values, **own})
