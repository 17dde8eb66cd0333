"""A store of N layers of fixed mass: drawn, heated, cooling, and turning over.

Layer 0 is the bottom. Each layer is water plus its share of the vessel's heat.
"""

from __future__ import annotations

from math import ceil, exp, pi, sqrt
from typing import Final

import numpy as np
from numpy.typing import NDArray

from isotherma.core.compiled import compiled
from isotherma.core.water import DENSITY

Floats = NDArray[np.float64]

_DENSITY: Final = DENSITY  # a global array is a constant to the compiler
COURANT: Final = 0.2  # share of a layer that may pass in one sub-step
HEATING_SUBSTEP_S: Final = (
    30.0  # layers turn over between sub-steps, so a heated one is not let run
)
RESTING_SUBSTEP_S: Final = 120.0


def cylinder_loss_w_per_k(
    *,
    volume_m3: float,
    height_m: float,
    insulation_m: float,
    insulation_w_per_m_k: float,
    film_w_per_m2_k: float,
    fittings_share: float,
) -> tuple[float, float]:
    """Standing loss of an upright cylinder in insulation.

    Parameters
    ----------
    volume_m3 : float
        Water volume, > 0. [m³]
    height_m : float
        Inside height, > 0. [m]
    insulation_m : float
        Thickness of the insulation, >= 0. [m]
    insulation_w_per_m_k : float
        Its conductivity, > 0. [W/mK]
    film_w_per_m2_k : float
        Convection and radiation at its surface, > 0. [W/m²K]
    fittings_share : float
        What pipes and straps through the insulation add. [-]

    Returns
    -------
    tuple of float
        Loss of the side, and of one end. [W/K]

    References
    ----------
    Two resistances t/k and 1/h on the mid-plane area of the insulation.
    """
    diameter_m = sqrt(4 * volume_m3 / (pi * height_m))
    u = (1 + fittings_share) / (insulation_m / insulation_w_per_m_k + 1 / film_w_per_m2_k)
    middle_m = diameter_m + insulation_m
    return (
        u * pi * middle_m * (height_m + insulation_m),
        u * pi * middle_m**2 / 4,
    )


def box_loss_w_per_k(
    *,
    length_m: float,
    width_m: float,
    height_m: float,
    insulation_m: float,
    insulation_w_per_m_k: float,
    film_w_per_m2_k: float,
) -> float:
    """Standing loss of a box in insulation board, all six faces.

    Parameters
    ----------
    length_m, width_m, height_m : float
        Of the box inside the insulation, > 0. [m]
    insulation_m : float
        Thickness of the board, >= 0. [m]
    insulation_w_per_m_k : float
        Its conductivity, > 0. [W/mK]
    film_w_per_m2_k : float
        Convection and radiation at its surface, > 0. [W/m²K]

    Returns
    -------
    float
        Loss. [W/K]

    References
    ----------
    Two resistances t/k and 1/h on the mid-plane area of the insulation.
    """
    a, b, c = (side + insulation_m for side in (length_m, width_m, height_m))
    area_m2 = 2 * (a * b + b * c + a * c)
    return area_m2 / (insulation_m / insulation_w_per_m_k + 1 / film_w_per_m2_k)


def default_layers(*, volume_m3: float, height_m: float) -> int:
    """Choose how many layers a store keeps apart.

    Parameters
    ----------
    volume_m3, height_m : float
        Water volume and inside height, > 0. [m³, m]

    Returns
    -------
    int
        1 below two litres, where everything mixes; else eight per height equal to
        the diameter, 4 to 12. [-]
    """
    if volume_m3 < 0.002:
        return 1
    diameter_m = sqrt(4 * volume_m3 / (pi * height_m))
    return min(12, max(4, round(8 * height_m / diameter_m)))


@compiled
def draw(
    layers: Floats,
    layer_kg: float,
    layer_j: float,
    specific_j: float,
    mass_kg: float,
    inlet_c: float,
    jet_share: float,
) -> float:
    """Draw from the top while the same mass enters below; return its mean temperature.

    Second-order steps in time, so the layers mix as N stirred tanks do and no more;
    `layer_j` is the heat of a layer with its vessel [J/K].
    """
    count = layers.shape[0]
    if mass_kg <= 0.0:
        return float(layers[count - 1])
    steps = max(1, ceil(mass_kg / (COURANT * layer_kg)))
    part = mass_kg / steps
    ratio = part * specific_j / layer_j
    heat = 0.0
    slope = np.empty(count)
    for _ in range(steps):
        below = inlet_c
        for i in range(count):
            slope[i] = ratio * (below - layers[i])
            below = layers[i]
        heat += layers[count - 1] + 0.5 * slope[count - 1]
        below_next = inlet_c
        for i in range(count):
            ahead = layers[i] + slope[i]
            second = ratio * (below_next - ahead)
            below_next = ahead
            layers[i] += 0.5 * (slope[i] + second)
        mixed = min(jet_share * part * specific_j, 0.25 * layer_j)
        for i in range(min(max(1, count // 4), count - 1)):
            moved = mixed * (layers[i + 1] - layers[i]) / layer_j
            layers[i] += moved
            layers[i + 1] -= moved
    return heat / steps


@compiled
def density_at(celsius: float) -> float:
    """Interpolate water's density [kg/m³] in the table of one value per kelvin."""
    if celsius <= 0.0:
        return float(_DENSITY[0])
    if celsius >= 110.0:
        return float(_DENSITY[110])
    low = int(celsius)
    return float(_DENSITY[low] + (celsius - low) * (_DENSITY[low + 1] - _DENSITY[low]))


@compiled
def turn_over(layers: Floats) -> None:
    """Mix layers until none is lighter than the one above: pool adjacent violators.

    Density, not temperature, decides: water is heaviest at 4 °C.
    """
    count = layers.shape[0]
    settled = True
    for i in range(count - 1):
        if layers[i] > layers[i + 1] or layers[i] < 5.0:
            settled = False
    if settled:  # warmer upwards and above 4 °C: nothing to do, and by far the usual case
        return
    start = np.empty(count, np.int64)
    mean = np.empty(count)
    size = np.empty(count, np.int64)
    pools = 0
    for i in range(count):
        start[pools] = i
        mean[pools] = layers[i]
        size[pools] = 1
        pools += 1
        while pools > 1 and density_at(mean[pools - 2]) < density_at(mean[pools - 1]) - 1e-12:
            total = size[pools - 2] + size[pools - 1]
            mean[pools - 2] = (
                mean[pools - 2] * size[pools - 2] + mean[pools - 1] * size[pools - 1]
            ) / total
            size[pools - 2] = total
            pools -= 1
    if pools == count:
        return
    for p in range(pools):
        for i in range(start[p], start[p] + size[p]):
            layers[i] = mean[p]


@compiled
def advance(
    layers: Floats,
    layer_j: float,
    loss_w: Floats,
    ambient_c: float,
    link_w: float,
    heat_w: Floats,
    sensors: Floats,
    sensor_at: Floats,
    sensor_lag_s: Floats,
    duration_s: float,
) -> float:
    """Let heat in, out and through the layers for a while; return the heat lost [J].

    `heat_w` is the power into each layer, `link_w` the conductance between neighbours
    and `sensors` the thermostat readings, which follow their layers with a lag.
    """
    count = layers.shape[0]
    hottest = most_loss = 0.0
    for i in range(count):
        hottest = max(hottest, heat_w[i])
        most_loss = max(most_loss, loss_w[i])
    longest = HEATING_SUBSTEP_S if hottest > 0.0 else RESTING_SUBSTEP_S
    fastest = 0.2 * layer_j / (2.0 * link_w + most_loss + 1e-12)
    steps = max(1, ceil(duration_s / min(longest, fastest)))
    step_s = duration_s / steps
    per = step_s / layer_j
    slope = np.empty(count)
    ahead = np.empty(count)
    lost = 0.0
    for _ in range(steps):
        up = 0.0  # what the layer below takes
        for i in range(count - 1):
            over = link_w * (layers[i + 1] - layers[i])
            slope[i] = (heat_w[i] - loss_w[i] * (layers[i] - ambient_c) + over - up) * per
            ahead[i] = layers[i] + slope[i]
            up = over
        i = count - 1
        slope[i] = (heat_w[i] - loss_w[i] * (layers[i] - ambient_c) - up) * per
        ahead[i] = layers[i] + slope[i]
        up = 0.0
        for i in range(count):
            over = link_w * (ahead[i + 1] - ahead[i]) if i < count - 1 else 0.0
            power = heat_w[i] - loss_w[i] * (ahead[i] - ambient_c) + over - up
            up = over
            lost += loss_w[i] * (0.5 * (layers[i] + ahead[i]) - ambient_c)
            layers[i] += 0.5 * (slope[i] + power * per)
        turn_over(layers)
        for s in range(sensors.shape[0]):
            gap = layers[int(sensor_at[s])] - sensors[s]
            if sensor_lag_s[s] > 0.0:
                sensors[s] += gap * (1.0 - exp(-step_s / sensor_lag_s[s]))
            else:
                sensors[s] += gap
    return lost * step_s
