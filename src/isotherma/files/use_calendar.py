"""Using a vehicle as a calendar file: when to switch on, routines of the year, dates of hoses."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from datetime import date, datetime, timedelta
from typing import Final
from zoneinfo import ZoneInfo

from icalendar import Alarm, Calendar, Event

from isotherma.core.brief import Brief
from isotherma.core.using.routines import Routine
from isotherma.files.calendar import AUTUMN, SPRING
from isotherma.wording import ROUTINE_CAUTIONS, ROUTINES

DAY_S: Final = 86_400.0
# a rubber hose or a regulator is looked at so many years after its date; labels and rules decide
LOOK_YEARS: Final = 5


@dataclass(frozen=True, slots=True)
class Shower:
    """A planned shower: when on its day [s], how long before it heat goes on [s], what goes on."""

    id: str
    name: str
    start_s: float
    lead_s: float | None
    sources: tuple[str, ...]


@dataclass(frozen=True, slots=True)
class Dated:
    """Something with a date: a hose, a regulator, an alarm; `replace` says it ends on that day."""

    id: str
    name: str
    on: str
    replace: bool


def use_calendar(
    brief: Brief, showers: Sequence[Shower], routines: Sequence[Routine], dated: Sequence[Dated], *,
    vehicle: str, variant: str, begin: date, zone: ZoneInfo, stamp: datetime,
) -> bytes:  # fmt: skip
    """Write what is done when in using a vehicle.

    Parameters
    ----------
    brief : Brief
        Its days, and which draws are left out on which. [-]
    showers : sequence of Shower
        Of the brief. [s]
    routines : sequence of Routine
        Those the design has. [-]
    dated : sequence of Dated
        Hoses and alarms. [-]
    vehicle, variant : str
        The vehicle's name, the variant's id. [-]
    begin : date
        The first day of the trip. [-]
    zone : ZoneInfo
        Of the clock on the wall. [-]
    stamp : datetime
        When it was written, with its zone. [-]

    Returns
    -------
    bytes
        iCalendar; a UID is kept from one writing to the next. [-]

    References
    ----------
    RFC 5545.
    """
    made = Calendar()
    made.add("prodid", "-//Isotherma//use 1//EN")
    made.add("version", "2.0")
    made.add("x-wr-calname", f"{vehicle}: using it")
    for event in (*_showers(brief, showers, begin, zone), *_year(routines, begin),
                  *_dates(dated, begin)):  # fmt: skip
        event["uid"] = f"{event['uid']}@{variant}"
        event.add("dtstamp", stamp)
        made.add_component(event)
    made.add_missing_timezones()
    return bytes(made.to_ical())


def _event(uid: str, summary: str) -> Event:
    event = Event()
    event.add("uid", uid)
    event.add("summary", summary)
    return event


def _days_of(brief: Brief, draw_id: str) -> list[int]:
    """List the days of the trip, from 0, on which a draw is made."""
    kinds = {kind.id: kind for kind in brief.day_kinds}
    left_out = [draw_id in kinds[key].without_draws if key in kinds else False
                for key in brief.order]  # fmt: skip
    return [day for day in range(brief.trip_days) if not (left_out and left_out[day])]


def _showers(
    brief: Brief, showers: Sequence[Shower], begin: date, zone: ZoneInfo
) -> Iterator[Event]:
    midnight = datetime(begin.year, begin.month, begin.day, tzinfo=zone)
    for one in showers:
        for day in _days_of(brief, one.id):
            # as the brief is written: by the clock on the wall
            hot = midnight + timedelta(days=day, seconds=one.start_s)
            if one.sources and one.lead_s is not None and one.lead_s > 0.0:
                event = _event(f"on.{one.id}.{day}",
                               f"Switch on {', '.join(one.sources)} for: {one.name}")  # fmt: skip
                event.add("dtstart", hot - timedelta(seconds=one.lead_s))
                event.add("dtend", hot)
                alarm = Alarm()
                alarm.add("action", "DISPLAY")
                alarm.add("description", event["summary"])
                alarm.add("trigger", timedelta(0))
                event.add_component(alarm)
                yield event
            event = _event(f"shower.{one.id}.{day}", one.name)
            event.add("dtstart", hot)
            event.add("dtend", hot + timedelta(minutes=10))
            if one.sources and one.lead_s is None:
                event.add("description", "It does not get warm with what can be switched on.")
            yield event


def _year(routines: Sequence[Routine], begin: date) -> Iterator[Event]:
    """Give what comes again by the calendar."""
    has = {one.id for one in routines}
    for name, (month, day), rule in (
        ("sanitise", SPRING, {"freq": "yearly"}),
        ("descale", SPRING, {"freq": "yearly"}),
        ("first_frost", AUTUMN, {"freq": "yearly"}),
        ("hoses", SPRING, {"freq": "yearly"}),
        ("alarms", (begin.month, begin.day), {"freq": "monthly"}),
    ):
        if name not in has:
            continue
        first = date(begin.year, month, day)
        if name == "alarms" and begin.day > 28:  # a month has no 31st: the next month's first
            first = (begin.replace(day=28) + timedelta(days=4)).replace(day=1)
        event = _event(f"routine.{name}", ROUTINES[name])
        event.add("dtstart", first if first >= begin else first.replace(year=begin.year + 1))
        event.add("rrule", rule)
        event.add("description", ROUTINE_CAUTIONS[name])
        yield event


def _dates(dated: Sequence[Dated], begin: date) -> Iterator[Event]:
    for one in dated:
        on = _day(one.on)
        if on is None:
            event = _event(f"dated.{one.id}", f"Find the date on: {one.name}")
            event.add("dtstart", begin)
        elif one.replace:
            event = _event(f"dated.{one.id}", f"Replace: {one.name}")
            event.add("dtstart", on)
        else:
            event = _event(f"dated.{one.id}", f"{LOOK_YEARS} years old, look at it: {one.name}")
            event.add("dtstart", on.replace(year=on.year + LOOK_YEARS, day=min(on.day, 28)))
        yield event


def _day(text: str) -> date | None:
    """Read 2024, 2024-03 or 2024-03-31; None where it is no date."""
    pieces = text.split("-")
    if not text or not all(piece.isdigit() for piece in pieces) or len(pieces) > 3:
        return None
    year, month, day = (*(int(piece) for piece in pieces), 1, 1)[:3]
    try:
        return date(year, month, day)
    except ValueError:
        return None
