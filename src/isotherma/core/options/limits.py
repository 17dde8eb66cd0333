"""Limits that are no stock: set-up, headroom, holes, money, mass, room, if the brief has them."""

from __future__ import annotations

from dataclasses import dataclass
from enum import StrEnum

from isotherma.core.options.built import Tally, built, setup_s
from isotherma.core.results.outcome import Outcome
from isotherma.core.system.vehicle import Vehicle


class Limited(StrEnum):
    """What a brief may set a limit to."""

    SETUP = "setup"
    HEADROOM = "headroom"
    HOLES = "holes"
    MONEY = "money"
    MASS = "mass"
    ROOM = "room"


@dataclass(frozen=True, slots=True)
class Limit:
    """One limit with what there is [SI].

    `used` is None where nobody knows any of it, `unknown` counts parts of which nobody does;
    `at_least` says that more is better.
    """

    what: Limited
    used: float | None
    unknown: int
    limit: float
    style: str
    at_least: bool = False

    @property
    def over(self) -> bool:
        """Whether what is known is beyond the limit already."""
        if self.used is None:
            return False
        slack = 1e-9 * max(1.0, abs(self.limit))
        beyond = self.limit - self.used if self.at_least else self.used - self.limit
        return beyond > slack

    @property
    def sure(self) -> bool:
        """Whether all of it is known, or what is known says enough."""
        return self.over or (self.used is not None and not self.unknown)


def limits_of(outcome: Outcome, vehicle: Vehicle) -> tuple[Limit, ...]:
    """Hold a design against the limits its brief names.

    Parameters
    ----------
    outcome : Outcome
        Of the design. [-]
    vehicle : Vehicle
        Says its headroom. [-]

    Returns
    -------
    tuple of Limit
        Only those that are named. [SI]
    """
    budgets = outcome.brief.budgets
    asked = (budgets.setup_s, budgets.headroom_m, budgets.holes, budgets.money, budgets.mass_kg,
             budgets.room_m3)  # fmt: skip
    if all(limit is None for limit in asked):
        return ()  # of most designs: what it is made of need not be counted
    made = built(outcome)
    rows = (
        (Limited.SETUP, budgets.setup_s, Tally(setup_s(outcome.system), 0), "seconds"),
        (Limited.HOLES, budgets.holes, Tally(float(made.holes), 0), "number"),
        (Limited.MONEY, budgets.money, made.price, "money"),
        (Limited.MASS, budgets.mass_kg, made.full_kg, "mass"),
        (Limited.ROOM, budgets.room_m3, made.room_m3, "volume"),
    )
    found = [
        Limit(what, tally.value, tally.unknown, float(limit), style)
        for what, limit, tally, style in rows if limit is not None
    ]  # fmt: skip
    if budgets.headroom_m is not None:
        known = vehicle.headroom_m
        found.insert(0, Limit(Limited.HEADROOM, known, int(known is None), budgets.headroom_m,
                              "length", at_least=True))  # fmt: skip
    return tuple(found)
