"""What a float or a sight tube says of the litres in a tank, and back: taper, offset, slope."""

from __future__ import annotations

from dataclasses import dataclass
from math import radians, tan

import numpy as np
from scipy.optimize import brentq

from isotherma.core.errors import CannotBe

SLICES = 120
CELLS = 48


@dataclass(frozen=True, slots=True)
class TankShape:
    """A tank with a flat floor and lid and straight sides [m].

    `top_share` is the lid's length over the floor's, `width_share` its width over the floor's,
    where it is not the same: 1 for a box, more for one that widens upwards. Length runs to the
    nose, width to the right.
    """

    length_m: float
    width_m: float
    height_m: float
    top_share: float = 1.0
    width_share: float | None = None

    def __post_init__(self) -> None:
        """Refuse a tank that is none; CannotBe."""
        sides = self.length_m, self.width_m, self.height_m, self.top_share, self.widens
        if min(sides) <= 0.0:
            raise CannotBe(reason="tank_without_size")

    @property
    def widens(self) -> float:
        """Give the lid's width over the floor's [-]."""
        return self.top_share if self.width_share is None else self.width_share

    @property
    def volume_m3(self) -> float:
        """Give what it holds to the lid [m³].

        References
        ----------
        Geometry of boxes and lying cylinders.
        """
        long, wide = self.top_share - 1.0, self.widens - 1.0
        grown = 1.0 + 0.5 * (long + wide) + long * wide / 3.0
        return self.length_m * self.width_m * self.height_m * grown


@dataclass(frozen=True, slots=True)
class Gauge:
    """Where a level is read: heights of 0 and of full above the floor [m], and where it stands.

    `ahead_m` and `right_m` are from the middle of the tank, to the nose and to the right. A float
    reads a share between its lowest and highest point, a sight tube a height: give that one
    low 0 and high 1.
    """

    low_m: float
    high_m: float
    ahead_m: float = 0.0
    right_m: float = 0.0

    def __post_init__(self) -> None:
        """Refuse a gauge without a span; CannotBe."""
        if self.high_m <= self.low_m:
            raise CannotBe(reason="gauge_without_span")


def litres_at(
    reading: float, tank: TankShape, gauge: Gauge, *, nose_up_deg: float = 0.0,
    right_down_deg: float = 0.0,
) -> tuple[float, float]:  # fmt: skip
    """Give what is in a tank whose gauge reads so.

    Parameters
    ----------
    reading : float
        0 at the gauge's low point, 1 at its high one; clipped to that. [-]
    tank : TankShape
        The tank. [m]
    gauge : Gauge
        Where and between which heights it reads. [m]
    nose_up_deg, right_down_deg : float
        How the vehicle stands, within ±20. [°]

    Returns
    -------
    tuple of float
        Least and most: equal between the ends; at a reading of 0 or 1 the float has stopped and
        only a range is known. [m³]

    Raises
    ------
    CannotBe
        If the slope is steeper than a vehicle stands.

    Notes
    -----
    The surface is a plane; what lies under it is summed over slices of the tank.

    References
    ----------
    Geometry of boxes and lying cylinders, cut by a level.
    """
    share = min(1.0, max(0.0, reading))
    height = gauge.low_m + share * (gauge.high_m - gauge.low_m)
    slopes = _slopes(nose_up_deg, right_down_deg)
    middle = height - slopes[0] * gauge.ahead_m - slopes[1] * gauge.right_m
    there = _under(tank, middle, slopes)
    return (
        0.0 if share == 0.0 else there,
        tank.volume_m3 if share == 1.0 else there,
    )


def reading_at(
    volume_m3: float, tank: TankShape, gauge: Gauge, *, nose_up_deg: float = 0.0,
    right_down_deg: float = 0.0,
) -> float:  # fmt: skip
    """Give what a gauge reads with so much in the tank.

    Parameters
    ----------
    volume_m3 : float
        In the tank; clipped to what it holds. [m³]
    tank : TankShape
        The tank. [m]
    gauge : Gauge
        Where and between which heights it reads. [m]
    nose_up_deg, right_down_deg : float
        How the vehicle stands, within ±20. [°]

    Returns
    -------
    float
        0 to 1; the float stops at both. [-]

    Raises
    ------
    CannotBe
        If the slope is steeper than a vehicle stands.

    References
    ----------
    Geometry of boxes and lying cylinders, cut by a level.
    """
    slopes = _slopes(nose_up_deg, right_down_deg)
    reach = tank.height_m + abs(slopes[0]) * tank.length_m * max(1.0, tank.top_share)
    reach += abs(slopes[1]) * tank.width_m * max(1.0, tank.widens)
    wanted = min(tank.volume_m3, max(0.0, volume_m3))
    low, high = tank.height_m - reach, reach
    if wanted <= 0.0:
        middle = low
    elif wanted >= _under(tank, high, slopes):
        middle = high
    else:
        middle = float(brentq(lambda z: _under(tank, z, slopes) - wanted, low, high, xtol=1e-6))
    height = middle + slopes[0] * gauge.ahead_m + slopes[1] * gauge.right_m
    return min(1.0, max(0.0, (height - gauge.low_m) / (gauge.high_m - gauge.low_m)))


def _slopes(nose_up_deg: float, right_down_deg: float) -> tuple[float, float]:
    """Say how the surface rises in the tank's own frame, to the nose and to the right [m/m]."""
    if max(abs(nose_up_deg), abs(right_down_deg)) > 20.0:
        raise CannotBe(reason="slope_too_steep")
    return -tan(radians(nose_up_deg)), tan(radians(right_down_deg))


def _under(tank: TankShape, middle_m: float, slopes: tuple[float, float]) -> float:
    """Volume below a plane that stands at a height over the middle of the floor [m³]."""
    z = (np.arange(SLICES) + 0.5) / SLICES
    share = 1.0 + (tank.top_share - 1.0) * z
    wide = 1.0 + (tank.widens - 1.0) * z
    cells = (np.arange(CELLS) + 0.5) / CELLS - 0.5
    rise = slopes[0] * tank.length_m * share[:, None, None] * cells[None, :, None]
    rise = rise + slopes[1] * tank.width_m * wide[:, None, None] * cells[None, None, :]
    # how much of each slice is below: smooth within it, so that the sum is monotone
    thick = tank.height_m / SLICES
    depth = (middle_m + rise - z[:, None, None] * tank.height_m) / thick + 0.5
    filled = np.clip(depth, 0.0, 1.0).mean(axis=(1, 2))
    area = tank.length_m * tank.width_m * share * wide
    scale = tank.volume_m3 / float(area.sum() * thick)
    return float((filled * area).sum() * thick * scale)
