"""A bottle of liquid gas that cools as it boils: for how long it carries a load, and what lasts."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Final

from isotherma.core.supply.gases import Mix, heat_of_boiling_j_per_kg, saturation_pressure_pa

STEEL_J_PER_KG_K: Final = 480.0
LIQUID_J_PER_KG_K: Final = 2500.0
LEAST_PA: Final = 1.5e5  # absolute; where no regulator is drawn (judgement)
ATMOSPHERE_PA: Final = 101325.0
ALWAYS_WET: Final = 0.25  # the foot of an upright bottle, of its wetted wall when full


@dataclass(frozen=True, slots=True)
class Bottle:
    """A bottle as it stands.

    `gas_kg` liquid left, `full_kg` when full, `conductance_w_per_k` with the whole wall wet,
    `steel_kg` of steel that cools with the liquid, `mix` by shares, `celsius` of the liquid.
    """

    gas_kg: float
    full_kg: float
    conductance_w_per_k: float
    steel_kg: float
    mix: Mix
    celsius: float

    @property
    def taken_up_w_per_k(self) -> float:
        """Conductance at this filling: the wetted wall sinks, the foot stays wet [W/K].

        References
        ----------
        See the class: a shell of air outside, a wetted wall inside.
        """
        share = min(1.0, self.gas_kg / self.full_kg) if self.full_kg > 0 else 0.0
        return self.conductance_w_per_k * (ALWAYS_WET + (1.0 - ALWAYS_WET) * share)

    @property
    def pressure_pa(self) -> float:
        """Pressure over the liquid, absolute [Pa]."""
        return saturation_pressure_pa(self.mix, self.celsius)


@dataclass(frozen=True, slots=True)
class Hold:
    """How a bottle carried a load.

    `held_s` until the pressure fell under the limit or the gas was gone; None: to the end of
    what was asked. `ended` says which. `after` is the bottle then, `swaps` when empty ones made
    room for spares [s], `spares` those left.
    """

    held_s: float | None
    ended: str
    after: Bottle
    swaps: tuple[float, ...] = ()
    spares: tuple[Bottle, ...] = ()


def after_step(bottle: Bottle, *, kg_per_s: float, air_c: float, step_s: float) -> Bottle:
    """Take gas from a bottle for a short while.

    Parameters
    ----------
    bottle : Bottle
        Before. [-]
    kg_per_s : float
        Taken, >= 0. [kg/s]
    air_c : float
        Around it. [°C]
    step_s : float
        For how long; at most a minute, for the heat of boiling is held. [s]

    Returns
    -------
    Bottle
        After. [-]

    Notes
    -----
    C dT/dt = UA (T_air − T) − ṁ h_fg with C of liquid and steel at the middle of the step,
    by the exact exponential.

    References
    ----------
    Incropera et al., Fundamentals of Heat and Mass Transfer, ch. 5 (lumped capacitance).
    """
    taken = min(bottle.gas_kg, kg_per_s * step_s)
    left = bottle.gas_kg - taken
    capacity = (left + 0.5 * taken) * LIQUID_J_PER_KG_K + bottle.steel_kg * STEEL_J_PER_KG_K
    pull = max(bottle.taken_up_w_per_k, 1e-6)
    boils_w = taken / step_s * heat_of_boiling_j_per_kg(bottle.mix, bottle.celsius)
    goal = air_c - boils_w / pull
    rate = pull * step_s / max(capacity, 1.0)
    celsius = goal + (bottle.celsius - goal) * 2.718281828459045 ** (-rate)
    return Bottle(left, bottle.full_kg, bottle.conductance_w_per_k, bottle.steel_kg,
                  bottle.mix, max(celsius, -60.0))  # fmt: skip


def hold(
    bottle: Bottle,
    *,
    kg_per_s: float,
    air_c: float,
    limit_pa: float = LEAST_PA,
    at_most_s: float = 86400.0,
    step_s: float = 5.0,
) -> Hold:
    """Say for how long a bottle carries a steady load.

    Parameters
    ----------
    bottle : Bottle
        At the start. [-]
    kg_per_s : float
        Load, > 0. [kg/s]
    air_c : float
        Around it. [°C]
    limit_pa : float
        Least pressure that the regulator needs, absolute. [Pa]
    at_most_s : float
        Where to stop looking. [s]
    step_s : float
        Step, 1 to 60. [s]

    Returns
    -------
    Hold
        When it failed, and why. [-]

    References
    ----------
    Energy balance of a boiling liquid; see `after_step`.
    """
    clock = 0.0
    while clock < at_most_s - 1e-9:
        if bottle.pressure_pa < limit_pa:
            return Hold(clock, "too cold", bottle)
        if bottle.gas_kg <= 1e-9:
            return Hold(clock, "empty", bottle)
        bottle = after_step(bottle, kg_per_s=kg_per_s, air_c=air_c, step_s=step_s)
        clock += step_s
    return Hold(None, "carried", bottle)


def sustained_kg_per_s(bottle: Bottle, *, air_c: float, limit_pa: float = LEAST_PA) -> float:
    """Give the load a bottle carries without end, once it is cold.

    Parameters
    ----------
    bottle : Bottle
        Its size and filling. [-]
    air_c : float
        Around it. [°C]
    limit_pa : float
        Least pressure, absolute. [Pa]

    Returns
    -------
    float
        UA (T_air − T_min) / h_fg; 0 where even at rest the pressure is too low. [kg/s]

    References
    ----------
    Steady heat balance of a boiling liquid.
    """
    low, high = -60.0, 50.0
    if saturation_pressure_pa(bottle.mix, air_c) <= limit_pa:
        return 0.0
    for _ in range(60):
        middle = 0.5 * (low + high)
        if saturation_pressure_pa(bottle.mix, middle) < limit_pa:
            low = middle
        else:
            high = middle
    heat = heat_of_boiling_j_per_kg(bottle.mix, high)
    return max(0.0, bottle.taken_up_w_per_k * (air_c - high) / heat)


def over_days(
    bottle: Bottle,
    loads: Sequence[tuple[float, float, float]],
    *,
    days: int,
    limit_pa: float = LEAST_PA,
    spares: Sequence[Bottle] = (),
) -> tuple[Hold, float]:
    """Let a bottle carry the same day over and over.

    Parameters
    ----------
    bottle : Bottle
        At the start. [-]
    loads : sequence of tuple of float
        Seconds, load and air of the stretches of a day, in order. [s, kg/s, °C]
    days : int
        How many. [-]
    limit_pa : float
        Least pressure, absolute. [Pa]
    spares : sequence of Bottle
        Joined one after the other as they are emptied; each as warm as the air by then. [-]

    Returns
    -------
    tuple of Hold and float
        When it failed first under load, and the lowest pressure under load. [-, Pa]

    References
    ----------
    See `after_step`.
    """
    clock, lowest = 0.0, bottle.pressure_pa
    failed: tuple[float, str] | None = None
    waiting, swaps = list(spares), []
    for _ in range(days):
        for span, load, air_c in loads:
            left = span
            while left > 1e-9:
                step = min(left, 20.0 if load > 0 else 600.0)
                bottle = after_step(bottle, kg_per_s=load, air_c=air_c, step_s=step)
                left -= step
                clock += step
                if load <= 0:
                    continue
                if bottle.gas_kg <= 1e-9 and waiting and failed is None:
                    bottle = replace(waiting.pop(0), celsius=air_c)
                    swaps.append(clock)
                    continue
                now = bottle.pressure_pa
                lowest = min(lowest, now)
                if failed is None and bottle.gas_kg <= 1e-9:
                    failed = (clock, "empty")
                elif failed is None and now < limit_pa:
                    failed = (clock, "too cold")
    if failed is None:
        return Hold(None, "carried", bottle, tuple(swaps), tuple(waiting)), lowest
    return Hold(failed[0], failed[1], bottle, tuple(swaps), tuple(waiting)), lowest
