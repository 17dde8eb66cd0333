"""What is found about a design, as a code, ids and typed values: no sentence is made of it here."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field


@dataclass(frozen=True, slots=True)
class Quantity:
    """A value with the style it is read in (`core.quantity.STYLES`): SI inside."""

    value: float
    style: str


Value = Quantity | str | int | tuple[str, ...]


@dataclass(frozen=True, slots=True)
class Finding:
    """One thing found: what kind it is, at which parts and runs, with which values.

    `parts` are ids, the one it is about first. Identity is the code and the ids: nothing is
    found again by reading a sentence.
    """

    code: str
    parts: tuple[str, ...] = ()
    values: Mapping[str, Value] = field(default_factory=dict)

    @property
    def part_id(self) -> str:
        """The part or run it is about; "" where it is about none."""
        return self.parts[0] if self.parts else ""
