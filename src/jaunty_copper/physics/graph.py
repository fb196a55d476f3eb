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


def leaves(n: int, a: Sequence[int], b: Sequence[int]) -> tuple[list[int], list[int], list[int]]:
    """Take ends off a graph until none is left: what remains is where something can go round.

    Parameters
    ----------
    n : int
        Number of nodes.
    a, b : sequence of int
        Ends of each edge.

    Returns
    -------
    order : list of int
        Nodes taken off, outermost first.
    up, parent : list of int
        For each node taken off the edge to what it hung on, and that node; -1 for the rest.
    """
    at: list[set[int]] = [set() for _ in range(n)]
    for k, (p, q) in enumerate(zip(a, b, strict=True)):
        if p != q:
            at[p].add(k)
            at[q].add(k)
    order, up, parent = list[int](), [-1] * n, [-1] * n
    ends = [p for p in range(n) if len(at[p]) == 1]
    while ends:
        p = ends.pop()
        if len(at[p]) != 1:
            continue
        k = at[p].pop()
        q = b[k] if a[k] == p else a[k]
        up[p], parent[p] = k, q
        order.append(p)
        at[q].discard(k)
        if len(at[q]) == 1:
            ends.append(q)
    return order, up, parent


def loops(n: int, a: Sequence[int], b: Sequence[int]) -> tuple[list[dict[int, float]], list[int]]:
    """Independent loops of a graph, one for each edge that its spanning forest leaves out.

    Parameters
    ----------
    n : int
        Number of nodes.
    a, b : sequence of int
        Ends of each edge; those that come first are in the forest where they can be.

    Returns
    -------
    loops : list of dict
        For each loop the sign of every edge in it: 1 along a to b, -1 against.
    chords : list of int
        The edge that belongs to each loop alone; its sign there is 1.
    """
    root = list(range(n))
    near: list[list[int]] = [[] for _ in range(n)]
    chords: list[int] = []

    def find(k: int) -> int:
        while root[k] != k:
            root[k] = root[root[k]]
            k = root[k]
        return k

    for k, (p, q) in enumerate(zip(a, b, strict=True)):
        rp, rq = find(p), find(q)
        if rp == rq:
            chords.append(k)
            continue
        root[rp] = rq
        near[p].append(k)
        near[q].append(k)
    depth, up = [-1] * n, [-1] * n
    for start in range(n):
        if depth[start] >= 0:
            continue
        depth[start] = 0
        queue = deque([start])
        while queue:
            p = queue.popleft()
            for k in near[p]:
                q = b[k] if a[k] == p else a[k]
                if depth[q] < 0:
                    depth[q], up[q] = depth[p] + 1, k
                    queue.append(q)
    found: list[dict[int, float]] = []
    for k in chords:
        signs = {k: 1.0}
        # Back from the chord's end to its beginning, through the forest.
        tail, head = b[k], a[k]
        while tail != head:
            if depth[tail] >= depth[head]:
                e = up[tail]
                signs[e] = 1.0 if a[e] == tail else -1.0
                tail = b[e] if a[e] == tail else a[e]
            else:
                e = up[head]
                signs[e] = 1.0 if b[e] == head else -1.0
                head = b[e] if a[e] == head else a[e]
        found.append(signs)
    return found, chords
