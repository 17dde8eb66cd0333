"""The reference page of all kinds."""

from __future__ import annotations

from dataclasses import dataclass
from typing import ClassVar

from isotherma.core.system.kinds import KINDS, SIDES
from isotherma.services.reference import SideWords, reference


@dataclass(frozen=True, slots=True)
class KindsPage:
    """Every kind with its properties."""

    template: ClassVar[str] = "kinds.html"
    sides: tuple[SideWords, ...]
    count: int
    side_count: int


def kinds_page() -> KindsPage:
    """Put the reference page together."""
    return KindsPage(sides=reference(), count=len(KINDS), side_count=len(SIDES))
