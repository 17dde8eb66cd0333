"""The project: one vehicle's brief and the variants of its system, as one document."""

from __future__ import annotations

import json
from collections.abc import Iterable
from functools import cached_property
from typing import Annotated, Any, Literal, Self

from pydantic import Field, model_validator

from isotherma.core.brief import Brief
from isotherma.core.fields import (
    Date,
    Document,
    GivenName,
    Money,
    Name,
    Reason,
    Slug,
    known,
    refusal,
)
from isotherma.core.system import AnyKind, System
from isotherma.core.system.configuration import fitted_by
from isotherma.core.system.states import State
from isotherma.core.system.vehicle import Vehicle

FORMAT = "isotherma-project"
FORMAT_VERSION = 9


class Judgement(Document):
    """What a person says of one way of heating, or one variant, on a wish of their own."""

    of: Slug = Field(title="Of which", description="A way of heating or a variant, by its id.")
    says: Literal["yes", "no", "so-so"] = Field(title="Verdict")
    why: Name = Field(default="", title="Why")


class Wish(Document):
    """A row of the person's own that ways of heating and variants are judged by."""

    id: Slug
    name: GivenName = Field(title="Wish")
    hard: bool = Field(default=False, title="A no strikes")
    judgements: Annotated[tuple[Judgement, ...], Field(max_length=100)] = ()

    @model_validator(mode="after")
    def _judged_once(self) -> Self:
        judged = [one.of for one in self.judgements]
        if len(set(judged)) != len(judged):
            twice = next(key for key in judged if judged.count(key) > 1)
            raise refusal("same_id", what="judgements", id=twice)
        return self

    def judgement(self, of: str) -> Judgement | None:
        """Find what is said of a way of heating or a variant; None where nothing is."""
        return next((one for one in self.judgements if one.of == of), None)


class Price(Document):
    """What a thing on the list costs, how it is sold, how much of it is there or on its way."""

    item: Annotated[str, Field(pattern=r"^[a-z][a-z_]{0,39}$")] = Field(title="What it is")
    size: Name = Field(default="", title="Size", description="As it stands on the list.")
    pack: Annotated[float, Field(gt=0, le=10_000)] | None = known(
        "Sold by", "Pieces or metres in a pack, a coil or a bar."
    )
    price: Money | None = known("Price", "Of a pack; of one piece or metre where none is said.")
    priced_on: Date | None = known("Price of", "Day of the price, as 2026-03-31.")
    have: Annotated[float, Field(ge=0, le=10_000)] = Field(
        default=0.0, title="There already", description="Pieces or metres."
    )
    ordered: Annotated[float, Field(ge=0, le=10_000)] = Field(
        default=0.0, title="Ordered", description="Pieces or metres on their way."
    )


class Acknowledged(Document):
    """A finding of the checks that somebody looked at and answers for."""

    id: Annotated[str, Field(pattern=r"^[a-z]+\.[a-z0-9-]+$", max_length=60)] = Field(
        title="Finding"
    )
    parts: Annotated[tuple[Slug, ...], Field(max_length=60)] = ()
    runs: Annotated[tuple[Slug, ...], Field(max_length=60)] = ()
    state: Slug | None = None
    severity: Literal["stop", "fix", "watch", "unknown"] = Field(title="As serious as")
    figure: float | None = None
    reason: Reason = Field(title="Why it may stay")
    name: GivenName = Field(title="Who says so")
    on: Date | None = known("On the day", "As 2026-03-31.")


class Measured(Document):
    """A figure that was learned from readings of this very vehicle; it wins over all others."""

    path: Annotated[str, Field(pattern=r"^parts\.[a-z0-9-]{1,40}\.[a-z0-9_]{1,40}$")] = Field(
        title="Which figure"
    )
    value: float = Field(title="Value")
    low: float | None = None
    high: float | None = None
    on: Date | None = known("On the day", "As 2026-03-31.")
    sessions: Annotated[tuple[GivenName, ...], Field(max_length=60)] = ()


class SettingNote(Document):
    """A setting as it was found, or left, and why: to put it back to."""

    path: Annotated[str, Field(max_length=100)] = Field(title="Which setting")
    value: Annotated[str, Field(max_length=80)] = Field(title="How it stood")
    on: Date | None = known("On the day", "As 2026-03-31.")
    why: Name = Field(default="", title="Why")


class Variant(Document):
    """One named system of a vehicle."""

    id: Slug
    name: GivenName = Field(title="Name")
    system: System = System()
    state: Slug | None = Field(
        default=None,
        title="State of the day",
        description="How it stands on the day that is computed. Empty: its first state.",
    )
    phase: Slug | None = Field(
        default=None,
        title="Built as far as",
        description="What is there on the day that is computed. Empty: all of it.",
    )
    acknowledged: Annotated[tuple[Acknowledged, ...], Field(max_length=300)] = ()
    measured: Annotated[tuple[Measured, ...], Field(max_length=200)] = ()
    notes: Annotated[tuple[SettingNote, ...], Field(max_length=200)] = ()

    @model_validator(mode="after")
    def _measured_once(self) -> Self:
        paths = [one.path for one in self.measured]
        if len(set(paths)) != len(paths):
            twice = next(path for path in paths if paths.count(path) > 1)
            raise refusal("same_id", what="measured figures", id=twice)
        return self

    @cached_property
    def built(self) -> Variant:
        """Give the variant with what is fitted by its phase, and figures as they were measured.

        It is for computing and drawing: what is written back is always the whole. Itself where
        that is all of it.
        """
        system = with_measured(self.system, self.measured)
        if self.phase is None or self.phase not in {phase.id for phase in system.phases}:
            return self if system is self.system else self.model_copy(update={"system": system})
        there = fitted_by(system, self.phase)
        return self.model_copy(update={"system": there, "phase": None})

    @property
    def standing(self) -> State | None:
        """Give the state of the day: the chosen one while it is there, else the first."""
        states = self.system.states
        return self.system.state_or(self.state, states[0] if states else None)


def with_measured(system: System, measured: Iterable[Measured]) -> System:
    """Give a system with measured figures in the place of entered and derived ones.

    Parameters
    ----------
    system : System
        As entered. [-]
    measured : iterable of Measured
        By path; those of parts or properties that went are left out. [SI]

    Returns
    -------
    System
        Itself where nothing was measured. [SI]
    """
    by_part: dict[str, dict[str, float]] = {}
    for one in measured:
        _, part_id, name = one.path.split(".")
        by_part.setdefault(part_id, {})[name] = one.value
    if not by_part:
        return system
    parts = tuple(
        part.model_copy(update={name: value for name, value in by_part[part.id].items()
                                if name in type(part).model_fields})
        if part.id in by_part else part
        for part in system.parts
    )  # fmt: skip
    return system.model_copy(update={"parts": parts})


class Project(Document):
    """A vehicle: its brief, which all variants answer, and the variants."""

    name: GivenName = Field(title="Vehicle")
    brief: Brief = Brief()
    vehicle: Vehicle = Vehicle()
    owned: Annotated[tuple[AnyKind, ...], Field(max_length=40)] = Field(
        default=(),
        title="What is there already",
        description="Parts the vehicle has or somebody owns; they go into what is begun with.",
    )
    example: bool = Field(
        default=False, title="An example", description="Made up, to look at; nobody's vehicle."
    )
    wishes: Annotated[tuple[Wish, ...], Field(max_length=20)] = Field(
        default=(),
        title="Wishes of your own",
        description="Rows that ways of heating and variants are judged by, beside the brief's.",
    )
    currency: Annotated[Name, Field(max_length=8)] = Field(
        default="", title="Money", description="As EUR or £; all prices here are in it."
    )
    prices: Annotated[tuple[Price, ...], Field(max_length=600)] = Field(
        default=(),
        title="Prices and what is there",
        description="By item and size, for every variant.",
    )
    variants: Annotated[tuple[Variant, ...], Field(min_length=1, max_length=40)]

    @model_validator(mode="after")
    def _variants_differ(self) -> Self:
        ids = [variant.id for variant in self.variants]
        if len(set(ids)) != len(ids):
            twice = next(key for key in ids if ids.count(key) > 1)
            raise refusal("same_id", what="variants", id=twice)
        owned = [part.id for part in self.owned]
        if len(set(owned)) != len(owned):
            twice = next(key for key in owned if owned.count(key) > 1)
            raise refusal("same_id", what="owned", id=twice)
        wishes = [wish.id for wish in self.wishes]
        if len(set(wishes)) != len(wishes):
            twice = next(key for key in wishes if wishes.count(key) > 1)
            raise refusal("same_id", what="wishes", id=twice)
        priced = [(price.item, price.size) for price in self.prices]
        if len(set(priced)) != len(priced):
            item, size = next(key for key in priced if priced.count(key) > 1)
            raise refusal("same_id", what="prices", id=f"{item} {size}".strip())
        return self

    def variant(self, variant_id: str) -> Variant:
        """Find a variant by id; KeyError if it is not there."""
        for variant in self.variants:
            if variant.id == variant_id:
                return variant
        raise KeyError(variant_id)


def canonical_json(document: Document) -> str:
    """Write a document as JSON that is the same for equal documents.

    Parameters
    ----------
    document : Document
        Any document of the core. [-]

    Returns
    -------
    str
        JSON with sorted keys; numbers keep every bit of the SI value. [-]
    """
    data: dict[str, Any] = document.model_dump(mode="json")
    return json.dumps(data, sort_keys=True, ensure_ascii=False, separators=(",", ":"))
