"""The drawing's plan: ranks follow the flow, nothing overlaps, one more part moves little."""

from __future__ import annotations

import time
from itertools import pairwise

import pytest
from hypothesis import given
from hypothesis import strategies as st

from isotherma.catalogue.classes import classes
from isotherma.catalogue.demo import folio
from isotherma.catalogue.layouts import layouts
from isotherma.core import editing
from isotherma.core.drawing.media import carried
from isotherma.core.drawing.plan import Line, lay_out
from isotherma.core.errors import ChangeRefused
from isotherma.web.frame.route_picture import route_of
from tests.networks import Grown


def check(nodes, lines, plan):
    """Ranks rise along every line but turned ones; no two things share a spot."""
    spots: dict[tuple[float, float], str] = {}
    for node in nodes:
        assert plan.place[node] not in spots
        spots[plan.place[node]] = node
    for line in lines:
        if line.start == line.end:
            continue
        passed = [plan.place[line.start], *plan.bends[line.id], plan.place[line.end]]
        steps = {b[0] - a[0] for a, b in pairwise(passed)}
        assert steps <= ({-1.0} if line.id in plan.turned else {1.0})
    by_rank: dict[float, list[float]] = {}
    for line in lines:
        for rank, track in plan.bends.get(line.id, ()):
            by_rank.setdefault(rank, []).append(track)
    for node in nodes:
        rank, track = plan.place[node]
        by_rank.setdefault(rank, []).append(track)
    for tracks in by_rank.values():
        ordered = sorted(tracks)
        assert all(b - a >= 1.0 - 2e-3 for a, b in pairwise(ordered))


@pytest.mark.parametrize("name", layouts())
def test_every_layout_is_drawn_with_hardly_a_crossing(name):
    nodes, lines = route_of(layouts()[name].system)
    plan = lay_out(nodes, lines)
    check(nodes, lines, plan)
    assert plan.crossings <= 3
    assert plan.ranks <= 20


@given(st.integers(0, 400))
def test_any_network_is_drawn(seed):
    system = Grown(seed, 40).system()
    nodes, lines = route_of(system)
    check(nodes, lines, lay_out(nodes, lines))


@given(st.lists(st.tuples(st.integers(0, 14), st.integers(0, 14)), max_size=30, unique=True))
def test_any_graph_is_laid_out(pairs):
    nodes = [f"n{index}" for index in range(15)]
    lines = [Line(f"l{index}", f"n{a}", f"n{b}") for index, (a, b) in enumerate(pairs)]
    plan = lay_out(nodes, lines)
    check(nodes, lines, plan)
    assert lay_out(nodes, lines) == plan


def test_a_chain_is_a_straight_line_and_a_lonely_part_stands():
    nodes = list("abcde")
    plan = lay_out(nodes, [Line(f"l{a}", a, b) for a, b in pairwise(nodes[:4])])
    assert [plan.place[node] for node in nodes[:4]] == [(0, 0), (1, 0), (2, 0), (3, 0)]
    assert plan.place["e"][0] == 0.0 and plan.crossings == 0
    assert lay_out([], []).ranks == 0


def test_sixty_parts_are_drawn_at_once():
    system = Grown(7, 60).system()
    nodes, lines = route_of(system)
    began = time.perf_counter()
    plan = lay_out(nodes, lines)
    assert len(nodes) >= 50 and time.perf_counter() - began < 2.0
    check(nodes, lines, plan)


def test_one_more_part_moves_little():
    """A part put into a run shifts what comes after by a rank, and keeps every order."""
    project = folio()
    before = project.variants[0].system
    part = classes()["strainer-usual"].part
    after = editing.insert_part(project, "button", "split-check", part).variants[0].system
    plans = [lay_out(*route_of(system)) for system in (before, after)]
    kept = [node for node in plans[0].place if node in plans[1].place]
    for node in kept:
        moved = plans[1].place[node][0] - plans[0].place[node][0]
        assert abs(moved) <= 2.0

    def order(plan):
        ranks: dict[float, list[str]] = {}
        for node in kept:
            ranks.setdefault(plan.place[node][0], []).append(node)
        return {
            (a, b)
            for row in ranks.values()
            for a, b in pairwise(sorted(row, key=lambda node: plan.place[node][1]))
        }

    assert not {(b, a) for a, b in order(plans[0])} & order(plans[1])


def test_what_pipes_carry():
    system = layouts()["coolant-coil"].system
    medium = carried(system)
    assert medium["tank-shut"] == "cold" and medium["pump-accumulator"] == "cold"
    assert medium["store-loop-tee"] == "hot"
    assert {medium["mixer-mixed-split"], medium["mixed-split-head"]} == {"mixed"}
    assert medium["header-tee-coil"] == "primary" and medium["coil-back-selector"] == "primary"
    assert medium["loop-check-return-tee"] == "return"
    assert set(medium) == {run.id for run in system.pipes}
    plate = carried(layouts()["drive-plate"].system)
    assert plate["relief-tee-plate"] == "cold" and plate["plate-mixer"] == "hot"
    assert plate["engine-valve"] == "primary"


# --- putting another part in the place of one ---


def test_a_part_is_replaced_with_its_runs_and_place():
    project = folio()
    head = next(part for part in project.variants[0].system.parts if part.id == "head")
    fine = classes()["shower-head-fine"].part
    changed = editing.replace_part(project, "button", "head", fine)
    new = next(part for part in changed.variants[0].system.parts if part.id == "head")
    assert new.name == fine.name and new.space == head.space
    assert changed.variants[0].system.pipes == project.variants[0].system.pipes


@pytest.mark.parametrize(
    ("part_id", "kind"),
    [("nothing", "shower-head-fine"), ("mixer", "shower-head-fine"), ("store", "store-usual")],
)
def test_a_part_that_does_not_fit_is_refused(part_id, kind):
    found = classes().get(kind) or next(
        row for row in classes().values() if row.kind == kind.partition("-")[0]
    )
    with pytest.raises(ChangeRefused):
        editing.replace_part(folio(), "button", part_id, found.part)
