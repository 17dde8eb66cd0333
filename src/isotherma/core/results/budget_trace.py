"""Opening the budgets: what each is the sum of, term by term."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from typing import Final

from isotherma.core import water
from isotherma.core.fields import known_or
from isotherma.core.flows.waste import GROUND
from isotherma.core.results.course import Course, Leg
from isotherma.core.results.draws import DrawResult
from isotherma.core.results.inventory import battery_course
from isotherma.core.results.ledger import Entry
from isotherma.core.results.spending import kettle_takes, pitch_w, spent
from isotherma.core.results.traced import Input, Trace
from isotherma.core.results.trip import carried_on, nearest_of
from isotherma.core.results.waters import fresh_shares, grey_shares, nearest, sink_of
from isotherma.core.setup import Setup
from isotherma.core.setup.consumption import BudgetName, Term
from isotherma.core.supply.battery import Level
from isotherma.core.timeline.record import Day

Rule = Callable[[Mapping[str, Sequence[float]]], float]
_VALUE: Final[Mapping[BudgetName, str]] = {
    "gas": "mass", "diesel": "volume", "mains": "energy", "battery": "battery_energy",
}  # fmt: skip


def _one(values: Mapping[str, Sequence[float]], symbol: str) -> float:
    return values.get(symbol, (0.0,))[0]


def _per_days(values: Mapping[str, Sequence[float]]) -> float:
    """N × Σ of everything else."""
    rest = sum(sum(row) for symbol, row in values.items() if symbol != "n")
    return _one(values, "n") * rest


def _days(days: int) -> Input:
    return Input("n", "days", float(days), "number", "brief.days")


def _water(setup: Setup, day: Day, draws: tuple[DrawResult, ...], entry: Entry) -> Trace:
    density = water.density_kg_per_m3(setup.conditions.fresh_c)
    grey = entry.budget == "grey"
    inputs = [_days(setup.brief.trip_days)]
    if grey:
        share = nearest(grey_shares(setup, draws, setup.brief.budgets.grey_m3))
    else:
        share = nearest(fresh_shares(setup, day, draws))
    counted = 0.0
    for draw in draws:
        path = f"brief.draws.{draw.draw.id}"
        sink = known_or(sink_of(setup, draw), share.id)
        part = draw.took_m3.get(share.id, 0.0)
        if grey:
            part = draw.used_m3 if sink != GROUND and share.id in ("", sink) else 0.0
        if part > 0.0:
            inputs.append(Input("Vᵢ", "draw", part, "volume", path, draw.draw.name))
            counted += part
        of_it = (sink != GROUND and share.id in ("", sink)) if grey else draw.empty == share.id
        if draw.missing_kg > 0.0 and of_it:
            missing = draw.missing_kg / density
            inputs.append(Input("Vᵢ", "still_wanted", missing, "volume", path, draw.draw.name))
            counted += missing
    rest = share.per_day_m3 - counted
    for use in setup.brief.uses:
        part = use.day_m3 * (use.grey_share if grey else 1.0)
        if 0.0 < part <= rest + 1e-9 and (grey or use.source in (None, share.id)):
            inputs.append(Input("Vᵤ", "use", part, "volume", f"brief.uses.{use.id}", use.name))
            rest -= part
    if rest > 1e-9:
        inputs.append(Input("Vᵢ", "filling_up", rest, "volume"))
    return _made(entry, "grey" if grey else "fresh", inputs, _per_days)


def _made(entry: Entry, code: str, inputs: Sequence[Input], rule: Rule) -> Trace:
    values: dict[str, list[float]] = {}
    for item in inputs:
        values.setdefault(item.symbol, []).append(item.value)
    return Trace(
        f"used.{entry.budget}", f"used_{code}", rule(values), entry.style, tuple(inputs),
        entry.budget,
    )  # fmt: skip


def _term_inputs(setup: Setup, term: Term) -> list[Input]:
    label = setup.parts[term.part_id].label
    path = f"parts.{term.part_id}"
    return [Input("Eᵢ", term.code, term.value, _VALUE[term.budget], path, label)]


def _fuel(setup: Setup, day: Day, entry: Entry) -> Trace:
    heats = setup.consumers.heats_of(day.balance)
    inputs = [_days(setup.brief.trip_days)]
    found = setup.consumers.terms(heats, day.pumped_s, day.starts, day.balance.drawn_j)
    for term in found:
        if term.budget == entry.budget:
            inputs += _term_inputs(setup, term)
    kettle = kettle_takes(setup, day)
    extra = {"gas": kettle.gas_kg, "mains": kettle.mains_j, "battery": kettle.battery_j}
    if extra.get(entry.budget, 0.0) > 0.0:
        inputs.append(Input("Eᵢ", "kettles", extra[entry.budget], _VALUE[entry.budget]))
    if entry.budget == "mains":
        charging = sum(pitch_w(setup, row) * row.span_s for row in day.stretches)
        if charging > 0.0:
            inputs.append(Input("Eᵢ", "charging", charging, "energy"))
    if entry.budget == "battery":
        standing = sum(row.standing_w * row.span_s for row in day.stretches)
        if standing > 0.0:
            inputs.append(Input("Eᵢ", "standing_by", standing, "battery_energy"))
    return _made(entry, entry.budget, inputs, _per_days)


def _battery(course: Course, entry: Entry) -> Trace:
    level, leg = battery_course(course), course.legs[0]
    if level is None or level.charged_j <= 0.0:
        return _fuel(leg.setup, leg.timeline, entry)
    return _battery_fall(course, level, entry)


def _battery_fall(course: Course, level: Level, entry: Entry) -> Trace:
    usable = course.legs[0].setup.hours.full_j
    style = "battery_energy"
    short = max(0.0, (level.used_j - level.charged_j) * course.days - usable)
    inputs = [
        Input("U", "usable", usable, style),
        Input("L", "lowest", level.least_j, style),
        Input("S", "short_of_it", 0.0 if level.empty_s is None else short, style),
        _days(course.days),
        Input("", "out_of_it", level.used_j, style),
        Input("", "into_it", level.charged_j, style),
    ]
    return _made(
        entry, "charged", inputs,
        lambda values: _one(values, "U") - _one(values, "L") + _one(values, "S"),
    )  # fmt: skip


def _people(draws: tuple[DrawResult, ...], entry: Entry, gives_up_s: float) -> Trace:
    if entry.budget == "warmth":
        inputs = [
            Input("tᵢ", "asked", draw.asked_s, "minutes", f"brief.draws.{draw.draw.id}.duration_s",
                  draw.draw.name)
            for draw in draws
        ]  # fmt: skip
        return _made(entry, "warmth", inputs, lambda values: sum(values.get("tᵢ", ())))
    inputs = [
        Input("tᵢ", "draw", draw.wait_s if draw.wait_s is not None else gives_up_s, "seconds",
              f"brief.draws.{draw.draw.id}", draw.draw.name)
        for draw in draws
    ]  # fmt: skip
    return _made(entry, "waiting", inputs, lambda values: max(values.get("tᵢ", ()), default=0.0))


def _over_trip(course: Course, entry: Entry) -> Trace:
    """Open what days that differ use, or what is drawn between two fillings."""
    style = entry.style
    if entry.filled and entry.limit is not None:
        inputs = [
            Input("U", "when_full", entry.limit, style),
            Input("L", "lowest", entry.limit - entry.used, style),
        ]
        return _made(entry, "filled", inputs, lambda values: _one(values, "U") - _one(values, "L"))
    taken = nearest_of(carried_on(course), entry.budget).takings
    inputs = [
        Input("Dᵢ", "days_of", sum(item.total for item in taken[leg.first - 1 : leg.last]), style,
              subject=_numbered(leg))
        for leg in course.legs
    ]  # fmt: skip
    return _made(entry, "trip", inputs, lambda values: sum(values.get("Dᵢ", ())))


def _numbered(leg: Leg) -> str:
    return str(leg.first) if leg.first == leg.last else f"{leg.first} to {leg.last}"


def _trip_battery(course: Course, entry: Entry) -> Trace:
    level = battery_course(course)
    if level is None:
        inputs = [
            Input("Dᵢ", "days_of", spent(leg.setup, leg.timeline).battery_j * leg.days,
                  entry.style, subject=_numbered(leg))
            for leg in course.legs
        ]  # fmt: skip
        return _made(entry, "trip", inputs, lambda values: sum(values.get("Dᵢ", ())))
    return _battery_fall(course, level, entry)


def _trip_warmth(course: Course, entry: Entry) -> Trace:
    inputs = [
        Input("Dᵢ", "days_of", sum(draw.asked_s for draw in leg.draws) * leg.days, "minutes",
              subject=_numbered(leg))
        for leg in course.legs
    ]  # fmt: skip
    return _made(entry, "trip", inputs, lambda values: sum(values.get("Dᵢ", ())))


def budget_traces(course: Course, ledger: tuple[Entry, ...]) -> tuple[Trace, ...]:
    """Open what each budget uses.

    Parameters
    ----------
    course : Course
        All days of the trip. [-]
    ledger : tuple of Entry
        The budgets. [-]

    Returns
    -------
    tuple of Trace
        One per budget, its value worked out from the inputs it shows. [-]
    """
    first, alike = course.legs[0], course.alike
    setup, day = first.setup, first.timeline
    every = tuple(draw for leg in course.legs for draw in leg.draws)
    found = []
    for entry in ledger:
        if entry.budget == "waiting" or (entry.budget == "warmth" and alike is not None):
            found.append(_people(every, entry, setup.brief.gives_up_s))
        elif entry.budget == "warmth":
            found.append(_trip_warmth(course, entry))
        elif entry.budget == "battery":
            opened = _battery(course, entry) if alike is not None else _trip_battery(course, entry)
            found.append(opened)
        elif alike is None or alike.stops:
            found.append(_over_trip(course, entry))
        elif entry.budget in ("fresh", "grey"):
            found.append(_water(setup, day, alike.draws, entry))
        else:
            found.append(_fuel(setup, day, entry))
    return tuple(found)
