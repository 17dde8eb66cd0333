"""Networks of a system kept between runs: shared where nothing differs, and never written to."""

from __future__ import annotations

from concurrent.futures import ThreadPoolExecutor

import numpy as np
import pytest

from isotherma import catalogue
from isotherma.catalogue.layouts import layouts
from isotherma.core.engine.network_state import make_thermal_net
from isotherma.core.flows.surroundings import surroundings
from isotherma.core.results.outcome import Outcome
from isotherma.core.setup.networks import Mode, Networks, networks_of
from isotherma.core.simulate import simulate
from tests.support import MILD, brief, changed, run, shower, system


def test_another_day_of_the_same_system_has_the_same_networks():
    built = system()
    one = networks_of(brief(shower()), built, None, MILD)
    assert networks_of(brief(shower(), shower(2, start_s=64800.0)), built, None, MILD) is one
    assert one.of(Mode()) is one.of(Mode())


@pytest.mark.parametrize("other", [
    pytest.param({"cold_water_c": 4.0}, id="colder water"),
    pytest.param({"cold_water_c": None, "inside_c": 25.0}, id="water as warm as its space"),
])  # fmt: skip
def test_another_cold_water_has_networks_of_its_own(other):
    built = system()
    one = networks_of(brief(shower()), built, None, MILD)
    two = networks_of(brief(shower(), **other), built, None, MILD)
    assert two is not one and two.conditions.fresh_c != one.conditions.fresh_c


def test_an_equal_system_of_another_object_is_not_mixed_up():
    one, two = system(), changed(system(), "store", volume_m3=0.02)
    found = [networks_of(brief(shower()), built, None, MILD) for built in (one, two)]
    assert [item.system for item in found] == [one, two]


def test_states_have_networks_of_their_own():
    built = layouts()["seat-store"].system
    found = {id(networks_of(brief(shower()), built, state, MILD)) for state in built.states}
    assert len(found) == len(built.states) > 1


@pytest.mark.parametrize("name", ["coolant-coil", "two-knob-selector", "open-sun-box"])
def test_a_run_leaves_nothing_behind_for_the_next(name):
    """The same day before and after other days of the same networks, bit for bit."""
    layout = layouts()[name]
    asked = layout.brief
    climate = catalogue.climate(asked)
    kept = networks_of(asked, layout.system, layout.system.states[0], climate)
    first = simulate(asked, layout.system, climate)
    warmer = [draw.model_copy(update={"nudged": True, "flow_m3_per_s": 4e-5})
              for draw in asked.draws]  # fmt: skip
    simulate(asked.model_copy(update={"draws": tuple(warmer)}), layout.system, climate)
    again = simulate(asked, layout.system, climate)
    assert networks_of(asked, layout.system, layout.system.states[0], climate) is kept
    assert (first.timeline.log == again.timeline.log).all()
    fresh = simulate(asked, layout.system.model_copy(deep=True), climate)
    assert (first.timeline.log == fresh.timeline.log).all()


def test_several_threads_share_them():
    layout = layouts()["coolant-coil"]
    climate = catalogue.climate_in(layout.brief.region, 1)
    built = layout.system.model_copy(deep=True)

    def compute(_: int) -> Outcome:
        return simulate(layout.brief, built, climate)

    with ThreadPoolExecutor(4) as pool:
        found = list(pool.map(compute, range(8)))
    assert all((one.timeline.log == found[0].timeline.log).all() for one in found)


def test_a_pump_heeds_the_mode():
    """By rule: a primary's when heat is called for, a loop's when pressed, none when stopped."""
    built = layouts()["coolant-coil"].system
    circuits = networks_of(layouts()["coolant-coil"].brief, built, built.states[0], MILD)
    rest, called = circuits.of(Mode()), circuits.of(Mode(called=True))
    assert rest.at["circulator"] == "off" and called.at["circulator"] == "on"
    assert rest.at["heater"] == "off" and called.at["heater"] == "ready"
    pressed = circuits.of(Mode(loops=frozenset({"loop"})))
    assert pressed.at["loop"] == "on" and rest.at["loop"] == "off"
    empty = circuits.of(Mode(called=True, loops=frozenset({"loop"}), out=frozenset({"battery"})))
    assert {empty.at[key] for key in ("pump", "circulator", "loop", "heater")} == {"off"}
    dry = circuits.of(Mode(called=True, out=frozenset({"diesel"})))
    assert dry.at["heater"] == "off" and dry.at["circulator"] == "on"
    stopped = circuits.of(Mode(stopped=frozenset({"pump"})))
    assert stopped.at["pump"] == "off"


def test_heat_passes_a_reducer_whose_pressures_do_not():
    built = layouts()["pitch-store"].system
    around = surroundings(brief(shower()), built, built.states[0], MILD)
    network = Networks(built, built.states[0], around).of(Mode())
    joined = make_thermal_net(network, network.net)
    for wide, regulated in network.valves.reducer:
        assert joined.start[regulated] == network.net.start[wide]
    others = np.setdiff1d(np.arange(len(network.links)), network.valves.reducer[:, 1])
    assert (joined.start[others] == network.net.start[others]).all()
    assert len(network.valves.reducer) > 0


def test_a_wanted_flow_is_kept_back():
    """Handbook's litres of a slow shower: a hand throttles, and never opens beyond what flows."""
    asked = brief(shower(flow_m3_per_s=3.0 / 6e4), shower(2, start_s=64800.0))
    outcome = run(asked, system())
    slow, full = outcome.draws
    assert slow.flow_m3_per_s == pytest.approx(3.0 / 6e4, rel=0.01)
    assert full.flow_m3_per_s > slow.flow_m3_per_s
    greedy = run(brief(shower(flow_m3_per_s=100.0 / 6e4)), system())
    assert greedy.draws[0].flow_m3_per_s == pytest.approx(full.flow_m3_per_s, rel=0.02)
