"""What goes where it is put, what stands in its way, and what is taken out to get at it."""

from __future__ import annotations

from typing import Any

import pytest

from isotherma.core.setup.fit import Misfit, fits
from isotherma.core.setup.reach import HATCH_S, JOINT_S, PART_S, reach_of
from isotherma.core.system import System
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
