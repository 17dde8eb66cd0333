"""Return diverters: which stands before an outlet, where it sends cold water, what is beyond it."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from math import pi
from typing import Final

from isotherma.core.system import System
from isotherma.core.system.hot_route import hot_route
from isotherma.core.system.kinds.temperature import ReturnDiverter
from isotherma.core.system.kinds.water import FreshTank, GravityBag, LooseContainer
from isotherma.core.system.nominal import figure
from isotherma.core.water import FRESH_KG_PER_M3

TO_THE_OUTLET: Final = "to the outlet"
_KEEPS: Final = (FreshTank, GravityBag, LooseContainer)


@dataclass(frozen=True, slots=True)
class Diverts:
    """A diverter before an outlet: where it sends water, what stands beyond it to the outlet."""

    part_id: str
    tank: str
    beyond_kg: float


def diverts(system: System, at: Mapping[str, str], outlet: str) -> Diverts | None:
    """Find the return diverter before an outlet that sends cold water back to a tank.

    Parameters
    ----------
    system : System
        With likely figures. [-]
    at : mapping of str to str
        How switchable parts stand; one set to the tank for good passes nothing on. [-]
    outlet : str
        Part id. [-]

    Returns
    -------
    Diverts or None
        The first from the outlet back to the heat, if its return is piped to a tank. [kg]
    """
    beyond = 0.0
    for run in hot_route(system, outlet):
        beyond += pi / 4 * figure(run, "bore_m") ** 2 * figure(run, "length_m") * FRESH_KG_PER_M3
        here = run.start.part
        if isinstance(system.part(here), ReturnDiverter):
            tank = _goes_back_to(system, here)
            stands = at.get(here, TO_THE_OUTLET) == TO_THE_OUTLET
            return Diverts(here, tank, beyond) if tank is not None and stands else None
    return None


def _goes_back_to(system: System, diverter: str) -> str | None:
    """Follow the return to the tank, bag or can it ends in; None where it ends elsewhere."""
    parts = {part.id: part for part in system.parts}
    here, port, seen = diverter, "returns", set[str]()
    while here not in seen:
        seen.add(here)
        run = next(
            (one for one in system.pipes
             if one.start.part == here and (port == "" or one.start.port == port)), None
        )  # fmt: skip
        if run is None:
            return None
        here, port = run.end.part, ""
        if isinstance(parts.get(here), _KEEPS):
            return here
    return None
