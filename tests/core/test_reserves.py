"""What is kept back counts as not there; what does not matter neither limits nor ends a trip."""

from __future__ import annotations

import pytest
from pydantic import ValidationError

from isotherma.catalogue.demo import drover
from isotherma.catalogue.demo_trips import curlew_on_trip, drover_on_trip, folio_on_trip
from isotherma.catalogue.layouts import layouts
from isotherma.core import editing
from isotherma.core.results.draws import WhyNot
from isotherma.core.results.levels import level_bands, level_lines
from tests.support import computed


def entry(outcome, budget):
    return next(one for one in outcome.ledger if one.budget == budget)


def with_budgets(project, **values):
    return editing.set_values(
        project, {f"brief.budgets.{name}": value for name, value in values.items()}
    )


CASES = {
    "fresh": (drover, "ten-litres"), "grey": (drover, "ten-litres"), "gas": (drover, "ten-litres"),
    "diesel": (folio_on_trip, "button"), "battery": (curlew_on_trip, "store"),
}  # fmt: skip


@pytest.mark.parametrize("budget", CASES)
def test_a_fifth_kept_back_leaves_four_fifths(budget):
    make, variant = CASES[budget]
    plain = with_budgets(make(), **{f"{budget}_reserve": 0.0})
    kept = with_budgets(make(), **{f"{budget}_reserve": 0.2})
    before, after = computed(plain, variant), computed(kept, variant)
    assert entry(after, budget).limit == pytest.approx(0.8 * entry(before, budget).limit, rel=1e-6)
    for other in ("fresh", "grey", "gas", "diesel", "battery"):
        if other != budget:
            assert entry(after, other).limit == pytest.approx(entry(before, other).limit)


def test_an_entered_reserve_of_nothing_wins_over_the_share_for_all():
    base = editing.set_values(drover(), {"brief.reserve": 0.25})
    said = with_budgets(base, fresh_reserve=0.0)
    assert base.brief.reserve_of("fresh") == 0.25 == base.brief.reserve_of("gas")
    assert base.brief.reserve_of("grey") == 0.0 == base.brief.reserve_of("battery")
    assert said.brief.reserve_of("fresh") == 0.0 and said.brief.reserve_of("gas") == 0.25
    one, two = computed(base, "ten-litres"), computed(said, "ten-litres")
    assert entry(two, "fresh").limit == pytest.approx(entry(one, "fresh").limit / 0.75)


def test_fuel_that_is_kept_back_is_not_burnt_on_the_last_day():
    """The trip ends at the reserve, and the engine finds none beyond it."""
    plain = computed(folio_on_trip(), "button")
    assert entry(plain, "diesel").limit is not None
    kept = computed(with_budgets(folio_on_trip(), diesel_reserve=0.5), "button")
    full = plain.course.legs[0].setup.full.diesel_m3
    assert full is not None
    assert kept.course.legs[0].setup.full.diesel_m3 == pytest.approx(0.5 * full)


@pytest.mark.parametrize("budget", ["fresh", "grey", "battery"])
def test_what_does_not_matter_ends_nothing_and_has_no_line(budget):
    make, variant = (curlew_on_trip, "store") if budget == "battery" else (drover, "fourteen")
    before = computed(make(), variant)
    after = computed(with_budgets(make(), ignored=(budget,)), variant)
    found = entry(after, budget)
    assert (found.limit, found.ends_on_day, found.binds) == (None, None, False)
    assert found.used == pytest.approx(entry(before, budget).used, rel=0.05)
    assert budget not in {line.budget for line in level_lines(after.course)}
    assert after.trip.failure is None or after.trip.failure.budget != budget
    assert all(stop.budget != budget for stop in after.trip.needed)
    others = {line.budget for line in level_lines(before.course)} - {budget}
    assert others == {line.budget for line in level_lines(after.course)}


def test_a_wait_that_does_not_matter_spoils_no_draw():
    short = with_budgets(drover(), longest_wait_s=2.0)
    assert WhyNot.LONG_WAIT in {draw.why_not for draw in computed(short, "ten-litres").draws}
    never = with_budgets(short, ignored=("waiting",))
    found = computed(never, "ten-litres")
    assert WhyNot.LONG_WAIT not in {draw.why_not for draw in found.draws}
    assert entry(found, "waiting").limit is None and never.brief.budgets.longest_wait_s == 2.0


def test_nothing_is_named_twice():
    with pytest.raises(ValidationError):
        with_budgets(drover(), ignored=("fresh", "fresh"))


def test_the_demos_limits_are_as_they_were():
    """Nothing is kept back or left aside where nobody says so."""
    for make in (drover_on_trip, folio_on_trip, curlew_on_trip):
        budgets = make().brief.budgets
        assert budgets.ignored == ()
        assert all(
            getattr(budgets, f"{name}_reserve") is None
            for name in ("fresh", "grey", "gas", "diesel", "battery")
        )


# --- bands ---


@pytest.mark.parametrize("make", [drover_on_trip, folio_on_trip, curlew_on_trip])
def test_a_band_of_nothing_is_the_line_and_a_wide_one_holds_it(make):
    project = make()
    course = computed(project, project.variants[0].id).course
    lines = {(line.budget, line.label): line for line in level_lines(course)}
    budgets = {line.budget for line in lines.values()}
    for band in level_bands(course, dict.fromkeys(budgets, (1.0, 1.0, 1.0, 1.0))):
        line = lines[band.budget, band.label]
        for (at, low), (_, high), (when, level) in zip(
            band.low, band.high, line.points, strict=True
        ):
            assert at == when
            assert low == pytest.approx(level, abs=1e-6 * line.limit) == high
    wide = level_bands(course, dict.fromkeys(budgets, (0.9, 1.1, 0.95, 1.05)))
    assert {(band.budget, band.label) for band in wide} == set(lines)
    for band in wide:
        line = lines[band.budget, band.label]
        pairs = zip(band.low, band.high, line.points, strict=True)
        slack = 1e-9 * line.limit
        assert all(low - slack <= level <= high + slack
                   for (_, low), (_, high), (_, level) in pairs)  # fmt: skip
        assert band.least[0] <= line.least <= band.least[1]


def test_a_budget_without_factors_has_no_band():
    course = computed(drover(), "ten-litres").course
    assert level_bands(course, {}) == ()
    assert [band.budget for band in level_bands(course, {"fresh": (0.9, 1.1, 1.0, 1.0)})] == [
        "fresh"
    ]


def test_every_layout_may_keep_back_everything():
    """All of it kept back: the first draw finds nothing, and nothing breaks."""
    for key in ("mini-store", "hung-outside", "gravity-only"):
        if key in layouts():
            project = with_budgets(layouts()[key].project(), fresh_reserve=1.0)
            found = computed(project, project.variants[0].id)
            assert not any(draw.met for draw in found.draws)
