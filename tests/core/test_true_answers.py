"""What the figures hang on: where a bottle stands, what reaches the water, suction, openings."""

from __future__ import annotations

from math import exp

import numpy as np
import pytest

from isotherma import catalogue
from isotherma.catalogue.layouts import layouts
from isotherma.core.climate import Climate
from isotherma.core.engine import columns
from isotherma.core.flows.kernel import LEAST_INLET_PA
from isotherma.core.flows.network_compiler import compile_network
from isotherma.core.flows.pulse import operate
from isotherma.core.flows.report import flow_report
from isotherma.core.flows.solving import solve
from isotherma.core.flows.surroundings import surroundings
from isotherma.core.quantity import UnitSystem
from isotherma.core.results.inventory import bottle_days
from isotherma.core.simulate import simulate
from isotherma.core.system import System
from isotherma.core.system.kinds.heat import Burner
from isotherma.core.system.nominal import understand
from isotherma.core.system.pieces import Around
from isotherma.wording import pump_sentences
from tests.core.test_engine import by_flow, day_of, rows_of
from tests.networks import FACTOR, LITRE_PER_MIN
from tests.support import brief, changed, ran, run, shower, stands_of, system

UNITS = UnitSystem.METRIC


# --- gas ---


def gas_lasts_s(inside: bool) -> float:
    """How long the first bottle of a layout carries its heater, indoors or out in the frost."""
    layout = layouts()["locker-through-flow"]
    data = layout.system.model_dump()
    data["spaces"] = [
        {"id": "in", "name": "In", "warmth": "heated"},
        {"id": "out", "name": "Out", "warmth": "outside"},
    ]
    for one in (*data["parts"], *data["runs"]):
        if "space" in one:
            one["space"] = "in" if inside or one.get("kind") != "gas_bottle" else "out"
        if one.get("kind") == "gas_bottle":
            one["gas"], one["butane_share"] = "mix", 0.7
    for state in data["states"]:
        state["placed"] = []
    built = System.model_validate(data)
    frost = Climate(region="x", month=1, air_c=-10.0, swing_k=0.0)
    setup, day = ran(layout.brief, built, built.states[0] if built.states else None, frost)
    held = bottle_days(setup, day, 30)
    assert held is not None
    assert held[0].held_s is not None
    return held[0].held_s


def test_a_bottle_lives_in_its_space():
    """Mixed gas carries a heater for less time at ten degrees of frost than indoors."""
    assert gas_lasts_s(inside=False) < 0.9 * gas_lasts_s(inside=True)


@pytest.mark.parametrize(
    ("rating", "share", "watts"),
    [("input", 0.6, 1800.0), ("output", 0.6, 3000.0), ("output", 0.85, 3000.0)],
)
def test_what_reaches_the_water_is_read(rating, share, watts):
    """3000 W on the plate: of an input 60 % reach the water, an output is what reaches it."""
    burner = Burner(id="burner", rated_w=3000.0, rating=rating, basis="net", efficiency=share)
    figures = {
        item.name: item.likely
        for item in understand(burner, Around()) if isinstance(item.likely, float)
    }  # fmt: skip
    assert figures["input_w"] * figures["efficiency"] == pytest.approx(watts)


# --- suction ---


def test_suction_has_an_end():
    """A strainer of 1 L/min at one bar: the pump cannot draw below a vacuum, so flow falls."""
    layout = layouts()["seat-store"]
    clogged = changed(layout.system, "strainer", flow_factor_si=FACTOR)
    climate = catalogue.climate(layout.brief)
    flows = []
    for built in (layout.system, clogged):
        state = built.states[0]
        around = surroundings(layout.brief, built, state, climate)
        point = operate(compile_network(built, state, around), {"head": 1.0})
        report = flow_report(point)
        pump = next(item for item in report.pumps if item.id == "pump")
        flows.append(pump.flow_m3_per_s)
        assert pump.inlet_pa >= LEAST_INLET_PA - 100.0
        words = " ".join(pump_sentences(pump, UNITS))
    assert flows[1] < 1.05 * LITRE_PER_MIN < flows[0]
    assert "sucks as hard as anything can" in words
    assert "0 times" not in words and "below 0 L/min" not in words


# --- one law in the steady answer and in the day ---


@pytest.mark.parametrize(
    "name", ["cupboard-through-flow", "locker-through-flow", "two-knob-selector", "drive-plate"]
)
def test_a_long_draw_ends_where_the_steady_answer_is(name):
    layout = layouts()[name]
    draw = layout.brief.draws[0].model_copy(
        update={"duration_s": 600.0, "stops": 0, "flow_m3_per_s": None, "start_s": 61500.0}
    )
    asked = layout.brief.model_copy(update={"draws": (draw,), "cold_water_c": 12.0})
    climate = catalogue.climate(asked)
    state = layout.system.states[0]
    outcome = simulate(asked, layout.system, climate, state=state)
    log = outcome.timeline.log
    rows = log[(log[:, columns.DRAW] == 0) & (log[:, columns.MASS] > 0)]
    outlet = outcome.draws[0].outlet
    around = surroundings(asked, layout.system, state, climate)
    solved = solve(compile_network(layout.system, state, around), {outlet: 1.0})
    head = solved.network.ends[outlet]
    steady_c = float(solved.node_c[solved.network.links[head].start])
    assert rows[-20:, columns.HEAD].mean() == pytest.approx(steady_c, abs=0.6)


def test_a_coil_gives_the_same_in_both():
    """Steady: what leaves the coil is colder by what its law gives to the store around it."""
    layout = layouts()["coolant-coil"]
    climate = catalogue.climate(layout.brief)
    state = layout.system.states[0]
    around = surroundings(layout.brief, layout.system, state, climate)
    stands = stands_of(layout.brief, layout.system, state, climate)
    stands.mode.called = stands.mode.drawing = stands.mode.engine = True
    network = stands.networks.of(stands.mode)
    coil = next(key for key, one in network.parts.items() if one.kind == "coil")
    links = network.part_links[coil]
    solved = solve(network, {})
    flow = abs(float(solved.mass[links[0]]))
    assert flow > 0.01
    first = solved.network.links[links[0]]
    enters, leaves = float(solved.node_c[first.start]), float(solved.out_c[links[-1]])
    rate = flow * float(stands.named.thermal.specific[links[0]])
    figures = network.heat.figures[links[0]]
    at, pieces = float(figures[0]), int(figures[2])
    now = enters
    for _ in range(pieces):
        gap = now - at
        grip = float(figures[1]) / pieces * max(0.2, abs(gap) / 20.0) ** 0.25
        now -= gap * (1.0 - exp(-grip / rate))
    assert around.fresh_c == stands.conditions.fresh_c
    assert leaves == pytest.approx(now, abs=0.05 * abs(enters - now) + 0.05)


# --- stores ---


def litres_warm(**values: object) -> float:
    """Litres at 37 °C or more of a ten-litre store, emptied in one draw."""
    built = changed(system(store_l=10.0), "store", **values)
    draw = shower(duration_s=600.0, clock="open", low_c=37.0, high_c=80.0)
    outcome = run(brief(draw), built)
    assert outcome.timeline.balance.energy_error_share < 1e-9
    return 1e3 * outcome.draws[0].comfort_m3


def test_water_out_of_reach_is_withheld():
    whole, half = litres_warm(unreachable=0.0), litres_warm(unreachable=0.5)
    assert half < 0.65 * whole


def test_heights_of_inlet_and_outlet_act():
    usual = litres_warm(unreachable=0.0)
    assert litres_warm(unreachable=0.0, outlet_share=0.5) < 0.8 * usual  # what is above stays
    assert litres_warm(unreachable=0.0, inlet_share=0.5) < 0.9 * usual  # cold comes in half way


# --- restart ---


def restart(control: str) -> tuple[float, float, float]:
    """Lowest, seconds under 45 and back at 48 °C after soaping; handbook 2, Restart."""
    built = by_flow(
        factor=5.0, heat_w=16e3, set_c=48.0, least_w=3e3, body_j_per_k=3000.0, sense_s=0.0,
        light_s=4.0, ramp_s=0.0, control_by=control,
    )  # fmt: skip
    draw = shower(duration_s=240.0, clock="open", low_c=11.0, high_c=80.0, outlet="tap", stops=1,
                  stop_s=10.0, flow_m3_per_s=5.0e-3 / 60)  # fmt: skip
    _, day = day_of(built, draw, cold_water_c=7.0)
    rows = rows_of(day)
    gap = int(np.argmax(np.diff(rows[:, columns.END]) > 5.0)) + 1
    after = rows[gap:]
    since = after[:, columns.END] - after[0, columns.END] + after[0, columns.STEP]
    low = after[:, columns.HEAD] < 45.0
    under = float(after[low, columns.STEP].sum())
    back = since[low.nonzero()[0][-1] :][after[low.nonzero()[0][-1] :, columns.HEAD] > 47.8]
    return float(after[:, columns.HEAD].min()), under, float(back[0]) if len(back) else 1e9


def test_an_outlet_sensor_brings_a_cold_body_back_and_feed_forward_does_not():
    lowest, under, back = restart("outlet sensor")
    assert lowest == pytest.approx(32.75, abs=1.2)
    assert under == pytest.approx(11.4, abs=1.5)
    assert back == pytest.approx(16.2, abs=2.0)
    _, blind_under, blind_back = restart("feed-forward")
    assert blind_under > 1.3 * under and blind_back > 1.5 * back


# --- cautions ---


@pytest.mark.parametrize(("name", "gas"), [("diesel-combi", False), ("gas-combi", True)])
def test_only_a_combi_on_gas_carries_the_caution_of_gas(name, gas):
    combi = next(one for one in layouts()[name].system.parts if one.kind == "combi")
    assert ("gas" in combi.care().lower()) == gas
