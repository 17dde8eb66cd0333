"""The plan as a calendar: read back by the library, its times on working days in their zone."""

from __future__ import annotations

from datetime import UTC, date, datetime, time, timedelta
from zoneinfo import ZoneInfo

import pytest
from icalendar import Calendar

from isotherma.catalogue.demo import drover
from isotherma.files.calendar import WorkDays, plan_calendar, zone_named, zone_names
from isotherma.services.building import labels_of, planned

LISBON = ZoneInfo("Europe/Lisbon")
STAMP = datetime(2027, 1, 1, tzinfo=UTC)


@pytest.fixture(scope="module")
def plan():
    return planned(drover(), drover().variants[0])


def read(plan, **days):
    asked = WorkDays(**{"begin": date(2027, 3, 26), "zone": LISBON, "hours": 6.0, **days})
    body = plan_calendar(plan, labels_of(drover().variants[0].system), vehicle="Drover",
                         variant="ten-litres", days=asked, stamp=STAMP)  # fmt: skip
    return {str(event["uid"]): event for event in Calendar.from_ical(body).events}, body


def test_every_task_is_an_event_of_its_own_name_and_minutes(plan):
    events, _ = read(plan)
    for one in plan.tasks:
        event = events[f"{one.task.id}@ten-litres"]
        if one.task.minutes is None:
            assert not isinstance(event.start, datetime)
            continue
        assert event.start.tzinfo is not None and event.start <= event.end
        assert time(8) <= event.start.time() < time(14)
    assert len(events) == len(plan.tasks) + sum(one.task.waits_min > 0 for one in plan.tasks) + 5


def test_what_cures_or_is_watched_stands_apart_and_blocks_nobody(plan):
    events, _ = read(plan)
    hole = next(one.task for one in plan.tasks if one.task.row == "hole")
    waits = events[f"wait.{hole.id}@ten-litres"]
    assert waits.end - waits.start == timedelta(hours=12) and waits["transp"] == "TRANSPARENT"
    assert waits.start == events[f"{hole.id}@ten-litres"].end


def test_what_is_looked_at_again_comes_again(plan):
    events, _ = read(plan)
    assert events["recheck.season@ten-litres"]["rrule"]["FREQ"] == ["MONTHLY"]
    assert events["recheck.spring@ten-litres"]["rrule"]["FREQ"] == ["YEARLY"]
    last = max(event.end for event in events.values() if isinstance(event.start, datetime))
    assert events["recheck.autumn@ten-litres"].start > last.date() - timedelta(days=1)


def test_it_is_the_same_for_the_same_plan_and_carries_its_zone(plan):
    assert read(plan)[1] == read(plan)[1]
    assert b"BEGIN:VTIMEZONE" in read(plan)[1]


@pytest.mark.parametrize(
    ("minutes", "ends", "expected"),
    [
        pytest.param(0.0, False, datetime(2027, 3, 26, 8), id="the first day begins"),
        pytest.param(359.0, False, datetime(2027, 3, 26, 13, 59), id="six hours a day"),
        pytest.param(360.0, False, datetime(2027, 3, 27, 8), id="the second day begins"),
        pytest.param(360.0, True, datetime(2027, 3, 26, 14), id="or the first ends"),
        pytest.param(720.0, False, datetime(2027, 3, 28, 8), id="clocks went forward that night"),
    ],
)
def test_minutes_of_work_fall_on_working_hours_of_the_wall_clock(minutes, ends, expected):
    days = WorkDays(date(2027, 3, 26), LISBON, hours=6.0)
    assert days.clock(minutes, ends=ends).replace(tzinfo=None) == expected


def test_zones_are_known_by_name_and_none_is_guessed():
    assert zone_named("Europe/Lisbon") == LISBON and zone_named("UTC") is not None
    assert [zone_named(name) for name in ("", "Lisbon", "../etc/passwd", "Europe/Nowhere")] == [
        None] * 4  # fmt: skip
    assert len(zone_names()) > 300 and zone_names()[0] == "UTC"
