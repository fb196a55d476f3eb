"""What short circuits drive through branches: kept by what drives it, not as a table of all branches by all faults."""

from dataclasses import dataclass
from functools import cached_property

import numpy as np

from jaunty_copper.physics.circuit import Ints
from jaunty_copper.physics.copper import Floats
from jaunty_copper.physics.ranges import expanded

ENTRIES_AT_ONCE = 500_000
"""Of such a table, as many are looked at in one go."""


@dataclass(frozen=True)
class Rounds:
    """Branches in which current can go round, in every fault.

    Attributes
    ----------
    branch : ndarray of int, shape (rounds,)
        Which of the branches asked for they are.
    before_a, siemens : ndarray, shape (rounds,)
        Their current before any fault, and conductance.
    moved : ndarray, shape (rounds, kinds)
        Voltage across each for one ampere through each kind of fault, V.
    kind : ndarray of int, shape (faults,)
        Of each fault.
    current_a : ndarray, shape (faults,)
        Through the faults.
    """

    branch: Ints
    before_a: Floats
    siemens: Floats
    moved: Floats
    kind: Ints
    current_a: Floats

    def each(self, rounds: Ints | int, faults: Ints | int) -> Floats:
        """Current of some of them, each in one fault, A; shapes as of the two broadcast against each other.

        Parameters
        ----------
        rounds, faults : ndarray of int or int
            Numbers among the rounds, and of the faults.
        """
        moved = self.moved[rounds, self.kind[faults]]
        return np.asarray(self.before_a[rounds] - self.siemens[rounds] * moved * self.current_a[faults])


@dataclass(frozen=True)
class BranchCurrents:
    """Current through some branches during each fault, from a to b, A.

    A branch of a tree carries the current of the faults that hang on it and of no other: a table of all branches by
    all faults would grow with the square of a plan and hold nothing but zeros.

    Attributes
    ----------
    shape : (int, int)
        Branches asked for, faults.
    rounds : Rounds
        Branches in which current can go round.
    tree_row, tree_fault, tree_a : ndarray, shape (entries,)
        The others: branch, fault, current; ascending by branch.
    """

    shape: tuple[int, int]
    rounds: Rounds
    tree_row: Ints
    tree_fault: Ints
    tree_a: Floats

    @cached_property
    def _round_at(self) -> Ints:
        """Of each branch its number among the rounds; -1 for others."""
        found = np.full(self.shape[0], -1, dtype=np.int64)
        found[self.rounds.branch] = np.arange(self.rounds.branch.size)
        return found

    @cached_property
    def _begins(self) -> Ints:
        return np.searchsorted(self.tree_row, np.arange(self.shape[0] + 1))

    @cached_property
    def _by_fault(self) -> tuple[Ints, Ints]:
        """The tree's entries ascending by fault, and where each fault begins among them."""
        order = np.argsort(self.tree_fault, kind="stable")
        return order, np.searchsorted(self.tree_fault[order], np.arange(self.shape[1] + 1))

    @cached_property
    def _by_key(self) -> tuple[Ints, Floats]:
        """Branch and fault of the tree's entries as one number each, ascending, with the current."""
        key = self.tree_row * self.shape[1] + self.tree_fault
        order = np.argsort(key)
        return key[order], self.tree_a[order]

    def row(self, branch: int) -> Floats:
        """Through one branch in every fault, shape (faults,).

        Parameters
        ----------
        branch : int
            Number of a branch.
        """
        k = self._round_at[branch]
        if k >= 0:
            return self.rounds.each(k, np.arange(self.shape[1]))
        found = np.zeros(self.shape[1])
        own = slice(*self._begins[branch : branch + 2])
        found[self.tree_fault[own]] = self.tree_a[own]
        return found

    def at(self, branch: int, fault: int) -> float:
        """Through one branch in one fault, A.

        Parameters
        ----------
        branch, fault : int
            Numbers of a branch and of a fault.
        """
        k = self._round_at[branch]
        if k >= 0:
            return float(self.rounds.each(k, fault))
        own = slice(*self._begins[branch : branch + 2])
        return float(self.tree_a[own][self.tree_fault[own] == fault].sum())

    def each(self, branches: Ints, faults: Ints) -> Floats:
        """Through branches, each in one fault, A.

        Parameters
        ----------
        branches, faults : ndarray of int, shape (n,)
            Numbers of branches and of faults.
        """
        keys, tree_a = self._by_key
        found = np.zeros(branches.size)
        if keys.size:
            wanted = branches * self.shape[1] + faults
            place = np.minimum(np.searchsorted(keys, wanted), keys.size - 1)
            found = np.where(keys[place] == wanted, tree_a[place], 0.0)
        k = self._round_at[branches]
        rounds = np.flatnonzero(k >= 0)
        found[rounds] = self.rounds.each(k[rounds], faults[rounds])
        return found

    def greatest(self) -> tuple[Floats, Ints]:
        """Most that each branch carries in any fault, whichever way, A, and in which; shapes (branches,)."""
        amps, where = np.zeros(self.shape[0]), np.zeros(self.shape[0], dtype=np.int64)
        if self.shape[1]:
            for k, branch in enumerate(self.rounds.branch.tolist()):
                own = np.abs(self.rounds.each(k, np.arange(self.shape[1])))
                where[branch] = np.argmax(own)
                amps[branch] = own[where[branch]]
            order = np.lexsort((-self.tree_fault, np.abs(self.tree_a)))
            # The last that is written stays: the greatest, of equals the first.
            amps[self.tree_row[order]] = np.abs(self.tree_a[order])
            where[self.tree_row[order]] = self.tree_fault[order]
        return amps, where

    def during(self, faults: Ints, share: float = 0.0) -> tuple[Ints, Ints, Floats]:
        """What flows in some faults.

        Parameters
        ----------
        faults : ndarray of int, shape (n,)
            Columns of the faults.
        share : float
            What carries less of the fault's current is left out.

        Returns
        -------
        ndarray, shapes (entries,)
            Branch, position among `faults`, and current; what carries nothing is left out.
        """
        order, begins = self._by_fault
        count = begins[faults + 1] - begins[faults]
        position, place = expanded(begins[faults], count)
        entry = order[place]
        found = [(self.tree_row[entry], position, self.tree_a[entry])]
        rounds = np.arange(self.rounds.branch.size)[:, None]
        least = share * np.abs(self.rounds.current_a[faults])
        step = max(ENTRIES_AT_ONCE // max(rounds.size, 1), 1)
        for begin in range(0, faults.size if rounds.size else 0, step):
            block = self.rounds.each(rounds, faults[begin : begin + step])
            k, column = np.nonzero((np.abs(block) >= least[begin : begin + step]) & (block != 0.0))
            found.append((self.rounds.branch[k], begin + column, block[k, column]))
        rows, positions, amps = (np.concatenate(x) for x in zip(*found, strict=True))
        return rows, positions, amps

    def dense(self) -> Floats:
        """The whole table, shape (branches, faults): for small ones."""
        return np.array([self.row(k) for k in range(self.shape[0])]).reshape(self.shape)
