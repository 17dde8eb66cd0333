"""Where it goes: fresh water, heat, fuel and battery of a trip, split by what takes them."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import dataclass
from functools import partial
from typing import Final, Literal

from isotherma.core import water
from isotherma.core.results.course import Course, Leg
from isotherma.core.results.spending import kettle_takes, pitch_w
from isotherma.core.results.trip import BUDGET_STYLES
from isotherma.core.results.waters import fresh_shares

Fuel = Literal["gas", "diesel", "mains", "battery"]
Of = Literal["fresh", "heat", "gas", "diesel", "mains", "battery"]
_FUELS: Final[tuple[Fuel, ...]] = ("gas", "diesel", "mains", "battery")


@dataclass(frozen=True, slots=True)
class Goes:
    """One thing that takes: a code, of whom or of what, how much on the whole trip [SI].

    `path` names the draw or part in the documents; "" for neither.
    """

    code: str
    subject: str
    amount: float
    path: str = ""


@dataclass(frozen=True, slots=True)
class Going:
    """Where one budget goes; its rows add up to what is taken."""

    of: Of
    rows: tuple[Goes, ...]

    @property
    def style(self) -> str:
        """Name how it is written."""
        return "energy" if self.of == "heat" else BUDGET_STYLES[self.of]

    @property
    def total(self) -> float:
        """All of it [SI]."""
        return sum(row.amount for row in self.rows)


def where_it_goes(course: Course) -> tuple[Going, ...]:
    """Split what a trip takes by what takes it.

    Parameters
    ----------
    course : Course
        The days of a trip. [-]

    Returns
    -------
    tuple of Going
        Fresh water by draw, with what runs away cold, and by use; heat by where it ends; fuel,
        mains and battery by part. What nothing is taken of is left out. [SI]

    References
    ----------
    Balance of each day; a day's error is below a thousandth.
    """
    found = [
        _added("fresh", course, _fresh), _added("heat", course, _heat),
        *(_added(fuel, course, partial(_fuel, budget=fuel)) for fuel in _FUELS),
    ]  # fmt: skip
    return tuple(item for item in found if item.total > 0.0)


def _added(of: Of, course: Course, rows: Callable[[Leg], Iterator[Goes]]) -> Going:
    total: dict[tuple[str, str, str], float] = {}
    for leg in course.legs:
        for row in rows(leg):
            key = row.code, row.subject, row.path
            total[key] = total.get(key, 0.0) + row.amount * leg.days
    made = (Goes(code, subject, amount, path) for (code, subject, path), amount in total.items())
    return Going(of, tuple(row for row in made if abs(row.amount) > 0.0))


def _fresh(leg: Leg) -> Iterator[Goes]:
    """Say what draws and uses take of what is carried, and what fills up what was emptied."""
    setup = leg.setup
    density = water.density_kg_per_m3(setup.conditions.fresh_c)
    left = sum(share.per_day_m3 for share in fresh_shares(setup, leg.timeline, leg.draws))
    carried = {key for well in setup.reservoirs.reservoirs for key in well.ids}
    for draw in leg.draws:
        took = sum(amount for key, amount in draw.took_m3.items() if key in carried)
        took += draw.missing_kg / density if draw.empty in carried else 0.0
        if took <= 0.0:
            continue
        path = f"brief.draws.{draw.draw.id}"
        cold = min(took, draw.cold_m3)
        yield Goes("waiting", draw.draw.name, cold, path)
        yield Goes("washing", draw.draw.name, took - cold, path)
        left -= took
    home = setup.home >= 0
    for use in leg.brief.uses:
        amount = use.day_m3 if (use.source in carried if use.source else home) else 0.0
        if 0.0 < amount <= left + 1e-9:
            yield Goes("use", use.name, amount, f"brief.uses.{use.id}")
            left -= amount
    if left > 1e-9:
        yield Goes("filling_up", "", left)


def _heat(leg: Leg) -> Iterator[Goes]:
    """Say where the heat of a day ends: in draws, or lost on the way."""
    balance = leg.timeline.balance
    yield Goes("with_the_water", "", balance.heat_out_j)
    for code, lost_j in (
        ("standing", balance.store_loss_j), ("pipes", balance.pipe_loss_j),
        ("heaters", balance.body_loss_j),
    ):  # fmt: skip
        yield Goes(code if lost_j >= 0.0 else "from_around", "", lost_j)


def _fuel(leg: Leg, budget: Fuel) -> Iterator[Goes]:
    """Say which part takes it, what charges, and what stands by."""
    setup, day = leg.setup, leg.timeline
    heats = setup.consumers.heats_of(day.balance)
    terms = setup.consumers.terms(heats, day.pumped_s, day.starts, day.balance.drawn_j)
    by_part: dict[str, float] = {}
    for term in terms:
        if term.budget == budget:
            by_part[term.part_id] = by_part.get(term.part_id, 0.0) + term.value
    for part_id, value in by_part.items():
        yield Goes("part", setup.parts[part_id].label, value, f"parts.{part_id}")
    kettle = kettle_takes(setup, day)
    extra = {"gas": kettle.gas_kg, "mains": kettle.mains_j, "battery": kettle.battery_j}
    if extra.get(budget, 0.0) > 0.0:
        yield Goes("kettles", "", extra[budget])
    if budget == "mains":
        yield Goes("charging", "", sum(pitch_w(setup, row) * row.span_s for row in day.stretches))
    if budget == "battery":
        yield Goes("standing_by", "", sum(row.standing_w * row.span_s for row in day.stretches))
