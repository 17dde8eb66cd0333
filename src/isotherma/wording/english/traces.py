"""A number, opened, in words: its title, formula, meaning, range and source, and its inputs."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Final

from isotherma.core.results.ledger import TITLES
from isotherma.core.results.traced import Input, Trace

ALIKE: Final = "Days alike."
BALANCE: Final = "Energy balance of the simulated day."
OUTLET: Final = "Simulated temperature at the outlet."


@dataclass(frozen=True, slots=True)
class TraceWords:
    """What a formula is and means, where it holds and whose it is."""

    formula: str
    words: str
    valid: str
    source: str


FLOW: Final = TraceWords(
    "q = K √Δp, with what drives the water = Σ losses(q) + ρ g Δz",
    "The outlet passes what the pressure left before it can push. The pump gives less pressure the "
    "more flows; pipes and valves take more. Where both meet is the flow.",
    "Steady flow with temperatures settled; losses on the strongest way.",
    "Darcy and Weisbach with Colebrook's friction; outlet law q = K√Δp.",
)
PART_OPEN: Final = TraceWords(
    "q = s K √Δp, with what drives the water = Σ losses(q) + ρ g Δz", FLOW.words, FLOW.valid,
    FLOW.source,
)  # fmt: skip


def _water(grey: bool) -> TraceWords:
    ends = ", as far as it ends in the grey tank" if grey else ""
    return TraceWords(
        "V = n (Σ Vᵢ + Σ Vᵤ)",
        f"What draws take of the tank on a day, and all other water of the day{ends}, times the "
        "days.",
        ALIKE,
        "Simulated flow summed over every step.",
    )


def _fuel(worth: str) -> TraceWords:
    return TraceWords(
        f"n Σ Eᵢ, {worth}",
        "Heat that each source gave on a day over the share that reaches the water, and what pumps "
        "and heaters draw, times the days.",
        ALIKE,
        BALANCE,
    )


TRACES: Final[Mapping[str, TraceWords]] = {
    "flow_round": TraceWords(
        "q = the flow of the loop's own pump",
        "The same water goes round: down the drain, through filter and exchanger, up again.",
        "Its pump is taken to give its flow whatever the filter holds back.",
        "The figures of the part.",
    ),
    "flow_head_full": FLOW,
    "flow_head_part": PART_OPEN,
    "flow_outlet_full": FLOW,
    "flow_outlet_part": PART_OPEN,
    "wait": TraceWords(
        "wait = t₁ − t₀",
        "Cold water stands in the pipes and the walls take heat first. The wait ends when the "
        "water at the outlet has stayed inside the window for five seconds, counted from the first "
        "of them.",
        "Resolved to a quarter of a second; never warm means no wait is given.",
        "Plug flow with wall heat, simulated.",
    ),
    "energy": TraceWords(
        "Q = Σ Qᵢ",
        "Heat that sources gave to the water and its vessels in a day. Fuel is the heat over the "
        "share that reaches the water and the net heating value.",
        "One day; the store stands at midnight as the brief says.",
        BALANCE,
    ),
    "warm": TraceWords(
        "t = Σ min(tᵢ, askedᵢ)",
        "Seconds in which the water at the outlet was inside the draw's window, summed over the "
        "day's draws; no draw counts for more than was asked.",
        "Steps of a quarter of a second to one second.",
        OUTLET,
    ),
    "hot": TraceWords(
        "V = Σ x·m / ρ(T_hot)",
        "The hot share of every step's water, at the hot water's own density; without a mixer all "
        "of it is hot.",
        "Hot share between 3 % and 97 % behind a mixer, the stops of the valve.",
        "Mixing by mass: x = (T_mix − T_cold)/(T_hot − T_cold).",
    ),
    "used_fresh": _water(grey=False),
    "used_grey": _water(grey=True),
    "used_gas": _fuel(
        "E = Q / (η H), H the net heat of a kilogram: 46.34 MJ propane, 45.72 butane"
    ),
    "used_diesel": _fuel("E = Q / (η H), H the net heat of a litre: 35.7 MJ diesel, 31.8 petrol"),
    "used_mains": _fuel("E = Q, or what a charger takes"),
    "used_battery": _fuel("E = Q, or watts × seconds, or energy × starts"),
    "used_charged": TraceWords(
        "U − L + S",
        "How far the battery falls on the trip: loads and charge are followed half hour by half "
        "hour from full; charge serves loads first and is lost when the battery is full.",
        "Sun as the days of the trip have it, else as on an average day.",
        "Energy balance of each half hour.",
    ),
    "used_trip": TraceWords(
        "n = Σ Dᵢ",
        "What the days of each kind take, as often as the trip has them.",
        "Each day begins as the one before it ended.",
        "Simulated days, summed over every step.",
    ),
    "used_filled": TraceWords(
        "U − L",
        "How far it is drawn down between two fillings: every day takes off what it uses, every "
        "stop brings it up again.",
        "Below nothing it counts what is still asked until the next filling.",
        "Balance of what comes and goes.",
    ),
    "used_warmth": TraceWords(
        "t = Σ tᵢ", "Warm minutes the draws of a day ask for.", "One day.", "The brief."
    ),
    "used_waiting": TraceWords(
        "t = max tᵢ",
        "The longest wait of the day; who never gets warm water counts with the time after which "
        "they give up.",
        "One day.",
        OUTLET,
    ),
}
FLOW_TITLES: Final = {
    "flow_round": "Flow at the head",
    "flow_head_full": "Flow at the head",
    "flow_head_part": "Flow at the head",
    "flow_outlet_full": "Flow at the outlet",
    "flow_outlet_part": "Flow at the outlet",
}
TRACE_TITLES: Final = {
    "energy": "Heat of the day", "warm": "Warm minutes", "hot": "Hot water used",
}  # fmt: skip
# with the name of what it is of in the place of the braces
INPUTS: Final[Mapping[str, str]] = {
    "flow_of": "flow of {}",
    "going_round": "water going round",
    "exchanger": "its exchanger",
    "flow_factor_of": "flow factor of {}",
    "share_open": "share of it that is open",
    "before_the_outlet": "pressure before the outlet",
    "highest_pressure": "highest pressure on the way",
    "lifts_the_water": "taken to lift the water",
    "taken_by": "taken by {}",
    "inside_from": "start of the first 5 s inside the window",
    "opened": "tap opened",
    "warm_from": "warm enough from",
    "too_hot_above": "too hot above",
    "standing": "water standing on the strongest way to the outlet",
    "flow": "flow",
    "heat_from": "heat from {}",
    "heat_from_coolant": "heat from engine coolant",
    "heat_from_air": "heat from hot air",
    "lost_by_stores": "of it lost by stores",
    "lost_by_pipes": "of it lost by pipes and heaters",
    "gas_taken": "gas it takes",
    "fuel_taken": "liquid fuel it takes",
    "mains_taken": "from the mains",
    "battery_taken": "from the battery, pumps too",
    "draw": "{}",
    "use": "{}",
    "still_wanted": "{}, still wanted when the water was gone",
    "asked": "{}: asked",
    "days": "days between fills",
    "filling_up": "filling up what was emptied",
    "seconds_of": "seconds of {}",
    "starts_of": "starts of {}",
    "kettles": "kettles for the bag",
    "charging": "charging the battery",
    "standing_by": "other loads, pads and what stands by",
    "days_of": "day {}",
    "when_full": "when it is full",
    "usable": "usable when full",
    "lowest": "lowest on the trip",
    "short_of_it": "short of it, once empty",
    "out_of_it": "out of it on a day",
    "into_it": "into it on a day",
}


def trace_title(trace: Trace) -> str:
    """Name a number that can be opened."""
    if trace.code in FLOW_TITLES:
        return f"Flow: {trace.subject}" if trace.subject else FLOW_TITLES[trace.code]
    if trace.code == "wait":
        return f"Wait for warm water: {trace.subject}"
    if trace.code.startswith("used_"):
        budget = next(name for name in TITLES if name == trace.subject)
        return f"{TITLES[budget]} used"
    return TRACE_TITLES[trace.code]


def input_words(item: Input) -> str:
    """Say what one value in a formula is."""
    return INPUTS[item.code].format(item.subject)
