"""The reference figures of the handbook; each case says what it was computed from."""

from __future__ import annotations

import numpy as np
import pytest

from isotherma.core import water
from isotherma.core.errors import TargetNotReached
from isotherma.core.hydraulics.friction import run_drop_pa, velocity_m_per_s
from isotherma.core.thermal.estimates import cooled_c, time_to_heat
from isotherma.core.thermal.losses import box_loss_w_per_k
from isotherma.core.thermal.mixer import wanted_hot_share
from isotherma.core.thermal.store import advance, draw


def advance_one(celsius, capacity, loss, ambient, power, duration):
    """Run the engine's own store step on a store of one temperature."""
    layers, sensors = np.array([float(celsius)]), np.zeros(2)
    lost = advance(
        layers, capacity, np.array([loss]), ambient, 0.0, np.array([power]), sensors,
        np.zeros(2), np.zeros(2), duration,
    )  # fmt: skip
    return layers[0], lost


def seconds_until(target, **store):
    """Find by bisection when the stepped store reaches a temperature."""
    low, high = 0.0, 1e5
    while high - low > 0.01:
        middle = (low + high) / 2
        reached = advance_one(duration=middle, **store)[0] >= target
        low, high = (low, middle) if reached else (middle, high)
    return high


def test_a1_twelve_litres_heat_without_loss():
    capacity = 11.999 * water.mean_specific_heat_j_per_kg_k(8, 65)
    store = {"celsius": 8, "capacity": capacity, "loss": 1e-9, "ambient": 8, "power": 1800.0}
    assert seconds_until(65, **store) == pytest.approx(1589, rel=0.005)


def test_a2_thirty_litres_on_600_watts_with_loss():
    capacity = 29.997 * water.mean_specific_heat_j_per_kg_k(8, 65)
    store = {"celsius": 8, "capacity": capacity, "loss": 1.1, "ambient": 12, "power": 600.0}
    assert seconds_until(65, **store) == pytest.approx(12494, rel=0.005)
    closed = time_to_heat(
        capacity_j_per_k=capacity, power_w=600, start_c=8, target_c=65, loss_w_per_k=1.1,
        ambient_c=12,
    )  # fmt: skip
    assert closed == pytest.approx(12494, rel=0.005)


def test_a3_a_night_of_cooling():
    capacity = 29.418 * water.mean_specific_heat_j_per_kg_k(50, 65)
    celsius, _ = advance_one(65, capacity, 0.7, 5.0, 0.0, 12 * 3600)
    assert celsius == pytest.approx(51.93, abs=0.1)
    closed = cooled_c(
        capacity_j_per_k=capacity, loss_w_per_k=0.7, start_c=65, ambient_c=5, duration_s=43200
    )
    assert celsius == pytest.approx(closed, abs=0.01)


@pytest.mark.parametrize(
    ("thickness", "conductivity", "expected"), [(0.025, 0.022, 0.544), (0.013, 0.038, 1.367)]
)
def test_a4_boxed_store(thickness, conductivity, expected):
    loss = box_loss_w_per_k(
        length_m=0.32, width_m=0.32, height_m=0.30, insulation_m=thickness,
        insulation_w_per_m_k=conductivity, film_w_per_m2_k=8,
    )  # fmt: skip
    assert loss == pytest.approx(expected, rel=0.005)


def delivered_kg(layer_count, heat_w=0.0):
    """Draw 15 kg at 62 through an ideal valve at 38 and 5 kg/min until it sags."""
    layers = np.full(layer_count, 62.0)
    layer_kg, specific, step_s, given = 15.0 / layer_count, 4182.0, 0.25, 0.0
    layer_j = layer_kg * specific
    while True:
        share = (38.0 - 9.0) / (layers[-1] - 9.0)
        if share >= 1.0:
            return given
        mass = 5.0 / 60 * step_s
        draw(layers, layer_kg, layer_j, specific, share * mass, 9.0, 0.0)
        layers += heat_w * step_s / (15.0 * specific)
        given += mass


@pytest.mark.parametrize(("layers", "expected"), [(1, 12.41), (10, 23.03), (20, 24.38)])
def test_a5_litres_from_a_uniform_store(layers, expected):
    assert delivered_kg(layers) == pytest.approx(expected, rel=0.02)


def test_a5r_litres_with_heat_spread_evenly():
    assert delivered_kg(10, heat_w=2000.0) == pytest.approx(27.68, rel=0.02)


def test_a5_lies_between_the_bounds_of_the_handbook():
    one, perfect = 15 * (62 - 38) / (38 - 9), 15 * (62 - 9) / (38 - 9)
    assert delivered_kg(1) == pytest.approx(one, rel=0.005)
    assert one < delivered_kg(10) < delivered_kg(20) < perfect


@pytest.mark.parametrize(
    ("bore", "celsius", "kpa", "speed"), [(0.009, 40, 20.4, 1.31), (0.0117, 10, 7.08, 0.775)]
)
def test_a6_pressure_of_a_run(bore, celsius, kpa, speed):
    flow = 5e-3 / 60
    drop = run_drop_pa(flow_m3_per_s=flow, bore_m=bore, length_m=6, loss_k=6, celsius=celsius)
    assert drop / 1000 == pytest.approx(kpa, rel=0.02)
    assert velocity_m_per_s(flow_m3_per_s=flow, bore_m=bore) == pytest.approx(speed, rel=0.02)


@pytest.mark.parametrize(
    ("loss", "expected", "rel"),
    [
        pytest.param(1e-9, 1255.8, 1e-4, id="hand: C dT / P, losses negligible"),
        pytest.param(2.0, 1255.8 * 1.0319, 2e-3, id="series: C dT/P (1 + U dT_mean/P)"),
    ],
)
def test_time_to_heat(loss, expected, rel):
    found = time_to_heat(
        capacity_j_per_k=41860, power_w=1000, start_c=20, target_c=50, loss_w_per_k=loss,
        ambient_c=20,
    )  # fmt: skip
    assert found == pytest.approx(expected, rel=rel)


def test_time_to_heat_knows_its_limits():
    common = {"capacity_j_per_k": 4e4, "start_c": 10.0, "loss_w_per_k": 2.0, "ambient_c": 10.0}
    assert time_to_heat(power_w=100, target_c=9, **common) == 0.0
    with pytest.raises(TargetNotReached) as caught:
        time_to_heat(power_w=100, target_c=60, **common)
    assert (caught.value.target_c, caught.value.limit_c) == (60, 60)


def test_ideal_valve_share_is_the_mixing_law():
    share = wanted_hot_share(62.0, 9.0, 38.0, 10.0)
    assert share == pytest.approx((38 - 9) / (62 - 9))
