"""Water under a cushion of air: run-on of a pump, pressure after a night."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy.integrate import quad

from isotherma.core.hydraulics.cushion import AIR_PA, gas_m3, held_m3, rested_pa, run_on_s

BAR = 1e5


def straight(pa: float) -> float:
    return 11.3e-3 / 60.0 * (1.0 - pa / (4.2 * BAR))


@pytest.mark.parametrize(("start", "seconds"), [
    pytest.param(0.0, 7.525, id="handbook: 7.5 s from nothing; quad gives 7.525"),
    pytest.param(2.0 * BAR, 3.517, id="handbook: 3.5 s from the cut-in"),
])  # fmt: skip
def test_a_pump_runs_on_until_it_has_filled_its_cushion(start, seconds):
    took = run_on_s(straight, start, 2.8 * BAR, cushion_m3=2e-3, precharge_pa=1.2 * BAR)
    assert took == pytest.approx(seconds, rel=1e-3)
    assert held_m3(2.8 * BAR, 2e-3, 1.2 * BAR) == pytest.approx(0.757e-3, rel=1e-3)


def test_a_weak_pump_never_gets_there():
    assert run_on_s(straight, 0.0, 4.5 * BAR, cushion_m3=2e-3, precharge_pa=1.2 * BAR) is None
    assert run_on_s(straight, 1.0 * BAR, 1.0 * BAR, cushion_m3=0.0, precharge_pa=0.0) == 0.0


@given(st.floats(0.0, 3.0), st.floats(0.1, 3.0), st.floats(0.0, 4e-3), st.floats(0.0, 2.5))
def test_run_on_is_the_integral_and_two_stretches_make_one(start, more, cushion, precharge):
    low, high = start * BAR, min(4.0, start + more) * BAR
    if high <= low:
        return
    kept = {"cushion_m3": cushion, "precharge_pa": precharge * BAR}
    whole = run_on_s(straight, low, high, **kept)
    middle = 0.5 * (low + high)
    parts = [run_on_s(straight, low, middle, **kept), run_on_s(straight, middle, high, **kept)]
    assert whole is not None and None not in parts
    assert whole == pytest.approx(sum(one or 0.0 for one in parts), rel=1e-4)

    def slope(pa):
        step = 1.0
        return (held_m3(pa + step, cushion, precharge * BAR)
                - held_m3(pa, cushion, precharge * BAR)) / step  # fmt: skip

    knee = min(max(precharge * BAR, low), high)
    by_quad = sum(quad(lambda pa: slope(pa) / straight(pa), one, other, limit=200)[0]
                  for one, other in ((low, knee), (knee, high)) if other > one)  # fmt: skip
    assert whole == pytest.approx(by_quad, rel=2e-3, abs=1e-4)


def test_pressure_falls_as_a_tight_system_cools():
    """The handbook's figures: 2.28 bar with an accumulator, 1.58 with 50 mL of air alone."""
    gas = gas_m3(2.4 * BAR, 2e-3, 1.2 * BAR)
    said = {"water_m3": 0.025, "from_c": 18.0, "to_c": 12.0}
    with_cushion = rested_pa(2.4 * BAR, gas_m3=gas, **said)
    assert with_cushion == pytest.approx(2.28 * BAR, rel=2e-3)
    assert rested_pa(2.4 * BAR, gas_m3=50e-6, **said) == pytest.approx(1.58 * BAR, rel=3e-3)


@given(st.floats(0.5, 4.0), st.floats(20e-6, 4e-3), st.floats(0.0, 0.08), st.floats(5.0, 30.0))
def test_nothing_happens_without_a_change_of_warmth(bar, gas, water, celsius):
    same = rested_pa(bar * BAR, gas_m3=gas, water_m3=water, from_c=celsius, to_c=celsius)
    assert same == pytest.approx(bar * BAR, rel=1e-6)
    warmer = rested_pa(bar * BAR, gas_m3=gas, water_m3=water, from_c=celsius, to_c=celsius + 3.0)
    assert warmer is None or warmer > bar * BAR


def test_dry_air_alone_follows_the_gas_law():
    """No water, stiff pipes left out by a large gas volume."""
    found = rested_pa(1.0 * BAR, gas_m3=1.0, water_m3=0.0, from_c=10.0, to_c=30.0)
    assert found == pytest.approx((BAR + AIR_PA) * 303.15 / 283.15 - AIR_PA, rel=1e-4)
