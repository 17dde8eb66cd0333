"""Searches in networks of anything: what is reached, what is met first, what hangs together.

A graph is given by a function that says what is next to a node, so that each network keeps its own
rule of what may be passed: a shut valve, a check that faces the walk, a switch that is open.
"""

from __future__ import annotations

from collections import deque
from collections.abc import Callable, Hashable, Iterable, Iterator
from heapq import heappop, heappush
from typing import TypeVar

N = TypeVar("N", bound=Hashable)
E = TypeVar("E")
Near = Callable[[N], Iterable[N]]


def _met(starts: Iterable[N], near: Near[N], *, nearest: bool = False) -> Iterator[N]:
    """Give every node that can be got to as it is met, depth first or the nearest first."""
    seen = dict.fromkeys(starts)
    yield from tuple(seen)
    waiting = deque(seen)
    while waiting:
        for other in near(waiting.popleft() if nearest else waiting.pop()):
            if other not in seen:
                seen[other] = None
                waiting.append(other)
                yield other


def reach(starts: Iterable[N], near: Near[N]) -> dict[N, None]:
    """Find every node that can be got to.

    Parameters
    ----------
    starts : iterable of node
        Where the walk begins; they are reached. [-]
    near : callable
        Gives the nodes next to one that may be walked to from it. [-]

    Returns
    -------
    dict of node to None
        A set in the order in which they were met, depth first. [-]

    Examples
    --------
    >>> ways = {1: [2, 3], 2: [4], 3: [], 4: [1], 5: [1]}
    >>> list(reach([1], ways.__getitem__))
    [1, 2, 3, 4]
    """
    return dict.fromkeys(_met(starts, near))


def reach_nearest(starts: Iterable[N], near: Near[N]) -> dict[N, None]:
    """Find every node that can be got to, the nearest first.

    Parameters
    ----------
    starts : iterable of node
        Where the walk begins; they are reached. [-]
    near : callable
        Gives the nodes next to one that may be walked to from it. [-]

    Returns
    -------
    dict of node to None
        A set in the order of the steps it takes to get there. [-]

    Examples
    --------
    >>> ways = {1: [2, 3], 2: [4], 3: [], 4: [1]}
    >>> list(reach_nearest([1], ways.__getitem__))
    [1, 2, 3, 4]
    """
    return dict.fromkeys(_met(starts, near, nearest=True))


def reaches(starts: Iterable[N], near: Near[N], wanted: Callable[[N], bool]) -> bool:
    """Say whether a node of a kind can be got to; the walk ends at the first.

    Parameters
    ----------
    starts : iterable of node
        Where the walk begins; they count too. [-]
    near : callable
        Gives the nodes next to one that may be walked to from it. [-]
    wanted : callable
        Whether a node is what is looked for. [-]

    Returns
    -------
    bool
        Whether one was met. [-]

    Examples
    --------
    >>> ways = {1: [2, 3], 2: [4], 3: [], 4: [1]}
    >>> reaches([3], ways.__getitem__, lambda node: node == 4)
    False
    """
    return any(wanted(node) for node in _met(starts, near))


def components(count: int, pairs: Iterable[tuple[int, int]]) -> list[int]:
    """Number what hangs together.

    Parameters
    ----------
    count : int
        How many nodes there are, numbered from 0. [-]
    pairs : iterable of pairs of int
        Nodes that are joined. [-]

    Returns
    -------
    list of int
        Of every node, one that stands for all it hangs together with. [-]

    Examples
    --------
    >>> found = components(4, [(0, 1), (2, 1)])
    >>> found[0] == found[1] == found[2], found[3]
    (True, 3)
    """
    parent = list(range(count))

    def root(node: int) -> int:
        while parent[node] != node:
            parent[node] = parent[parent[node]]
            node = parent[node]
        return node

    for one, other in pairs:
        parent[root(one)] = root(other)
    return [root(node) for node in range(count)]


def both_ways(pairs: Iterable[tuple[N, N]]) -> dict[N, list[N]]:
    """List what is next to every node of a network that may be walked either way.

    Parameters
    ----------
    pairs : iterable of pairs of node
        Nodes that are joined. [-]

    Returns
    -------
    dict of node to list of node
        In the order of the pairs. [-]

    Examples
    --------
    >>> both_ways([("a", "b"), ("b", "c")])
    {'a': ['b'], 'b': ['a', 'c'], 'c': ['b']}
    """
    found: dict[N, list[N]] = {}
    for one, other in pairs:
        found.setdefault(one, []).append(other)
        found.setdefault(other, []).append(one)
    return found


def lightest(
    starts: Iterable[N],
    near: Callable[[N], Iterable[tuple[N, int]]],
    wanted: Callable[[N], bool],
) -> tuple[N, ...] | None:
    """Find the way to a wanted node that weighs least.

    Parameters
    ----------
    starts : iterable of node
        Where ways may begin. [-]
    near : callable
        Gives the nodes next to one, each with the weight of going there, >= 0. [-]
    wanted : callable
        Says whether a node ends the search. [-]

    Returns
    -------
    tuple of node or None
        From a start to the wanted node; of equals the one met first. None if there is no way. [-]

    Examples
    --------
    >>> ways = {1: [(2, 1), (3, 0)], 2: [], 3: [(2, 0)]}
    >>> lightest([1], ways.__getitem__, lambda node: node == 2)
    (1, 3, 2)
    >>> lightest([2], ways.__getitem__, lambda node: node == 1) is None
    True

    References
    ----------
    Dijkstra (1959), A note on two problems in connexion with graphs.
    """
    came: dict[N, N | None] = {}
    waiting: list[tuple[int, int, N, N | None]] = [
        (0, order, node, None) for order, node in enumerate(starts)
    ]
    order = len(waiting)
    while waiting:
        weight, _, node, before = heappop(waiting)
        if node in came:
            continue
        came[node] = before
        if wanted(node):
            way: list[N] = []
            at: N | None = node
            while at is not None:
                way.append(at)
                at = came[at]
            return tuple(reversed(way))
        for other, more in near(node):
            if other not in came:
                order += 1
                heappush(waiting, (weight + more, order, other, node))
    return None


def ways(starts: Iterable[N], near: Callable[[N], Iterable[tuple[E, N]]]) -> dict[N, tuple[E, ...]]:
    """Find a way with the fewest edges to every node that can be got to.

    Parameters
    ----------
    starts : iterable of node
        Where one may begin. [-]
    near : callable
        Gives the edges from a node, each with the node it leads to. [-]

    Returns
    -------
    dict of node to tuple of edge
        The nearest first; no edge for a start. [-]

    Examples
    --------
    >>> ways("a", lambda node: {"a": [(1, "b")], "b": [(2, "c")]}.get(node, ()))
    {'a': (), 'b': (1,), 'c': (1, 2)}
    """
    found: dict[N, tuple[E, ...]] = dict.fromkeys(starts, ())
    waiting = list(found)
    for here in waiting:  # grows as it is walked
        for edge, other in near(here):
            if other not in found:
                found[other] = (*found[here], edge)
                waiting.append(other)
    return found


def beside(edges: Iterable[tuple[E, N, N]]) -> dict[N, list[tuple[E, N]]]:
    """List the edges at every node of a network that may be walked either way.

    Parameters
    ----------
    edges : iterable of tuple
        An edge and the two nodes it joins. [-]

    Returns
    -------
    dict of node to list of tuple
        Edges with the node at their other end. [-]

    Examples
    --------
    >>> beside([("wire", "a", "b")])
    {'a': [('wire', 'b')], 'b': [('wire', 'a')]}
    """
    found: dict[N, list[tuple[E, N]]] = {}
    for edge, one, other in edges:
        found.setdefault(one, []).append((edge, other))
        found.setdefault(other, []).append((edge, one))
    return found
