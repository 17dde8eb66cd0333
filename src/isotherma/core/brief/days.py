"""Days of a trip that are not alike: what happens on each, what is filled and emptied when."""

from __future__ import annotations

from typing import Annotated, Literal, Self

from pydantic import Field, model_validator

from isotherma.core.fields import (
    DAY_S,
    Air,
    Clock,
    Current,
    Document,
    DrawRef,
    GivenName,
    Hours,
    Share,
    Shown,
    Sky,
    Slug,
    UseRef,
    VolumeOrNone,
    known,
    refusal,
)

Service = Literal["fill fresh", "take a can", "empty grey", "change gas", "fill diesel"]
HookUpOf = Literal["as the state says", "none", "plugged in"]
Warmer = Annotated[float, Shown("difference"), Field(ge=-30, le=30)]
MAX_DAYS = 60


class ServiceStop(Document):
    """A place on the way where something carried is filled, emptied or changed."""

    id: Slug
    what: Service = Field(default="fill fresh", title="What is done")
    at_s: Clock | None = known("At", "Empty: before the first draw of the day.")
    volume_m3: VolumeOrNone | None = known(
        "How much",
        "Fresh water and diesel: filled up to so much; a can: so much in it. Empty: full.",
    )

    @property
    def made_s(self) -> float:
        """When it is made: where nobody says, as the day begins [s]."""
        return self.at_s if self.at_s is not None else 0.0


class DayKind(Document):
    """A kind of day: everything it does not say is as on every other day."""

    id: Slug
    name: GivenName = Field(title="Name")
    without_draws: Annotated[tuple[DrawRef, ...], Field(max_length=24)] = Field(
        default=(), title="Draws left out"
    )
    without_uses: Annotated[tuple[UseRef, ...], Field(max_length=40)] = Field(
        default=(), title="Other water left out"
    )
    share: Share = Field(
        default=1.0, title="Of the rest",
        description="Share of the minutes and litres of what is not left out.",
    )  # fmt: skip
    drive_s: Hours | None = known("Drives for", "Empty: as the parts say; 0: not at all.")
    drive_start_s: Clock = Field(default=9 * 3600.0, title="Drives from")
    again_s: Hours = Field(default=0.0, title="Drives again for")
    again_start_s: Clock = Field(default=16 * 3600.0, title="Again from")
    hook_up: HookUpOf = Field(default="as the state says", title="Hook-up")
    plugged_from_s: Clock | None = known("Plugged in from", "Empty, here or below: all day.")
    plugged_until_s: Clock | None = known("Plugged in until")
    hook_up_a: Current | None = known("Amps of that pitch", "Empty: as the hook-up's part says.")
    sun: Sky = Field(
        default="mixed", title="Sun", description="Mixed: the average day of the month."
    )
    warmer_k: Warmer = Field(
        default=0.0, title="Warmer than the month by", description="Below 0: colder."
    )
    inside_c: Air | None = known("Living space kept at", "Empty: as on every other day.")
    stops: Annotated[tuple[ServiceStop, ...], Field(max_length=8)] = Field(
        default=(), title="Stops on the way"
    )

    @property
    def plugged(self) -> tuple[float, float] | None:
        """From when until when it has a pitch; None: all day, or as the state says [s]."""
        if self.hook_up != "plugged in":
            return None
        if self.plugged_from_s is None and self.plugged_until_s is None:
            return None
        begins = 0.0 if self.plugged_from_s is None else self.plugged_from_s
        return begins, DAY_S if self.plugged_until_s is None else self.plugged_until_s

    @model_validator(mode="after")
    def _says_each_once(self) -> Self:
        ids = [stop.id for stop in self.stops]
        twice = next((key for key in ids if ids.count(key) > 1), None)
        if twice is not None:
            raise refusal("same_id", what="stops", id=twice)
        for named in (self.without_draws, self.without_uses):
            if len(set(named)) != len(named):
                raise refusal("named_twice")
        return self
