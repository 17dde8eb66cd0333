"""A trip in words: which stops it needs, what fails first, what a day is like."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from itertools import groupby
from typing import Final

from isotherma.core.brief import Brief
from isotherma.core.brief.days import DayKind
from isotherma.core.climate import MONTHS
from isotherma.core.quantity import UnitSystem, duration_words, with_unit
from isotherma.core.results.going import Goes, Going
from isotherma.core.results.ledger import TITLES
from isotherma.core.results.trip import BUDGET_STYLES, DayBudget, Fails, Trip, TripStop
from isotherma.core.setup.consumption import BudgetName

_REFILLED: Final[Mapping[BudgetName, str]] = {
    "fresh": "fresh", "grey": "grey", "gas": "gas", "diesel": "diesel",
}  # fmt: skip
SERVICES: Final[Mapping[str, str]] = {
    "fill fresh": "Fill fresh water", "take a can": "Take on a can", "empty grey": "Empty grey",
    "change gas": "Change or fill the gas bottle", "fill diesel": "Fill diesel",
}  # fmt: skip
_SUN: Final[Mapping[str, str]] = {"clear": "clear sky", "dark": "dark sky"}


def days_words(days: Sequence[int]) -> str:
    """Name days in a row together: "day 2 and 4", "days 2 to 5 and 9"."""
    rows: list[list[int]] = []
    for day in sorted(set(days)):
        if rows and day == rows[-1][-1] + 1:
            rows[-1].append(day)
        else:
            rows.append([day])
    said = [
        piece for row in rows
        for piece in ([f"{row[0]} to {row[-1]}"] if len(row) > 2 else [str(day) for day in row])
    ]  # fmt: skip
    joined = said[0] if len(said) == 1 else f"{', '.join(said[:-1])} and {said[-1]}"
    return f"day {joined}" if len(said) == 1 and len(rows[0]) < 3 else f"days {joined}"


def _needed(stops: Sequence[TripStop]) -> dict[tuple[BudgetName, str], list[int]]:
    found: dict[tuple[BudgetName, str], list[int]] = {}
    for stop in stops:
        found.setdefault((stop.budget, stop.label), []).append(stop.day)
    return found


def stops_words(trip: Trip) -> str:
    """Say which stops a trip needs beyond those that are planned."""
    found = _needed(trip.needed)
    if not found:
        stops = "no stop" if not any(stop.planned for stop in trip.stops) else "no other stop"
        said = f"The trip needs {stops}."
    else:
        pieces, before = [], None
        for (budget, label), days in found.items():
            what = f"{_REFILLED[budget]} of {label}" if label else _REFILLED[budget]
            pieces.append(f"{what} with it" if days == before else f"{what} on {days_words(days)}")
            before = days
        more = " beyond those planned" if any(stop.planned for stop in trip.stops) else ""
        said = f"Stops the trip needs{more}: {'; '.join(pieces)}."
    if trip.hopeless:
        short = " and ".join(TITLES[budget].lower() for budget in trip.hopeless)
        said += f" One stop a day does not carry {short}: a day takes more than there is room for."
    return said


def fails_words(trip: Trip) -> str:
    """Say what a trip fails by first, after its planned stops."""
    return first_wrong_words(trip.failure, len(trip.days))


def first_wrong_words(fails: Fails | None, days: int) -> str:
    """Say what of a trip of so many days is the first that is not as asked; None: nothing."""
    if fails is None:
        return "Every day is as asked." if days > 1 else "The day is as asked."
    when = f"on day {fails.day} of {days}, at {with_unit(fails.at_s, 'clock')}"
    title = TITLES[fails.budget]
    of = f" of {fails.label}" if fails.label else ""
    if fails.budget in ("warmth", "waiting"):
        return f"The first day that is not as asked is day {fails.day} of {days}: {title.lower()}."
    return f"{title}{of} gives out first, {when}."


def month_words(fails: Fails | None, days: int) -> str:
    """Say in a few words what a month's trip is first not as asked by."""
    if fails is None:
        return "as asked"
    return TITLES[fails.budget] + (f", day {fails.day}" if days > 1 else "")


def year_words(good: Sequence[str], run: int) -> str:
    """Say in which of the months that could be run a trip is as asked."""
    if not run:
        return "It cannot be run in any month as the design stands."
    if len(good) == run:
        return "As asked in every month." if run == len(MONTHS) else "As asked in all that ran."
    if not good:
        return "As asked in no month."
    return f"As asked in {', '.join(good)}; not in {run - len(good)} of {run} months."


def order_words(brief: Brief) -> str:
    """Say what days a trip has, one after the other."""
    if not brief.order:
        return "one day" if brief.days == 1 else f"{brief.days} days alike"
    names = {kind.id: kind.name for kind in brief.day_kinds}
    rows = [(names[key], len(tuple(row))) for key, row in groupby(brief.order)]
    said = (f"{name[:1].lower()}{name[1:]}{f' × {count}' if count > 1 else ''}"
            for name, count in rows)  # fmt: skip
    return f"{len(brief.order)} days: {', '.join(said)}"


GOES: Final[Mapping[str, str]] = {
    "waiting": "{}, run away cold", "washing": "{}", "use": "{}",
    "filling_up": "Filling up what was emptied", "with_the_water": "With the water, used warm",
    "standing": "Lost by stores while they stand", "pipes": "Lost by pipes",
    "from_around": "Came in from the air around cold pipes",
    "heaters": "Lost by heaters and what else is warm", "part": "{}",
    "kettles": "Kettles for the bag", "charging": "Charging the battery",
    "standing_by": "Other loads, pads and what stands by",
}  # fmt: skip


def going_title(going: Going) -> str:
    """Name what is split."""
    return next((words for name, words in TITLES.items() if name == going.of), "Heat")


def goes_words(row: Goes) -> str:
    """Say what takes a share of it."""
    return GOES[row.code].format(row.subject)


def left_words(row: DayBudget, units: UnitSystem) -> str:
    """Say what is left as a day ends, or owed; "" where nobody knows what there is."""
    if row.level is None:
        return ""
    style = BUDGET_STYLES[row.budget]
    room = "room " if row.budget == "grey" else ""
    if row.level < 0.0:
        return f"{with_unit(-row.level, style, units)} {'too much' if room else 'owed'}"
    return f"{with_unit(row.level, style, units)} {room}left"


def day_kind_words(kind: DayKind, units: UnitSystem) -> str:
    """Say what differs on a kind of day."""
    said = []
    if kind.share != 1.0:
        said.append(f"{with_unit(kind.share, 'share', units)} of the water")
    left_out = len(kind.without_draws) + len(kind.without_uses)
    if left_out:
        said.append(f"{left_out} left out")
    if kind.drive_s is not None:
        driven = kind.drive_s + kind.again_s
        said.append(f"drives {duration_words(driven)}" if driven else "does not drive")
    if kind.hook_up != "as the state says":
        said.append("no hook-up" if kind.hook_up == "none" else "hook-up")
    if kind.sun in _SUN:
        said.append(_SUN[kind.sun])
    if kind.warmer_k:
        how = "warmer" if kind.warmer_k > 0 else "colder"
        said.append(f"{with_unit(abs(kind.warmer_k), 'difference', units)} {how}")
    if kind.inside_c is not None:
        said.append(f"inside {with_unit(kind.inside_c, 'temperature', units)}")
    said += [SERVICES[stop.what].lower() for stop in kind.stops]
    return ", ".join(said) or "as the brief says"
