"""Remedies of the dead leg, mixing strategies, the window of a through-flow heater."""

from __future__ import annotations

import pytest

from isotherma import catalogue
from isotherma.catalogue.demo import drover
from isotherma.catalogue.layouts import layouts
from isotherma.core.cache import Caches
from isotherma.core.errors import ChangeRefused
from isotherma.core.results.mixing_strategies import flow_windows, mixing_strategies
from isotherma.core.results.remedies import dead_leg
from isotherma.core.simulate import simulate
from isotherma.core.system.hot_route import hot_route
from isotherma.core.system.nominal import computed
from isotherma.services.comparisons import (
    Cancelled,
    ComparisonService,
    strategies_of,
    with_strategy,
)
from isotherma.services.long_work import Asker
from tests.support import changed

FRESH_C = 12.0


def setting(project):
    variant = project.variants[0]
    climate = catalogue.climate(project.brief)

    def run(brief, system):
        return simulate(brief, system, climate)

    outcome = run(project.brief, variant.system)
    draw = outcome.draws[0].draw.model_copy(update={"outlet": outcome.draws[0].outlet})
    return project.brief, variant.system, computed(variant.system), draw, run


@pytest.fixture(scope="module")
def box():
    return setting(drover())


@pytest.fixture(scope="module")
def remedies(box):
    brief, system, known, draw, run = box
    return {remedy.id: remedy for remedy in dead_leg(brief, system, known, draw, 900.0, run)}


def test_the_way_goes_back_to_the_heat(box):
    _, _, known, draw, _ = box
    way = hot_route(known, draw.outlet)
    assert way[0].end.part == draw.outlet
    assert way[-1].start.part == "store"
    assert any(run.end.port == "hot" for run in way)


def test_every_cure_does_what_it_is_for(remedies):
    base = remedies["as-is"]
    assert base.wait_s is not None and base.lost_m3 > 1e-4 and base.lost_j > 0.0
    for key in ("shorter", "thinner", "at-outlet"):
        assert (remedies[key].wait_s or 1e9) < base.wait_s
        assert remedies[key].lost_m3 < base.lost_m3
    assert remedies["at-outlet"].lost_m3 < remedies["shorter"].lost_m3
    assert remedies["thinner"].flow_m3_per_s < base.flow_m3_per_s
    assert remedies["insulated"].day_j < 0.0  # less is lost between
    assert remedies["jug"].lost_m3 == 0.0 and remedies["jug"].lost_j == base.lost_j
    assert remedies["diverter"].lost_m3 == remedies["diverter"].lost_j == 0.0
    # a loop is put in where a plumber would, and run
    assert (
        remedies["continuous"].computed
        and remedies["continuous"].day_j > remedies["timed"].day_j > 0.0
    )
    assert (remedies["continuous"].wait_s or 1e9) < base.wait_s


def test_no_pause_no_slug(box, remedies):
    brief, system, known, draw, run = box
    short = draw.model_copy(update={"duration_s": 60.0})  # the store lasts for both
    at_once = dead_leg(brief, system, known, short, 5.0, run)[0]
    later = dead_leg(brief, system, known, short, 1800.0, run)[0]
    assert at_once.lost_m3 < later.lost_m3


def test_a_loop_that_is_there_is_run():
    layout = layouts()["coolant-coil"].project()
    brief, system, known, draw, run = setting(layout)
    short = brief.model_copy(update={"day_start": "cold"})
    found = {remedy.id: remedy for remedy in dead_leg(short, system, known, draw, 900.0, run)}
    assert found["timed"].computed and "button" not in found
    without, pressed = found["without"], found["as-is"]
    assert without.wait_s is not None and pressed.wait_s is not None
    assert pressed.wait_s < 0.75 * without.wait_s  # its return is behind the check valve
    assert found["timed"].day_j > 0.0


def test_schools_differ_as_people_say(box):
    brief, system, known, draw, run = box
    found = {item.id: item for item in mixing_strategies(brief, system, known, draw, FRESH_C, run)}
    assert set(found) >= {"as-is", "nudged", "left", "set-point"}
    assert found["left"].warm_s < found["as-is"].warm_s
    assert found["left"].sag_k > found["as-is"].sag_k
    assert found["set-point"].warm_m3 < found["as-is"].warm_m3
    assert not found["set-point"].scalds and found["as-is"].scalds


def test_without_a_mixer_nothing_is_compared():
    brief, system, known, draw, run = setting(layouts()["mini-store"].project())
    assert mixing_strategies(brief, system, known, draw, FRESH_C, run) == ()


def test_the_window_of_a_gas_heater():
    """6 to 20 kW, set to 42 °C from 10: 6 kW / (32 K c) = 2.7 L/min to 9 L/min."""
    layout = layouts()["cupboard-through-flow"]
    heater = next(part.id for part in layout.system.parts if part.kind == "through_flow_gas")
    built = changed(layout.system, heater, heat_w=20e3, least_w=6e3, set_c=42.0,
                    on_flow_m3_per_s=2.5e-3 / 60, off_flow_m3_per_s=2.0e-3 / 60)  # fmt: skip
    (window,) = flow_windows(computed(built), 10.0)
    assert window.from_m3_per_s * 6e4 == pytest.approx(2.69, abs=0.02)
    assert window.to_m3_per_s * 6e4 == pytest.approx(8.96, abs=0.03)
    inside = [celsius for flow, celsius, burns in window.points
              if window.from_m3_per_s < flow < window.to_m3_per_s and burns]  # fmt: skip
    assert inside and all(celsius == pytest.approx(42.0, abs=0.05) for celsius in inside)
    assert window.hottest_c == pytest.approx(10 + 6e3 / (2e-3 / 60 * 1000 * 4186), abs=0.3)
    assert not window.points[0][2]


def test_two_knobs_have_no_setting_to_hold():
    layout = layouts()["two-knob-selector"]
    (window,) = flow_windows(computed(layout.system), 10.0)
    burning = [celsius for _, celsius, burns in window.points if burns]
    assert burning == sorted(burning, reverse=True)
    assert flow_windows(computed(drover().variants[0].system), 10.0) == ()


def test_a_comparison_ends_when_nobody_waits():
    project = drover()
    variant = project.variants[0]
    asked = []

    def stopped():
        asked.append(1)
        return len(asked) > 2

    comparing = ComparisonService(Caches(10**7))
    draw = project.brief.draws[0].model_copy(update={"outlet": "head"})
    with pytest.raises(Cancelled):
        comparing.compute_dead_leg(project, variant, draw, 900.0, stopped)
    assert len(asked) == 3  # two were run, the third was not
    found = comparing.mixing(project, variant, draw, Asker())
    assert isinstance(found, tuple) and len(found) > 2  # and nothing half is kept
    assert comparing.mixing(project, variant, draw, Asker()) is found  # it needs no run again


def test_a_school_is_put_into_the_project():
    project = drover()
    variant = project.variants[0]
    draw = project.brief.draws[0].model_copy(update={"outlet": "head"})
    ids = [trial.id for trial in strategies_of(project, variant, draw)]
    assert {"nudged", "left", "set-point"} <= set(ids) and "as-is" not in ids
    hand = with_strategy(project, variant.id, draw, "nudged")
    assert next(item for item in hand.brief.draws if item.id == draw.id).nudged
    assert any(part.kind == "manual_mixer" for part in hand.variants[0].system.parts)
    assert hand.variants[1:] == project.variants[1:]
    with pytest.raises(ChangeRefused):
        with_strategy(project, variant.id, draw, "as-is")
