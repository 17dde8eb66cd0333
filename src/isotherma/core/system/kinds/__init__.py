"""Kinds of part, one module per side; a document's `kind` chooses among them."""

from __future__ import annotations

from typing import Annotated, Final, get_args

from pydantic import Field

from isotherma.core.system.kinds.electric import ElectricKind
from isotherma.core.system.kinds.gas import GasKind
from isotherma.core.system.kinds.gauges import GaugeKind
from isotherma.core.system.kinds.heat import HeatKind
from isotherma.core.system.kinds.primary import PrimaryKind
from isotherma.core.system.kinds.temperature import TemperatureKind
from isotherma.core.system.kinds.use import UseKind
from isotherma.core.system.kinds.waste import WasteKind
from isotherma.core.system.kinds.water import WaterKind
from isotherma.core.system.pieces import PartBase

AnyKind = (
    WaterKind
    | HeatKind
    | TemperatureKind
    | PrimaryKind
    | UseKind
    | WasteKind
    | GaugeKind
    | GasKind
    | ElectricKind
)
Part = Annotated[AnyKind, Field(discriminator="kind")]

SIDES: Final[dict[str, str]] = {
    "water": "Water in and moved",
    "heat": "Heat",
    "temperature": "Temperature",
    "primary": "Primary",
    "use": "Use",
    "waste": "Waste",
    "gauges": "Gauges",
    "gas": "Gas",
    "electric": "Electricity",
}


def kind_of(part: type[PartBase]) -> str:
    """Give the word that stands for a class of part in documents.

    Parameters
    ----------
    part : type
        A class of part. [-]

    Returns
    -------
    str
        Its kind. [-]
    """
    word: str = part.model_fields["kind"].default
    return word


KINDS: Final[dict[str, type[PartBase]]] = {kind_of(part): part for part in get_args(AnyKind)}
