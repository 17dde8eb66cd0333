"""Brief + climate + system → the temperatures a network stands in."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from typing import Final

from isotherma.core.brief import Brief
from isotherma.core.climate import Climate, Warmth
from isotherma.core.flows.fittings import Conditions
from isotherma.core.supply.hot_air import coil_air
from isotherma.core.system import System
from isotherma.core.system.configuration import positions
from isotherma.core.system.kinds.heat import AirCoil
from isotherma.core.system.kinds.water import (
    FreshTank,
    GravityBag,
    LooseContainer,
    OutsideSource,
)
from isotherma.core.system.nominal import computed
from isotherma.core.system.states import State

_HOLDS_FRESH: Final = (FreshTank, LooseContainer, GravityBag, OutsideSource)


def tank_c(
    brief: Brief, system: System, state: State | None, climate: Climate, part_id: str | None
) -> float:
    """Give the temperature of the water in a tank.

    Parameters
    ----------
    brief, system, climate : Brief, System, Climate
        The documents. [-]
    state : State or None
        Where things are in it. [-]
    part_id : str or None
        The tank; None: one in the living space. [-]

    Returns
    -------
    float
        As the brief says, else as its space is kept, else by that space's warmth. [°C]
    """
    if brief.cold_water_c is not None:
        return brief.cold_water_c
    space_id = None
    if part_id is not None:
        space_id = system.part(part_id).space
        if state is not None:
            moved = {item.part: item.space for item in state.placed}
            space_id = moved.get(part_id, space_id)
    space = next((item for item in system.spaces if item.id == space_id), None)
    if space is not None and space.kept_c is not None:
        return max(2.0, space.kept_c)
    warmth: Warmth = space.warmth if space is not None else "heated"
    return climate.fresh_water_c(warmth, brief.inside_c)


def surroundings(
    brief: Brief, system: System, state: State | None, climate: Climate, *,
    fresh_c: float | None = None, at_c: Mapping[str, float] | None = None,
    level_m: Mapping[str, float] | None = None, dirty: bool = False,
) -> Conditions:  # fmt: skip
    """Say what a network stands in.

    Parameters
    ----------
    brief, system, climate : Brief, System, Climate
        The documents. [-]
    state : State or None
        Where things are in it. [-]
    fresh_c : float or None
        Fresh water of every tank, instead of what the brief gives. [°C]
    at_c : mapping of str to float or None
        Temperatures of stores, heaters or tanks by part id, where known. [°C]
    level_m : mapping of str to float or None
        Water above the outlet of open tanks by part id. [m]
    dirty : bool
        Whether filters and strainers are at their end. [-]

    Returns
    -------
    Conditions
        For `compile_network`. [-]
    """
    # without a tank the water is that of the first can, bag or bucket
    held = [part for part in system.parts if isinstance(part, _HOLDS_FRESH)]
    held.sort(key=lambda part: not isinstance(part, FreshTank))
    main = held[0].id if held else None
    given = dict(at_c or {})
    if fresh_c is None:
        for part in held:
            if not isinstance(part, OutsideSource) or part.water_c is None:
                given.setdefault(part.id, tank_c(brief, system, state, climate, part.id))
    blown = _blown(brief, system, state, climate)
    for part_id, (air, _) in blown.items():
        given.setdefault(part_id, air)
    return Conditions(
        fresh_c=tank_c(brief, system, state, climate, main) if fresh_c is None else fresh_c,
        at_c=given,
        level_m=dict(level_m or {}),
        dirty=dirty,
        air_w_per_k={part_id: conductance for part_id, (_, conductance) in blown.items()},
    )


def _blown(
    brief: Brief, system: System, state: State | None, climate: Climate
) -> dict[str, tuple[float, float]]:
    """Give the hot air on coils that ducts lead to."""
    if not any(isinstance(part, AirCoil) for part in system.parts):
        return {}
    known = computed(system)
    return coil_air(known, positions(known, state), spaces_air(brief, system, climate))


def spaces_air(brief: Brief, system: System, climate: Climate) -> Callable[[str | None], float]:
    """Give what tells the mean air of a space.

    Parameters
    ----------
    brief, system, climate : Brief, System, Climate
        The documents. [-]

    Returns
    -------
    callable
        From the id of a space, None the living space, to its air. [°C]
    """
    spaces = {space.id: space for space in system.spaces}

    def air_c(space_id: str | None) -> float:
        space = spaces.get(space_id or "")
        if space is None:
            return max(brief.inside_c, climate.air_c)
        if space.kept_c is not None:
            return space.kept_c
        return climate.space_c(space.warmth, brief.inside_c)

    return air_c
