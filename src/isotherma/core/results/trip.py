"""A trip by its days: what each takes of what is carried, what is left, which stops are needed."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Final

from isotherma.core import water
from isotherma.core.brief.days import Service, ServiceStop
from isotherma.core.climate import DAY_S
from isotherma.core.results.course import Course, Leg
from isotherma.core.results.draws import WhyNot
from isotherma.core.results.following import Filled, Filling, Followed, Taking, follow, needed
from isotherma.core.results.inventory import battery_that_matters, bottle_course
from isotherma.core.results.spending import pitch_w, spent
from isotherma.core.results.waters import Share, fresh_shares, grey_shares, sink_of
from isotherma.core.setup.consumption import BudgetName
from isotherma.core.system.kinds import gas as gas_kinds
from isotherma.core.timeline.record import Stretch

CARRIED: Final[tuple[BudgetName, ...]] = ("fresh", "grey", "gas", "diesel", "mains")
BUDGET_STYLES: Final[Mapping[BudgetName, str]] = {
    "fresh": "volume", "grey": "volume", "gas": "mass", "diesel": "volume", "mains": "energy",
    "battery": "battery_energy",
}  # fmt: skip
REFILLS: Final[Mapping[BudgetName, tuple[Service, ...]]] = {
    "fresh": ("fill fresh", "take a can"), "grey": ("empty grey",), "gas": ("change gas",),
    "diesel": ("fill diesel",),
}  # fmt: skip


@dataclass(frozen=True, slots=True)
class Carried:
    """One thing that is carried through a trip: a tank, a can, the gas, the fuel.

    `label` is its name where it is one of several; `limit` None where nobody knows or set one.
    """

    budget: BudgetName
    label: str
    limit: float | None
    takings: tuple[Taking, ...]
    course: Followed | None
    fillings: Mapping[int, Sequence[Filling]]

    @property
    def total(self) -> float:
        """What the trip takes of it [as it counts]."""
        return sum(taking.total for taking in self.takings)

    @property
    def cover(self) -> float:
        """How often it covers what is drawn between fillings; without end where nothing is."""
        if self.course is None or self.course.used <= 0.0:
            return float("inf")
        return self.course.limit / self.course.used


Spells = tuple[tuple[float, float, float], ...]


def _spells(rows: Sequence[Stretch], amounts: Sequence[float]) -> Spells:
    return tuple(
        (row.start_s, row.start_s + row.span_s, took)
        for row, took in zip(rows, amounts, strict=True) if took > 0.0
    )  # fmt: skip


def _water_taking(leg: Leg, share: Share, *, grey: bool) -> Taking:
    """Say when a day takes water out of a tank, or brings some into one."""
    density = water.density_kg_per_m3(leg.setup.conditions.fresh_c)
    spells = []
    for drawn, draw in zip(leg.timeline.drawn, leg.draws, strict=True):
        if grey:
            goes = sink_of(leg.setup, draw)
            amount = draw.used_m3 if share.id in ("", goes) or goes is None else 0.0
        else:
            amount = draw.took_m3.get(share.id, 0.0)
            amount += draw.missing_kg / density if draw.empty == share.id else 0.0
        if amount > 0.0:
            spells.append((drawn.opened_s, max(drawn.closed_s, drawn.opened_s + 1.0), amount))
    drawn_m3 = sum(spell[2] for spell in spells)
    if drawn_m3 > share.per_day_m3:  # water that goes round is taken once
        spells = [(one, end, each * share.per_day_m3 / drawn_m3) for one, end, each in spells]
    return Taking(share.per_day_m3, tuple(spells))


def _fillings(
    course: Course, budget: BudgetName, *, main: bool = True
) -> Mapping[int, list[Filling]]:
    """Read the stops that bring something of a budget; a can and a level are for the main tank."""

    def filling(at_s: float, stop: ServiceStop) -> Filling:
        if stop.what == "take a can":
            adds = stop.volume_m3 if main else 0.0
            return Filling(at_s, adds=adds, what=stop.what)
        up_to = stop.volume_m3 if budget in ("fresh", "diesel") else None
        return Filling(at_s, up_to=up_to, what=stop.what)

    return {
        day: [filling(at_s, stop) for at_s, stop in made]
        for day, made in course.stops(*REFILLS.get(budget, ())).items()
    }


def _carried(
    course: Course, budget: BudgetName, label: str, limit: float | None,
    takings: Sequence[Taking], *, main: bool = True,
) -> Carried:  # fmt: skip
    """Follow one thing; `takings` by leg."""
    daily = tuple(
        taking for leg, taking in zip(course.legs, takings, strict=True)
        for _ in range(leg.days)
    )  # fmt: skip
    fillings = _fillings(course, budget, main=main)
    if not course.legs[0].brief.budgets.matters(budget):
        limit = None
    return Carried(
        budget, label, limit, daily, None if limit is None else follow(limit, daily, fillings),
        fillings,
    )  # fmt: skip


def _waters(course: Course, *, grey: bool) -> tuple[Carried, ...]:
    """Follow every tank, bag and can that water comes out of, or runs into."""
    by_leg = [
        {
            share.id: share
            for share in (
                grey_shares(leg.setup, leg.draws, leg.brief.budgets.grey_m3) if grey
                else fresh_shares(leg.setup, leg.timeline, leg.draws)
            )
        }
        for leg in course.legs
    ]  # fmt: skip
    names = {key: share for shares in by_leg for key, share in shares.items()}
    first = course.legs[0].setup
    wells = first.reservoirs.reservoirs
    main = wells[first.home].id if 0 <= first.home < len(wells) else next(iter(names), "")
    return tuple(
        _carried(
            course, "grey" if grey else "fresh", share.label if len(names) > 1 else "",
            share.limit_m3,
            [
                _water_taking(leg, shares[key], grey=grey) if key in shares else Taking(0.0)
                for leg, shares in zip(course.legs, by_leg, strict=True)
            ],
            main=grey or key == main,
        )
        for key, share in names.items()
    )  # fmt: skip


def gas_limit_kg(leg: Leg) -> float | None:
    """Give the gas carried: as the brief says, else what is in the bottles; less the reserve.

    Parameters
    ----------
    leg : Leg
        Days of the trip. [-]

    Returns
    -------
    float or None
        None where nobody knows. [kg]
    """
    kept, asked_kg = 1 - leg.brief.reserve_of("gas"), leg.brief.budgets.gas_kg
    if asked_kg is not None:
        return asked_kg * kept
    held = [
        part.gas_kg * part.fill_share for part in leg.setup.parts.values()
        if isinstance(part, gas_kinds.GasBottle) and part.gas_kg
    ]  # fmt: skip
    return sum(held) * kept if held else None


def _fuels(course: Course) -> tuple[Carried, ...]:
    """Follow gas, liquid fuel and mains."""
    first, gas, diesel, mains = course.legs[0], [], [], []
    for leg in course.legs:
        setup, rows = leg.setup, leg.timeline.stretches
        took, by_row = spent(setup, leg.timeline), [setup.consumers.taken_in(row) for row in rows]
        gas.append(Taking(took.gas_kg, _spells(rows, [one.gas_kg for one in by_row])))
        diesel.append(Taking(took.diesel_m3, _spells(rows, [one.diesel_m3 for one in by_row])))
        plugged = [
            one.mains_j + pitch_w(setup, row) * row.span_s
            for one, row in zip(by_row, rows, strict=True)
        ]
        mains.append(Taking(took.mains_j, _spells(rows, plugged)))
    return (
        _carried(course, "gas", "", gas_limit_kg(first), gas),
        _carried(course, "diesel", "", first.setup.full.diesel_m3, diesel),
        _carried(course, "mains", "", first.brief.budgets.mains_energy_j, mains),
    )


def carried_on(course: Course) -> tuple[Carried, ...]:
    """Follow everything that is carried through a trip.

    Parameters
    ----------
    course : Course
        Its days. [-]

    Returns
    -------
    tuple of Carried
        Water by tank, bag and can, then gas, liquid fuel, mains; the battery apart. [-]
    """
    fresh = _waters(course, grey=False)
    if not fresh:  # a river or a pitch gives it all: nothing is carried
        fresh = (_carried(course, "fresh", "", None, [Taking(0.0)] * len(course.legs)),)
    return (*fresh, *_waters(course, grey=True), *_fuels(course))


def nearest_of(carried: Sequence[Carried], budget: BudgetName) -> Carried:
    """Give the one of a budget that ends first, else the one nearest to its end.

    Parameters
    ----------
    carried : sequence of Carried
        Of a trip. [-]
    budget : str
        Which; at least one is of it. [-]

    Returns
    -------
    Carried
        Of those that something is taken of, if any. [-]
    """
    found = [item for item in carried if item.budget == budget]
    used = [item for item in found if item.total > 0.0] or found

    def near(item: Carried) -> tuple[bool, tuple[int, float], float]:
        ends = item.course.ends if item.course is not None else None
        return ends is None, ends or (0, 0.0), item.cover

    return min(used, key=near)


# --- the trip in figures, day by day ---


@dataclass(frozen=True, slots=True)
class DayBudget:
    """What a day takes of a budget, what is left as it ends, and when it gives out [SI]."""

    budget: BudgetName
    used: float
    level: float | None
    ends_s: float | None


@dataclass(frozen=True, slots=True)
class TripDay:
    """One day of a trip; `like` is the number of the first it is alike to."""

    number: int
    kind: str
    like: int
    budgets: tuple[DayBudget, ...]
    draws_met: int
    draws: int


@dataclass(frozen=True, slots=True)
class TripStop:
    """A stop on a day: what of, when, how much [SI]; planned, or needed beyond what is planned."""

    budget: BudgetName
    label: str
    day: int
    at_s: float
    amount: float
    planned: bool
    what: Service


@dataclass(frozen=True, slots=True)
class Fails:
    """The first that a trip fails by, after its planned stops."""

    day: int
    at_s: float
    budget: BudgetName
    label: str = ""


@dataclass(frozen=True, slots=True)
class Trip:
    """A trip day by day: what is taken, the stops made and needed, what fails first.

    `hopeless` names budgets that no stop before the day's first draw can carry: a day takes
    more of them than there is.
    """

    days: tuple[TripDay, ...]
    stops: tuple[TripStop, ...]
    failure: Fails | None
    hopeless: tuple[BudgetName, ...]

    @property
    def needed(self) -> tuple[TripStop, ...]:
        """The stops beyond those that are planned."""
        return tuple(stop for stop in self.stops if not stop.planned)


def trip_of(course: Course) -> Trip:
    """Give a trip day by day.

    Parameters
    ----------
    course : Course
        Its days as they ran. [-]

    Returns
    -------
    Trip
        Levels count what is asked: below 0 they say what is owed. [SI]
    """
    carried = carried_on(course)
    nearest = {budget: nearest_of(carried, budget) for budget in CARRIED}
    battery = battery_that_matters(course)
    stops, hopeless = _stops(carried)
    days = []
    edge = 0
    for leg in course.legs:
        took_j = spent(leg.setup, leg.timeline).battery_j
        for number in range(leg.first, leg.last + 1):
            budgets = [_day_budget(nearest[budget], number) for budget in CARRIED]
            level = ends_s = None
            if battery is not None:
                edge += len(leg.timeline.stretches)
                level = battery.levels_j[edge - 1]
                if battery.empty_s is not None and int(battery.empty_s // DAY_S) + 1 == number:
                    ends_s = battery.empty_s % DAY_S
            budgets.append(DayBudget("battery", took_j, level, ends_s))
            met = sum(draw.met for draw in leg.draws)
            days.append(TripDay(number, leg.kind, leg.first, tuple(budgets), met, len(leg.draws)))
    return Trip(tuple(days), stops, first_failure(course, carried), hopeless)


def _day_budget(item: Carried, number: int) -> DayBudget:
    course = item.course
    ends = course.ends if course is not None else None
    return DayBudget(
        item.budget, item.takings[number - 1].total,
        course.levels[number - 1] if course is not None else None,
        ends[1] if ends is not None and ends[0] == number else None,
    )  # fmt: skip


def _stops(
    carried: Sequence[Carried],
) -> tuple[tuple[TripStop, ...], tuple[BudgetName, ...]]:
    found: list[TripStop] = []
    hopeless: list[BudgetName] = []
    for item in carried:
        if item.course is None or item.limit is None or item.budget == "mains":
            continue

        def stop(made: Filled, item: Carried = item, *, planned: bool) -> TripStop:
            what = next(
                (one for one in REFILLS[item.budget] if one == made.what), REFILLS[item.budget][0]
            )
            return TripStop(
                item.budget, item.label, made.day, made.at_s, made.amount, planned, what
            )

        found += [stop(made, planned=True) for made in item.course.filled]
        if item.course.ends is None:
            continue
        more, enough = needed(item.limit, item.takings, item.fillings)
        found += [stop(made, planned=False) for made in more]
        if not enough and item.budget not in hopeless:
            hopeless.append(item.budget)
    found.sort(key=lambda one: (one.day, one.at_s, CARRIED.index(one.budget), one.label))
    return tuple(found), tuple(hopeless)


def first_failure(course: Course, carried: Sequence[Carried]) -> Fails | None:
    """Find what a trip fails by first, after its planned stops.

    Parameters
    ----------
    course : Course
        Its days as they ran. [-]
    carried : sequence of Carried
        What is carried through them. [-]

    Returns
    -------
    Fails or None
        None where every draw is as asked and nothing gives out. [-]
    """
    found = [
        Fails(*item.course.ends, item.budget, item.label)
        for item in carried if item.course is not None and item.course.ends is not None
    ]  # fmt: skip
    battery = battery_that_matters(course)
    if battery is not None and battery.empty_s is not None:
        found.append(Fails(int(battery.empty_s // DAY_S) + 1, battery.empty_s % DAY_S, "battery"))
    held = bottle_course(course)
    gas = course.legs[0].brief.budgets.matters("gas")
    if gas and held is not None and held[0].held_s is not None:
        found.append(Fails(int(held[0].held_s // DAY_S) + 1, held[0].held_s % DAY_S, "gas"))
    for leg in course.legs:
        for draw in leg.draws:
            if not draw.met:
                late = draw.why_not is WhyNot.LONG_WAIT
                found.append(Fails(leg.first, draw.draw.start_s, "waiting" if late else "warmth"))
    return min(found, key=lambda item: (item.day, item.at_s), default=None)
