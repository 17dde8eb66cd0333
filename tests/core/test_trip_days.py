"""Trips of unlike days: kinds of day, their order, the stops, what fails first, what is needed."""

from __future__ import annotations

import pickle
from functools import cache
from typing import Any

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from pydantic import ValidationError

from isotherma import catalogue
from isotherma.catalogue.demo import drover, folio
from isotherma.catalogue.layouts import layouts
from isotherma.core.brief import Brief
from isotherma.core.brief.days import DayKind, ServiceStop
from isotherma.core.climate import Climate
from isotherma.core.errors import CoreError
from isotherma.core.project import Project
from isotherma.core.results.following import Filling, Taking, follow, needed
from isotherma.core.results.outcome import Outcome
from isotherma.core.setup import Setup
from isotherma.core.setup.day_kinds import Documents
from isotherma.core.simulate import last_day, measured, simulate
from isotherma.services.runs import compute

AT_NOON, AT_FIVE = 12 * 3600.0, 17 * 3600.0
PLAIN = DayKind(id="plain", name="Plain")
FILL = ServiceStop(id="fill", what="fill fresh", at_s=AT_FIVE)
EMPTY = ServiceStop(id="empty", what="empty grey", at_s=AT_FIVE)


def ordered(project: Project, kinds: tuple[DayKind, ...], *order: str, **values: Any) -> Project:
    """The same vehicle on a trip of these days."""
    data = {**project.brief.model_dump(), "day_kinds": kinds, "order": order, **values}
    return project.model_copy(update={"brief": Brief.model_validate(data)})


def run_trip(project: Project) -> Outcome:
    found = compute(project, project.variants[0])
    assert not isinstance(found, CoreError), found
    return found


@cache
def folio_days(*order: str) -> Outcome:
    kinds = (
        PLAIN,
        DayKind(id="road", name="Road", drive_s=3 * 3600.0, stops=(FILL, EMPTY)),
        DayKind(id="dark", name="Dark", sun="dark", warmer_k=-6.0),
        DayKind(id="rest", name="Rest", share=0.5),
        DayKind(id="filled", name="Filled", stops=(
            ServiceStop(id="fill", what="fill fresh"), ServiceStop(id="empty", what="empty grey"),
        )),
    )  # fmt: skip
    return run_trip(ordered(folio(), kinds, *order))


def entry(outcome: Outcome, budget: str):
    return next(item for item in outcome.ledger if item.budget == budget)


# --- the document ---


@pytest.mark.parametrize(
    ("values", "code"),
    [
        ({"order": ("gone",)}, "not_in_brief"),
        ({"day_kinds": (PLAIN, PLAIN)}, "same_id"),
        ({"day_kinds": (PLAIN.model_copy(update={"without_draws": ("gone",)}),)}, "not_in_brief"),
        ({"day_kinds": (PLAIN.model_copy(update={"without_uses": ("gone",)}),)}, "not_in_brief"),
        ({"day_kinds": ({"id": "a", "name": "A", "stops": (FILL, FILL)},)}, "same_id"),
        ({"order": ("plain",) * 61, "day_kinds": (PLAIN,)}, "too_long"),
    ],
)
def test_an_order_that_cannot_be_is_refused(values, code):
    with pytest.raises(ValidationError) as error:
        Brief.model_validate(values)
    assert code in {item["type"] for item in error.value.errors()}


def test_a_trip_is_as_long_as_its_order_and_of_one_kind_only_where_all_are():
    brief = Brief(days=4, day_kinds=(PLAIN, DayKind(id="b", name="B")), order=("plain", "b"))
    assert brief.trip_days == 2 and brief.unlike and brief.today is None
    same = brief.model_copy(update={"order": ("b", "b", "b")})
    assert same.trip_days == 3 and not same.unlike and same.today == brief.kind("b")
    assert Brief(days=4).trip_days == 4 and Brief(days=4).today is None


# --- laws ---


@pytest.mark.parametrize("name", layouts())
def test_days_of_a_kind_that_says_nothing_are_equal_days_to_the_bit(name):
    project = layouts()[name].project()
    plain = run_trip(project)
    days = project.brief.days
    same = run_trip(ordered(project, (PLAIN,), *("plain",) * days))
    assert np.array_equal(plain.timeline.log, same.timeline.log, equal_nan=True)
    assert plain.ledger == same.ledger
    assert plain.timeline.balance == same.timeline.balance


def test_two_kinds_that_say_nothing_take_what_equal_days_take():
    other = PLAIN.model_copy(update={"id": "other"})
    equal = run_trip(folio())
    mixed = run_trip(ordered(folio(), (PLAIN, other), *("plain", "other") * 5))
    for one, two in zip(equal.ledger, mixed.ledger, strict=True):
        if one.budget not in ("warmth", "waiting"):
            assert two.used == pytest.approx(one.used, rel=2e-3, abs=1e-9), one.budget
            assert two.ends_on_day == one.ends_on_day


def test_alike_days_in_a_row_are_run_until_they_end_as_they_began():
    outcome = folio_days("plain", "dark", "dark", "dark", "dark", "plain")
    assert (outcome.legs[0].kind, outcome.legs[0].last) == ("plain", 1)
    assert outcome.legs[-1].last == 6 and len(outcome.legs) < 6
    numbers = [number for leg in outcome.legs for number in range(leg.first, leg.last + 1)]
    assert numbers == [1, 2, 3, 4, 5, 6]


def test_energy_and_water_add_up_on_every_day():
    for leg in folio_days("plain", "dark", "road", "rest", "plain").legs:
        assert leg.timeline.balance.energy_error_share < 1e-3
        assert leg.timeline.balance.water_error_share < 1e-3


def test_a_trip_that_was_run_is_measured_again_the_same():
    outcome = folio_days("plain", "road", "dark")
    project = folio()
    documents = Documents(
        Brief.model_validate({
            **project.brief.model_dump(), "day_kinds": (
                PLAIN,
                DayKind(id="road", name="Road", drive_s=3 * 3600.0, stops=(FILL, EMPTY)),
                DayKind(id="dark", name="Dark", sun="dark", warmer_k=-6.0),
            ), "order": ("plain", "road", "dark"),
        }),
        project.variants[0].system, project.variants[0].standing, catalogue.climate(project.brief),
    )  # fmt: skip
    again = measured(documents, outcome.days_run)
    assert again.ledger == outcome.ledger and again.number == outcome.number
    kept = pickle.loads(pickle.dumps(outcome))
    assert kept.trip == outcome.trip and kept.ledger == outcome.ledger


def test_sums_of_the_days_are_the_ledger():
    outcome = folio_days("plain", "dark", "rest", "dark", "plain")
    for budget in ("fresh", "grey", "diesel"):
        total = sum(row.used for day in outcome.trip.days for row in day.budgets
                    if row.budget == budget)  # fmt: skip
        assert total == pytest.approx(entry(outcome, budget).used, rel=1e-9)


def test_half_of_everything_takes_about_half_and_nothing_takes_nothing():
    whole, half = (folio_days(kind, "dark") for kind in ("plain", "rest"))
    used = [outcome.trip.days[0].budgets[0].used for outcome in (whole, half)]
    assert used[1] == pytest.approx(0.5 * used[0], rel=0.05)
    none = run_trip(ordered(folio(), (PLAIN, DayKind(id="none", name="None", share=0.0)),
                            "plain", "none"))  # fmt: skip
    assert none.trip.days[1].budgets[0].used == 0.0 and none.trip.days[1].draws == 0


def test_what_is_left_out_does_not_happen():
    project = folio()
    draw, use = project.brief.draws[0], project.brief.uses[0]
    few = DayKind(id="few", name="Few", without_draws=(draw.id,), without_uses=(use.id,))
    outcome = run_trip(ordered(project, (PLAIN, few), "few", "plain"))
    one, other = outcome.course.leg(1), outcome.course.leg(2)
    assert {item.draw.id for item in one.draws} == {d.id for d in project.brief.draws} - {draw.id}
    gone = other.draws[0].used_m3 + use.day_m3
    fresh = [day.budgets[0].used for day in outcome.trip.days]
    assert fresh[1] - fresh[0] == pytest.approx(gone, rel=0.02)


# --- what carried things do ---


def test_a_fill_on_the_day_it_ends_carries_the_trip_to_the_next_limit():
    bare = folio_days(*("plain",) * 4, "dark")
    assert bare.trip.failure is not None
    days = ["plain"] * 4 + ["dark"]
    days[bare.trip.failure.day - 1] = "filled"
    filled = folio_days(*days)
    assert filled.trip.failure is None or filled.trip.failure.day > bare.trip.failure.day
    assert [(stop.budget, stop.day) for stop in filled.trip.stops if stop.planned] == [
        ("fresh", bare.trip.failure.day), ("grey", bare.trip.failure.day),
    ]  # fmt: skip


def test_the_stops_it_needs_carry_it():
    bare = folio_days(*("plain",) * 5, "dark")
    wanted = {(stop.budget, stop.day) for stop in bare.trip.needed}
    assert {budget for budget, _ in wanted} == {"fresh", "grey"} and not bare.trip.hopeless
    # the same stops, planned: nothing more is needed
    kinds, order = [PLAIN], []
    for number in range(1, 7):
        stops = tuple(
            ServiceStop(id=budget, what="fill fresh" if budget == "fresh" else "empty grey")
            for budget, day in sorted(wanted)
            if day == number
        )
        kind = DayKind(id=f"day-{number}", name=f"Day {number}", stops=stops)
        kinds.append(
            kind if number < 6 else kind.model_copy(update={"sun": "dark", "warmer_k": -6.0})
        )
        order.append(kind.id)
    planned = run_trip(ordered(folio(), tuple(kinds), *order))
    assert not planned.trip.needed
    assert entry(planned, "fresh").ends_on_day is None
    assert entry(planned, "grey").ends_on_day is None and entry(planned, "fresh").filled


def test_the_battery_is_followed_from_day_to_day():
    outcome = folio_days("plain", "dark", "plain", "dark")
    levels = [day.budgets[-1].level for day in outcome.trip.days]
    used = [day.budgets[-1].used for day in outcome.trip.days]
    assert levels[0] is not None and levels[1] is not None
    assert levels[1] == pytest.approx(max(0.0, levels[0] - used[1]), rel=1e-6)


@given(
    limit=st.floats(10.0, 200.0),
    takes=st.lists(st.floats(0.0, 120.0), min_size=1, max_size=8),
    day=st.integers(1, 8),
    at_s=st.floats(0.0, 86399.0),
    up_to=st.one_of(st.none(), st.floats(0.0, 250.0)),
)
def test_a_stop_never_brings_the_end_nearer_and_a_fill_of_nothing_changes_nothing(
    limit, takes, day, at_s, up_to
):
    takings = [Taking(amount) for amount in takes]
    bare = follow(limit, takings, {})
    filled = follow(limit, takings, {day: [Filling(at_s, up_to=up_to)]})
    assert filled.ends is None or (bare.ends is not None and filled.ends >= bare.ends)
    assert follow(limit, takings, {day: [Filling(at_s, up_to=0.0)]}).levels == pytest.approx(
        bare.levels
    )
    assert follow(limit, takings, {day: [Filling(at_s, adds=0.0)]}).ends == bare.ends
    brought = sum(item.amount for item in filled.filled)
    owed_before = -min(0.0, bare.levels[-1])
    assert filled.levels[-1] <= limit + 1e-9
    assert brought <= limit + 1e-9 and owed_before >= 0.0


@given(
    limit=st.floats(20.0, 200.0),
    takes=st.lists(st.floats(0.0, 150.0), min_size=1, max_size=8),
)
@settings(max_examples=200)
def test_the_stops_that_are_needed_are_enough_or_a_day_takes_more_than_there_is(limit, takes):
    takings = [Taking(amount) for amount in takes]
    stops, enough = needed(limit, takings, {})
    made = {stop.day: [Filling(stop.at_s)] for stop in stops}
    assert (follow(limit, takings, made).ends is None) == enough
    assert enough == (max(takes) <= limit * (1 + 1e-9))


def test_what_a_day_takes_by_an_hour():
    taking = Taking(34.0, ((3600.0, 7200.0, 10.0),))
    assert taking.before(3600.0) == pytest.approx(1.0)  # 24 evenly over the day, an hour of it
    assert taking.before(7200.0) == pytest.approx(12.0)
    assert taking.when(6.5) == pytest.approx(5400.0, abs=1.0)
    assert taking.before(90000.0) == 34.0


# --- a day of its kind ---


def on(kind: DayKind, project: Project | None = None) -> Setup:
    project = project or drover()
    documents = Documents(
        project.brief, project.variants[0].system, project.variants[0].standing,
        catalogue.climate(project.brief),
    )  # fmt: skip
    return documents.on(kind, 1).setup()


def test_the_hook_up_of_a_day_has_its_hours_and_its_amps():
    kind = DayKind(id="night", name="Night", hook_up="plugged in", hook_up_a=6.0,
                   plugged_from_s=18 * 3600.0, plugged_until_s=9 * 3600.0)  # fmt: skip
    hours = on(kind, folio()).hours
    assert [hours.plugged_at(clock * 3600.0) for clock in (0, 8.9, 9.1, 17.9, 18.1, 23)] == [
        True, True, False, False, True, True,
    ]  # fmt: skip
    limit_w = hours.pitch_limit_w()
    assert limit_w is not None and limit_w == pytest.approx(6 * 230.0)
    assert hours.next_edge_s(17.8 * 3600.0) == 18 * 3600.0
    gone = on(DayKind(id="wild", name="Wild", hook_up="none"), folio()).hours
    assert not gone.plugged and gone.pitch_limit_w() is None
    # Drover draws no hook-up: its element takes from the mains of the day's pitch all the same
    undrawn = on(kind).hours
    assert undrawn.pitch_limit_w() == pytest.approx(6 * 230.0)


def test_an_element_on_the_pitch_runs_only_in_its_hours():
    kind = DayKind(id="night", name="Night", hook_up="plugged in",
                   plugged_from_s=20 * 3600.0, plugged_until_s=6 * 3600.0)  # fmt: skip
    project = ordered(drover(), (kind, PLAIN), "night", "plain")
    row = run_trip(project).course.leg(1).timeline
    element = [
        sum(stretch.sources_j.get(key, 0.0) for key in stretch.sources_j if "element" in key)
        for stretch in row.stretches
        if 7 * 3600.0 <= stretch.start_s < 19 * 3600.0
    ]
    assert element and max(element) == 0.0


def test_driving_sun_and_air_are_those_of_the_day():
    kind = DayKind(id="road", name="Road", drive_s=2 * 3600.0, drive_start_s=AT_NOON,
                   again_s=1800.0, again_start_s=AT_FIVE, sun="clear", warmer_k=4.0,
                   inside_c=12.0)  # fmt: skip
    setup, plain = on(kind), on(PLAIN)
    assert setup.hours.drives == ((AT_NOON, AT_NOON + 7200.0), (AT_FIVE, AT_FIVE + 1800.0))
    assert setup.climate.air_c == pytest.approx(plain.climate.air_c + 4.0)
    assert setup.climate.sun_j_per_m2 > plain.climate.sun_j_per_m2
    assert setup.brief.inside_c == 12.0
    assert on(DayKind(id="still", name="Still", drive_s=0.0)).hours.drives == ()


@pytest.mark.parametrize("region", catalogue.regions(), ids=lambda region: region.id)
def test_a_dark_day_has_less_sun_than_the_average_and_a_clear_one_more(region):
    rows = zip(region.dark_kwh_per_m2, region.sun_kwh_per_m2, region.clear_kwh_per_m2, strict=True)
    assert all(dark < mean < clear for dark, mean, clear in rows)


def test_a_climate_nobody_knows_more_of_shines_alike():
    mild = Climate(region="x", month=6, air_c=10.0, swing_k=4.0, sun_j_per_m2=1e6)
    assert mild.on("clear", 0.0) == mild.on("dark", 0.0) == mild


# --- what is shown ---


def test_the_day_that_is_shown_is_the_one_on_which_most_goes_wrong():
    outcome = folio_days("plain", "dark", "rest", "plain")
    failed = {leg.first: sum(not draw.met for draw in leg.draws) for leg in outcome.legs}
    assert failed[outcome.number] == max(failed.values())
    other = next(leg.first for leg in outcome.legs if leg.first != outcome.number)
    shown = outcome.on_day(other)
    assert shown.number == other and shown.timeline is outcome.course.leg(other).timeline
    assert shown.ledger == outcome.ledger and shown.on_day(outcome.number).draws == outcome.draws
    with pytest.raises(KeyError):
        outcome.on_day(9)


def test_the_day_on_which_something_ends_is_played_from_the_evening_before():
    outcome = folio_days(*("plain",) * 3, "dark")
    last = last_day(outcome)
    assert last is not None and last.number == entry(outcome, "fresh").ends_on_day
    assert any(drawn.dry for drawn in last.timeline.drawn)
    assert len(last.before) == len(last.draws)


def test_simulate_asks_no_more_of_a_trip_than_of_a_day():
    project = folio()
    trip = ordered(project, (PLAIN, DayKind(id="b", name="B", warmer_k=1.0)), "plain", "b")
    variant = project.variants[0]
    one = simulate(trip.brief, variant.system, catalogue.climate(trip.brief))
    two = simulate(trip.brief, variant.system, catalogue.climate(trip.brief))
    assert all(
        np.array_equal(left.timeline.log, right.timeline.log, equal_nan=True)
        for left, right in zip(one.legs, two.legs, strict=True)
    )
    assert one.ledger == two.ledger and one.trip == two.trip


def test_a_day_of_its_kind_can_be_run_again():
    """Half of a half would be a quarter: what a kind leaves out is said once."""
    project = ordered(folio(), (PLAIN, DayKind(id="rest", name="Rest", share=0.5)), "rest", "plain")
    leg = run_trip(project).course.leg(1)
    again = Documents(leg.brief, leg.system, leg.standing, catalogue.climate(project.brief))
    same = again.on(leg.brief.day_kinds[0], 1)
    assert same.brief == leg.brief


@pytest.mark.parametrize("name", layouts())
def test_every_layout_goes_on_a_trip_of_unlike_days(name):
    """Rivers, pitches and cans too: what is not carried has no end, and needs no stop."""
    kinds = (
        DayKind(id="dark", name="Dark", sun="dark", hook_up="none"),
        DayKind(id="pitch", name="Pitch", hook_up="plugged in", stops=(
            FILL, EMPTY, ServiceStop(id="can", what="take a can", volume_m3=0.01),
            ServiceStop(id="gas", what="change gas"), ServiceStop(id="fuel", what="fill diesel"),
        )),
    )  # fmt: skip
    outcome = run_trip(ordered(layouts()[name].project(), kinds, "dark", "pitch", "dark", "dark"))
    trip = outcome.trip
    assert [day.number for day in trip.days] == [1, 2, 3, 4]
    for row in outcome.ledger:
        assert row.used >= 0.0 and (row.ends_on_day is None or 1 <= row.ends_on_day <= 4)
        made = next(item for item in outcome.traces if item.id == f"used.{row.budget}")
        assert made.value == pytest.approx(row.used, rel=1e-9, abs=1e-9), row.budget
    last = last_day(outcome)
    assert last is None or 1 <= last.number <= 4
