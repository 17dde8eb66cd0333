"""What the gauges of a system's tanks mean in litres, as the vehicle stands."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Final

from isotherma.core.errors import CannotBe
from isotherma.core.flows.levelling import shape_of
from isotherma.core.hydraulics.levels import Gauge, TankShape, litres_at
from isotherma.core.system.kinds.gauges import FloatSender, FlowMeter, SightTube, Thermometer
from isotherma.core.system.kinds.water import FreshTank, Vessel
from isotherma.core.system.nominal import ComputedSystem, figure
from isotherma.core.system.vehicle import Vehicle

NEEDLE_STEPS: Final = 4  # of a needle: quarters
MARKS: Final = 4  # of a sight tube


@dataclass(frozen=True, slots=True)
class Reading:
    """One reading: the share it shows or the height of the water, and what is in the tank then.

    `needle_m3` is what the share alone would say.
    """

    shows: float
    height_m: float
    least_m3: float
    most_m3: float
    needle_m3: float


@dataclass(frozen=True, slots=True)
class GaugeTable:
    """A gauge with its readings; `lacking` names what to measure of the tank before it has any.

    `unused_m3` is what stays under the tank's outlet; `steps` a sender shows, None for a needle.
    """

    id: str
    label: str
    tank: str
    tank_label: str
    is_tube: bool
    steps: int | None
    rows: tuple[Reading, ...]
    holds_m3: float | None
    unused_m3: float
    lacking: bool


def gauge_tables(system: ComputedSystem, vehicle: Vehicle) -> tuple[GaugeTable, ...]:
    """Say of every float sender and sight tube what it means in litres.

    Parameters
    ----------
    system : ComputedSystem
        With likely figures. [-]
    vehicle : Vehicle
        How it stands. [°]

    Returns
    -------
    tuple of GaugeTable
        In the order of the document. [m³]

    Notes
    -----
    A float reads between its offset over the floor and as far under the lid, or as far as its rod
    reaches down from the lid; a tube between its tails. Both stand where they were placed, else in
    the middle of their tank.

    References
    ----------
    Geometry of boxes cut by a level.
    """
    parts = {part.id: part for part in system.parts}
    found = []
    for gauge in system.parts:
        if not isinstance(gauge, FloatSender | SightTube):
            continue
        tank = parts.get(gauge.fitted_in or "")
        if not isinstance(tank, Vessel):
            continue
        shape = shape_of(tank)
        steps = gauge.steps if isinstance(gauge, FloatSender) else None
        if shape is None:
            found.append(GaugeTable(
                gauge.id, gauge.label, tank.id, tank.label, isinstance(gauge, SightTube), steps,
                (), None, 0.0, lacking=True,
            ))  # fmt: skip
            continue
        ahead = right = 0.0
        if gauge.x_m is not None and tank.x_m is not None:
            ahead = tank.x_m - gauge.x_m  # rearward counts up, a gauge ahead lies to the nose
        if gauge.y_m is not None and tank.y_m is not None:
            right = gauge.y_m - tank.y_m
        unused = 0.0
        if isinstance(tank, FreshTank):
            low = figure(tank, "outlet_height_m")
            unused = litres_at(0.5, shape, Gauge(low, low + 1e-9))[0]
        found.append(GaugeTable(
            gauge.id, gauge.label, tank.id, tank.label, isinstance(gauge, SightTube), steps,
            _rows(gauge, shape, ahead, right, vehicle), shape.volume_m3, unused, lacking=False,
        ))  # fmt: skip
    return tuple(found)


def _span(gauge: FloatSender | SightTube, shape: TankShape) -> tuple[float, float]:
    """Give the heights of its lowest and highest reading [m]."""
    if isinstance(gauge, SightTube):
        low = 0.0 if gauge.low_m is None else gauge.low_m
        return low, shape.height_m if gauge.high_m is None else min(gauge.high_m, shape.height_m)
    offset = figure(gauge, "offset_m")
    reaches = 0.0 if gauge.rod_m is None else shape.height_m - gauge.rod_m
    return max(offset, reaches), shape.height_m - offset


def _rows(
    gauge: FloatSender | SightTube, shape: TankShape, ahead_m: float, right_m: float,
    vehicle: Vehicle,
) -> tuple[Reading, ...]:  # fmt: skip
    low, high = _span(gauge, shape)
    if high <= low:
        return ()
    pitch, roll = vehicle.stands_deg
    reads = Gauge(low, high, ahead_m, right_m)
    steps = gauge.steps if isinstance(gauge, FloatSender) else None
    marks = steps or (MARKS if isinstance(gauge, SightTube) else NEEDLE_STEPS)

    def litres(share: float) -> tuple[float, float]:
        return litres_at(share, shape, reads, nose_up_deg=pitch, right_down_deg=roll)

    if gauge.gauge_points:  # as it was measured, whatever its shape says
        return tuple(
            Reading(share, low + share * (high - low), held, held, share * shape.volume_m3)
            for share, held in sorted(gauge.gauge_points)
        )
    rows = []
    try:
        for mark in range(marks + 1):
            share = mark / marks
            least, most = litres(share)
            if steps and mark < marks:  # it shows a step until the next is reached
                most = litres((mark + 1) / marks)[0]
            height = low + share * (high - low)
            rows.append(Reading(share, height, least, most, share * shape.volume_m3))
    except CannotBe:  # steeper than a vehicle stands
        return ()
    return tuple(rows)


@dataclass(frozen=True, slots=True)
class Doubt:
    """How wrong a thermometer [K] or a flow meter (share) may be, and where it sits.

    `at_share` is the height of a thermometer in its store, None where nobody says.
    """

    id: str
    label: str
    host: str
    error_k: float | None
    error_share: float | None
    at_share: float | None


def doubts(system: ComputedSystem) -> tuple[Doubt, ...]:
    """Say how wrong the thermometers and flow meters of a system may be.

    Parameters
    ----------
    system : ComputedSystem
        With likely figures. [-]

    Returns
    -------
    tuple of Doubt
        In the order of the document. [K, -]
    """
    parts = {part.id: part for part in system.parts}
    found = []
    for part in system.parts:
        host = parts.get(part.fitted_in or "")
        label = host.label if host is not None else ""
        if isinstance(part, Thermometer):
            error = figure(part, "error_k")
            found.append(Doubt(part.id, part.label, label, error, None, part.at_share))
        elif isinstance(part, FlowMeter):
            share = figure(part, "error_share")
            found.append(Doubt(part.id, part.label, label, None, share, None))
    return tuple(found)
