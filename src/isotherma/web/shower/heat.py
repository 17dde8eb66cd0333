"""Heat, damp and frost of a day: what the shower leaves behind and what the cold does."""

from __future__ import annotations

from dataclasses import dataclass
from math import isfinite

from isotherma.core.quantity import UnitSystem, duration_words, with_unit
from isotherma.core.results.damp import vapours
from isotherma.core.results.duty import duties, hottest_at_rest_c
from isotherma.core.results.frost import freezes
from isotherma.core.results.heating import HeatUp, heat_ups
from isotherma.core.results.outcome import Outcome

MOST_FROZEN = 12  # the soonest; the file has them all


@dataclass(frozen=True, slots=True)
class HeatView:
    """Rows of words: sources, heaters, showers that leave damp, what freezes."""

    sources: tuple[tuple[str, str, str], ...]
    hottest: str
    duties: tuple[tuple[str, str, str, str], ...]
    damp: tuple[tuple[str, str, str, str], ...]
    frost: tuple[tuple[str, str, str, str], ...]
    frost_words: str


def heat_view(outcome: Outcome, units: UnitSystem) -> HeatView:
    """Write what a day says of heat, damp and frost."""
    names = {draw.draw.id: draw.draw.name for draw in outcome.draws}
    hottest = hottest_at_rest_c(outcome)
    frozen = freezes(outcome.setup, outcome.timeline)

    def degrees(value: float) -> str:
        return with_unit(value, "temperature", units, 3)

    damp = []
    for item in vapours(outcome):
        fan = item.vapour.fan_s
        damp.append((
            names[item.draw], with_unit(item.vapour.vapour_kg, "mass", units, 2),
            with_unit(item.vapour.condensed_kg, "mass", units, 2),
            duration_words(fan) if isfinite(fan) else "never: the air outside is as damp",
        ))  # fmt: skip
    words = "Nothing that is filled stands below freezing in this month."
    if frozen:
        coldest = min(item.air_c for item in frozen)
        words = (
            f"On the coldest of the night, at {degrees(coldest)} around it, with nothing heating. "
            "Drain it, warm it or fill it with antifreeze before."
        )
    return HeatView(
        sources=tuple(
            (item.words, f"{degrees(item.start_c)} to {degrees(item.target_c)}", _takes(item))
            for item in heat_ups(outcome.setup, outcome.timeline)
        ),
        hottest=degrees(hottest) if hottest is not None else "",
        duties=tuple(
            (item.label, duration_words(item.fired_s), f"{item.starts:.0f}",
             f"{100 * item.share:.0f} %" if item.share is not None else "does not burn")
            for item in duties(outcome)
        ),
        damp=tuple(damp),
        frost=tuple(
            (item.label, degrees(item.start_c), duration_words(item.to_zero_s),
             duration_words(item.to_solid_s))
            for item in frozen[:MOST_FROZEN]
        ),
        frost_words=words,
    )  # fmt: skip


def _takes(item: HeatUp) -> str:
    """Write a time from cold to hot, and what of the store it warms."""
    if item.takes_s is None:
        return "never: it loses as much as it is given"
    words = duration_words(item.takes_s)
    if item.least:
        words = f"at least {words}"
    if item.share < 0.999:
        words += f", the upper {100 * item.share:.0f} %"
    return words
