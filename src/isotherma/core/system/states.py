"""States and phases: what stands how, and what is fitted by when."""

from __future__ import annotations

from typing import Annotated

from pydantic import Field

from isotherma.core.fields import Document, GivenName, Note, PartRef, Slug, SpaceRef


class Position(Document):
    """One part in one of its positions."""

    part: PartRef
    at: Annotated[str, Field(max_length=20)]


class Placement(Document):
    """A part that is elsewhere in this state: a bottle out of its locker."""

    part: PartRef
    space: SpaceRef


class State(Document):
    """A named way the system stands; parts it does not name stand as usual."""

    id: Slug
    name: GivenName = Field(title="Name")
    positions: Annotated[tuple[Position, ...], Field(max_length=200)] = ()
    dry: Annotated[tuple[PartRef, ...], Field(max_length=100)] = Field(
        default=(), title="Stand empty"
    )
    placed: Annotated[tuple[Placement, ...], Field(max_length=100)] = ()
    note: Note = Field(default="", title="Note")


class Phase(Document):
    """A stage of the building; phases are in the order of the list."""

    id: Slug
    name: GivenName = Field(title="Name")
    note: Note = Field(default="", title="Note")
