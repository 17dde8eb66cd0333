"""Where it goes: the shares of every budget add up to what the ledger says is taken."""

from __future__ import annotations

import pytest

from isotherma.catalogue.demo import curlew, drover, folio
from isotherma.catalogue.demo_trips import curlew_on_trip, drover_on_trip, folio_on_trip
from isotherma.catalogue.layouts import layouts
from isotherma.core.errors import CoreError
from isotherma.core.results.going import where_it_goes
from isotherma.core.results.outcome import Outcome
from isotherma.core.results.trip import carried_on
from isotherma.services.runs import compute

MADE = [make() for make in (curlew, drover, folio, curlew_on_trip, drover_on_trip, folio_on_trip)]
PROJECTS = [*MADE, *(layout.project() for layout in layouts().values())]


def run(project, place: int = 0) -> Outcome:
    found = compute(project, project.variants[place])
    assert not isinstance(found, CoreError)
    return found


@pytest.mark.parametrize(
    "project", PROJECTS, ids=lambda project: f"{project.name}-{len(project.brief.order)}"
)
def test_shares_add_up_to_what_is_taken_to_a_thousandth(project):
    outcome = run(project)
    carried = carried_on(outcome.course)
    for going in where_it_goes(outcome.course):
        if going.of == "heat":
            balances = [(leg.timeline.balance, leg.days) for leg in outcome.course.legs]
            wanted = sum(
                days * (one.heat_in_j + sum(one.sources_j.values()) + sum(one.bodies_j.values())
                        + one.air_j + one.held_j - one.stored_change_j)
                for one, days in balances
            )  # fmt: skip
        elif going.of == "battery":
            wanted = sum(day.budgets[-1].used for day in outcome.trip.days)
        else:
            wanted = sum(item.total for item in carried if item.budget == going.of)
        assert going.total == pytest.approx(wanted, rel=1e-3), going.of
        assert all(row.amount > 0.0 for row in going.rows if row.code != "from_around"), going.of


def test_equal_days_agree_with_the_ledger_itself():
    outcome = run(folio())
    used = {entry.budget: entry.used for entry in outcome.ledger}
    found = {item.of: item.total for item in where_it_goes(outcome.course)}
    assert found["fresh"] == pytest.approx(used["fresh"], rel=1e-3)
    assert found["diesel"] == pytest.approx(used["diesel"], rel=1e-9)


def test_what_runs_away_cold_stands_apart_from_washing():
    rows = {(row.code, row.path): row for item in where_it_goes(run(drover()).course)
            if item.of == "fresh" for row in item.rows}  # fmt: skip
    cold = rows["waiting", "brief.draws.early-shower"]
    warm = rows["washing", "brief.draws.early-shower"]
    draw = next(item for item in run(drover()).draws if item.draw.id == "early-shower")
    assert cold.amount == pytest.approx(2 * draw.cold_m3)  # on both days
    assert warm.amount + cold.amount == pytest.approx(2 * sum(draw.took_m3.values()), rel=1e-3)


def test_a_leg_counts_as_often_as_it_has_days():
    alike, trip = run(folio()), run(folio_on_trip())
    assert len(trip.legs) > 1
    for outcome in (alike, trip):
        diesel = next(item for item in where_it_goes(outcome.course) if item.of == "diesel")
        assert diesel.total == pytest.approx(
            sum(day.budgets[3].used for day in outcome.trip.days), rel=1e-9
        )
