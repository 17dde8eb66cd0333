"""Names of the starting layouts, which nobody needs a document for."""

from __future__ import annotations

from typing import Final

ORDER: Final = (
    "kettle-and-bag",
    "sun-bag",
    "tap-canister",
    "seat-store",
    "mini-store",
    "mains-flow",
    "panel-store",
    "sun-first",
    "open-sun-box",
    "closed-primary",
    "two-tank-storage",
    "drive-store",
    "drive-plate",
    "coolant-coil",
    "diesel-plate",
    "diesel-combi",
    "gas-combi",
    "pitch-store",
    "cupboard-through-flow",
    "locker-through-flow",
    "two-knob-selector",
    "two-knob-bucket",
    "hung-outside",
)


def layout_names() -> tuple[str, ...]:
    """Name the starting layouts, in the order they are offered."""
    return ORDER
