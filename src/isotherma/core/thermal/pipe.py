"""A run of pipe: plug flow of equal-mass cells past a wall that stores and loses heat.

The water of a run is a ring of equal-mass cells and an inlet buffer, so that what
leaves is the exact mean of what was due to leave, and no step length adds mixing.
Walls stand still; water and wall exchange heat pair by pair, which conserves it.
"""

from __future__ import annotations

from math import exp, log, pi
from typing import Final

import numpy as np
from numpy.typing import NDArray

from isotherma.core.compiled import lean

Floats = NDArray[np.float64]
Ints = NDArray[np.int64]

# columns of a ring: which cell is the head, mass and temperature of the inlet buffer [kg, °C]
RING_HEAD, RING_KG, RING_C = range(3)

# density times specific heat [J/m³K] and conductivity [W/mK]; chosen so that the
# handbook's J/mK and W/mK of 15 mm plastic, 15 mm copper and hose come out.
WALL_HEAT_J_PER_M3_K: Final = {"plastic": 2.16e6, "copper": 3.44e6, "hose": 1.80e6}
WALL_W_PER_M_K: Final = {"plastic": 0.40, "copper": 390.0, "hose": 0.17}
OUTER_FILM_W_PER_M2_K: Final = 9.0  # still air and radiation on a pipe near room temperature


def wall_heat_j_per_m_k(*, bore_m: float, wall_m: float, material: str) -> float:
    """Heat a metre of pipe wall holds.

    Parameters
    ----------
    bore_m, wall_m : float
        Inside diameter and wall thickness, > 0. [m]
    material : str
        "plastic", "copper" or "hose". [-]

    Returns
    -------
    float
        Heat capacity per length. [J/mK]

    References
    ----------
    Geometry; volumetric heat of polyethylene, copper and soft vinyl from material tables.
    """
    area_m2 = pi * wall_m * (bore_m + wall_m)
    return area_m2 * WALL_HEAT_J_PER_M3_K[material]


def loss_w_per_m_k(
    *, bore_m: float, wall_m: float, material: str, insulation_m: float, insulation_w_per_m_k: float
) -> float:
    """Heat a metre of pipe loses per kelvin to still air.

    Parameters
    ----------
    bore_m, wall_m, insulation_m : float
        Inside diameter, wall and insulation thickness. [m]
    material : str
        "plastic", "copper" or "hose". [-]
    insulation_w_per_m_k : float
        Conductivity of the insulation. [W/mK]

    Returns
    -------
    float
        Transmittance per length, wall, insulation and outer film in series. [W/mK]

    References
    ----------
    Incropera et al., Fundamentals of Heat and Mass Transfer, ch. 3, radial conduction.
    """
    outer_m = bore_m + 2 * wall_m
    skin_m = outer_m + 2 * insulation_m
    resistance = log(outer_m / bore_m) / (2 * pi * WALL_W_PER_M_K[material])
    resistance += log(skin_m / outer_m) / (2 * pi * insulation_w_per_m_k)
    resistance += 1 / (OUTER_FILM_W_PER_M2_K * pi * skin_m)
    return 1 / resistance


def water_to_wall_w_per_m_k(
    *, bore_m: float, wall_m: float, material: str, film_w_per_m2_k: float
) -> float:
    """Conductance from flowing water into the middle of the wall, per length.

    Parameters
    ----------
    bore_m, wall_m : float
        Inside diameter and wall thickness. [m]
    material : str
        "plastic", "copper" or "hose". [-]
    film_w_per_m2_k : float
        Convection inside the pipe, > 0. [W/m²K]

    Returns
    -------
    float
        1/(1/(hπd) + wall/(3kπd_m)). [W/mK]

    Notes
    -----
    A third of the wall's resistance is that of a slab heated from one face in the
    quasi-steady limit.

    References
    ----------
    Incropera et al., Fundamentals of Heat and Mass Transfer, ch. 3, film and half a wall in series.
    """
    mean_m = bore_m + wall_m
    inner = 1 / (film_w_per_m2_k * pi * bore_m)
    return 1 / (inner + wall_m / (3 * WALL_W_PER_M_K[material] * pi * mean_m))


@lean
def push(
    water: Floats,
    first: int,
    count: int,
    cell_kg: float,
    ring: Floats,
    index: int,
    mass_kg: float,
    inlet_c: float,
) -> float:
    """Push a parcel into a pipe; return the exact mean temperature of what leaves.

    `ring[index]` holds head position, buffer mass and buffer temperature; `water`
    holds the cells of all pipes, this one's from `first`.

    References
    ----------
    Plug flow: what enters pushes out as much, LeVeque, Finite Volume Methods, ch. 4.
    """
    head = int(ring[index, RING_HEAD])
    buffered = ring[index, RING_KG]
    buffer_c = ring[index, RING_C]
    remaining = mass_kg
    heat = 0.0
    before = head - 1 if head > 0 else count - 1  # the last cell; a remainder costs more
    while remaining > 0.0:
        take = min(remaining, cell_kg - buffered)
        heat += take * water[first + before]
        buffer_c = (buffer_c * buffered + inlet_c * take) / (buffered + take)
        buffered += take
        remaining -= take
        if cell_kg - buffered <= 1e-12 * cell_kg:
            head = before
            before = head - 1 if head > 0 else count - 1
            water[first + head] = buffer_c
            buffered = 0.0
    ring[index, RING_HEAD] = head
    ring[index, RING_KG] = buffered
    ring[index, RING_C] = buffer_c
    return heat / mass_kg if mass_kg > 0.0 else inlet_c


@lean
def _gone(x: float) -> float:
    """Give 1 − exp(−x); in short steps by its series, which is exact to 1e-11 there."""
    if x < 0.05:
        return x * (1.0 - x / 2.0 * (1.0 - x / 3.0 * (1.0 - x / 4.0 * (1.0 - x / 5.0))))
    return 1.0 - exp(-x)


@lean
def exchange(
    water: Floats,
    wall: Floats,
    first: int,
    count: int,
    cell_kg: float,
    ring: Floats,
    index: int,
    specific_j: float,
    wall_j: float,
    film_w: float,
    loss_w: float,
    ambient_c: float,
    duration_s: float,
) -> float:
    """Exchange heat between flowing water and wall, and wall and air; return the loss.

    Conductances are per cell [W/K], `wall_j` the heat of one wall cell [J/K]. Cells stand
    astride two walls: first all meet the wall they are mostly of, then all the one beyond.
    No pair waits for another so, and the processor does several at once.

    References
    ----------
    Two bodies joined by a conductance, solved exactly over a step; Incropera et al.,
    Fundamentals of Heat and Mass Transfer, ch. 5, lumped capacitance.
    """
    head = int(ring[index, RING_HEAD])
    offset = ring[index, RING_KG] / cell_kg  # how far the cells stand past their walls
    per_cell = 1.0 / (cell_kg * specific_j)
    per_wall = 1.0 / wall_j
    full = per_cell + per_wall
    grip = film_w * duration_s
    here = _gone(grip * (1.0 - offset) * full) / full
    here_cell, here_wall = here * per_cell, here * per_wall
    # the ring's cells in the order of the walls, without the last: two plain stretches
    turn = count - head if head > 0 else count - 1
    start, wrapped, last = first + head, first - turn, first + count - 1
    for j in range(turn):
        gap = water[start + j] - wall[first + j]
        water[start + j] -= gap * here_cell
        wall[first + j] += gap * here_wall
    for j in range(turn, count - 1):
        gap = water[wrapped + j] - wall[first + j]
        water[wrapped + j] -= gap * here_cell
        wall[first + j] += gap * here_wall
    last_kg = (1.0 - offset) * cell_kg
    if last_kg > 1e-9 * cell_kg:
        at = start - 1 if head > 0 else last
        per_last = 1.0 / (last_kg * specific_j)
        pair = per_last + per_wall
        heat = (water[at] - wall[last]) * _gone(grip * (1.0 - offset) * pair) / pair
        water[at] -= heat * per_last
        wall[last] += heat * per_wall
    if offset > 1e-9:
        beyond = _gone(grip * offset * full) / full
        beyond_cell, beyond_wall = beyond * per_cell, beyond * per_wall
        for j in range(turn):
            gap = water[start + j] - wall[first + j + 1]
            water[start + j] -= gap * beyond_cell
            wall[first + j + 1] += gap * beyond_wall
        for j in range(turn, count - 1):
            gap = water[wrapped + j] - wall[first + j + 1]
            water[wrapped + j] -= gap * beyond_cell
            wall[first + j + 1] += gap * beyond_wall
        per_buffer = 1.0 / (ring[index, RING_KG] * specific_j)
        pair = per_buffer + per_wall
        heat = (ring[index, RING_C] - wall[first]) * _gone(grip * offset * pair) / pair
        ring[index, RING_C] -= heat * per_buffer
        wall[first] += heat * per_wall
    left = _gone(loss_w * duration_s * per_wall)
    lost = 0.0
    for j in range(first, last + 1):
        fall = (wall[j] - ambient_c) * left
        wall[j] -= fall
        lost += fall
    return lost * wall_j


@lean
def rest(
    water: Floats,
    wall: Floats,
    first: int,
    count: int,
    cell_kg: float,
    ring: Floats,
    index: int,
    specific_j: float,
    wall_j: float,
    loss_w: float,
    ambient_c: float,
    duration_s: float,
) -> float:
    """Let a resting pipe cool as one body per cell; return the heat lost [J].

    What stood astride two walls is shared out to them first, so that the next front that comes
    meets the edge of a cell, whatever flowed before: a spike hangs on that by a kelvin.

    References
    ----------
    Lumped capacitance, Incropera et al., Fundamentals of Heat and Mass Transfer, ch. 5.
    """
    head = int(ring[index, RING_HEAD])
    share = ring[index, RING_KG] / cell_kg
    if share > 0.0:
        upstream = ring[index, RING_C]
        for j in range(count):
            at = first + (head + j) % count
            stood = water[at]
            water[at] = share * upstream + (1.0 - share) * stood
            upstream = stood
        ring[index, RING_KG] = 0.0
    lost = 0.0
    at = first + head - 1
    for j in range(count):
        at += 1
        if at == first + count:
            at = first
        capacity = cell_kg * specific_j + wall_j
        common = (cell_kg * specific_j * water[at] + wall_j * wall[first + j]) / capacity
        after = ambient_c + (common - ambient_c) * exp(-loss_w * duration_s / capacity)
        lost += (common - after) * capacity
        water[at] = after
        wall[first + j] = after
    return lost


@lean
def stored_heat(
    water: Floats,
    wall: Floats,
    first: int,
    count: int,
    cell_kg: float,
    ring: Floats,
    index: int,
    specific_j: float,
    wall_j: float,
) -> float:
    """Heat of water and wall above 0 °C [J].

    References
    ----------
    Enthalpy of water by the table in `water.table`, of a wall by a constant heat.
    """
    head = int(ring[index, RING_HEAD])
    heat = ring[index, RING_KG] * specific_j * ring[index, RING_C]
    for j in range(count):
        mass = cell_kg if j < count - 1 else cell_kg - ring[index, RING_KG]
        heat += mass * specific_j * water[first + (head + j) % count] + wall_j * wall[first + j]
    return float(heat)
