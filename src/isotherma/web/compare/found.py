"""What the checks find in designs side by side, by severity."""

from __future__ import annotations

from dataclasses import dataclass
from typing import ClassVar, Final

from isotherma.core.checks.found import ORDER, Severity
from isotherma.web.compare.curves import LETTERS
from isotherma.web.compare.page import asked_keys, side_of
from isotherma.web.frame.context import PageContext
from isotherma.web.frame.found import SIGNS, checked_side, counts_of

TITLES: Final = {
    Severity.STOP: "To stop for", Severity.FIX: "To fix before use",
    Severity.UNKNOWN: "Not known", Severity.WATCH: "To know",
}  # fmt: skip


@dataclass(frozen=True, slots=True)
class FoundRow:
    """One severity: how many each design has, and which ids."""

    sign: str
    title: str
    cells: tuple[tuple[str, int, str], ...]


@dataclass(frozen=True, slots=True)
class FoundSides:
    """Rows of severities; a part of the table of the Compare page."""

    template: ClassVar[str] = "compare_found.html"
    vehicle: str
    names: tuple[str, ...]
    rows: tuple[FoundRow, ...]
    columns: int


def found_sides(context: PageContext) -> FoundSides:
    """Check every design that is compared, each by the rules of this vehicle."""
    sides = [side for key in asked_keys(context) if (side := side_of(context, key)) is not None]
    results = [checked_side(context, side.project, side.variant) for side in sides]
    rows = []
    for severity in ORDER:
        cells = []
        for place, result in enumerate(results):
            ids = sorted({one.id for one in result.found if one.severity is severity})
            cells.append((LETTERS[place], counts_of(result)[severity], ", ".join(ids)))
        rows.append(FoundRow(SIGNS[severity], TITLES[severity], tuple(cells)))
    return FoundSides(
        context.project.name, tuple(side.name for side in sides), tuple(rows), len(sides) + 1
    )
