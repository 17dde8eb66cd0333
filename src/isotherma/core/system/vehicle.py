"""The vehicle round the system: spaces, holes in the body, axles, how it stands."""

from __future__ import annotations

from typing import Annotated, Final, Literal

from pydantic import Field

from isotherma.core.climate import Warmth
from isotherma.core.fields import (
    Air,
    Angle,
    Area,
    Bodied,
    Bore,
    Document,
    GivenName,
    Height,
    Name,
    Note,
    PartRef,
    Size,
    Slug,
    SpaceRef,
    known,
)

RuleSet = Literal["uk-eu", "north-america", "australia-nz", "southern-africa", "strictest"]
LEVEL_DEG: Final = 0.0


class Space(Document):
    """One space of the vehicle: a living space, a locker, the air below the floor."""

    id: Slug
    name: GivenName = Field(title="Name")
    warmth: Warmth = Field(default="heated", title="Warmth")
    lived_in: bool | None = known("Lived in", "People sit or sleep in it.")
    kept_c: Air | None = known("Kept at", "Empty: by its warmth, the region and the month.")
    width_m: Size | None = known("Inside width")
    depth_m: Size | None = known("Inside depth")
    height_m: Size | None = known("Inside height")
    opening_m2: Area | None = known("Opening to outside", "Windows and doors that are left open.")
    low_vent_m2: Area | None = known("Low vent", "Free area at the floor, to outside.")
    high_vent_m2: Area | None = known("High vent", "Free area at the top, to outside.")
    neighbours: Annotated[tuple[SpaceRef, ...], Field(max_length=20)] = Field(
        default=(), title="Next to"
    )
    lined: bool | None = known("Gets a lining", "It will cover pipes and cables in it.")
    sealed_from: Annotated[tuple[SpaceRef, ...], Field(max_length=20)] = Field(
        default=(), title="Sealed from"
    )
    note: Note = Field(default="", title="Note")


class Hole(Document):
    """A hole through the body or a partition."""

    id: Slug
    name: GivenName = Field(title="Name")
    first: SpaceRef | None = known("From")
    second: SpaceRef | None = known("To")
    for_part: PartRef | None = known("For", "The part that passes, or whose pipe does.")
    bore_m: Bore | None = known("Diameter")
    through: Literal["wall", "floor", "roof", "door", "partition"] = Field(
        default="floor", title="Through"
    )
    behind: Name = Field(default="", title="Behind and below it", description="Looked for, found.")
    made_of: Literal["metal", "wood", "plastic", "glass fibre", "tank"] | None = known(
        "Drilled in", "What it goes through is made of; a tank's own wall is a tank."
    )
    drill_from: Name = Field(
        default="",
        title="Pilot drilled from",
        description="The side from which what it could hurt is seen.",
    )
    edge_treated: bool | None = known("Edge treated")
    sleeved: bool | None = known("Sleeved")
    sealed: bool | None = known("Sealed")
    note: Note = Field(default="", title="Note")


class Vehicle(Document):
    """The body the system goes into: what it may carry and how it stands."""

    payload_kg: Bodied | None = known("Payload left", "With everything else on board.")
    front_axle_kg: Bodied | None = known("Front axle to spare")
    rear_axle_kg: Bodied | None = known("Rear axle to spare")
    wheelbase_m: Size | None = known("Wheelbase")
    rear_axle_x_m: Height | None = known("Rear axle from the front of the living space")
    headroom_m: Size | None = known("Headroom")
    pitch_deg: Angle | None = known("Parked, nose up by")
    roll_deg: Angle | None = known("Parked, right side down by")
    rule_set: RuleSet | None = known("Limits by", "Whose rules the checks go by.")
    holes_at_most: Annotated[int, Field(ge=0, le=99)] | None = known("Holes at most")
    note: Note = Field(default="", title="Note")

    @property
    def stands_deg(self) -> tuple[float, float]:
        """How it stands parked, nose up and right side down: level unless somebody says."""
        pitch, roll = (LEVEL_DEG if angle is None else angle for angle in
                       (self.pitch_deg, self.roll_deg))  # fmt: skip
        return pitch, roll
