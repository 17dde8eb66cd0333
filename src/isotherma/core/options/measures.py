"""Results of a trip as plain figures, each with a name: what a sweep shows and an inverse asks."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from enum import StrEnum
from typing import Final

from isotherma.core.results.draws import DrawResult
from isotherma.core.results.outcome import Outcome


class Of(StrEnum):
    """What a measure measures."""

    CARRIES = "carries"
    DRAWS_MET = "draws_met"
    LONGEST_WAIT = "longest_wait"
    WARM = "warm"
    WAIT = "wait"
    MEAN = "mean"
    PEAK = "peak"
    LITRES = "litres"
    COLD_LITRES = "cold_litres"
    AGAIN = "again"
    USED = "used"
    LEFT = "left"


STYLES_OF: Final = {
    Of.CARRIES: "number", Of.DRAWS_MET: "number", Of.LONGEST_WAIT: "seconds", Of.WARM: "minutes",
    Of.WAIT: "seconds", Of.MEAN: "temperature", Of.PEAK: "temperature", Of.LITRES: "volume",
    Of.COLD_LITRES: "volume", Of.AGAIN: "minutes",
}  # fmt: skip


@dataclass(frozen=True, slots=True)
class Measure:
    """One result: what of which draw or budget, in the style that shows it.

    `about` is a draw's id or a budget, empty where it is of the whole trip; `name` is the draw's.
    """

    what: Of
    about: str
    name: str
    style: str

    @property
    def id(self) -> str:
        """Name it in addresses and tables."""
        return f"{self.what.value}.{self.about}" if self.about else self.what.value


@dataclass(frozen=True, slots=True)
class Measured:
    """A trip in figures: whether all is as asked, and a figure for each measure, None for none."""

    met: bool
    measures: tuple[Measure, ...]
    values: tuple[float | None, ...]

    def value(self, measure_id: str) -> float | None:
        """Give a figure by its measure's id; None also where the trip has no such measure [SI]."""
        pairs = zip(self.measures, self.values, strict=True)
        return next((value for measure, value in pairs if measure.id == measure_id), None)


Row = tuple[Measure, float | None]


def measure(outcome: Outcome) -> Measured:
    """Measure a trip: every draw on its worst day, every budget over all days.

    Parameters
    ----------
    outcome : Outcome
        What was computed. [-]

    Returns
    -------
    Measured
        In the same order for every design of one brief. [SI]
    """
    trip = outcome.trip
    days = outcome.course.days
    by_draw: dict[str, list[DrawResult]] = {}
    for leg in outcome.course.legs:
        for draw in leg.draws:
            by_draw.setdefault(draw.draw.id, []).append(draw)
    every = [draw for draws in by_draw.values() for draw in draws]
    carries = days if trip.failure is None else trip.failure.day - 1
    rows: list[Row] = [
        (_of(Of.CARRIES), float(carries)),
        (_of(Of.DRAWS_MET), float(sum(day.draws_met for day in trip.days))),
        (_of(Of.LONGEST_WAIT), _most([draw.wait_s for draw in every])),
    ]
    for draws in by_draw.values():
        rows += _draw(draws)
    for entry in outcome.ledger:
        if entry.budget in ("warmth", "waiting"):
            continue
        used = Measure(Of.USED, entry.budget, "", entry.style)
        rows += [
            (used, entry.used),
            (Measure(Of.LEFT, entry.budget, "", entry.style), entry.margin),
        ]
    return Measured(
        trip.failure is None, tuple(row[0] for row in rows), tuple(row[1] for row in rows)
    )


def _of(what: Of) -> Measure:
    return Measure(what, "", "", STYLES_OF[what])


def _most(values: Sequence[float | None]) -> float | None:
    """Give the largest; None where one of them is unknown, or never comes."""
    found = [value for value in values if value is not None]
    return max(found, default=None) if len(found) == len(values) else None


def _draw(draws: Sequence[DrawResult]) -> list[Row]:
    """Measure a draw that happens on several days: each figure on its worst day."""
    first = draws[0].draw
    means = [draw.mean_c for draw in draws]
    peaks = [draw.peak_c for draw in draws if draw.peak_c is not None]
    rows: list[tuple[Of, float | None]] = [
        (Of.WARM, min(draw.comfort_s for draw in draws)),
        (Of.WAIT, _most([draw.wait_s for draw in draws])),
        (Of.MEAN, None if None in means else min(mean for mean in means if mean is not None)),
        (Of.PEAK, max(peaks, default=None)),
        (Of.LITRES, max(draw.used_m3 for draw in draws)),
        (Of.COLD_LITRES, max(draw.cold_m3 for draw in draws)),
        (Of.AGAIN, _most([draw.ready_again_s for draw in draws])),
    ]
    return [(Measure(what, first.id, first.name, STYLES_OF[what]), value) for what, value in rows]
