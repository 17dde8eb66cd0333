"""Flows, leaks, waste and drain-down as JSON objects, documented in docs/file-format.md."""

from __future__ import annotations

from collections.abc import Mapping
from math import isfinite
from typing import Any

from isotherma.core.flows.draining import DrainDown
from isotherma.core.flows.leak import PumpStarts
from isotherma.core.flows.report import (
    FlowReport,
    OutletFlow,
    PartFlow,
    ProfileStep,
    PumpFlow,
    RunFlow,
)
from isotherma.core.flows.shock import Felt, Shock
from isotherma.core.flows.waste import Waste
from isotherma.core.hydraulics.pulsing import Cycle
from isotherma.core.quantity import UnitSystem
from isotherma.core.system.pieces import Band
from isotherma.wording import WHY, doing_words, waste_words

FLOW_FORMAT = "isotherma-flow-1"
INTERVALS_S = (60.0, 300.0, 900.0, 3600.0, 28800.0)


def _number(value: float | None, factor: float = 1.0) -> float | None:
    """Turn SI into the unit of the key; what has no value is null."""
    return value * factor if value is not None and isfinite(value) else None


def _litres(value: float | None) -> float | None:
    return _number(value, 6e4)


def _cycle(cycle: Cycle | None) -> dict[str, Any] | None:
    if cycle is None:
        return None
    return {
        "on_s": _number(cycle.on_s),
        "off_s": _number(cycle.off_s),
        "period_s": _number(cycle.period_s),
        "starts_per_h": cycle.starts_per_h,
        "mean_l_per_min": _litres(cycle.mean_m3_per_s),
        "least_l_per_min": _litres(cycle.least_m3_per_s),
        "most_l_per_min": _litres(cycle.most_m3_per_s),
        "ripple": cycle.ripple,
        "pulses": cycle.short_cycles,
    }


def _pump(pump: PumpFlow) -> dict[str, Any]:
    return {
        "id": pump.id,
        "doing": pump.doing,
        "flow_l_per_min": _litres(pump.flow_m3_per_s),
        "inlet_kpa": _number(pump.inlet_pa, 1e-3),
        "outlet_kpa": _number(pump.outlet_pa, 1e-3),
        "current_a": _number(pump.current_a),
        "lift_m": _number(pump.lift_m),
        "primes_m": _number(pump.primes_m),
        "over_boiling_kpa": _number(pump.over_boiling_pa, 1e-3),
    }


def _pulsing(pump: PumpFlow) -> dict[str, Any]:
    return {
        "pump": pump.id,
        "cycles": pump.cycle is not None,
        "cycle": _cycle(pump.cycle),
        "below_l_per_min": _litres(pump.steady_above_m3_per_s),
        "fastest_at_l_per_min": _litres(pump.fastest_m3_per_s),
        "fastest": _cycle(pump.fastest),
    }


def _felt(felt: Felt) -> dict[str, Any]:
    return {
        "flow_l_per_min": _litres(felt.flow_m3_per_s),
        "temperature_c": _number(felt.temperature_c),
    }


def _shock(shock: Shock) -> dict[str, Any]:
    return {
        "at": shock.watched,
        "other": shock.moved,
        "other_opens": shock.opens,
        "before": _felt(shock.before),
        "at_once": _felt(shock.at_once),
        "after": _felt(shock.after),
    }


def _run(run: RunFlow) -> dict[str, Any]:
    return {
        "id": run.id,
        "flow_l_per_min": _litres(run.flow_m3_per_s),
        "velocity_m_per_s": run.velocity_m_per_s,
        "drop_kpa": _number(run.drop_pa, 1e-3),
        "lift_kpa": _number(run.static_head_pa, 1e-3),
        "start_kpa": _number(run.start_pa, 1e-3),
        "end_kpa": _number(run.end_pa, 1e-3),
        "temperature_c": _number(run.temperature_c),
    }


def _part(part: PartFlow) -> dict[str, Any]:
    return {
        "id": part.id,
        "kind": part.kind,
        "flow_l_per_min": _litres(part.flow_m3_per_s),
        "pressure_kpa": _number(part.pressure_pa, 1e-3),
        "drop_kpa": _number(part.drop_pa, 1e-3),
        "temperature_c": _number(part.temperature_c),
        "words": doing_words(part.doing),
        "doing": None if part.doing is None else part.doing.code,
    }


def _outlet(outlet: OutletFlow) -> dict[str, Any]:
    return {
        "id": outlet.id,
        "opening": outlet.opening,
        "flow_l_per_min": _litres(outlet.flow_m3_per_s),
        "pressure_kpa": _number(outlet.pressure_pa, 1e-3),
        "temperature_c": _number(outlet.temperature_c),
    }


def _step(step: ProfileStep) -> dict[str, Any]:
    return {
        "id": step.id,
        "from_m": step.from_m,
        "to_m": step.to_m,
        "start_kpa": _number(step.start_pa, 1e-3),
        "end_kpa": _number(step.end_pa, 1e-3),
        "drop_kpa": _number(step.drop_pa, 1e-3),
        "lift_kpa": _number(step.static_head_pa, 1e-3),
    }


def flow_object(report: FlowReport, shocks: tuple[Shock, ...]) -> dict[str, Any]:
    """Give a solved operating point as plain data.

    Parameters
    ----------
    report : FlowReport
        The point. [-]
    shocks : tuple of Shock
        What second taps do. [-]

    Returns
    -------
    dict
        Keys as in docs/file-format.md; pressures gauge. [see the keys]
    """
    first = report.pumps[0] if report.pumps else None
    busy = next((pump for pump in report.pumps if pump.flow_m3_per_s > 0.0), first)
    switched = [pump for pump in report.pumps if pump.steady_above_m3_per_s is not None]
    return {
        "runs": [_run(run) for run in report.runs],
        "parts": [_part(part) for part in report.parts],
        "outlets": [_outlet(outlet) for outlet in report.outlets],
        "pump": _pump(busy) if busy is not None else None,
        "pumps": [_pump(pump) for pump in report.pumps],
        "pulsing": [_pulsing(pump) for pump in switched],
        "profiles": {
            outlet: [_step(step) for step in steps] for outlet, steps in report.profiles.items()
        },
        "shocks": [_shock(shock) for shock in shocks],
        "iterations": report.steps,
        "rounds": report.rounds,
        "residual": report.residual_pa,
        "balance": report.balance,
    }


def _band(band: Band, factor: float) -> dict[str, Any]:
    return {
        "low": _number(band.low, factor),
        "likely": _number(band.likely, factor),
        "high": _number(band.high, factor),
    }


def leak_object(
    found: tuple[PumpStarts, ...], interval_s: float | None, cooled_k: float
) -> list[dict[str, Any]]:
    """Give the leak arithmetic of every pump as plain data.

    Parameters
    ----------
    found : tuple of PumpStarts
        The pumps. [-]
    interval_s : float or None
        Time between two starts that somebody measured. [s]
    cooled_k : float
        How far hot stores cooled between them. [K]

    Returns
    -------
    list of dict
        Keys as in docs/file-format.md. [see the keys]
    """
    return [
        {
            "pump": start.pump,
            "cut_in_kpa": start.cut_in_pa / 1e3,
            "cut_out_kpa": start.cut_out_pa / 1e3,
            "accumulators": list(start.accumulators),
            "kept_ml": _band(start.kept, 1e6),
            "because": start.kept.because,
            "shrinks_ml_per_k": start.shrinks_m3_per_k * 1e6,
            "kicks_every_s": interval_s,
            "leak_l_per_h": (
                _band(start.leak(interval_s, cooled_k), 3.6e6) if interval_s is not None else None
            ),
            "table": [
                {"kicks_every_s": each, "leak_l_per_h": _band(start.leak(each), 3.6e6)}
                for each in INTERVALS_S
            ],
        }
        for start in found
    ]


def drain_object(down: DrainDown) -> dict[str, Any]:
    """Give a drain-down as plain data.

    Parameters
    ----------
    down : DrainDown
        As computed. [-]

    Returns
    -------
    dict
        Keys as in docs/file-format.md. [see the keys]
    """
    return {
        "holds_l": down.holds_m3 * 1e3,
        "stays_l": down.stays_m3 * 1e3,
        "off_first": list(down.off),
        "open_in_order": [
            {
                "id": item.id,
                "drain": item.is_drain,
                "height_m": item.height_m,
                "litres": item.volume_m3 * 1e3,
            }
            for item in down.openings
        ],
        "kept": [
            {
                "id": item.id,
                "holds_l": item.holds_m3 * 1e3,
                "stays_l": item.stays_m3 * 1e3,
                "leaves_by": item.drain or None,
                "why": WHY[item.why] if item.why is not None else None,
                "why_code": item.why,
                "in_the_way": item.in_the_way or None,
            }
            for item in down.kept
        ],
        "unknown": list(down.unknown),
    }


def waste_object(waste: Waste, labels: Mapping[str, str], units: UnitSystem) -> dict[str, Any]:
    """Give drains, emptying and filling as plain data.

    Parameters
    ----------
    waste : Waste
        As computed. [-]
    labels : mapping of str to str
        Names of parts and runs by id. [-]
    units : UnitSystem
        Units of the sentences; the numbers are always metric. [-]

    Returns
    -------
    dict
        Keys as in docs/file-format.md. [see the keys]
    """
    return {
        "trays": [
            {
                "id": tray.id,
                "drains": tray.drains,
                "ends_in": tray.ends_in or None,
                "blocked_at": tray.blocked or None,
                "fall_m": tray.fall_m,
                "rate_l_per_min": _litres(tray.rate_m3_per_s),
                "standing_l": _number(tray.stands.standing_m3, 1e3) if tray.stands else None,
                "deepest_mm": _number(tray.stands.deepest_m, 1e3) if tray.stands else None,
                "holds_l": _number(tray.stands.holds_m3, 1e3) if tray.stands else None,
                "floor_to_drain": tray.stands.to_drain if tray.stands else None,
                "outlets_above": list(waste.falls_to.get(tray.id, ())),
                "lacking": [waste_words(item, labels, units) for item in tray.lacking],
                "lacking_codes": [item.code for item in tray.lacking],
            }
            for tray in waste.trays
        ],
        "empties": [
            {
                "id": tank.id,
                "by": tank.by or None,
                "minutes": _number(tank.seconds, 1 / 60),
                "blocked_at": tank.blocked or None,
                "assumed": [waste_words(item, labels, units) for item in tank.assumed],
                "assumed_codes": [item.code for item in tank.assumed],
            }
            for tank in waste.empties
        ],
        "fills": [
            {
                "id": tank.id,
                "takes_l_per_min": _litres(tank.takes_m3_per_s),
                "hose_l_per_min": _litres(tank.hose_m3_per_s),
                "minutes": _number(tank.seconds, 1 / 60),
                "backs_up": tank.backs_up,
                "assumed": [waste_words(item, labels, units) for item in tank.assumed],
                "assumed_codes": [item.code for item in tank.assumed],
            }
            for tank in waste.fills
        ],
    }
