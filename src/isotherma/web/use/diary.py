"""The calendar of using it: what is asked, and what goes into the file."""

from __future__ import annotations

from dataclasses import dataclass, replace
from datetime import UTC, date, datetime
from typing import Final

from isotherma.core.errors import CoreError
from isotherma.core.system.kinds.gas import GasAlarm, Regulator
from isotherma.core.system.kinds.water import LooseHose
from isotherma.core.system.runs import FuelPipe
from isotherma.files.calendar import zone_named, zone_names
from isotherma.files.use_calendar import Dated, Shower, use_calendar
from isotherma.services.building import labels_of
from isotherma.web.frame.context import PageContext

FIRST_YEAR: Final = 1990
LAST_YEAR: Final = 2100


@dataclass(frozen=True, slots=True)
class DiaryForm:
    """What the calendar asks, as it was typed."""

    begin: str = ""
    zone: str = ""
    zones: tuple[str, ...] = ()
    error: str = ""


def diary_form(context: PageContext, typed: DiaryForm | None = None) -> DiaryForm:
    """Give the form, with the zone the vehicle has and the zones there are."""
    kept = context.services.archives.zone(context.opened.vehicle_id)
    return replace(typed or DiaryForm(zone=kept or ""), zones=zone_names())


def diary_file(context: PageContext, form: DiaryForm) -> tuple[bytes, str]:
    """Write the calendar, and give the zone it is in; ValueError says what cannot be read."""
    try:
        begin = date.fromisoformat(form.begin)
    except ValueError:
        raise ValueError("Say the first day as 2027-03-28.") from None
    if not FIRST_YEAR <= begin.year <= LAST_YEAR:
        raise ValueError(f"Say a first day between {FIRST_YEAR} and {LAST_YEAR}.")
    zone = zone_named(form.zone)
    if zone is None:
        raise ValueError("Choose the time zone, as Europe/Lisbon; none is guessed.")
    project, variant = context.project, context.variant
    names = labels_of(variant.system)
    using = context.services.using
    try:
        lead = using.lead(project, variant, begin.month)
    except CoreError:  # the plan of showers is as it is; only when to switch on is not known
        lead = None
    showers = tuple(
        Shower(one.id, one.name, one.start_s, None if lead is None else lead.takes_s,
               () if lead is None else tuple(names.get(key, key) for key in lead.sources))
        for one in project.brief.draws
    )  # fmt: skip
    return use_calendar(
        project.brief, showers, using.routines(project, variant, variant.standing),
        _dated(context), vehicle=project.name, variant=variant.id, begin=begin, zone=zone,
        stamp=datetime.now(UTC),
    ), zone.key  # fmt: skip


def _dated(context: PageContext) -> tuple[Dated, ...]:
    system = context.variant.system
    found = [Dated(run.id, run.label, run.dated or "", False) for run in system.runs
             if isinstance(run, FuelPipe) and run.way == "hose"]  # fmt: skip
    for part in system.parts:
        if isinstance(part, Regulator | LooseHose | GasAlarm):
            found.append(Dated(part.id, part.label, part.dated or "", isinstance(part, GasAlarm)))
    return tuple(found)
