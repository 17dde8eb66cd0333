"""Parts put somewhere in the vehicle, by steps or beside another part."""

from __future__ import annotations

from typing import Literal

from pydantic import Field
from typing_extensions import override

from isotherma.core import editing
from isotherma.core.errors import ChangeRefused, QuantityError
from isotherma.core.project import Project
from isotherma.core.quantity import UnitSystem, parse
from isotherma.services.edit import Edit, Key

STEP_M = 0.05


class MovePart(Edit):
    """Move a part by steps of five centimetres."""

    name = "part.move"
    part: Key
    along: int = Field(default=0, ge=-100, le=100)
    across: int = Field(default=0, ge=-100, le=100)
    up: int = Field(default=0, ge=-100, le=100)

    @property
    @override
    def subject(self) -> str:
        return self.part

    @override
    def apply(self, project: Project, variant_id: str) -> Project:
        return editing.move_part(
            project, variant_id, self.part, self.along * STEP_M, self.across * STEP_M,
            self.up * STEP_M,
        )  # fmt: skip


class PutPart(Edit):
    """Put a part on, under or beside another one, with a gap."""

    name = "part.put"
    part: Key
    how: Literal["on", "under", "left of", "right of", "behind", "ahead of"]
    other: Key
    gap: str = Field(default="", max_length=40)
    units: str = Field(default="", max_length=10)

    @property
    @override
    def subject(self) -> str:
        return f"{self.part} {self.how} {self.other}"

    @override
    def apply(self, project: Project, variant_id: str) -> Project:
        gap = 0.0
        if self.gap.strip():
            try:
                gap = parse(self.gap, "bore", UnitSystem.named(self.units))
            except QuantityError as problem:
                path = f"variants.{variant_id}.system.parts.{self.part}"
                raise ChangeRefused(path=path, reason="no_gap") from problem
        return editing.put_part(project, variant_id, self.part, self.how, self.other, gap)
