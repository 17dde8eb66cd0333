"""What a system needs of what people refuse: gas, flames, mains, holes for a flue, licences."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from typing import Final, get_args

from isotherma.core.brief import Refusal
from isotherma.core.system import AnyKind, System
from isotherma.core.system.kinds import electric, gas, heat, temperature, water

GAS_FUELS: Final = ("propane", "butane")
_BURNS: Final = (heat.ThroughFlowGas, heat.LiquidHeater, heat.AirHeater, heat.Burner)
LOW_V: Final = 60.0  # direct current up to which shock protection is not asked for
_PRESSED: Final = (water.Pump, water.PressurisedInlet)


def _fuel(part: AnyKind) -> str:
    return str(getattr(part, "fuel", None) or "")


def _volts(element: heat.Element) -> float | None:
    return element.supply_v if element.supply_v is not None else element.rated_v


def _is_flame(part: AnyKind, system: System) -> bool:
    if isinstance(part, heat.Combi):
        return bool(_fuel(part))
    if isinstance(part, heat.Kettle):
        return part.fuel not in ("mains", "battery")
    return isinstance(part, _BURNS)


def _is_gas(part: AnyKind, system: System) -> bool:
    if isinstance(part, gas.GasBottle | heat.ThroughFlowGas):
        return True
    burns = isinstance(part, heat.Burner | heat.Combi | heat.Kettle)
    return burns and _fuel(part) in GAS_FUELS


def _is_diesel(part: AnyKind, system: System) -> bool:
    return _is_flame(part, system) and _fuel(part) == "diesel"


def _is_mains(part: AnyKind, system: System) -> bool:
    if isinstance(part, heat.ThroughFlowElectric | electric.HookUp):
        return True
    if isinstance(part, heat.Kettle):
        return part.fuel == "mains"
    if isinstance(part, heat.Element):
        volts = _volts(part)
        stored = any(isinstance(other, electric.Battery) for other in system.parts)
        return volts > LOW_V if volts is not None else not stored
    return isinstance(part, heat.Combi) and part.mains_w is not None


def _is_battery_heat(part: AnyKind, system: System) -> bool:
    """An element that hangs on the battery's side: by its volts, or by what feeds it."""
    if not isinstance(part, heat.Element):
        return False
    volts = _volts(part)
    return volts is not None and volts <= LOW_V


def _is_coolant(part: AnyKind, system: System) -> bool:
    return isinstance(part, heat.LiquidHeater | heat.EngineCoolant)


def _is_flue(part: AnyKind, system: System) -> bool:
    if isinstance(part, heat.Flue | heat.Terminal):
        return True
    sealed = getattr(part, "sealed", None)
    return isinstance(part, heat.ThroughFlowGas | heat.Burner) and sealed == "room sealed"


def _is_pressed(part: AnyKind, system: System) -> bool:
    return isinstance(part, _PRESSED)


def _is_mixer(part: AnyKind, system: System) -> bool:
    return isinstance(part, temperature.ThermostaticMixer)


def _keeps_water(part: AnyKind, system: System) -> bool:
    """A vessel without a drain anywhere in the system: only blowing it out empties it."""
    vessel = isinstance(part, heat.Store | heat.Combi | heat.ThroughFlow)
    return vessel and not any(isinstance(other, water.Drain) for other in system.parts)


def _is_licensed(part: AnyKind, system: System) -> bool:
    if isinstance(part, heat.Kettle):
        return False  # a pan on the stove that is there
    return _is_gas(part, system) or _is_flue(part, system) or _is_mains(part, system)


_NEEDS: Final[Mapping[Refusal, Callable[[AnyKind, System], bool]]] = {
    "gas": _is_gas,
    "diesel": _is_diesel,
    "any flame": _is_flame,
    "mains": _is_mains,
    "battery heating": _is_battery_heat,
    "coolant": _is_coolant,
    "through-wall flue": _is_flue,
    "pressurised system": _is_pressed,
    "mixing valve": _is_mixer,
    "compressed-air draining": _keeps_water,
    "licensed work": _is_licensed,
}
REFUSALS: Final[tuple[Refusal, ...]] = get_args(Refusal)


def needs_of(system: System) -> dict[Refusal, tuple[str, ...]]:
    """Find what a system needs of what people may refuse.

    Parameters
    ----------
    system : System
        The network. [-]

    Returns
    -------
    dict of str to tuple of str
        Ids of the parts that need it, by what is needed; what is not needed is not there. [-]

    Examples
    --------
    >>> needs_of(System())
    {}
    """
    found = {
        what: tuple(part.id for part in system.parts if _NEEDS[what](part, system))
        for what in REFUSALS
    }
    return {what: parts for what, parts in found.items() if parts}
