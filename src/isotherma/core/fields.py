"""Typed values of the documents: SI inside, with the words a form needs.

A property is declared once; its annotation gives the file format, the JSON
Schema, the validation and the form field.
"""

from __future__ import annotations

import re
import unicodedata
from dataclasses import dataclass
from typing import Annotated, Final

from pydantic import AfterValidator, BaseModel, ConfigDict, Field
from pydantic.fields import FieldInfo

DAY_S: Final = 86400.0


class Document(BaseModel):
    """Base of every document: frozen, closed to unknown keys, finite numbers only."""

    model_config = ConfigDict(
        frozen=True,
        extra="forbid",
        allow_inf_nan=False,
        ser_json_inf_nan="constants",
        validate_default=True,
    )


@dataclass(frozen=True, slots=True)
class Shown:
    """How a property appears on a form: its style of quantity (`core.quantity.STYLES`)."""

    style: str


def style_of(info: FieldInfo) -> str | None:
    """Find the quantity style a field was declared with.

    Parameters
    ----------
    info : FieldInfo
        A field of a document. [-]

    Returns
    -------
    str or None
        Key of `core.quantity.STYLES`; None for text and choices. [-]
    """
    for item in info.metadata:
        if isinstance(item, Shown):
            return item.style
    return None


def _plain_text(value: str) -> str:
    """Refuse what has no place in a name or note and could harm a page, log or file."""
    for character in value:
        kind = unicodedata.category(character)
        if kind in {"Cc", "Cf", "Cs", "Co", "Cn"} and character not in "\n\u200d\ufe0f":
            raise ValueError(
                f"the hidden character U+{ord(character):04X} is not allowed; retype the text"
            )
    if re.search(r"[<>]", value):
        raise ValueError("the signs < and > are not allowed; use words instead")
    return value


def _one_line(value: str) -> str:
    if "\n" in value:
        raise ValueError("a name is one line; remove the line break")
    return " ".join(value.split())


def _not_empty(value: str) -> str:
    if not value:
        raise ValueError("must not be empty; give it a name")
    return value


Slug = Annotated[str, Field(pattern=r"^[a-z0-9][a-z0-9-]{0,39}$", max_length=40)]
Name = Annotated[str, Field(max_length=80), AfterValidator(_plain_text), AfterValidator(_one_line)]
GivenName = Annotated[Name, AfterValidator(_not_empty)]
Note = Annotated[str, Field(max_length=2000), AfterValidator(_plain_text)]

Volume = Annotated[float, Shown("volume"), Field(gt=0, le=5.0)]
VolumeOrNone = Annotated[float, Shown("volume"), Field(ge=0, le=5.0)]
Flow = Annotated[float, Shown("flow"), Field(gt=0, le=2e-3)]
FlowFactor = Annotated[float, Shown("flow_factor"), Field(gt=0, le=1e-4)]
Length = Annotated[float, Shown("length"), Field(gt=0, le=30)]
Rise = Annotated[float, Shown("length"), Field(ge=-5, le=5)]
Size = Annotated[float, Shown("bore"), Field(gt=0, le=5)]
Bore = Annotated[float, Shown("bore"), Field(ge=2e-3, le=0.1)]
Thickness = Annotated[float, Shown("bore"), Field(ge=0, le=0.3)]
WallThickness = Annotated[float, Shown("bore"), Field(ge=2e-4, le=0.02)]
Pressure = Annotated[float, Shown("pressure"), Field(ge=0, le=2e6)]
Power = Annotated[float, Shown("power"), Field(gt=0, le=50_000)]
HeatPower = Annotated[float, Shown("heat_power"), Field(gt=0, le=50_000)]
Energy = Annotated[float, Shown("energy"), Field(ge=0, le=1e10)]
Water = Annotated[float, Shown("temperature"), Field(ge=0.5, le=45)]
Setting = Annotated[float, Shown("temperature"), Field(ge=5, le=95)]
Air = Annotated[float, Shown("temperature"), Field(ge=-40, le=55)]
Difference = Annotated[float, Shown("difference"), Field(ge=0, le=40)]
Hysteresis = Annotated[float, Shown("difference"), Field(ge=0.2, le=40)]
Mass = Annotated[float, Shown("mass"), Field(ge=0, le=500)]
Share = Annotated[float, Shown("share"), Field(ge=0, le=1)]
Clock = Annotated[float, Shown("clock"), Field(ge=0, lt=DAY_S)]
Seconds = Annotated[float, Shown("seconds"), Field(ge=0, le=3600)]
Minutes = Annotated[float, Shown("minutes"), Field(ge=5, le=3600)]
Conductivity = Annotated[float, Shown("conductivity"), Field(ge=0.005, le=2)]
Loss = Annotated[float, Shown("loss"), Field(gt=0, le=50)]
Film = Annotated[float, Shown("film"), Field(ge=0.5, le=50)]
Capacity = Annotated[float, Shown("capacity"), Field(ge=0, le=1e5)]
Coefficient = Annotated[float, Shown("number"), Field(ge=0, le=1000)]
