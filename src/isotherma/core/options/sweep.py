"""Sweeps as data: one or two figures with the values they are given, and every run's result."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Final

from isotherma.core.options.measures import Measure

MOST_ACROSS: Final = 25
MOST_UP: Final = 20
AT_A_TIME: Final = 5  # runs of one piece of work where a single figure is varied


@dataclass(frozen=True, slots=True)
class Vary:
    """A figure and the values it is given, in their order [SI]."""

    path: str
    values: tuple[float, ...]


@dataclass(frozen=True, slots=True)
class Cell:
    """One run of a sweep: what was set, what came of it; `error` is a code where it cannot run."""

    x: float
    y: float | None
    met: bool
    values: tuple[float | None, ...]
    error: str = ""


@dataclass(frozen=True, slots=True)
class Swept:
    """Runs of a sweep row by row, with the measures their values are of."""

    measures: tuple[Measure, ...]
    cells: tuple[Cell, ...]


@dataclass(frozen=True, slots=True)
class Sweep:
    """What is varied: one figure across, and none or one up."""

    across: Vary
    up: Vary | None = None

    @property
    def pieces(self) -> tuple[Sweep, ...]:
        """Cut it into pieces of work that are done one by one, first things first."""
        if self.up is not None:
            return tuple(
                Sweep(self.across, Vary(self.up.path, (value,))) for value in self.up.values
            )
        values = self.across.values
        return tuple(
            Sweep(Vary(self.across.path, values[at : at + AT_A_TIME]))
            for at in range(0, len(values), AT_A_TIME)
        )

    @property
    def runs(self) -> int:
        """How many runs it is [-]."""
        return len(self.across.values) * (1 if self.up is None else len(self.up.values))
