"""Tanks: gauges against integration, joined ones against an independent solver."""

from __future__ import annotations

from math import inf, radians, tan
from random import Random
from typing import Any

import numpy as np
import pytest
from scipy.integrate import solve_ivp

from isotherma.core.flows.gauges import gauge_tables
from isotherma.core.flows.levelling import levelling
from isotherma.core.hydraulics.gravity import FallingLeg, gravity_flow_m3_per_s
from isotherma.core.hydraulics.levelling import Joint, basin_of
from isotherma.core.hydraulics.levels import Gauge, TankShape, litres_at
from isotherma.core.simulate import simulate
from isotherma.core.system import System
from isotherma.core.system.configuration import positions
from isotherma.core.system.joined_tanks import tank_joints, tanks_as_one
from isotherma.core.system.nominal import computed
from isotherma.core.system.vehicle import Vehicle
from tests.networks import network, part, pipe, pump, tap
from tests.support import MILD, brief, shower, use

LPM = 1e-3 / 60


def integrated(shape: TankShape, height: float, ahead: float, right: float, pitch: float,
               roll: float) -> float:  # fmt: skip
    """Litres under a plane by columns: counted afresh, on a grid of its own."""
    count = 160
    grid = (np.arange(count) + 0.5) / count
    total = 0.0
    for z in grid:
        long = shape.length_m * (1 + (shape.top_share - 1) * z)
        wide = shape.width_m * (1 + (shape.widens - 1) * z)
        x = (grid - 0.5) * long
        y = (grid - 0.5) * wide
        surface = (
            height
            - tan(radians(pitch)) * (x[:, None] - ahead)
            + tan(radians(roll)) * (y[None, :] - right)
        )
        under = np.mean(surface >= z * shape.height_m)
        total += under * long * wide * shape.height_m / count
    return float(total)


@pytest.mark.parametrize("seed", range(50))
def test_a_gauge_in_any_shape_means_what_integration_says(seed):
    random = Random(seed)
    shape = TankShape(
        random.uniform(0.2, 1.2), random.uniform(0.2, 0.8), random.uniform(0.1, 0.5),
        top_share=random.uniform(0.5, 1.8), width_share=random.uniform(0.6, 1.5),
    )  # fmt: skip
    gauge = Gauge(
        0.1 * shape.height_m, 0.9 * shape.height_m, random.uniform(-0.3, 0.3) * shape.length_m,
        random.uniform(-0.3, 0.3) * shape.width_m,
    )  # fmt: skip
    reads, pitch, roll = random.uniform(0.1, 0.9), random.uniform(-5, 5), random.uniform(-5, 5)
    least, most = litres_at(reads, shape, gauge, nose_up_deg=pitch, right_down_deg=roll)
    assert least == most
    height = gauge.low_m + reads * (gauge.high_m - gauge.low_m)
    expected = integrated(shape, height, gauge.ahead_m, gauge.right_m, pitch, roll)
    assert least == pytest.approx(expected, abs=0.012 * shape.volume_m3)


SIDES = {"inside_length_m": 0.8, "floor_length_m": 0.6, "inside_width_m": 0.4,
         "inside_height_m": 0.3}  # fmt: skip


def gauged(kind: str = "float_sender", **values: object) -> System:
    return System.model_validate({
        "parts": [
            {"id": "tank", "kind": "fresh_tank", "nominal_m3": 0.084, **SIDES,
             "outlet_height_m": 0.02},
            {"id": "gauge", "kind": kind, "fitted_in": "tank", **values},
        ],
        "runs": [],
    })  # fmt: skip


def test_a_sender_with_steps_gives_ranges_that_meet():
    [table] = gauge_tables(computed(gauged(rod_m=0.27, offset_m=0.03, steps=4)), Vehicle())
    assert [row.shows for row in table.rows] == [0.0, 0.25, 0.5, 0.75, 1.0]
    for one, next_one in zip(table.rows[1:], table.rows[2:], strict=False):
        assert one.most_m3 == pytest.approx(next_one.least_m3)
    assert table.rows[0].least_m3 == 0.0
    assert table.rows[-1].most_m3 == pytest.approx(0.084)
    # 20 mm of a floor of 0.6 m: what no pump reaches
    assert table.unused_m3 == pytest.approx(0.4 * 0.02 * (0.6 + 0.1 * 0.02 / 0.3), rel=0.01)


def test_a_tapered_tank_has_less_at_half_than_the_needle_says():
    [table] = gauge_tables(computed(gauged("sight_tube", low_m=0.0, high_m=0.3)), Vehicle())
    half = table.rows[2]
    assert half.height_m == pytest.approx(0.15)
    assert half.least_m3 == pytest.approx(0.4 * 0.15 * 0.65, rel=0.002)
    assert half.needle_m3 == pytest.approx(0.042)


def test_a_short_rod_tells_nothing_of_the_last_litres():
    [short] = gauge_tables(computed(gauged(rod_m=0.2, offset_m=0.03)), Vehicle())
    assert short.rows[0].height_m == pytest.approx(0.1)
    assert short.rows[0].most_m3 > 0.024


def test_a_gauge_at_the_end_of_a_leaning_tank_is_not_the_middle():
    placed = gauged(x_m=1.0)
    data = placed.model_dump()
    tank_at = {**data["parts"][0], "x_m": 1.25}  # the gauge stands 0.25 m nearer the nose
    data["parts"] = [tank_at, *data["parts"][1:]]
    system = computed(System.model_validate(data))
    level, up = (gauge_tables(system, Vehicle(pitch_deg=pitch))[0].rows[2]
                 for pitch in (0.0, 4.0))  # fmt: skip
    assert up.least_m3 > level.least_m3  # nose up, water runs from it


def test_a_tank_nobody_measured_says_what_to_measure():
    data = gauged().model_dump()
    data["parts"] = [{**data["parts"][0], "inside_height_m": None}, *data["parts"][1:]]
    [table] = gauge_tables(computed(System.model_validate(data)), Vehicle())
    assert table.lacking and table.rows == ()


def test_litres_between_outlet_and_overflow_are_what_a_pump_gets():
    data = gauged().model_dump()
    measured = {**data["parts"][0], "nominal_m3": None, "overflow_height_m": 0.27}
    data["parts"] = [measured, *data["parts"][1:]]
    known = computed(System.model_validate(data)).part("tank")
    mean = 0.6 + 0.2 * (0.5 * (0.02 + 0.27) / 0.3)
    assert known.volume_m3 == pytest.approx(0.96 * 0.4 * 0.25 * mean)  # type: ignore[union-attr]


# --- two tanks and a pipe ---


def basins(first=0.06, second=0.03, below=0.0):
    one = basin_of(TankShape(0.5, 0.4, 0.3), volume_m3=first, outlet_m=0.0, overflow_m=0.3,
                   floor_m=0.0, port_m=0.0)  # fmt: skip
    other = basin_of(TankShape(0.5, 0.3, 0.2, 1.5), volume_m3=second, outlet_m=0.0,
                     overflow_m=0.2, floor_m=-below, port_m=0.0)  # fmt: skip
    return one, other


@pytest.mark.parametrize(("bore", "below"), [(0.012, 0.0), (0.019, 0.0), (0.01, 0.1)])
def test_two_joined_tanks_follow_an_independent_solver(bore, below):
    one, other = basins(below=below)
    legs = [FallingLeg(bore, 1.5, 1.0)]
    joint = Joint(one, other, legs)

    def slope(_, held):
        apart = one.surface_m(held[0]) - max(other.surface_m(held[1]), one.floor_m)
        flow = gravity_flow_m3_per_s(head_m=max(0.0, apart), stretches=legs)
        return [-flow, flow]

    times = [60.0, 180.0, 400.0]
    expected = solve_ivp(slope, (0.0, 400.0), [0.05, 0.0], t_eval=times, rtol=1e-7, atol=1e-9,
                         max_step=2.0)  # fmt: skip
    for at, first, second in zip(times, *expected.y, strict=True):
        got = joint.after(0.05, 0.0, at)
        assert got[0] == pytest.approx(first, abs=2e-4)
        assert got[1] == pytest.approx(second, abs=2e-4)
        assert got[0] + got[1] + got[2] == pytest.approx(0.05, abs=1e-12)  # nothing is lost


def test_they_end_level_and_stay():
    one, other = basins()
    joint = Joint(one, other, [FallingLeg(0.019, 1.0)])
    took = joint.level_after_s(0.05, 0.0)
    assert 0.0 < took < inf
    first, second, _ = joint.after(0.05, 0.0, 3600.0)
    assert one.surface_m(first) == pytest.approx(other.surface_m(second), abs=1e-3)
    assert joint.after(first, second, 3600.0)[0] == pytest.approx(first, abs=1e-5)


def test_a_pipe_high_on_the_wall_leaves_what_lies_below_it():
    shape = TankShape(0.5, 0.4, 0.3)
    high = basin_of(shape, volume_m3=0.06, outlet_m=0.0, overflow_m=0.3, floor_m=0.0, port_m=0.15)
    other = basin_of(shape, volume_m3=0.06, outlet_m=0.0, overflow_m=0.3, floor_m=0.0, port_m=0.15)
    first, _, _ = Joint(high, other, [FallingLeg(0.019, 1.0)]).after(0.05, 0.0, 7200.0)
    assert first == pytest.approx(0.03, abs=2e-4)


def test_a_thin_pipe_lets_the_first_run_over_and_dry():
    one, other = basins(below=-0.1)  # both run over at one height
    thin = Joint(one, other, [FallingLeg(0.006, 2.0)])
    wide = Joint(one, other, [FallingLeg(0.032, 1.0)])
    over, full = thin.fills_in_s(12 * LPM)
    assert over < full
    over, full = wide.fills_in_s(12 * LPM)
    assert over == full == pytest.approx(0.09 / (12 * LPM), rel=0.05)
    dry = thin.dry_after_s(8 * LPM)
    assert dry is not None and dry < 0.09 / (8 * LPM)
    assert wide.dry_after_s(4 * LPM) is None


def two_tanks(valve: bool = False, **values: Any) -> System:
    parts = [
        part("tank", "fresh_tank", volume_m3=0.03), part("second", "fresh_tank", volume_m3=0.03),
        pump(), tap(),
    ]  # fmt: skip
    runs = [pipe("tank", "pump"), pipe("pump", "tap")]
    if valve:
        parts.append(part("between", "shut_off"))
        runs += [pipe("tank.second_outlet", "between", bore_m=0.019),
                 pipe("between", "second.second_outlet", bore_m=0.019)]  # fmt: skip
    else:
        runs.append(pipe("tank.second_outlet", "second.second_outlet", bore_m=0.019, **values))
    return network(parts, runs, states=[
        {"id": "open", "name": "Open"},
        {"id": "shut", "name": "Shut", "positions": [{"part": "between", "at": "shut"}]}
        if valve else {"id": "other", "name": "Other"},
    ])  # fmt: skip


def test_joined_tanks_are_found_through_valves_and_stand_apart_when_shut():
    plain, valved = two_tanks(), two_tanks(valve=True)
    assert [(joint.first, joint.second) for joint in tank_joints(plain)] == [("tank", "second")]
    assert tank_joints(valved)[0].valves == ("between",)
    assert tanks_as_one(valved) == (("tank", "second"),)
    assert tanks_as_one(valved, frozenset({"between"})) == ()
    shut = levelling(computed(valved), positions(valved, valved.state("shut")),
                     hose_m3_per_s=10 * LPM, drawn_m3_per_s=5 * LPM)  # fmt: skip
    assert shut[0].shut == "between" and shut[0].level_s is None


def test_a_day_draws_from_both_tanks_as_from_one():
    asked = brief(shower(clock="open", duration_s=600.0, aim="any"), uses=(use(0.001),))
    joined = simulate(asked, two_tanks(), MILD)
    alone = simulate(asked, network(
        [part("tank", "fresh_tank", volume_m3=0.03), pump(), tap()],
        [pipe("tank", "pump"), pipe("pump", "tap")],
    ), MILD)  # fmt: skip
    [well] = joined.setup.reservoirs.reservoirs
    assert well.ids == ("tank", "second") and well.full_kg == pytest.approx(2 * 29.97, rel=1e-3)
    assert joined.draws[0].used_m3 > 1.5 * alone.draws[0].used_m3


def test_an_unmeasured_pipe_is_named():
    [pair] = levelling(
        computed(two_tanks(length_m=None)), {}, hose_m3_per_s=1e-4, drawn_m3_per_s=1e-4
    )
    assert pair.unmeasured and pair.level_s is None
