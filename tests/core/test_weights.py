"""Weights by hand for three layouts, levers, lifts and water that moves."""

from __future__ import annotations

from math import pi, sqrt, tanh

import pytest

from isotherma.catalogue.layouts import layouts
from isotherma.core.errors import CannotBe
from isotherma.core.setup.weights import Filling, weights
from isotherma.core.system import System
from isotherma.core.system.nominal import computed
from isotherma.core.system.vehicle import Vehicle
from isotherma.core.weight.levers import on_axles


def weighed(parts, **vehicle):
    known = computed(System.model_validate({"parts": parts, "runs": []}))
    return weights(known, Vehicle.model_validate(vehicle))


@pytest.mark.parametrize("name", ["seat-store", "tap-canister", "pitch-store"])
def test_three_layouts_weigh_what_their_parts_and_water_do(name):
    system = computed(layouts()[name].system)
    found = {row.filling: row for row in weights(system, Vehicle()).rows}
    dry = held = drawn = kept = 0.0
    for part in system.parts:
        mass = part.dry_mass_kg
        if part.kind == "gas_bottle":
            mass = part.empty_kg if mass is None else mass
            held += part.gas_kg or 0.0
        dry += mass or 0.0
        volume = getattr(part, "volume_m3", None) or 0.0
        if part.kind in ("fresh_tank", "loose_container", "gravity_bag"):
            drawn += volume * 999.06 * (1 + getattr(part, "spare_count", 0))
        elif part.kind in ("store", "combi", "canister", "sun_container"):
            held += volume * 999.06
        elif part.kind in ("grey_tank", "waste_container"):
            kept += volume * 999.06
    assert found[Filling.FULL].total_kg == pytest.approx(dry + held + drawn, rel=1e-3)
    assert found[Filling.EMPTY].total_kg == pytest.approx(dry + held + min(kept, drawn), rel=1e-3)
    assert found[Filling.HALF].total_kg == pytest.approx(
        dry + held + 0.5 * drawn + min(kept, 0.5 * drawn), rel=1e-3
    )


def tank(**values):
    return {"id": "tank", "kind": "fresh_tank", "volume_m3": 0.1, "dry_mass_kg": 8.0, **values}


def test_moments_about_the_front_axle():
    """107.9 kg, 2.6 m behind the front of a room that begins 0.4 m behind the front axle."""
    found = weighed([tank(x_m=2.6, y_m=0.5)], wheelbase_m=4.0, rear_axle_x_m=3.6,
                    front_axle_kg=100.0, rear_axle_kg=60.0, payload_kg=150.0)  # fmt: skip
    full = found.rows[0]
    total = 8.0 + 99.9
    assert full.total_kg == pytest.approx(total, rel=1e-3)
    assert full.rear_kg == pytest.approx(total * 3.0 / 4.0, rel=1e-3)
    assert full.front_kg == pytest.approx(total / 4.0, rel=1e-3)
    assert full.rear_left_kg == pytest.approx(60.0 - total * 0.75, rel=1e-2)
    assert full.payload_left_kg == pytest.approx(150.0 - total, rel=1e-2)
    assert full.right_m == pytest.approx(0.5)
    assert found.rows[2].total_kg == pytest.approx(8.0)  # and no grey tank to hold it


def test_what_nobody_said_stays_unknown():
    found = weighed([tank(dry_mass_kg=None)])
    assert found.unweighed == ("Fresh tank",)
    assert found.rows[0].front_kg is None and found.rows[0].payload_left_kg is None
    assert found.unplaced[0][0] == "Fresh tank"
    nothing = weighed([tank(dry_mass_kg=0.0, x_m=0.0)], payload_kg=0.0)
    assert nothing.unweighed == () and nothing.unplaced == ()
    assert nothing.rows[0].payload_left_kg == pytest.approx(-99.9, rel=1e-3)  # an entered 0 is 0


def test_the_three_heaviest_without_a_place_are_asked_for():
    parts = [
        {"id": f"t{n}", "kind": "fresh_tank", "volume_m3": 0.01 * n, "name": f"Tank {n}"}
        for n in range(1, 6)
    ]
    found = weighed(parts)
    assert [label for label, _ in found.unplaced] == ["Tank 5", "Tank 4", "Tank 3"]
    assert found.unplaced_kg == pytest.approx(0.15 * 999.06, rel=1e-3)


def test_a_can_is_heavy_when_it_is():
    found = weighed([
        {"id": "small", "kind": "loose_container", "volume_m3": 0.01, "dry_mass_kg": 0.6},
        {"id": "large", "kind": "loose_container", "volume_m3": 0.03},
        {"id": "bottle", "kind": "gas_bottle", "gas_kg": 11.0, "empty_kg": 12.0},
    ])  # fmt: skip
    assert [lift.part_id for lift in found.lifts] == ["large", "bottle", "small"]
    assert [lift.heavy for lift in found.lifts] == [True, False, False]
    assert found.lifts[1].kg == 23.0


SIDES = {"inside_length_m": 1.0, "inside_width_m": 0.4, "inside_height_m": 0.25}


def test_half_a_tank_runs_forward_unless_it_is_baffled():
    loose = weighed([tank(**SIDES)], wheelbase_m=4.0).sloshing[0]
    deep = 0.125
    assert loose.water_kg == pytest.approx(49.95, rel=1e-3)
    assert loose.moves_m == pytest.approx(min(0.5 * 1.0 / (12 * deep), 0.25))
    assert loose.front_kg == pytest.approx(loose.water_kg * loose.moves_m / 4.0)
    wave = 2 * pi / sqrt(pi * 9.80665 / 1.0 * tanh(pi * deep / 1.0))
    assert loose.period_s == pytest.approx(wave)
    assert weighed([tank(**SIDES, baffled=True)]).sloshing == ()
    assert weighed([tank(**SIDES)]).sloshing[0].front_kg is None
    assert weighed([tank()]).sloshing == ()  # nobody measured it


def test_a_lever_needs_a_length():
    assert on_axles(mass_kg=50.0, behind_front_m=-1.0, wheelbase_m=4.0) == (62.5, -12.5)
    with pytest.raises(CannotBe, match="no_wheelbase"):
        on_axles(mass_kg=50.0, behind_front_m=1.0, wheelbase_m=0.0)
