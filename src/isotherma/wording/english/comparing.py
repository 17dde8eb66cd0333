"""Remedies of the dead leg and mixing strategies, in words."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Final

from isotherma.core.quantity import UnitSystem, with_unit
from isotherma.core.results.remedies import Remedy

REMEDIES: Final[Mapping[str, str]] = {
    "as-is": "as it is",
    "shorter": "half as long",
    "thinner": "a size thinner",
    "insulated": "insulated with 13 mm foam",
    "at-outlet": "heater at the outlet",
    "without": "without the loop",
    "button": "loop on a button",
    "timed": "loop on a timer",
    "continuous": "loop that always runs",
    "jug": "caught in a jug",
    "diverter": "diverter back to the tank",
}
NEEDS: Final[Mapping[str, str]] = {
    "nothing": "nothing",
    "nearer": "heater and outlet nearer to each other",
    "reducers": "two reducers",
    "sleeve": "{} of sleeve",
    "elsewhere": "another place for the heater",
    "loop_set": "the loop pump set so",
    "loop_to_store": "loop pump, check valve, return pipe to the store's inlet",
    "loop": "loop pump, check valve, return pipe",
    "jug": "a jug",
    "diverter": "a diverter and a return pipe",
}
KEPT: Final[Mapping[str, str]] = {
    "": "",
    "dips": "then a dip: fresh cold reaches a mixing valve that was used to warm water",
    "water_kept": "water kept, heat lost",
    "all_kept": "water and heat kept",
    "estimated": "estimated from the loss of twice the way",
}
STRATEGIES: Final[Mapping[str, str]] = {
    "as-is": "as it is",
    "fixture": "mixed at the fixture",
    "nudged": "manual, nudged as it sags",
    "left": "manual, left alone",
    "set-point": "the store’s setting is the mixer",
}

HOLDING: Final[Mapping[str, str]] = {
    "as-is": "as it is",
    "held": "held hot all day",
    "in-time": "switched on {} before the first draw",
    "stepped": "held at half its watts, full an hour before a draw",
}


def needs_words(remedy: Remedy, units: UnitSystem) -> str:
    """Say what a remedy takes."""
    much = "" if remedy.needs_m is None else with_unit(remedy.needs_m, "length", units, 2)
    return NEEDS[remedy.needs].format(much)
