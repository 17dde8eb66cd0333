"""Store, pipe and mixer: nothing lost, nothing invented, nothing mixed that should not be."""

from __future__ import annotations

from itertools import pairwise

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.integrate import solve_ivp

from isotherma.core.hydraulics.friction import inner_film_w_per_m2_k
from isotherma.core.thermal import pipe
from isotherma.core.thermal.losses import cylinder_loss_w_per_k, default_layers
from isotherma.core.thermal.mixer import wanted_hot_share
from isotherma.core.thermal.pipe import (
    loss_w_per_m_k,
    wall_heat_j_per_m_k,
    water_to_wall_w_per_m_k,
)
from isotherma.core.thermal.store import advance, density_at, draw, turn_over

temperatures = st.lists(st.floats(0.5, 95.0), min_size=1, max_size=20)


@given(temperatures)
def test_turning_over_keeps_heat_and_leaves_nothing_lighter_below(temps):
    layers = np.array(temps)
    turn_over(layers)
    assert layers.sum() == pytest.approx(sum(temps), rel=1e-12)
    densities = [density_at(celsius) for celsius in layers]
    assert all(below >= above - 1e-9 for below, above in pairwise(densities))
    again = layers.copy()
    turn_over(again)
    assert np.allclose(again, layers, atol=1e-9)


def test_water_under_four_degrees_floats():
    layers = np.array([1.0, 4.0])
    turn_over(layers)
    assert layers[0] == pytest.approx(2.5)  # 4 °C is heavier, so both mix
    settled = np.array([4.0, 1.0])
    turn_over(settled)
    assert settled.tolist() == [4.0, 1.0]


@given(temperatures, st.floats(0.01, 30.0), st.floats(1.0, 60.0), st.floats(0.0, 0.3))
def test_drawing_conserves_heat(temps, mass, inlet, jet):
    layers = np.array(sorted(temps))
    layer_kg, specific, body = 1.3, 4182.0, 150.0
    layer_j = layer_kg * specific + body
    before = layers.sum() * layer_j
    out = draw(layers, layer_kg, layer_j, specific, mass, inlet, jet)
    change = layers.sum() * layer_j - before
    assert change == pytest.approx(mass * specific * (inlet - out), abs=1e-3 * layer_j)
    low, high = min([*temps, inlet]), max([*temps, inlet])
    assert low - 1e-6 <= out <= high + 1e-6


def test_drawing_follows_the_equation_of_stirred_tanks():
    """Referee: solve_ivp at 1e-9 on dT_i/dt = m(T_{i-1} − T_i)/M."""
    count, layer_kg, flow = 8, 1.25, 0.08

    def right(_, t):
        return flow / layer_kg * (np.concatenate([[10.0], t[:-1]]) - t)

    referee = solve_ivp(right, (0, 120), np.full(count, 60.0), rtol=1e-9, atol=1e-9, max_step=1)
    layers = np.full(count, 60.0)
    for _ in range(480):
        draw(layers, layer_kg, layer_kg * 4182.0, 4182.0, flow * 0.25, 10.0, 0.0)
    assert np.allclose(layers, referee.y[:, -1], atol=0.01)


@given(st.lists(st.floats(5, 80), min_size=2, max_size=12), st.floats(0, 3000), st.floats(1, 3000))
@settings(max_examples=60)
def test_advancing_conserves_heat(temps, power, duration):
    layers, sensors = np.array(temps), np.zeros(2)
    count = len(temps)
    layer_j, loss = 5000.0, np.linspace(0.02, 0.1, count)
    before = layers.sum() * layer_j
    lost = advance(
        layers, layer_j, loss, 12.0, 2.0, np.full(count, power / count), sensors, np.zeros(2),
        np.full(2, 30.0), duration,
    )  # fmt: skip
    change = layers.sum() * layer_j - before
    assert change == pytest.approx(power * duration - lost, abs=1e-6 * (before + power * duration))


def test_heating_and_cooling_follow_a_stiff_solver():
    count, layer_j, link = 6, 8000.0, 3.0
    loss = np.full(count, 0.09)
    heat = np.zeros(count)
    heat[-1] = 60.0  # at the top, so that nothing turns over and the equation is linear

    def right(_, t):
        flow = heat - loss * (t - 15.0)
        flow[1:] += link * (t[:-1] - t[1:])
        flow[:-1] += link * (t[1:] - t[:-1])
        return flow / layer_j

    start = np.linspace(20.0, 50.0, count)
    referee = solve_ivp(right, (0, 20000), start, method="LSODA", rtol=1e-10, atol=1e-10)
    layers = start.copy()
    advance(layers, layer_j, loss, 15.0, link, heat, np.zeros(2), np.zeros(2), np.zeros(2), 20000.0)
    assert np.allclose(layers, referee.y[:, -1], atol=0.01)


def test_a_sensor_lags_by_its_time():
    layers, sensors = np.array([60.0]), np.array([20.0, 20.0])
    still = np.array([1e-12])
    advance(layers, 1e9, still, 20.0, 0.0, np.zeros(1), sensors, np.zeros(2),
            np.array([30.0, 0.0]), 30.0)  # fmt: skip
    assert sensors[0] == pytest.approx(60 - 40 * np.exp(-1), abs=0.01)
    assert sensors[1] == pytest.approx(60.0, abs=1e-6)


def make_pipe(count=10, cell_kg=0.01, celsius=20.0):
    return np.full(count, celsius), np.full(count, celsius), np.zeros((1, 3)), count, cell_kg


@given(st.lists(st.tuples(st.floats(1e-4, 0.35), st.floats(1, 90)), min_size=1, max_size=30))
def test_a_pipe_gives_what_it_took_in_the_same_order(parcels):
    """Referee: a plain queue of parcels; whatever was in the pipe first comes out first."""
    water, _, ring, count, cell_kg = make_pipe()
    heat_in = heat_out = 0.0
    before = count * cell_kg * 20.0
    for mass, celsius in parcels:
        out = pipe.push(water, 0, count, cell_kg, ring, 0, mass, celsius)
        heat_in += mass * celsius
        heat_out += mass * out
    after = pipe.stored_heat(water, np.zeros(count), 0, count, cell_kg, ring, 0, 1.0, 1.0)
    assert after - before == pytest.approx(heat_in - heat_out, abs=1e-9)


@given(st.floats(1e-3, 0.02))
def test_a_front_arrives_when_the_volume_has_passed(step):
    water, _, ring, count, cell_kg = make_pipe()
    passed = 0.0
    while passed < 0.1 - step:
        out = pipe.push(water, 0, count, cell_kg, ring, 0, step, 60.0)
        passed += step
        assert out == pytest.approx(20.0)
    while passed < 0.1 + step + cell_kg:
        out = pipe.push(water, 0, count, cell_kg, ring, 0, step, 60.0)
        passed += step
    assert out == pytest.approx(60.0)


@given(st.floats(0.0, 0.0099), st.floats(0.1, 20.0), st.floats(0.0, 1.0))
def test_walls_exchange_without_loss_of_heat(offset, duration, loss):
    water, wall, ring, count, cell_kg = make_pipe()
    wall[:] = 15.0
    pipe.push(water, 0, count, cell_kg, ring, 0, 0.05 + offset, 60.0)
    common = (water, wall, 0, count, cell_kg, ring, 0, 4182.0)
    before = pipe.stored_heat(*common, 9.0)
    lost = pipe.exchange(*common, 9.0, 1.2, loss, 10.0, duration)
    assert pipe.stored_heat(*common, 9.0) == pytest.approx(before - lost, rel=1e-12)
    assert 10.0 <= min(wall.min(), water.min()) <= max(wall.max(), water.max()) <= 60.0


def test_a_resting_pipe_cools_as_one_exponential():
    water, wall, ring, count, cell_kg = make_pipe(celsius=50.0)
    lost = pipe.rest(water, wall, 0, count, cell_kg, ring, 0, 4182.0, 9.0, 0.02, 10.0, 1800.0)
    capacity = cell_kg * 4182.0 + 9.0
    expected = 10 + 40 * np.exp(-0.02 * 1800 / capacity)
    assert np.allclose(water, expected)
    assert lost == pytest.approx(count * capacity * (50 - expected))


@given(st.floats(0.0, 0.0099), st.lists(st.floats(5.0, 80.0), min_size=1, max_size=12))
def test_water_that_stands_is_shared_out_to_whole_cells(offset, inlets):
    """No heat comes or goes, nothing gets hotter than it was, and the next front meets an edge."""
    water, wall, ring, count, cell_kg = make_pipe(celsius=20.0)
    for celsius in inlets:
        pipe.push(water, 0, count, cell_kg, ring, 0, 0.004 + offset, celsius)
    wall[:] = 20.0
    common = (water, wall, 0, count, cell_kg, ring, 0, 4182.0)
    before = pipe.stored_heat(*common, 9.0)
    lost = pipe.rest(*common, 9.0, 0.0, 20.0, 1.0)
    assert lost == pytest.approx(0.0, abs=1e-9)
    assert pipe.stored_heat(*common, 9.0) == pytest.approx(before, rel=1e-12)
    assert ring[0, 1] == 0.0
    assert min([*inlets, 20.0]) - 1e-9 <= water.min() <= water.max() <= max([*inlets, 20.0]) + 1e-9
    for _ in range(count):  # cell by cell the old water leaves, and not a drop of the new
        assert pipe.push(water, 0, count, cell_kg, ring, 0, cell_kg, 900.0) <= 80.0 + 1e-9
    assert pipe.push(water, 0, count, cell_kg, ring, 0, cell_kg, 900.0) == 900.0


@given(st.floats(0.0, 0.0099), st.floats(1, 5000), st.floats(1, 5000))
def test_two_rests_are_one(offset, first, second):
    heats = []
    for parts in ([first, second], [first + second]):
        water, wall, ring, count, cell_kg = make_pipe(celsius=40.0)
        pipe.push(water, 0, count, cell_kg, ring, 0, 0.03 + offset, 60.0)
        for duration in parts:
            pipe.rest(water, wall, 0, count, cell_kg, ring, 0, 4182.0, 9.0, 0.02, 10.0, duration)
        heats.append(pipe.stored_heat(water, wall, 0, count, cell_kg, ring, 0, 4182.0, 9.0))
    assert heats[0] == pytest.approx(heats[1], rel=1e-9)


@pytest.mark.parametrize(
    ("material", "bore", "wall", "heat", "bare", "foam9", "inner"),
    [
        pytest.param("plastic", 0.0117, 0.00165, 149, 0.41, 0.22, (21, 27), id="15 mm plastic"),
        pytest.param("plastic", 0.009, 0.0015, 107, 0.33, None, (21, 27), id="12 mm plastic"),
        pytest.param("copper", 0.0136, 0.0007, 108, None, None, (64, 180), id="15 mm copper"),
        pytest.param("hose", 0.010, 0.0035, 265, None, None, (5.5, 6.5), id="shower hose"),
    ],
)
def test_pipes_have_the_handbooks_figures(material, bore, wall, heat, bare, foam9, inner):
    pipe_is = {"bore_m": bore, "wall_m": wall, "material": material}
    assert wall_heat_j_per_m_k(**pipe_is) == pytest.approx(heat, rel=0.01)
    for thickness, expected in ((0.0, bare), (0.009, foam9)):
        found = loss_w_per_m_k(**pipe_is, insulation_m=thickness, insulation_w_per_m_k=0.038)
        assert expected is None or found == pytest.approx(expected, rel=0.03)
    film = inner_film_w_per_m2_k(flow_m3_per_s=5e-3 / 60, bore_m=bore, celsius=40)
    assert inner[0] <= water_to_wall_w_per_m_k(**pipe_is, film_w_per_m2_k=film) <= inner[1]


temps_c = st.floats(1, 90)


@given(temps_c, temps_c, st.floats(30, 50), st.floats(1, 20))
def test_a_valve_never_goes_past_its_setting(hot, cold, setting, difference):
    share = wanted_hot_share(hot, cold, setting, difference)
    assert 0.03 - 1e-12 <= share <= 0.97
    mixed = share * hot + (1 - share) * cold
    if cold < setting and hot > setting and share > 0.03 + 1e-9:
        assert mixed <= setting + 1e-6
    if hot >= setting + difference and cold < setting and 0.03 < share < 0.97:
        assert mixed == pytest.approx(setting)


def test_a_valve_goes_to_its_hot_stop_as_the_store_sags():
    shares = [wanted_hot_share(hot, 10.0, 40.0, 10.0) for hot in (60, 50, 47, 44, 41, 40, 30)]
    assert shares == sorted(shares)
    assert shares[-1] == 0.97


def test_layers_by_volume_and_shape():
    assert default_layers(volume_m3=0.0015, height_m=0.4) == 1
    assert default_layers(volume_m3=0.010, height_m=0.234) == 8
    assert default_layers(volume_m3=0.030, height_m=0.9) == 12
    assert default_layers(volume_m3=0.030, height_m=0.1) == 4


def test_a_cylinder_loses_less_in_thicker_foam():
    def total(thickness):
        side, end = cylinder_loss_w_per_k(
            volume_m3=0.01, height_m=0.23, insulation_m=thickness, insulation_w_per_m_k=0.035,
            film_w_per_m2_k=8, fittings_share=0.0,
        )  # fmt: skip
        return side + 2 * end

    # hand, 25 mm: U = 1/(0.025/0.035 + 1/8) = 1.191; D 0.2353; side 0.2085, ends 0.1064 m²
    assert total(0.025) == pytest.approx(1.191 * (0.2085 + 0.1064), rel=0.005)
    assert total(0.05) < total(0.025) < total(0.0)
