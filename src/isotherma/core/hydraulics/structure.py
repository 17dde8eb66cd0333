"""Who is joined to whom, worked out once: the order in which unknown pressures are eliminated.

The matrix of a network is as sparse as the network. Eliminating the node with fewest
neighbours first keeps it so: a tree costs no more than its links (George and Liu,
Computer Solution of Large Sparse Positive Definite Systems, ch. 5).
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

Ints = NDArray[np.int64]


@dataclass(frozen=True, slots=True)
class Structure:
    """Elimination of a network's unknown nodes.

    `unknown` has the row of each node, −1 where its pressure is given. `entry` has each
    link's place among the off-diagonals, −1 where an end is given. `order` has rows in
    the order they are eliminated; of the k-th, `first[k]:first[k + 1]` are its
    off-diagonals, with `row` the other end; `pairs[k]:pairs[k + 1]` its updates, each
    a column of `update`: two off-diagonals, and the place they fill.
    """

    unknown: Ints
    entry: Ints
    order: Ints
    first: Ints
    row: Ints
    place: Ints
    pairs: Ints
    update: Ints
    entries: int


def structure(nodes: int, links: Sequence[tuple[int, int]], given: Sequence[bool]) -> Structure:
    """Work the elimination out.

    Parameters
    ----------
    nodes : int
        How many there are. [-]
    links : sequence of pairs
        Nodes at the two ends of each link. [-]
    given : sequence of bool
        Which nodes have a pressure given. [-]

    Returns
    -------
    Structure
        The same for any state of valves; a shut link merely carries nothing. [-]
    """
    unknown = np.full(nodes, -1, dtype=np.int64)
    free = [node for node in range(nodes) if not given[node]]
    unknown[free] = range(len(free))
    places: dict[tuple[int, int], int] = {}

    def place_of(one: int, other: int) -> int:
        return places.setdefault((min(one, other), max(one, other)), len(places))

    near: list[set[int]] = [set() for _ in free]
    entry = np.full(len(links), -1, dtype=np.int64)
    for index, (start, end) in enumerate(links):
        one, other = int(unknown[start]), int(unknown[end])
        if one >= 0 and other >= 0 and one != other:
            near[one].add(other)
            near[other].add(one)
            entry[index] = place_of(one, other)
    order: list[int] = []
    first, rows, where, pairs = [0], [], [], [0]
    updates: list[tuple[int, int, int]] = []
    by_degree: list[set[int]] = [set() for _ in range(len(free) + 1)]
    for node, others in enumerate(near):
        by_degree[len(others)].add(node)
    low = 0
    for _ in free:
        low = max(0, low - 1)
        while not by_degree[low]:
            low += 1
        node = min(by_degree[low])
        by_degree[low].remove(node)
        order.append(node)
        around = sorted(near[node])
        for other in around:
            by_degree[len(near[other])].remove(other)
            near[other].remove(node)
            rows.append(other)
            where.append(place_of(node, other))
        for at, one in enumerate(around):
            for other in around[at + 1 :]:
                near[one].add(other)
                near[other].add(one)
                updates.append((place_of(node, one), place_of(node, other), place_of(one, other)))
        for other in around:
            by_degree[len(near[other])].add(other)
        first.append(len(rows))
        pairs.append(len(updates))
        low = max(0, low - len(around))
    return Structure(
        unknown=unknown,
        entry=entry,
        order=np.array(order, dtype=np.int64),
        first=np.array(first, dtype=np.int64),
        row=np.array(rows, dtype=np.int64),
        place=np.array(where, dtype=np.int64),
        pairs=np.array(pairs, dtype=np.int64),
        update=np.array(updates, dtype=np.int64).reshape(len(updates), 3),
        entries=len(places),
    )
