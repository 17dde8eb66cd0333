"""Water that grows in a shut store: closed forms, where it goes, what is said."""

from __future__ import annotations

from math import inf

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from isotherma import catalogue
from isotherma.catalogue.layouts import layouts
from isotherma.core import water
from isotherma.core.quantity import UnitSystem
from isotherma.core.results.expansion import expansion_rows, expansions, followed
from isotherma.core.results.outcome import Outcome
from isotherma.core.simulate import simulate
from isotherma.core.system import System
from isotherma.core.system.kinds.water import Pump
from isotherma.wording import cautions
from tests.support import brief, changed, run, shower, system

UNITS = UnitSystem.METRIC


def grown(kg: float, cold: float, hot: float) -> float:
    return kg / water.density_kg_per_m3(hot) - kg / water.density_kg_per_m3(cold)


def without(base: System, part_id: str, joins: tuple[str, str] | None = None) -> System:
    """The same system without a part; the run behind it goes on from the run before it."""
    data = base.model_dump()
    data["parts"] = [part for part in data["parts"] if part["id"] != part_id]
    ends = [run for run in data["runs"] if part_id in (run["start"]["part"], run["end"]["part"])]
    if joins is not None:
        before, behind = (next(run for run in ends if run["id"] == name) for name in joins)
        before["end"] = behind["end"]
        ends = [run for run in ends if run["id"] != joins[0]]
    gone = {run["id"] for run in ends}
    data["runs"] = [run for run in data["runs"] if run["id"] not in gone]
    return System.model_validate(data)


def of(name: str, built: System | None = None) -> Outcome:
    layout = layouts()[name]
    climate = catalogue.climate(layout.brief)
    return simulate(layout.brief, built or layout.system, climate)


# --- following a day ---


def test_ten_litres_from_ten_to_sixty_grow_by_a_sixth_of_a_litre():
    """10 kg: 10.003 L at 10 °C, 10.171 L at 60 °C."""
    layers = np.array([[10.0, 10.0], [35.0, 40.0], [60.0, 60.0]])
    most, out = followed(layers, np.zeros(3), 5.0, inf)
    assert most == pytest.approx(grown(10.0, 10.0, 60.0), rel=1e-3)
    assert most == pytest.approx(0.168e-3, rel=0.02) and out == 0.0


def test_a_relief_lets_out_what_finds_no_room():
    layers = np.array([[10.0], [60.0], [55.0], [60.0]])
    _, out = followed(layers, np.zeros(4), 10.0, 0.05e-3)
    first = grown(10.0, 10.0, 60.0) - 0.05e-3
    assert out == pytest.approx(first, rel=0.01)  # cooled and heated again it finds the room it had
    none, all_of_it = followed(layers, np.zeros(4), 10.0, 0.0)
    again = grown(10.0, 55.0, 60.0)  # without room what shrank was filled up by the pump
    assert all_of_it == pytest.approx(grown(10.0, 10.0, 60.0) + again, rel=0.01)
    assert none == pytest.approx(grown(10.0, 10.0, 60.0), rel=0.01)


def test_an_open_tap_begins_anew():
    layers = np.array([[50.0], [60.0], [30.0], [60.0]])
    shut, _ = followed(layers, np.array([0.0, 0.0, 0.0, 0.0]), 10.0, inf)
    drawn, _ = followed(layers, np.array([0.0, 0.0, 2.0, 0.0]), 10.0, inf)
    assert shut >= drawn == pytest.approx(grown(10.0, 30.0, 60.0), rel=0.01)


@given(
    warm=st.lists(st.floats(5.0, 95.0), min_size=2, max_size=12),
    room=st.floats(0.0, 3e-4), more=st.floats(0.0, 3e-4),
)  # fmt: skip
def test_more_room_never_lets_out_more(warm, room, more):
    layers = np.array(warm)[:, None]
    still = np.zeros(len(warm))
    most, out = followed(layers, still, 10.0, room)
    _, less = followed(layers, still, 10.0, room + more)
    assert 0.0 <= less <= out + 1e-15
    assert most <= grown(10.0, min(warm), max(warm)) + 1e-12


def test_nothing_was_logged():
    assert followed(np.empty((0, 4)), np.empty(0), 1.0, 0.0) == (0.0, 0.0)
    assert followed(np.empty((3, 0)), np.zeros(3), 1.0, 0.0) == (0.0, 0.0)


# --- where it goes ---


def test_behind_a_check_valve_the_accumulator_is_out_of_reach():
    """The layout has both: what grows drips from the relief valve, every heating."""
    outcome = of("seat-store")
    (one,) = expansions(outcome.setup, outcome.timeline)
    assert one.goes == "relief" and one.room_m3 == 0.0
    assert one.relief_pa == 350_000.0 and one.let_out_m3 > 0.0
    assert "lets out up to" in " ".join(cautions(outcome, UNITS))


def test_without_the_check_valve_the_accumulator_takes_it_up():
    base = layouts()["seat-store"].system
    direct = without(base, "check", ("split-check", "check-store"))
    outcome = of("seat-store", changed(direct, "accumulator", volume_m3=1.5e-3))
    (one,) = expansions(outcome.setup, outcome.timeline)
    assert one.goes == "accumulator" and one.let_out_m3 == 0.0
    # isothermal gas: the pressure it reaches is that of the gas it left
    pump = next(part for part in outcome.setup.parts.values() if part.kind == "pump")
    assert isinstance(pump, Pump)
    shut = (pump.cut_out_pa or pump.shut_pressure_pa or 0.0) + 101_325.0
    gas = 1.5e-3 * 201_325.0 / shut
    assert one.reaches_pa + 101_325.0 == pytest.approx(shut * gas / (gas - one.grows_m3), rel=1e-3)
    assert one.relief_pa is not None
    assert shut - 101_325.0 < one.reaches_pa < one.relief_pa
    assert "lets out" not in " ".join(cautions(outcome, UNITS))


def test_a_shut_store_without_relief_is_a_grave_caution():
    base = layouts()["seat-store"].system
    outcome = of("seat-store", without(base, "relief"))
    (one,) = expansions(outcome.setup, outcome.timeline)
    assert one.goes == "nowhere" and one.reaches_pa == inf and one.relief_pa is None
    words = " ".join(cautions(outcome, UNITS))
    assert "nothing takes it up" in words and "led outside and below" in words
    assert expansion_rows(outcome.setup, outcome.timeline)[0]["reaches_bar"] is None


@pytest.mark.parametrize("name", ["kettle-and-bag", "open-sun-box", "cupboard-through-flow"])
def test_what_is_open_or_holds_nothing_does_not_grow(name):
    outcome = of(name)
    assert expansions(outcome.setup, outcome.timeline) == ()


def test_a_hotter_store_grows_more():
    found = []
    for set_c in (50.0, 60.0, 70.0):
        outcome = run(brief(shower()), changed(system(), "element", set_c=set_c))
        (one,) = expansions(outcome.setup, outcome.timeline)
        found.append(one.grows_m3)
        assert one.grows_m3 < grown(10.0, 10.0, set_c + 3.0)
    assert found == sorted(found)
