"""Elements with two steps, level switches, pumps by strokes, hot air, and where people stand."""

from __future__ import annotations

from typing import Any

import numpy as np
import pytest

from isotherma.catalogue import climate
from isotherma.catalogue.layouts import layouts
from isotherma.core.brief import Budgets
from isotherma.core.climate import Climate
from isotherma.core.flows.gauges import doubts
from isotherma.core.flows.waste import waste_of
from isotherma.core.options.built import setup_s
from isotherma.core.options.limits import Limited, headroom_m, limits_on
from isotherma.core.results.damp import dries_kg_per_s, vapours
from isotherma.core.setup.level_switches import Stuck, batch_fills, low_cuts, stuck
from isotherma.core.simulate import simulate
from isotherma.core.supply.hot_air import coil_air, hot_air
from isotherma.core.supply.steps import full_step, step_edges_s
from isotherma.core.supply.strokes import strokes_of
from isotherma.core.system import System
from isotherma.core.system.kinds.heat import Element
from isotherma.core.system.layouts import usual_route
from isotherma.core.system.moves import moves
from isotherma.core.system.nominal import computed
from isotherma.core.system.remarks import remarks
from isotherma.core.system.vehicle import Vehicle
from tests.networks import network, part, pipe, tap
from tests.support import MILD, brief, run, shower, system

LPM = 1e-3 / 60


def two_step(**values: object) -> System:
    made = Element.model_validate({"id": "element", "power_w": 660.0, **values})
    return usual_route(tank_m3=0.1, store_m3=0.02, element=made)


@pytest.mark.parametrize(("values", "on_full"), [
    ({}, (True, True, True)), ({"low_w": 330.0}, (False, False, False)),
    ({"low_w": 330.0, "boost": "from a time", "boost_from_s": 21600.0, "boost_until_s": 28800.0},
     (False, True, False)),
    ({"low_w": 330.0, "boost": "from a time", "boost_from_s": 79200.0, "boost_until_s": 7200.0},
     (True, False, False)),
    ({"low_w": 330.0, "boost": "before a draw", "boost_before_s": 3600.0}, (False, True, False)),
    ({"low_w": 330.0, "boost": "by button"}, (False, False, False)),
])  # fmt: skip
def test_which_step_is_on_by_the_clock(values, on_full):
    element = Element.model_validate({"id": "e", "power_w": 660.0, **values})
    draws = (shower(),)  # at seven, five minutes
    found = tuple(full_step(element, "ready", draws, hour * 3600.0) for hour in (1.0, 6.5, 12.0))
    assert found == on_full
    assert full_step(element, "full", draws, 3600.0)  # a button, or the state


def test_steps_have_edges_and_one_step_has_none():
    element = Element(id="e", power_w=660.0, low_w=330.0, boost="before a draw")
    assert step_edges_s([element], (shower(),)) == (21600.0, 25500.0)
    assert step_edges_s([Element(id="e", power_w=660.0)], (shower(),)) == ()


def hottest_w(outcome) -> tuple[float, float]:
    """The most an element gave before six, and between six and seven [W]."""
    spans = [
        (row.start_s, row.sources_j.get("element", 0.0) / row.span_s)
        for row in outcome.timeline.stretches
    ]
    return (
        max(watts for start, watts in spans if start < 6 * 3600.0 - 1),
        max(watts for start, watts in spans if 6 * 3600.0 <= start + 1 < 7 * 3600.0),
    )


def test_a_low_step_holds_and_the_full_one_boosts_before_the_shower():
    asked = brief(shower(), day_start="cold")
    held = run(asked, two_step(low_w=100.0))
    boosted = run(asked, two_step(low_w=100.0, boost="before a draw"))
    plain = run(asked, two_step())
    assert hottest_w(held)[0] == pytest.approx(100.0, rel=0.01)
    assert hottest_w(held)[1] <= 100.5
    assert hottest_w(boosted)[1] > 400.0
    assert hottest_w(plain)[0] == pytest.approx(660.0, rel=0.01)
    cooler, warmer = held.draws[0].mean_c, boosted.draws[0].mean_c
    assert cooler is not None and warmer is not None and cooler < warmer


def test_a_low_step_on_wires_takes_fewer_amps():
    base = {
        "parts": [
            {"id": "battery", "kind": "battery", "volts_v": 12.0, "usable_j": 5e7},
            {"id": "tank", "kind": "fresh_tank", "volume_m3": 0.1},
            {"id": "store", "kind": "store", "volume_m3": 0.01},
            {"id": "element", "kind": "element", "rated_w": 200.0, "rated_v": 12.0,
             "fitted_in": "store"},
            {"id": "tap", "kind": "tap", "flow_factor_si": 1e-7},
        ],
        "runs": [
            pipe("tank", "store"), pipe("store", "tap"),
            {"id": "wire", "kind": "cable", "start": {"part": "battery", "port": "power"},
             "end": {"part": "element", "port": "power"}, "length_m": 2.0, "area_m2": 6e-6},
        ],
    }  # fmt: skip
    asked = brief(shower(duration_s=60.0, aim="any", clock="open"), day_start="cold")
    full = run(asked, System.model_validate(base))
    low = run(asked, System.model_validate({**base, "parts": [
        {**item, "low_w": 50.0} if item["id"] == "element" else item for item in base["parts"]
    ]}))  # fmt: skip
    most_full, most_low = (
        max(row.sources_j.get("element", 0.0) / row.span_s for row in one.timeline.stretches)
        for one in (full, low)
    )
    assert most_full == pytest.approx(200.0, rel=0.12)  # the wire keeps some
    assert most_low == pytest.approx(50.0, rel=0.05)


# --- level switches ---


def boxed(*switches: dict[str, object], rests: str = "shut", **valve: object) -> System:
    return network(
        [
            part("tank", "fresh_tank", volume_m3=0.1),
            part("valve", "solenoid", rests=rests, **valve),
            part("box", "store", volume_m3=0.02, nature="open vented", refill="in batches"),
            part("element", "element", power_w=500.0, fitted_in="box"),
            part("pump", "submersible", fitted_in="box", open_flow_m3_per_s=5 * LPM,
                 shut_pressure_pa=8e4),
            tap(), *({"kind": "level_switch", "fitted_in": "box", **one} for one in switches),
        ],
        [pipe("tank", "valve"), pipe("valve", "box"), pipe("box", "tap")],
    )  # fmt: skip


LOW = {"id": "low", "at_share": 0.3, "closes": "when dry", "acts_on": "valve"}
HIGH = {"id": "high", "at_share": 0.9, "closes": "when wet", "acts_on": "valve"}


def by_id(built: System):
    return {item.id: item for item in built.parts}


def test_a_box_fills_in_batches_between_its_switches():
    fill = batch_fills(by_id(boxed(LOW, HIGH)))["box"]
    assert (fill.valve, fill.from_share, fill.to_share) == ("valve", 0.3, 0.9)
    assert fill.opens(0.3, 0.0) and not fill.opens(0.5, 0.0)
    alone = batch_fills(by_id(boxed(LOW)))["box"]
    assert (alone.from_share, alone.to_share) == (0.3, 0.3)
    assert batch_fills(by_id(boxed())) == {}
    assert batch_fills(by_id(boxed({**LOW, "at_share": None}))) == {}  # unknown acts nowhere


def test_a_valve_that_may_open_at_night_waits_until_then():
    night = batch_fills(by_id(boxed(LOW, HIGH, from_s=79200.0, until_s=21600.0)))["box"]
    assert night.opens(0.1, 82800.0) and night.opens(0.1, 3600.0)
    assert not night.opens(0.1, 43200.0)


def test_a_valve_that_rests_open_is_closed_by_wet_contacts():
    fill = batch_fills(by_id(boxed({**HIGH}, rests="open")))["box"]
    assert (fill.from_share, fill.to_share) == (0.9, 0.9)


def test_a_low_cut_keeps_an_element_off_while_its_box_is_low():
    cut = {"id": "cut", "at_share": 0.5, "closes": "when wet", "acts_on": "element"}
    assert low_cuts(by_id(boxed(cut)), "box") == {"element": 0.5}
    assert low_cuts(by_id(boxed({**cut, "closes": "when dry"})), "box") == {}


@pytest.mark.parametrize(("switch", "rests", "happens"), [
    ({**LOW, "fails": "closed"}, "shut", {(Stuck.OVERFLOWS, "valve")}),
    ({**LOW, "fails": "open"}, "shut", {(Stuck.NEVER_FILLS, "valve")}),
    ({**HIGH, "fails": "closed"}, "open", {(Stuck.NEVER_FILLS, "valve")}),
    (LOW, "shut", {(Stuck.OVERFLOWS, "valve"), (Stuck.NEVER_FILLS, "valve")}),
    ({**LOW, "acts_on": "element", "fails": "closed"}, "shut", {(Stuck.HEATS_DRY, "element")}),
    ({**LOW, "acts_on": None}, "shut", set()),
])  # fmt: skip
def test_what_a_stuck_switch_does(switch, rests, happens):
    assert set(stuck(boxed(switch, rests=rests), "low" if switch["id"] == "low" else "high")) == (
        happens
    )


# --- pumps worked by foot ---


def stroked(litres: float = 0.0, stroke_ml: float = 200.0, **heater: object) -> System:
    parts = [
        part("tank", "fresh_tank", volume_m3=0.1),
        part("foot", "foot_pump", stroke_m3=stroke_ml * 1e-6, strokes_per_min=30.0),
        part("heater", "through_flow_gas", heat_w=1e4, on_flow_m3_per_s=2.5 * LPM, **heater), tap(),
    ]  # fmt: skip
    runs = [pipe("tank", "foot"), pipe("heater", "tap")]
    if litres:
        parts.append(part("calm", "accumulator", volume_m3=litres * 1e-3))
        runs += [pipe("foot", "calm"), pipe("calm", "heater")]
    else:
        runs.append(pipe("foot", "heater"))
    return network(parts, runs)


def test_strokes_give_twice_the_mean_for_half_the_time():
    [found] = strokes_of(stroked())
    assert found.mean_m3_per_s == pytest.approx(6 * LPM)
    assert found.peak_m3_per_s == pytest.approx(12 * LPM)
    assert found.pressed_s == pytest.approx(1.0)
    assert not found.stays_lit and not found.ever_lights  # it senses and lights in 2.5 s
    assert strokes_of(stroked(sense_s=0.2, light_s=0.5))[0].ever_lights


def test_an_accumulator_of_two_strokes_carries_the_flame_over():
    assert strokes_of(stroked(0.5))[0].stays_lit
    assert not strokes_of(stroked(0.3))[0].stays_lit
    assert not strokes_of(stroked(0.5, stroke_ml=50.0))[0].stays_lit  # 1.5 L/min light nothing


def test_a_flame_behind_a_foot_pump_is_out_in_the_day_too():
    asked = brief(shower(clock="open", aim="any", duration_s=120.0))
    bare, calmed = (simulate(asked, stroked(litres), MILD) for litres in (0.0, 0.5))
    assert bare.draws[0].mean_c == pytest.approx(10.0, abs=1.0)
    assert calmed.draws[0].mean_c is not None and calmed.draws[0].mean_c > 25.0


# --- hot air ---


def blown(flap: str | None = None, duct_m: float = 1.0, **duct: object) -> System:
    parts = [
        part("heater", "air_heater", heat_w=2000.0, outlet_c=98.0), part("out", "air_outlet"),
        part("coil", "air_coil", conductance_w_per_k=40.0),
    ]  # fmt: skip

    def run_of(key: str, start: tuple[str, str], end: tuple[str, str], **values: object):
        return {"id": key, "kind": "duct", "start": {"part": start[0], "port": start[1]},
                "end": {"part": end[0], "port": end[1]}, "bore_m": 0.06, **values}  # fmt: skip

    if flap is None:
        runs = [run_of("a", ("heater", "outlet"), ("coil", "air"), length_m=duct_m, **duct)]
    else:
        parts.append(part("flap", "air_diverter", leak_share=0.1))
        runs = [
            run_of("a", ("heater", "outlet"), ("flap", "inlet"), length_m=0.1),
            run_of("b", ("flap", "cabin"), ("out", "inlet"), length_m=duct_m, **duct),
            run_of("c", ("flap", "coil"), ("coil", "air"), length_m=duct_m, **duct),
        ]
    return computed(System.model_validate({"parts": parts, "runs": runs}))


def room(_space: str | None) -> float:
    return 18.0


def test_the_heat_that_arrives_and_is_lost_is_the_heater_s():
    for flap in (None, "cabin", "coil", "both"):
        at = {} if flap is None else {"flap": flap}
        found = hot_air(blown(flap, duct_m=3.0), at, room)
        shares = sum(air.share for air in found)
        assert shares == pytest.approx(1.0)
        assert sum(air.heat_w for air in found) + sum(air.lost_w for air in found) == (
            pytest.approx(2000.0, rel=1e-9)
        )


def test_a_flap_leaks_the_other_way_and_length_costs_heat():
    to_coil = {air.part_id: air for air in hot_air(blown("coil"), {"flap": "coil"}, room)}
    assert to_coil["coil"].share == pytest.approx(0.9)
    assert to_coil["out"].share == pytest.approx(0.1)
    near, far = (hot_air(blown(duct_m=m), {}, room)[0].air_c for m in (0.5, 5.0))
    assert near > far
    lagged = hot_air(blown(duct_m=5.0, lagged=True), {}, room)[0].air_c
    assert far < lagged < near
    stream = 2000.0 / 80.0
    assert far == pytest.approx(18.0 + 80.0 * np.exp(-6.0 * np.pi * 0.06 * 5.0 / stream))


def test_a_coil_takes_no_more_than_the_air_brings():
    air_c, held = coil_air(blown(), {}, room)["coil"]
    stream = 2000.0 / 80.0
    assert held == pytest.approx(stream * (1.0 - np.exp(-40.0 / stream)))
    assert held * (air_c - 10.0) < 2000.0 + stream * 8.0
    assert coil_air(blown(), {"heater": "off"}, room)["coil"][1] == 0.0
    shut = hot_air(blown("both"), {"flap": "both", "out": "shut"}, room)
    assert {air.part_id: air.share for air in shut} == {"out": 0.0, "coil": 1.0}


def test_drying_ends_where_the_air_is_as_damp_as_it_leaves():
    warm = dries_kg_per_s(air_c=60.0, stream_w_per_k=20.0, inside_c=18.0, humid=0.5)
    # its heat over what it cools to, divided by the heat of evaporation
    assert 0.3 * 20.0 * 42.0 / 2.43e6 < warm < 20.0 * 60.0 / 2.43e6
    assert dries_kg_per_s(air_c=18.0, stream_w_per_k=20.0, inside_c=18.0, humid=0.9) == 0.0


# --- where people stand ---


def placed(setting: str = "tent", **values: object) -> System:
    data = system().model_dump()
    place = {"id": "place", "kind": "shower_place", "setting": setting, **values}
    data["parts"] = [*data["parts"], place]
    return System.model_validate(data)


def test_a_tent_takes_minutes_and_keeps_the_damp_out():
    asked = brief(shower())
    assert setup_s(placed("tent")) > setup_s(placed("cubicle")) > setup_s(system())
    assert setup_s(placed("tent", setup_s=60.0, pack_s=90.0)) - setup_s(system()) == 150.0
    assert vapours(run(asked, placed("doorway with curtain"))) != ()
    assert vapours(run(asked, placed("tent"))) == ()


def test_headroom_is_what_tray_and_mat_leave():
    van = Vehicle(headroom_m=1.9)
    assert headroom_m(system(), van) == 1.9
    assert headroom_m(placed("cubicle", mat_m=0.02), van) == pytest.approx(1.88)
    data = placed("cubicle", mat_m=0.02).model_dump()
    data["parts"] = [*data["parts"], {"id": "tray", "kind": "tray", "raised_m": 0.08}]
    assert headroom_m(System.model_validate(data), van) == pytest.approx(1.8)
    assert headroom_m(placed("tent", headroom_m=2.0), van) == 2.0
    assert headroom_m(placed("outside"), Vehicle()) == float("inf")
    assert headroom_m(placed("cubicle"), Vehicle()) is None
    assert Budgets(headroom_m=1.85).headroom_m == 1.85


# --- the rest ---


def test_a_lever_that_loses_its_place_costs_water_at_every_pause():
    data = system().model_dump()
    for item in data["parts"]:
        if item["kind"] == "thermostatic_mixer":
            mixer = item["id"]
    kept = {key: value for key, value in data.items() if key != "parts"}
    asked = brief(shower(stops=2, stop_s=60.0, clock="open"))

    def water(**values: object) -> float:
        parts = [
            {"id": mixer, "kind": "manual_mixer", "space": item["space"], **values}
            if item["id"] == mixer else item for item in data["parts"]
        ]  # fmt: skip
        return run(asked, System.model_validate({**kept, "parts": parts})).draws[0].used_m3

    keeps, loses = water(pauses=True), water(pauses=False, finds_s=15.0)
    assert loses - keeps == pytest.approx(2 * 15.0 / 300.0 * keeps, rel=0.05)
    assert water(pauses=False, finds_s=0.0) == pytest.approx(keeps, rel=1e-6)


def test_a_store_just_filled_took_its_litres_from_the_tank():
    cold = run(brief(shower(), day_start="cold"), system())
    warm = run(brief(shower()), system())
    taken = (
        warm.setup.reservoirs.reservoirs[0].full_kg - cold.setup.reservoirs.reservoirs[0].full_kg
    )
    assert taken == pytest.approx(10.0, rel=0.01)


def test_a_tilted_panel_gets_more_of_a_low_sun_and_less_of_a_high_one():
    winter = Climate(region="a", month=12, air_c=0.0, swing_k=0.0)
    summer = winter.model_copy(update={"month": 6})
    noon = 43200.0
    assert winter.tilted(0.0, noon) == 1.0
    assert winter.tilted(60.0, noon) > 1.5
    assert summer.tilted(60.0, noon) < 1.0
    assert 0.0 < winter.tilted(60.0, 8 * 3600.0) <= 2.0


# --- in the starting layouts ---


def of_layout(name: str, state: str, **draw: Any):
    layout = layouts()[name]
    system = layout.system
    outlet = {"hung-outside": "head", "seat-store": "head", "sun-first": "head"}[name]
    first = shower(outlet=outlet, **draw)
    asked = layout.project().brief.model_copy(update={"draws": (first,), "cold_water_c": None})
    return simulate(asked, system, climate(asked), state=system.state(state))


def test_a_unit_hung_outside_is_fed_from_a_bucket():
    found = of_layout("hung-outside", "bucket", duration_s=180.0)
    assert found.draws[0].mean_c is not None and found.draws[0].mean_c > 30.0
    assert found.timeline.washed_kg.get("tank", 0.0) == 0.0


def test_a_bucket_is_mixed_with_the_hot_of_the_store():
    found = of_layout("seat-store", "mixed-bucket", duration_s=120.0, flow_m3_per_s=3 * LPM)
    result = found.draws[0]
    assert result.mean_c is not None and result.mean_c > 30.0
    # only the hot part comes out of the tank
    assert 0.2 * result.used_m3 < found.timeline.washed_kg["tank"] / 999.0 < 0.9 * result.used_m3


def test_sun_and_gas_both_heat_one_store():
    found = of_layout("sun-first", "gas", duration_s=600.0, aim="any")
    heats = found.timeline.balance.sources_j
    assert heats["element"] > 0.0 and heats["burner"] > 0.0


def test_the_open_box_fills_between_its_switches():
    layout = layouts()["open-sun-box"]
    fill = batch_fills(by_id(layout.system))["store"]
    assert fill.valve == "fill-valve"
    assert (fill.from_share, fill.to_share) == pytest.approx((0.6, 0.95))
    air = hot_air(computed(layout.system), {"flap": "cabin"}, room)
    assert {one.part_id for one in air} == {"grille", "coil"}


def test_caps_and_clips_are_part_of_the_move():
    system = layouts()["hung-outside"].system
    listed = moves(system, system.state("hot"), system.state("stowed"))
    [apart] = [move for move in listed if move.part_id == "heater-plug"]
    assert apart.beside == ("Cap on the water socket", "Clip for the heater hose")
    assert apart.seconds_s == pytest.approx(5.0 + 5.0 + 5.0)


def test_a_pump_the_wrong_way_up_is_said():
    data = system().model_dump()
    data["parts"] = [
        {**item, "may_sit": "motor above", "sits": "level"} if item["kind"] == "pump" else item
        for item in data["parts"]
    ]
    assert "pump_way_up" in {remark.code for remark in remarks(System.model_validate(data))}
    data["parts"] = [
        {**item, "may_sit": "any way"} if item["kind"] == "pump" else item for item in data["parts"]
    ]
    assert "pump_way_up" not in {remark.code for remark in remarks(System.model_validate(data))}


def test_a_jug_under_the_head_gives_its_cold_water_back():
    asked = brief(shower())
    data = system().model_dump()

    def taken(**jug: Any) -> tuple[float, float]:
        more = [{"id": "jug", "kind": "jug", **jug}] if jug else []
        found = run(asked, System.model_validate({**data, "parts": [*data["parts"], *more]}))
        return found.timeline.washed_kg["tank"], found.draws[0].cold_m3

    bare, cold = taken()
    assert bare - taken(volume_m3=2e-4, under="head")[0] == pytest.approx(0.2, abs=0.01)
    # no more than what came cold is caught
    assert bare - taken(volume_m3=0.05, under="head")[0] <= cold * 1000.0 + 0.3
    assert taken(volume_m3=2e-4, under="tap" if "tap" in str(data) else None)[0] == (
        pytest.approx(bare)
    )


def test_kettles_boiled_for_a_bag_are_seconds_of_set_up():
    layout = layouts()["kettle-and-bag"].system
    kettle = next(item for item in layout.parts if item.kind == "kettle")
    data = layout.model_dump()

    def seconds(**values: Any) -> float:
        parts = [{**item, **values} if item["id"] == kettle.id else item for item in data["parts"]]
        return setup_s(System.model_validate({**data, "parts": parts}))

    none = seconds(volume_m3=None, boils_in_s=None)
    assert seconds(volume_m3=0.1, boils_in_s=600.0) - none == pytest.approx(600.0)
    assert seconds(volume_m3=0.001, boils_in_s=300.0) - none > 600.0


def test_the_vehicle_may_allow_fewer_holes_than_the_brief():
    asked = Budgets(holes=4)
    found = limits_on(asked, system(), {}, Vehicle(holes_at_most=2))
    assert [one.limit for one in found if one.what is Limited.HOLES] == [2.0]
    alone = limits_on(Budgets(), system(), {}, Vehicle(holes_at_most=0))
    assert [one.limit for one in alone] == [0.0]


def test_a_grey_tank_drains_back_once_its_water_stands_at_the_inlet():
    built = System.model_validate({
        "parts": [{"id": "grey", "kind": "grey_tank", "inside_length_m": 0.5,
                   "inside_width_m": 0.4, "inside_height_m": 0.3, "inlet_height_m": 0.2}],
        "runs": [],
    })  # fmt: skip
    [tank] = waste_of(built, None, Vehicle()).empties
    assert tank.free_until_m3 == pytest.approx(0.04, rel=1e-3)


def test_meters_say_how_wrong_they_may_be():
    built = System.model_validate({
        "parts": [
            {"id": "store", "kind": "store", "volume_m3": 0.01},
            {"id": "t", "kind": "thermometer", "fitted_in": "store", "at_share": 0.7},
            {"id": "f", "kind": "flow_meter", "error_share": 0.1},
        ],
        "runs": [],
    })  # fmt: skip
    strapped, meter = doubts(computed(built))
    assert (strapped.error_k, strapped.at_share, strapped.host) == (1.5, 0.7, "Store")
    assert meter.error_share == 0.1 and meter.error_k is None
