"""Heights of a network from the rises of its runs, made to agree round every loop."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

Floats = NDArray[np.float64]


def heights(nodes: int, links: Sequence[tuple[int, int, float, float]]) -> tuple[Floats, float]:
    """Give every node a height that fits the rises between nodes best.

    Parameters
    ----------
    nodes : int
        How many there are. [-]
    links : sequence of (int, int, float, float)
        Two nodes, the rise from the first to the second [m], and how much that rise is to
        be trusted, > 0. [-]

    Returns
    -------
    tuple of array and float
        Height of each node above the first of its island, shape (nodes,), and the most a
        rise was moved by so that loops close. [m]

    Notes
    -----
    Rises measured along a tree fit exactly. Round a loop they rarely add up to nothing,
    and what is left would push water round for ever; least squares shares it out
    (Strang, Introduction to Applied Mathematics, ch. 2).
    """
    level = np.zeros(nodes)
    near: list[list[tuple[int, float]]] = [[] for _ in range(nodes)]
    for start, end, rise, _ in links:
        near[start].append((end, rise))
        near[end].append((start, -rise))
    home = np.full(nodes, -1, dtype=np.int64)
    for first in range(nodes):
        if home[first] >= 0:
            continue
        home[first] = first
        waiting = [first]
        while waiting:
            node = waiting.pop()
            for other, rise in near[node]:
                if home[other] < 0:
                    home[other] = first
                    level[other] = level[node] + rise
                    waiting.append(other)
    worst = max((abs(level[b] - level[a] - rise) for a, b, rise, _ in links), default=0.0)
    if worst < 1e-9:
        return level, 0.0
    # a loop does not close: correct the walk's heights by least squares
    matrix = np.zeros((nodes, nodes))
    right = np.zeros(nodes)
    for a, b, rise, trust in links:
        miss = rise - (level[b] - level[a])
        matrix[a, a] += trust
        matrix[b, b] += trust
        matrix[a, b] -= trust
        matrix[b, a] -= trust
        right[a] -= trust * miss
        right[b] += trust * miss
    for node in range(nodes):
        if home[node] == node:
            matrix[node, :] = 0.0
            matrix[node, node] = 1.0
            right[node] = 0.0
    level = level + np.linalg.solve(matrix, right)
    moved = max(abs(level[b] - level[a] - rise) for a, b, rise, _ in links)
    return level, float(moved)
