"""Limits that are no stock: set-up, headroom, holes, money, mass, room, if the brief has them."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from enum import StrEnum
from math import inf

from isotherma.core.brief import Budgets
from isotherma.core.options.built import Tally, full_mass, setup_s, tally
from isotherma.core.options.sizing import Struck
from isotherma.core.results.outcome import Outcome
from isotherma.core.setup.fit import cupboard_m3
from isotherma.core.system import AnyKind, System
from isotherma.core.system.kinds import use, waste
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
    return limits_on(outcome.brief.budgets, outcome.system, outcome.setup.parts, vehicle)


def limits_on(
    budgets: Budgets, system: System, computed: Mapping[str, AnyKind], vehicle: Vehicle,
    price: Tally | None = None,
) -> tuple[Limit, ...]:  # fmt: skip
    """Hold what a design is made of against limits, without its day.

    Parameters
    ----------
    budgets : Budgets
        The limits. [SI]
    system : System
        The design as entered. [-]
    computed : mapping of str to part
        Its parts with likely figures, by id; what is not there is as entered. [-]
    vehicle : Vehicle
        Says its headroom. [-]
    price : Tally or None
        What it costs; None: what was entered of prices. [money]

    Returns
    -------
    tuple of Limit
        Only those that are named. [SI]
    """
    holes = min(
        (one for one in (budgets.holes, vehicle.holes_at_most) if one is not None), default=None
    )
    asked = (budgets.setup_s, budgets.headroom_m, holes, budgets.money, budgets.mass_kg,
             budgets.room_m3)  # fmt: skip
    if all(limit is None for limit in asked):
        return ()  # of most designs: what it is made of need not be counted
    priced = tally(part.price for part in system.parts) if price is None else price
    rows = (
        (Limited.SETUP, budgets.setup_s, Tally(setup_s(system), 0), "seconds"),
        (Limited.HOLES, holes, Tally(float(len(system.holes)), 0), "number"),
        (Limited.MONEY, budgets.money, priced, "money"),
        (Limited.MASS, budgets.mass_kg, full_mass(system, computed), "mass"),
        (Limited.ROOM, budgets.room_m3, tally(cupboard_m3(system)), "volume"),
    )
    found = [
        Limit(what, held.value, held.unknown, float(limit), style)
        for what, limit, held, style in rows if limit is not None
    ]  # fmt: skip
    if budgets.headroom_m is not None:
        known = headroom_m(system, vehicle)
        found.insert(0, Limit(Limited.HEADROOM, known, int(known is None), budgets.headroom_m,
                              "length", at_least=True))  # fmt: skip
    return tuple(found)


def headroom_m(system: System, vehicle: Vehicle) -> float | None:
    """Give the room to stand in where people wash: between mat and ceiling.

    Parameters
    ----------
    system : System
        The design. [-]
    vehicle : Vehicle
        Says its headroom. [m]

    Returns
    -------
    float or None
        As the shower place says; else the vehicle's, less tray and mat; None where nobody knows,
        infinite outdoors. [m]
    """
    places = [part for part in system.parts if isinstance(part, use.ShowerPlace)]
    place = places[0] if places else None
    if place is not None and place.headroom_m is not None:
        return place.headroom_m
    if place is not None and place.setting == "outside":
        return inf
    if vehicle.headroom_m is None:
        return None
    trays = [part for part in system.parts if isinstance(part, waste.Tray)]
    under = next(
        (part for part in trays if place is not None and part.id == place.fitted_in),
        trays[0] if trays else None,
    )  # fmt: skip
    raised = 0.0 if under is None or under.raised_m is None else under.raised_m
    mat = 0.0 if place is None or place.mat_m is None else place.mat_m
    return max(0.0, vehicle.headroom_m - raised - mat)


def struck_over(limits: Sequence[Limit]) -> tuple[Struck, ...]:
    """Say which limits strike: those that what is known is beyond already.

    Parameters
    ----------
    limits : sequence of Limit
        As held against. [SI]

    Returns
    -------
    tuple of Struck
        With figure and limit; what nobody knows strikes nothing. [SI]
    """
    return tuple(
        Struck(one.what.value, "", "over_limit", one.used, one.limit, one.style)
        for one in limits if one.over
    )  # fmt: skip
