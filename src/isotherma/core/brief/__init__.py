"""The brief: who washes, when, where, for how long, and what may not run out."""

from __future__ import annotations

from typing import Annotated, Literal, Self

from pydantic import Field, model_validator

from isotherma.core.fields import (
    Air,
    Clock,
    Document,
    Energy,
    Flow,
    GivenName,
    Mass,
    Minutes,
    Name,
    Note,
    Seconds,
    Setting,
    Share,
    Slug,
    VolumeOrNone,
    Water,
)

Refusal = Literal["gas", "mains", "mixing valve"]
MAX_OPEN_S = 4 * 3600.0


class Draw(Document):
    """One use of the outlet: when, how long, how warm, with which stops."""

    id: Slug
    name: GivenName = Field(title="What for")
    who: Name = Field(default="", title="Who")
    child: bool = Field(default=False, title="A child")
    start_s: Clock = Field(title="Starts at")
    duration_s: Minutes = Field(
        title="Water runs for", description="Running time, stops not counted."
    )
    clock: Literal["warm", "open"] = Field(
        default="warm",
        title="Counted from",
        description="The running time begins when the water is warm, or when the tap opens.",
    )
    low_c: Setting = Field(default=37.0, title="Warm enough from")
    high_c: Setting = Field(default=43.0, title="Too hot above")
    flow_m3_per_s: Flow | None = Field(
        default=None, title="Throttled to", description="Empty: the head fully open."
    )
    stops: Annotated[int, Field(ge=0, le=20)] = Field(
        default=0, title="Stops", description="How often the water is shut while soaping."
    )
    stop_s: Seconds = Field(default=60.0, title="Each stop")

    @model_validator(mode="after")
    def _window_is_open(self) -> Self:
        if self.high_c < self.low_c + 1.0:
            raise ValueError("“too hot above” must be at least 1 K over “warm enough from”")
        return self


class Budgets(Document):
    """Hard limits besides the fresh tank; empty means nobody set one."""

    grey_m3: VolumeOrNone | None = Field(default=None, title="Grey water room")
    gas_kg: Mass | None = Field(default=None, title="Gas carried")
    mains_energy_j: Energy | None = Field(default=None, title="Mains energy")
    longest_wait_s: Seconds = Field(
        default=60.0, title="Longest wait for warm", description="At the head, before each draw."
    )


class Brief(Document):
    """What the water is for, on one trip of equal days."""

    days: Annotated[int, Field(ge=1, le=60)] = Field(
        default=1, title="Days between fills", description="Each day is like the one described."
    )
    region: Slug = Field(default="river-plain", title="Region")
    month: Annotated[int, Field(ge=1, le=12)] = Field(default=6, title="Month")
    cold_water_c: Water | None = Field(
        default=None,
        title="Cold water",
        description="Empty: estimated from the region, the month and where the tank lives.",
    )
    inside_c: Air = Field(default=18.0, title="Living space kept at")
    day_start: Literal["standing", "cold"] = Field(
        default="standing",
        title="The store at midnight",
        description="As the day before left it, or just filled and cold.",
    )
    draws: Annotated[tuple[Draw, ...], Field(max_length=24)] = ()
    other_fresh_m3: VolumeOrNone = Field(
        default=0.0,
        title="Other fresh water a day",
        description="Drinking, cooking, rinsing, toilet: all that is not one of the draws.",
    )
    other_grey_m3: VolumeOrNone = Field(
        default=0.0, title="Of that to the grey tank", description="Each day."
    )
    gives_up_s: Seconds = Field(
        default=180.0,
        title="Gives up waiting after",
        description="Then the person washes anyway.",
    )
    budgets: Budgets = Budgets()
    reserve: Share = Field(
        default=0.0, title="Kept in reserve", description="Share of fresh water and gas left over."
    )
    will_not_have: Annotated[tuple[Refusal, ...], Field(max_length=3)] = Field(
        default=(), title="Will not have"
    )
    note: Note = Field(default="", title="Note")

    @model_validator(mode="after")
    def _draws_fit(self) -> Self:
        seen: set[str] = set()
        for draw in self.draws:
            if draw.id in seen:
                raise ValueError(f"two draws have the id “{draw.id}”; give one another id")
            seen.add(draw.id)
        total_s = sum(
            draw.duration_s + draw.stops * draw.stop_s + self.gives_up_s for draw in self.draws
        )
        if total_s > MAX_OPEN_S:
            raise ValueError(
                "the draws of one day come to more than four hours; shorten or remove some"
            )
        if self.other_grey_m3 > self.other_fresh_m3:
            raise ValueError("more grey water cannot come from the other fresh water than it is")
        if len(set(self.will_not_have)) != len(self.will_not_have):
            raise ValueError("“will not have” names the same thing twice")
        return self
