"""Which thread is it? What was measured, held against every thread there is."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from math import exp
from typing import Final, Literal

CALIPER_MM, RULER_MM = 0.12, 0.5  # how far a reading lies off
PITCH_SHARE: Final = 0.015
COUNT: Final = 0.25  # of a thread, as counts are made in halves
NONE_OF_THESE: Final = exp(-4.5)
AGREES, NOT = 0.9, 0.1
BORE_MM: Final = 0.45  # a female thread may be so much wider
ASKED_SHARE, SURE_SHARE = 0.02, 0.9
PITCH_TOLD, OUTSIDE_TOLD_MM = 0.03, 0.4
BEST: Final = 4
FLANK_55_K: Final = 1.28

Measure = Literal["hand", "taper", "pitch", "outside", "flank"]


@dataclass(frozen=True, slots=True)
class Thread:
    """A thread: its outside from and to, pitch, and how a female bore follows from it [mm]."""

    name: str
    size: str
    low_mm: float
    high_mm: float
    pitch_mm: float
    k: float
    tapers: bool
    left: bool
    source: str

    @property
    def flank_deg(self) -> int:
        """Angle between flanks [°]."""
        return 55 if abs(self.k - FLANK_55_K) < 1e-9 else 60

    def span_mm(self, *, inside: bool) -> tuple[float, float]:
        """Give what its outside, or its bore, may measure [mm]."""
        if not inside:
            return self.low_mm, self.high_mm
        less = self.k * self.pitch_mm
        low = self.low_mm if self.tapers else self.high_mm
        return low - less, self.high_mm + BORE_MM - less


@dataclass(frozen=True, slots=True)
class Measured:
    """What was measured of a thread; None: nobody looked.

    `across_mm` is its outside, or with `inside` its bore; `threads` how many were counted for the
    pitch, None where a gauge was used.
    """

    across_mm: float
    inside: bool = False
    pitch_mm: float | None = None
    threads: float | None = None
    taper: bool | None = None
    left: bool | None = None
    flank_deg: int | None = None
    ruler: bool = False


@dataclass(frozen=True, slots=True)
class Candidate:
    """A thread it may be, and how likely."""

    thread: Thread
    score: float


@dataclass(frozen=True, slots=True)
class Identified:
    """Threads it may be, the likeliest first, at most four.

    `none` is how likely it is none there is, `decide` what to measure next; None where the first
    is plain or nothing is left to ask.
    """

    candidates: tuple[Candidate, ...]
    none: float
    decide: Measure | None


def _said(agrees: bool | None) -> float:
    return 1.0 if agrees is None else AGREES if agrees else NOT


def _weight(thread: Thread, measured: Measured) -> float:
    """Give how well a thread fits what was measured."""
    low, high = thread.span_mm(inside=measured.inside)
    off = max(low - measured.across_mm, measured.across_mm - high, 0.0)
    power = -0.5 * (off / (RULER_MM if measured.ruler else CALIPER_MM)) ** 2
    if measured.pitch_mm is not None:
        ratio = measured.pitch_mm / thread.pitch_mm - 1.0
        width = PITCH_SHARE
        if measured.threads:
            width = max(width, COUNT / measured.threads)
        power -= 0.5 * (ratio / width) ** 2
    taper = None if measured.taper is None else measured.taper == thread.tapers
    flank = None if measured.flank_deg is None else measured.flank_deg == thread.flank_deg
    if measured.left is None:
        hand = NOT if thread.left else AGREES
    else:
        hand = 1.0 if measured.left == thread.left else 0.0
    return exp(power) * _said(taper) * _said(flank) * hand


def identify(measured: Measured, threads: Sequence[Thread]) -> Identified:
    """Say which threads fit what was measured, and what would decide between the likeliest.

    Parameters
    ----------
    measured : Measured
        What was measured. [mm]
    threads : sequence of Thread
        All there are. [mm]

    Returns
    -------
    Identified
        Scores add up to 1 with all that are not shown and `none`. [-]

    References
    ----------
    Normal errors of what is measured; widths and shares are judgement.
    """
    weights = {thread.name: _weight(thread, measured) for thread in threads}
    total = sum(weights.values()) + NONE_OF_THESE
    order = sorted(threads, key=lambda one: (-weights[one.name], one.name))
    best = tuple(Candidate(one, weights[one.name] / total) for one in order[:BEST])
    return Identified(best, NONE_OF_THESE / total, _decides(best, measured))


def _decides(best: Sequence[Candidate], measured: Measured) -> Measure | None:
    """Find what to measure next: between the first and the next one that differs in it."""
    first = best[0]
    if first.score > SURE_SHARE:
        return None
    for other in best[1:]:
        if other.score < ASKED_SHARE:
            break
        for measure in _differs(first.thread, other.thread):
            if not _asked(measure, measured):
                return measure
    return None


def _differs(one: Thread, other: Thread) -> list[Measure]:
    """List in what two threads differ, the plainest first."""
    found: list[Measure] = []
    if one.left != other.left:
        found.append("hand")
    if one.tapers != other.tapers:
        found.append("taper")
    if abs(one.pitch_mm / other.pitch_mm - 1.0) > PITCH_TOLD:
        found.append("pitch")
    if abs(one.high_mm - other.high_mm) > OUTSIDE_TOLD_MM:
        found.append("outside")
    if one.flank_deg != other.flank_deg:
        found.append("flank")
    return found


def _asked(measure: Measure, measured: Measured) -> bool:
    """Say whether something was measured already; an outside by ruler may be measured again."""
    return {
        "hand": measured.left is not None, "taper": measured.taper is not None,
        "pitch": measured.pitch_mm is not None, "outside": not measured.ruler,
        "flank": measured.flank_deg is not None,
    }[measure]  # fmt: skip
