"""Trips to begin with: kinds of day in an order."""

from __future__ import annotations

import tomllib
from collections.abc import Mapping
from functools import cache
from importlib.resources import files
from typing import Annotated

from pydantic import Field

from isotherma.core.brief.days import DayKind
from isotherma.core.fields import Document, GivenName, Slug


class TripPreset(Document):
    """A trip as a whole: its kinds of day, and the kind of every day."""

    id: Slug
    name: GivenName
    kinds: tuple[DayKind, ...]
    order: Annotated[tuple[Slug, ...], Field(min_length=1)]


@cache
def trips() -> Mapping[str, TripPreset]:
    """Load every trip to begin with, in the order of the catalogue.

    Returns
    -------
    mapping of str to TripPreset
        By id. [-]
    """
    text = files("isotherma.catalogue").joinpath("trips.toml").read_text(encoding="utf-8")
    rows = (TripPreset.model_validate(row) for row in tomllib.loads(text)["trip"])
    return {row.id: row for row in rows}
