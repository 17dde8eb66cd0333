"""The quick brief: the few things a person knows before there is a design, each or "don't know"."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from isotherma.core.brief import Hurt
from isotherma.core.fields import (
    Current,
    Document,
    GivenName,
    Hours,
    PartRef,
    Slug,
    Volume,
    Watts,
    known,
)

Wash = Literal["hands", "stop-and-go", "shower", "long-shower"]


class Answers(Document):
    """Six questions. What is left open stays an example in the brief, and says so."""

    name: GivenName = Field(default="My vehicle", title="Name of the vehicle")
    people: Annotated[int, Field(ge=1, le=20)] | None = known("How many people wash a day")
    wash: Wash | None = known("How")
    washes: Literal["inside", "outside"] | None = known("Where")
    days: Annotated[int, Field(ge=1, le=60)] | None = known("Days between fills")
    region: Slug | None = known("Country most like yours")
    month: Annotated[int, Field(ge=1, le=12)] | None = known("Worst month")
    hook_up_a: Current | None = known("Hook-up on most nights", "0: none.")
    drive_s: Hours | None = known("Driving on most days", "0: none.")
    panels_w: Watts | None = known("Panels on the roof", "0: none.")
    gas: Literal["carried", "refused"] | None = known("Gas")
    diesel: Literal["in the vehicle", "refused"] | None = known("Diesel")
    fresh_m3: Volume | None = known("Fresh tank")
    heater: PartRef | None = known("Heater or store", "As near as its box says; mend it later.")
    hurts: Annotated[tuple[Hurt, ...], Field(max_length=6)] = Field(
        default=(),
        title="What hurts most",
        description="Flames, holes and complexity decide which ways of heating come first; "
        "room, money and waiting are kept for sizing.",
    )
