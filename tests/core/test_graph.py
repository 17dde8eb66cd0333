"""Searches: what is reached, in which order, and what hangs together."""

from __future__ import annotations

from hypothesis import given
from hypothesis import strategies as st

from isotherma.core.graph import both_ways, components, reach, reach_nearest, reaches

PAIRS = st.lists(st.tuples(st.integers(0, 11), st.integers(0, 11)), max_size=25)


def closure(start, pairs):
    """Reached by adding pairs until nothing is added: slow, and by another way."""
    found = {start}
    while True:
        more = {b for a, b in pairs if a in found} | {a for a, b in pairs if b in found}
        if more <= found:
            return found
        found |= more


@given(PAIRS)
def test_all_searches_reach_what_hangs_together(pairs):
    near = both_ways(pairs)
    found = components(12, pairs)
    for start in range(12):
        expected = closure(start, pairs)
        assert set(reach([start], lambda node: near.get(node, ()))) == expected
        assert set(reach_nearest([start], lambda node: near.get(node, ()))) == expected
        assert {node for node in range(12) if found[node] == found[start]} == expected
        for goal in range(12):
            met = reaches([start], lambda node: near.get(node, ()), lambda node: node == goal)  # noqa: B023
            assert met == (goal in expected)


def test_the_nearest_come_first():
    """On a ring of eight the walk goes out on both sides in turn."""
    near = both_ways((node, (node + 1) % 8) for node in range(8))
    assert list(reach_nearest([0], near.__getitem__)) == [0, 1, 7, 2, 6, 3, 5, 4]


def test_a_walk_goes_only_where_the_rule_lets_it():
    down = {node: [node + 1] if node < 5 else [] for node in range(6)}
    assert list(reach([3], down.__getitem__)) == [3, 4, 5]
    assert not reaches([3], down.__getitem__, lambda node: node == 2)
    assert reaches([3], down.__getitem__, lambda node: node == 3)
