"""Water in and water moved: tanks and sources, pumps, valves, fittings in line."""

from isotherma.core.system.kinds.water.base import Valve, Vessel, WaterPart
from isotherma.core.system.kinds.water.fittings import (
    AirVent,
    BlankingCap,
    CheckValve,
    Coupling,
    Drain,
    DustCap,
    Filter,
    FlowLimiter,
    LooseHose,
    ParkingPlace,
    Reducer,
    Relief,
    Selector,
    ShutOff,
    Solenoid,
    Split,
    Strainer,
)
from isotherma.core.system.kinds.water.pumps import (
    Accumulator,
    FootPump,
    HandPump,
    Pump,
    PumpPoints,
    Submersible,
)
from isotherma.core.system.kinds.water.sources import (
    FillPoint,
    FreshTank,
    GravityBag,
    LooseContainer,
    OutsideSource,
    PressurisedInlet,
)

WaterKind = (
    FreshTank | FillPoint | LooseContainer | OutsideSource | PressurisedInlet | GravityBag
    | Pump | Submersible | FootPump | HandPump | Accumulator | Split | ShutOff | Selector
    | CheckValve | Reducer | FlowLimiter | Relief | Drain | AirVent | Strainer | Filter
    | Coupling | LooseHose | BlankingCap | DustCap | ParkingPlace | Solenoid
)  # fmt: skip


__all__ = [
    "Accumulator",
    "AirVent",
    "BlankingCap",
    "CheckValve",
    "Coupling",
    "Drain",
    "DustCap",
    "FillPoint",
    "Filter",
    "FlowLimiter",
    "FootPump",
    "FreshTank",
    "GravityBag",
    "HandPump",
    "LooseContainer",
    "LooseHose",
    "OutsideSource",
    "ParkingPlace",
    "PressurisedInlet",
    "Pump",
    "PumpPoints",
    "Reducer",
    "Relief",
    "Selector",
    "ShutOff",
    "Solenoid",
    "Split",
    "Strainer",
    "Submersible",
    "Valve",
    "Vessel",
    "WaterKind",
    "WaterPart",
]
