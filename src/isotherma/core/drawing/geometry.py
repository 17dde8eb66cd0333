"""From a plan to a drawing: how far apart its ranks are, and the lane in which each line turns.

Nothing but the size of what stands there decides. A line runs along its own track, where the
plan lets nothing else stand, and turns only between two ranks, in a lane beyond all symbols and
labels; so it never runs through either. Lanes between the same ranks are ordered so that
one line's arrival does not lie on another's departure.
"""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass
from itertools import pairwise
from typing import Final

from isotherma.core.drawing.plan import Line, Plan

LANE: Final = 9.0  # between two lines that turn between the same ranks
APART: Final = 7.0  # between two things that stand side by side
STEP: Final = 62.0  # from symbol to symbol at least, or no figure fits on the line between
TRACK: Final = 56.0
SNAP: Final = 8  # tracks to an eighth: lines lie on each other or are well apart
SYMBOL: Final = 20.0
ARROW: Final = 7.0
FIGURE: Final = (11.0, 18.0, 6.0)  # half its width, how far above its line it begins and ends

Point = tuple[float, float]


@dataclass(frozen=True, slots=True)
class Extent:
    """How far a node with its label reaches from its middle, to every side."""

    left: float
    right: float
    top: float
    bottom: float


@dataclass(frozen=True, slots=True)
class Box:
    """A rectangle that is taken."""

    left: float
    top: float
    right: float
    bottom: float

    def meets(self, other: Box) -> bool:
        """Say whether two rectangles overlap."""
        return (
            self.left < other.right and other.left < self.right
            and self.top < other.bottom and other.top < self.bottom
        )  # fmt: skip


@dataclass(frozen=True, slots=True)
class Mark:
    """Where a line's arrow stands, which way it points, and whether a figure fits over it."""

    x: float
    y: float
    turn: int
    figure: bool


@dataclass(frozen=True, slots=True)
class Geometry:
    """A drawing without its ink.

    `at` is the middle of every node, `cells` the ground that is its own, `paths` the corners of
    every line, `marks` its arrow where there is room for one.
    """

    at: Mapping[str, Point]
    cells: Mapping[str, Box]
    paths: Mapping[str, tuple[Point, ...]]
    marks: Mapping[str, Mark]
    width: float
    height: float


@dataclass(frozen=True, slots=True)
class _Turn:
    """A line crossing from track to track between a rank and the next."""

    line: str
    low: float  # track on the side of the lower rank
    high: float  # track on the side of the higher rank

    @property
    def span(self) -> tuple[float, float]:
        return min(self.low, self.high), max(self.low, self.high)


def _snap(track: float) -> float:
    return round(track * SNAP) / SNAP


def _spots(plan: Plan, line: Line) -> list[Point]:
    spots = [plan.place[line.start], *plan.bends[line.id], plan.place[line.end]]
    return [(rank, _snap(track)) for rank, track in spots]


def _turns(plan: Plan, lines: Sequence[Line]) -> dict[int, list[_Turn]]:
    """Gather the turns between a rank and the next."""
    found: dict[int, list[_Turn]] = {}
    for line in lines:
        for one, other in pairwise(_spots(plan, line)):
            low, high = (one, other) if one[0] < other[0] else (other, one)
            if low[1] != high[1]:
                found.setdefault(int(low[0]), []).append(_Turn(line.id, low[1], high[1]))
    return found


def _after(turn: _Turn, others: Sequence[_Turn]) -> Iterator[_Turn]:
    """Give those that must turn in a lane before: they leave where this one arrives."""
    for other in others:
        if other is not turn and other.low == turn.high:
            yield other


def _ordered(turns: Sequence[_Turn]) -> list[_Turn]:
    """Order turns so that none that can be helped lies on another."""
    # upward turns first from the top, downward ones from the bottom: fewest crossings
    waiting = sorted(
        turns,
        key=lambda turn: (turn.high > turn.low, turn.low if turn.high < turn.low else -turn.low),
    )
    found: list[_Turn] = []
    while waiting:
        free = (turn for turn in waiting if not any(_after(turn, waiting)))
        found.append(next(free, waiting[0]))
        waiting.remove(found[-1])
    return found


def _lanes(turns: Sequence[_Turn]) -> dict[str, int]:
    """Give every turn a lane: the first after those before it that it would meet."""
    lanes: dict[str, int] = {}
    placed: list[_Turn] = []
    for turn in _ordered(turns):
        low, high = turn.span
        met = [
            lanes[other.line] for other in placed
            if other.span[0] <= high and low <= other.span[1]
        ]  # fmt: skip
        lanes[turn.line] = max(met, default=-1) + 1
        placed.append(turn)
    return lanes


def _spread(
    plan: Plan, lines: Sequence[Line], across: Mapping[str, tuple[float, float]]
) -> dict[float, float]:
    """Place every track: a usual step apart, further where neighbours of a rank would meet."""
    stand: dict[float, list[tuple[float, float, float]]] = {}
    for node, (rank, track) in plan.place.items():
        stand.setdefault(rank, []).append((_snap(track), *across[node]))
    for line in lines:
        for rank, track in plan.bends[line.id]:
            stand.setdefault(rank, []).append((_snap(track), 4.0, 4.0))
    needs: dict[float, list[tuple[float, float]]] = {}
    for row in stand.values():
        for one, other in pairwise(sorted(row)):
            needs.setdefault(other[0], []).append((one[0], one[2] + other[1] + APART))
    found: dict[float, float] = {}
    last: float | None = None
    for track in sorted({track for row in stand.values() for track, _, _ in row}):
        least = [found[near] + apart for near, apart in needs.get(track, ())]
        if last is not None:
            least.append(found[last] + min(LANE, (track - last) * TRACK))
        found[track] = max([track * TRACK, *least])
        last = track
    return found


@dataclass(frozen=True, slots=True)
class _Axes:
    """Where ranks, tracks and lanes lie."""

    ranks: Sequence[float]
    edges: Sequence[tuple[float, float]]
    turns_at: Mapping[tuple[str, int], float]
    first: float
    tracks: Mapping[float, float]
    length: float
    breadth: float

    def along(self, rank: float) -> float:
        return self.ranks[int(rank)]

    def across(self, track: float) -> float:
        return self.first + self.tracks[track]


def _axes(
    plan: Plan, lines: Sequence[Line], along: Mapping[str, tuple[float, float]],
    across: Mapping[str, tuple[float, float]],
) -> _Axes:  # fmt: skip
    """Set ranks as far apart as what stands in them and turns between them needs."""
    before, behind = [SYMBOL] * plan.ranks, [SYMBOL] * plan.ranks
    for node, (rank, _) in plan.place.items():
        before[int(rank)] = max(before[int(rank)], along[node][0])
        behind[int(rank)] = max(behind[int(rank)], along[node][1])
    turns = _turns(plan, lines)
    ranks, edges, turns_at = [], [], {}
    here = APART + (before[0] if before else 0.0)
    for rank in range(plan.ranks):
        lanes = _lanes(turns.get(rank, ()))
        count = max(lanes.values(), default=-1) + 1
        ahead = before[rank + 1] if rank + 1 < plan.ranks else 0.0
        least = behind[rank] + ahead + (count + 1) * LANE if count else behind[rank] + ahead + APART
        step = max(STEP, least)
        first = here + behind[rank] + (step - behind[rank] - ahead - (count - 1) * LANE) / 2
        for line, lane in lanes.items():
            turns_at[line, rank] = first + lane * LANE
        ranks.append(here)
        edges.append((here - before[rank] - APART / 2, here + step - ahead - APART / 2))
        here += step
    edges = [
        (edge[0] if index == 0 else edges[index - 1][1], edge[1])
        for index, edge in enumerate(edges)
    ]
    tracks = _spread(plan, lines, across)
    sides = [(tracks[_snap(track)], *across[node]) for node, (_, track) in plan.place.items()]
    sides += [(tracks[_snap(track)], 4.0, 4.0)
              for line in lines for _, track in plan.bends[line.id]]  # fmt: skip
    first = max((before - at for at, before, _ in sides), default=0.0) + APART
    far = max((at + behind for at, _, behind in sides), default=0.0)
    return _Axes(ranks, edges, turns_at, first, tracks, here + APART, first + far + APART)


def _tidy(points: Sequence[Point]) -> tuple[Point, ...]:
    """Leave out corners that are none."""
    found: list[Point] = []
    for point in points:
        if found and point == found[-1]:
            continue
        if len(found) > 1 and (
            found[-2][0] == found[-1][0] == point[0] or found[-2][1] == found[-1][1] == point[1]
        ):
            found.pop()
        found.append(point)
    return tuple(found)


def _corners(plan: Plan, line: Line, axes: _Axes) -> list[Point]:
    """Give the corners of a line, along and across."""
    points: list[Point] = []
    for one, other in pairwise(_spots(plan, line)):
        points.append((axes.along(one[0]), axes.across(one[1])))
        if one[1] != other[1]:
            turn = axes.turns_at[line.id, int(min(one[0], other[0]))]
            points += [(turn, axes.across(one[1])), (turn, axes.across(other[1]))]
        points.append((axes.along(other[0]), axes.across(other[1])))
    return points


def _strips(path: Sequence[Point]) -> list[Box]:
    """Give the space a line takes."""
    return [
        Box(min(ax, bx) - 3, min(ay, by) - 3, max(ax, bx) + 3, max(ay, by) + 3)
        for (ax, ay), (bx, by) in pairwise(path)
    ]


def _bare(one: Point, other: Point, ends: Sequence[Point]) -> tuple[Point, Point] | None:
    """Give what of a piece of a line is not under the symbols at its ends; None if nothing is."""
    level = one[1] == other[1]
    a, b = (one[0], other[0]) if level else (one[1], other[1])
    low, high = min(a, b), max(a, b)
    if one in ends:
        low, high = (low + SYMBOL, high) if a == low else (low, high - SYMBOL)
    if other in ends:
        low, high = (low + SYMBOL, high) if b == low else (low, high - SYMBOL)
    if high - low < 2 * ARROW:
        return None
    return ((low, one[1]), (high, one[1])) if level else ((one[0], low), (one[0], high))


def _heading(one: Point, other: Point) -> int:
    """Give the way from one point to another, in degrees clockwise from the right."""
    if one[1] == other[1]:
        return 0 if other[0] > one[0] else 180
    return 90 if other[1] > one[1] else 270


def _mark(path: Sequence[Point], taken: Sequence[Box], others: Sequence[Box]) -> Mark | None:
    """Find room for a line's arrow, and for a figure over it: on its longest free piece."""
    ends = (path[0], path[-1])
    pieces = []
    for one, other in pairwise(path):
        bare = _bare(one, other, ends)
        if bare is not None:
            (ax, ay), (bx, by) = bare
            pieces.append((abs(ax - bx) + abs(ay - by), bare, _heading(one, other)))
    second: Mark | None = None
    for _, ((ax, ay), (bx, by)), turn in sorted(pieces, key=lambda row: (-row[0], row[1])):
        for share in (0.5, 0.3, 0.7):
            x, y = ax + (bx - ax) * share, ay + (by - ay) * share
            arrow = Box(x - ARROW, y - ARROW, x + ARROW, y + ARROW)
            if any(arrow.meets(box) for box in (*taken, *others)):
                continue
            half, above, below = FIGURE
            figure = Box(x - half, y - above, x + half, y - below)
            if turn in (0, 180) and not any(figure.meets(box) for box in (*taken, *others)):
                return Mark(x, y, turn, True)
            second = second or Mark(x, y, turn, False)
    return second


def _marks(
    lines: Sequence[Line], paths: Mapping[str, tuple[Point, ...]], boxes: Sequence[Box]
) -> dict[str, Mark]:
    """Give every line its arrow and figure, each clear of what stands and of one another."""
    strips = {line.id: _strips(paths[line.id]) for line in lines}
    found: dict[str, Mark] = {}
    taken = list(boxes)
    for line in lines:
        others = [strip for key, row in strips.items() if key != line.id for strip in row]
        mark = _mark(paths[line.id], taken, others)
        if mark is None:
            continue
        found[line.id] = mark
        half, above, _ = FIGURE
        taken.append(
            Box(mark.x - half, mark.y - above, mark.x + half, mark.y + ARROW) if mark.figure
            else Box(mark.x - ARROW, mark.y - ARROW, mark.x + ARROW, mark.y + ARROW)
        )  # fmt: skip
    return found


def _taken(x: float, y: float, box: Extent, tall: bool) -> list[Box]:
    """Give what a node and its label take: the label stands under the symbol, or beside it."""
    if tall:
        return [Box(x - box.left, y - box.top, x + box.right, y + box.bottom)]
    return [
        Box(x - SYMBOL, y - box.top, x + SYMBOL, y + SYMBOL),
        Box(x - box.left, y + SYMBOL, x + box.right, y + box.bottom),
    ]


def trace(
    plan: Plan, lines: Sequence[Line], extents: Mapping[str, Extent], *, tall: bool
) -> Geometry:
    """Give a plan its measures.

    Parameters
    ----------
    plan : Plan
        Ranks and tracks. [-]
    lines : sequence of Line
        The lines it was made from. [-]
    extents : mapping of str to Extent
        What every node with its label takes. [px]
    tall : bool
        Whether ranks follow one another downwards, else to the right. [-]

    Returns
    -------
    Geometry
        Middles, grounds, corners and arrows; nothing overlaps. [px]
    """
    lines = [line for line in lines if line.start != line.end]
    sides = {key: (box.left, box.right) for key, box in extents.items() if key in plan.place}
    heights = {key: (box.top, box.bottom) for key, box in extents.items() if key in plan.place}
    along, across = (heights, sides) if tall else (sides, heights)
    axes = _axes(plan, lines, along, across)

    def point(one: float, other: float) -> Point:
        return (other, one) if tall else (one, other)

    at = {
        node: point(axes.along(rank), axes.across(_snap(track)))
        for node, (rank, track) in plan.place.items()
    }
    paths = {
        line.id: _tidy([point(*corner) for corner in _corners(plan, line, axes)]) for line in lines
    }
    boxes, cells = [], {}
    for node, (x, y) in at.items():
        box = extents[node]
        boxes += _taken(x, y, box, tall)
        low, high = axes.edges[int(plan.place[node][0])]
        cells[node] = (
            Box(x - box.left - 2, low, x + box.right + 2, high) if tall
            else Box(low, y - box.top - 2, high, y + box.bottom + 2)
        )  # fmt: skip
    width, height = point(axes.length, axes.breadth)
    return Geometry(at, cells, paths, _marks(lines, paths, boxes), width, height)
