"""Fault currents along a conductor."""

import numpy as np

from jaunty_copper.physics.copper import Floats
from jaunty_copper.physics.fault import along
from jaunty_copper.physics.fault_currents import FaultCurrents
from jaunty_copper.protection.fault_network import CaseName, branches_of
from jaunty_copper.protection.faults import Faults


def along_run(faults: Faults, run_id: str, shares: Floats, case: CaseName = "peak") -> Floats:
    """Fault currents along a run, A, pole to pole, from its first end (0) to its second (1).

    Parameters
    ----------
    faults : Faults
        Of its plan.
    run_id : str
        The run.
    shares : ndarray, shape (n,)
        Where.
    case : str
        peak, steady or least.

    Raises
    ------
    KeyError
        There is no such run, or no opposite pole to fault it to.
    """
    w, places = faults.wiring, faults.places
    run, k = w.plan.run_by_id[run_id], w.branch[run_id]
    f: FaultCurrents = getattr(faults, case)
    span, own = float(f.span_ohm(k)), float(branches_of(w, case).ohm[k])
    ports = {ref for e in w.plan.equipment for ref in e.port}
    shared = {run.a, run.b}.isdisjoint(ports)
    returns = {places.refs[c][1]: c for c in places.columns[run.a] if shared}
    beside = [(returns[other], c, own) for c in places.columns[run.b] if (other := places.refs[c][1]) in returns]
    # Where it leads to equipment, whose return lies beside it, both lengths grow alike.
    columns = faults.far if case == "least" else faults.at
    found = []
    for a, b, ohm in beside or [(columns[run.a], columns[run.b], span)]:
        seen = along(shares, ohm, float(f.ohm[a]), float(f.ohm[b]), span)
        found.append(np.abs(((1.0 - shares) * f.open_v[a] + shares * f.open_v[b]) / seen))
    return np.asarray(np.min(found, axis=0) if case == "least" else np.max(found, axis=0))
