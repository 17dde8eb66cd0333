"""Opening the budgets: what each is the sum of, term by term."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from typing import Final

from isotherma.core import water
from isotherma.core.fields import known_or
from isotherma.core.flows.waste import GROUND
from isotherma.core.results.carried import battery_level
from isotherma.core.results.draws import DrawResult
from isotherma.core.results.ledger import TITLES, Entry
from isotherma.core.results.spending import kettle_takes, pitch_w
from isotherma.core.results.traced import Input, Trace
from isotherma.core.results.waters import fresh_shares, grey_shares, nearest, sink_of
from isotherma.core.setup import Setup
from isotherma.core.setup.consumption import BudgetName, Term
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
    return Input("n", "days between fills", float(days), "number", "brief.days")


def _water(setup: Setup, day: Day, draws: tuple[DrawResult, ...], entry: Entry) -> Trace:
    density = water.density_kg_per_m3(setup.conditions.fresh_c)
    grey = entry.budget == "grey"
    inputs = [_days(setup.brief.days)]
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
            inputs.append(Input("Vᵢ", draw.draw.name, part, "volume", path))
            counted += part
        of_it = (sink != GROUND and share.id in ("", sink)) if grey else draw.empty == share.id
        if draw.missing_kg > 0.0 and of_it:
            missing = draw.missing_kg / density
            words = f"{draw.draw.name}, still wanted when the water was gone"
            inputs.append(Input("Vᵢ", words, missing, "volume", path))
            counted += missing
    rest = share.per_day_m3 - counted
    for use in setup.brief.uses:
        part = use.day_m3 * (use.grey_share if grey else 1.0)
        if 0.0 < part <= rest + 1e-9 and (grey or use.source in (None, share.id)):
            inputs.append(Input("Vᵤ", use.name, part, "volume", f"brief.uses.{use.id}"))
            rest -= part
    if rest > 1e-9:
        inputs.append(Input("Vᵢ", "filling up what was emptied", rest, "volume"))
    return _made(
        entry, "V = n (Σ Vᵢ + Σ Vᵤ)",
        "What draws take of the tank on a day, and all other water of the day"
        + (", as far as it ends in the grey tank" if grey else "") + ", times the days.",
        inputs, "Days alike.", "Simulated flow summed over every step.", _per_days,
    )  # fmt: skip


def _made(
    entry: Entry, formula: str, words: str, inputs: Sequence[Input], valid: str, source: str,
    rule: Rule,
) -> Trace:  # fmt: skip
    values: dict[str, list[float]] = {}
    for item in inputs:
        values.setdefault(item.symbol, []).append(item.value)
    return Trace(
        id=f"used.{entry.budget}", title=f"{TITLES[entry.budget]} used", value=rule(values),
        style=entry.style, formula=formula, words=words, inputs=tuple(inputs), valid=valid,
        source=source,
    )  # fmt: skip


def _term_inputs(setup: Setup, term: Term) -> list[Input]:
    label = setup.parts[term.part_id].label
    path = f"parts.{term.part_id}"
    return [Input("Eᵢ", f"{term.words} {label}", term.value, _VALUE[term.budget], path)]


def _fuel(setup: Setup, day: Day, entry: Entry) -> Trace:
    heats = setup.consumers.heats_of(day.balance)
    inputs = [_days(setup.brief.days)]
    found = setup.consumers.terms(heats, day.pumped_s, day.starts, day.balance.drawn_j)
    for term in found:
        if term.budget == entry.budget:
            inputs += _term_inputs(setup, term)
    kettle = kettle_takes(setup, day)
    extra = {"gas": kettle.gas_kg, "mains": kettle.mains_j, "battery": kettle.battery_j}
    if extra.get(entry.budget, 0.0) > 0.0:
        inputs.append(Input("Eᵢ", "kettles for the bag", extra[entry.budget], _VALUE[entry.budget]))
    if entry.budget == "mains":
        charging = sum(pitch_w(setup, row) * row.span_s for row in day.stretches)
        if charging > 0.0:
            inputs.append(Input("Eᵢ", "charging the battery", charging, "energy"))
    if entry.budget == "battery":
        standing = sum(row.standing_w * row.span_s for row in day.stretches)
        if standing > 0.0:
            words = "other loads, pads and what stands by"
            inputs.append(Input("Eᵢ", words, standing, "battery_energy"))
    worth = {
        "gas": "E = Q / (η H), H the net heat of a kilogram: 46.34 MJ propane, 45.72 butane",
        "diesel": "E = Q / (η H), H the net heat of a litre: 35.7 MJ diesel, 31.8 petrol",
        "mains": "E = Q, or what a charger takes",
        "battery": "E = Q, or watts × seconds, or energy × starts",
    }[entry.budget]
    return _made(
        entry, f"n Σ Eᵢ, {worth}",
        "Heat that each source gave on a day over the share that reaches the water, and what "
        "pumps and heaters draw, times the days.", inputs, "Days alike.",
        "Energy balance of the simulated day.", _per_days,
    )  # fmt: skip


def _battery(setup: Setup, day: Day, entry: Entry) -> Trace:
    level = battery_level(setup, day, setup.brief.days)
    if level is None or level.charged_j <= 0.0:
        return _fuel(setup, day, entry)
    usable = setup.hours.full_j
    style = "battery_energy"
    short = max(0.0, (level.used_j - level.charged_j) * setup.brief.days - usable)
    inputs = [
        Input("U", "usable when full", usable, style),
        Input("L", "lowest on the trip", level.least_j, style),
        Input("S", "short of it, once empty", 0.0 if level.empty_s is None else short, style),
        _days(setup.brief.days),
        Input("", "out of it on a day", level.used_j, style),
        Input("", "into it on a day", level.charged_j, style),
    ]
    return _made(
        entry, "U − L + S",
        "How far the battery falls on the trip: loads and charge are followed half hour by half "
        "hour from full; charge serves loads first and is lost when the battery is full.",
        inputs, "Days alike; sun as on an average day.", "Energy balance of each half hour.",
        lambda values: _one(values, "U") - _one(values, "L") + _one(values, "S"),
    )  # fmt: skip


def _people(draws: tuple[DrawResult, ...], entry: Entry, gives_up_s: float) -> Trace:
    if entry.budget == "warmth":
        inputs = [
            Input("tᵢ", f"{draw.draw.name}: asked", draw.asked_s, "minutes",
                  f"brief.draws.{draw.draw.id}.duration_s")
            for draw in draws
        ]  # fmt: skip
        return _made(
            entry, "t = Σ tᵢ", "Warm minutes the draws of a day ask for.", inputs, "One day.",
            "The brief.", lambda values: sum(values.get("tᵢ", ())),
        )  # fmt: skip
    inputs = [
        Input("tᵢ", draw.draw.name, draw.wait_s if draw.wait_s is not None else gives_up_s,
              "seconds", f"brief.draws.{draw.draw.id}")
        for draw in draws
    ]  # fmt: skip
    return _made(
        entry, "t = max tᵢ",
        "The longest wait of the day; who never gets warm water counts with the time after which "
        "they give up.", inputs, "One day.", "Simulated temperature at the outlet.",
        lambda values: max(values.get("tᵢ", ()), default=0.0),
    )  # fmt: skip


def budget_traces(
    setup: Setup, day: Day, draws: tuple[DrawResult, ...], ledger: tuple[Entry, ...]
) -> tuple[Trace, ...]:
    """Open what each budget uses.

    Parameters
    ----------
    setup : Setup
        The documents and what follows from them. [-]
    day : Day
        A day of it. [-]
    draws : tuple of DrawResult
        Its draws. [-]
    ledger : tuple of Entry
        The budgets. [-]

    Returns
    -------
    tuple of Trace
        One per budget, its value worked out from the inputs it shows. [-]
    """
    found = []
    for entry in ledger:
        if entry.budget in ("fresh", "grey"):
            found.append(_water(setup, day, draws, entry))
        elif entry.budget == "battery":
            found.append(_battery(setup, day, entry))
        elif entry.budget in ("warmth", "waiting"):
            found.append(_people(draws, entry, setup.brief.gives_up_s))
        else:
            found.append(_fuel(setup, day, entry))
    return tuple(found)
