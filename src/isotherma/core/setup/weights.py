"""What a system weighs: on each axle, full, half and empty; what is lifted, what sloshes."""

from __future__ import annotations

from dataclasses import dataclass
from enum import StrEnum
from math import pi, sqrt, tanh
from typing import Final

from isotherma.core.fields import known_or
from isotherma.core.flows.levelling import shape_of
from isotherma.core.hydraulics.gravity import GRAVITY_M_PER_S2
from isotherma.core.system import AnyKind
from isotherma.core.system.kinds import gas, heat, primary, waste
from isotherma.core.system.kinds import water as moved
from isotherma.core.system.nominal import ComputedSystem, known_figure
from isotherma.core.system.vehicle import Vehicle
from isotherma.core.water import FRESH_KG_PER_M3
from isotherma.core.weight.levers import on_axles

_FRESH: Final = (moved.FreshTank, moved.GravityBag, moved.LooseContainer)
_STORES: Final = (heat.Store, heat.Combi, heat.Canister, heat.SunContainer)
_GREY: Final = (waste.GreyTank, waste.WasteContainer)
_CARRIED: Final = (moved.LooseContainer, waste.WasteContainer, gas.GasBottle)
HEAVY_KG: Final = 25.0  # one person, close to the body; common guidance on manual handling
SLOSHES_FROM_M3: Final = 0.03  # of water: less moves nothing one would feel; judgement
BRAKING: Final = 0.5  # of gravity
CAN_KG_PER_M3: Final = 40.0  # of an empty plastic can, where nobody weighed it
ASKED_FOR: Final = 3


class Filling(StrEnum):
    """How full the fresh tanks are; grey has what they gave."""

    FULL = "full"
    HALF = "half"
    EMPTY = "empty"


SHARES: Final = {Filling.FULL: 1.0, Filling.HALF: 0.5, Filling.EMPTY: 0.0}


@dataclass(frozen=True, slots=True)
class Weighed:
    """The whole at one filling.

    `total_kg` of what is known; `payload_left_kg` of the vehicle's; `front_kg` and `rear_kg` of
    what has a place, with what is left on each axle; `right_m` how far to the right of the middle
    it stands together. None where the vehicle or the places do not say.
    """

    filling: Filling
    total_kg: float
    payload_left_kg: float | None
    front_kg: float | None
    rear_kg: float | None
    front_left_kg: float | None
    rear_left_kg: float | None
    right_m: float | None


@dataclass(frozen=True, slots=True)
class Lift:
    """Something that is carried by hand, full."""

    part_id: str
    label: str
    kg: float

    @property
    def heavy(self) -> bool:
        """Whether it is more than one person should lift."""
        return self.kg > HEAVY_KG


@dataclass(frozen=True, slots=True)
class Slosh:
    """A half full tank without baffles while the vehicle brakes.

    `moves_m` its water's middle, to the front; `period_s` of its swing to and fro; `front_kg` what
    comes onto the front axle meanwhile, None without a wheelbase.
    """

    part_id: str
    label: str
    water_kg: float
    moves_m: float
    period_s: float
    front_kg: float | None


@dataclass(frozen=True, slots=True)
class Weights:
    """What a system weighs.

    `unweighed` are parts whose dry mass nobody knows; `unplaced` the heaviest that have no place,
    three of them, with their mass full; `unplaced_kg` all that has none; `laid_kg`
    pipes and fittings.
    """

    rows: tuple[Weighed, ...]
    unweighed: tuple[str, ...]
    unplaced: tuple[tuple[str, float], ...]
    unplaced_kg: float
    lifts: tuple[Lift, ...]
    sloshing: tuple[Slosh, ...]
    laid_kg: float = 0.0


def _water_kg(part: AnyKind, share: float, drained_kg: float, grey_room_kg: float) -> float:
    """Give what a part holds at a share of fresh water; grey tanks share what was drawn."""
    volume = known_figure(part, "volume_m3") if hasattr(part, "volume_m3") else None
    if isinstance(part, gas.GasBottle):
        return _of_known(known_figure(part, "gas_kg"))
    if volume is None:
        return 0.0
    held = volume * FRESH_KG_PER_M3
    if isinstance(part, _FRESH):
        count = 1 + part.spare_count if isinstance(part, moved.LooseContainer) else 1
        return held * share * count
    if isinstance(part, _GREY):
        return held * min(1.0, drained_kg / grey_room_kg) if grey_room_kg > 0.0 else 0.0
    return held if isinstance(part, _STORES) else 0.0


def _of_known(*values: float | None) -> float:
    """Add up what is known: who asks names what is not."""
    return sum(value for value in values if value is not None)


def _dry_kg(part: AnyKind) -> float | None:
    """Give what a part weighs empty; a bottle as it is stamped. A fluid is all there is of it."""
    if isinstance(part, gas.GasBottle) and part.dry_mass_kg is None:
        return part.empty_kg
    if isinstance(part, primary.PrimaryFluid):
        return _of_known(part.dry_mass_kg)
    return part.dry_mass_kg


def weights(system: ComputedSystem, vehicle: Vehicle, laid_kg: float = 0.0) -> Weights:
    """Weigh a system full, half and empty, and say what its vehicle bears of it.

    Parameters
    ----------
    system : ComputedSystem
        With likely figures; places are of the middle of a part. [kg, m]
    vehicle : Vehicle
        Payload, axles, wheelbase. [kg, m]
    laid_kg : float
        Of pipes and fittings, which have no one place. [kg]

    Returns
    -------
    Weights
        What nobody weighed or placed is named, and in no sum. [kg]

    Notes
    -----
    Grey tanks hold what the fresh ones gave, until they are full; stores stay full.

    References
    ----------
    Moments about the front axle; Ibrahim, Liquid Sloshing Dynamics: first mode of a rectangular
    tank, T = 2π/√((πg/L) tanh(πh/L)), and the tilted surface of steady braking.
    """
    fresh = sum(_water_kg(part, 1.0, 0.0, 0.0) for part in system.parts
                if isinstance(part, _FRESH))  # fmt: skip
    room = sum(
        _of_known(known_figure(part, "volume_m3")) * FRESH_KG_PER_M3
        for part in system.parts if isinstance(part, _GREY)
    )  # fmt: skip

    def masses(filling: Filling) -> list[tuple[AnyKind, float]]:
        share = SHARES[filling]
        return [
            (part, _of_known(_dry_kg(part))
             + _water_kg(part, share, fresh * (1.0 - share), room))
            for part in system.parts
        ]  # fmt: skip

    full = masses(Filling.FULL)
    unplaced = sorted(
        ((part.label, mass) for part, mass in full if part.x_m is None and mass > 0.0),
        key=lambda item: -item[1],
    )
    return Weights(
        tuple(_weighed(filling, masses(filling), vehicle, laid_kg) for filling in Filling),
        tuple(part.label for part in system.parts if _dry_kg(part) is None),
        tuple(unplaced[:ASKED_FOR]), sum(mass for _, mass in unplaced),
        _lifts(system), _sloshing(system, vehicle), laid_kg,
    )  # fmt: skip


def _weighed(
    filling: Filling, masses: list[tuple[AnyKind, float]], vehicle: Vehicle, laid_kg: float
) -> Weighed:
    total = laid_kg + sum(mass for _, mass in masses)
    front = rear = None
    placed = [(part, mass) for part, mass in masses if part.x_m is not None and mass > 0.0]
    if vehicle.wheelbase_m and vehicle.rear_axle_x_m is not None and placed:
        front = rear = 0.0
        for part, mass in placed:
            behind = vehicle.wheelbase_m - vehicle.rear_axle_x_m + _of_known(part.x_m)
            one, other = on_axles(
                mass_kg=mass, behind_front_m=behind, wheelbase_m=vehicle.wheelbase_m
            )  # fmt: skip
            front, rear = front + one, rear + other
    beside = [(part.y_m, mass) for part, mass in masses if part.y_m is not None and mass > 0.0]
    borne = sum(mass for _, mass in beside)
    return Weighed(
        filling, total, _left(vehicle.payload_kg, total), front, rear,
        _left(vehicle.front_axle_kg, front), _left(vehicle.rear_axle_kg, rear),
        sum(y * mass for y, mass in beside) / borne if borne > 0.0 else None,
    )  # fmt: skip


def _left(limit: float | None, taken: float | None) -> float | None:
    return None if limit is None or taken is None else limit - taken


def _lifts(system: ComputedSystem) -> tuple[Lift, ...]:
    """Give what hands lift, heaviest first: each can and bottle by itself."""
    found = []
    for part in system.parts:
        if not isinstance(part, _CARRIED):
            continue
        volume = known_figure(part, "volume_m3") if hasattr(part, "volume_m3") else None
        holds = (
            known_figure(part, "gas_kg") if isinstance(part, gas.GasBottle)
            else None if volume is None else volume * FRESH_KG_PER_M3
        )  # fmt: skip
        if holds is None:
            continue
        empty = known_or(_dry_kg(part), _of_known(volume) * CAN_KG_PER_M3)
        found.append(Lift(part.id, part.label, holds + empty))
    return tuple(sorted(found, key=lambda lift: -lift.kg))


def _sloshing(system: ComputedSystem, vehicle: Vehicle) -> tuple[Slosh, ...]:
    found = []
    for part in system.parts:
        if not isinstance(part, moved.FreshTank | waste.GreyTank) or not part.volume_m3:
            continue
        if isinstance(part, moved.FreshTank) and part.baffled:
            continue
        if part.volume_m3 < 2.0 * SLOSHES_FROM_M3:
            continue
        shape = shape_of(part)
        if shape is None:
            continue
        long, deep = shape.length_m, 0.5 * shape.height_m
        tilted = BRAKING * long**2 / (12.0 * deep)
        moves = min(tilted, 0.5 * long * 0.5)  # no further than all of it against one end
        water = 0.5 * part.volume_m3 * FRESH_KG_PER_M3
        period = 2.0 * pi / sqrt(pi * GRAVITY_M_PER_S2 / long * tanh(pi * deep / long))
        front = water * moves / vehicle.wheelbase_m if vehicle.wheelbase_m else None
        found.append(Slosh(part.id, part.label, water, moves, period, front))
    return tuple(found)
