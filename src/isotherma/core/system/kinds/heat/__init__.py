"""Heat: stores, through-flow heaters, liquid and air heaters, what heats and guards them."""

from isotherma.core.system.kinds.heat.base import (
    BOARDS,
    COOLANT_CAUTION,
    DIESEL_CAUTION,
    ELECTRIC_CAUTION,
    GAS_CAUTION,
    Board,
    Fuel,
    HeatPart,
)
from isotherma.core.system.kinds.heat.guards import (
    Flue,
    FuelTank,
    HighLimit,
    Interlock,
    Terminal,
    Thermostat,
    calls_a_pump,
)
from isotherma.core.system.kinds.heat.loops import (
    AirCoil,
    AirDiverter,
    AirHeater,
    AirOutlet,
    Coil,
    EngineCoolant,
    HeatPad,
    LiquidHeater,
    PlateExchanger,
)
from isotherma.core.system.kinds.heat.sources import (
    GROSS_OVER_NET,
    Burner,
    Element,
    Source,
    net_input,
)
from isotherma.core.system.kinds.heat.through_flow import (
    ThroughFlow,
    ThroughFlowElectric,
    ThroughFlowGas,
)
from isotherma.core.system.kinds.heat.vessels import (
    Canister,
    Combi,
    Insulated,
    Kettle,
    Store,
    SunContainer,
)

HeatKind = (
    Element | Burner | Store | Combi | Canister | ThroughFlowGas | ThroughFlowElectric
    | LiquidHeater | AirHeater | AirDiverter | AirOutlet | AirCoil | EngineCoolant | Coil
    | PlateExchanger
    | HeatPad | SunContainer | Kettle | Thermostat | HighLimit | Interlock | Flue | Terminal
    | FuelTank
)  # fmt: skip


__all__ = [
    "BOARDS",
    "COOLANT_CAUTION",
    "DIESEL_CAUTION",
    "ELECTRIC_CAUTION",
    "GAS_CAUTION",
    "GROSS_OVER_NET",
    "AirCoil",
    "AirDiverter",
    "AirHeater",
    "AirOutlet",
    "Board",
    "Burner",
    "Canister",
    "Coil",
    "Combi",
    "Element",
    "EngineCoolant",
    "Flue",
    "Fuel",
    "FuelTank",
    "HeatKind",
    "HeatPad",
    "HeatPart",
    "HighLimit",
    "Insulated",
    "Interlock",
    "Kettle",
    "LiquidHeater",
    "PlateExchanger",
    "Source",
    "Store",
    "SunContainer",
    "Terminal",
    "Thermostat",
    "ThroughFlow",
    "ThroughFlowElectric",
    "ThroughFlowGas",
    "calls_a_pump",
    "net_input",
]
