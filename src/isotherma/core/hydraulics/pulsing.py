"""A pump that stops and starts by its switch: water kept under pressure, cycles, leaks."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Final

import numpy as np
from numpy.typing import NDArray

from isotherma.core import water
from isotherma.core.errors import NoPumpStarts

Floats = NDArray[np.float64]

ATMOSPHERE_PA: Final = 101_325.0
TUBE_M3_PER_PA: Final = 10e-6 / 1e5  # 10 mL/bar of tubes and air caught in them; judgement
TUBE_DOUBT: Final = 3.0  # either way: rolled hose and a little air against short stiff pipe
CYCLE_EXPONENT: Final = 1.2  # gas in seconds; over minutes it is isothermal
FLUTTERS_BELOW_S: Final = 2.0  # a period that feels like pulses, not like on and off


def accumulator_water_m3(
    *,
    volume_m3: float,
    precharge_pa: float,
    low_pa: float,
    high_pa: float,
    exponent: float = 1.0,
) -> float:
    """Water an accumulator gives between two pressures.

    Parameters
    ----------
    volume_m3 : float
        Gas volume at its pre-charge, >= 0. [m³]
    precharge_pa : float
        Gauge pressure it is charged to. [Pa]
    low_pa, high_pa : float
        Gauge pressures at the end and at the start of the draw, low <= high. [Pa]
    exponent : float
        1 slowly (leaks), about 1.2 in a pump's cycle, 1.4 at once. [-]

    Returns
    -------
    float
        Water; none from an accumulator charged above the high pressure. [m³]

    Notes
    -----
    Gas that came to rest at p_out expands to p_in: V0 p0/p_out ((p_out/p_in)^(1/n) − 1),
    absolute pressures, p_in not below p0, where the bladder is empty.

    References
    ----------
    Polytropic change of a gas, p·Vⁿ constant; Moran and Shapiro, Fundamentals of Engineering
    Thermodynamics, ch. 3.

    Examples
    --------
    >>> given = accumulator_water_m3(volume_m3=1e-3, precharge_pa=1e5, low_pa=1e5, high_pa=3e5)
    >>> round(given * 1e3, 3)
    0.498
    """
    p0 = precharge_pa + ATMOSPHERE_PA
    high = high_pa + ATMOSPHERE_PA
    low = max(low_pa + ATMOSPHERE_PA, p0)
    if low >= high:
        return 0.0
    gas = volume_m3 * p0 / high
    return float(gas * ((high / low) ** (1.0 / exponent) - 1.0))


def kept_water_m3(
    *,
    accumulators: tuple[tuple[float, float], ...],
    low_pa: float,
    high_pa: float,
    exponent: float = 1.0,
    tubes_m3_per_pa: float = TUBE_M3_PER_PA,
) -> float:
    """Water all that is under pressure gives between two pressures.

    Parameters
    ----------
    accumulators : tuple of pairs
        Gas volume and pre-charge of each. [m³, Pa]
    low_pa, high_pa : float
        Gauge pressures, low <= high. [Pa]
    exponent : float
        Of the gas; see `accumulator_water_m3`. [-]
    tubes_m3_per_pa : float
        How much tubes and caught air give. [m³/Pa]

    Returns
    -------
    float
        Water. [m³]

    Examples
    --------
    >>> kept_water_m3(accumulators=(), low_pa=1e5, high_pa=2e5, tubes_m3_per_pa=1e-10)
    1e-05
    """
    given = tubes_m3_per_pa * (high_pa - low_pa)
    for volume_m3, precharge_pa in accumulators:
        given += accumulator_water_m3(
            volume_m3=volume_m3,
            precharge_pa=precharge_pa,
            low_pa=low_pa,
            high_pa=high_pa,
            exponent=exponent,
        )
    return given


@dataclass(frozen=True, slots=True)
class Cycle:
    """One on and off of a pump at an opening that stays the same.

    `on_s`, `off_s`; `mean_m3_per_s` at the outlets and between `least` and `most`;
    `mean_pa` is the pressure that gives the mean flow. A pump that just runs has no
    cycle: `off_s` is then 0 and the period infinite.
    """

    on_s: float
    off_s: float
    mean_m3_per_s: float
    least_m3_per_s: float
    most_m3_per_s: float
    mean_pa: float

    @property
    def period_s(self) -> float:
        """Time from start to start [s]."""
        return self.on_s + self.off_s

    @property
    def starts_per_h(self) -> float:
        """Starts in an hour [1/h]."""
        return 3600.0 / self.period_s if self.period_s < np.inf else 0.0

    @property
    def ripple(self) -> float:
        """Span of the outlets' flow over its mean [-]."""
        mean = self.mean_m3_per_s
        return (self.most_m3_per_s - self.least_m3_per_s) / mean if mean > 0.0 else 0.0

    @property
    def short_cycles(self) -> bool:
        """Whether it is too quick to be told from pulses."""
        return self.period_s < FLUTTERS_BELOW_S


def cycle(
    *, pressure_pa: Floats, kept_m3: Floats, out_m3_per_s: Floats, in_m3_per_s: Floats
) -> Cycle:
    """Time one cycle of a pump between its switch pressures.

    Parameters
    ----------
    pressure_pa : numpy.ndarray
        Gauge pressures from cut-in to cut-out, rising, shape (n,). [Pa]
    kept_m3 : numpy.ndarray
        Water kept at each, over that at cut-in, rising, shape (n,). [m³]
    out_m3_per_s : numpy.ndarray
        What the outlets take at each, > 0, shape (n,). [m³/s]
    in_m3_per_s : numpy.ndarray
        What the pump gives at each, shape (n,). [m³/s]

    Returns
    -------
    Cycle
        With the pump never reaching cut-out, an endless on-time. [-]

    Notes
    -----
    t = ∫ dV/(q_in − q_out) while on, ∫ dV/q_out while off; each piece is taken with the
    logarithmic mean of its ends, exact where flows are linear in the water kept.

    References
    ----------
    The same polytropic gas, and conservation of volume.
    """
    step = np.diff(kept_m3)
    net = in_m3_per_s - out_m3_per_s
    if np.any(net <= 0.0):
        mean = float(out_m3_per_s[0])
        return Cycle(np.inf, 0.0, mean, mean, mean, float(pressure_pa[0]))
    on = step * _over(net)
    off = step * _over(out_m3_per_s)
    on_s, off_s = float(on.sum()), float(off.sum())
    # all that leaves while off was kept; while on the outlets take theirs too
    middle = (out_m3_per_s[1:] + out_m3_per_s[:-1]) / 2
    mean = float((step.sum() + (on * middle).sum()) / (on_s + off_s))
    return Cycle(
        on_s=on_s,
        off_s=off_s,
        mean_m3_per_s=mean,
        least_m3_per_s=float(out_m3_per_s.min()),
        most_m3_per_s=float(out_m3_per_s.max()),
        mean_pa=float(np.interp(mean, out_m3_per_s, pressure_pa)),
    )


def _over(flow: Floats) -> Floats:
    """Mean of 1/flow over each piece between points of a flow linear in the water kept."""
    one, other = flow[:-1], flow[1:]
    ratio = other / one
    even = np.abs(ratio - 1.0) < 1e-6
    spread = np.where(even, 1.0, other - one)
    result: Floats = np.where(
        even, 2.0 / (one + other), np.log(np.where(even, 1.0, ratio)) / spread
    )
    return result


def leak_m3_per_s(*, kept_m3: float, interval_s: float) -> float:
    """Work a leak out from the time between two starts of a pump with everything shut.

    Parameters
    ----------
    kept_m3 : float
        Water between cut-out and cut-in, slowly (n = 1). [m³]
    interval_s : float
        From one start to the next, > 0. [s]

    Returns
    -------
    float
        Leak, at about the mean of both pressures. [m³/s]

    Raises
    ------
    NoPumpStarts
        If no time passed.

    Examples
    --------
    >>> leak_m3_per_s(kept_m3=1e-4, interval_s=1000.0) * 86400.0
    0.00864
    """
    if interval_s <= 0.0:
        raise NoPumpStarts(interval_s=interval_s, leak_m3_per_s=None)
    return kept_m3 / interval_s


def pump_start_interval_s(*, kept_m3: float, leak_m3_per_s: float) -> float:
    """Work out how often a pump starts for a leak.

    Parameters
    ----------
    kept_m3 : float
        Water between cut-out and cut-in, slowly (n = 1). [m³]
    leak_m3_per_s : float
        Leak, > 0. [m³/s]

    Returns
    -------
    float
        Time between starts. [s]

    Raises
    ------
    NoPumpStarts
        If nothing leaks: the pump stays silent.

    Examples
    --------
    >>> round(pump_start_interval_s(kept_m3=1e-4, leak_m3_per_s=1e-7), 6)
    1000.0
    """
    if leak_m3_per_s <= 0.0:
        raise NoPumpStarts(interval_s=None, leak_m3_per_s=leak_m3_per_s)
    return kept_m3 / leak_m3_per_s


def shrinkage_m3(*, volume_m3: float, from_c: float, to_c: float) -> float:
    """Water a cooling store takes in, which starts a pump as a leak would.

    Parameters
    ----------
    volume_m3 : float
        Of the store. [m³]
    from_c, to_c : float
        Before and after. [°C]

    Returns
    -------
    float
        Volume missing at the end; negative for one that warms. [m³]

    References
    ----------
    Mass kept at two densities, table of water as in `water.table`.

    Examples
    --------
    >>> round(shrinkage_m3(volume_m3=0.01, from_c=60.0, to_c=20.0) * 1e6)
    150
    """
    return volume_m3 * (1.0 - water.density_kg_per_m3(from_c) / water.density_kg_per_m3(to_c))
