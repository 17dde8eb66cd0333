"""Typed values of the documents: SI inside, with the words a form needs.

A property is declared once; its annotation gives the file format, the JSON
Schema, the validation and the form field.
"""

from __future__ import annotations

import re
import types
import unicodedata
from collections.abc import Mapping
from dataclasses import dataclass
from functools import cached_property
from hashlib import sha256
from typing import Annotated, Any, Final, Literal, Self, TypeVar, get_args

from pydantic import AfterValidator, BaseModel, ConfigDict, Field
from pydantic.fields import FieldInfo
from pydantic_core import PydanticCustomError

DAY_S: Final = 86400.0
Known = TypeVar("Known")
DIGEST_LETTERS: Final = 32  # 128 bits: two contents never meet by chance


class Document(BaseModel):
    """Base of every document: frozen, closed to unknown keys, finite numbers only."""

    model_config = ConfigDict(
        frozen=True,
        extra="forbid",
        allow_inf_nan=False,
        ser_json_inf_nan="constants",
        validate_default=True,
    )

    @cached_property
    def digest(self) -> str:
        """Name the content in few letters: the same for equal documents, worked out once."""
        return sha256(self.model_dump_json().encode()).hexdigest()[:DIGEST_LETTERS]

    def model_copy(self, *, update: Mapping[str, Any] | None = None, deep: bool = False) -> Self:
        """Copy with some values changed; the copy has a digest of its own."""
        copied = super().model_copy(update=update, deep=deep)
        for worked_out in ("digest", "built"):
            copied.__dict__.pop(worked_out, None)
        return copied


@dataclass(frozen=True, slots=True)
class Shown:
    """How a property appears on a form: its style of quantity (`core.quantity.STYLES`)."""

    style: str


@dataclass(frozen=True, slots=True)
class ShownPairs:
    """A property that is a list of pairs: the style of each half."""

    first: str
    second: str


@dataclass(frozen=True, slots=True)
class ShownList:
    """A property that is a list of as many figures of one style as its type says."""

    style: str


@dataclass(frozen=True, slots=True)
class InOrder:
    """A property that names pieces one after the other, some of them several times."""


@dataclass(frozen=True, slots=True)
class Refers:
    """A property that names another piece of the same system, by its id."""

    to: str


def known(title: str, meaning: str = "") -> Any:  # noqa: ANN401 - a field of any type
    """Declare a property that is unknown until somebody enters it.

    Parameters
    ----------
    title : str
        Its label on a form. [-]
    meaning : str
        What it means, where the label does not say. [-]

    Returns
    -------
    FieldInfo
        With None for unknown. [-]
    """
    return Field(default=None, title=title, description=meaning or None)


def known_or(value: Known | None, otherwise: Known) -> Known:
    """Give a figure, or what stands for it where nobody knows it.

    Parameters
    ----------
    value : any or None
        As entered or understood; an entered 0 is 0. [SI]
    otherwise : any
        What stands only for an empty field. [SI]

    Returns
    -------
    any
        The first unless it is None. [SI]
    """
    return otherwise if value is None else value


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
    shown = _first(info, Shown)
    return shown.style if shown is not None else None


def _metadata(info: FieldInfo) -> list[Any]:
    """Gather what a field was annotated with, through "or None" and nested annotations."""
    found: list[Any] = []
    waiting: list[Any] = [*info.metadata, info.annotation]
    while waiting:
        item = waiting.pop(0)
        if isinstance(item, Shown | ShownPairs | ShownList | InOrder | Refers):
            found.append(item)
            continue
        waiting += getattr(item, "__metadata__", ())
        inner = getattr(item, "__origin__", None)
        if hasattr(item, "__metadata__"):
            waiting.append(inner)
        elif inner is not None or isinstance(item, types.UnionType):
            waiting += get_args(item)
    return found


def _first(info: FieldInfo, kind: type[Known]) -> Known | None:
    return next((item for item in _metadata(info) if isinstance(item, kind)), None)


def refers_to(info: FieldInfo) -> str | None:
    """Find what a field names by id.

    Parameters
    ----------
    info : FieldInfo
        A field of a document. [-]

    Returns
    -------
    str or None
        "part", "space", "phase", "state", "draw", "use" or "day kind"; None for any other. [-]
    """
    refers = _first(info, Refers)
    return refers.to if refers is not None else None


def pairs_of(info: FieldInfo) -> ShownPairs | None:
    """Find the styles of a field that is a list of pairs; None for any other.

    Parameters
    ----------
    info : FieldInfo
        A field of a document. [-]

    Returns
    -------
    ShownPairs or None
        The styles of both halves. [-]
    """
    return _first(info, ShownPairs)


def list_of(info: FieldInfo) -> ShownList | None:
    """Find the style of a field that is a list of figures; None for any other.

    Parameters
    ----------
    info : FieldInfo
        A field of a document. [-]

    Returns
    -------
    ShownList or None
        The style of each. [-]
    """
    return _first(info, ShownList)


def in_order(info: FieldInfo) -> bool:
    """Say whether a field names pieces one after the other, some of them several times.

    Parameters
    ----------
    info : FieldInfo
        A field of a document. [-]

    Returns
    -------
    bool
        Else what it names has no order. [-]
    """
    return _first(info, InOrder) is not None


def refusal(code: str, **values: str) -> PydanticCustomError:
    """Make what a validator raises: why a document is refused, as a code with values.

    Parameters
    ----------
    code : str
        Why; `isotherma.wording` has the sentence. [-]
    values : str
        Ids and names its words need. [-]

    Returns
    -------
    PydanticCustomError
        To be raised by a validator. [-]
    """
    return PydanticCustomError(code, code, dict(values))


def _plain_text(value: str) -> str:
    """Refuse what has no place in a name or note and could harm a page, log or file."""
    for character in value:
        kind = unicodedata.category(character)
        if kind in {"Cc", "Cf", "Cs", "Co", "Cn"} and character not in "\n\u200d\ufe0f":
            raise refusal("hidden_character", character=f"U+{ord(character):04X}")
    if re.search(r"[<>]", value):
        raise refusal("angle_signs")
    return value


def _one_line(value: str) -> str:
    if "\n" in value:
        raise refusal("line_break")
    return " ".join(value.split())


def _not_empty(value: str) -> str:
    if not value:
        raise refusal("empty_name")
    return value


Slug = Annotated[str, Field(pattern=r"^[a-z0-9][a-z0-9-]{0,39}$", max_length=40)]
Name = Annotated[str, Field(max_length=80), AfterValidator(_plain_text), AfterValidator(_one_line)]
GivenName = Annotated[Name, AfterValidator(_not_empty)]
Note = Annotated[str, Field(max_length=2000), AfterValidator(_plain_text)]
Reason = Annotated[
    str,
    Field(max_length=400),
    AfterValidator(_plain_text),
    AfterValidator(_one_line),
    AfterValidator(_not_empty),
]

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
BodyLoss = Annotated[float, Shown("loss"), Field(ge=0, le=50)]
Contact = Annotated[float, Shown("resistance"), Field(ge=0, le=10)]
Film = Annotated[float, Shown("film"), Field(ge=0.5, le=50)]
Capacity = Annotated[float, Shown("capacity"), Field(ge=0, le=1e5)]
Coefficient = Annotated[float, Shown("number"), Field(ge=0, le=1000)]
BigVolume = Annotated[float, Shown("volume"), Field(gt=0, le=100.0)]
SmallVolume = Annotated[float, Shown("millilitres"), Field(ge=0, le=0.01)]
Altitude = Annotated[float, Shown("length"), Field(ge=-400, le=6000)]
Place3 = Annotated[float, Shown("length"), Field(ge=-20, le=20)]
Height = Annotated[float, Shown("bore"), Field(ge=0, le=5)]
Fine = Annotated[float, Shown("fine"), Field(gt=0, le=2e-3)]
Area = Annotated[float, Shown("area"), Field(ge=0, le=10)]
CableArea = Annotated[float, Shown("cable_area"), Field(gt=0, le=3e-4)]
Current = Annotated[float, Shown("current"), Field(ge=0, le=1000)]
Voltage = Annotated[float, Shown("voltage"), Field(gt=0, le=500)]
Resistance = Annotated[float, Shown("resistance"), Field(gt=0, le=1e5)]
Charge = Annotated[float, Shown("charge"), Field(gt=0, le=1e7)]
BatteryEnergy = Annotated[float, Shown("battery_energy"), Field(gt=0, le=1e9)]
MassFlow = Annotated[float, Shown("mass_flow"), Field(ge=0, le=0.01)]
Angle = Annotated[float, Shown("angle"), Field(ge=-30, le=30)]
Tilt = Annotated[float, Shown("angle"), Field(ge=0, le=90)]
Money = Annotated[float, Shown("money"), Field(ge=0, le=1e6)]
Heat = Annotated[float, Shown("heat_power"), Field(ge=0, le=50_000)]
Watts = Annotated[float, Shown("power"), Field(ge=0, le=50_000)]
Time = Annotated[float, Shown("minutes"), Field(ge=0, le=14 * DAY_S)]
Hours = Annotated[float, Shown("hours"), Field(ge=0, le=60 * DAY_S)]
Temperature = Annotated[float, Shown("temperature"), Field(ge=-60, le=400)]
Bodied = Annotated[float, Shown("mass"), Field(ge=0, le=5000)]
RiseOf = Annotated[float, Shown("difference"), Field(gt=0, le=80)]
StartEnergy = Annotated[float, Shown("battery_energy"), Field(ge=0, le=1e6)]
TubeLength = Annotated[float, Shown("length"), Field(gt=0, le=60)]
Conductance = Annotated[float, Shown("loss"), Field(gt=0, le=1e4)]
Sky = Literal["clear", "mixed", "dark"]
Count = Annotated[int, Field(ge=0, le=1000)]
Date = Annotated[str, Field(pattern=r"^\d{4}-\d{2}-\d{2}$")]
PartRef = Annotated[Slug, Refers("part")]
SpaceRef = Annotated[Slug, Refers("space")]
PhaseRef = Annotated[Slug, Refers("phase")]
StateRef = Annotated[Slug, Refers("state")]
DrawRef = Annotated[Slug, Refers("draw")]
UseRef = Annotated[Slug, Refers("use")]
DayKindRef = Annotated[Slug, Refers("day kind")]
