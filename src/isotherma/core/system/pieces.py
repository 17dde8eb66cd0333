"""What every part has, and how a figure of the engine comes from what the box says."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from functools import cache
from typing import Annotated, ClassVar, Final, Literal, Self

from pydantic import Field, field_validator, model_validator

from isotherma.core.ends import nearest_wordings, read_or_run
from isotherma.core.fields import (
    Bodied,
    Date,
    Document,
    Height,
    Money,
    Name,
    Note,
    PartRef,
    PhaseRef,
    Place3,
    Pressure,
    Seconds,
    Slug,
    SpaceRef,
    Temperature,
    known,
    refusal,
)

Sealing = Literal["room sealed", "open flue", "flueless"]
GasSetting = Literal["as delivered", "changed", "checked after change"]
Medium = Literal["water", "primary", "fluid", "waste", "gas", "fuel", "air", "power"]
_FLUIDS = {"water", "primary", "waste"}
LITRE = 1e-3
LITRE_PER_MIN = 1e-3 / 60
FACTOR = LITRE_PER_MIN / 1e5**0.5  # L/min/√bar in SI
BAR = 1e5
SYSTEM_V: Final = 12.0  # of the battery side, unless somebody says
MAINS_V: Final = 230.0

Limit = Literal[
    "outdoors only",
    "room sealed",
    "upright",
    "lying flat",
    "not above living space",
    "not while driving",
    "cold water only",
    "mains by a licensed person",
    "gas by a licensed person",
]


@dataclass(frozen=True, slots=True)
class Port:
    """One opening of a part: what passes, whether several runs may meet there.

    `needed` means the part does nothing useful until something is joined to it.
    """

    name: str
    medium: Medium
    many: bool = False
    needed: bool = True


def joins(first: Medium, second: Medium) -> bool:
    """Say whether two openings may be joined by one run.

    Parameters
    ----------
    first, second : str
        What passes each; "fluid" is a valve or fitting that passes any liquid but fuel. [-]

    Returns
    -------
    bool
        True when the same can pass both. [-]

    Examples
    --------
    >>> joins("fluid", "water")
    True
    >>> joins("gas", "water")
    False
    """
    if first == second:
        return True
    return (first == "fluid" and second in _FLUIDS) or (second == "fluid" and first in _FLUIDS)


@dataclass(frozen=True, slots=True)
class Band:
    """A figure with its doubt and the reason, before anybody overrode it."""

    low: float
    likely: float
    high: float
    because: str


class PartEnd(Document):
    """What a part has at one of its ports, as it is printed or was measured."""

    port: Annotated[str, Field(pattern=r"^[a-z_]{1,20}$")] = Field(title="Port")
    end: Name = Field(title="End", description="As “male 1/2 in parallel”, or “run”.")

    @field_validator("end")
    @classmethod
    def _in_our_words(cls, text: str) -> str:
        read = read_or_run(text)
        if read is None:
            near = nearest_wordings(text)
            raise refusal("no_end", text=text, nearest=" / ".join(near))
        return read


Origin = Literal["given", "derived", "assumed", "unknown"]


@dataclass(frozen=True, slots=True)
class Figure:
    """One figure the engine uses: low, likely, high and where it comes from.

    `given` was typed as such and wins; `derived` follows from what the box says;
    `assumed` is what is usual for the kind; `unknown` has no value.
    """

    name: str
    title: str
    style: str
    low: float | None
    likely: float | None
    high: float | None
    because: str
    origin: Origin
    instead: Band | None = None


class PartBase(Document):
    """What every part has: where it is, how big, what it costs, when it is fitted."""

    ports: ClassVar[tuple[Port, ...]] = ()
    title: ClassVar[str] = ""
    side: ClassVar[str] = ""
    caution: ClassVar[str] = ""
    printed: ClassVar[tuple[str, ...]] = ()
    usual: ClassVar[Mapping[str, Band]] = {}
    needs: ClassVar[tuple[str, ...]] = ()
    sits_in: ClassVar[tuple[str, ...]] = ()
    positions: ClassVar[tuple[str, ...]] = ()
    turned: ClassVar[tuple[str, ...]] = ()  # what hands set in use, before any construction data
    passes: ClassVar[Mapping[str, tuple[tuple[str, str], ...]]] = {}

    id: Slug
    name: Name = Field(default="", title="Name")
    space: SpaceRef | None = known("Space", "Where in the vehicle it lives.")
    fitted_in: PartRef | None = known("Sits in or on", "The part it is fitted to.")
    phase: PhaseRef | None = known("Phase", "When it is fitted; empty: with the first.")
    owned: Literal["owned", "to buy"] | None = known("Owned")
    price: Money | None = known("Price", "In your own money.")
    priced_on: Date | None = known("Price of", "Day of the price, as 2026-03-31.")
    width_m: Height | None = known("Outside width")
    depth_m: Height | None = known("Outside depth")
    tall_m: Height | None = known("Outside height")
    dry_mass_kg: Bodied | None = known("Dry mass")
    clearance_m: Height | None = known("Room to service it", "Free space before its cover.")
    x_m: Place3 | None = known(
        "From the front", "Its middle, from the front of the living space, rearward."
    )
    y_m: Place3 | None = known(
        "From the middle", "Its own middle, to the right when facing forward."
    )
    z_m: Place3 | None = known("Above the floor", "Its underside; below the floor: with a minus.")
    held: Literal["bolted", "strapped", "by what stands beside it", "loose"] | None = known("Held")
    reach: Literal["open", "hatch", "behind another part"] | None = known("To reach it")
    behind: PartRef | None = known("Behind which part")
    max_c: Temperature | None = known("Rated up to", "Highest temperature on its label.")
    max_pa: Pressure | None = known("Rated pressure", "Highest pressure on its label.")
    drinking: Literal["fit", "not fit"] | None = known("For drinking water")
    limits: Annotated[tuple[Limit, ...], Field(max_length=9)] = Field(
        default=(), title="Its label says"
    )
    evidence: Literal["maker's sheet", "measured", "assumed"] | None = known("Figures are from")
    picture: Name = Field(default="", title="Photograph", description="Name of your picture file.")
    ends: Annotated[tuple[PartEnd, ...], Field(max_length=20)] = Field(
        default=(), title="Ends", description="What is printed or was measured, port by port."
    )
    note: Note = Field(default="", title="Note")

    @model_validator(mode="after")
    def _ends_at_ports(self) -> Self:
        if not self.ends:
            return self
        names = [port.name for port in self.ports]
        said: set[str] = set()
        for one in self.ends:
            if one.port not in names:
                raise refusal("no_port_for_end", part=self.id, port=one.port,
                              names=", ".join(names))  # fmt: skip
            if one.port in said:
                raise refusal("two_said_ends", part=self.id, port=one.port)
            said.add(one.port)
        return self

    def end_at(self, port: str) -> str | None:
        """Give the end somebody stated at a port; None where nobody did."""
        return next((one.end for one in self.ends if one.port == port), None)

    @property
    def label(self) -> str:
        """Give the name, or the kind's title where it has none."""
        return self.name or self.title

    @property
    def outer_m3(self) -> float | None:
        """Give the room its outer sizes take [m³]; None while one of them is unknown."""
        if self.width_m is None or self.depth_m is None or self.tall_m is None:
            return None
        return self.width_m * self.depth_m * self.tall_m

    def care(self) -> str:
        """Give the caution for this very part; of most, that of its kind."""
        return self.caution

    def by_hand(self) -> tuple[str, ...]:
        """Name the figures hands set on this very part while it is used: knobs and set points."""
        return self.turned

    @classmethod
    @cache
    def port(cls, name: str) -> Port | None:
        """Find a port by name, or None."""
        return next((port for port in cls.ports if port.name == name), None)

    @classmethod
    @cache
    def ways(cls, at: str) -> tuple[tuple[str, str], ...]:
        """Give the pairs of ports between which it lets its medium pass, at a position.

        `passes` says it by position, or under "" for any; else a part with an inlet and
        an outlet is a way through, and a tank, a source or an outlet is none.
        """
        if at in cls.passes or "" in cls.passes:
            return cls.passes.get(at, cls.passes.get("", ()))
        if cls.port("inlet") is not None and cls.port("outlet") is not None:
            return (("inlet", "outlet"),)
        return ()

    def nominal(self, name: str) -> float:
        """Give a figure as entered, else what is usual for the kind; KeyError if nothing is."""
        given = getattr(self, name)
        return self.usual[name].likely if given is None else float(given)

    def worked_out(self, around: Around) -> Mapping[str, Band]:
        """Derive figures from what the box says; those that cannot be are left out."""
        return {}

    def lacking(self) -> Mapping[str, str]:
        """Say for figures that may stay unknown what to enter to know them."""
        return {}


KEEPING: tuple[str, ...] = tuple(
    name for name in PartBase.model_fields if name not in {"id", "name", "space", "fitted_in"}
)


@dataclass(frozen=True, slots=True)
class Around:
    """What a piece sees of the system.

    Of a part: what it sits in, what sits in it, the system voltage; of a run: how far apart its
    ends are, where both are placed [m].
    """

    host: PartBase | None = None
    fitted: tuple[PartBase, ...] = ()
    volts_v: float | None = None
    span_m: float | None = None


class Switchable(PartBase):
    """A part whose position differs between states: a valve, a coupling, a selector."""

    tool: Name = Field(default="hand", title="Moved with")
    move_s: Seconds = Field(default=5.0, title="A move takes")


def through(medium: Medium = "fluid") -> tuple[Port, ...]:
    """Give the ports of a part in line.

    Parameters
    ----------
    medium : str
        What passes. [-]

    Returns
    -------
    tuple of Port
        Inlet and outlet. [-]
    """
    return (Port("inlet", medium), Port("outlet", medium))


def power(*, needed: bool = False) -> Port:
    """Give the electrical port of a part.

    Parameters
    ----------
    needed : bool
        Whether it does nothing without. [-]

    Returns
    -------
    Port
        That opening. [-]
    """
    return Port("power", "power", many=True, needed=needed)


def usual(low: float, likely: float, high: float, because: str) -> Band:
    """Declare what is usual for a kind, with the reason.

    Parameters
    ----------
    low, likely, high : float
        What most of them have. [SI]
    because : str
        The reason. [-]

    Returns
    -------
    Band
        The three. [SI]
    """
    return Band(low, likely, high, because)


def certain(value: float, because: str) -> Band:
    """Make a band without doubt.

    Parameters
    ----------
    value : float
        The figure. [SI]
    because : str
        The reason. [-]

    Returns
    -------
    Band
        Three times the same. [SI]

    Examples
    --------
    >>> certain(3.0, "measured").high
    3.0
    """
    return Band(value, value, value, because)


def spread(values: Iterable[float], because: str) -> Band:
    """Make a band of three values: low, likely, high.

    Parameters
    ----------
    values : iterable of float
        Low, likely, high. [SI]
    because : str
        The reason. [-]

    Returns
    -------
    Band
        The three. [SI]
    """
    low, likely, high = values
    return Band(low, likely, high, because)


def about(value: float, share: float, because: str) -> Band:
    """Make a band of plus and minus a share of the value.

    Parameters
    ----------
    value : float
        The likely figure. [SI]
    share : float
        Of it, each way. [-]
    because : str
        The reason. [-]

    Returns
    -------
    Band
        The three. [SI]

    Examples
    --------
    >>> about(10.0, 0.2, "read off").low
    8.0
    """
    return Band(value * (1 - share), value, value * (1 + share), because)


def present(values: Iterable[tuple[str, Band | None]]) -> dict[str, Band]:
    """Keep those that could be derived.

    Parameters
    ----------
    values : iterable of pairs
        Name and band, or None. [SI]

    Returns
    -------
    dict
        Bands by name. [SI]
    """
    return {name: band for name, band in values if band is not None}


def box_volume(
    top_m: float | None, floor_m: float | None, width_m: float | None, height_m: float | None
) -> float | None:
    """Volume of a box whose length may differ between top and floor.

    Parameters
    ----------
    top_m, floor_m : float or None
        Inside length at the top and at the floor; without the second the box is straight. [m]
    width_m, height_m : float or None
        Inside width and height. [m]

    Returns
    -------
    float or None
        The volume of the prism; None when a measure is missing. [m³]

    Examples
    --------
    >>> round(box_volume(0.4, 0.2, 0.5, 0.2), 3)
    0.03
    >>> box_volume(0.4, 0.2, None, 0.2) is None
    True
    """
    if top_m is None or width_m is None or height_m is None:
        return None
    floor = top_m if floor_m is None else floor_m
    return (top_m + floor) / 2 * width_m * height_m
