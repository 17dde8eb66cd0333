"""Kinds of day, their order and their stops, edited."""

from __future__ import annotations

import pytest

from isotherma.catalogue.demo import drover, folio
from isotherma.catalogue.demo_trips import curlew_on_trip, drover_on_trip, folio_on_trip
from isotherma.catalogue.trips import trips
from isotherma.core import editing
from isotherma.core.errors import ChangeRefused
from isotherma.core.results.outcome import Outcome
from isotherma.services.edits import read_edit
from isotherma.services.runs import compute


def test_the_first_kind_of_day_is_of_every_day():
    project = editing.add_day_kind(drover())
    assert project.brief.order == ("day-1",) * 2 and project.brief.trip_days == 2
    more = editing.add_day_kind(project, "day-1")
    assert more.brief.order == ("day-1", "day-1", more.brief.day_kinds[1].id)
    assert editing.remove_day_kind(more, "day-1").brief.trip_days == 1
    none = editing.remove_day_kind(project, "day-1")
    assert none.brief.order == () and none.brief.trip_days == drover().brief.days


def test_stops_come_and_go():
    project = editing.add_day_kind(drover())
    filled = editing.add_stop(project, "day-1", "fill fresh")
    twice = editing.add_stop(filled, "day-1", "fill fresh")
    assert [stop.id for stop in twice.brief.kind("day-1").stops] == ["fill-fresh", "fill-fresh-2"]
    assert editing.remove_stop(twice, "day-1", "fill-fresh-2") == filled
    for wrong in (("gone", "fill-fresh"), ("day-1", "gone")):
        with pytest.raises(ChangeRefused):
            editing.remove_stop(filled, *wrong)
    with pytest.raises(ChangeRefused):
        editing.add_stop(project, "gone", "fill fresh")


def test_a_stop_is_planned_on_one_day_and_not_on_the_others_of_its_kind():
    project = editing.plan_stop(folio(), 3, "fill fresh")
    order = project.brief.order
    assert len(order) == 10 and order.count(order[2]) == 1 and order.count(order[0]) == 9
    again = editing.plan_stop(project, 5, "fill fresh")
    assert again.brief.order[4] == again.brief.order[2]  # the same kind of day serves both
    assert len(again.brief.day_kinds) == 2
    both = editing.plan_stop(again, 3, "empty grey")
    kind = both.brief.kind(both.brief.order[2])
    assert [stop.what for stop in kind.stops] == ["fill fresh", "empty grey"]
    for day in (0, 11):
        with pytest.raises(ChangeRefused):
            editing.plan_stop(project, day, "fill fresh")


def test_what_is_left_out_is_forgotten_when_it_goes():
    project = editing.add_day_kind(drover())
    draw, use = project.brief.draws[0].id, project.brief.uses[0].id
    left = editing.set_values(project, {
        "brief.day_kinds.day-1.without_draws": (draw,),
        "brief.day_kinds.day-1.without_uses": (use,),
    })  # fmt: skip
    gone = editing.remove_use(editing.remove_draw(left, draw), use)
    assert gone.brief.kind("day-1").without_draws == ()
    assert gone.brief.kind("day-1").without_uses == ()


@pytest.mark.parametrize("preset", trips())
def test_every_trip_of_the_catalogue_can_be_begun_with(preset):
    edit = read_edit("trip.lay", {"preset": preset})
    project = edit.apply(drover(), "ten-litres")
    assert project.brief.order == trips()[preset].order and edit.subject == trips()[preset].name
    assert isinstance(compute(project, project.variants[1]), Outcome)
    alike = read_edit("trip.lay", {"preset": ""}).apply(project, "ten-litres")
    assert alike == drover()


def test_a_trip_nobody_knows_is_refused():
    with pytest.raises(ChangeRefused):
        read_edit("trip.lay", {"preset": "gone"}).apply(drover(), "ten-litres")


@pytest.mark.parametrize("make", [folio_on_trip, drover_on_trip, curlew_on_trip])
def test_each_demo_has_a_variant_that_does_its_trip_and_one_that_does_not(make):
    """With the stops that are planned, and without a word of a budget that is short."""
    project = make()
    found = [compute(project, variant) for variant in project.variants]
    failing = [outcome.trip.failure for outcome in found if isinstance(outcome, Outcome)]
    assert len(failing) == len(found)
    assert any(fails is None for fails in failing)
    assert any(fails is not None for fails in failing)
