"""Bottles, panels, the battery and the hours of a day."""

from __future__ import annotations

from math import exp, log
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy.integrate import solve_ivp

from isotherma import catalogue
from isotherma.catalogue.demo import curlew
from isotherma.catalogue.layouts import layouts
from isotherma.core.climate import Climate
from isotherma.core.engine.loops import loops_running
from isotherma.core.errors import CannotBe
from isotherma.core.results.inventory import battery_level, bottle, bottle_days
from isotherma.core.results.spending import spent
from isotherma.core.supply import battery, panel
from isotherma.core.supply.bottle import Bottle, after_step, hold, over_days, sustained_kg_per_s
from isotherma.core.supply.feeds import direct_panel, feeds_of, on_battery
from isotherma.core.supply.gases import heat_of_boiling_j_per_kg, saturation_pressure_pa
from isotherma.core.supply.schedule import Schedule
from isotherma.core.system.kinds.heat import Element, Kettle
from isotherma.core.system.kinds.temperature import LoopPump
from isotherma.core.system.kinds.water import FreshTank
from isotherma.core.system.nominal import computed
from tests.support import MILD, brief, changed, piece, ran, shower, stands_of

PROPANE = {"propane": 1.0}
REFERENCE = panel.Curve(short_a=6.5, open_v=40.2, best_a=6.06, best_v=33.1)
SUNNY = Climate(
    region="x", month=7, air_c=20.0, swing_k=10.0, sun_j_per_m2=7 * 3.6e6, daylight_s=14 * 3600.0
)


def _refer(*asked):
    """Ask the referee of properties; it takes seconds to be imported, so only where it is asked."""
    from CoolProp.CoolProp import PropsSI

    return PropsSI(*asked)


def full(kg, ua, celsius=-5.0, steel=6.5, mix=None):
    return Bottle(kg, kg, ua, steel, mix or PROPANE, celsius)


# --- gases ---


@pytest.mark.parametrize(
    ("name", "fluid"),
    [("propane", "Propane"), ("n-butane", "n-Butane"), ("isobutane", "IsoButane")],
)
@pytest.mark.parametrize("celsius", [-42.0, -20.0, -7.3, 0.0, 12.6, 38.0])
def test_gases_are_the_library_s(name, fluid, celsius):
    kelvin = celsius + 273.15
    expected = _refer("P", "T", kelvin, "Q", 0, fluid)
    assert saturation_pressure_pa({name: 1.0}, celsius) == pytest.approx(expected, rel=0.003)
    boils = _refer("H", "T", kelvin, "Q", 1, fluid) - _refer("H", "T", kelvin, "Q", 0, fluid)
    assert heat_of_boiling_j_per_kg({name: 1.0}, celsius) == pytest.approx(boils, rel=0.002)


def test_butane_gives_out_at_freezing_and_propane_does_not():
    """n-butane boils at -0.5 °C under one atmosphere: no pressure is left over it."""
    assert saturation_pressure_pa({"n-butane": 1.0}, -0.5) == pytest.approx(1.013e5, rel=0.01)
    assert saturation_pressure_pa(PROPANE, -20.0) > 2e5
    half = saturation_pressure_pa({"propane": 0.5, "n-butane": 0.5}, 0.0)
    assert half == pytest.approx(0.5 * (4.7446e5 + 1.0323e5), rel=1e-3)


# --- bottles ---


@pytest.mark.parametrize(
    ("kg", "ua", "minutes"),
    [pytest.param(6.0, 2.0, 55.0, id="A9"), pytest.param(2.0, 1.2, 23.0, id="A9b")],
)
def test_a9_bottle_cools_as_it_boils(kg, ua, minutes):
    held = hold(full(kg, ua), kg_per_s=1.5 / 3600, air_c=-5.0)
    assert held.ended == "too cold" and held.held_s is not None
    assert held.held_s / 60 == pytest.approx(minutes, rel=0.05)


def test_a_bottle_follows_the_stiff_solver():
    load, start = 0.8 / 3600, full(6.0, 2.0, celsius=10.0)

    def right(t, y):
        left = 6.0 - load * t
        pull = 2.0 * (0.25 + 0.75 * left / 6.0)
        capacity = left * 2500.0 + 6.5 * 480.0
        return [(pull * (10.0 - y[0]) - load * heat_of_boiling_j_per_kg(PROPANE, y[0])) / capacity]

    expected = solve_ivp(right, (0, 3600), [10.0], rtol=1e-9, max_step=30.0).y[0, -1]
    held = hold(start, kg_per_s=load, air_c=10.0, at_most_s=3600.0, limit_pa=0.0)
    assert held.ended == "carried"
    assert held.after.celsius == pytest.approx(expected, abs=0.05)
    assert held.after.gas_kg == pytest.approx(6.0 - 0.8)


def test_what_lasts_is_a_steady_balance():
    start = full(6.0, 2.0)
    lasts = sustained_kg_per_s(start, air_c=-5.0)
    # pressure 1.5 bar at about -33 °C, heat of boiling about 415 kJ/kg
    assert lasts == pytest.approx(2.0 * 28.0 / 415e3, rel=0.02)
    held = hold(start, kg_per_s=0.9 * lasts, air_c=-5.0, at_most_s=5 * 3600.0)
    assert held.held_s is None
    assert sustained_kg_per_s(full(2.0, 1.2, mix={"n-butane": 1.0}), air_c=0.0) == 0.0


def test_a_bottle_at_rest_comes_back_and_an_empty_one_says_so():
    cold = full(6.0, 2.0, celsius=-30.0)
    for _ in range(200):
        cold = after_step(cold, kg_per_s=0.0, air_c=5.0, step_s=600.0)
    assert cold.celsius == pytest.approx(5.0, abs=0.1) and cold.gas_kg == 6.0
    held, lowest = over_days(full(0.5, 1.0, 15.0), [(3600.0, 0.2 / 3600, 15.0),
                             (82800.0, 0.0, 15.0)], days=4)  # fmt: skip
    assert held.ended == "empty" and held.held_s is not None
    assert held.held_s == pytest.approx(2 * 86400 + 1800, abs=30)
    assert lowest < full(0.5, 1.0, 15.0).pressure_pa


# --- panels ---


def test_a7_panel_straight_on_an_element():
    assert panel.on_element(REFERENCE, 0.96, 1.0)[0] == pytest.approx(40.6, rel=0.01)
    assert panel.on_element(REFERENCE, 5.46, 0.5)[0] == pytest.approx(57.0, rel=0.03)
    assert REFERENCE.rated_w == pytest.approx(200.6, rel=0.001)


def test_a_panel_meets_the_four_figures_on_its_back():
    assert panel.current_a(REFERENCE, 0.0, 1.0) == pytest.approx(6.5)
    assert panel.current_a(REFERENCE, 33.1, 1.0) == pytest.approx(6.06, rel=1e-3)
    assert panel.current_a(REFERENCE, 40.2, 1.0) == pytest.approx(0.0, abs=0.01)
    watts, volts = panel.best_point(REFERENCE, 1.0)
    assert watts == pytest.approx(200.6, rel=0.01) and volts == pytest.approx(33.1, rel=0.03)


@given(st.floats(0.05, 1.2), st.floats(0.3, 60.0), st.floats(-30.0, 45.0))
def test_no_element_takes_more_than_the_best_point(sun, ohm, over):
    best, _ = panel.best_point(REFERENCE, sun, over_k=over)
    watts, volts = panel.on_element(REFERENCE, ohm, sun, over_k=over)
    assert 0.0 <= watts <= best * (1 + 1e-6)
    assert watts == pytest.approx(volts * volts / ohm)


@pytest.mark.parametrize("sun", [0.2, 0.5, 1.0])
def test_the_matching_resistance_takes_it_all(sun):
    ohm = panel.matching_ohm(REFERENCE, sun)
    best, _ = panel.best_point(REFERENCE, sun)
    assert panel.on_element(REFERENCE, ohm, sun)[0] == pytest.approx(best, rel=1e-4)
    if sun < 1.0:
        assert ohm > panel.matching_ohm(REFERENCE, 1.0)


def test_hot_cells_give_less():
    cold = panel.best_point(REFERENCE, 1.0, over_k=-20.0)[0]
    hot = panel.best_point(REFERENCE, 1.0, over_k=35.0)[0]
    assert cold > hot
    assert hot == pytest.approx(200.6 * (1 - 0.0035 * 35), rel=0.02)
    assert panel.cells_over_k(20.0, 1.0) == pytest.approx(23.0)


# --- battery ---


def test_a_battery_in_balance_comes_back_full():
    day = [(43200.0, 10.0, 0.0), (43200.0, 0.0, 40.0)]
    level = battery.over_days(3.6e6, day, days=3, charge_share=0.9)
    assert level.least_j == pytest.approx(3.6e6 - 432e3)
    assert level.end_j == 3.6e6 and level.empty_s is None
    assert level.charged_j == pytest.approx(432e3 / 0.9)


def test_a_battery_empties_when_it_should():
    level = battery.over_days(864e3, [(86400.0, 20.0, 10.0)], days=3)
    assert level.empty_s == pytest.approx(86400.0)
    assert level.least_j == 0.0 and level.used_j == pytest.approx(20.0 * 86400)


@given(
    st.lists(st.tuples(st.floats(10, 9e4), st.floats(0, 900), st.floats(0, 900)), min_size=1,
             max_size=12),
    st.floats(0, 5e6), st.integers(1, 5),
)  # fmt: skip
def test_a_battery_stays_between_empty_and_full(stretches, usable, days):
    level = battery.over_days(usable, stretches, days=days)
    assert all(0.0 <= now <= usable + 1e-6 for now in level.levels_j)
    assert level.least_j == pytest.approx(min([usable, *level.levels_j]))


# --- hours ---


def test_sun_sums_to_the_day_and_air_to_its_mean():
    steps = [minute * 60.0 + 30.0 for minute in range(1440)]
    day = sum(SUNNY.sun_w_per_m2(at) * 60.0 for at in steps)
    assert day == pytest.approx(7 * 3.6e6, rel=1e-3)
    assert SUNNY.sun_w_per_m2(2 * 3600.0) == 0.0
    assert SUNNY.sun_w_per_m2(86400.0 + 43200.0) == SUNNY.sun_w_per_m2(43200.0)
    airs = [SUNNY.air_at_c(at) for at in steps]
    assert sum(airs) / len(airs) == pytest.approx(20.0, abs=1e-6)
    assert max(airs) == pytest.approx(25.0, abs=0.01) and min(airs) == pytest.approx(15.0, abs=0.01)
    assert SUNNY.space_at_c("heated", 18.0, 3 * 3600.0) == 18.0
    assert SUNNY.space_at_c("slung", 18.0, 15 * 3600.0) == pytest.approx(25.0)


def test_every_region_has_sun_and_daylight():
    for region in catalogue.regions():
        for month in range(1, 13):
            here = catalogue.climate_in(region.id, month)
            assert 6 * 3600 < here.daylight_s < 19 * 3600
            assert 0.3 * 3.6e6 <= here.sun_j_per_m2 < 9 * 3.6e6


def hours_of(name, climate=SUNNY, **positions):
    layout = layouts()[name]
    return Schedule.of(layout.brief, computed(layout.system), climate, positions)


def test_an_engine_is_hot_while_it_drives_and_for_its_tail():
    hours = hours_of("drive-plate")
    engine = piece(hours.system, "engine")
    start, end = hours.drives[0]
    assert hours.engine_c(engine, start - 60.0) is None
    assert hours.engine_c(engine, start + 60.0) == pytest.approx(engine.coolant_c)
    after = hours.engine_c(engine, end + engine.tail_s / 2)
    air = SUNNY.air_at_c(end + engine.tail_s / 2)
    assert after == pytest.approx(air + (engine.coolant_c - air) * exp(-0.25), abs=1e-9)
    assert hours.engine_c(engine, end + engine.tail_s + 1.0) is None
    assert hours.next_edge_s(start - 60.0) == pytest.approx(start)


def test_a_tank_follows_its_space_late_and_less():
    layout = layouts()["coolant-coil"]
    system = computed(layouts()["open-sun-box"].system)
    below = next(space.id for space in system.spaces if space.warmth == "slung")
    asked = layout.brief.model_copy(update={"cold_water_c": None})
    hours = Schedule.of(asked, system, SUNNY, {})
    tank = piece(hours.system, "tank")
    shifts = [hours.tank_shift_k(tank, below, at * 600.0) for at in range(144)]
    assert isinstance(tank, FreshTank)
    assert sum(shifts) == pytest.approx(0.0, abs=1e-6)
    assert 0.5 < max(shifts) < 4.0 and shifts.index(max(shifts)) > 15 * 6
    fixed = Schedule.of(asked.model_copy(update={"cold_water_c": 9.0}), system, SUNNY, {})
    assert fixed.tank_shift_k(tank, below, 0.0) == 0.0


def test_feeds_are_found_along_the_cables():
    closed, open_box = layouts()["closed-primary"].system, layouts()["open-sun-box"].system
    straight = piece(computed(closed), "panel-element")
    assert isinstance(straight, Element)
    found = direct_panel(computed(closed), straight)
    assert found is not None and found.id == "panel"
    surplus = piece(computed(open_box), "element")
    assert direct_panel(computed(open_box), surplus) is None
    assert feeds_of(open_box, "element").controllers == ("controller",)
    coil = layouts()["coolant-coil"].system
    assert feeds_of(coil, "back-up").sources == ("hook-up",)
    assert not on_battery(computed(coil), piece(computed(coil), "back-up"))
    assert on_battery(computed(layouts()["seat-store"].system),
                      piece(computed(layouts()["seat-store"].system), "element"))  # fmt: skip


def heat_by(name, rule, climate=SUNNY, position=None):
    """Heat an element with a rule gives on a day, and when."""
    layout = layouts()[name]
    element = next(part.id for part in layout.system.parts if part.kind == "element")
    system = changed(layout.system, element, rule=rule)
    state = system.states[0] if system.states else None
    if position is not None:
        made: dict[str, Any] = state.model_dump() if state else {"id": "s", "name": "S"}
        kept = [item for item in made.get("positions", ()) if item["part"] != position[0]]
        made["positions"] = [*kept, {"part": position[0], "at": position[1]}]
        state = type(system).model_validate({**system.model_dump(), "states": [made]}).states[0]
    _, day = ran(layout.brief, system, state, climate)
    spent = {row.start_s: row.sources_j.get(element, 0.0) for row in day.stretches}
    return day.balance.sources_j.get(element, 0.0), spent


def test_driving_heats_only_while_driving():
    total, when = heat_by("seat-store", "while driving")
    hours = hours_of("seat-store")
    ((start, end),) = hours.drives
    assert total > 1e4
    assert all(joules == 0.0 for at, joules in when.items() if not start - 1 <= at < end)
    always, _ = heat_by("seat-store", "always")
    assert always > total


def test_hook_up_heats_only_when_plugged():
    plugged, _ = heat_by("mini-store", "on hook-up", position=("hook-up", "plugged"))
    apart, _ = heat_by("mini-store", "on hook-up", position=("hook-up", "unplugged"))
    assert plugged > 1e4 and apart == 0.0


def test_surplus_heats_by_day_no_more_than_the_panels_spare():
    total, when = heat_by("sun-first", "surplus sun")
    hours = hours_of("sun-first")
    assert total > 1e5
    for at, joules in when.items():
        middle = at + 900.0
        if SUNNY.sun_w_per_m2(middle) == 0.0 and SUNNY.sun_w_per_m2(at + 1.0) == 0.0:
            assert joules == 0.0
    assert total <= sum(hours.panel_w(slot * 1800.0 + 900.0) * 1800.0 for slot in range(48))
    dark = SUNNY.model_copy(update={"sun_j_per_m2": 0.0})
    assert heat_by("sun-first", "surplus sun", dark)[0] == 0.0


def test_no_more_insulation_ever_costs_battery():
    project = curlew()
    climate = catalogue.climate(project.brief)
    used = []
    for thick in (0.02, 0.04, 0.08):
        system = changed(project.variants[0].system, "store", insulation_m=thick)
        state = system.states[0] if system.states else None
        setup, day = ran(project.brief, system, state, climate)
        level = battery_level(setup, day, 4)
        assert level is not None
        used.append(level.used_j)
    assert used == sorted(used, reverse=True)


def test_the_bottle_of_a_layout_carries_its_burner():
    layout = layouts()["locker-through-flow"]
    state = layout.system.states[0] if layout.system.states else None
    frost = Climate(region="x", month=1, air_c=-5.0, swing_k=0.0)
    setup, day = ran(layout.brief, layout.system, state, frost)
    start, held = bottle(setup), bottle_days(setup, day, 2)
    assert start is not None and held is not None
    hold_, lowest, load = held
    assert start.celsius == pytest.approx(-5.0)  # its rack stands outside
    assert 0.2 < load * 3600 < 3.0
    assert lowest < start.pressure_pa
    burnt = sum(
        joules / 0.84 / 46.34e6 for joules in day.balance.bodies_j.values()
    ) * 2  # propane, the usual share  # fmt: skip
    assert start.gas_kg - hold_.after.gas_kg == pytest.approx(burnt, rel=0.1)


def test_half_days_make_a_day():
    """Stopping at noon and going on changes nothing, hours and sun included."""
    layout = layouts()["sun-first"]
    whole, halves = (stands_of(layout.brief, layout.system, None, SUNNY) for _ in range(2))
    whole.pass_time(86400.0)
    halves.pass_time(43200.0)
    halves.pass_time(86400.0)
    assert (whole.state.layers == halves.state.layers).all()
    assert whole.hours.battery_j == halves.hours.battery_j


def test_a_sun_container_warms_by_day_and_cools_by_night():
    layout = layouts()["kettle-and-bag"]
    assert layout is not None
    from tests.networks import network, part, pipe, pump, tank, tap

    system = network(
        [tank(), pump(), part("sun", "sun_container", volume_m3=0.02, face_m2=0.25,
                              absorbed=0.8, loss_w_per_k=4.0), tap()],
        [pipe("tank", "pump", 0.05, 0.02), pipe("pump", "sun", 0.05, 0.02),
         pipe("sun", "tap", 0.05, 0.02)],
    )  # fmt: skip
    stands = stands_of(brief(day_start="cold"), system, None, SUNNY)
    temps = []
    for hour in range(1, 25):
        stands.pass_time(hour * 3600.0)
        temps.append(float(stands.state.layers[0]))
    assert max(temps) > 30.0 and 12 <= temps.index(max(temps)) <= 17
    assert temps[-1] < max(temps) - 5.0
    assert log(max(temps)) > 0.0


def test_a_kettle_takes_gas_for_the_bag():
    layout = layouts()["kettle-and-bag"]
    from isotherma.core.results.spending import kettle_takes

    setup, day = ran(layout.brief, layout.system, None, MILD)
    took = kettle_takes(setup, day)
    litres = day.balance.taken_kg["bag"] if "bag" in day.balance.taken_kg else sum(
        day.balance.taken_kg.values()
    )  # fmt: skip
    kettle = next(part for part in setup.computed.parts if isinstance(part, Kettle))
    assert kettle.efficiency is not None
    rise = 40.0 - setup.conditions.fresh_c
    assert took.gas_kg == pytest.approx(
        litres * 4186.0 * rise / kettle.efficiency / 46.34e6, rel=0.02
    )
    assert shower().low_c == 37.0


def test_hot_air_s_diesel_is_counted():
    layout = layouts()["open-sun-box"]
    state = layout.system.states[0] if layout.system.states else None
    setup, day = ran(layout.brief, layout.system, state, SUNNY)
    took = spent(setup, day)
    assert took.diesel_m3 == pytest.approx(day.balance.air_j / 0.8 / 35.7e9)


def test_a_combi_that_shares_gives_water_less_in_the_cold():
    layout = layouts()["gas-combi"]
    cold = Climate(region="x", month=1, air_c=0.0, swing_k=4.0)
    hours = []
    for first in (True, False):
        built = changed(layout.system, "combi", water_first=first, cabin_share=0.6)
        state = built.states[0] if built.states else None
        setup, day = ran(layout.brief, built, state, cold)
        heats = [row.sources_j.get("combi", 0.0) / row.span_s for row in day.stretches]
        hours.append(max(heats))
        assert setup.at.get("combi") != "off"
    assert hours[1] < 0.6 * hours[0]


def test_a_panel_that_gives_more_at_its_best_than_shorted_is_refused():
    layout = layouts()["sun-first"]
    panel_id = next(part.id for part in layout.system.parts if part.kind == "panel")
    wrong = changed(layout.system, panel_id, short_a=5.0, best_a=6.0, open_v=22.0, best_v=18.0)
    with pytest.raises(CannotBe, match="panel_figures"):
        ran(layout.brief, wrong, None, SUNNY)


@pytest.mark.parametrize(
    ("runs_s", "every_s"), [(1003.7192313075861, 195.20328331796077), (0.1, 0.1), (3600.0, 3600.0)]
)
def test_time_never_stands_still_before_a_loop_runs_again(runs_s, every_s):
    """A remainder may come out a hair below its period: then the next run begins, not ends."""
    loop = LoopPump(id="loop", rule="timed", runs_s=runs_s, every_s=every_s)
    period = max(every_s, runs_s + 1.0)
    for times in range(1, 80):
        clock_s = times * period * (1.0 - 1e-16)
        running, goal = loops_running([loop], frozenset(), clock_s, 1e9)
        assert goal > clock_s + 1e-7
        assert "loop" in running or goal - clock_s <= period
