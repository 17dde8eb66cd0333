"""A store of N layers of fixed mass: drawn, heated, cooling, and turning over.

Layer 0 is the bottom. Each layer is water plus its share of the vessel's heat.
"""

from __future__ import annotations

from math import ceil, exp
from typing import Final

import numpy as np
from numpy.typing import NDArray

from isotherma.core.compiled import compiled, lean
from isotherma.core.water.arrays import DENSITY

Floats = NDArray[np.float64]

_DENSITY: Final = DENSITY  # a global array is a constant to the compiler
AT, LAG = range(2)  # columns of the sensors of a store alone
COURANT: Final = 0.2  # share of a layer that may pass in one sub-step
HEATING_SUBSTEP_S: Final = (
    30.0  # layers turn over between sub-steps, so a heated one is not let run
)
RESTING_SUBSTEP_S: Final = 120.0


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

    References
    ----------
    Plug flow between layers, Duffie and Beckman, Solar Engineering of Thermal Processes, ch. 8.
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
        columns[sensor, AT], columns[sensor, LAG] = sensor_at[sensor], sensor_lag_s[sensor]
    return advance_at(
        layers, 0, layers.size, layer_j, loss_w, ambient_c, link_w, heat_w, columns, sensors, 0,
        sensors.size, AT, LAG, room, duration_s,
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

    References
    ----------
    Duffie and Beckman, Solar Engineering of Thermal Processes, ch. 8, stratified tank of nodes.
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
