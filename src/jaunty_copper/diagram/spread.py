"""Things in order on a line, each as near to where it should be as the order allows."""

from collections.abc import Sequence

from jaunty_copper.diagram.sizes import PITCH


def spread(targets: Sequence[float | None], gap: float) -> list[float]:
    """Place things in order on a line, each as near to its target as the order allows.

    Least squares under x[k+1] >= x[k] + gap (pool adjacent violators); things without a
    target stand evenly between their neighbours, or a gap apart beyond the last one.

    Parameters
    ----------
    targets : sequence of float or None
        Wanted places, at least one of them given.
    gap : float
        Least distance.
    """
    known = [(k, t) for k, t in enumerate(targets) if t is not None]
    blocks: list[tuple[float, int]] = []
    for k, t in known:
        mean, count = t - k * gap, 1
        while blocks and blocks[-1][0] > mean:
            other, n = blocks.pop()
            mean, count = (other * n + mean * count) / (n + count), n + count
        blocks.append((mean, count))
    means = [m for m, n in blocks for _ in range(n)]
    placed = {k: m + k * gap for (k, _), m in zip(known, means, strict=True)}
    found: list[float] = []
    ks = sorted(placed)
    for k in range(len(targets)):
        if k in placed:
            found.append(placed[k])
            continue
        before = max((j for j in ks if j < k), default=None)
        after = min((j for j in ks if j > k), default=None)
        if before is None:
            assert after is not None
            found.append(placed[after] - (after - k) * max(gap, 0.5 * PITCH if after == 1 else gap))
        elif after is None:
            found.append(placed[before] + (k - before) * gap)
        else:
            share = (k - before) / (after - before)
            found.append(placed[before] + share * (placed[after] - placed[before]))
    return found
