"""The bond between a pole and the chassis: one, and thick enough."""

from collections.abc import Iterator
from functools import partial

from jaunty_copper.codes.case import Case
from jaunty_copper.codes.checks import ROUNDED, Check, Rule, Verdict
from jaunty_copper.codes.rules.conductors import as_thick
from jaunty_copper.language import say
from jaunty_copper.physics.graph import components
from jaunty_copper.plan import edits
from jaunty_copper.plan.banks import Bank
from jaunty_copper.plan.edits import Edit
from jaunty_copper.plan.model import Run, split_ref
from jaunty_copper.plan.topology import bonds_of, chassis_of, is_return

TOPIC = say("Bonding")


def _area(case: Case, run: Run) -> float:
    return case.parts.conductors[run.conductor].area_mm2 * run.parallel


def _systems(case: Case, batteries: bool) -> list[int]:
    """What hangs together by copper, and through batteries, by node: systems that meet in the chassis only are two."""
    w, bonds = case.wiring, {r.id for r in bonds_of(case.plan)}
    joined = [
        b for b in w.branches if not (b.kind == "run" and b.owner in bonds) and (batteries or b.kind != "battery")
    ]
    return components(len(w.refs), (b.a for b in joined), (b.b for b in joined))


def _far(case: Case, bond: Run) -> str:
    """The end of a bond that is not the chassis."""
    return bond.b if split_ref(bond.a)[0] in chassis_of(case.plan, bond) else bond.a


def too_thin(case: Case, rule: Rule) -> Iterator[Check]:
    """Bonds thinner than the code asks for beside the largest conductor of the live pole of their own system."""
    live = [r for r in case.plan.runs if r.length_m > 0.0 and case.protection.guard.is_live(case.wiring.branch[r.id])]
    w, system = case.wiring, _systems(case, batteries=True)
    for run in bonds_of(case.plan):
        beside = [r for r in live if system[w.node[r.a]] == system[w.node[_far(case, run)]]]
        if run.length_m == 0.0 or not beside:
            continue
        largest = max(beside, key=lambda r: _area(case, r))
        sizes = case.parts.sizes(case.parts.conductors[run.conductor].system)
        least = case.code.bond.least_mm2(_area(case, largest), [s.area_mm2 for s in sizes])
        check = case.check(rule, run.id, _area(case, run), least, "mm²", source=case.code.bond.source)
        yield (
            check
            if _area(case, run) * ROUNDED >= least
            else check.fails(
                Verdict.DEFECT,
                say(
                    "{run} bonds the chassis with {area:.3g} mm²; {least:.3g} mm² are asked for beside {largest} with {most:.3g} mm²",
                    run=case.run_title(run),
                    area=_area(case, run),
                    least=least,
                    largest=largest.id,
                    most=_area(case, largest),
                ),
                partial(as_thick, case, run, least),
            )
        )


def several(case: Case, rule: Rule) -> Iterator[Check]:
    """Bonds of one system beyond its first: what returns then divides between copper and chassis."""
    first: dict[int, Run] = {}
    w, system = case.wiring, _systems(case, batteries=False)
    # A chassis that equipment returns through is a conductor: more than one way leads to it on purpose.
    returns = {x for run in case.plan.runs if is_return(case.plan, run) for x in chassis_of(case.plan, run)}
    for run in bonds_of(case.plan):
        if returns & chassis_of(case.plan, run):
            continue
        known = first.setdefault(system[w.node[_far(case, run)]], run)
        check = case.check(rule, run.id, source=case.code.bond.source)
        yield (
            check
            if known is run
            else check.fails(
                Verdict.DEFECT,
                say(
                    "{run} is one more bond beside {known}: what returns divides between copper and chassis",
                    run=case.run_title(run),
                    known=known.id,
                ),
                partial(Edit, say("Remove {run}", run=run.id), partial(edits.remove_all, ids=(run.id,))),
            )
        )


def unsaid(case: Case, rule: Rule) -> Iterator[Check]:
    """Plans that say neither where a pole is bonded nor that none is."""
    apart = dict[frozenset[int], Bank]()
    for bank in case.wiring.banks:
        rails = frozenset(case.wiring.rail_of(bank.takeoffs[side][0]) for side in ("plus", "minus"))
        if not any(rails & known for known in apart):
            apart[rails] = bank
    floating = case.protection.guard.floating_rails
    for rails, bank in apart.items():
        check = case.check(rule, bank.id, source=case.code.bond.source)
        others = say(" of the bank of {bank}", bank=case.title(bank.id)) if len(apart) > 1 else ""
        yield check if case.plan.floating or not rails & floating else check.fails(
            Verdict.ADVICE,
            say("Nothing says whether a pole{others} is bonded to a chassis or ground: plus alone is taken as live. If the system floats, "
                "each pole needs its devices: draw the bond, or say that it floats", others=others),
        )  # fmt: skip


RULES = (
    Rule("bond_size", say("Bond to the chassis"),
         say("In a short to the chassis the bond carries what the battery can drive: it must last until the device opens."), too_thin,
         say("{} bonds are thinner than asked for"), topic=TOPIC),
    Rule("several_bonds", say("More than one bond"),
         say("With two bonds the chassis carries part of every current, past the shunt and through joints that nobody made for it."), several,
         say("{} bonds are one too many"), topic=TOPIC),
    Rule("bond_unsaid", say("Bonded or floating"),
         say("A system that floats unnoticed has a pole that nothing protects."), unsaid,
         say("{} systems are neither bonded nor floating, as far as the plan says"), topic=TOPIC),
)  # fmt: skip
