"""A store of N layers of fixed mass: drawn, heated, cooling, and turning over.

Layer 0 is the bottom. Each layer is water plus its share of the vessel's heat.
"""

from __future__ import annotations

from math import ceil, exp, pi, sqrt
from typing import Final

import numpy as np
from numpy.typing import NDArray

from isotherma.core.compiled import compiled, lean
from isotherma.core.water import DENSITY

Floats = NDArray[np.float64]

_DENSITY: Final = DENSITY  # a global array is a constant to the compiler
COURANT: Final = 0.2  # share of a layer that may pass in one sub-step
HEATING_SUBSTEP_S: Final = (
    30.0  # layers turn over between sub-steps, so a heated one is not let run
)
RESTING_SUBSTEP_S: Final = 120.0
TANK_W_PER_M2_K: Final = 6.0  # a bare plastic tank in still air; judgement


def tank_loss_w_per_k(volume_m3: float) -> float:
    """Give what a bare plastic tank loses: the faces of a cube of its volume in still air.

    Parameters
    ----------
    volume_m3 : float
        Of the tank, > 0. [m³]

    Returns
    -------
    float
        Loss. [W/K]

    References
    ----------
    Judgement: 6 W/m²K.
    """
    return float(TANK_W_PER_M2_K * 6.0 * volume_m3 ** (2 / 3))


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
    room = np.empty((2, layers.size))
    return draw_at(
        layers, 0, layers.size, layer_kg, layer_j, specific_j, mass_kg, inlet_c, jet_share, room
    )


@lean
def draw_at(
    layers: Floats,
    first: int,
    count: int,
    layer_kg: float,
    layer_j: float,
    specific_j: float,
    mass_kg: float,
    inlet_c: float,
    jet_share: float,
    room: Floats,
) -> float:
    """Draw from one of several stores in a row: `count` layers from `first`.

    `room` is to work in: slices and new arrays at each step would cost more than the sums.
    """
    end = first + count
    if mass_kg <= 0.0:
        return float(layers[end - 1])
    steps = max(1, ceil(mass_kg / (COURANT * layer_kg)))
    part = mass_kg / steps
    ratio = part * specific_j / layer_j
    heat = 0.0
    for _ in range(steps):
        below = inlet_c
        for i in range(first, end):
            room[0, i] = ratio * (below - layers[i])
            below = layers[i]
        heat += layers[end - 1] + 0.5 * room[0, end - 1]
        below_next = inlet_c
        for i in range(first, end):
            ahead = layers[i] + room[0, i]
            second = ratio * (below_next - ahead)
            below_next = ahead
            layers[i] += 0.5 * (room[0, i] + second)
        mixed = min(jet_share * part * specific_j, 0.25 * layer_j)
        for i in range(first, first + min(max(1, count // 4), count - 1)):
            moved = mixed * (layers[i + 1] - layers[i]) / layer_j
            layers[i] += moved
            layers[i + 1] -= moved
    return heat / steps


@lean
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
    if not _settled(layers, 0, layers.size):
        _pool(layers, 0, layers.size, np.empty((2, layers.size)))


@lean
def _settled(layers: Floats, first: int, count: int) -> bool:
    """Say whether it is warmer upwards and above 4 °C: nothing to do, by far the usual case."""
    for i in range(first, first + count - 1):
        if layers[i] > layers[i + 1] or layers[i] < 5.0:
            return False
    return True


@lean
def _pool(layers: Floats, first: int, count: int, room: Floats) -> None:
    """Pool layers that stand on lighter ones; `room` holds the means and sizes of pools."""
    pools = first
    for i in range(first, first + count):
        room[0, pools], room[1, pools] = layers[i], 1.0
        pools += 1
        while (
            pools > first + 1
            and density_at(room[0, pools - 2]) < density_at(room[0, pools - 1]) - 1e-12
        ):
            one, other = room[1, pools - 2], room[1, pools - 1]
            room[0, pools - 2] = (room[0, pools - 2] * one + room[0, pools - 1] * other) / (
                one + other
            )
            room[1, pools - 2] = one + other
            pools -= 1
    if pools == first + count:
        return
    at = first
    for p in range(first, pools):
        for _ in range(int(room[1, p])):
            layers[at] = room[0, p]
            at += 1


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
    room = np.empty((2, layers.size))
    columns = np.empty((sensors.size, 2))
    for sensor in range(sensors.size):
        columns[sensor, 0], columns[sensor, 1] = sensor_at[sensor], sensor_lag_s[sensor]
    return advance_at(
        layers, 0, layers.size, layer_j, loss_w, ambient_c, link_w, heat_w, columns, sensors, 0,
        sensors.size, 0, 1, room, duration_s,
    )  # fmt: skip


@lean
def advance_at(
    layers: Floats,
    first: int,
    count: int,
    layer_j: float,
    loss_w: Floats,
    ambient_c: float,
    link_w: float,
    heat_w: Floats,
    sources: Floats,
    sensors: Floats,
    begin: int,
    end: int,
    at_column: int,
    lag_column: int,
    room: Floats,
    duration_s: float,
) -> float:
    """Advance one of several stores in a row: `count` layers from `first`.

    Sensors are those from `begin` to `end`; two columns of `sources` say in which layer of the
    store each sits and its lag. `room` is to work in.
    """
    last = first + count - 1
    hottest = most_loss = 0.0
    for i in range(first, last + 1):
        hottest = max(hottest, heat_w[i])
        most_loss = max(most_loss, loss_w[i])
    longest = HEATING_SUBSTEP_S if hottest > 0.0 else RESTING_SUBSTEP_S
    fastest = 0.2 * layer_j / (2.0 * link_w + most_loss + 1e-12)
    steps = max(1, ceil(duration_s / min(longest, fastest)))
    step_s = duration_s / steps
    per = step_s / layer_j
    lost = 0.0
    for _ in range(steps):
        up = 0.0  # what the layer below takes
        for i in range(first, last):
            over = link_w * (layers[i + 1] - layers[i])
            room[0, i] = (heat_w[i] - loss_w[i] * (layers[i] - ambient_c) + over - up) * per
            room[1, i] = layers[i] + room[0, i]
            up = over
        room[0, last] = (heat_w[last] - loss_w[last] * (layers[last] - ambient_c) - up) * per
        room[1, last] = layers[last] + room[0, last]
        up = 0.0
        for i in range(first, last + 1):
            ahead = room[1, i]
            over = link_w * (room[1, i + 1] - ahead) if i < last else 0.0
            power = heat_w[i] - loss_w[i] * (ahead - ambient_c) + over - up
            up = over
            lost += loss_w[i] * (0.5 * (layers[i] + ahead) - ambient_c)
            layers[i] += 0.5 * (room[0, i] + power * per)
        if not _settled(layers, first, count):
            _pool(layers, first, count, room)
        for s in range(begin, end):
            gap = layers[first + int(sources[s, at_column])] - sensors[s]
            if sources[s, lag_column] > 0.0:
                sensors[s] += gap * (1.0 - exp(-step_s / sources[s, lag_column]))
            else:
                sensors[s] += gap
    return lost * step_s
