"""A trip day by day as JSON: what each takes, what is left, which stops are needed, what fails."""

from __future__ import annotations

from typing import Any, Final

from isotherma.core.quantity import unit_of
from isotherma.core.results.outcome import Outcome
from isotherma.core.results.trip import BUDGET_STYLES, DayBudget, TripStop
from isotherma.core.setup.consumption import BudgetName

TRIP_FORMAT: Final = "isotherma-trip"


def _unit(budget: BudgetName) -> tuple[str, float]:
    unit = unit_of(BUDGET_STYLES[budget])
    return unit.symbol, unit.factor


def _hours(seconds: float | None) -> float | None:
    return None if seconds is None else seconds / 3600.0


def _budget(row: DayBudget) -> dict[str, Any]:
    symbol, factor = _unit(row.budget)
    return {
        "budget": row.budget, "used": row.used / factor,
        "level": None if row.level is None else row.level / factor, "unit": symbol,
        "ends_at_h": _hours(row.ends_s),
    }  # fmt: skip


def _stop(stop: TripStop) -> dict[str, Any]:
    symbol, factor = _unit(stop.budget)
    return {
        "day": stop.day, "hour": _hours(stop.at_s), "what": stop.what,
        "of": stop.label, "amount": stop.amount / factor, "unit": symbol, "planned": stop.planned,
    }  # fmt: skip


def trip_object(outcome: Outcome, *, name: str, variant: str) -> dict[str, Any]:
    """Give a trip as an object for JSON.

    Parameters
    ----------
    outcome : Outcome
        A simulated trip. [-]
    name, variant : str
        Of the vehicle, and the variant's id. [-]

    Returns
    -------
    dict
        Keys as in docs/file-format.md; a level below 0 is what is owed. [see the units]
    """
    trip = outcome.trip
    return {
        "format": TRIP_FORMAT,
        "vehicle": name,
        "variant": variant,
        "days": [
            {
                "day": day.number, "kind": day.kind, "like": day.like,
                "draws": day.draws, "draws_as_asked": day.draws_met,
                "budgets": [_budget(row) for row in day.budgets],
            }
            for day in trip.days
        ],
        "stops": [_stop(stop) for stop in trip.stops],
        "cannot_be_carried": list(trip.hopeless),
        "fails": None if trip.failure is None else {
            "day": trip.failure.day, "hour": _hours(trip.failure.at_s),
            "budget": trip.failure.budget, "of": trip.failure.label,
        },
    }  # fmt: skip
