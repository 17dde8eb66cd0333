"""Friction, and the flow at which pump and pipes agree."""

from __future__ import annotations

import csv
from math import sqrt
from pathlib import Path

import pytest
from hypothesis import given
from hypothesis import strategies as st

from isotherma.core.hydraulics.friction import (
    friction_factor,
    inner_film_w_per_m2_k,
    run_drop_pa,
)
from isotherma.core.simulate.operating_point import operating_point
from isotherma.core.system.kinds.heat import Element
from isotherma.core.system.kinds.temperature import ThermostaticMixer
from isotherma.core.system.kinds.use import ShowerHead
from isotherma.core.system.kinds.water import Pump
from isotherma.core.system.layouts import usual_route
from isotherma.core.system.pieces import FACTOR
from isotherma.core.system.route import find_route

REFERENCE = Path(__file__).parents[1] / "reference" / "smooth_friction.csv"


def reference_rows():
    with REFERENCE.open() as file:
        lines = [line for line in file if not line.startswith("#")]
    return [(float(r["reynolds"]), float(r["friction_factor"])) for r in csv.DictReader(lines)]


@pytest.mark.parametrize(("reynolds", "expected"), reference_rows())
def test_smooth_pipe_of_the_textbook(reynolds, expected):
    assert friction_factor(reynolds, 0.0) == pytest.approx(expected, rel=0.01)


def test_laminar_is_exact_and_there_is_no_jump():
    assert friction_factor(1000, 1e-4) == 0.064
    for edge in (2000.0, 4000.0):
        below, above = friction_factor(edge - 1e-3, 1e-4), friction_factor(edge + 1e-3, 1e-4)
        assert below == pytest.approx(above, rel=1e-4)


@given(st.floats(1e-7, 1e-3), st.floats(1.01, 2.0), st.floats(0.004, 0.03), st.floats(1, 90))
def test_more_flow_never_costs_less_pressure(flow, more, bore, celsius):
    common = {"bore_m": bore, "length_m": 2.0, "loss_k": 1.0, "celsius": celsius}
    low = run_drop_pa(flow_m3_per_s=flow, **common)
    assert run_drop_pa(flow_m3_per_s=flow * more, **common) > low > 0
    assert run_drop_pa(flow_m3_per_s=flow, **{**common, "bore_m": bore * more}) < low


def test_film_grows_from_laminar_to_turbulent():
    # laminar: Nu 4.36; turbulent: Dittus and Boelter, Nu = 0.023 Re^0.8 Pr^0.4, within 15 %
    slow = inner_film_w_per_m2_k(flow_m3_per_s=1e-6, bore_m=0.01, celsius=40)
    assert slow == pytest.approx(4.36 * 0.63 / 0.01, rel=0.01)
    fast = inner_film_w_per_m2_k(flow_m3_per_s=2e-4, bore_m=0.01, celsius=40)
    speed = 2e-4 / (3.14159 * 0.01**2 / 4)
    dittus = 0.023 * (992.2 * speed * 0.01 / 6.53e-4) ** 0.8 * 4.33**0.4 * 0.63 / 0.01
    assert fast == pytest.approx(dittus, rel=0.15)


def changed(system, kind, **values):
    parts = tuple(
        part.model_copy(update=values) if isinstance(part, kind) else part for part in system.parts
    )
    return system.model_copy(update={"parts": parts})


def route_with(**pump):
    system = usual_route(tank_m3=0.1, store_m3=0.01, element=Element(id="element", power_w=800.0))
    return find_route(changed(system, Pump, **pump) if pump else system)


def test_pressures_add_up_at_the_operating_point():
    point = operating_point(route_with(), cold_c=10, hot_c=65)
    taken = sum(loss.drop_pa for loss in point.losses)
    assert point.pump_pa == pytest.approx(taken + point.rise_pa, rel=1e-6)
    assert not point.pulsing
    head = next(loss for loss in point.losses if loss.item_id == "head")
    assert 5.2 * FACTOR * sqrt(head.drop_pa) == pytest.approx(point.flow_m3_per_s)


def test_wide_pipes_leave_the_quadratic_of_pump_and_outlets():
    """Hand: p0(1 − q/q0) = ρgΔz + q²(1/Kh² + 1/Km² + …), pipes wide, valves nearly free."""
    system = usual_route(tank_m3=0.1, store_m3=0.01, element=Element(id="element", power_w=800.0))
    runs = tuple(
        run.model_copy(update={"bore_m": 0.1, "wall_m": 0.002, "loss_k": 0.0, "rise_m": 0.0})
        for run in system.runs
    )
    parts = tuple(
        part.model_copy(update={"flow_factor_si": 1e-4, "opening_pa": 0.0})
        if part.kind in {"strainer", "check_valve"}
        else part
        for part in system.parts
    )
    route = find_route(system.model_copy(update={"parts": parts, "runs": runs}))
    point = operating_point(route, cold_c=10, hot_c=65)
    k = 1 / (5.2 * FACTOR) ** 2 + 1 / (12 * FACTOR) ** 2
    p0, q0 = 3.6e5, 7.5e-3 / 60
    expected = (-p0 / q0 + sqrt((p0 / q0) ** 2 + 4 * k * p0)) / (2 * k)
    assert point.flow_m3_per_s == pytest.approx(expected, rel=1e-3)


def test_a_head_too_high_gets_nothing():
    point = operating_point(route_with(shut_pressure_pa=1e4), cold_c=10, hot_c=65)
    assert point.flow_m3_per_s == 0.0


def test_a_fine_head_makes_a_strong_pump_pulse():
    system = usual_route(tank_m3=0.1, store_m3=0.01, element=Element(id="element", power_w=800.0))
    fine = changed(system, ShowerHead, flow_factor_si=1.0 * FACTOR)
    point = operating_point(find_route(fine), cold_c=10, hot_c=65)
    assert point.pulsing
    assert point.pump_pa == pytest.approx((1.7e5 + 2.4e5) / 2)
    assert 0 < point.flow_m3_per_s < 7.5e-3 / 60


@given(st.floats(1.0, 20.0), st.floats(1.05, 3.0))
def test_a_wider_head_never_gives_less(factor, more):
    system = usual_route(tank_m3=0.1, store_m3=0.01, element=Element(id="element", power_w=800.0))
    flows = []
    for size in (factor, factor * more):
        route = find_route(changed(system, ShowerHead, flow_factor_si=size * FACTOR))
        flows.append(operating_point(route, cold_c=10, hot_c=65).flow_m3_per_s)
    assert flows[1] >= flows[0] * (1 - 1e-6)


def test_a_store_at_the_cold_temperature_is_no_division_by_zero():
    system = changed(
        usual_route(tank_m3=0.1, store_m3=0.01, element=Element(id="element", power_w=800.0)),
        ThermostaticMixer,
        set_c=40.0,
    )
    assert operating_point(find_route(system), cold_c=10, hot_c=10).hot_share == 0.97
