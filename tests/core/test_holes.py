"""Holes: how wide, by which drills, through what, and those nobody planned."""

from __future__ import annotations

from itertools import pairwise

import pytest
from hypothesis import given
from hypothesis import strategies as st

from isotherma.catalogue.joints import assumed_ends, threads
from isotherma.core.joints.holes import holes_of, steps_of
from isotherma.core.system import System
from tests.core.checks.designs import cable, doc, gas_pipe, part, pipe

TUBE = {"family": "semi-rigid plastic", "nominal": "15 mm", "joint": "push-in"}


def holes(*pieces, tradition="metric", **more):
    system = System.model_validate(doc(*pieces, **more))
    return {hole.id: hole for hole in holes_of(system, threads(), assumed_ends(tradition))}


@given(st.floats(0.5, 80.0))
def test_drills_grow_by_no_more_than_four_up_to_twelve(bore):
    steps = steps_of(bore)
    assert steps[-1] == pytest.approx(bore) and list(steps) == sorted(steps)
    if bore > 25.0:
        assert steps == (6.0, bore)
    else:
        small = [step for step in steps if step <= 12.0]
        assert all(two - one <= 4.0 + 1e-9 for one, two in pairwise(small))
        assert steps[0] <= 3.0


@pytest.mark.parametrize(("end", "bore"), [
    ("female 1/2 in parallel", 22.0), ("female 3/4 in parallel", 28.0),
    ("female 1 in parallel", 35.0), ("barb 40 mm", 41.0),
])  # fmt: skip
def test_a_fitting_in_a_tank_needs_its_thread_and_a_millimetre(end, bore):
    tank = part("tank", "fresh_tank", ends=[{"port": "outlet", "end": end}])
    found = holes(tank, part("tap", "tap"), pipe("tank.outlet", "tap.inlet", **TUBE))
    hole = found["tank-outlet"]
    assert hole.kind == "bulkhead" and hole.bore_mm == bore and hole.seal == "washer"
    assert hole.order[0] == "empty" and hole.order.index("chips out") < hole.order.index("pipe")


def test_a_run_between_two_spaces_no_hole_joins_is_not_planned():
    parts = (part("tank", "fresh_tank"), part("tap", "tap", space="below"))
    found = holes(*parts, pipe("tank.outlet", "tap.inlet", **TUBE))
    hole = found["not-planned-tank-tap"]
    assert hole.kind == "not planned" and hole.bore_mm == 15.0 + 3.0
    assert hole.behind == "look first" and hole.about == "tank-tap"
    named = {"id": "floor", "name": "Floor", "first": "below", "second": "living"}
    planned = holes(*parts, pipe("tank.outlet", "tap.inlet", **TUBE), holes=[named])
    assert "not-planned-tank-tap" not in planned and planned["floor"].bore_mm == 18.0


def test_a_hole_is_as_wide_as_it_is_said_and_its_edge_by_what_it_is_in():
    said = {"id": "floor", "name": "Floor", "first": "living", "second": "below",
            "bore_m": 0.03, "made_of": "metal", "behind": "brake line",
            "drill_from": "below"}  # fmt: skip
    pieces = (part("tank", "fresh_tank"), part("tap", "tap", space="below"),
              pipe("tank.outlet", "tap.inlet", **TUBE))  # fmt: skip
    hole = holes(*pieces, holes=[said])["floor"]
    assert hole.bore_mm == 30.0 and hole.steps_mm == (6.0, 30.0) and hole.unknown == ()
    assert hole.edge == "deburr, primer, cure" and hole.sleeve == "grommet"
    assert hole.pilot_from == "below" and hole.behind == "brake line"
    wood = holes(*pieces, holes=[{**said, "made_of": "wood"}])["floor"]
    assert wood.edge == "end grain" and wood.sleeve is None and "sleeve" not in wood.order
    vague = holes(*pieces, holes=[{"id": "floor", "name": "Floor"}])["floor"]
    assert set(vague.unknown) >= {"bore_m", "made_of", "drill_from", "behind"}


def test_gas_goes_through_in_a_sleeve_and_a_cables_hole_is_not_guessed():
    found = holes(
        part("bottle", "gas_bottle", space="locker"), part("hob", "gas_load"),
        part("battery", "battery", space="locker"), part("fuse", "circuit"),
        gas_pipe("bottle.outlet", "hob.gas"), cable("battery.power", "fuse.feed"),
    )  # fmt: skip
    assert found["not-planned-bottle-hob"].sleeve == "sleeve"
    assert found["not-planned-battery-fuse"].bore_mm is None


def test_a_sleeved_hole_needs_the_sleeve():
    said = {"id": "wall", "name": "Wall", "first": "living", "second": "locker", "sleeved": True}
    pieces = (part("bottle", "gas_bottle", space="locker"), part("hob", "gas_load"),
              gas_pipe("bottle.outlet", "hob.gas"))  # fmt: skip
    hole = holes(*pieces, holes=[said])["wall"]
    assert hole.bore_mm is None and "sleeve" in hole.unknown
