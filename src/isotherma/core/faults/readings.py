"""Quantities that are read: their names, scales and doubts, and how likely a reading is."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from math import isfinite, log, sqrt
from typing import Final

import numpy as np
from numpy.typing import NDArray
from scipy.special import ndtr

Floats = NDArray[np.float64]

FLAT_SHARE: Final = 0.02  # of a reading that is simply wrong
SPAN_LOG, SPAN_LINEAR = log(100.0), 100.0
LEAST_OF_FLOOR: Final = 0.5  # no reading is surer than half the floor of its scale


@dataclass(frozen=True, slots=True)
class Kind:
    """A quantity somebody reads: unit, style it is typed in, SI of one unit, how sure a reading is.

    `floor` None: the scale is linear. `share` of the reading and `least` in its unit are one
    standard deviation.
    """

    name: str
    unit: str
    style: str
    si: float
    floor: float | None
    share: float
    least: float
    timed: bool = False


# the usual doubts of bucket, gauge and clock; pressures 5 % of a gauge of 4 bar
KINDS: Final[dict[str, Kind]] = {kind.name: kind for kind in (
    Kind("flow", "L/min", "flow", 1.0 / 60e3, 0.1, 0.05, 0.0),
    Kind("pressure", "bar", "pressure", 1e5, 0.05, 0.0, 0.2),
    Kind("cut_in", "bar", "pressure", 1e5, 0.05, 0.0, 0.2),
    Kind("cut_out", "bar", "pressure", 1e5, 0.05, 0.0, 0.2),
    Kind("shut_pressure", "bar", "pressure", 1e5, 0.05, 0.0, 0.2),
    Kind("precharge", "bar", "pressure", 1e5, 0.05, 0.0, 0.1),
    Kind("gas_pressure", "mbar", "gas_pressure", 1e2, 1.0, 0.0, 1.0),
    Kind("run_on", "s", "seconds", 1.0, 1.0, 0.03, 1.0),
    Kind("wait", "s", "seconds", 1.0, 1.0, 0.03, 1.0),
    Kind("kick_every", "min", "minutes", 60.0, 0.2, 0.1, 1.0 / 60.0),
    Kind("heat_up", "min", "minutes", 60.0, 0.2, 0.03, 1.0 / 60.0, timed=True),
    Kind("cool_down", "min", "minutes", 60.0, 0.2, 0.03, 1.0 / 60.0, timed=True),
    Kind("volts", "V", "voltage", 1.0, 0.1, 0.0, 0.1),
    Kind("amps", "A", "current", 1.0, 0.1, 0.03, 0.0),
    Kind("temp", "C", "temperature", 1.0, None, 0.0, 1.0),
    Kind("air", "C", "temperature", 1.0, None, 0.0, 1.0),
    Kind("level", "%", "share", 0.01, None, 0.0, 5.0),
    Kind("litres", "L", "volume", 1e-3, 0.1, 0.03, 0.0),
    Kind("bottle_kg", "kg", "mass", 1.0, 0.1, 0.0, 0.1),
    Kind("wh_to_empty", "Wh", "battery_energy", 3600.0, 10.0, 0.05, 0.0),
    Kind("amp_hours", "Ah", "charge", 3600.0, 1.0, 0.05, 0.0),
)}  # fmt: skip


@dataclass(frozen=True, slots=True)
class Reading:
    """A figure somebody read, in its quantity's unit.

    `part` is None of the air; `from_c` and `to_c` what a heat-up or cool-down was timed between.
    """

    kind: str
    part: str | None
    value: float
    unsure: float | None = None
    from_c: float | None = None
    to_c: float | None = None

    @property
    def quantity(self) -> str:
        """Give the quantity's id."""
        return self.kind if self.part is None else f"{self.kind}.{self.part}"

    @property
    def doubt(self) -> float:
        """Give one standard deviation, as said or as usual, never under half the floor."""
        kind = KINDS[self.kind]
        if self.unsure is not None:
            return max(self.unsure, LEAST_OF_FLOOR * floor_of(kind))
        return usual_doubt(kind, self.value)


@dataclass(frozen=True, slots=True)
class Expected:
    """What a hypothesis expects of a quantity: about `likely`, or anything between if None."""

    low: float
    likely: float | None
    high: float


def floor_of(kind: Kind) -> float:
    """Give the floor of a quantity's scale; linear ones have none to speak of.

    Parameters
    ----------
    kind : Kind
        The quantity. [-]

    Returns
    -------
    float
        In its unit; 0 of linear ones. [see `kind`]
    """
    return 0.0 if kind.floor is None else kind.floor


def usual_doubt(kind: Kind, value: float) -> float:
    """Give the standard deviation of a reading whose doubt nobody said.

    Parameters
    ----------
    kind : Kind
        What was read. [-]
    value : float
        In its unit. [see `kind`]

    Returns
    -------
    float
        In the same unit, > 0. [see `kind`]
    """
    return max(kind.share * abs(value), kind.least, LEAST_OF_FLOOR * floor_of(kind))


def on_scale(kind: Kind, value: float) -> float:
    """Give where a value lies on its quantity's scale: its logarithm, or itself if linear.

    Parameters
    ----------
    kind : Kind
        The quantity. [-]
    value : float
        In its unit; what is under the floor counts as the floor. [see `kind`]

    Returns
    -------
    float
        Its place. [-]
    """
    return value if kind.floor is None else log(max(value, kind.floor))


def off_scale(kind: Kind, place: float) -> float:
    """Give the value at a place of the scale, see `on_scale`.

    Parameters
    ----------
    kind : Kind
        The quantity. [-]
    place : float
        On the scale. [-]

    Returns
    -------
    float
        In its unit. [see `kind`]
    """
    return place if kind.floor is None else float(np.exp(place))


def scale_doubt(kind: Kind, value: float, doubt: float) -> float:
    """Give a doubt on the scale.

    Parameters
    ----------
    kind : Kind
        The quantity. [-]
    value : float
        Where it is read. [see `kind`]
    doubt : float
        One standard deviation. [see `kind`]

    Returns
    -------
    float
        On the scale. [-]
    """
    return doubt if kind.floor is None else doubt / max(value, kind.floor)


def span_of(kind: Kind) -> float:
    """Give the width of the scale over which a wrong reading may lie anywhere.

    Parameters
    ----------
    kind : Kind
        The quantity. [-]

    Returns
    -------
    float
        On the scale. [-]
    """
    return SPAN_LINEAR if kind.floor is None else SPAN_LOG


def density(kind: Kind, expected: Sequence[Expected], places: Floats, doubts: Floats) -> Floats:
    """Say how likely readings are under a hypothesis of one or more severities.

    Parameters
    ----------
    kind : Kind
        What is read. [-]
    expected : sequence of Expected
        One for each severity, all alike likely; at least one. [see `kind`]
    places, doubts : numpy.ndarray
        Readings and their standard deviations on the scale. [-]

    Returns
    -------
    numpy.ndarray
        Density on the scale; a small flat share for readings that are simply wrong. [-]

    References
    ----------
    Split normal distribution: Wallis 2014, Statistical Science 29.
    """
    total = np.zeros_like(places)
    for one in expected:
        low, high = on_scale(kind, one.low), on_scale(kind, one.high)
        if one.likely is None:
            total += _flat(places, doubts, low, high)
            continue
        likely = on_scale(kind, one.likely)
        below = np.sqrt(((likely - low) / 2.0) ** 2 + doubts**2)
        above = np.sqrt(((high - likely) / 2.0) ** 2 + doubts**2)
        sides = np.where(places < likely, below, above)
        away = (places - likely) / sides
        total += np.exp(-0.5 * away**2) * sqrt(2.0 / np.pi) / (below + above)
    return (1.0 - FLAT_SHARE) * total / len(expected) + FLAT_SHARE / span_of(kind)


def _flat(places: Floats, doubts: Floats, low: float, high: float) -> Floats:
    """Anything between two bounds, with edges as soft as a reading is unsure."""
    if high - low < 1e-9:
        away = (places - low) / doubts
        return np.asarray(np.exp(-0.5 * away**2) / (sqrt(2.0 * np.pi) * doubts))
    inside = ndtr((places - low) / doubts) - ndtr((places - high) / doubts)
    return np.asarray(inside / (high - low))


def likelihood(reading: Reading, expected: Sequence[Expected]) -> float:
    """Say how likely one reading is under a hypothesis, see `density`.

    Parameters
    ----------
    reading : Reading
        With its doubt. [see its kind]
    expected : sequence of Expected
        One for each severity. [see its kind]

    Returns
    -------
    float
        Density on the scale. [-]
    """
    kind = KINDS[reading.kind]
    doubt = scale_doubt(kind, reading.value, reading.doubt)
    place = on_scale(kind, reading.value)
    return float(density(kind, expected, np.array([place]), np.array([doubt]))[0])


def judged(reading: Reading, expected: Expected | None) -> str:
    """Judge a reading against the band of a sound system.

    Parameters
    ----------
    reading : Reading
        With its doubt. [see its kind]
    expected : Expected or None
        None: no band. [see its kind]

    Returns
    -------
    str
        "pass" inside the band and the doubt, "near" outside by less than half the band's width or
        the doubt, else "miss"; "recorded" without a band. [-]
    """
    if expected is None:
        return "recorded"
    doubt = reading.doubt
    outside = max(expected.low - doubt - reading.value, reading.value - expected.high - doubt)
    if outside <= 0.0:
        return "pass"
    width = expected.high - expected.low
    half = 0.5 * width if isfinite(width) else 0.0  # of what has only a least
    return "near" if outside < max(doubt, half) else "miss"
