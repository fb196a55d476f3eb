"""What is not known of a plan, judged whole: some variants as plans of their own, under every rule of its code."""

from collections import defaultdict
from collections.abc import Callable
from math import isfinite, nan

import numpy as np

from jaunty_copper.assessment.assessment import Assessment
from jaunty_copper.codes.case import Case
from jaunty_copper.codes.checks import Check, Verdict
from jaunty_copper.commissioning.counted import LEAST_KNOWN
from jaunty_copper.commissioning.spreads import Columns, Spreads, drawn
from jaunty_copper.commissioning.varying import Chance, Chances, matters_of, percentiles, sorted_by_doubt
from jaunty_copper.network.wiring import JOINT_OHM, battery_ohm
from jaunty_copper.physics.copper import Floats
from jaunty_copper.plan.model import OPEN_AIR, AnyEquipment, Battery, Inline, Item, Load, Plan, Run

MOST_JUDGED, JUDGED_WORK = 60, 6000
"""So many variants are judged whole, in large plans fewer: so many branches in all."""
OUTSIDE = OPEN_AIR.model_copy(update={"id": "open-air-of-a-variant"})
"""What stands in no zone of its plan stands there in a variant."""
ASKED = ("power_w", "surge_w", "current_a", "surge_a")
"""What of a load grows with its power."""


def variant(case: Case, names: Columns, row: Floats, spreads: Spreads) -> Plan:
    """A plan in which everything is as one variant has it.

    Only the charge and what devices hold stay as planned: neither is a field of a plan.

    Parameters
    ----------
    case : Case
        The studied plan.
    names : dict
        Column of each unknown, by kind and owner.
    row : ndarray, shape (unknowns,)
        Standard normal numbers.
    spreads : Spreads
        Of each kind.
    """
    w, plan = case.wiring, case.plan
    of_bank = {u.id: b.id for b in w.banks for u in b.units}

    def times(share: float, kind: str, owner: str) -> float:
        return float(np.exp(share * row[names[kind, owner]]))

    def run(r: Run) -> Run:
        joints, zone = times(spreads.joint, "joint", r.id), r.zone or OUTSIDE.id
        if r.measured_ohm is not None:
            return r.model_copy(update={"zone": zone, "measured_ohm": r.measured_ohm * joints})
        a, b = (JOINT_OHM / r.parallel if x is None else x for x in (r.joint_a_ohm, r.joint_b_ohm))
        # What is bolted straight to another part has one joint.
        single = not r.length_m and r.joint_b_ohm is None
        longer = max(1.0 + spreads.copper * float(row[names["copper", r.id]]), 0.5)
        return r.model_copy(
            update={
                "zone": zone,
                "length_m": r.length_m * longer,
                "joint_a_ohm": a * joints,
                "joint_b_ohm": None if single else b * joints,
            }
        )

    def item(x: Item) -> Item:
        placed = {"zone": x.zone or OUTSIDE.id}
        if isinstance(x, Battery):
            alike = times(spreads.bank, "bank", of_bank[x.id]) if x.id in of_bank else 1.0
            more = alike * times(spreads.unit, "unit", x.id)
            given = None if x.short_circuit_a is None else x.short_circuit_a / more
            ohm = battery_ohm(x, w.parts) * more
            return x.model_copy(update={**placed, "internal_ohm": ohm, "short_circuit_a": given})
        if isinstance(x, Inline):
            ohm = float(w.circuit.fixed_ohm[w.branch[x.id]])
            return x.model_copy(update={**placed, "measured_ohm": ohm * times(spreads.body, "body", x.id)})
        return x.model_copy(update=placed)

    def thing(e: AnyEquipment) -> AnyEquipment:
        placed = {"zone": e.zone or OUTSIDE.id}
        if not isinstance(e, Load):
            return e.model_copy(update=placed)
        more = max(1.0 + spreads.load * float(row[names["load", e.id]]), 1e-3)
        asked = {field: getattr(e, field, None) for field in ASKED}
        return e.model_copy(update={**placed, **{f: value * more for f, value in asked.items() if value is not None}})

    warmer = spreads.air_k * float(row[names["air", ""]])
    return plan.model_copy(
        update={
            "items": tuple(item(x) for x in plan.items),
            "equipment": tuple(thing(e) for e in plan.equipment),
            "runs": tuple(run(r) for r in plan.runs),
            "zones": tuple(z.model_copy(update={"ambient_c": z.ambient_c + warmer}) for z in (*plan.zones, OUTSIDE)),
            "scenarios": tuple(
                s.model_copy(update={"ambient_c": {zone: c + warmer for zone, c in s.ambient_c.items()}})
                for s in plan.scenarios
            ),
        }
    )


def judged(
    case: Case,
    found: Chances,
    seed: int = 0,
    spreads: Spreads | None = None,
    most: int = MOST_JUDGED,
    overtaken: Callable[[], bool] = lambda: False,
    progress: Callable[[int, int], None] | None = None,
) -> Chances:
    """Chances with those of every other rule: what fails in some of the first variants and holds in others.

    Parameters
    ----------
    case : Case
        The studied plan under its code.
    found : Chances
        Of it, with the same seed and spreads.
    seed, spreads
        As for `chances`.
    most : int
        How many variants are judged at most.
    overtaken : callable
        Asked before each variant whether to stop; then nothing is added.
    progress : callable, optional
        Is given how many are judged, and of how many.
    """
    spreads = spreads or Spreads()
    many = min(most, JUDGED_WORK // max(len(case.wiring.branches), 1), found.samples)
    if many < LEAST_KNOWN:
        return found
    names, z = drawn(case, found.samples, seed)
    known = {c.rule for c in found.found}
    rows: dict[tuple[str, str], list[tuple[int, Check]]] = defaultdict(list)
    for k in range(many):
        if overtaken():
            return found
        if progress is not None:
            progress(k, many)
        for check in Assessment(variant(case, names, z[k], spreads), case.code.id).checks:
            if check.rule.id not in known:
                rows[check.rule.id, check.place].append((k, check))
    z = z[:many]
    standard = (z - z.mean(axis=0)) / z.std(axis=0)
    more = [c for key, checks in rows.items() if (c := _chance(key, checks, names, standard)) is not None]
    return Chances(found.samples, sorted_by_doubt([*found.found, *more]), found.left_out, many)


def _chance(key: tuple[str, str], checks: list[tuple[int, Check]], names: Columns, z: Floats) -> Chance | None:
    """How often any of a rule's checks at a place fails; None where that is never or always."""
    fails, figures, limits = np.zeros(z.shape[0]), np.full(z.shape[0], nan), np.full(z.shape[0], nan)
    unit, most = "", True
    for k, check in checks:
        failing = check.verdict is not Verdict.HOLDS
        # The figure of a check that fails counts before one of a check that holds.
        if check.figure is not None and (failing or not (fails[k] or isfinite(figures[k]))):
            figures[k], unit = check.figure, check.unit
            if check.limit is not None:
                limits[k], most = check.limit, (check.figure > check.limit) == failing
        fails[k] = max(fails[k], float(failing))
    chance = float(fails.mean())
    if not 0.0 < chance < 1.0:
        return None
    low, middle, high = percentiles(figures)
    least, limit, largest = percentiles(limits)
    return Chance(
        *key, chance, low, middle, high, limit, unit, most, matters_of(fails, z, names),
        (least, largest) if largest > least else (nan, nan),
    )  # fmt: skip
