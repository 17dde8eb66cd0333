"""Friction and the film inside pipes."""

from __future__ import annotations

import csv
from pathlib import Path

import pytest
from hypothesis import given
from hypothesis import strategies as st

from isotherma.core.hydraulics.friction import (
    friction_factor,
    inner_film_w_per_m2_k,
    run_drop_pa,
)

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
