"""Short circuits in steps: which device opens first, what flows then, and how hot conductors get meanwhile.

Between two openings nothing changes but heat, so that a fault is a sequence of steady states. Each follows from the one
factorisation of the whole network: an opened branch is a current injected across its ends (Woodbury).
"""

from dataclasses import dataclass
from typing import NamedTuple

import numpy as np

from jaunty_copper.physics.circuit import Flags, Ints
from jaunty_copper.physics.copper import Floats
from jaunty_copper.physics.curves import Band
from jaunty_copper.physics.fault_course import NOTHING_A, SAME
from jaunty_copper.physics.fault_currents import LEAST_OHM, FaultCurrents
from jaunty_copper.physics.ranges import expanded, marks
from jaunty_copper.physics.warming import Warming, Watched
from jaunty_copper.physics.withstand import BETA_C

OPEN_OHM = 1e9
"""An open device has this many times its resistance: as good as none, and no matrix becomes singular by it."""
AT_ONCE = 8192
"""Cases that are followed together: what they need at once is to stay some tens of megabytes."""


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


class _Response(NamedTuple):
    """How a network with some devices open answers to faults of some kinds.

    Attributes
    ----------
    begin_a, slope : ndarray, shapes (rounds,) and (rounds, kinds)
        Current of each device where current goes round: what flows without the fault's, and what comes for each ampere of it.
    more_v, more_ohm : ndarray, shape (kinds,)
        By what the fault's open voltage and the resistance that it sees differ from those with nothing open.
    still, pushed : ndarray, shapes (open,) and (open, kinds)
        What is injected across what is open, in the same way.
    """

    begin_a: Floats
    slope: Floats
    more_v: Floats
    more_ohm: Floats
    still: Floats
    pushed: Floats


class _Flows(NamedTuple):
    """Currents until the next opening.

    Attributes
    ----------
    amps : ndarray, shape (n,)
        Of the faults.
    at, row, device_a : ndarray, shape (near,)
        Of devices where current goes round, and which may open by it: place of the case, row of the device, current.
    carried_a : ndarray, shape (seen,)
        Through watched conductors.
    """

    amps: Floats
    at: Ints
    row: Ints
    device_a: Floats
    carried_a: Floats


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
        self.moved = s.moved[: self.round.size]  # Devices are asked for before anything else.
        self.dd = s.between(branch, branch)
        self.mark = marks(self.round.size)
        self.bands = list({id(band): band for band in devices.bands}.values())
        place = {id(band): k for k, band in enumerate(self.bands)}
        self.group = np.array([place[id(band)] for band in devices.bands], dtype=np.int64)
        edges = [band.long_at if devices.certainly else band.short_at for band in devices.bands]
        self.begins = np.array([(e[0] if e.size else np.inf) * (1.0 - 1e-9) for e in edges])
        self.kind = s.kind[faults]
        self._tree(count)
        self._watch(branch)

    def _tree(self, count: int) -> None:
        """Devices that carry the whole current of a fault or nothing: one entry for each case and device."""
        through = self.found.branch_a
        own = through.tree_row < count
        row, fault = through.tree_row[own], through.tree_fault[own]
        order = np.argsort(fault, kind="stable")
        row, fault = row[order], fault[order]
        low, high = (np.searchsorted(fault, self.faults, side=side) for side in ("left", "right"))
        self.tree_case, entry = expanded(low, high - low)
        self.tree_device = row[entry]

    def _watch(self, device: Ints) -> None:
        """What is needed for the current of each watched conductor."""
        s, w = self.found.solved, self.watched
        inner = np.zeros(s.ohm.size, dtype=bool)
        inner[list(s.inner)] = True
        turns = inner[branch := w.branch[w.row]]
        # Those in which current goes round, and the place of each in what follows.
        at_turn = np.flatnonzero(turns)
        self.turn = np.where(turns, np.cumsum(turns) - 1, -1)
        kind = s.kind[self.faults[w.case[at_turn]]]
        here, self.w_place = np.unique(branch[at_turn], return_inverse=True)
        self.w_g = 1.0 / s.ohm[here]
        self.w_before = self.w_g * s.drop_v[here]
        self.w_d = s.between(here, device)
        # Of a conductor and a kind of fault there are many cases.
        pair, of = np.unique(self.w_place * s.p0.size + kind, return_inverse=True)
        self.w_f = s.moves(here[pair // s.p0.size], pair % s.p0.size)[of]
        # In the trees: the fault's own current, or none.
        self.share = np.zeros(branch.size)
        pair, on, sign = s.ways
        key = pair * s.ohm.size + on
        order = np.argsort(key)
        asked = self.faults[w.case] * s.ohm.size + branch
        at = np.minimum(np.searchsorted(key[order], asked), max(key.size - 1, 0))
        if key.size:
            hit = ~turns & (key[order][at] == asked)
            self.share[hit] = sign[order][at][hit]

    def follow(self) -> Sequences:
        """Follow all cases, so many at once as memory allows."""
        cases, size = self.faults.size, self.watched.case.size
        self.first, self.left, self.time_s, self.carried = (np.zeros(n) for n in (cases, cases, cases, size))
        self.tree_melted = np.zeros(self.tree_case.size)
        self.heat, self.events = Warming(self.watched), list[tuple[Ints, Ints, Floats]]()
        by_kind = np.argsort(self.kind, kind="stable")
        for begin in range(0, cases, AT_ONCE):
            self._block(by_kind[begin : begin + AT_ONCE])
        nothing = (np.zeros(0, dtype=np.int64), np.zeros(0, dtype=np.int64), np.zeros(0))
        case, device, when = (np.concatenate(x) for x in zip(nothing, *self.events, strict=True))
        order, heat = np.lexsort((when, case)), self.heat
        return Sequences(
            self.first, case[order], device[order], when[order], self.left, self.carried, heat.damaged_s, heat.until_s,
            heat.let_a2s, heat.hottest_u - BETA_C,
        )  # fmt: skip

    def _block(self, now: Ints) -> None:
        """Step some cases, in the order of their kinds, from opening to opening."""
        place = np.full(self.faults.size, -1)
        place[now] = 0
        tree, seen = np.flatnonzero(place[self.tree_case] == 0), np.flatnonzero(place[self.watched.case] == 0)
        # Cases in which the same devices are open answer alike: the sets there are, and that of each case.
        open_, of, first = [np.zeros(0, dtype=np.int64)], np.zeros(now.size, dtype=np.int64), True
        # By case and device, ascending: how near each is to opening, where it is nearer than at first.
        melted_key, melted = np.zeros(0, dtype=np.int64), np.zeros(0)
        # Every step opens at least one more device in each case that goes on: it ends.
        while now.size:
            order = np.argsort(of, kind="stable")
            now, of = now[order], of[order]
            place[now] = np.arange(now.size)
            here, in_tree = place[self.watched.case[seen]], place[self.tree_case[tree]]
            flows = self._flows(open_, of, now, seen, here)
            if first:
                self.first[now], self.carried[seen], first = flows.amps, np.abs(flows.carried_a), False
            lasts = self._times(flows.device_a, self.round[flows.row])
            may = np.flatnonzero(np.isfinite(lasts))
            at, row, lasts = flows.at[may], flows.row[may], lasts[may]
            key = now[at] * self.round.size + row
            known = np.minimum(np.searchsorted(melted_key, key), max(melted_key.size - 1, 0))
            again = melted_key[known] == key if melted_key.size else np.zeros(key.size, dtype=bool)
            before = np.zeros(key.size)
            before[again] = melted[known[again]]
            waits = (1.0 - before) * lasts
            dt, opens, ended = self._step(now, tree, in_tree, seen, here, flows, at, waits)
            soon = opens[at] & (waits <= dt[at] * (1.0 + SAME))
            self._opened(now[at[soon]], self.round[row[soon]])
            # What stands in the only way ends the fault.
            opens[ended] = False
            stays = opens[place[melted_key // self.round.size]] if melted_key.size else np.zeros(0, dtype=bool)
            stays[known[again]] = False
            goes = opens[at] & ~soon
            melted_key = np.concatenate([melted_key[stays], key[goes]])
            melted = np.concatenate([melted[stays], (before + dt[at] / lasts)[goes]])
            order = np.argsort(melted_key)
            melted_key, melted = melted_key[order], melted[order]
            open_, of = self._grown(open_, of, at[soon], row[soon], np.flatnonzero(opens))
            tree, seen, now = tree[opens[in_tree]], seen[opens[here]], now[opens]

    def _grown(self, open_: list[Ints], of: Ints, at: Ints, row: Ints, on: Ints) -> tuple[list[Ints], Ints]:
        """The sets of open devices after some more have opened, and which each case that goes on has."""
        # A number for each set: the sum of its devices' marks, equal for two sets by chance once in 1e19.
        number = np.array([self.mark[rows].sum(dtype=np.uint64) for rows in open_], dtype=np.uint64)[of]
        np.add.at(number, at, self.mark[row])
        _, one, new = np.unique(number[on], return_index=True, return_inverse=True)
        order = np.argsort(at, kind="stable")
        low, high = (np.searchsorted(at[order], on[one], side=side) for side in ("left", "right"))
        opened = row[order]
        return [
            np.concatenate([open_[of[k]], opened[begin:end]])
            for k, begin, end in zip(on[one], low, high, strict=True)
        ], np.asarray(new.ravel(), dtype=np.int64)  # fmt: skip

    def _response(self, at: Ints, kinds: Ints) -> _Response:
        """How the network answers with the devices of some rows open."""
        d = self.moved[:, kinds]
        if not at.size:
            none = np.zeros(kinds.size)
            return _Response(self.before, -self.g[:, None] * d, none, none, np.zeros(0), d[at])
        matrix = np.eye(at.size) * (OPEN_OHM / (OPEN_OHM - 1.0)) - self.g[at, None] * self.dd[np.ix_(at, at)]
        wanted = np.column_stack([self.before[at], -self.g[at, None] * d[at]])
        solved = np.asarray(np.linalg.solve(matrix, wanted), float)
        still, pushed = solved[:, 0], solved[:, 1:]
        begin_a = self.before + self.g * (self.dd[:, at] @ still)
        slope = self.g[:, None] * (self.dd[:, at] @ pushed - d)
        begin_a[at], slope[at] = 0.0, 0.0
        return _Response(begin_a, slope, still @ d[at], -np.einsum("kn,kn->n", d[at], pushed), still, pushed)

    def _flows(self, open_: list[Ints], of: Ints, now: Ints, seen: Ints, here: Ints) -> _Flows:
        """Currents in cases that stand by their sets of open devices, and within those by their kinds."""
        s, fault, kind = self.found.solved, self.faults[now], self.kind[now]
        volts, ohm = s.open_v[fault], s.seen[fault] + self.fault_ohm[now]
        amps, begins = np.zeros(now.size), np.searchsorted(of, np.arange(len(open_) + 1))
        limit = self.begins[self.round] * self.devices.rating_a[self.round]
        turns = np.flatnonzero(self.turn[seen] >= 0)
        turns = turns[np.argsort(of[here[turns]], kind="stable")]
        watched = np.searchsorted(of[here[turns]], np.arange(len(open_) + 1))
        near = [(np.zeros(0, dtype=np.int64), np.zeros(0, dtype=np.int64), np.zeros(0))]
        pushed_v = np.zeros(turns.size)
        for k, rows in enumerate(open_):
            low, high = begins[k], begins[k + 1]
            start = np.flatnonzero(np.diff(kind[low:high], prepend=-1))
            many = np.diff(start, append=high - low)
            r = self._response(rows, kind[low:high][start])
            column = np.repeat(np.arange(start.size), many)
            sees = ohm[low:high] + r.more_ohm[column]
            flows = np.isfinite(sees)
            own = np.where(
                flows, (volts[low:high] + r.more_v[column]) / np.where(flows, np.maximum(sees, LEAST_OHM), 1.0), 0.0
            )
            amps[low:high] = own
            # It changes in one direction with the fault's current: the most is at one of its ends.
            ends = (r.begin_a[:, None] + r.slope * edge.reduceat(own, start) for edge in (np.minimum, np.maximum))
            row, at = np.nonzero(np.maximum(*map(np.abs, ends)) >= limit[:, None])
            entry, case = expanded(start[at], many[at])
            device = row[entry]
            near.append((low + case, device, r.begin_a[device] + r.slope[device, column[case]] * own[case]))
            if rows.size:
                mine = slice(watched[k], watched[k + 1])
                across = self.w_d[self.w_place[self.turn[seen[turns[mine]]]][:, None], rows]
                case = here[turns[mine]] - low
                pushed_v[mine] = across @ r.still + np.einsum("nk,kn->n", across, r.pushed[:, column[case]]) * own[case]
        carried = self.share[seen] * amps[here]
        turn = self.turn[seen[turns]]
        b = self.w_place[turn]
        carried[turns] = self.w_before[b] + self.w_g[b] * (pushed_v - self.w_f[turn] * amps[here[turns]])
        at, row, device_a = (np.concatenate(x) for x in zip(*near, strict=True))
        return _Flows(amps, at, row, device_a, carried)

    def _times(self, amps: Floats, device: Ints) -> Floats:
        """How long devices last at constant currents, s."""
        found, multiple = np.full(amps.shape, np.inf), np.abs(amps) / self.devices.rating_a[device]
        at = np.flatnonzero(multiple >= self.begins[device])
        group, value = self.group[device[at]], multiple[at]
        for number, band in enumerate(self.bands):
            own = np.flatnonzero(group == number)
            if own.size:
                found[at[own]] = (band.longest if self.devices.certainly else band.shortest)(value[own])
        return found

    def _step(
        self, now: Ints, tree: Ints, in_tree: Ints, seen: Ints, here: Ints, flows: _Flows, at: Ints, waits: Floats
    ) -> tuple[Floats, Flags, Ints]:
        """Let currents flow until the next opening.

        Parameters
        ----------
        now, tree, seen : ndarray of int
            Cases that go on, and entries of devices in trees and of watched conductors in them.
        in_tree, here : ndarray of int
            Places of the cases of those.
        at, waits : ndarray
            Of devices where current goes round: place of the case, time to their opening.

        Returns
        -------
        tuple of ndarray
            Time that passes in each case; whether something opens then; places of the cases that end by it.
        """
        amps = flows.amps
        alive = np.abs(amps) >= NOTHING_A
        lasts = self._times(amps[in_tree], self.tree_device[tree])
        wait = (1.0 - self.tree_melted[tree]) * lasts
        dt = np.full(now.size, np.inf)
        np.minimum.at(dt, at, waits)
        np.minimum.at(dt, in_tree, wait)
        self.heat.flows(seen, np.where(alive, dt, 0.0)[here], flows.carried_a, self.time_s[self.watched.case[seen]])
        opens = alive & np.isfinite(dt)
        self.left[now[alive & ~opens]] = np.abs(amps[alive & ~opens])
        dt = np.where(opens, dt, 0.0)
        self.time_s[now] += dt
        self.tree_melted[tree] = np.minimum(self.tree_melted[tree] + dt[in_tree] / lasts, 1.0 - 1e-12)
        ended = np.flatnonzero(opens[in_tree] & (wait <= dt[in_tree] * (1.0 + SAME)))
        self._opened(now[in_tree[ended]], self.tree_device[tree[ended]])
        return dt, opens, in_tree[ended]

    def _opened(self, case: Ints, device: Ints) -> None:
        self.events.append((case, device, self.time_s[case]))
