"""The result of a simulated day as a JSON object, documented in docs/file-format.md."""

from __future__ import annotations

from typing import Any

from isotherma.core.quantity import STYLES, Habit
from isotherma.core.results.draws import DrawResult
from isotherma.core.results.ledger import Entry
from isotherma.core.results.outcome import Outcome
from isotherma.core.results.verdict import reason_words

REPORT_FORMAT = "isotherma-result-1"


def _draw(draw: DrawResult, longest_wait_s: float, habit: Habit) -> dict[str, Any]:
    return {
        "name": draw.draw.name,
        "id": draw.draw.id,
        "start_s": draw.start_s,
        "end_s": draw.end_s,
        "met": draw.met,
        "why_not": draw.why_not.value if draw.why_not else None,
        "why_not_words": reason_words(draw, longest_wait_s, habit),
        "wait_s": draw.wait_s,
        "cold_l": draw.cold_m3 * 1e3,
        "comfort_l": draw.comfort_m3 * 1e3,
        "comfort_s": draw.comfort_s,
        "mean_c": draw.mean_c,
        "peak_c": draw.peak_c,
        "final_c": draw.final_c,
        "largest_drop_k": draw.largest_drop_k,
        "flow_l_per_min": draw.flow_m3_per_s * 6e4,
        "hot_l": draw.hot_m3 * 1e3,
        "used_l": draw.used_m3 * 1e3,
        "ready_again_s": draw.ready_again_s,
        "pulsing": draw.pulsing,
    }


def _entry(entry: Entry) -> dict[str, Any]:
    style = STYLES[entry.style]
    unit = style.dimension.unit(style.metric)
    assert unit is not None, entry.style

    def edge(value: float | None) -> float | None:
        return None if value is None else value / unit.factor

    return {
        "budget": entry.budget,
        "used": edge(entry.used),
        "limit": edge(entry.limit),
        "unit": unit.symbol,
        "margin": edge(entry.margin),
        "binds": entry.binds,
        "used_per_day": edge(entry.used_per_day),
        "ends_on_day": entry.ends_on_day,
    }


def report(outcome: Outcome, *, name: str, variant: str, habit: Habit) -> dict[str, Any]:
    """Give a day's results as plain data.

    Parameters
    ----------
    outcome : Outcome
        The day. [-]
    name, variant : str
        Of the vehicle and its variant. [-]
    habit : Habit
        Units of the sentences; the numbers are always metric. [-]

    Returns
    -------
    dict
        Ready for JSON; keys as in docs/file-format.md. [see the keys]
    """
    limit_s = outcome.brief.budgets.longest_wait_s
    balance = outcome.timeline.balance
    return {
        "format": REPORT_FORMAT,
        "vehicle": name,
        "variant": variant,
        "days": outcome.brief.days,
        "verdict": outcome.verdict(habit),
        "draws": [_draw(draw, limit_s, habit) for draw in outcome.draws],
        "ledger": [_entry(entry) for entry in outcome.ledger],
        "cautions": list(outcome.cautions(habit)),
        "balance": {
            "energy_error_share": balance.energy_error_share,
            "water_error_share": balance.water_error_share,
        },
    }
