"""The result of a simulated day as a JSON object, documented in docs/file-format.md."""

from __future__ import annotations

from math import isfinite
from typing import Any

from isotherma.core.findings import Finding, Quantity
from isotherma.core.quantity import UnitSystem, unit_of
from isotherma.core.results.damp import arrives, vapours
from isotherma.core.results.draws import DrawResult
from isotherma.core.results.duty import duties, hottest_at_rest_c
from isotherma.core.results.expansion import expansion_rows
from isotherma.core.results.failure_modes import if_fails
from isotherma.core.results.frost import freezes
from isotherma.core.results.heating import heat_ups
from isotherma.core.results.inventory import battery_course, bottle, bottle_course
from isotherma.core.results.last_day import LastDay
from isotherma.core.results.ledger import Entry
from isotherma.core.results.outcome import Outcome
from isotherma.core.results.uncertainty import Range
from isotherma.core.supply.bottle import sustained_kg_per_s
from isotherma.wording import cautions, last_day_words, reason_words, verdict

REPORT_FORMAT = "isotherma-result-1"


def _draw(draw: DrawResult, longest_wait_s: float, units: UnitSystem) -> dict[str, Any]:
    return {
        "name": draw.draw.name,
        "id": draw.draw.id,
        "start_s": draw.start_s,
        "end_s": draw.end_s,
        "met": draw.met,
        "why_not": draw.why_not.value if draw.why_not else None,
        "why_not_words": reason_words(draw, longest_wait_s, units),
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
        "held_c": draw.held_c,
        "over_l": draw.over_m3 * 1e3,
        "outlet": draw.outlet,
        "empty": draw.empty or None,
        "took_l": {key: value * 1e3 for key, value in draw.took_m3.items()},
        "scald": {
            "severity": draw.scald.severity.name.lower(),
            "limit_c": draw.scald.limit_c,
            "over_s": draw.scald.over_s,
            "dose": draw.scald.dose,
            "burns_s": _finite(draw.scald.burns_s),
        },
    }


def _entry(entry: Entry) -> dict[str, Any]:
    unit = unit_of(entry.style)

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


def _finite(value: float) -> float | None:
    """JSON has no infinity: never is null."""
    return float(value) if isfinite(value) else None


def _supply(outcome: Outcome) -> dict[str, Any]:
    setup, day = outcome.setup, outcome.timeline
    found: dict[str, Any] = {"battery": None, "bottle": None}
    level = battery_course(outcome.course)
    if level is not None:
        found["battery"] = {
            "usable_wh": (setup.hours.usable_j or 0.0) / 3600,
            "used_wh_per_day": level.used_j / 3600,
            "charged_wh_per_day": level.charged_j / 3600,
            "least_wh": level.least_j / 3600,
            "empty_after_s": level.empty_s,
        }
    held, start = bottle_course(outcome.course), bottle(setup)
    if held is not None and start is not None:
        hold, lowest_pa, load = held
        today = next((item for item in day.ended if item.carried == "gas"), None)
        found["bottle"] = {
            "load_kg_per_h": load * 3600,
            "sustained_kg_per_h": sustained_kg_per_s(
                start, air_c=start.celsius, limit_pa=setup.least_pa
            )
            * 3600,
            "lowest_bar_abs": lowest_pa / 1e5,
            "failed_after_s": hold.held_s if today is None else today.clock_s,
            "ended": hold.ended if today is None else today.how,
            "left_kg": hold.after.gas_kg,
        }
    return found


def _last_day(outcome: Outcome, last: LastDay | None, units: UnitSystem) -> dict[str, Any] | None:
    limit_s = outcome.brief.budgets.longest_wait_s
    if last is None:
        return None
    return {
        "day": last.number,
        "words": last_day_words(last, outcome, units),
        "ended": [
            {"what": item.carried, "how": item.how, "at_s": item.clock_s}
            for item in last.timeline.ended
        ],
        "draws": [_draw(draw, limit_s, units) for draw in last.draws],
    }


def _lost(outcome: Outcome) -> dict[str, Any]:
    balance, days = outcome.timeline.balance, outcome.course.days
    waiting = sum(draw.cold_m3 for draw in outcome.draws)
    return {
        "waiting_l_per_day": waiting * 1e3,
        "waiting_l": waiting * 1e3 * days,
        "standing_loss_wh_per_day": balance.store_loss_j / 3600,
        "pipe_loss_wh_per_day": balance.pipe_loss_j / 3600,
        "heater_loss_wh_per_day": balance.body_loss_j / 3600,
        "drain_and_test_l": sum(
            use.day_m3 for use in outcome.brief.uses if use.purpose == "drain and test"
        )
        * 1e3
        * days,
    }


def _damp(outcome: Outcome) -> list[dict[str, Any]]:
    found = []
    for item in vapours(outcome):
        found.append({
            "draw": item.draw, "vapour_g": item.vapour.vapour_kg * 1e3,
            "condensed_g": item.vapour.condensed_kg * 1e3,
            "fan_s": _finite(item.vapour.fan_s),
            "fan_m3_per_h": item.vapour.fan_m3_per_s * 3600, "space_m3": item.vapour.space_m3,
        })  # fmt: skip
    return found


def _heat(outcome: Outcome) -> dict[str, Any]:
    falls = [(draw.draw.id, arrives(outcome, index)) for index, draw in enumerate(outcome.draws)]
    return {
        "hottest_at_rest_c": hottest_at_rest_c(outcome),
        "cold_to_hot": [
            {"id": item.source, "start_c": item.start_c, "target_c": item.target_c,
             "share": item.share, "takes_s": item.takes_s, "at_least": item.least}
            for item in heat_ups(outcome.setup, outcome.timeline)
        ],
        "fire": [
            {"id": item.id, "fired_s": item.fired_s, "starts": item.starts, "share": item.share}
            for item in duties(outcome)
        ],
        "drops": [
            {"draw": key, "head_c": item.head_c, "chest_c": item.chest_c, "tray_c": item.tray_c,
             "fine_holes": item.fine_holes}
            for key, item in falls if item is not None
        ],
    }  # fmt: skip


def _frost(outcome: Outcome) -> list[dict[str, Any]]:
    return [
        {
            "id": item.id, "label": item.label, "run": item.is_run, "air_c": item.air_c,
            "start_c": item.start_c, "to_zero_s": float(item.to_zero_s),
            "to_solid_s": float(item.to_solid_s),
        }
        for item in freezes(outcome.setup, outcome.timeline)
    ]  # fmt: skip


def _fails(outcome: Outcome) -> list[dict[str, Any]]:
    network, system = outcome.setup.network, outcome.setup.computed
    found = []
    for part_id in network.parts:
        item = if_fails(system, network, part_id)
        if not (item.close or item.spilt_m3 or item.stopped):
            continue
        found.append({
            "part": item.part_id, "label": item.label, "close": list(item.close),
            "spilt_l": item.spilt_m3 * 1e3, "spilt_unknown": list(item.unknown),
            "empties": list(item.all_of),
            "stops": list(item.stopped),
            "left": [
                {"outlet": left.outlet, "water": left.water, "warm": left.warm}
                for left in item.left
            ],
        })  # fmt: skip
    return found


def band_object(band: Range) -> dict[str, Any]:
    """Give a band as plain data, in SI.

    Parameters
    ----------
    band : Range
        Doubts and reaches. [SI]

    Returns
    -------
    dict
        Ready for JSON; keys as in docs/file-format.md. [SI]
    """
    return {
        "runs": band.runs,
        "decides": list(band.decides),
        "doubts": [
            {"path": item.path, "low": item.low, "likely": item.likely, "high": item.high,
             "because": item.because}
            for item in band.inputs
        ],
        "reaches": [
            {"id": item.id, "low": item.low, "likely": item.likely, "high": item.high,
             "moved_by": list(item.moved_by)}
            for item in band.sensitivities
        ],
    }  # fmt: skip


def finding_object(finding: Finding) -> dict[str, Any]:
    """Give a finding as plain data.

    Parameters
    ----------
    finding : Finding
        Of a day. [-]

    Returns
    -------
    dict
        Its code, ids and values by name. [SI]
    """
    values = {
        key: value.value if isinstance(value, Quantity) else
        list(value) if isinstance(value, tuple) else value
        for key, value in finding.values.items()
    }  # fmt: skip
    return {"code": finding.code, "parts": list(finding.parts), "values": values}


def report(
    outcome: Outcome, last: LastDay | None, *, name: str, variant: str, units: UnitSystem
) -> dict[str, Any]:
    """Give a day's results as plain data.

    Parameters
    ----------
    outcome : Outcome
        The day. [-]
    last : LastDay or None
        The first day of the trip unlike it; None where all are alike. [-]
    name, variant : str
        Of the vehicle and its variant. [-]
    units : UnitSystem
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
        "days": outcome.course.days,
        "verdict": verdict(outcome, units),
        "draws": [_draw(draw, limit_s, units) for draw in outcome.draws],
        "ledger": [_entry(entry) for entry in outcome.ledger],
        "cautions": list(cautions(outcome, units)),
        "findings": [finding_object(item) for item in outcome.findings],
        "causes": [
            {
                "code": item.broke,
                "part": item.part_id,
                "stands": list(item.stands),
                "figures": dict(item.figures),
            }
            for item in outcome.causes
        ],
        "supply": _supply(outcome),
        "last_day": _last_day(outcome, last, units),
        "not_known": [item.path for item in outcome.setup.not_known],
        "expansion": expansion_rows(outcome.setup, outcome.timeline),
        "lost": _lost(outcome),
        "heat": _heat(outcome),
        "damp": _damp(outcome),
        "frost": _frost(outcome),
        "if_fails": _fails(outcome),
        "balance": {
            "energy_error_share": balance.energy_error_share,
            "water_error_share": balance.water_error_share,
        },
    }
