"""A network in ranks from source to drain, with few crossings and straight main ways.

Four steps: rounds are cut and parts ranked by the longest way from a source; long lines get
places of their own in the ranks they pass; ranks are sorted by the middle of their
neighbours until crossings stop falling; then everything is moved as near to its neighbours
as order and distance allow. Nothing is random, ties go by the document's order, so one more
part moves little.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from itertools import pairwise
from statistics import median
from typing import Final

SWEEPS: Final = 10
PULLS: Final = 8
LINE_WEIGHT: Final = 4.0  # a line that passes a rank bends less gladly than a part moves


@dataclass(frozen=True, slots=True)
class Line:
    """One run of the drawing, from a node to another."""

    id: str
    start: str
    end: str


@dataclass(frozen=True, slots=True)
class Plan:
    """Where everything is, in ranks along and tracks across.

    `place` gives rank and track of every node; `bends` the points of every line between its
    ends, in the line's own direction, as rank and track; `turned` names lines drawn against
    the ranks.
    """

    place: Mapping[str, tuple[float, float]]
    bends: Mapping[str, tuple[tuple[float, float], ...]]
    turned: frozenset[str]
    ranks: int
    tracks: float
    crossings: int


def _cut_rounds(nodes: Sequence[str], lines: Sequence[Line]) -> frozenset[str]:
    """Name the lines to turn so that no way leads in a round: those that close one."""
    leaving: dict[str, list[Line]] = {node: [] for node in nodes}
    entered = dict.fromkeys(nodes, 0)
    for line in lines:
        leaving[line.start].append(line)
        entered[line.end] += 1
    state = dict.fromkeys(nodes, 0)
    turned = set()
    starts = [node for node in nodes if entered[node] == 0] + list(nodes)
    for first in starts:
        if state[first]:
            continue
        state[first] = 1
        stack = [(first, iter(leaving[first]))]
        while stack:
            node, rest = stack[-1]
            ahead = next(rest, None)
            if ahead is None:
                state[node] = 2
                stack.pop()
            elif state[ahead.end] == 1:
                turned.add(ahead.id)
            elif state[ahead.end] == 0:
                state[ahead.end] = 1
                stack.append((ahead.end, iter(leaving[ahead.end])))
    return frozenset(turned)


def _rank(nodes: Sequence[str], pairs: Sequence[tuple[str, str]]) -> dict[str, int]:
    """Rank by the longest way from a source; sources stand right before what they feed."""
    after: dict[str, list[str]] = {node: [] for node in nodes}
    waiting = dict.fromkeys(nodes, 0)
    for one, other in pairs:
        after[one].append(other)
        waiting[other] += 1
    rank = dict.fromkeys(nodes, 0)
    ready = [node for node in nodes if waiting[node] == 0]
    order = []
    while ready:
        node = ready.pop(0)
        order.append(node)
        for other in after[node]:
            rank[other] = max(rank[other], rank[node] + 1)
            waiting[other] -= 1
            if waiting[other] == 0:
                ready.append(other)
    fed = {other for _, other in pairs}
    for node in reversed(order):
        if node not in fed and after[node]:
            rank[node] = min(rank[other] for other in after[node]) - 1
    least = min(rank.values(), default=0)
    return {node: value - least for node, value in rank.items()}


def _crossings(ranks: Sequence[Sequence[str]], after: Mapping[str, Sequence[str]]) -> int:
    total = 0
    for one, other in pairwise(ranks):
        at = {node: index for index, node in enumerate(other)}
        ends = [at[to] for node in one for to in sorted(after[node], key=at.__getitem__)]
        total += sum(ends[i] > ends[j] for i in range(len(ends)) for j in range(i + 1, len(ends)))
    return total


def _sort(
    ranks: list[list[str]], before: Mapping[str, list[str]], after: Mapping[str, list[str]]
) -> list[list[str]]:
    """Sort ranks by the middle of their neighbours, down and up, and keep the best."""
    best, least = [list(row) for row in ranks], _crossings(ranks, after)
    for sweep in range(SWEEPS):
        down = sweep % 2 == 0
        near = before if down else after
        indices = range(1, len(ranks)) if down else range(len(ranks) - 2, -1, -1)
        for index in indices:
            beside = ranks[index - 1 if down else index + 1]
            at = {node: place for place, node in enumerate(beside)}
            own = {node: place for place, node in enumerate(ranks[index])}

            def middle(
                node: str, at: dict[str, int] = at, own: dict[str, int] = own
            ) -> tuple[float, int]:
                places = [at[other] for other in near[node]]  # noqa: B023
                return (median(places) if places else float(own[node]), own[node])

            ranks[index].sort(key=middle)
        now = _crossings(ranks, after)
        if now < least:
            best, least = [list(row) for row in ranks], now
    return best


def _spread(wanted: Sequence[float], weights: Sequence[float]) -> list[float]:
    """Move values as little as they can be so that each stands a track after the last.

    Pool adjacent violators: the weighted least squares in that order.
    """
    pools: list[list[float]] = []
    for index, (value, weight) in enumerate(zip(wanted, weights, strict=True)):
        pools.append([(value - index) * weight, weight, 1.0])
        while len(pools) > 1 and pools[-2][0] / pools[-2][1] > pools[-1][0] / pools[-1][1]:
            last = pools.pop()
            pools[-1] = [a + b for a, b in zip(pools[-1], last, strict=True)]
    found: list[float] = []
    for total, weight, count in pools:
        found += [total / weight + len(found) + k for k in range(int(count))]
    return found


class _Walk:
    """Nodes in their ranks, as a walk from the sources meets them: what belongs together starts
    together. Long lines have a dummy in every rank they pass.
    """

    def __init__(
        self, nodes: Sequence[str], lines: Sequence[Line], way: Mapping[str, tuple[str, str]],
        rank: Mapping[str, int],
    ) -> None:  # fmt: skip
        self.way, self.rank = way, rank
        self.depth = max(rank.values(), default=-1) + 1
        self.ranks: list[list[str]] = [[] for _ in range(self.depth)]
        self.before: dict[str, list[str]] = {node: [] for node in nodes}
        self.after: dict[str, list[str]] = {node: [] for node in nodes}
        self.chain: dict[str, list[str]] = {}
        self.leaving: dict[str, list[str]] = {node: [] for node in nodes}
        for line in lines:
            self.leaving[way[line.id][0]].append(line.id)
        self.seen: set[str] = set()
        fed = {end for _, end in way.values()}
        for node in [*(node for node in nodes if node not in fed), *nodes]:
            self._enter(node)

    def _enter(self, node: str) -> None:
        stack = [node]
        while stack:
            here = stack.pop()
            if here in self.seen:
                continue
            self.seen.add(here)
            self.ranks[self.rank[here]].append(here)
            for line_id in self.leaving[here]:
                self._lead(here, line_id)
            stack += [self.way[line_id][1] for line_id in reversed(self.leaving[here])]

    def _lead(self, here: str, line_id: str) -> None:
        """Lead a line from rank to rank to its end."""
        _, end = self.way[line_id]
        last, passed = here, []
        for step in range(self.rank[here] + 1, self.rank[end]):
            dummy = f"{line_id}\n{step}"
            self.ranks[step].append(dummy)
            self.before[dummy], self.after[dummy] = [last], []
            self.after[last].append(dummy)
            passed.append(dummy)
            last = dummy
        self.chain[line_id] = passed
        self.after[last].append(end)
        self.before[end].append(last)


def _straighten(
    ranks: Sequence[Sequence[str]], after: Mapping[str, Sequence[str]], track: dict[str, float]
) -> None:
    """Draw long lines through the ranks they pass without a kink, where neighbours leave room."""
    room: dict[str, tuple[float, float]] = {}
    for row in ranks:
        for place, node in enumerate(row):
            low = track[row[place - 1]] + 1.0 if place else float("-inf")
            high = track[row[place + 1]] - 1.0 if place + 1 < len(row) else float("inf")
            room[node] = (low, high)
    begun: set[str] = set()
    for row in ranks:
        for node in row:
            if "\n" not in node or node in begun:
                continue
            chain = [node]
            while "\n" in (ahead := after[chain[-1]][0]):
                chain.append(ahead)
            begun.update(chain)
            low, high = max(room[key][0] for key in chain), min(room[key][1] for key in chain)
            if low <= high:
                wanted = median(track[key] for key in chain)
                track.update(dict.fromkeys(chain, min(max(wanted, low), high)))


def _tracks(
    ranks: list[list[str]], before: Mapping[str, list[str]], after: Mapping[str, list[str]]
) -> dict[str, float]:
    """Pull nodes across the flow to where their neighbours are, from both sides in turn."""
    track = {node: float(place) for row in ranks for place, node in enumerate(row)}
    for pull in range(PULLS):
        near = before if pull % 2 == 0 else after
        for row in ranks if pull % 2 == 0 else reversed(ranks):
            wanted = [
                median(track[other] for other in near[node]) if near[node] else track[node]
                for node in row
            ]
            weights = [LINE_WEIGHT if "\n" in node else 1.0 for node in row]
            track.update(zip(row, _spread(wanted, weights), strict=True))
    _straighten(ranks, after, track)
    least = min(track.values(), default=0.0)
    return {node: round(value - least, 3) for node, value in track.items()}


def lay_out(nodes: Sequence[str], lines: Sequence[Line]) -> Plan:
    """Place the nodes of a network and lead its lines.

    Parameters
    ----------
    nodes : sequence of str
        In the document's order, which decides between equals. [-]
    lines : sequence of Line
        Their ends are among the nodes; lines from a node to itself are left out. [-]

    Returns
    -------
    Plan
        Ranks from 0 along the flow, tracks from 0 across it. [-]

    References
    ----------
    Sugiyama, Tagawa and Toda (1981), Methods for Visual Understanding of Hierarchical System
    Structures; medians after Gansner et al. (1993); places by pooling instead of priorities.
    """
    lines = [line for line in lines if line.start != line.end]
    turned = _cut_rounds(nodes, lines)
    way = {
        line.id: (line.end, line.start) if line.id in turned else (line.start, line.end)
        for line in lines
    }
    rank = _rank(nodes, list(way.values()))
    walk = _Walk(nodes, lines, way, rank)
    depth, before, after, chain = walk.depth, walk.before, walk.after, walk.chain
    ranks = _sort(walk.ranks, before, after)
    track = _tracks(ranks, before, after)
    bends = {}
    for line in lines:
        passed = [(float(int(node.split("\n")[1])), track[node]) for node in chain[line.id]]
        bends[line.id] = tuple(reversed(passed) if line.id in turned else passed)
    return Plan(
        place={node: (float(rank[node]), track[node]) for node in nodes},
        bends=bends,
        turned=turned,
        ranks=depth,
        tracks=max(track.values(), default=0.0) + 1.0,
        crossings=_crossings(ranks, after),
    )
