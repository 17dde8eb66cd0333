"""What may be wrong, what people then report, and what can be tried: the table's rows."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field
from typing import Final, Literal

Mends = Literal["builder", "licensed"]
Stopped = Literal["burner", "gas", "mains", "circuit"]
NO_FAULT: Final = "no_fault"
OTHERS: Final = "*"  # every fault an outcome does not name
THE_REST: Final = "none of these"  # the outcome a test does not list


@dataclass(frozen=True, slots=True)
class Symptom:
    """Something people report; `chance` that they do though nothing of the kind is there."""

    id: str
    words: str
    chance: float
    stops: Stopped | None = None


@dataclass(frozen=True, slots=True)
class Fault:
    """A row of faults.

    `kinds` of part it sits on, empty for the whole; `weight` how often for each such part;
    `play` the change of the document, empty where none plays it; `seen` chances of symptoms;
    `shifts` quantities where nothing plays it: a name that ends in ``_x`` is a share of healthy.
    """

    id: str
    kinds: tuple[str, ...]
    weight: float
    play: str
    seen: Mapping[str, float]
    shifts: Mapping[str, tuple[float, float]]
    who: Mends
    fix: str
    needs: str | None = None


@dataclass(frozen=True, slots=True)
class FaultTest:
    """A row of tests: what it costs, what it reads or which outcomes it has.

    `outcomes` has chances of each by fault, `OTHERS` for all that are not named.
    """

    id: str
    words: str
    minutes: float
    litres: float
    money: float
    danger: int
    who: Mends
    kinds: tuple[str, ...]
    needs: str | None = None
    reads: str | None = None
    outcomes: Mapping[str, Mapping[str, float]] = field(default_factory=dict)
    undo: str | None = None

    def key(self, part: str | None) -> str:
        """Give its name at a part, as people write it."""
        return self.id if part is None else f"{self.id}@{part}"


@dataclass(frozen=True, slots=True)
class FaultTable:
    """All rows by id."""

    symptoms: Mapping[str, Symptom]
    faults: Mapping[str, Fault]
    tests: Mapping[str, FaultTest]
