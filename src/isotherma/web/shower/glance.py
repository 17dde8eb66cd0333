"""The small picture of a day or a draw, for lists and cards."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from isotherma.core.quantity import UnitSystem, with_unit
from isotherma.core.results.draws import draw_rows
from isotherma.core.results.outcome import Outcome
from isotherma.web.ramp import colour
from isotherma.web.shower.chart import Column, edges


@dataclass(frozen=True, slots=True)
class Glance:
    """A small picture of a day's draws, one after the other by litres."""

    columns: tuple[Column, ...]
    gaps: tuple[str, ...]
    words: str


def make_glance(outcome: Outcome, units: UnitSystem, only: int | None = None) -> Glance | None:
    """Draw a day, or one draw, as bars in a box 240 × 44; None when nothing flowed."""
    picked = range(len(outcome.draws)) if only is None else (only,)
    rows = [draw_rows(outcome.timeline, index) for index in picked]
    rows = [part for part in rows if len(part)]
    if not rows:
        return None
    total = sum(float(part.mass_kg.sum()) for part in rows)
    gap = 3.0
    width = 240.0 - gap * (len(rows) - 1)
    bars: list[Column] = []
    gaps: list[str] = []
    x = 0.0
    for part in rows:
        mass = part.mass_kg
        ends = np.cumsum(mass)
        firsts = edges(ends, max(6, int(60 * ends[-1] / total)))
        for first, last in zip(firsts, [*firsts[1:], len(part)], strict=True):
            weight = mass[first:last]
            celsius = float((part.head_c[first:last] * weight).sum() / weight.sum())
            w = width * float(weight.sum()) / total
            h = 44.0 * min(1.0, max(0.04, celsius / 60.0))
            bars.append(
                Column(f"{x:.2f}", f"{44 - h:.1f}", f"{w + 0.6:.2f}", f"{h:.1f}", colour(celsius))
            )
            x += w
        gaps.append(f"{x:.1f}")
        x += gap
    finals = ", ".join(
        with_unit(outcome.draws[index].final_c or 0.0, "temperature", units) for index in picked
    )
    return Glance(tuple(bars), tuple(gaps), f"Temperature at the head; ends at {finals}")
