"""A solar panel: its curve under any sun, straight on an element, or at its best point."""

from __future__ import annotations

from dataclasses import dataclass
from math import exp, log
from typing import Final

from isotherma.core.cache import remembered

PAIR_BYTES: Final = 600  # two figures and what they were found for
PER_K: Final = -0.0035  # of the open voltage, silicon cells
CELL_K_PER_SUN: Final = (
    28.0  # cells over air in full sun, on a roof; the rated figures are at 25 °C
)


@dataclass(frozen=True, slots=True)
class Curve:
    """A panel by the four figures on its back: short and best current [A], open and best [V]."""

    short_a: float
    open_v: float
    best_a: float
    best_v: float

    @property
    def rated_w(self) -> float:
        """Power at its best in full sun [W]."""
        return self.best_a * self.best_v


def usual_curve(rated_w: float, count: int = 1) -> Curve:
    """Guess the curve of a panel of which only the watts are known.

    Parameters
    ----------
    rated_w : float
        Watts of one, > 0. [W]
    count : int
        How many, side by side. [-]

    Returns
    -------
    Curve
        36 cells up to 150 W, 60 above. [-]

    References
    ----------
    Judgement: best voltage 18.5 V of 36 cells and 33 V of 60; fill factor about 0.77.

    Examples
    --------
    >>> curve = usual_curve(100.0)
    >>> round(best_point(curve, 1.0)[0])
    100
    """
    best_v = 18.5 if rated_w <= 150.0 else 33.0
    best_a = rated_w / best_v
    return Curve(1.07 * best_a * count, 1.215 * best_v, best_a * count, best_v)


def current_a(curve: Curve, volts: float, sun: float, *, over_k: float = 0.0) -> float:
    """Give the current of a panel at a voltage.

    Parameters
    ----------
    curve : Curve
        Figures in full sun at 25 °C; best below short and open. [-]
    volts : float
        At its terminals, >= 0. [V]
    sun : float
        Share of full sun, 0 to about 1.2. [-]
    over_k : float
        Cells over 25 °C; lowers the voltage. [K]

    Returns
    -------
    float
        Current; 0 where the voltage is over what the panel reaches. [A]

    Notes
    -----
    I = sun·Isc − Isc·C₁ (exp(V/(C₂ Voc)) − 1), with C₂ = (Vmp/Voc − 1)/ln(1 − Imp/Isc) and
    C₁ = (1 − Imp/Isc) exp(−Vmp/(C₂ Voc)). Photo-current scales with sun, the diode does not.

    References
    ----------
    Rauschenbach, Solar Cell Array Design Handbook, explicit model of four figures.

    Examples
    --------
    >>> round(current_a(usual_curve(100.0), 0.0, 0.5) / usual_curve(100.0).short_a, 3)
    0.5
    """
    shift = 1.0 + PER_K * over_k
    open_v = curve.open_v * shift
    gap = 1.0 - curve.best_a / curve.short_a
    c2 = (curve.best_v / curve.open_v - 1.0) / log(gap)
    c1 = gap * exp(-curve.best_v / (c2 * curve.open_v))
    diode = curve.short_a * c1 * (exp(min(60.0, volts / (c2 * open_v))) - 1.0)
    return max(0.0, sun * curve.short_a - diode)


@remembered("panel on element", lambda _: PAIR_BYTES)
def on_element(curve: Curve, ohm: float, sun: float, *, over_k: float = 0.0) -> tuple[float, float]:
    """Give what an element wired straight to a panel draws.

    Parameters
    ----------
    curve : Curve
        The panel. [-]
    ohm : float
        The element with its cable, > 0. [Ω]
    sun : float
        Share of full sun. [-]
    over_k : float
        Cells over 25 °C. [K]

    Returns
    -------
    tuple of float
        Power and voltage. [W, V]

    References
    ----------
    Where the panel's curve meets Ohm's line, by halving.

    Examples
    --------
    >>> watts, volts = on_element(usual_curve(100.0), 3.0, 0.6)
    >>> abs(watts - volts**2 / 3.0) < 1e-6
    True
    """
    low, high = 0.0, curve.open_v * 1.2
    for _ in range(60):
        volts = 0.5 * (low + high)
        if current_a(curve, volts, sun, over_k=over_k) > volts / ohm:
            low = volts
        else:
            high = volts
    return low * low / ohm, low


@remembered("panel at best", lambda _: PAIR_BYTES)  # edits seldom touch the roof
def best_point(curve: Curve, sun: float, *, over_k: float = 0.0) -> tuple[float, float]:
    """Give the most a panel can give.

    Parameters
    ----------
    curve : Curve
        The panel. [-]
    sun : float
        Share of full sun. [-]
    over_k : float
        Cells over 25 °C. [K]

    Returns
    -------
    tuple of float
        Power and voltage there. [W, V]

    References
    ----------
    Largest product of current and voltage; golden section, the curve has one hill.

    Examples
    --------
    >>> watts, volts = best_point(usual_curve(200.0), 1.0)
    >>> round(watts), round(volts)
    (200, 33)
    """
    if sun <= 0.0:
        return 0.0, 0.0
    low, high = 0.0, curve.open_v
    ratio = 0.6180339887498949

    def power(volts: float) -> float:
        return volts * current_a(curve, volts, sun, over_k=over_k)

    one, two = high - ratio * (high - low), low + ratio * (high - low)
    at_one, at_two = power(one), power(two)
    for _ in range(60):
        if at_one < at_two:
            low, one, at_one = one, two, at_two
            two = low + ratio * (high - low)
            at_two = power(two)
        else:
            high, two, at_two = two, one, at_one
            one = high - ratio * (high - low)
            at_one = power(one)
    volts = 0.5 * (low + high)
    return power(volts), volts


def matching_ohm(curve: Curve, sun: float, *, over_k: float = 0.0) -> float:
    """Give the resistance that takes the most from a panel under a sun.

    Parameters
    ----------
    curve : Curve
        The panel. [-]
    sun : float
        Share of full sun, > 0. [-]
    over_k : float
        Cells over 25 °C. [K]

    Returns
    -------
    float
        V²/P at the best point. [Ω]

    References
    ----------
    Ohm's law at the best point.

    Examples
    --------
    >>> ohm = matching_ohm(usual_curve(200.0), 0.5)
    >>> round(
    ...     on_element(usual_curve(200.0), ohm, 0.5)[0] / best_point(usual_curve(200.0), 0.5)[0], 4
    ... )
    1.0
    """
    watts, volts = best_point(curve, sun, over_k=over_k)
    return volts * volts / watts if watts > 0.0 else float("inf")


def cells_over_k(air_c: float, sun: float) -> float:
    """Give how far cells are over the 25 °C at which panels are rated.

    Parameters
    ----------
    air_c : float
        Air. [°C]
    sun : float
        Share of full sun. [-]

    Returns
    -------
    float
        Difference; negative in the cold. [K]

    References
    ----------
    Judgement after the nominal operating cell temperature of IEC 61215: about 28 K over air
    in full sun on a roof.

    Examples
    --------
    >>> cells_over_k(25.0, 0.0)
    0.0
    >>> round(cells_over_k(25.0, 1.0))
    28
    """
    return air_c + CELL_K_PER_SUN * sun - 25.0
