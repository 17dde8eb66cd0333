"""Levers: each is a run of its own, sorted by what it gains, with what it costs elsewhere."""

from __future__ import annotations

import pytest

from isotherma.catalogue.demo import drover
from isotherma.catalogue.demo_trips import curlew_on_trip, drover_on_trip
from isotherma.core import editing
from isotherma.core.cache import Caches
from isotherma.core.options.changes import What
from isotherma.core.options.levers import LEVERS_AT_MOST, budget_to_stretch, changes_for
from isotherma.files.plain import read_plain, write_plain
from isotherma.services.levers import WRITTEN, LeverService, compute_levers
from isotherma.services.long_work import Asker
from tests.support import computed


@pytest.fixture(scope="module")
def coast():
    project = curlew_on_trip()
    outcome = computed(project, "store")
    return project, outcome, compute_levers(project, project.variants[0], outcome)


def entry_of(outcome, budget):
    return next(entry for entry in outcome.ledger if entry.budget == budget)


def test_levers_are_for_what_ends_first(coast):
    _, outcome, levers = coast
    first = min((entry.ends_on_day for entry in outcome.ledger if entry.ends_on_day), default=None)
    assert levers.budget == budget_to_stretch(outcome) == "battery"
    assert entry_of(outcome, "battery").ends_on_day == first
    assert 0 < len(levers.rows) <= levers.tried <= LEVERS_AT_MOST


def test_every_lever_gains_what_a_run_of_its_own_gains(coast):
    project, outcome, levers = coast
    before = entry_of(outcome, "battery")
    for lever in levers.rows:
        after = computed(editing.set_values(project, dict(lever.change.values)), "store")
        now = entry_of(after, "battery")
        assert lever.spared == pytest.approx(now.margin - before.margin)
        for price in lever.prices:
            one, two = entry_of(outcome, price.budget), entry_of(after, price.budget)
            assert price.more == pytest.approx(two.used - one.used)
    gains = [(lever.days, lever.spared) for lever in levers.rows]
    assert gains == sorted(gains, reverse=True) and all(days > 0 or j > 0 for days, j in gains)


def test_a_fill_on_the_day_it_ends_carries_the_trip_further():
    project = drover()
    outcome = computed(project, "fourteen")
    assert budget_to_stretch(outcome) in ("fresh", "grey")
    levers = compute_levers(project, project.variant("fourteen"), outcome)
    fill = next(lever for lever in levers.rows if lever.change.what is What.FILL)
    assert fill.days >= 1 and not fill.breaks
    tank = next(lever for lever in levers.rows if lever.change.what in (What.TANK, What.GREY))
    assert tank.spared > 0.0


def test_a_lever_that_makes_a_draw_fail_says_so():
    hot = editing.set_values(drover(), {"brief.draws.early-shower.low_c": 39.0})
    outcome = computed(hot, "fourteen")
    levers = compute_levers(hot, hot.variant("fourteen"), outcome)
    for lever in levers.rows:
        after = computed(editing.set_values(hot, dict(lever.change.values)), "fourteen")
        now = {draw.draw.name for draw in after.draws if not draw.met}
        was = {draw.draw.name for draw in outcome.draws if not draw.met}
        assert set(lever.breaks) == now - was and set(lever.mends) == was - now


@pytest.fixture(scope="module")
def litres():
    project = drover()
    outcome = computed(project, "ten-litres")
    return project, outcome, compute_levers(project, project.variants[0], outcome)


def test_the_cold_water_before_a_draw_is_caught_sent_back_or_less(litres):
    _, outcome, levers = litres
    found = {lever.change.what: lever for lever in levers.rows}
    assert {What.JUG, What.DIVERTER, What.PIPE} <= set(found)
    cold = sum(draw.cold_m3 for draw in outcome.draws)
    days = outcome.course.days
    jug = found[What.JUG]
    assert jug.spared == pytest.approx(min(cold, float(jug.change.after)) * days, rel=1e-6)
    assert all(path.startswith("brief.uses.") for path in jug.change.values)
    diverter = found[What.DIVERTER]
    assert diverter.change.edit == "diverter.place" and not diverter.change.values
    assert 0.0 < diverter.spared <= cold * days * 2.0
    pipe = found[What.PIPE]
    sizes = set(pipe.change.values.values())
    assert sizes and all(path.endswith(".nominal") for path in pipe.change.values)
    assert pipe.change.after in sizes and pipe.change.before != pipe.change.after


def test_nothing_is_caught_where_nobody_could_use_it(litres):
    project, outcome, _ = litres
    thirsty = editing.set_values(project, {"brief.uses": ()})
    variant = thirsty.variants[0]
    whats = [change.what for change in changes_for(thirsty, variant, outcome, "fresh")]
    assert What.JUG not in whats and What.DIVERTER in whats
    assert What.JUG not in [
        change.what for change in changes_for(project, variant, outcome, "mains")
    ]


def test_levers_are_kept_as_they_were_found(coast):
    project, outcome, levers = coast
    assert read_plain(write_plain(levers), WRITTEN) == levers
    service = LeverService(Caches(1_000_000))
    assert service.levers(project, project.variants[0], outcome, Asker()) == levers


def test_of_a_trip_that_lasts_the_nearest_budget_is_stretched():
    project = drover_on_trip()
    outcome = computed(project, "fourteen")
    assert outcome.trip.failure is None
    budget = budget_to_stretch(outcome)
    assert budget == "grey"
    names = [change.what for change in changes_for(project, project.variant("fourteen"), outcome,
                                                   budget)]  # fmt: skip
    assert What.FLOW in names and What.MINUTES in names and What.FILL in names
