"""The drawing's measures: no line through a symbol or a label, nothing on anything else."""

from __future__ import annotations

from collections.abc import Iterator
from itertools import combinations, pairwise

import pytest
from hypothesis import given
from hypothesis import strategies as st

from isotherma.catalogue.demo import curlew, drover, folio
from isotherma.catalogue.layouts import layouts
from isotherma.core.drawing.geometry import SYMBOL, Box, Extent, trace
from isotherma.core.drawing.media import carried
from isotherma.core.drawing.plan import Line, lay_out
from isotherma.core.system.kinds import use
from isotherma.web.frame.route_picture import WAYS, extent_of, route_of
from tests.networks import Grown

SYSTEMS = {
    **{name: layout.system for name, layout in layouts().items()},
    **{demo.name: demo.variants[0].system for demo in (folio(), drover(), curlew())},
}


def drawn(system, way):
    nodes, lines = route_of(system)
    outlets = {part.id for part in system.parts if isinstance(part, use.Outlet)}
    labels = {part.id: part.label for part in system.parts}
    extents = {node: extent_of(labels[node], way, node in outlets) for node in nodes}
    return lines, extents, trace(lay_out(nodes, lines), lines, extents, tall=way == "narrow")


def box_of(at, extent):
    return Box(at[0] - extent.left, at[1] - extent.top, at[0] + extent.right, at[1] + extent.bottom)


def pieces(path) -> Iterator[Box]:
    for (ax, ay), (bx, by) in pairwise(path):
        assert ax == bx or ay == by
        yield Box(min(ax, bx) - 1, min(ay, by) - 1, max(ax, bx) + 1, max(ay, by) + 1)


def check(lines, extents, shape):
    """Boxes apart, lines clear of all but the parts they join, marks clear of everything."""
    boxes = {node: box_of(at, extents[node]) for node, at in shape.at.items()}
    for (_, one), (_, other) in combinations(boxes.items(), 2):
        assert not one.meets(other)
    for line in lines:
        path = shape.paths[line.id]
        for node, box in boxes.items():
            if node in (line.start, line.end):
                continue
            for strip in pieces(path):
                assert not strip.meets(box), (line.id, node)
        # within its own parts it runs along its own track, never through their labels
        for node in (line.start, line.end):
            x, y = shape.at[node]
            body = Box(x - SYMBOL, y - SYMBOL, x + SYMBOL, y + SYMBOL)
            under = [strip for strip in pieces(path) if strip.meets(boxes[node])]
            assert all(strip.meets(body) or strip.left > x + SYMBOL or strip.right < x - SYMBOL
                       for strip in under)  # fmt: skip
    for box in boxes.values():
        assert box.left >= 0 and box.top >= 0
        assert box.right <= shape.width and box.bottom <= shape.height
    for path in shape.paths.values():
        assert all(0 <= x <= shape.width and 0 <= y <= shape.height for x, y in path)
    spots = [(mark.x, mark.y) for mark in shape.marks.values()]
    for (ax, ay), (bx, by) in combinations(spots, 2):
        assert abs(ax - bx) > 10 or abs(ay - by) > 10
    for x, y in spots:
        arrow = Box(x - 5, y - 5, x + 5, y + 5)
        for node, box in boxes.items():
            at_x, at_y = shape.at[node]
            body = Box(at_x - SYMBOL, at_y - SYMBOL, at_x + SYMBOL, at_y + SYMBOL)
            label = Box(box.left, at_y + SYMBOL, box.right, box.bottom)
            assert not arrow.meets(body) and not arrow.meets(label)


@pytest.mark.parametrize("way", WAYS)
@pytest.mark.parametrize("name", SYSTEMS)
def test_nothing_overlaps_on_any_layout_or_demo(name, way):
    check(*drawn(SYSTEMS[name], way))


@pytest.mark.parametrize("way", WAYS)
@given(st.integers(0, 500), st.sampled_from([5, 12, 20, 35, 50, 65, 80]))
def test_nothing_overlaps_on_any_network_of_five_to_eighty_parts(way, seed, size):
    check(*drawn(Grown(seed, size).system(), way))


@pytest.mark.parametrize("name", SYSTEMS)
def test_waste_and_returns_keep_lanes_of_their_own(name):
    """Where a waste or return pipe turns or passes a rank, no other pipe lies on it."""
    lines, _, shape = drawn(SYSTEMS[name], "wide")
    medium = carried(SYSTEMS[name])
    for one, other in combinations(lines, 2):
        if not {medium.get(one.id), medium.get(other.id)} & {"waste", "return"}:
            continue
        if {one.start, one.end} & {other.start, other.end}:
            continue
        for a in pieces(shape.paths[one.id]):
            for b in pieces(shape.paths[other.id]):
                level = (a.top == b.top and a.bottom == b.bottom) or (
                    a.left == b.left and a.right == b.right
                )
                assert not (level and a.meets(b)), (one.id, other.id)


def test_most_lines_that_carry_water_have_room_for_their_figure():
    lines, _, shape = drawn(folio().variants[0].system, "wide")
    wet = [line for line in lines if "waste" not in line.id and "falls" not in line.id]
    figures = sum(shape.marks[line.id].figure for line in wet if line.id in shape.marks)
    assert figures >= 0.6 * len(wet)


def test_a_wider_label_makes_a_wider_drawing_and_moves_nothing_across():
    nodes, lines = list("ab"), [Line("l", "a", "b")]
    plan = lay_out(nodes, lines)
    small, large = Extent(21, 21, 25, 45), Extent(60, 60, 25, 45)
    before = trace(plan, lines, dict.fromkeys(nodes, small), tall=False)
    after = trace(plan, lines, {"a": small, "b": large}, tall=False)
    # hand: 21 + 60 and 7 px apart, where 62 px from symbol to symbol were enough before
    assert before.at["b"][0] - before.at["a"][0] == 62.0
    assert after.at["b"][0] - after.at["a"][0] == 88.0
    assert before.at["b"][1] == after.at["b"][1]
    tall = trace(plan, lines, dict.fromkeys(nodes, small), tall=True)
    assert tall.at["b"][1] - tall.at["a"][1] == 25 + 45 + 7
    assert trace(lay_out([], []), [], {}, tall=False).paths == {}
