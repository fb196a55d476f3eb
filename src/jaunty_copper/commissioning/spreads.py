"""What is not known of a plan: what may differ, how far, and thousands of variants of it drawn at once."""

from dataclasses import dataclass

import numpy as np

from jaunty_copper.codes.case import Case
from jaunty_copper.commissioning.model import BANK_SHARE, BODY_SHARE, COPPER_SHARE, EMF_SHARE, LOAD_SHARE, UNIT_SHARE
from jaunty_copper.network.state import State
from jaunty_copper.physics.copper import Floats
from jaunty_copper.physics.operating_point import Solver
from jaunty_copper.physics.samples import Variants, Varied, vary

JOINT_SIGMA = 0.35
"""Standard deviation of the logarithm of a joint's resistance over its planned one: from clean to tired; representative."""
AIR_K = 5.0
"""Of the air, all places alike; representative."""
DEVICE_SHARE = 0.05
"""Of the current that a device holds; representative."""


@dataclass(frozen=True)
class Spreads:
    """Standard deviation of each kind of thing that is not known.

    Attributes
    ----------
    copper, body, bank, unit, load, emf, device : float
        As a share: conductors' own resistance (length and copper), device bodies, a bank's units all alike, units among
        each other, loads' power, EMF (the charge), and the current that a device holds.
    joint : float
        Of the logarithm of a joint's resistance.
    air_k : float
        Of the air, K.
    """

    copper: float = COPPER_SHARE
    joint: float = JOINT_SIGMA
    body: float = BODY_SHARE
    bank: float = BANK_SHARE
    unit: float = UNIT_SHARE
    load: float = LOAD_SHARE
    emf: float = EMF_SHARE
    air_k: float = AIR_K
    device: float = DEVICE_SHARE


Columns = dict[tuple[str, str], int]
"""Column of each unknown, by its kind and whose it is."""


def drawn(case: Case, samples: int, seed: int) -> tuple[Columns, Floats]:
    """What may differ, by kind and place, with its column; and standard normal numbers, a column each.

    Parameters
    ----------
    case : Case
        The studied plan.
    samples : int
        How many rows.
    seed : int
        Of the random numbers.

    Returns
    -------
    dict, ndarray of shape (samples, unknowns)
    """
    w = case.wiring
    keys: list[tuple[str, str]] = []
    for b in w.branches:
        keys += [("copper", b.owner), ("joint", b.owner)] if b.kind == "run" else []
        keys += [("unit", b.owner)] if b.kind == "battery" else []
        keys += [("body", b.owner)] if b.kind not in ("run", "battery") else []
    keys += [("bank", b.id) for b in w.banks] + [("load", e.id) for e in w.loads]
    keys += [("device", id_) for id_ in case.protection.devices] + [("emf", ""), ("air", "")]
    names = {key: k for k, key in enumerate(dict.fromkeys(keys))}
    return names, np.random.default_rng(seed).standard_normal((samples, len(names)))


def variants_of(case: Case, names: Columns, z: Floats, spreads: Spreads) -> Variants:
    """What differs in each variant, as shares of what is planned.

    Parameters
    ----------
    case : Case
        The studied plan.
    names : dict
        Column of each unknown.
    z : ndarray, shape (samples, unknowns)
        Standard normal numbers.
    spreads : Spreads
        Of each kind.
    """
    w = case.wiring
    fixed, copper, emf = (
        np.ones((z.shape[0], len(w.branches))),
        np.ones((z.shape[0], len(w.branches))),
        np.zeros((z.shape[0], len(w.branches))),
    )
    of_bank = {u.id: b.id for b in w.banks for u in b.units}
    for k, b in enumerate(w.branches):
        if b.kind == "run":
            fixed[:, k] = np.exp(spreads.joint * z[:, names["joint", b.owner]])
            copper[:, k] = np.maximum(1.0 + spreads.copper * z[:, names["copper", b.owner]], 0.5)
        elif b.kind == "battery":
            alike = z[:, names["bank", of_bank[b.owner]]] if b.owner in of_bank else 0.0
            fixed[:, k] = np.exp(spreads.bank * alike + spreads.unit * z[:, names["unit", b.owner]])
            emf[:, k] = spreads.emf * z[:, names["emf", ""]]
        else:
            fixed[:, k] = np.exp(spreads.body * z[:, names["body", b.owner]])
    load = (
        np.stack([1.0 + spreads.load * z[:, names["load", e.id]] for e in w.loads], axis=1)
        if w.loads
        else np.ones((z.shape[0], 0))
    )
    air = np.repeat(spreads.air_k * z[:, [names["air", ""]]], len(w.branches), axis=1)
    return Variants(fixed, copper, emf, np.maximum(load, 0.0), air)


def solved(case: Case, state: State, variants: Variants) -> Varied:
    """The operating points of all variants in one scenario.

    Parameters
    ----------
    case : Case
        The studied plan.
    state : State
        One of `Study.every`, with an operating point.
    variants : Variants
        Of the plan.
    """
    solver = Solver(case.wiring.circuit)
    solver.resume(state.duty, state.point)
    emf = variants.emf_v * state.duty.emf_v
    return vary(solver, Variants(variants.fixed, variants.copper, emf, variants.load, variants.air_k))
