"""Work as a calendar file: an event a task, waiting apart, tests that come again."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from datetime import date, datetime, time, timedelta
from typing import Final
from zoneinfo import ZoneInfo, ZoneInfoNotFoundError, available_timezones

from icalendar import Calendar, Event

from isotherma.core.building.order import Plan, Planned
from isotherma.files.plan_json import title_of
from isotherma.wording import TASK_CAUTIONS

EXTENSION: Final = ".ics"
HOUR_MIN: Final = 60.0
# what is looked at again: days after the last task, how often, in words
AGAIN: Final = (
    ("drive", 1, None, "After the first drive: joints, clips, hold again"),
    ("week", 7, None, "A week on: hold, straps, look at the gas hose"),
    ("season", 91, {"freq": "monthly", "interval": 3},
     "Each season: precharge, relief valve lifted, cut-out, sender, hose dates"),
)  # fmt: skip
SPRING, AUTUMN = (3, 20), (10, 20)  # sanitise, drain; a month earlier or later by the place


@dataclass(frozen=True, slots=True)
class WorkDays:
    """When work is done: from a day on, each day from a time for so many hours, in a zone."""

    begin: date
    zone: ZoneInfo
    at: time = time(8, 0)
    hours: float = 8.0

    def clock(self, minutes: float, *, ends: bool = False) -> datetime:
        """Give when so many minutes of work have gone by; an end stays on its own day."""
        each = self.hours * HOUR_MIN
        days, left = divmod(minutes, each)
        if ends and days >= 1.0 and left == 0.0:
            days, left = days - 1.0, each
        start = datetime.combine(self.begin + timedelta(days=days), self.at, self.zone)
        # by the clock on the wall, so that a day with a changed clock keeps its hours
        return start + timedelta(minutes=left)


def zone_names() -> tuple[str, ...]:
    """Name the time zones of areas and places, and UTC.

    Returns
    -------
    tuple of str
        By the alphabet. [-]
    """
    places = (name for name in available_timezones() if "/" in name)
    return ("UTC", *sorted(name for name in places if not name.startswith(("Etc/", "SystemV/"))))


def zone_named(name: str) -> ZoneInfo | None:
    """Find a time zone by its name.

    Parameters
    ----------
    name : str
        Area and place, as Europe/Lisbon; or UTC. [-]

    Returns
    -------
    ZoneInfo or None
        None where there is none of that name. [-]
    """
    try:
        return ZoneInfo(name) if name in available_timezones() else None
    except (ZoneInfoNotFoundError, ValueError):
        return None


def plan_calendar(
    plan: Plan, names: Mapping[str, str], *, vehicle: str, variant: str, days: WorkDays,
    stamp: datetime,
) -> bytes:  # fmt: skip
    """Write a plan as a calendar.

    Parameters
    ----------
    plan : Plan
        In the order of work. [min]
    names : mapping of str to str
        Labels by id. [-]
    vehicle, variant : str
        The vehicle's name, the variant's id. [-]
    days : WorkDays
        When work is done. [-]
    stamp : datetime
        When it was written, with its zone. [-]

    Returns
    -------
    bytes
        iCalendar; the UID of an event is its task's id, "@", the variant's. [-]

    References
    ----------
    RFC 5545.
    """
    made = Calendar()
    made.add("prodid", "-//Isotherma//plan 1//EN")
    made.add("version", "2.0")
    made.add("x-wr-calname", f"{vehicle}: building")
    stages = {stage.id: stage for stage in plan.stages}
    for one in plan.tasks:
        title = title_of(one, names, stages)
        for event in _events(one, title, variant, days):
            made.add_component(event)
    if any(stage.kind == "recheck" for stage in plan.stages):
        for event in _again(days.clock(plan.minutes, ends=True), variant):
            made.add_component(event)
    for event in made.events:
        event.add("dtstamp", stamp)
    made.add_missing_timezones()
    return bytes(made.to_ical())


def _events(one: Planned, title: str, variant: str, days: WorkDays) -> Iterator[Event]:
    """Give a task, and apart from it what waits without hands; unknown minutes are a marked day."""
    task, ends = one.task, one.start_min
    event = _named(f"{task.id}@{variant}", title)
    words = [TASK_CAUTIONS[code] for code in task.cautions]
    if task.who == "licensed":
        event.add("categories", ["licensed person"])
    if task.minutes is None:
        event.add("dtstart", days.clock(one.start_min).date())
        words.append("How long it takes is not known.")
    else:
        ends += task.minutes
        event.add("dtstart", days.clock(one.start_min))
        event.add("dtend", days.clock(ends, ends=True))
    if words:
        event.add("description", " ".join(words))
    yield event
    if task.waits_min:
        waits = _named(f"wait.{task.id}@{variant}", f"Waits: {title}")
        begins = days.clock(ends, ends=True)
        waits.add("dtstart", begins)
        waits.add("dtend", begins + timedelta(minutes=task.waits_min))
        waits.add("transp", "TRANSPARENT")
        yield waits


def _again(ready: datetime, variant: str) -> Iterator[Event]:
    """Give what is looked at again once it runs."""
    for key, after, rule, words in AGAIN:
        event = _named(f"recheck.{key}@{variant}", words)
        event.add("dtstart", ready.date() + timedelta(days=after))
        if rule is not None:
            event.add("rrule", rule)
        yield event
    for key, (month, day), words in (
        ("spring", SPRING, "Spring: sanitise, every outlet, flush"),
        ("autumn", AUTUMN, "Autumn: drain down before the first frost"),
    ):
        first = date(ready.year, month, day)
        event = _named(f"recheck.{key}@{variant}", words)
        event.add("dtstart", first if first > ready.date() else date(ready.year + 1, month, day))
        event.add("rrule", {"freq": "yearly"})
        yield event


def _named(uid: str, summary: str) -> Event:
    event = Event()
    event.add("uid", uid)
    event.add("summary", summary)
    return event
