"""What to shut first, where it is, when something is wrong."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from typing import Literal

from isotherma.core.system import AnyKind, System
from isotherma.core.system.kinds import electric, gas, heat, water

Trouble = Literal[
    "gas_smell", "alarm", "water_under_floor", "no_water", "no_heat", "too_hot", "electric"
]  # fmt: skip
TROUBLES: tuple[Trouble, ...] = (
    "gas_smell", "alarm", "water_under_floor", "too_hot", "electric", "no_water", "no_heat",
)  # fmt: skip


@dataclass(frozen=True, slots=True)
class Shut:
    """A part to act on: to what position, and in which space it is; the nearest source first."""

    part: str
    to: str
    space: str | None


def shuts_for(system: System, trouble: Trouble) -> tuple[Shut, ...]:
    """Say what to shut first.

    Parameters
    ----------
    system : System
        The design. [-]
    trouble : str
        What is wrong. [-]

    Returns
    -------
    tuple of Shut
        In the order of doing; empty where the design has nothing to shut for it. [-]
    """
    return tuple(dict.fromkeys(_shuts(system, trouble)))


def _shuts(system: System, trouble: Trouble) -> Iterator[Shut]:
    if trouble in ("gas_smell", "alarm"):
        yield from _of(system, (gas.GasBottle,), "shut")
        yield from _of(system, (gas.GasValve,), "shut")
    if trouble == "alarm":
        yield from _of(system, (heat.LiquidHeater, heat.Combi, heat.AirHeater), "off")
    if trouble in ("water_under_floor", "no_water"):
        yield from _of(system, (water.Pump, water.Submersible), "off")
    if trouble == "water_under_floor":
        yield from _of(system, (water.PressurisedInlet,), "off")
        yield from _of(system, (water.ShutOff,), "shut")
    if trouble in ("too_hot", "electric", "no_heat"):
        yield from _of(system, (heat.Element, heat.Burner, heat.Combi, heat.LiquidHeater), "off")
    if trouble == "electric":
        yield from _of(system, (electric.HookUp,), "unplugged")
        yield from _of(system, (electric.Circuit, electric.Switch), "off")


def _of(system: System, kinds: tuple[type[AnyKind], ...], to: str) -> Iterator[Shut]:
    for part in system.parts:
        if isinstance(part, kinds) and (to in part.positions or not part.positions):
            yield Shut(part.id, to, part.space)
