"""Through one day: loads stacked over the hours, what charges, what the battery holds."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Final

from isotherma.core.climate import DAY_S
from isotherma.core.quantity import UnitSystem, duration_words, with_unit
from isotherma.core.results.course import Course
from isotherma.core.results.through_day import (
    PITCH,
    STANDING,
    BottleDay,
    DayPower,
    Load,
    Waits,
    through_day,
)
from isotherma.core.system.pieces import MAINS_V

WIDE, NARROW = 1000, 440
HEIGHT = 170
LEFT, RIGHT, TOP, FOOT = 64.0, 10.0, 14.0, 142.0
INKS: Final = ("0.75", "0.5", "0.3", "0.15", "0.62", "0.4", "0.22", "0.1")  # of the first and on
HOURS: Final = (0, 4, 8, 12, 16, 20, 24)
OWN_NAMES: Final = {STANDING: "Loads that stand by", PITCH: "Charger"}


@dataclass(frozen=True, slots=True)
class Band:
    """One load in the stack: its shape, its shade, what it takes."""

    name: str
    path: str
    ink: str
    words: str


@dataclass(frozen=True, slots=True)
class StackPicture:
    """Loads over the hours of a day."""

    title: str
    words: str
    width: int
    bands: tuple[Band, ...]
    line: str
    line_name: str
    limit_y: str
    limit: str
    most: str
    ticks: tuple[tuple[str, str], ...]
    height: int = HEIGHT
    left: str = f"{LEFT:.0f}"
    foot: str = f"{FOOT:.0f}"
    top: str = f"{TOP:.0f}"
    label_y: str = f"{FOOT + 18.0:.0f}"

    @property
    def right(self) -> str:
        """Where the hours end."""
        return f"{self.width - RIGHT:.0f}"


@dataclass(frozen=True, slots=True)
class ThroughView:
    """A day of the trip: its pictures, wide and narrow, and its days to choose from."""

    day: int
    days: tuple[tuple[int, bool], ...]
    wide: tuple[StackPicture, ...]
    narrow: tuple[StackPicture, ...]
    sentences: tuple[str, ...]


def _stack(
    power: DayPower, loads: Sequence[Load], title: str, words: str, width: int, *,
    line_w: Sequence[float] | None, line_name: str, limit_w: float | None, units: UnitSystem,
) -> StackPicture:  # fmt: skip
    count = len(power.edges) - 1
    sums = [sum(load.watts[at] for load in loads) for at in range(count)]
    most = max([*sums, *(line_w or ()), limit_w or 0.0, 1.0])

    def x_of(seconds: float) -> float:
        return LEFT + (width - LEFT - RIGHT) * seconds / DAY_S

    def y_of(watts: float) -> float:
        return FOOT - (FOOT - TOP) * watts / most

    bands, below = [], [0.0] * count
    for place, load in enumerate(loads):
        above = [base + watts for base, watts in zip(below, load.watts, strict=True)]
        top = [f"{x_of(power.edges[at + end]):.1f} {y_of(above[at]):.1f}"
               for at in range(count) for end in (0, 1)]  # fmt: skip
        foot = [f"{x_of(power.edges[at + end]):.1f} {y_of(below[at]):.1f}"
                for at in reversed(range(count)) for end in (1, 0)]  # fmt: skip
        joules = sum(
            watts * (power.edges[at + 1] - power.edges[at]) for at, watts in enumerate(load.watts)
        )
        bands.append(
            Band(
                load.label or OWN_NAMES[load.id], f"M{'L'.join((*top, *foot))}Z",
                INKS[place % len(INKS)],
                f"{with_unit(joules, 'battery_energy', units, 2)}, at most "
                f"{with_unit(load.most_w, 'power', units, 2)}",
            )
        )  # fmt: skip
        below = above
    line = ""
    if line_w is not None and any(watts > 0.0 for watts in line_w):
        line = "M" + "L".join(
            f"{x_of(power.edges[at + end]):.1f} {y_of(watts):.1f}"
            for at, watts in enumerate(line_w)
            for end in (0, 1)
        )
    return StackPicture(
        title, words, width, tuple(bands), line, line_name if line else "",
        f"{y_of(limit_w):.1f}" if limit_w is not None else "",
        "" if limit_w is None else with_unit(limit_w, "power", units, 2),
        with_unit(most, "power", units, 2), _ticks(width),
    )  # fmt: skip


def _level_picture(power: DayPower, width: int, units: UnitSystem) -> StackPicture | None:
    if power.level is None or not power.full_j:
        return None
    full = power.full_j

    def place(at: int, joules: float) -> str:
        x = LEFT + (width - LEFT - RIGHT) * power.edges[at] / DAY_S
        return f"{x:.1f} {FOOT - (FOOT - TOP) * joules / full:.1f}"

    first, last, least = power.level[0], power.level[-1], min(power.level)
    words = (
        f"{with_unit(first, 'battery_energy', units, 3)} at midnight, "
        f"{with_unit(last, 'battery_energy', units, 3)} at the end, "
        f"{with_unit(least, 'battery_energy', units, 3)} at least"
    )
    return StackPicture(
        "What the battery holds", words, width, (),
        "M" + "L".join(place(at, joules) for at, joules in enumerate(power.level)),
        "charge", "", "", with_unit(full, "battery_energy", units, 3), _ticks(width),
    )  # fmt: skip


def _bottle_picture(power: DayPower, width: int, units: UnitSystem) -> StackPicture | None:
    """Draw the pressure in the gas bottle with what its regulator needs at least."""
    bottle = power.bottle
    if bottle is None:
        return None
    most = 1.05 * max(*bottle.pressure_pa, bottle.least_pa)

    def y_of(pressure_pa: float) -> str:
        return f"{FOOT - (FOOT - TOP) * pressure_pa / most:.1f}"

    points = [
        f"{LEFT + (width - LEFT - RIGHT) * edge / DAY_S:.1f} {y_of(pressure)}"
        for edge, pressure in zip(power.edges, bottle.pressure_pa, strict=True)
    ]
    low = min(range(len(points)), key=lambda at: bottle.pressure_pa[at])
    words = (
        f"{with_unit(bottle.pressure_pa[low], 'pressure', units, 2)} absolute at least, "
        f"at {with_unit(power.edges[low] % DAY_S, 'clock')}, the liquid then at "
        f"{with_unit(bottle.celsius[low], 'temperature', units, 2)}; the line is what its "
        f"regulator needs; {with_unit(bottle.gas_kg[-1], 'mass', units, 2)} left at the end"
    )
    return StackPicture(
        "Pressure in the gas bottle", words, width, (), "M" + "L".join(points), "pressure",
        y_of(bottle.least_pa), with_unit(bottle.least_pa, "pressure", units, 2),
        with_unit(most, "pressure", units, 2), _ticks(width),
    )  # fmt: skip


def _ticks(width: int) -> tuple[tuple[str, str], ...]:
    return tuple(
        (f"{LEFT + (width - LEFT - RIGHT) * hour / 24.0:.1f}", f"{hour}") for hour in HOURS
    )


def _flame_words(bottle: BottleDay, edges: Sequence[float]) -> str:
    """Say how long the flame would last at the day's largest load, when that is least."""
    known = [(lasts, at) for at, lasts in enumerate(bottle.flame_s) if lasts is not None]
    if not known:
        return "At any hour the bottle would carry the day’s largest flame for six hours and more."
    least, at = min(known)
    when = with_unit(edges[at] % DAY_S, "clock")
    if least <= 0.0:
        return f"At {when} the bottle is too cold or empty for the day’s largest flame."
    return (
        f"The bottle would carry the day’s largest flame for {duration_words(least)} at least, "
        f"begun at {when}."
    )


def _waits_words(waits: Waits) -> str:
    spans = ", ".join(
        f"{with_unit(start % DAY_S, 'clock')} to {with_unit(end % DAY_S, 'clock')}"
        for start, end in waits.spans
    )
    return f"{waits.label} calls for heat and waits, for the hook-up gives no more: {spans}."


def _pictures(power: DayPower, width: int, units: UnitSystem) -> tuple[StackPicture, ...]:
    found = [_level_picture(power, width, units)]
    if power.battery or any(power.charge_w):
        charged = max(power.charge_w, default=0.0)
        words = "nothing charges it" if charged <= 0.0 else (
            f"sun, driving and hook-up would charge it with up to "
            f"{with_unit(charged, 'power', units, 2)}, the line"
        )  # fmt: skip
        found.append(
            _stack(power, power.battery, "Loads on the battery", words, width,
                   line_w=power.charge_w, line_name="charging", limit_w=None, units=units)
        )  # fmt: skip
    if power.mains:
        limit_w = None if power.plugged_a is None else power.plugged_a * MAINS_V
        words = f"{power.most_mains_a:.1f} A at most, in means of half an hour"
        if power.plugged_a is not None:
            words += f"; the hook-up gives {power.plugged_a:g} A"
        found.append(
            _stack(power, power.mains, "Loads on the hook-up", words, width, line_w=None,
                   line_name="", limit_w=limit_w, units=units)
        )  # fmt: skip
    found.append(_bottle_picture(power, width, units))
    return tuple(one for one in found if one is not None)


def through_view(course: Course, asked: str, shown: int, units: UnitSystem) -> ThroughView:
    """Give the day that is asked for, else the one the pages show."""
    number = int(asked) if asked.isascii() and asked.isdecimal() and len(asked) < 4 else shown
    number = min(max(1, number), course.days)
    power = through_day(course, number)
    coldest = min(power.air_c, default=None)
    sentences = []
    if coldest is not None:
        sentences.append(f"Outside it is {with_unit(coldest, 'temperature', units, 2)} at least.")
    if power.shed:
        sentences.append(f"Cut by a fuse: {', '.join(power.shed)}.")
    sentences += [_waits_words(one) for one in power.waits]
    if power.bottle is not None:
        sentences.append(_flame_words(power.bottle, power.edges))
    return ThroughView(
        number, tuple((leg.first, leg.first <= number <= leg.last) for leg in course.legs),
        _pictures(power, WIDE, units), _pictures(power, NARROW, units), tuple(sentences),
    )  # fmt: skip
