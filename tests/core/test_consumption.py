"""What heat, pump seconds and starts take from what is carried, kind by kind, by hand."""

from __future__ import annotations

from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from isotherma.core.setup.consumption import (
    DIESEL_J_PER_M3,
    NET_J_PER_KG,
    PETROL_J_PER_M3,
    Consumers,
)
from isotherma.core.system import System
from isotherma.core.system.kinds import electric, heat, water
from isotherma.core.system.nominal import computed
from isotherma.core.timeline.record import Stretch

MJ = 1e6


def of(*parts: Any, cables: tuple[tuple[str, str, str, str], ...] = ()) -> Consumers:
    """Consumers of parts that are joined by cables alone."""
    runs = tuple(
        {"kind": "cable", "id": f"c{at}", "start": {"part": a, "port": p},
         "end": {"part": b, "port": q}}
        for at, (a, p, b, q) in enumerate(cables)
    )  # fmt: skip
    system = System.model_validate({"parts": [part.model_dump() for part in parts], "runs": runs})
    known = computed(system)
    return Consumers({part.id: part for part in known.parts}, known)


def row(**values: Any) -> Stretch:
    """A stretch of an hour."""
    base: dict[str, Any] = {
        "start_s": 0.0, "span_s": 3600.0, "sources_j": {}, "drawn_j": {}, "bodies_j": {},
        "pumped_s": {},
        "starts": {}, "charge_w": 0.0, "standing_w": 0.0, "air_c": 10.0, "bottle_c": 10.0,
    }  # fmt: skip
    return Stretch(**{**base, **values})


# --- by hand ---


def test_a_burner_burns_heat_over_efficiency_and_worth():
    takers = of(heat.Burner(id="b", fuel="propane", efficiency=0.7))
    took = takers.taken_in(row(sources_j={"b": 7 * MJ}))
    assert took.gas_kg == pytest.approx(10.0 / 46.34)
    assert (took.diesel_m3, took.mains_j, took.battery_j) == (0.0, 0.0, 0.0)


@pytest.mark.parametrize(
    ("fuel", "budget", "expected"),
    [
        ("propane", "gas_kg", 8.5 / 0.85 / 46.34),
        ("butane", "gas_kg", 8.5 / 0.85 / 45.72),
        ("diesel", "diesel_m3", 8.5 / 0.85 / 35700.0),
    ],
)
def test_a_combi_takes_by_its_fuel(fuel, budget, expected):
    took = of(heat.Combi(id="c", fuel=fuel)).taken_in(row(sources_j={"c": 8.5 * MJ}))
    assert getattr(took, budget) == pytest.approx(expected, rel=1e-4)
    assert sum(map(bool, (took.gas_kg, took.diesel_m3, took.mains_j, took.battery_j))) == 1


def test_a_liquid_heater_takes_fuel_watts_while_it_runs_and_a_surge_at_each_start():
    part = heat.LiquidHeater(
        id="h", fuel="diesel", heat_w=5000.0, efficiency=0.8, running_w=30.0, firing_j=54_000.0
    )
    took = of(part).taken_in(row(bodies_j={"h": 9 * MJ}, starts={"h": 2.0}))
    assert took.diesel_m3 == pytest.approx(9 * MJ / 0.8 / DIESEL_J_PER_M3)
    assert took.battery_j == pytest.approx(1800.0 * 30.0 + 2 * 54_000.0)


def test_petrol_is_worth_less_than_diesel():
    litres = [
        of(heat.LiquidHeater(id="h", fuel=fuel, heat_w=4000.0)).taken_in(
            row(bodies_j={"h": MJ})
        ).diesel_m3
        for fuel in ("petrol", "diesel")
    ]  # fmt: skip
    assert litres[0] / litres[1] == pytest.approx(DIESEL_J_PER_M3 / PETROL_J_PER_M3)


def test_hot_air_is_the_air_heater_s():
    part = heat.AirHeater(id="a", fuel="diesel", heat_w=2000.0, running_w=25.0)
    took = of(part).taken_in(row(air_j=2 * MJ))
    assert took.diesel_m3 == pytest.approx(2 * MJ / 0.8 / DIESEL_J_PER_M3)
    assert took.battery_j == pytest.approx(1000.0 * 25.0)
    assert of(part).heats_of(row()) == {}


def test_a_pump_takes_its_watts_while_it_runs():
    pump = water.Pump(id="p", open_flow_m3_per_s=1.6e-4, shut_pressure_pa=3e5, current_a=5.0)
    takers = of(pump)
    (term,) = takers.terms({}, {"p": 60.0}, {})
    assert term.budget == "battery" and term.code == "seconds_of" and term.times
    assert term.value == pytest.approx(60.0 * term.worth) and 30.0 < term.worth < 90.0
    assert takers.terms({}, {"p": 0.0}, {}) == ()


# --- an element, by what feeds it ---


def element(**values: Any) -> heat.Element:
    return heat.Element.model_validate({"id": "e", "power_w": 600.0, **values})


def test_an_element_on_the_battery_s_volts_takes_from_it():
    assert of(element(rated_v=12.0)).taken_in(row(sources_j={"e": MJ})).battery_j == MJ


def test_an_element_on_the_pitch_takes_mains():
    takers = of(element(rated_v=230.0), electric.HookUp(id="pitch"),
                cables=(("e", "power", "pitch", "load"),))  # fmt: skip
    took = takers.taken_in(row(sources_j={"e": MJ}))
    assert took.mains_j == MJ and took.battery_j == 0.0


def test_an_element_behind_an_inverter_takes_more_from_the_battery_than_it_gives():
    inverter = electric.Inverter(id="i", efficiency=0.9)
    cables = (("e", "power", "i", "load"),)
    took = of(element(rated_v=230.0), inverter, cables=cables).taken_in(row(sources_j={"e": MJ}))
    assert took.battery_j == pytest.approx(MJ / 0.9) and took.mains_j == 0.0
    hooked = of(element(rated_v=230.0, rule="on hook-up"), inverter, cables=cables)
    assert hooked.taken_in(row(sources_j={"e": MJ})).mains_j == MJ


def test_the_sun_straight_on_an_element_costs_nothing():
    panel = electric.Panel(id="p", rated_w=200.0)
    takers = of(element(rated_v=24.0), panel, cables=(("e", "power", "p", "load"),))
    took = takers.taken_in(row(sources_j={"e": MJ}))
    assert took.mains_j == 0.0


def test_what_makes_no_heat_of_its_own_costs_nothing():
    takers = of(heat.SunContainer(id="s", volume_m3=0.02), heat.EngineCoolant(id="c"))
    assert takers.terms({"s": MJ, "c": MJ}, {}, {}) == ()


# --- gas as it burns ---


def test_gas_is_burnt_at_full_fire():
    """Two flames together: their kilograms add up, and so do their speeds."""
    one = heat.Burner(id="b", fuel="propane", efficiency=0.8, input_w=1500.0)
    two = heat.ThroughFlowGas(id="t", fuel="propane", efficiency=0.84, input_w=12_000.0)
    burnt, full = of(one, two).burning(row(sources_j={"b": 0.8 * MJ}, bodies_j={"t": 0.84 * MJ}))
    assert burnt == pytest.approx(2 * MJ / NET_J_PER_KG["propane"])
    assert full == pytest.approx(13_500.0 / NET_J_PER_KG["propane"])
    assert of(one).burning(row()) == (0.0, 0)


def test_a_heater_says_what_it_burns_by_what_it_gives_where_nobody_says():
    part = heat.ThroughFlowGas(id="t", fuel="butane", heat_w=8_400.0)
    assert of(part).full_fire_kg_per_s("t") == pytest.approx(10_000.0 / NET_J_PER_KG["butane"])
    assert of(heat.Combi(id="c", fuel="diesel")).full_fire_kg_per_s("c") == 0.0


# --- laws ---


@given(
    heats=st.lists(st.floats(0.0, 1e8), min_size=3, max_size=3),
    share=st.floats(0.0, 1.0),
)
def test_a_stretch_may_be_cut_anywhere(heats, share):
    """What two parts of a stretch take is what the whole takes."""
    takers = of(
        heat.Burner(id="b", fuel="propane", efficiency=0.7), element(rated_v=12.0),
        heat.LiquidHeater(id="h", fuel="diesel", heat_w=5000.0, running_w=30.0),
    )  # fmt: skip
    names = ("b", "e", "h")
    whole = takers.take(dict(zip(names, heats, strict=True)), {}, {})
    one = takers.take({key: share * j for key, j in zip(names, heats, strict=True)}, {}, {})
    two = takers.take({key: (1 - share) * j for key, j in zip(names, heats, strict=True)}, {}, {})
    for name in ("gas_kg", "diesel_m3", "battery_j"):
        assert getattr(one, name) + getattr(two, name) == pytest.approx(
            getattr(whole, name), rel=1e-9, abs=1e-12
        )


def test_every_term_adds_up_to_what_is_taken():
    takers = of(
        heat.Combi(id="c", fuel="propane"), element(rated_v=12.0),
        heat.LiquidHeater(id="h", fuel="petrol", heat_w=5000.0, running_w=30.0, firing_j=5e4),
    )  # fmt: skip
    heats, starts = {"c": 2 * MJ, "e": 3 * MJ, "h": 4 * MJ}, {"h": 3.0}
    found, took = takers.terms(heats, {}, starts), takers.take(heats, {}, starts)
    for budget, name in (("gas", "gas_kg"), ("diesel", "diesel_m3"), ("battery", "battery_j")):
        assert sum(term.value for term in found if term.budget == budget) == pytest.approx(
            getattr(took, name)
        )
