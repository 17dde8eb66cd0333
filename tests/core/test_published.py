"""Published figures: every table of tests/reference says its source and how near ours must be."""

from __future__ import annotations

import csv
from pathlib import Path

import pytest

from isotherma.core import water
from isotherma.core.results.damp import saturated_kg_per_m3
from isotherma.core.supply.gases import saturation_pressure_pa
from isotherma.core.system.runs import COPPER_OHM_M

FOLDER = Path(__file__).parents[1] / "reference"
ZERO_C = 273.15


def _table(name: str) -> tuple[list[dict[str, str]], float]:
    lines = (FOLDER / f"{name}.csv").read_text(encoding="utf-8").splitlines()
    said = dict(line[2:].split(": ", 1) for line in lines if line.startswith("# "))
    rows = csv.DictReader(line for line in lines if not line.startswith("#"))
    return list(rows), float(said["tolerance"])


def _cases(name: str) -> list[tuple[dict[str, str], float]]:
    rows, share = _table(name)
    return [(row, share) for row in rows]


@pytest.mark.parametrize(("row", "share"), _cases("water_properties"))
def test_water(row, share):
    celsius = float(row["kelvin"]) - ZERO_C
    found = {
        "volume_m3_per_kg": 1.0 / water.density_kg_per_m3(celsius),
        "specific_heat_j_per_kg_k": water.mean_specific_heat_j_per_kg_k(celsius - 1, celsius + 1),
        "viscosity_pa_s": water.viscosity_pa_s(celsius),
        "conductivity_w_per_m_k": water.conductivity_w_per_m_k(celsius),
    }
    for name, value in found.items():
        assert value == pytest.approx(float(row[name]), rel=share), name


@pytest.mark.parametrize(("row", "share"), _cases("vapour_in_air"))
def test_vapour_that_air_can_hold(row, share):
    found = saturated_kg_per_m3(float(row["celsius"]))
    assert found == pytest.approx(float(row["kg_per_m3"]), rel=share)


@pytest.mark.parametrize(("row", "share"), _cases("gas_pressure"))
def test_pressure_in_a_bottle(row, share):
    found = saturation_pressure_pa({row["gas"]: 1.0}, float(row["celsius"]))
    assert found == pytest.approx(float(row["pressure_pa"]), rel=share)


@pytest.mark.parametrize(("row", "share"), _cases("cable_resistance"))
def test_resistance_of_a_cable(row, share):
    found = COPPER_OHM_M / (float(row["area_mm2"]) * 1e-6) * 1e3
    most = float(row["ohm_per_km"])
    assert most * (1.0 - share) <= found <= most  # the standard prints the most it allows
