"""A drain-down as pages show it: what is off, what is opened in order, what stays."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Final

from isotherma.core.flows.draining import DrainDown
from isotherma.core.quantity import UnitSystem, with_unit
from isotherma.wording import drain_sentence, trapped_sentence

FEW_M3: Final = 1e-5


@dataclass(frozen=True, slots=True)
class DrainLine:
    """One thing to open, with its water."""

    label: str
    is_drain: bool
    words: str


@dataclass(frozen=True, slots=True)
class DrainPanel:
    """A drain-down, ready to read."""

    sentence: str
    off: tuple[str, ...]
    steps: tuple[DrainLine, ...]
    trapped: tuple[str, ...]
    little: str
    heights_said: bool


def drain_panel(down: DrainDown, labels: Mapping[str, str], units: UnitSystem) -> DrainPanel:
    """Write a drain-down for a page."""
    much = [item for item in down.trapped if item.stays_m3 >= FEW_M3]
    little = sum(item.stays_m3 for item in down.trapped if item.stays_m3 < FEW_M3)
    return DrainPanel(
        sentence=drain_sentence(down, labels, units),
        off=tuple(labels[key] for key in down.off),
        steps=tuple(
            DrainLine(
                item.label,
                item.is_drain,
                with_unit(item.volume_m3, "volume", units, 2) if item.volume_m3 > 1e-6
                else "lets air in",
            )
            for item in down.openings
        ),
        trapped=tuple(trapped_sentence(item, labels, units) for item in much),
        little=(
            f"Smaller puddles come to {with_unit(little, 'millilitres', units, 2)} together."
            if little > 1e-6
            else ""
        ),
        heights_said=down.heights_said,
    )  # fmt: skip
