"""What can be done to a unit or a link of a bank, from its menu."""

from functools import partial

from jaunty_copper.battery.arrangements import BAD_JOINT_OHM, bad_joint
from jaunty_copper.battery.building import growing
from jaunty_copper.documents.map.picture import Picture
from jaunty_copper.language import say
from jaunty_copper.plan import edits
from jaunty_copper.plan.defaults import new_fuse, standard_rating
from jaunty_copper.plan.edits import Edit
from jaunty_copper.plan.model import Battery


def choices(picture: Picture, id_: str) -> list[Edit]:
    """Edits for a unit or link: bad to see what it does, sound again, patterns."""
    plan = picture.plan
    found: list[Edit] = []
    run, unit = plan.run_by_id.get(id_), plan.by_id.get(id_)
    if run is not None:
        found.append(
            Edit(
                say("Give {id} a bad joint of {bad_joint_ohm:g} mΩ", id=id_, bad_joint_ohm=1000 * BAD_JOINT_OHM),
                partial(bad_joint, run=id_),
            )
        )
        if run.joint_a_ohm is not None or run.joint_b_ohm is not None:
            found.append(
                Edit(
                    say("Joints of {id} as planned", id=id_),
                    partial(edits.change, id_=id_, joint_a_ohm=None, joint_b_ohm=None),
                )
            )
        found.append(
            Edit(
                say("Make {id} 50 % longer", id=id_),
                partial(edits.change, id_=id_, length_m=round(1.5 * run.length_m, 3)),
            )
        )
        ampacity = picture.case.ampacities.get(id_) if picture.case is not None else None
        if ampacity is not None:
            fuse = new_fuse(plan, standard_rating(ampacity.amps))
            found.append(Edit(say("Put a fuse into {id}", id=id_), partial(edits.insert_inline, run_id=id_, item=fuse)))
    if isinstance(unit, Battery):
        weak = round(0.8 * unit.capacity_share, 4)
        found.append(
            Edit(
                say("{unit} holds only {weak:.0f} %", unit=unit.title, weak=100 * weak),
                partial(edits.change, id_=id_, capacity_share=weak),
            )
        )
        if unit.capacity_share < 1.0:
            found.append(
                Edit(
                    say("{unit} holds all it is sold for", unit=unit.title),
                    partial(edits.change, id_=id_, capacity_share=1.0),
                )
            )
        found.append(
            Edit(say("Turn {unit} round", unit=unit.title), partial(edits.change, id_=id_, turned=not unit.turned))
        )
        found += growing(plan, id_)
    return found
