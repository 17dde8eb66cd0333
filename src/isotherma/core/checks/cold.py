"""What freezes, what stays when it is drained, and water that lives: read from the day."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Final

import numpy as np

from isotherma.core.checks.found import BUILDER, Found, Severity, check, worst
from isotherma.core.checks.look import Look
from isotherma.core.checks.nights import COLDER_K, lowest_c
from isotherma.core.checks.pressure import in_primary
from isotherma.core.errors import CoreError
from isotherma.core.findings import Quantity
from isotherma.core.flows.draining import DrainDown, drain_down
from isotherma.core.flows.pulse import operate
from isotherma.core.flows.report import flow_report
from isotherma.core.flows.waste import trays_of
from isotherma.core.results.frost import Freeze, freezes
from isotherma.core.results.outcome import Outcome
from isotherma.core.setup.completeness import main_outlet
from isotherma.core.setup.setup import Setup
from isotherma.core.system.kinds import heat, waste, water
from isotherma.core.system.nominal import known_figure

F, W = Severity.FIX, Severity.WATCH
HOUR_S: Final = 3600.0
SOON_S, NIGHT_S = 8 * HOUR_S, 24 * HOUR_S
LEFT_M3: Final = 5e-5
DEEP_M: Final = 0.02
SUCKS_PA: Final = -40e3
# growth per doubling of 12 h at most: nothing at 20 and 46 °C, all from 35 to 42; ours
_GROWS_C, _GROWS = (20.0, 35.0, 42.0, 46.0), (0.0, 1.0, 1.0, 0.0)
DOUBLES_H: Final = 12.0
# minutes to a tenth; Dennis 1984, straight in the logarithm
_KILLS_C, _KILLS_MIN = (50.0, 54.0, 58.0, 66.0), (111.0, 27.0, 6.0, 0.3)
TENTHS: Final = 5.0
HOT_C: Final = 58.0
WARM_C, HEAT_THROUGH_C = 45.0, 60.0
DELICATE: Final = (water.Pump, water.Filter, water.Strainer, heat.ThroughFlowGas,
                   heat.ThroughFlowElectric, heat.Combi, heat.Store, heat.Canister,
                   waste.Trap)  # fmt: skip


def colder_freezes(look: Look) -> tuple[Freeze, ...]:
    """List what freezes on the lowest night, soonest first.

    Parameters
    ----------
    look : Look
        With a day. [-]

    Returns
    -------
    tuple of Freeze
        None without a day. [s]

    References
    ----------
    Lumped capacitance; see `results.frost`.
    """
    if look.outcome is None:
        return ()
    outcome = look.outcome

    def colder() -> tuple[Freeze, ...]:
        setup = Setup(outcome.brief, outcome.system, look.state,
                      look.climate.on("mixed", -COLDER_K))  # fmt: skip
        return freezes(setup, outcome.timeline)

    return look.once("freezes", colder)


@check("frost.filled")
def _filled(look: Look) -> Iterator[Found]:
    """What is filled and may freeze in a night."""
    night = lowest_c(look)
    stays = _stays(look)
    for one in colder_freezes(look):
        if one.id in look.dry or (stays is not None and one.id not in stays):
            continue
        for severity in worst(((one.to_zero_s < SOON_S, F), (one.to_zero_s < NIGHT_S, W))):
            parts, runs = ((), (one.id,)) if one.is_run else ((one.id,), ())
            yield look.found(
                "frost.filled", severity, BUILDER, *parts, runs=runs,
                figure=Quantity(one.to_zero_s / HOUR_S, "number"),
                limit=Quantity(8.0 if severity is F else 24.0, "number"),
                a=Quantity(night, "temperature"), z=Quantity(0.0, "temperature"),
            )  # fmt: skip


def _stays(look: Look) -> set[str] | None:
    """Give what still holds water where it was drained; None where it was not."""
    if look.outcome is None or not look.dry:
        return None
    return {item.id for item in _drained(look, look.outcome).kept if item.stays_m3 > LEFT_M3}


def _drained(look: Look, outcome: Outcome) -> DrainDown:
    """Give what stays where it is drained, worked out once."""
    return look.once("drained", lambda: drain_down(outcome.setup.network, look.project.vehicle))


@check("frost.trapped")
def _trapped(look: Look) -> Iterator[Found]:
    """Water that stays in what it would burst."""
    if look.outcome is None or not look.dry:
        return
    soon = {one.id for one in colder_freezes(look) if one.to_zero_s < SOON_S}
    # a pump or filter is as cold as the run that ends at it
    soon |= {end.part for run in look.pipes if run.id in soon for end in (run.start, run.end)}
    found = _drained(look, look.outcome)
    for item in found.kept:
        part = look.parts.get(item.id)
        if item.stays_m3 <= LEFT_M3 or not isinstance(part, DELICATE):
            continue
        yield look.found(
            "frost.trapped", F if item.id in soon else W, BUILDER, item.id,
            figure=Quantity(item.stays_m3, "volume"), limit=Quantity(LEFT_M3, "volume"),
            q=look.label(item.in_the_way) if item.in_the_way else "its lowest place",
            moves=" → ".join(one.label for one in found.openings) or "none",
        )  # fmt: skip


@check("flood.tray")
def _tray(look: Look) -> Iterator[Found]:
    """Water that stands in a tray as the vehicle is parked."""
    for tray in trays_of(look.system, look.state, look.project.vehicle):
        part, stands = look.parts[tray.id], tray.stands
        if stands is None:
            continue
        rim = known_figure(part, "rim_m")
        holds = known_figure(look.likely[tray.id], "holds_m3")
        spills = stands.to_drain < 1.0 - 1e-9  # some of it leaves over the rim first
        over = spills or (rim is not None and stands.deepest_m > rim) or (
            holds is not None and holds < stands.standing_m3
        )  # fmt: skip
        for severity in worst(((over, F), (stands.deepest_m > DEEP_M, W))):
            yield look.found(
                "flood.tray", severity, BUILDER, tray.id,
                figure=Quantity(stands.standing_m3, "volume"),
                a=Quantity(stands.deepest_m, "bore"), limit=Quantity(DEEP_M, "bore"),
            )  # fmt: skip


@check("bacteria.store", "bacteria.cold-layer")
def _store(look: Look) -> Iterator[Found]:
    """Hours in which water lives, and whether it is ever heated through."""
    if look.outcome is None:
        return
    day = look.outcome.timeline
    part = look.likely.get(day.vessel or "")
    if not isinstance(part, heat.Store | heat.Combi | heat.Canister) or part.id in look.dry:
        return
    if in_primary(look, look.parts[part.id]):
        return  # nobody drinks or breathes it
    volume = known_figure(part, "volume_m3")
    layers, steps = np.asarray(day.rows.layers_c), np.asarray(day.rows.step_s)
    if volume is None or not volume or layers.ndim != 2 or not len(steps):
        return
    drawn = sum(draw.hot_m3 for draw in look.outcome.draws)
    turns = drawn / volume
    grows = float(np.max(steps @ np.interp(layers, _GROWS_C, _GROWS))) / HOUR_S / DOUBLES_H
    warm = float(np.max(steps @ ((layers >= _GROWS_C[0]) & (layers <= WARM_C)))) / HOUR_S
    coldest = layers.min(axis=1)
    minutes = np.exp(np.interp(coldest, _KILLS_C, np.log(_KILLS_MIN)))
    through = float(np.sum(np.where(coldest >= _KILLS_C[0], steps / 60.0 / minutes, 0.0)))
    hot = through >= TENTHS
    days = 1.0 if hot else float(look.project.brief.days)
    lives = grows * days / (1.0 + turns)
    top, low = float(layers[:, -1].max()), float(layers[:, 0].max())
    if max(top, low) <= _GROWS_C[0]:
        return
    cold_layer = max(top, low) >= HOT_C and min(top, low) < HOT_C and turns < 2.0
    if cold_layer:
        height = next((known_figure(one, "height_share") for one in look.known.parts
                       if isinstance(one, heat.Element) and one.fitted_in == part.id), None)  # fmt: skip  # noqa: E501
        yield look.found(
            "bacteria.cold-layer", W, BUILDER, part.id, figure=Quantity(HOT_C, "temperature"),
            q="its element" if height is not None else "what heats it",
            source="EN 806-2, HSG274, AS/NZS 3500.4",
        )  # fmt: skip
    for severity in worst((
        (lives >= 4.0 and turns < 1.0, F),
        (lives >= 1.0 or (not hot and turns < 2.0 and not cold_layer), W),
    )):  # fmt: skip
        yield look.found(
            "bacteria.store", severity, BUILDER, part.id, figure=Quantity(warm, "number"),
            a=Quantity(float(coldest.max()), "temperature"), b=Quantity(turns, "number"),
            y=Quantity(_GROWS_C[0], "temperature"), z=Quantity(WARM_C, "temperature"),
            x=Quantity(HEAT_THROUGH_C, "temperature"),
        )  # fmt: skip


@check("tubes.suction")
def _suction(look: Look) -> Iterator[Found]:
    """Soft hose before a pump that sucks hard."""
    if look.outcome is None:
        return
    for pump in look.system.parts:
        if not isinstance(pump, water.Pump):
            continue
        soft = [run for run in look.pipes if run.family == "soft hose"
                and (run.end.part, run.end.port) == (pump.id, "inlet")]  # fmt: skip
        outlet = main_outlet(look.system)
        if not soft or outlet is None:
            continue
        try:
            report = flow_report(operate(look.outcome.setup.network, {outlet: 1.0}))
        except CoreError:
            continue  # no answer to judge
        sucks = next((one.inlet_pa for one in report.pumps if one.id == pump.id), 0.0)
        if sucks < SUCKS_PA:
            yield look.found("tubes.suction", W, BUILDER, runs=(soft[0].id,), p=soft[0].label,
                             figure=Quantity(sucks, "pressure"))  # fmt: skip
