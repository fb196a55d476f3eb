"""Short circuits in steps: which device opens first, what flows then, and how hot conductors get meanwhile.

Between two openings nothing changes but heat, so that a fault is a sequence of steady states. Each follows from the one
factorisation of the whole network: an opened branch is a current injected across its ends (Woodbury).
"""

from dataclasses import dataclass

import numpy as np
from scipy.linalg import lu_factor, lu_solve

from jaunty_copper.physics.circuit import Flags, Ints
from jaunty_copper.physics.copper import Floats
from jaunty_copper.physics.curves import Band
from jaunty_copper.physics.fault_course import NOTHING_A, SAME
from jaunty_copper.physics.fault_currents import BLOCK, LEAST_OHM, FaultCurrents
from jaunty_copper.physics.warming import Warming, Watched
from jaunty_copper.physics.withstand import BETA_C

OPEN_OHM = 1e9
"""An open device has this many times its resistance: as good as none, and no matrix becomes singular by it."""
AT_ONCE = 4096
"""Cases that are followed together: more do not stay in a processor's own memory."""


@dataclass(frozen=True)
class Openers:
    """Devices that may open: the first branches that were asked for, one entry each.

    Attributes
    ----------
    rating_a : ndarray, shape (devices,)
        What the rating is worth.
    bands : tuple of Band
        How each opens.
    certainly : bool
        By the slow edge of the bands; else by the fast one.
    """

    rating_a: Floats
    bands: tuple[Band, ...]
    certainly: bool = True


@dataclass(frozen=True)
class Sequences:
    """What becomes of faults, and of the conductors that are followed.

    Attributes
    ----------
    first_a : ndarray, shape (cases,)
        Fault current before anything opens.
    opened_case, opened_device : ndarray of int, shape (openings,)
        Every opening in order of time within its case.
    opened_s : ndarray, shape (openings,)
        When.
    left_a : ndarray, shape (cases,)
        Fault current that nothing opens any more.
    carried_a : ndarray, shape (watched,)
        Through the conductor before anything opens.
    damaged_s : ndarray, shape (watched,)
        When its insulation is beyond what it withstands; inf where never.
    until_s : ndarray, shape (watched,)
        From when on it carries no more than its ampacity; inf where it goes on.
    let_a2s : ndarray, shape (watched,)
        Integral of the square of its current until then, of the first five seconds at most.
    hottest_c : ndarray, shape (watched,)
        Temperature that it reaches, the melting point of copper at most.
    """

    first_a: Floats
    opened_case: Ints
    opened_device: Ints
    opened_s: Floats
    left_a: Floats
    carried_a: Floats
    damaged_s: Floats
    until_s: Floats
    let_a2s: Floats
    hottest_c: Floats

    def order(self, case: int) -> list[tuple[int, float]]:
        """Devices that open in a case, with the time of each, s.

        Parameters
        ----------
        case : int
            Number of a case.
        """
        own = np.flatnonzero(self.opened_case == case)
        return [(int(self.opened_device[k]), float(self.opened_s[k])) for k in own]


def sequences(found: FaultCurrents, faults: Ints, fault_ohm: Floats, devices: Openers, watched: Watched) -> Sequences:
    """Follow faults until nothing opens any more.

    Parameters
    ----------
    found : FaultCurrents
        A solved network, of whose branches asked for the first are the devices.
    faults : ndarray of int, shape (cases,)
        Which fault each case is.
    fault_ohm : ndarray, shape (cases,)
        Resistance of the fault in each case.
    devices : Openers
        What may open.
    watched : Watched
        Conductors to follow.

    Notes
    -----
    A device is the nearer to opening by dt / t(I) for every step of constant current, as `curves.melted`. Copper is
    adiabatic for the first five seconds (IEC 60949) and then loses heat in proportion to its rise, at the rate that
    `long_a` balances. Copper's resistance stays what it is before the fault: who asks for the greatest and for the
    least resistance has what lies between.
    """
    return _Run(found, faults, fault_ohm, devices, watched).follow()


class _Run:
    def __init__(
        self, found: FaultCurrents, faults: Ints, fault_ohm: Floats, devices: Openers, watched: Watched
    ) -> None:
        self.found, self.faults, self.fault_ohm, self.devices, self.watched = found, faults, fault_ohm, devices, watched
        s, count = found.solved, devices.rating_a.size
        self.round = np.flatnonzero(s.is_round[:count])
        branch = s.asked[self.round]
        self.g = 1.0 / s.ohm[branch]
        self.before = self.g * s.drop_v[branch]
        self.moved = s.moved[s.round_row[self.round]]
        z = s.columns(branch) if branch.size else np.zeros((s.nodes, 0))
        self.dd = s.across(z, branch)
        self.mark = np.random.default_rng(1).integers(1, 2**63, self.round.size, dtype=np.uint64)
        self.bands = list({id(band): band for band in devices.bands}.values())
        place = {id(band): k for k, band in enumerate(self.bands)}
        self.group = np.array([place[id(band)] for band in devices.bands], dtype=np.int64)
        edges = [band.long_at if devices.certainly else band.short_at for band in devices.bands]
        self.begins = np.array([(e[0] if e.size else np.inf) * (1.0 - 1e-9) for e in edges])
        self.kind = s.kind[faults]
        self._near()
        self._tree(count)
        self._watch(z)

    def _near(self) -> None:
        """Devices where current goes round that may open before anything else has: one entry for each case and device."""
        s, used = self.found.solved, np.unique(self.faults)
        ohm = s.seen[used]
        amps = np.where(np.isfinite(ohm), s.open_v[used] / np.maximum(ohm, LEAST_OHM), 0.0)
        flow = self.before[:, None] - self.g[:, None] * self.moved[:, s.kind[used]] * amps
        # It changes in one direction with the fault's resistance: the most is at one of the ends.
        most = np.maximum(np.abs(flow), np.abs(self.before)[:, None])
        begins = self.begins[self.round] * self.devices.rating_a[self.round]
        fault, row = np.nonzero((most >= begins[:, None]).T)
        place = np.searchsorted(used, self.faults)
        low, high = np.searchsorted(fault, place), np.searchsorted(fault, place, side="right")
        self.near_case = np.repeat(np.arange(self.faults.size), high - low)
        within = np.arange(self.near_case.size) - np.repeat(np.cumsum(high - low) - (high - low), high - low)
        self.near_row = row[np.repeat(low, high - low) + within]

    def _tree(self, count: int) -> None:
        """Devices that carry the whole current of a fault or nothing: one entry for each case and device."""
        through = self.found.branch_a
        own = through.tree_row < count
        row, fault = through.tree_row[own], through.tree_fault[own]
        order = np.argsort(fault, kind="stable")
        row, fault = row[order], fault[order]
        low, high = np.searchsorted(fault, self.faults), np.searchsorted(fault, self.faults, side="right")
        many = high - low
        self.tree_case = np.repeat(np.arange(self.faults.size), many)
        within = np.arange(many.sum()) - np.repeat(np.cumsum(many) - many, many)
        self.tree_device = row[np.repeat(low, many) + within]

    def _watch(self, z: Floats) -> None:
        """What is needed for the current of each watched conductor."""
        s, w = self.found.solved, self.watched
        inner = np.zeros(s.ohm.size, dtype=bool)
        inner[list(s.inner)] = True
        turns = inner[w.branch]
        # Those in which current goes round, and the place of each in what follows.
        at_turn = np.flatnonzero(turns)
        self.turn = np.where(turns, np.cumsum(turns) - 1, -1)
        branch, kind = w.branch[at_turn], s.kind[self.faults[w.case[at_turn]]]
        self.w_g = 1.0 / s.ohm[branch]
        self.w_before = self.w_g * s.drop_v[branch]
        self.w_d = s.across(z, branch)
        self.w_f = np.zeros(branch.size)
        here, place = np.unique(branch, return_inverse=True)
        for begin in range(0, here.size, BLOCK):
            some = here[begin : begin + BLOCK]
            columns = s.columns(some)
            own = np.flatnonzero((place >= begin) & (place < begin + BLOCK))
            at = place[own] - begin
            self.w_f[own] = columns[s.p0[kind[own]], at] - columns[s.p1[kind[own]], at]
        # In the trees: the fault's own current, or none.
        self.share = np.zeros(w.branch.size)
        pair, on, sign = s.ways
        key = pair * s.ohm.size + on
        order = np.argsort(key)
        asked = self.faults[w.case] * s.ohm.size + w.branch
        at = np.minimum(np.searchsorted(key[order], asked), max(key.size - 1, 0))
        if key.size:
            hit = ~turns & (key[order][at] == asked)
            self.share[hit] = sign[order][at][hit]

    def _flow(self, open_: Flags, cases: Ints) -> tuple[Floats, Floats, Floats]:
        """Fault currents, those of devices where current goes round, and injections across the open ones.

        Parameters
        ----------
        open_ : ndarray of bool, shape (rounds,)
            Which are open.
        cases : ndarray of int, shape (n,)
            Cases in which these and no others are open.

        Returns
        -------
        ndarray, shapes (n,), (rounds, n), (rounds, n)
        """
        s = self.found.solved
        fault = self.faults[cases]
        d = self.moved[:, self.kind[cases]]
        at = np.flatnonzero(open_)
        inject = np.zeros(d.shape)
        ohm = s.seen[fault] + self.fault_ohm[cases]
        volts = s.open_v[fault]
        if at.size:
            matrix = np.eye(at.size) * (OPEN_OHM / (OPEN_OHM - 1.0)) - self.g[at, None] * self.dd[np.ix_(at, at)]
            factors = lu_factor(matrix, check_finite=False)
            still = lu_solve(factors, self.before[at], check_finite=False)
            pushed = lu_solve(factors, -self.g[at, None] * d[at], check_finite=False)
            volts = volts + d[at].T @ still
            ohm = ohm - np.einsum("kn,kn->n", d[at], pushed)
            amps = np.where(np.isfinite(ohm), volts / np.maximum(ohm, LEAST_OHM), 0.0)
            inject[at] = still[:, None] + pushed * amps
        else:
            amps = self._unopened(cases)
        flow = self.before[:, None] + self.g[:, None] * (self.dd[:, at] @ inject[at] - d * amps)
        flow[at] = 0.0
        return amps, flow, inject

    def _times(self, amps: Floats, device: Ints) -> Floats:
        """How long devices last at constant currents, s."""
        found = np.full(amps.shape, np.inf)
        multiple = np.abs(amps) / self.devices.rating_a[device].reshape(-1, *[1] * (amps.ndim - 1))
        at = np.nonzero(multiple >= self.begins[device].reshape(-1, *[1] * (amps.ndim - 1)))
        group, value = self.group[device[at[0]]], multiple[at]
        times = np.empty(value.size)
        for number, band in enumerate(self.bands):
            own = group == number
            if own.any():
                times[own] = (band.longest if self.devices.certainly else band.shortest)(value[own])
        found[at] = times
        return found

    def follow(self) -> Sequences:
        """Follow all cases, so many at once as a processor keeps at hand."""
        cases, of = self.faults.size, self.watched.case
        self.first, self.left, self.carried, self.time_s = (
            np.zeros(cases),
            np.zeros(cases),
            np.zeros(of.size),
            np.zeros(cases),
        )
        self.tree_melted = np.zeros(self.tree_case.size)
        self.heat, self.events = Warming(self.watched), list[tuple[Ints, Ints, Floats]]()
        by_case = np.argsort(of, kind="stable")
        for low in range(0, cases, AT_ONCE):
            high = min(low + AT_ONCE, cases)
            tree = np.arange(*np.searchsorted(self.tree_case, (low, high)))
            self._block(np.arange(low, high), tree, by_case[slice(*np.searchsorted(of[by_case], (low, high)))])
        nothing = (np.zeros(0, dtype=np.int64), np.zeros(0, dtype=np.int64), np.zeros(0))
        case, device, when = (np.concatenate(x) for x in zip(nothing, *self.events, strict=True))
        order, heat = np.lexsort((when, case)), self.heat
        return Sequences(
            self.first, case[order], device[order], when[order], self.left, self.carried, heat.damaged_s, heat.until_s,
            heat.let_a2s, heat.hottest_u - BETA_C,
        )  # fmt: skip

    def _block(self, now: Ints, tree: Ints, seen: Ints) -> None:
        """Step some cases from opening to opening; with their devices in trees, and what is watched in them."""
        amps = self._unopened(now)
        self.first[now] = amps
        # At first most devices are far from opening, whatever the fault's resistance: they are not looked at.
        near = np.arange(*np.searchsorted(self.near_case, (now[0], now[-1] + 1)))
        row, at = self.near_row[near], np.searchsorted(now, self.near_case[near])
        flow = self.before[row] - self.g[row] * self.moved[row, self.kind[now[at]]] * amps[at]
        lasts = self._times(flow, self.round[row])
        state = np.zeros((self.round.size, now.size), dtype=bool)
        dt, opens, here, in_tree, ended = self._step(
            now, tree, seen, amps, np.zeros(state.shape), (at, lasts, lasts), first=True
        )
        soon = opens[at] & (lasts <= dt[at] * (1.0 + SAME))
        self._opened(now[at[soon]], self.round[row[soon]])
        state[row[soon], at[soon]] = True
        melted = np.zeros(state.shape)
        melted[row, at] = dt[at] / lasts
        opens[in_tree[ended]] = False
        # Every step opens at least one more device in each case that goes on: it ends.
        while opens.any():
            tree, seen, now = tree[opens[in_tree]], seen[opens[here]], now[opens]
            state, melted = state[:, opens], melted[:, opens]
            amps, flow, inject = self._flows(state, now)
            lasts = self._times(flow, self.round)
            waits = np.full(lasts.shape, np.inf)
            np.multiply(1.0 - melted, lasts, out=waits, where=np.isfinite(lasts) & ~state)
            row, at = np.nonzero(np.isfinite(waits))
            dt, opens, here, in_tree, ended = self._step(
                now, tree, seen, amps, inject, (at, waits[row, at], lasts[row, at])
            )
            melted += dt / lasts
            row, at = np.nonzero(opens & (waits <= dt * (1.0 + SAME)))
            self._opened(now[at], self.round[row])
            state[row, at] = True
            # What stands in the only way ends the fault.
            opens[in_tree[ended]] = False

    def _step(
        self, now: Ints, tree: Ints, seen: Ints, amps: Floats, inject: Floats, round_: tuple[Ints, Floats, Floats],
        first: bool = False,
    ) -> tuple[Floats, Flags, Ints, Ints, Ints]:  # fmt: skip
        """Let currents flow until the next opening.

        Parameters
        ----------
        now, tree, seen : ndarray of int
            Cases that go on, and entries of devices in trees and of watched conductors in them.
        amps, inject : ndarray
            As in `_flow`.
        round_ : tuple of ndarray
            Of devices where current goes round: place of the case, time to their opening, time they last.
        first : bool
            Nothing has opened yet.

        Returns
        -------
        tuple of ndarray
            Time that passes in each case; whether something opens then; places of the cases of `seen` and `tree`;
            which of `tree` open.
        """
        here, in_tree = np.searchsorted(now, self.watched.case[seen]), np.searchsorted(now, self.tree_case[tree])
        carries = self._carried(seen, here, amps, inject)
        if first:
            self.carried[seen] = np.abs(carries)
        alive = np.abs(amps) >= NOTHING_A
        lasts = self._times(amps[in_tree], self.tree_device[tree])
        waits = (1.0 - self.tree_melted[tree]) * lasts
        dt = np.full(now.size, np.inf)
        np.minimum.at(dt, round_[0], round_[1])
        np.minimum.at(dt, in_tree, waits)
        self.heat.flows(seen, np.where(alive, dt, 0.0)[here], carries, self.time_s[self.watched.case[seen]])
        opens = alive & np.isfinite(dt)
        self.left[now[alive & ~opens]] = np.abs(amps[alive & ~opens])
        dt = np.where(opens, dt, 0.0)
        self.time_s[now] += dt
        self.tree_melted[tree] = np.minimum(self.tree_melted[tree] + dt[in_tree] / lasts, 1.0 - 1e-12)
        ended = np.flatnonzero(opens[in_tree] & (waits <= dt[in_tree] * (1.0 + SAME)))
        self._opened(now[in_tree[ended]], self.tree_device[tree[ended]])
        return dt, opens, here, in_tree, ended

    def _opened(self, case: Ints, device: Ints) -> None:
        self.events.append((case, device, self.time_s[case]))

    def _unopened(self, cases: Ints) -> Floats:
        """Fault currents before anything has opened."""
        s, fault = self.found.solved, self.faults[cases]
        ohm = s.seen[fault] + self.fault_ohm[cases]
        return np.where(np.isfinite(ohm), s.open_v[fault] / np.maximum(ohm, LEAST_OHM), 0.0)

    def _flows(self, open_: Flags, cases: Ints) -> tuple[Floats, Floats, Floats]:
        """As `_flow`, each case with its own open devices."""
        amps, flow, inject = np.zeros(cases.size), np.zeros(open_.shape), np.zeros(open_.shape)
        # A number for each set: the sum of its devices' random ones, equal for two sets by chance once in 1e19.
        key = self.mark @ open_
        order = np.argsort(key, kind="stable")
        for own in np.split(order, np.flatnonzero(np.diff(key[order])) + 1):
            if own.size:
                amps[own], flow[:, own], inject[:, own] = self._flow(open_[:, own[0]], cases[own])
        return amps, flow, inject

    def _carried(self, seen: Ints, at: Ints, amps: Floats, inject: Floats) -> Floats:
        """Through watched conductors, of which each is in the case at a place of those that go on."""
        found = self.share[seen] * amps[at]
        turns = np.flatnonzero(self.turn[seen] >= 0)
        k, case = self.turn[seen[turns]], at[turns]
        pushed = np.einsum("nk,kn->n", self.w_d[k], inject[:, case])
        found[turns] = self.w_before[k] + self.w_g[k] * (pushed - self.w_f[k] * amps[case])
        return found
