"""Every end of every part in one table: what is stated, what is assumed, what makes it meet."""

from __future__ import annotations

from dataclasses import dataclass

from isotherma.core.joints.pricing import Shopping
from isotherma.services.joints import end_names
from isotherma.web.frame.context import PageContext
from isotherma.web.frame.ends import EndRow, end_row

FIRST = 12  # ends before the rest is folded


@dataclass(frozen=True, slots=True)
class EndsView:
    """All ends; those that do not meet first."""

    said: str
    wrong: tuple[EndRow, ...]
    rows: tuple[EndRow, ...]
    more: tuple[EndRow, ...]
    names: tuple[str, ...]
    tradition: str


def ends_view(context: PageContext, made: Shopping) -> EndsView:
    """Make the table of ends."""
    system = context.variant.system
    parts = {part.id: part.label for part in system.parts}
    runs = {run.id: run.label for run in system.runs}
    rows = [
        end_row(end, parts[end.part_id], runs[joined.run_id])
        for joined in made.listed.runs for end in joined.ends
    ]  # fmt: skip
    wrong = tuple(row for row in rows if not row.meets)
    assumed = sum(not row.stated for row in rows)
    said = f"{len(rows)} ends: {len(rows) - assumed} stated, {assumed} assumed."
    said += (f" {len(wrong)} do not meet." if len(wrong) != 1 else " 1 does not meet.") if (
        wrong) else " All meet, by fittings that are sold."  # fmt: skip
    right = tuple(row for row in rows if row.meets)
    return EndsView(said, wrong, right[:FIRST], right[FIRST:], end_names(), made.tradition)
