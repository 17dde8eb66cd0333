"""Readings in sessions: what somebody measured, when, and how sure."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass

import numpy as np

from isotherma.core.faults.readings import KINDS, Floats, Reading, usual_doubt


@dataclass(frozen=True, slots=True)
class Row:
    """One reading; `number` counts from 1, `time_s` from the session's start."""

    number: int
    session: str
    kind: str
    time_s: float
    reading: Reading
    method: str = ""
    note: str = ""

    @property
    def quantity(self) -> str:
        """Give its quantity's id."""
        return self.reading.quantity

    @property
    def value(self) -> float:
        """Give its figure, in the quantity's unit."""
        return self.reading.value

    @property
    def doubt(self) -> float:
        """Give one standard deviation, as said or as usual."""
        if self.reading.unsure is not None and self.reading.unsure > 0.0:
            return self.reading.unsure
        return usual_doubt(KINDS[self.reading.kind], self.reading.value)


@dataclass(frozen=True, slots=True)
class Session:
    """Rows that belong together, by time; the same for any order they came in."""

    name: str
    kind: str
    rows: tuple[Row, ...]

    def of(self, quantity: str, part: str | None = None) -> tuple[Row, ...]:
        """Give the rows of a quantity, of one part or of any."""
        return tuple(row for row in self.rows if row.reading.kind == quantity
                     and (part is None or row.reading.part == part))  # fmt: skip

    def parts(self, quantity: str) -> tuple[str, ...]:
        """Name the parts of which a quantity was read."""
        return tuple(dict.fromkeys(
            row.reading.part for row in self.of(quantity) if row.reading.part is not None
        ))  # fmt: skip

    def at(self, time_s: float, quantity: str, part: str) -> Row | None:
        """Give the row of a quantity at the very time of another."""
        return next((row for row in self.of(quantity, part) if row.time_s == time_s), None)

    def held(self, quantity: str, times: Floats, otherwise: float, part: str | None = None) -> (
        Floats
    ):  # fmt: skip
        """Give a quantity at times: each reading holds until the next, the first also before."""
        rows = self.of(quantity, part)
        if not rows:
            return np.full(len(times), otherwise)
        at = np.array([row.time_s for row in rows])
        values = np.array([row.value for row in rows])
        return np.asarray(values[np.clip(np.searchsorted(at, times, "right") - 1, 0, None)])

    def mean(self, quantity: str, part: str | None = None) -> float | None:
        """Give the mean of a quantity; None where it was not read."""
        values = [row.value for row in self.of(quantity, part)]
        return sum(values) / len(values) if values else None


def sessions_of(rows: Iterable[Row]) -> tuple[Session, ...]:
    """Put rows into their sessions.

    Parameters
    ----------
    rows : iterable of Row
        In any order. [see `KINDS`]

    Returns
    -------
    tuple of Session
        By name; rows by time, then quantity. [see `KINDS`]
    """
    found: dict[str, list[Row]] = {}
    for row in rows:
        found.setdefault(row.session, []).append(row)
    made = []
    for name in sorted(found):
        inside = sorted(found[name], key=lambda row: (row.time_s, row.quantity, row.value))
        made.append(Session(name, inside[0].kind, tuple(inside)))
    return tuple(made)
