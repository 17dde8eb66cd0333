"""Through one day: loads add up to what the trip takes, the battery is followed over edges."""

from __future__ import annotations

from itertools import pairwise

import pytest

from isotherma.catalogue.demo import drover
from isotherma.catalogue.demo_trips import curlew_on_trip, drover_on_trip, folio_on_trip
from isotherma.catalogue.layouts import layouts
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
