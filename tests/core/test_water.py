"""The table of water against the library it was made from."""

from __future__ import annotations

import warnings

import pytest

from isotherma.core import water

with warnings.catch_warnings():
    warnings.simplefilter("ignore")
    from CoolProp.CoolProp import PropsSI


@pytest.mark.parametrize("celsius", [0.5, 3.98, 7.3, 20.0, 41.7, 65.5, 99.9, 109.5])
@pytest.mark.parametrize(
    ("function", "key", "rel"),
    [
        (water.density_kg_per_m3, "D", 2e-6),
        (water.viscosity_pa_s, "V", 3e-4),
        (water.conductivity_w_per_m_k, "L", 1e-4),
    ],
)
def test_table_agrees_with_the_library(function, key, rel, celsius):
    expected = PropsSI(key, "T", celsius + 273.15, "P", 3e5, "Water")
    assert function(celsius) == pytest.approx(expected, rel=rel)


def test_enthalpy_differences_agree_with_the_library():
    def library(celsius):
        return PropsSI("H", "T", celsius + 273.15, "P", 3e5, "Water")

    for low, high in [(8, 65), (1, 2), (40, 99)]:
        found = water.enthalpy_j_per_kg(high) - water.enthalpy_j_per_kg(low)
        assert found == pytest.approx(library(high) - library(low), rel=1e-5)


def test_water_is_heaviest_at_four_degrees():
    assert water.density_kg_per_m3(4) > water.density_kg_per_m3(0)
    assert water.density_kg_per_m3(4) > water.density_kg_per_m3(8)


def test_specific_heat_is_kept_inside_the_table():
    assert water.mean_specific_heat_j_per_kg_k(65, 8) == water.mean_specific_heat_j_per_kg_k(8, 65)
    assert 4100 < water.mean_specific_heat_j_per_kg_k(0, 0) < 4300
    assert 4100 < water.mean_specific_heat_j_per_kg_k(110, 110) < 4300
    assert water.density_kg_per_m3(-20) == water.density_kg_per_m3(0)
