"""What a gauge means in litres, learned from what was read while metered litres went in."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from typing import Final

import numpy as np

from isotherma.core.learning.rows import Session

LEAST_POINTS: Final = 5
SHARES: Final = tuple(range(0, 101, 10))
LITRE: Final = 1e-3


@dataclass(frozen=True, slots=True)
class GaugeLearned:
    """A gauge's table: litres at shares of its scale; None beyond what was read.

    `doubt_m3` is what the points lie about their line, at least 2 % of the largest.
    """

    sender: str
    points: tuple[tuple[float, float], ...]
    at: tuple[tuple[int, float | None], ...]
    doubt_m3: float
    sessions: tuple[str, ...]
    offered: bool


def gauges_of(sessions: Sequence[Session]) -> Iterator[GaugeLearned]:
    """Learn every gauge whose level was read beside litres.

    Parameters
    ----------
    sessions : sequence of Session
        Rows of level and litres at the same times. [%, L]

    Returns
    -------
    iterator of GaugeLearned
        Never falling; straight between points; none beyond its ends. [m³]

    References
    ----------
    Pool-adjacent-violators: Barlow et al. 1972, Statistical Inference under Order Restrictions.
    """
    found: dict[str, list[tuple[float, float]]] = {}
    where: dict[str, set[str]] = {}
    for session in sessions:
        litres = {row.time_s: row.value for row in session.of("litres")}
        for row in session.of("level"):
            if row.time_s in litres and row.reading.part is not None:
                found.setdefault(row.reading.part, []).append((row.value, litres[row.time_s]))
                where.setdefault(row.reading.part, set()).add(session.name)
    for sender, pairs in sorted(found.items()):
        pairs.sort()
        levels = sorted({level for level, _ in pairs})
        means = [float(np.mean([one for level, one in pairs if level == at])) for at in levels]
        counts = [sum(level == at for level, _ in pairs) for at in levels]
        risen = rising(means, counts)
        off = [value - np.interp(level, levels, risen) for level, value in pairs]
        doubt = max(0.02 * max(risen), float(np.sqrt(np.mean(np.square(off)))))
        at = tuple(
            (share, float(np.interp(share, levels, risen)) * LITRE
             if levels[0] <= share <= levels[-1] else None)
            for share in SHARES
        )  # fmt: skip
        points = tuple((level / 100.0, value * LITRE)
                       for level, value in zip(levels, risen, strict=True))  # fmt: skip
        yield GaugeLearned(sender, points, at, doubt * LITRE, tuple(sorted(where[sender])),
                           len(levels) >= LEAST_POINTS)  # fmt: skip


def rising(values: Sequence[float], counts: Sequence[int]) -> list[float]:
    """Give the nearest values that never fall.

    Parameters
    ----------
    values : sequence of float
        In order. [-]
    counts : sequence of int
        How much each counts. [-]

    Returns
    -------
    list of float
        Means of what fell, as many as were given. [-]

    References
    ----------
    Pool-adjacent-violators: Barlow et al. 1972, Statistical Inference under Order Restrictions.
    """
    pools: list[tuple[float, int, int]] = []
    for value, count in zip(values, counts, strict=True):
        pools.append((value, count, 1))
        while len(pools) > 1 and pools[-2][0] > pools[-1][0]:
            (first, weight, one), (second, more, other) = pools[-2:]
            mean = (first * weight + second * more) / (weight + more)
            pools[-2:] = [(mean, weight + more, one + other)]
    return [value for value, _, many in pools for _ in range(many)]
