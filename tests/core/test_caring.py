"""Where to park, damp, routines: from the design alone."""

from __future__ import annotations

from math import inf
from typing import Any

import pytest

from isotherma.catalogue.demo import curlew, drover, folio
from isotherma.catalogue.layouts import layouts
from isotherma.core.building.sections import sections_of
from isotherma.core.building.stages import treated_m3
from isotherma.core.flows.draining import DrainDown
from isotherma.core.results.damp import saturated_kg_per_m3
from isotherma.core.system import System
from isotherma.core.system.configuration import positions
from isotherma.core.system.kinds import gas, use, water
from isotherma.core.system.moves import ordered_moves
from isotherma.core.system.nominal import computed
from isotherma.core.using.damp import damps, dew_point_c, sweats, window_m3_per_s
from isotherma.core.using.lead import on_in
from isotherma.core.using.parking import MOST_DEG, parking_of
from isotherma.core.using.routines import Known, at_rest, routines_of
from isotherma.core.water.dosing import dose_m3
from isotherma.services.flows import drained
from isotherma.services.runs import compute

DEMOS = [folio, drover, curlew]


def variant_of(make) -> Any:
    project = make()
    return project, project.variants[0]


def outcome_of(project, variant) -> Any:
    return compute(project, variant)


def with_tank(**sides) -> Any:
    project, variant = variant_of(drover)
    parts = [part.model_copy(update=sides) if part.id == "tank" else part
             for part in variant.system.parts]  # fmt: skip
    return project, variant.system.model_copy(update={"parts": tuple(parts)})


def test_nothing_that_minds_is_not_judged():
    project, variant = variant_of(drover)
    found = parking_of(variant.system, None, project.vehicle)
    assert not found.judged and found.leans == () and found.unmeasured == ("tank",)
    assert found.reaches() is None


def test_a_flat_long_tank_minds_how_it_stands_and_a_deep_one_does_not():
    sides = {"inside_length_m": 1.5, "inside_width_m": 0.4, "inside_height_m": 0.2}
    project, system = with_tank(**sides, outlet_height_m=0.0)
    long = parking_of(system, None, project.vehicle)
    assert long.judged and long.tanks == ("tank",)
    nose, side = long.reaches(nose=1), long.reaches(right=1)
    assert nose is not None and side is not None and nose < side == MOST_DEG
    assert long.reaches(nose=-1) == nose  # the outlet counts as in the middle
    deep = {"inside_length_m": 0.4, "inside_width_m": 0.4, "inside_height_m": 0.75}
    project, system = with_tank(**deep, outlet_height_m=0.0)
    tall = parking_of(system, None, project.vehicle)
    assert tall.reaches(nose=1) == MOST_DEG


def test_what_is_out_of_reach_grows_with_the_lean():
    sides = {"inside_length_m": 1.0, "inside_width_m": 0.4, "inside_height_m": 0.3}
    project, system = with_tank(**sides, outlet_height_m=0.0)
    leans = {one.nose_up_deg: one.unused_m3
             for one in parking_of(system, None, project.vehicle).leans
             if one.right_down_deg == 0}  # fmt: skip
    # by hand: a wedge of half the length, L/2 · tan(a) high: L² W tan(a) / 8
    assert leans[2] == pytest.approx(1.0 * 0.4 * 0.034921 / 8.0, rel=0.02)
    assert leans[0] == pytest.approx(0.0, abs=1e-9) and leans[4] > leans[3] > leans[2]


def test_the_tray_of_folio_drains_nose_down_and_not_nose_up():
    project, variant = variant_of(folio)
    found = parking_of(variant.built.system, variant.standing, project.vehicle)
    assert found.trays == ("tray", "sink")
    assert found.reaches(nose=-1) == MOST_DEG and found.reaches(nose=1) == 1


def test_dew_point_and_window_by_hand():
    # 20 °C, half damp: 9.3 °C in any psychrometric table
    assert dew_point_c(0.5 * saturated_kg_per_m3(20.0), 20.0) == pytest.approx(9.3, abs=0.1)
    assert dew_point_c(2.0, 20.0) == pytest.approx(20.0)
    assert window_m3_per_s(area_m2=0.2, tall_m=0.3, inside_c=12.0, outside_c=12.0) == 0.0
    warm = window_m3_per_s(area_m2=0.2, tall_m=0.3, inside_c=20.0, outside_c=0.0)
    assert warm == pytest.approx(0.6 * 0.2 / 3.0 * (9.80665 * 0.3 * 20.0 / 283.15) ** 0.5)


@pytest.mark.parametrize("make", DEMOS)
def test_showers_inside_leave_damp_and_a_window_that_is_said_clears_it(make):
    project, variant = variant_of(make)
    plain = damps(outcome_of(project, variant))
    assert plain and all(one.window_s is None for one in plain)
    system = variant.system
    spaces = tuple(one.model_copy(update={"opening_m2": 0.3}) for one in system.spaces)
    airy = variant.model_copy(update={"system": system.model_copy(update={"spaces": spaces})})
    opened = damps(outcome_of(project, airy))
    for one in opened:
        assert one.skin_c < one.inside_c and one.dew_c <= one.inside_c + 1e-9
        if one.window_s is not None and one.window_s < inf:
            assert one.window_m3_per_s is not None and one.window_s > 0.0
        for key in sweats(one):
            assert {"skin": one.skin_c, "cold_pipe": one.cold_c}[key] < one.dew_c


def known_of(project, variant, **more) -> Any:
    state = variant.standing
    system = variant.built.system
    sections = sections_of(system, computed(system), positions(system, state))
    return Known(down=drained(project, variant, state), water_m3=treated_m3(system, sections),
                 **more)  # fmt: skip


@pytest.mark.parametrize("make", DEMOS)
def test_every_step_names_a_part_that_is_there_and_ends_at_rest(make):
    project, variant = variant_of(make)
    system, state = variant.built.system, variant.standing
    there = {piece.id for piece in (*system.parts, *system.runs)} | {""}
    found = {one.id: one for one in routines_of(system, state, known_of(project, variant))}
    assert {"arrive", "before_driving", "leave_week", "first_frost", "lay_up", "sanitise"} <= {
        *found}  # fmt: skip
    for routine in found.values():
        assert all(step.part in there for step in routine.steps)
    rest = positions(system, at_rest(system, state))
    at = dict(positions(system, state))
    for step in found["before_driving"].steps:
        if step.code == "move":
            at[step.part] = step.to
    assert at == rest
    for step in found["arrive"].steps:
        if step.code == "move":
            at[step.part] = step.to
    assert at == dict(positions(system, state))


def test_heat_is_off_before_the_pump_and_gas_shut_last_at_rest():
    system = layouts()["gas-combi"].system
    moves = ordered_moves(system, None, at_rest(system, None)).moves
    order = [move.part_id for move in moves]
    parts = {part.id: part for part in system.parts}
    heats = [order.index(key) for key in order if parts[key].side == "heat"]
    pumps = [order.index(key) for key in order if isinstance(parts[key], water.Pump)]
    assert max(heats) < min(pumps)
    bottles = [move for move in moves if isinstance(parts[move.part_id], gas.GasBottle)]
    assert bottles and all(move.after == "shut" for move in bottles)


@pytest.mark.parametrize("make", DEMOS)
def test_what_is_caught_and_what_stays_is_the_drain_downs(make):
    project, variant = variant_of(make)
    known = known_of(project, variant)
    frost = next(one for one in routines_of(variant.built.system, variant.standing, known)
                 if one.id == "first_frost")  # fmt: skip
    assert isinstance(known.down, DrainDown)
    proof = next(step for step in frost.steps if step.code == "proof")
    caught = sum(one.volume_m3 for one in known.down.openings)
    assert proof.values["litres"].value == pytest.approx(caught)
    stays = sum(step.values["litres"].value for step in frost.steps
                if step.code in ("trapped", "puddles"))  # fmt: skip
    assert stays == pytest.approx(sum(one.stays_m3 for one in known.down.trapped), abs=2e-5)
    opened = [step.part for step in frost.steps if step.code.startswith("open_")]
    assert opened == [one.id for one in known.down.openings]


def test_a_dose_is_by_litres_and_strength():
    assert dose_m3(water_m3=0.1) == pytest.approx(1e-4)  # 1 mL a litre: 50 mg/L from 50 g/L
    assert dose_m3(water_m3=0.1, product_g_per_l=125.0) == pytest.approx(4e-5)
    project, variant = variant_of(drover)
    known = known_of(project, variant, product_g_per_l=125.0)
    steps = next(one for one in routines_of(variant.built.system, None, known)
                 if one.id == "sanitise").steps  # fmt: skip
    dose = next(step for step in steps if step.code == "dose")
    assert known.water_m3 is not None
    assert dose.values["dose"].value == pytest.approx(known.water_m3 * 50.0 / 125e3)
    unknown = routines_of(variant.built.system, None, Known())
    codes = [step.code for one in unknown if one.id == "sanitise" for step in one.steps]
    assert "dose_unknown" in codes and "flush_unknown" in codes and "dose" not in codes
    assert not any(one.id == "first_frost" for one in unknown)


def test_outside_water_is_a_routine_of_its_own_state():
    _, variant = variant_of(curlew)
    found = routines_of(variant.built.system, variant.standing, Known(rivers=("bucket", "gone")))
    rivers = [one for one in found if one.id == "river"]
    assert [one.state for one in rivers] == ["bucket"]
    codes = [step.code for step in rivers[0].steps]
    assert codes[0] == "suction" and "move" in codes and codes.index("move") < codes.index(
        "move_back") < codes.index("flush_outlet")  # fmt: skip


def test_a_missing_alarm_is_said_and_nothing_is_written_for_nothing():
    system = layouts()["gas-combi"].system
    without = tuple(part for part in system.parts if not isinstance(part, gas.GasAlarm))
    bare = system.model_copy(update={"parts": without})
    steps = next(one for one in routines_of(bare, None, Known()) if one.id == "alarms").steps
    assert [step.code for step in steps] == ["no_alarm"]
    assert routines_of(System(), None, Known()) == ()


def test_a_place_to_shower_is_set_up_and_packed():
    _, variant = variant_of(drover)
    place = use.ShowerPlace(id="tent", setup_s=240.0, pack_s=300.0)
    system = variant.system.model_copy(update={"parts": (*variant.system.parts, place)})
    found = {one.id: one for one in routines_of(system, None, Known())}
    seconds = {step.code: step.seconds for one in found.values() for step in one.steps
               if step.part == "tent"}  # fmt: skip
    assert seconds == {"set_up": 240.0, "pack": 300.0}


def test_what_a_state_leaves_on_is_what_is_guessed():
    _, variant = variant_of(folio)
    system = variant.built.system
    states = {one.id: one for one in system.states}
    assert on_in(system, states["pitch"]) == ("heater",)
    assert on_in(system, states["driving"]) == ()
