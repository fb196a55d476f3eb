"""Which nodes hang together, and the potentials that ideal sources give them."""

from collections import deque
from collections.abc import Iterable, Iterator, Sequence


def components(n: int, a: Iterable[int], b: Iterable[int]) -> list[int]:
    """Label the connected parts of an undirected graph.

    Parameters
    ----------
    n : int
        Number of nodes.
    a, b : iterable of int
        Ends of each edge.

    Returns
    -------
    list of int
        For each node the number of its part, from 0 in order of first appearance.

    Notes
    -----
    Union by path halving. Written here, not taken from a graph library, because it is a
    dozen lines on the start-up path and the libraries take 0.1 to 0.25 s to import.
    """
    parent = list(range(n))

    def root(k: int) -> int:
        while parent[k] != k:
            parent[k] = parent[parent[k]]
            k = parent[k]
        return k

    for p, q in zip(a, b, strict=True):
        rp, rq = root(p), root(q)
        if rp != rq:
            parent[max(rp, rq)] = min(rp, rq)
    number: dict[int, int] = {}
    return [number.setdefault(root(k), len(number)) for k in range(n)]


def potentials(
    n: int, edges: Sequence[tuple[int, int, float]], seeds: Iterable[int] = ()
) -> tuple[list[float], list[int], list[int]]:
    """Give each rail the voltage that sources between rails imply.

    Parameters
    ----------
    n : int
        Number of rails.
    edges : sequence of (minus, plus, volts)
        Ideal sources between rails, strongest claim first.
    seeds : iterable of int
        Rails to be 0 V where possible, in order of preference.

    Returns
    -------
    volts : list of float
        Voltage of each rail against the first rail of its part.
    part : list of int
        Which rails are joined through sources.
    torn : list of int
        Indices of edges that close a loop whose voltages do not add up to zero: a short
        across a source, or sources that contradict each other.
    """
    neighbours: list[list[tuple[int, float, int]]] = [[] for _ in range(n)]
    for k, (minus, plus, emf) in enumerate(edges):
        neighbours[minus].append((plus, emf, k))
        neighbours[plus].append((minus, -emf, k))
    volts, part = [0.0] * n, [-1] * n
    torn: set[int] = set()
    count = 0
    for seed in [*seeds, *range(n)]:
        if part[seed] >= 0:
            continue
        part[seed] = count
        queue = deque([seed])
        while queue:
            here = queue.popleft()
            for there, emf, k in neighbours[here]:
                if part[there] < 0:
                    part[there], volts[there] = count, volts[here] + emf
                    queue.append(there)
                elif abs(volts[here] + emf - volts[there]) > 1e-6:
                    torn.add(k)
        count += 1
    return volts, part, sorted(torn)


def blocks(n: int, edges: Sequence[tuple[int, int]]) -> list[int]:
    """Label each edge with its biconnected component.

    Two edges have the same label exactly where they lie on one simple cycle, or are one.

    Parameters
    ----------
    n : int
        Number of nodes.
    edges : sequence of (int, int)
        Ends of each edge; several may join the same two nodes.

    Returns
    -------
    list of int
        For each edge the number of its component.

    Notes
    -----
    Hopcroft and Tarjan, Algorithm 447 (Communications of the ACM 16, 1973), without recursion.
    """
    at: list[list[int]] = [[] for _ in range(n)]
    for k, (p, q) in enumerate(edges):
        at[p].append(k)
        at[q].append(k)
    order, low, label = [-1] * n, [0] * n, [-1] * len(edges)
    count = clock = 0
    for root in range(n):
        if order[root] >= 0:
            continue
        order[root] = low[root] = clock
        clock += 1
        path: list[tuple[int, int, Iterator[int]]] = [(root, -1, iter(at[root]))]
        held: list[int] = []
        while path:
            here, came_by, rest = path[-1]
            for k in rest:
                p, q = edges[k]
                there = q if p == here else p
                if k == came_by or (order[there] > order[here]):
                    continue
                held.append(k)
                if order[there] < 0:
                    order[there] = low[there] = clock
                    clock += 1
                    path.append((there, k, iter(at[there])))
                    break
                low[here] = min(low[here], order[there])
            else:
                path.pop()
                if path:
                    before = path[-1][0]
                    low[before] = min(low[before], low[here])
                    if low[here] >= order[before]:
                        while held:
                            k = held.pop()
                            label[k] = count
                            if k == came_by:
                                break
                        count += 1
    return label
