"""Places and sets of entries: against lists, and published numbers."""

import numpy as np

from jaunty_copper.physics.ranges import expanded, marked, marks


def test_runs_of_entries_written_one_after_the_other():
    rng = np.random.default_rng(4)
    for _ in range(50):
        begins, counts = rng.integers(0, 40, 7), rng.integers(0, 4, 7)
        of, at = expanded(begins, counts)
        by_hand = [(k, b + j) for k, (b, n) in enumerate(zip(begins, counts, strict=True)) for j in range(n)]
        assert list(zip(of.tolist(), at.tolist(), strict=True)) == [(k, int(p)) for k, p in by_hand]


def test_places_are_marked_once_however_often_they_are_named():
    rng = np.random.default_rng(5)
    some, more = rng.integers(0, 30, 12), rng.integers(0, 30, (2, 5))
    found = marked(30, some, more)
    assert set(np.flatnonzero(found)) == set(some) | set(more.ravel())
    assert not marked(4).any()


def test_marks_are_the_published_ones_and_their_sums_tell_sets_apart():
    # What the mixer gives from the seed 0, as its authors print it.
    assert marks(3).tolist() == [0xE220A8397B1DCDAF, 0x6E789E6AA1B965F4, 0x06C45D188009454F]
    sums = np.zeros(1, dtype=np.uint64)
    for mark in marks(16):
        sums = np.concatenate([sums, sums + mark])
    assert len(set(sums.tolist())) == 2**16
