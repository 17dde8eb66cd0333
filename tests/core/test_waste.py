"""Trays, waste pipes, tanks that empty and fill, and what a drain-down leaves behind."""

from __future__ import annotations

from math import pi, radians, sqrt, tan

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.integrate import solve_ivp

from isotherma.core.flows.draining import drain_down
from isotherma.core.flows.fittings import Conditions
from isotherma.core.flows.network_compiler import compile_network
from isotherma.core.flows.waste import waste_of
from isotherma.core.hydraulics.basin import drain_places, flood, standing_water
from isotherma.core.hydraulics.gravity import (
    FallingLeg,
    emptying_s,
    gravity_flow_m3_per_s,
    lifting_flow_m3_per_s,
)
from isotherma.core.quantity import UnitSystem
from isotherma.core.system.vehicle import Vehicle
from isotherma.wording import (
    drain_sentence,
    pump_start_sentences,
    trapped_sentence,
    waste_sentences,
)
from tests.networks import LITRE_PER_MIN, network, part, pipe, pump, tank, tap

LEVEL = Vehicle()


def tray_water(**values):
    usual = {"length_m": 0.8, "breadth_m": 0.6, "rim_m": 0.06, "fall_deg": 0.0,
             "drains": drain_places(1, "front")}  # fmt: skip
    return standing_water(**{**usual, **values})


def test_a_level_flat_tray_keeps_nothing_and_holds_its_box():
    found = tray_water()
    assert found.standing_m3 == pytest.approx(0.0, abs=1e-9)
    assert found.holds_m3 == pytest.approx(0.8 * 0.6 * 0.06, rel=1e-6)
    assert found.to_drain == 1.0


def test_a_flat_tray_that_leans_from_its_drain_keeps_a_wedge():
    # nose up 1°: the rear lies L tan 1° lower; water stands level with the front's drain:
    # a wedge of half the length, breadth and depth, 0.5 L² B tan 1° = 3.35 L
    found = tray_water(pitch_deg=1.0)
    assert found.standing_m3 == pytest.approx(0.5 * 0.8**2 * 0.6 * tan(radians(1)), rel=0.03)
    assert found.deepest_m == pytest.approx(0.8 * tan(radians(1)), rel=0.01)
    assert tray_water(pitch_deg=-1.0).standing_m3 == pytest.approx(0.0, abs=1e-9)
    rear = tray_water(pitch_deg=1.0, drains=drain_places(1, "rear"))
    assert rear.standing_m3 == pytest.approx(0.0, abs=1e-9)


def test_steeper_than_its_rim_a_tray_spills():
    found = tray_water(pitch_deg=8.0, rim_m=0.05)
    assert found.to_drain < 0.6
    assert found.deepest_m <= 0.05 + 0.8 / 40 * tan(radians(8)) + 1e-9


@given(st.floats(0, 3), st.floats(-4, 4), st.floats(-4, 4), st.sampled_from([1, 2, 4]),
       st.sampled_from(["middle", "front", "rear", "left", "right", "corners"]))  # fmt: skip
def test_more_drains_keep_no_more_water(fall, pitch, roll, count, where):
    common = {"fall_deg": fall, "pitch_deg": pitch, "roll_deg": roll}
    one = drain_places(count, where)
    few = tray_water(drains=one, **{**common, "fall_deg": 0.0})
    more = tray_water(drains=(*one, *drain_places(4, "corners")), **{**common, "fall_deg": 0.0})
    assert more.standing_m3 <= few.standing_m3 + 1e-12
    found = tray_water(drains=one, **common)
    assert 0.0 <= found.standing_m3 <= found.holds_m3 + 1e-9
    assert 0.0 <= found.to_drain <= 1.0


def test_flood_fills_a_pit_to_its_lowest_sill():
    floor = np.array([[5, 5, 5, 5], [5, 1, 3, 5], [5, 5, 2, 0.0]])
    level = flood(floor, [((2, 3), 0.0)])
    assert level[1, 1] == 3 and level[1, 2] == 3 and level[2, 2] == 2 and level[2, 3] == 0


@given(
    st.integers(1, 9), st.integers(1, 9), st.integers(0, 3), st.integers(0, 2**32 - 1),
)  # fmt: skip
@settings(max_examples=60, deadline=None)
def test_flood_is_the_lowest_of_all_highest_points_on_a_way_out(rows, columns, outs, seed):
    """By the plain method: every cell as high as its lowest neighbour, all at once, until still."""
    drawn = np.random.default_rng(seed)
    floor = drawn.random((rows, columns))
    ways = [((int(drawn.integers(rows)), int(drawn.integers(columns))), float(drawn.random()))
            for _ in range(outs)]  # fmt: skip
    still = np.full((rows + 2, columns + 2), np.inf)
    inside = still[1:-1, 1:-1]
    for cell, least in ways:
        inside[cell] = min(inside[cell], max(floor[cell], least))
    for _ in range(rows * columns):
        beside = np.minimum.reduce(
            [still[:-2, 1:-1], still[2:, 1:-1], still[1:-1, :-2], still[1:-1, 2:]]
        )
        inside[:] = np.minimum(inside, np.maximum(floor, beside))
    assert np.array_equal(flood(floor, ways), inside)


def test_gravity_flow_is_torricelli_where_nothing_rubs():
    short = [FallingLeg(bore_m=0.02, length_m=1e-3)]
    # g H = (1 + 0.5 + 1·0) V²/2 with entrance 0.5 and all speed lost
    speed = sqrt(2 * 9.80665 * 0.5 / 1.5)
    found = gravity_flow_m3_per_s(head_m=0.5, stretches=short)
    assert found == pytest.approx(speed * pi / 4 * 0.02**2, rel=0.01)
    assert gravity_flow_m3_per_s(head_m=0.0, stretches=short) == 0.0
    assert gravity_flow_m3_per_s(head_m=-1.0, stretches=short) == 0.0
    narrow_vent = gravity_flow_m3_per_s(head_m=0.05, stretches=short, vent_bore_m=0.004)
    assert narrow_vent < 0.7 * gravity_flow_m3_per_s(head_m=0.05, stretches=short)


@pytest.mark.parametrize("taper", [1.0, 0.5, 1.6])
def test_emptying_against_an_integrated_tank(taper):
    pipes = [FallingLeg(bore_m=0.03, length_m=1.5, loss_k=1.0)]
    volume, depth, below = 0.07, 0.25, 0.1
    top = 2 * volume / depth / (1 + taper)

    def falls(_, y):
        area = top * (taper + (1 - taper) * max(y[0], 0.0) / depth)
        return [-gravity_flow_m3_per_s(head_m=max(y[0], 0) + below, stretches=pipes) / area]

    def empty(_, y):
        return y[0] - 1e-4

    setattr(empty, "terminal", True)  # noqa: B010 - as scipy wants it
    run = solve_ivp(falls, (0, 5000), [depth], events=empty, rtol=1e-7, max_step=2.0)
    found = emptying_s(volume_m3=volume, depth_m=depth, below_m=below, stretches=pipes, taper=taper)
    assert found == pytest.approx(run.t[-1], rel=0.01)
    assert emptying_s(volume_m3=volume, depth_m=depth, below_m=-0.1, stretches=pipes) is None


def test_a_dump_pump_lifts_less_the_higher():
    common = {"open_flow_m3_per_s": 14 * LITRE_PER_MIN, "most_m": 2.5}
    assert lifting_flow_m3_per_s(lift_m=0.0, **common) == common["open_flow_m3_per_s"]
    assert lifting_flow_m3_per_s(lift_m=2.0, **common) == pytest.approx(
        common["open_flow_m3_per_s"] * sqrt(0.2)
    )
    assert lifting_flow_m3_per_s(lift_m=2.6, **common) == 0.0


def bathroom(rise=-0.3, gate="shut", tray=None, **more):
    parts = [
        tank(), pump(), tap("head", 4.0, falls_to="tray"),
        part("tray", "tray", **(tray or {"length_m": 0.7, "breadth_m": 0.7, "rim_m": 0.05})),
        part("trap", "trap"), part("grey", "grey_tank", volume_m3=0.06, inside_height_m=0.25),
        part("gate", "gate"), *more.pop("parts", []),
    ]  # fmt: skip
    runs = [
        pipe("tank", "pump"), pipe("pump", "head"),
        pipe("tray", "trap", 0.3, 0.025, rise), pipe("trap", "grey", 1.0, 0.025, -0.05),
        pipe("grey", "gate", 0.3, 0.04), *more.pop("runs", []),
    ]  # fmt: skip
    states = [{"id": "now", "name": "Now", "positions": [{"part": "gate", "at": gate}]}]
    return network(parts, runs, states=states, **more)


def said(system, coming=None, vehicle=LEVEL, units=UnitSystem.METRIC):
    waste = waste_of(system, system.state("now"), vehicle)
    labels = {item.id: item.label for item in system.parts}
    words = " ".join(waste_sentences(waste, coming or {}, labels, units))
    return words.replace("\u00a0", " "), waste


def test_a_tray_that_falls_drains_and_one_that_rises_does_not():
    words, waste = said(bathroom(), {"head": 8 * LITRE_PER_MIN})
    assert waste.trays[0].drains and waste.trays[0].ends_in == "grey"
    assert "Tray drains to Grey tank at up to" in words and "more than the 8 L/min" in words
    words, waste = said(bathroom(rise=0.4))
    assert not waste.trays[0].drains
    assert "does not drain: its pipe rises by 0.35 m" in words
    assert "stand in it for good" in words


def test_more_than_the_drain_takes_fills_the_tray():
    words, waste = said(bathroom(), {"head": 60 * LITRE_PER_MIN})
    tray = waste.trays[0]
    left = (60 * LITRE_PER_MIN - tray.rate_m3_per_s) / tray.stands.holds_m3
    assert "it spills after about" in words and 1 / left > 5


def test_lean_counts_where_places_are_known_and_is_told_where_not():
    placed = bathroom()
    data = placed.model_dump()
    for item in data["parts"]:
        item.update({"x_m": {"tray": 1.0, "trap": 1.3}.get(item["id"], 2.3), "y_m": 0.0})
    leaning = Vehicle(pitch_deg=2.0)
    known = waste_of(type(placed).model_validate(data), None, leaning).trays[0]
    # nose up: the rear is lower by 1.3 m tan 2°
    assert known.fall_m == pytest.approx(0.35 + 1.3 * tan(radians(2)), rel=1e-6)
    words, waste = said(placed, vehicle=leaning)
    assert waste.trays[0].fall_m == pytest.approx(0.35)
    assert "they may gain or lose 45 mm of fall" in words  # 1.3 m tan 2° = 45.4 mm


def test_blocked_unknown_and_unjoined_are_told():
    shut = bathroom(parts=[part("shut", "gate")], runs=[])
    data = shut.model_dump()
    data["runs"] = [run for run in data["runs"] if run["id"] != "trap-grey"]
    data["runs"] += [pipe("trap", "shut", 0.5, 0.025, -0.1), pipe("shut", "grey", 0.5, 0.025, -0.1)]
    words, waste = said(type(shut).model_validate(data))
    assert waste.trays[0].blocked == "shut" and "its way ends at Gate" in words
    words, _ = said(bathroom(tray={"rim_m": 0.05}))
    assert "not computed without its length, breadth, rim" in words


def test_grey_and_fresh_tanks_in_words():
    fill = [part("filler", "fill_point")]
    built = bathroom(parts=fill, runs=[pipe("filler", "tank.fill", 1.0, 0.038, -0.4)])
    words, waste = said(built)
    assert "With Gate open Grey tank, full, empties by its own height in about" in words
    assert waste.fills[0].takes_m3_per_s > 12 * LITRE_PER_MIN and not waste.fills[0].backs_up
    assert waste.fills[0].seconds == pytest.approx(0.1 / (12 * LITRE_PER_MIN), rel=1e-6)
    level = bathroom(parts=fill, runs=[pipe("filler", "tank.fill", 1.0, 0.038, 0.1)])
    words, waste = said(level)
    assert waste.fills[0].seconds is None and "cannot be filled by height" in words
    narrow = bathroom(parts=fill, runs=[pipe("filler", "tank.fill", 3.0, 0.012, -0.2)])
    words, waste = said(narrow)
    assert waste.fills[0].backs_up and "comes back out of the filler" in words
    pumped = bathroom(parts=[part("dump", "dump_pump", flow_m3_per_s=12 * LITRE_PER_MIN,
                                  lift_m=2.0)],
                      runs=[pipe("gate", "dump", 0.5, 0.02, 1.0)])  # fmt: skip
    _, waste = said(pumped)
    by_hand = 0.06 / (12 * LITRE_PER_MIN * sqrt(1 - 1.0 / 2.0))
    assert waste.empties[0].by == "dump" and waste.empties[0].seconds == pytest.approx(by_hand)


def riser(height=1.0, drain=True, checks=False, shut=False):
    """Tank on the floor, pump, a tee with a drain below it, a tap above."""
    parts = [tank(), pump(), part("tee", "split"), tap()]
    runs = [pipe("tank", "pump", 0.5, 0.01), pipe("pump", "tee", 1.0, 0.01),
            pipe("tee", "tap", 2.0, 0.01, height)]  # fmt: skip
    if drain:
        parts.append(part("drain", "drain"))
        runs.append(pipe("tee.branch", "drain", 0.2, 0.01, -0.2))
    if checks:
        parts.append(part("check", "check_valve"))
        runs[2:3] = [pipe("tee", "check", 1.0, 0.01, height / 2),
                     pipe("check", "tap", 1.0, 0.01, height / 2)]  # fmt: skip
    if shut:
        parts.append(part("shut", "shut_off"))
        runs[2:3] = [pipe("tee", "shut", 1.0, 0.01, height / 2),
                     pipe("shut", "tap", 1.0, 0.01, height / 2)]  # fmt: skip
    states = [{"id": "off", "name": "Off", "positions": [{"part": "shut", "at": "shut"}]}]
    return network(parts, runs, states=states if shut else [])


def drained(system, vehicle=LEVEL, state=None):
    return drain_down(compile_network(system, state, Conditions()), vehicle)


def kept(found, wanted):
    return next(item for item in found.kept if item.id == wanted)


def test_a_riser_empties_through_a_drain_below_it():
    found = drained(riser())
    run = kept(found, "tee-tap")
    assert run.holds_m3 == pytest.approx(pi / 4 * 0.01**2 * 2.0)
    assert run.stays_m3 == 0.0 and run.drain == "drain"
    assert kept(found, "tee-branch-drain").stays_m3 == 0.0
    assert [item.id for item in found.openings] == ["tap", "drain"]
    assert found.openings[1].volume_m3 > found.openings[0].volume_m3 == 0.0


def test_without_a_drain_or_behind_a_check_the_water_stays():
    none = drained(riser(drain=False))
    assert kept(none, "tee-tap").stays_m3 == pytest.approx(kept(none, "tee-tap").holds_m3)
    assert "lower" in kept(none, "tee-tap").why
    behind = drained(riser(checks=True))
    assert kept(behind, "check-tap").stays_m3 == pytest.approx(kept(behind, "check-tap").holds_m3)
    assert kept(behind, "tee-check").stays_m3 > 0.0  # no air follows past the check
    assert "air" in kept(behind, "tee-check").why


def test_a_shut_valve_is_named():
    system = riser(shut=True)
    found = drained(system, state=system.state("off"))
    words = trapped_sentence(kept(found, "tee-shut"), {p.id: p.label for p in system.parts},
                             UnitSystem.METRIC)  # fmt: skip
    assert "no air" in words


def test_a_sagging_run_keeps_what_lies_below_its_sill():
    # down 0.4 m, along, up 0.3 m to the drain: the low 1 m run and 3/4 of the rising 0.8 m stay
    parts = [tap(), part("low", "coupling"), part("lift", "coupling"), part("drain", "drain")]
    runs = [pipe("tap.inlet", "low.outlet", 1.0, 0.01, -0.4),
            pipe("low.inlet", "lift.outlet", 1.0, 0.01, 0.0),
            pipe("lift.inlet", "drain", 0.8, 0.01, 0.3)]  # fmt: skip
    found = drained(network(parts, runs))
    area = pi / 4 * 0.01**2
    assert kept(found, "low-inlet-lift-outlet").stays_m3 == pytest.approx(area * 1.0)
    assert kept(found, "tap-inlet-low-outlet").stays_m3 == pytest.approx(area * 1.0 * 0.75)
    assert kept(found, "lift-inlet-drain").stays_m3 == pytest.approx(area * 0.8)


def test_the_lean_of_the_vehicle_traps_water():
    system = riser()
    data = system.model_dump()
    for item in data["parts"]:
        item.update({"x_m": {"drain": 0.0}.get(item["id"], 3.0), "y_m": 0.0})
    built = type(system).model_validate(data)
    level, nose_up = (drained(built, Vehicle(pitch_deg=angle)) for angle in (0.0, 8.0))
    assert nose_up.stays_m3 > level.stays_m3  # the drain at the front now lies high


def test_words_of_a_drain_down_and_of_pump_starts():
    assert "nothing stays" not in drain_sentence(drained(riser(drain=False)), {}, UnitSystem.METRIC)
    assert "gal" in drain_sentence(drained(riser()), {}, UnitSystem.US)
    from isotherma.core.flows.leak import pump_starts

    parts = [tank(), pump(control="switch", cut_out_pa=2.4e5), tap()]
    system = network(parts, [pipe("tank", "pump"), pipe("pump", "tap")])
    words = " ".join(
        pump_start_sentences(pump_starts(system, compile_network(system, None))[0], UnitSystem.US)
    )
    assert "psi" in words and "Without an accumulator" in words
