"""What may spark, where vapour or hydrogen gathers."""

from collections.abc import Iterator
from functools import partial

from jaunty_copper.codes.case import Case
from jaunty_copper.codes.checks import Check, Rule, Verdict
from jaunty_copper.language import say
from jaunty_copper.plan import edits
from jaunty_copper.plan.edits import Edit
from jaunty_copper.plan.model import Breaker, Contactor, Disconnect, Equipment, Fuse, Named


def may_spark(case: Case, x: Named) -> bool:
    """Whether a thing is not known to be ignition protected, and has anything that sparks."""
    match x:
        case Fuse() | Breaker():
            if x.ignition_protected is not None:
                return not x.ignition_protected
            return case.parts.device_families[x.family].ignition_protected != "yes"
        case Contactor() | Disconnect() | Equipment():
            return not x.ignition_protected
    return False


def ignition(case: Case, rule: Rule) -> Iterator[Check]:
    """Things that may spark in a zone with an ignition hazard."""
    hazards = {z.id: z for z in case.plan.zones if z.ignition_hazard}
    for x in case.plan.placed if hazards else ():
        zone = hazards.get(x.zone or "")
        if zone is None:
            continue
        check = case.check(
            rule, x.id, source=say("Small-craft practice: no ignition source where fuel vapour or hydrogen may gather")
        )
        if not may_spark(case, x):
            yield check
            continue
        some = isinstance(x, Fuse | Breaker) and case.parts.device_families[x.family].ignition_protected == "some"
        yield check.fails(
            Verdict.DEFECT if some else Verdict.DANGER,
            say("{x} stands in {zone}, where vapour may gather, and ", x=x.title, zone=zone.title)
            + (say("only some of its family are ignition protected") if some else say("is not ignition protected")),
            partial(
                Edit,
                say("Move {x} out of {zone}", x=x.title, zone=zone.title),
                partial(edits.change, id_=x.id, zone=None),
            ),
        )


RULES = (
    Rule("ignition", say("Ignition protection"),
         say("A fuse that blows or a contact that opens is a spark, and vapour needs no more."), ignition,
         say("{} parts may spark in an ignition hazard"), topic="Place"),
)  # fmt: skip
