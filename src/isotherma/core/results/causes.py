"""What broke a day before any water ran: a fuse, a battery, a bottle, a cut-out, no flame."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field, replace
from enum import StrEnum

from isotherma.core.results.draws import DrawResult, WhyNot
from isotherma.core.setup import Setup
from isotherma.core.setup.inventory import joined_bottle_id
from isotherma.core.supply.ignition import WEAK_V, cells_of, sparkless
from isotherma.core.supply.ohms import FUSE_BEARS
from isotherma.core.system.configuration import positions
from isotherma.core.system.kinds import electric, heat
from isotherma.core.system.kinds.water import Pump, Submersible
from isotherma.core.system.nominal import figure
from isotherma.core.timeline.record import Day


class Broke(StrEnum):
    """What gave out."""

    FUSE = "fuse_blows"
    SWITCHED_OFF = "switched_off"
    FAINT = "too_few_volts"
    BATTERY = "battery_empty"
    GAS_COLD = "bottle_too_cold"
    GAS_EMPTY = "bottle_empty"
    FUEL = "fuel_ended"
    CUT_OUT = "cut_out_tripped"
    NO_SPARK = "does_not_spark"
    NO_FLOW = "too_little_flow_to_light"


class Then(StrEnum):
    """What comes of it for what hangs on it."""

    STANDS = "stands"
    STAYS_COLD = "stays_cold"
    GIVES_NOTHING = "gives_nothing"


@dataclass(frozen=True, slots=True)
class Cause:
    """One thing that broke the day: what, at which part, with which figures [SI].

    `stands` is what hangs on it, `then` what comes of it at `then_id`; "" for no part.
    """

    broke: Broke
    part_id: str
    figures: Mapping[str, float] = field(default_factory=dict)
    stands: tuple[str, ...] = ()
    then: Then = Then.STANDS
    then_id: str = ""


_COLD = {
    WhyNot.NEVER_WARM, WhyNot.STAYS_COOL, WhyNot.RUNS_COOL, WhyNot.LONG_WAIT, WhyNot.NO_GAS,
    WhyNot.NO_FUEL,
}  # fmt: skip
_DRY = {WhyNot.NO_FLOW, WhyNot.PUMP_OFF, WhyNot.NO_POWER, WhyNot.BLOWN}


def causes_of(setup: Setup, day: Day, draws: tuple[DrawResult, ...]) -> tuple[Cause, ...]:
    """Find what broke a day, the gravest first.

    Parameters
    ----------
    setup : Setup
        The documents and what follows from them. [-]
    day : Day
        A day of it. [-]
    draws : tuple of DrawResult
        Its draws. [-]

    Returns
    -------
    tuple of Cause
        Fuses that blew and cut-outs that opened always; the rest only where a draw is not as
        asked. [-]
    """
    found = [
        replace(cause, then=then, then_id=at)
        for cause in (*_fuses(setup, day), *_cut_outs(setup, day))
        for then, at in [_then(setup, cause.stands)]
    ]
    failed = {draw.why_not for draw in draws if draw.why_not is not None}
    if not failed & (_COLD | _DRY):
        return tuple(found)
    found += _unpowered(setup)
    for ended in day.ended:
        if ended.carried == "battery":
            found.append(_ended(Broke.BATTERY, setup, electric.Battery, ended.clock_s))
        elif ended.carried == "diesel":
            found.append(_ended(Broke.FUEL, setup, heat.FuelTank, ended.clock_s))
        else:
            broke = Broke.GAS_COLD if ended.how == "too cold" else Broke.GAS_EMPTY
            bottle = joined_bottle_id(setup.parts.values()) or ""
            found.append(Cause(broke, bottle, {"at_s": ended.clock_s}))
    if failed & _COLD:
        found += _flameless(setup, day)
    return tuple(found)


def _fuses(setup: Setup, day: Day) -> list[Cause]:
    stand = positions(setup.system, setup.standing)
    found = []
    for fuse_id in day.blown:
        bears = setup.fuses.bears[fuse_id]
        loads = {
            key: amps for key, amps in setup.fuses.loads[fuse_id].items()
            if stand.get(key) != "off"
        }  # fmt: skip
        alone = [amps for amps in loads.values() if amps > bears * FUSE_BEARS]
        takes = max(alone) if alone else sum(loads.values())
        figures = {"takes_a": takes, "bears_a": bears}
        found.append(Cause(Broke.FUSE, fuse_id, figures, tuple(loads)))
    for key in sorted(setup.fuses.unable - setup.fuses.wires.dead - set(setup.fuses.faint)):
        for fuse_id, loads in setup.fuses.loads.items():
            if key in loads and fuse_id not in day.blown:
                figures = {"takes_a": loads[key], "bears_a": setup.fuses.bears[fuse_id]}
                found.append(Cause(Broke.FUSE, fuse_id, figures, (key,)))
    return found


def _cut_outs(setup: Setup, day: Day) -> list[Cause]:
    return [
        Cause(Broke.CUT_OUT, limit.id, {"opens_c": figure(limit, "opens_c")}, (key,))
        for key in day.tripped
        for limit in setup.parts.values()
        if isinstance(limit, heat.HighLimit) and limit.guards == key
    ]


def _unpowered(setup: Setup) -> list[Cause]:
    found = [
        Cause(Broke.SWITCHED_OFF, key, {}, (key,))
        for key in sorted(setup.fuses.wires.dead)
        if setup.at.get(key) != "off"
        and isinstance(setup.parts[key], heat.LiquidHeater | Pump | Submersible)
    ]
    for key, volts in setup.fuses.faint.items():
        part = setup.parts[key]
        if isinstance(part, heat.LiquidHeater) and part.trip_v is not None:
            figures = {"volts_v": volts, "least_v": part.trip_v}
            found.append(Cause(Broke.FAINT, key, figures, (key,)))
    return found


def _ended(broke: Broke, setup: Setup, kind: type, clock_s: float) -> Cause:
    part = next((item.id for item in setup.parts.values() if isinstance(item, kind)), "")
    return Cause(broke, part, {"at_s": clock_s})


def _flameless(setup: Setup, day: Day) -> list[Cause]:
    """Find through-flow heaters that water passed and that never lit."""
    weak = sparkless(setup.system)
    found = []
    for part in setup.parts.values():
        if not isinstance(part, heat.ThroughFlow) or setup.at.get(part.id) == "off":
            continue
        if part.id in weak and isinstance(part, heat.ThroughFlowGas):
            cells = cells_of(setup.system, part)
            at = cells.id if cells is not None else part.id
            figures = {"volts_v": weak[part.id], "least_v": WEAK_V}
            found.append(Cause(Broke.NO_SPARK, at, figures, (part.id,)))
            continue
        most = max((drawn.through_m3_per_s.get(part.id, 0.0) for drawn in day.drawn), default=0.0)
        lights = figure(part, "on_flow_m3_per_s")
        if 0.0 < most < lights and not day.starts.get(part.id, 0.0):
            figures = {"flow_m3_per_s": most, "lights_m3_per_s": lights}
            found.append(Cause(Broke.NO_FLOW, part.id, figures, (part.id,)))
    return found


def _then(setup: Setup, stands: tuple[str, ...]) -> tuple[Then, str]:
    """Say what comes of it for what hangs on it, and at which part."""
    parts = setup.parts
    pumps = [key for key in stands if isinstance(parts.get(key), Pump | Submersible)]
    if pumps:
        return Then.STANDS, pumps[0]
    for key in stands:
        part = parts.get(key)
        host = getattr(part, "fitted_in", None)
        if host is None:
            continue
        sources = {
            item.id for item in parts.values()
            if item.fitted_in == host and isinstance(item, heat.Element | heat.Burner | heat.Coil)
        }  # fmt: skip
        return (Then.STAYS_COLD, host) if sources <= set(stands) else (Then.GIVES_NOTHING, key)
    return (Then.STANDS, stands[0]) if stands else (Then.STANDS, "")
