"""What lies behind devices, kept as pairs, against the table of all devices by all faults."""

import numpy as np
from hypothesis import given
from hypothesis import strategies as st
from hypothesis.extra import numpy as hnp

from jaunty_copper.network.wiring import wire
from jaunty_copper.plan.examples import example, names
from jaunty_copper.protection.behind import Behind
from jaunty_copper.protection.faults import NOTHING_A, WHOLE, faults_of

TABLES = hnp.arrays(bool, st.tuples(st.integers(0, 6), st.integers(0, 9)))


@given(TABLES, st.data())
def test_pairs_say_what_the_table_says(table, data):
    device, fault = np.nonzero(table)
    behind = Behind(table.shape, device, fault)
    assert behind.count.tolist() == table.sum(axis=1).tolist()
    for k in range(table.shape[0]):
        assert behind.faults_of(k).tolist() == np.flatnonzero(table[k]).tolist()
    for k in range(table.shape[1]):
        assert behind.devices_of(k).tolist() == np.flatnonzero(table[:, k]).tolist()
    if table.shape[1]:
        some = np.array(data.draw(st.lists(st.integers(0, table.shape[1] - 1), max_size=8)), dtype=np.int64)
        assert behind.among(some).tolist() == table[:, some].tolist()


def test_a_device_has_behind_it_the_faults_of_examples_that_it_carries_whole():
    for name in names():
        faults = faults_of(wire(example(name)))
        amps, whole = np.abs(faults.least.branch_a.dense()[: len(faults.devices)]), np.abs(faults.least.current_a)
        wanted = (amps >= WHOLE * whole) & (amps > NOTHING_A)
        assert wanted.any()
        assert faults.behind.among(np.arange(whole.size)).tolist() == wanted.tolist()
