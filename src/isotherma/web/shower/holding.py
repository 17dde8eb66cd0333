"""Holding the store hot against switching it on in time, ready to read."""

from __future__ import annotations

from dataclasses import dataclass

from isotherma.core.quantity import UnitSystem, duration_words, with_unit
from isotherma.core.results.holding import Holding
from isotherma.wording import HOLDING


@dataclass(frozen=True, slots=True)
class HoldingRow:
    """One way to have hot water in time, ready to read."""

    title: str
    warm: str
    energy: str
    fuel: str
    wait: str
    met: str
    first: bool


def holding_row(held: Holding, place: int, units: UnitSystem) -> HoldingRow:
    """Put one way into words; the first is how it is now."""
    burnt = [
        words for value, words in (
            (held.gas_kg, with_unit(held.gas_kg, "mass", units, 2)),
            (held.diesel_m3, with_unit(held.diesel_m3, "volume", units, 2)),
        ) if value > 0.0
    ]  # fmt: skip
    lead = "" if held.lead_s is None else duration_words(held.lead_s)
    return HoldingRow(
        title=HOLDING[held.id].format(lead),
        warm=with_unit(held.warm_m3, "volume", units, 3),
        energy=with_unit(held.electric_j, "battery_energy", units, 3),
        fuel=", ".join(burnt) or "–",
        wait="never" if held.wait_s is None else duration_words(held.wait_s),
        met=f"{held.met} of {held.draws}", first=place == 0,
    )  # fmt: skip
