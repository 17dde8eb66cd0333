"""Two streams that pass each other through a wall."""

from __future__ import annotations

from math import exp

from isotherma.core.compiled import lean

EQUAL_RATIO = 0.9999  # above it the general law divides nothing by nothing


@lean
def counterflow_w_per_k(
    conductance_w_per_k: float, one_w_per_k: float, other_w_per_k: float
) -> float:
    """Heat that goes over per kelvin between the two inlets; nothing where one stands still.

    Effectiveness of counterflow by number of transfer units, C_r = 1 apart: Incropera et al.,
    Fundamentals of Heat and Mass Transfer, ch. 11. Streams are given as ṁc [W/K].
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
