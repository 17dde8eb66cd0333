"""What every edit is: a small frozen command with its name, what it asks for and what it does."""

from __future__ import annotations

from typing import Annotated, ClassVar

from pydantic import BaseModel, ConfigDict, Field

from isotherma.core.editing.values import variant_of
from isotherma.core.project import Project

Key = Annotated[str, Field(min_length=1, max_length=100)]


class Edit(BaseModel):
    """One edit of a variant. `name` is that of its route and of its words."""

    model_config = ConfigDict(frozen=True, extra="forbid")
    name: ClassVar[str] = ""
    shuts: ClassVar[bool] = False  # what was open is not there any more
    opens_new: ClassVar[bool] = False  # the part that was added is opened

    @property
    def subject(self) -> str:
        """What it is done to, by name, for the line of the history; "" where that says nothing."""
        return ""

    def apply(self, project: Project, variant_id: str) -> Project:
        """Make the edit; ChangeRefused or ValidationError where it cannot be made."""
        raise NotImplementedError

    def opens(self, before: Project, after: Project, variant_id: str, piece: str) -> str:
        """Give the piece that is open after it: what was added, nothing, or as before."""
        if self.opens_new:
            there = {part.id for part in variant_of(before, variant_id).system.parts}
            new = [
                part.id
                for part in variant_of(after, variant_id).system.parts
                if part.id not in there
            ]
            return f"part-{new[-1]}" if new else piece
        return "" if self.shuts else piece

    def shows(self, after: Project, variant_id: str) -> str:
        """Give the variant that is shown after it."""
        return variant_id
