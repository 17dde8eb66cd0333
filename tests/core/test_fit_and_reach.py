"""What goes where it is put, what stands in its way, and what is taken out to get at it."""

from __future__ import annotations

from typing import Any

import pytest

from isotherma.catalogue.layouts import layouts
from isotherma.core.drawing.stand import stand, tags, unplaced
from isotherma.core.setup.fit import Misfit, cupboard_m3, fits
from isotherma.core.setup.reach import HATCH_S, JOINT_S, PART_S, reach_of
from isotherma.core.system import System
from isotherma.core.system.vehicle import Vehicle
from tests.networks import network, part, pipe, pump, tank, tap


def under_seat(**values: Any) -> System:
    return System.model_validate({
        "spaces": [{"id": "seat", "name": "Under the seat", "width_m": 0.6, "depth_m": 0.5,
                    "height_m": 0.35}],
        "parts": [{"id": "store", "kind": "store", "space": "seat", "volume_m3": 0.01,
                   "width_m": 0.3, "depth_m": 0.3, "tall_m": 0.3, **values}],
        "runs": [],
    })  # fmt: skip


@pytest.mark.parametrize(("values", "why", "over"), [
    ({}, None, 0.0), ({"tall_m": 0.4}, Misfit.TOO_TALL, 0.05),
    ({"width_m": 0.7}, Misfit.TOO_WIDE, 0.1), ({"width_m": 0.5, "depth_m": 0.6}, None, 0.0),
    ({"depth_m": 0.65, "width_m": 0.45}, Misfit.TOO_WIDE, 0.05),
    ({"clearance_m": 0.4}, Misfit.NO_SERVICE, 0.1), ({"clearance_m": 0.2}, None, 0.0),
    ({"tall_m": None, "width_m": None}, None, 0.0),
])  # fmt: skip
def test_a_part_is_held_against_its_space(values, why, over):
    found = fits(under_seat(**values)).misfits
    if why is None:
        assert found == ()
    else:
        assert [fit.why for fit in found] == [why]
        assert found[0].over == pytest.approx(over)


def test_pipes_want_the_room_of_an_elbow():
    data = under_seat(tall_m=0.33).model_dump()
    data["parts"] = [*data["parts"], tank()]
    data["runs"] = [pipe("tank", "store")]
    [fit] = fits(System.model_validate(data)).misfits
    assert fit.why is Misfit.NO_ELBOWS and fit.over == pytest.approx(0.03)


def placed(*boxes: dict[str, Any]) -> System:
    usual = {"kind": "battery", "width_m": 0.2, "depth_m": 0.2, "tall_m": 0.2, "y_m": 0.0,
             "z_m": 0.0}  # fmt: skip
    return System.model_validate({"parts": [{**usual, **box} for box in boxes], "runs": []})


def test_what_stands_in_each_other_is_found_by_how_much():
    [fit] = fits(placed({"id": "a", "x_m": 1.0}, {"id": "b", "x_m": 1.15})).misfits
    assert fit.why is Misfit.COLLIDES and fit.over == pytest.approx(0.05)
    assert fits(placed({"id": "a", "x_m": 1.0}, {"id": "b", "x_m": 1.2})).misfits == ()  # touch
    above = {"id": "b", "x_m": 1.0, "z_m": 0.2}
    assert fits(placed({"id": "a", "x_m": 1.0}, above)).misfits == ()
    unplaced = {"id": "b", "x_m": 1.0, "z_m": None}
    assert fits(placed({"id": "a", "x_m": 1.0}, unplaced)).misfits == ()
    inside = {"id": "b", "kind": "element", "x_m": 1.0, "fitted_in": "a"}
    assert fits(placed({"id": "a", "kind": "store", "x_m": 1.0}, inside)).misfits == ()


def test_a_space_says_how_full_it_is():
    [seat] = fits(under_seat()).spaces
    assert seat.room_m3 == pytest.approx(0.105) and seat.taken_m3 == pytest.approx(0.027)
    assert seat.unknown == 0
    [bare] = fits(under_seat(tall_m=None)).spaces
    assert bare.unknown == 1 and bare.taken_m3 == 0.0


# --- reach ---


def built(**values: Any) -> System:
    return network(
        [
            tank(), part("strainer", "strainer"), pump(**values), tap(),
            part("box", "battery", width_m=0.4),
            part("hidden", "drain", reach="behind another part", behind="pump"),
        ],
        [pipe("tank", "strainer"), pipe("strainer", "pump"), pipe("pump", "tap")],
    )  # fmt: skip


def test_what_stands_open_needs_its_own_joints():
    found = reach_of(built(), "pump")
    assert found.order == () and found.joints == 2
    assert found.seconds_s == PART_S + 2 * JOINT_S


def test_what_is_behind_comes_out_after_what_is_before_it():
    system = built(reach="behind another part", behind="box")
    found = reach_of(system, "hidden")
    assert found.order == ("box", "pump")  # the box first, then the pump
    assert found.joints == 2  # of the pump: the drain is joined to nothing
    assert found.seconds_s == 3 * PART_S + 2 * JOINT_S


def test_a_hatch_takes_a_moment_and_a_ring_is_walked_once():
    assert reach_of(built(reach="hatch"), "pump").seconds_s == PART_S + 2 * JOINT_S + HATCH_S
    data = built(reach="behind another part", behind="hidden").model_dump()
    ring = reach_of(System.model_validate(data), "pump")
    assert ring.order == ("hidden",)


def test_a_bypass_joins_what_comes_with_what_leaves():
    found = reach_of(built(width_m=0.3), "pump").bypass
    assert found is not None
    assert (found.before, found.after) == ("strainer", "tap")
    assert found.length_m == pytest.approx(0.5)
    assert reach_of(built(), "tank").bypass is None
    assert reach_of(built(), "hidden").bypass is None


@pytest.mark.parametrize("name", list(layouts()))
def test_a_starting_layout_fits_and_is_drawn(name):
    system = layouts()[name].system
    assert fits(system).misfits == ()
    # only fluids, drains outside and what lies in the river are nowhere
    nowhere = {part_id for part_id, _, _ in unplaced(system)}
    kinds = {part.kind for part in system.parts if part.id in nowhere}
    assert kinds <= {"primary_fluid", "open_drain", "outside_source", "loose_hose", "strainer",
                     "shower_place", "reuse_loop"}  # fmt: skip
    for view in ("above", "side"):
        drawn = stand(system, Vehicle(), view)
        assert len(drawn.parts) == len(system.parts) - len(nowhere) - len(
            [part for part in system.parts if part.fitted_in is not None]
        )
        for scale in (560.0, 350.0):
            each = scale / (drawn.frame[2] - drawn.frame[0])
            boxes = [(each * part.left, each * part.low, each * part.right, each * part.high)
                     for part in drawn.parts]  # fmt: skip
            found = tags(boxes, 20.0)
            for one, (x, y) in enumerate(found):
                assert all(max(abs(x - a), abs(y - b)) >= 20.0 - 1e-9 for a, b in found[:one])


@pytest.mark.parametrize("name", list(layouts()))
def test_a_starting_layouts_tanks_hold_what_is_said(name):
    for one in layouts()[name].system.parts:
        volume = getattr(one, "volume_m3", None)
        if volume is not None and one.outer_m3 is not None and one.kind != "primary_fluid":
            assert one.outer_m3 > volume


@pytest.mark.parametrize(("rise", "fits_so"), [
    (0.0, True), (0.9, True), (0.6, True), (1.1, True), (1.3, False), (0.4, False), (-0.9, False),
])  # fmt: skip
def test_a_rise_that_its_ends_contradict_is_said(rise, fits_so):
    data = network(
        [tank(), pump(), tap()], [pipe("tank", "pump", rise_m=rise), pipe("pump", "tap")]
    )
    values = data.model_dump()
    heights = {"tank": (0.0, 0.3), "pump": (0.9, 0.2)}
    for one in values["parts"]:
        if one["id"] in heights:
            one["z_m"], one["tall_m"] = heights[one["id"]]
    found = fits(System.model_validate(values)).misfits
    assert (found == ()) is fits_so
    if found:
        assert found[0].why is Misfit.RISES_OTHERWISE
        assert (found[0].least, found[0].most) == pytest.approx((0.6, 1.1))


def test_a_place_to_wash_holds_what_stands_in_it():
    place = {"id": "cell", "kind": "shower_place", "x_m": 1.0, "width_m": 0.7, "depth_m": 0.8,
             "tall_m": 1.9}  # fmt: skip
    assert fits(placed(place, {"id": "b", "x_m": 1.0})).misfits == ()


def test_levels_of_tanks_lean_with_the_vehicle():
    system = placed({"id": "t", "kind": "fresh_tank", "x_m": 1.0, "depth_m": 0.6},
                    {"id": "d", "kind": "drain", "x_m": 2.0, "z_m": -0.3})  # fmt: skip
    level = stand(system, Vehicle(), "side").parts[0].level
    assert level == pytest.approx((0.1, 0.1))
    leaning = stand(system, Vehicle(pitch_deg=5.0), "side").parts[0].level
    assert leaning == pytest.approx((0.1 - 0.3 * 0.08749, 0.1 + 0.3 * 0.08749), abs=1e-4)
    above = stand(system, Vehicle(), "above").parts
    assert above[0].level is None and above[1].is_drain and above[1].is_below


def test_room_is_what_takes_some_of_the_living_space():
    system = System.model_validate({
        "spaces": [{"id": "in", "name": "In"}, {"id": "out", "name": "Out", "warmth": "outside"}],
        "parts": [
            {"id": "tank", "kind": "fresh_tank", "space": "in", "width_m": 0.5, "depth_m": 0.5,
             "tall_m": 0.4},
            {"id": "pump", "kind": "pump", "space": "in"},
            {"id": "bag", "kind": "gravity_bag", "space": "out", "width_m": 1, "depth_m": 1,
             "tall_m": 1},
            {"id": "panel", "kind": "panel", "width_m": 1, "depth_m": 1, "tall_m": 0.1},
            {"id": "element", "kind": "element", "fitted_in": "tank"},
        ],
        "runs": [],
    })  # fmt: skip
    tank_m3, pump_m3 = cupboard_m3(system)
    assert tank_m3 == pytest.approx(0.1) and pump_m3 is None
