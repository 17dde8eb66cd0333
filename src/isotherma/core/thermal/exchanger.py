"""Two streams that pass each other through a wall."""

from __future__ import annotations

from math import exp

from isotherma.core.compiled import lean

COIL_AT_K = 20.0  # the difference a coil's conductance is given at
EQUAL_RATIO = 0.9999  # above it the general law divides nothing by nothing


@lean
def counterflow_w_per_k(
    conductance_w_per_k: float, one_w_per_k: float, other_w_per_k: float
) -> float:
    """Heat that goes over per kelvin between the two inlets; nothing where one stands still.

    Effectiveness of counterflow by number of transfer units, C_r = 1 apart: Incropera et al.,
    Fundamentals of Heat and Mass Transfer, ch. 11. Streams are given as ṁc [W/K].

    References
    ----------
    Incropera et al., Fundamentals of Heat and Mass Transfer, ch. 11.

    Examples
    --------
    >>> round(counterflow_w_per_k(100.0, 100.0, 100.0), 1)
    50.0
    >>> counterflow_w_per_k(100.0, 0.0, 100.0)
    0.0
    """
    least, most = min(one_w_per_k, other_w_per_k), max(one_w_per_k, other_w_per_k)
    if least <= 0.0:
        return 0.0
    ntu, ratio = conductance_w_per_k / least, least / most
    if ratio > EQUAL_RATIO:
        effect = ntu / (1.0 + ntu)
    else:
        fade = exp(-ntu * (1.0 - ratio))
        effect = (1.0 - fade) / (1.0 - ratio * fade)
    return effect * least


@lean
def coil_gives_w(conductance_w_per_k: float, rate_w_per_k: float, gap_k: float) -> float:
    """Heat that a piece of coil gives to the still water around it [W].

    `conductance_w_per_k` of the piece at 20 K, `rate_w_per_k` ṁc in it, `gap_k` what enters it
    above what is around it. Effectiveness 1 − e^(−UA/ṁc); still water takes more at a larger
    difference, UA ∝ ΔT^0.25 (Incropera et al., Fundamentals of Heat and Mass Transfer, ch. 9
    and 11); under 4 K it is held, for conduction is left.

    References
    ----------
    Incropera et al., Fundamentals of Heat and Mass Transfer, ch. 9 and 11.

    Examples
    --------
    >>> round(coil_gives_w(100.0, 100.0, 20.0))
    1264
    """
    grip = conductance_w_per_k * max(0.2, abs(gap_k) / COIL_AT_K) ** 0.25
    return rate_w_per_k * gap_k * (1.0 - exp(-grip / rate_w_per_k))
