"""What short circuits drive: through the faults, through branches, and what else the same factorisation tells."""

from dataclasses import dataclass

import numpy as np

from jaunty_copper.physics.branch_currents import BranchCurrents
from jaunty_copper.physics.chains import Core
from jaunty_copper.physics.circuit import Flags, Ints
from jaunty_copper.physics.copper import Floats

LEAST_OHM = 1e-9
"""Below this a path is no resistance but the remains of arithmetic."""


@dataclass(frozen=True)
class FaultCurrents:
    """Faults at several pairs of nodes, one at a time.

    Attributes
    ----------
    current_a : ndarray, shape (pairs,)
        Through the fault, from the first to the second node of each pair.
    open_v, ohm : ndarray, shape (pairs,)
        Voltage there before it, and resistance that it sees; inf where nothing joins the two.
    branch_a : BranchCurrents
        Through each branch asked for, during each fault.
    henry : ndarray, shape (pairs,)
        Inductance that each fault sees: with `ohm` the time constant of its rise. 0 where the
        branches were given none.
    solved : Solved
        What else can be asked of the same factorisation.
    """

    current_a: Floats
    open_v: Floats
    ohm: Floats
    branch_a: BranchCurrents
    henry: Floats
    solved: "Solved"

    def span_ohm(self, branch: int) -> float:
        """Resistance between the ends of a branch, the others in place, ohm.

        Parameters
        ----------
        branch : int
            Its number.
        """
        s = self.solved
        if branch not in s.inner:
            return float(s.ohm[branch])
        return float(s.span_ohm(np.array([branch]))[0])

    def prospective_a(self, rows: Ints, faults: Ints) -> Floats:
        """Currents through branches if a link without resistance stood in their place, A, from a to b.

        What an interrupt rating is held against (IEC 60050-442-01-02).

        Parameters
        ----------
        rows : ndarray of int, shape (n,)
            Branches asked for, by their rows.
        faults : ndarray of int, shape (n,)
            In which fault each.

        Returns
        -------
        ndarray, shape (n,)
            inf where nothing else limits it.
        """
        through = self.branch_a
        amps = through.each(rows, faults)
        own, span, over, whole = self._seen_from(rows, faults)
        beside = span - over**2 / whole
        alone = beside > 1e-9 * own
        linked = np.where(alone, amps * own / np.where(alone, beside, 1.0), np.copysign(np.inf, amps))
        return np.where(amps == 0.0, 0.0, linked)

    def unaided_a(self, rows: Ints, faults: Ints) -> Floats:
        """Currents of faults with a branch open that current can go round, A: what comes without it.

        At the branch's own terminal that is what would flow through it once nothing beside it carries any more.

        Parameters
        ----------
        rows : ndarray of int, shape (n,)
            Branches that are open, by their rows, each in one fault.
        faults : ndarray of int, shape (n,)
            In which fault each.

        Returns
        -------
        ndarray, shape (n,)
            0 where nothing goes round the branch.

        Notes
        -----
        To take a conductance away is a change of rank one (Sherman and Morrison, Annals of Mathematical Statistics 21, 1950).
        """
        s = self.solved
        own, span, over, whole = self._seen_from(rows, faults)
        slack = own - span
        round_ = s.is_round[rows] & (slack > 1e-9 * own)
        slack = np.where(round_, slack, np.inf)
        open_v = s.open_v[faults] + over * s.drop_v[s.asked[rows]] / slack
        return np.where(round_, open_v / (whole + over**2 / slack), 0.0)

    def _seen_from(self, rows: Ints, faults: Ints) -> tuple[Floats, Floats, Floats, Floats]:
        """Resistance of branches, what their ends see, what a fault moves across them for 1 A, and what the fault sees."""
        s = self.solved
        branch = s.asked[rows]
        own, whole = s.ohm[branch], np.maximum(s.seen[faults], LEAST_OHM) + s.fault_ohm
        # Seen from its own ends a branch feeds what lies around it in parallel with itself.
        span, over = own.copy(), own.copy()
        turns = np.flatnonzero(s.is_round[rows])
        if turns.size:
            span[turns] = s.span_ohm(branch[turns])
            over[turns] = s.moved[s.round_row[rows[turns]], s.kind[faults[turns]]]
        return own, span, over, whole


@dataclass(frozen=True)
class Solved:
    """A factored network with its faults.

    Attributes
    ----------
    ohm, drop_v : ndarray, shape (branches,)
        Resistance, and voltage that drives through it before any fault: its ends' and its own.
    inner : frozenset of int
        Branches in which current can go round.
    a, b : ndarray of int, shape (branches,)
        Ends among the nodes that are solved for; -1 elsewhere.
    asked : ndarray of int
        Branches asked for.
    is_round, round_row : ndarray, shape (asked,)
        Whether current can go round in each, and its row in `moved`.
    p0, p1 : ndarray of int, shape (kinds,)
        Nodes of each pair that differs there.
    kind : ndarray of int, shape (faults,)
        Which pair each fault is.
    moved : ndarray, shape (rounds, kinds)
        Voltage across each such branch for one ampere between each pair, V.
    seen, open_v : ndarray, shape (faults,)
        As in `FaultCurrents`.
    fault_ohm : float
        Resistance of the faults.
    ways : tuple of ndarray
        Fault, branch and sign of every branch of a tree that carries the whole current of a fault.
    core : Core
        What is left to be solved.
    """

    ohm: Floats
    drop_v: Floats
    inner: frozenset[int]
    a: Ints
    b: Ints
    asked: Ints
    is_round: Flags
    round_row: Ints
    p0: Ints
    p1: Ints
    kind: Ints
    moved: Floats
    seen: Floats
    open_v: Floats
    fault_ohm: float
    ways: tuple[Ints, Ints, Floats]
    core: Core

    def span_ohm(self, branches: Ints) -> Floats:
        """Resistance between the ends of branches in which current can go round, each among the others, ohm.

        Parameters
        ----------
        branches : ndarray of int, shape (n,)
            Their numbers.
        """
        a, b = self.a[branches], self.b[branches]
        return self.core.each(a, b, a, b)

    def between(self, branches: Ints, others: Ints) -> Floats:
        """Voltage between the ends of branches for one ampere through the ends of others, shape (branches, others), V.

        Parameters
        ----------
        branches, others : ndarray of int
            Their numbers; current can go round in each.
        """
        return self.core.table(self.a[branches], self.b[branches], self.a[others], self.b[others])

    def moves(self, branches: Ints, kinds: Ints) -> Floats:
        """Voltage between the ends of branches for one ampere through a fault, entry by entry, V.

        Parameters
        ----------
        branches : ndarray of int, shape (n,)
            Their numbers; current can go round in each.
        kinds : ndarray of int, shape (n,)
            Which pair the fault joins.
        """
        return self.core.each(self.a[branches], self.b[branches], self.p0[kinds], self.p1[kinds])
