"""Figures of several designs side by side."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Final

from isotherma.core.options.built import Built, Tally
from isotherma.core.options.measures import Measure, Measured


@dataclass(frozen=True, slots=True)
class Results:
    """What came of one design, and what it is made of."""

    measured: Measured
    built: Built


@dataclass(frozen=True, slots=True)
class Figure:
    """One figure of every side [SI]: a result of the trip, or what the design is made of.

    `measure` says which result; None where it is `made_of`, a field of Built. `unknown` counts
    parts of which nobody knows it.
    """

    measure: Measure | None
    made_of: str
    style: str
    values: tuple[float | None, ...]
    unknown: tuple[int, ...]

    @property
    def id(self) -> str:
        """Name it in tables and objects."""
        return self.measure.id if self.measure is not None else self.made_of


MADE_OF: Final = {
    "parts": "number", "joints": "number", "holes": "number", "dry_kg": "mass", "full_kg": "mass",
    "room_m3": "volume", "price": "money", "findings": "number",
}  # fmt: skip


def figures(sides: Sequence[Results | None]) -> tuple[Figure, ...]:
    """Give every figure of several designs side by side, results first.

    Parameters
    ----------
    sides : sequence of Results or None
        The first is the base; None where one could not be run. [-]

    Returns
    -------
    tuple of Figure
        None where a side has no such figure, or could not be run. [SI]
    """
    measures = dict.fromkeys(
        one for side in sides if side is not None for one in side.measured.measures
    )
    found = [
        Figure(
            one, "", one.style,
            tuple(None if side is None else side.measured.value(one.id)
                  for side in sides),
            (0,) * len(sides),
        )
        for one in measures
    ]  # fmt: skip
    for name, style in MADE_OF.items():
        tallies = [_tally(side.built if side else None, name) for side in sides]
        found.append(
            Figure(
                None, name, style, tuple(None if one is None else one.value for one in tallies),
                tuple(0 if one is None else one.unknown for one in tallies),
            )
        )  # fmt: skip
    return tuple(found)


def _tally(made: Built | None, name: str) -> Tally | None:
    if made is None:
        return None
    value = getattr(made, name)
    return value if isinstance(value, Tally) else Tally(float(value), 0)
