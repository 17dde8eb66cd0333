"""Through one day: loads add up to what the trip takes, the battery is followed over edges."""

from __future__ import annotations

from itertools import pairwise

import pytest

from isotherma.catalogue.demo import drover
from isotherma.catalogue.demo_trips import curlew_on_trip, drover_on_trip, folio_on_trip
from isotherma.catalogue.layouts import layouts
from isotherma.core import editing
from isotherma.core.results.through_day import DayPower, Load, through_day
from isotherma.services.runs import compute
from tests.support import computed

DEMOS = {"drover": drover_on_trip, "folio": folio_on_trip, "curlew": curlew_on_trip}


def joules(power: DayPower, loads: tuple[Load, ...]) -> float:
    spans = [end - start for start, end in pairwise(power.edges)]
    return sum(
        watts * span for load in loads for watts, span in zip(load.watts, spans, strict=True)
    )


@pytest.mark.parametrize("name", DEMOS)
def test_loads_of_every_day_add_up_to_what_the_trip_takes(name):
    project = DEMOS[name]()
    for variant in project.variants[:2]:
        outcome = computed(project, variant.id)
        for day in outcome.trip.days:
            power = through_day(outcome.course, day.number)
            used = {row.budget: row.used for row in day.budgets}
            assert joules(power, power.battery) == pytest.approx(used["battery"], rel=1e-3, abs=1.0)
            assert joules(power, power.mains) == pytest.approx(used["mains"], rel=1e-3, abs=1.0)
            assert power.edges[0] == 0.0 and power.edges[-1] == pytest.approx(86400.0)
            level = next(row.level for row in day.budgets if row.budget == "battery")
            if power.level is None:
                assert level is None
            else:
                assert len(power.level) == len(power.edges)
                assert power.level[-1] == pytest.approx(level, abs=1.0)


@pytest.mark.parametrize("name", ["folio", "curlew"])
def test_a_day_begins_as_the_one_before_ended(name):
    project = DEMOS[name]()
    outcome = computed(project, project.variants[0].id)
    days = [through_day(outcome.course, day.number) for day in outcome.trip.days]
    full = days[0].full_j
    assert full is not None and days[0].level is not None and days[0].level[0] == full
    for one, two in pairwise(days):
        assert one.level is not None and two.level is not None
        assert two.level[0] == pytest.approx(one.level[-1], abs=1.0)


@pytest.mark.parametrize("key", layouts())
def test_every_layout_has_a_day_to_look_at(key):
    project = layouts()[key].project()
    outcome = compute(project, project.variants[0])
    if hasattr(outcome, "course"):
        power = through_day(outcome.course, 1)
        assert all(watts >= 0.0 for load in (*power.battery, *power.mains) for watts in load.watts)
        assert all(load.most_w > 0.0 for load in (*power.battery, *power.mains))


def test_the_hook_up_says_what_it_gives_and_what_is_taken():
    project = layouts()["mini-store"].project()
    power = through_day(computed(project, project.variants[0].id).course, 1)
    assert power.plugged_a == pytest.approx(6.0)
    assert 0.0 < power.most_mains_a <= 500.0 / 230.0 * 1.01
    equal = computed(drover(), "ten-litres")
    assert through_day(equal.course, 2).edges == through_day(equal.course, 1).edges


@pytest.mark.parametrize("key", ["gas-combi", "cupboard-through-flow", "pitch-store"])
def test_the_bottle_is_followed_over_the_hours(key):
    """It begins full, loses what the day burns, and its flame lasts no longer when colder."""
    project = layouts()[key].project()
    outcome = computed(project, project.variants[0].id)
    bottle = through_day(outcome.course, 1).bottle
    assert bottle is not None
    edges = len(through_day(outcome.course, 1).edges)
    assert len(bottle.gas_kg) == len(bottle.pressure_pa) == len(bottle.flame_s) == edges
    assert list(bottle.gas_kg) == sorted(bottle.gas_kg, reverse=True)
    taken = next(row.used for row in outcome.trip.days[0].budgets if row.budget == "gas")
    assert bottle.gas_kg[0] - bottle.gas_kg[-1] == pytest.approx(taken, rel=1e-3)
    assert all(pressure > 0.9e5 for pressure in bottle.pressure_pa)
    cold = editing.set_values(project, {"brief.air_c": (-15.0,) * 12})
    frost = through_day(computed(cold, cold.variants[0].id).course, 1).bottle
    assert frost is not None and min(frost.pressure_pa) < min(bottle.pressure_pa)


def test_the_bottle_of_the_second_day_begins_as_the_first_left_it():
    project = editing.set_values(layouts()["gas-combi"].project(), {"brief.days": 3})
    course = computed(project, project.variants[0].id).course
    one, two = (through_day(course, number).bottle for number in (1, 2))
    assert one is not None and two is not None
    assert two.gas_kg[0] == pytest.approx(one.gas_kg[-1], rel=1e-6)
    assert two.celsius[0] == pytest.approx(one.celsius[-1], abs=1e-6)


def test_without_a_bottle_there_is_none_to_follow():
    project = layouts()["mini-store"].project()
    assert through_day(computed(project, project.variants[0].id).course, 1).bottle is None


def test_who_finds_too_little_of_the_hook_up_waits_and_says_when():
    """Two elements on one pitch that carries one of them: the second waits, the first does not."""
    project = layouts()["pitch-store"].project()
    variant = project.variants[0]
    element = next(part for part in variant.system.parts if part.kind == "element")
    at = f"variants.{variant.id}.system.parts"
    hook = next(part for part in variant.system.parts if part.kind == "hook_up")
    weak = editing.set_values(
        project, {f"{at}.{hook.id}.amps_a": 1.0, f"{at}.{element.id}.power_w": 800.0,
                  "brief.day_start": "cold"},
    )  # fmt: skip
    found = through_day(computed(weak, variant.id).course, 1)
    assert [row.label for row in found.waits] == [element.label]
    spans = found.waits[0].spans
    assert spans and all(start < end <= 86400.0 + 1e-6 for start, end in spans)
    assert list(spans) == sorted(spans)
    ample = editing.set_values(weak, {f"{at}.{hook.id}.amps_a": 16.0})
    assert through_day(computed(ample, variant.id).course, 1).waits == ()


def test_loads_on_the_hook_up_stand_in_the_order_they_are_served():
    project = drover_on_trip()
    outcome = computed(project, project.variants[0].id)
    order = [source.id for source in outcome.course.legs[0].timeline.sources]
    for day in outcome.trip.days:
        ids = [load.id for load in through_day(outcome.course, day.number).mains]
        served = [key for key in ids if key in order]
        assert served == sorted(served, key=order.index)
