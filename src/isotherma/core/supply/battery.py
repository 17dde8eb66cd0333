"""A battery over the days: charged when there is something, drawn from, full or empty."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

CHARGE_SHARE = 0.96  # of what is put in comes out again; lithium nearly all, lead about 0.85


@dataclass(frozen=True, slots=True)
class Level:
    """A battery through a trip.

    `used_j` out of it on an average day, `charged_j` into it on an average day, `least_j` the
    lowest it got, `empty_s` when first empty, `end_j` at the end, `levels_j` at the end of
    every stretch.
    """

    used_j: float
    charged_j: float
    least_j: float
    empty_s: float | None
    end_j: float
    levels_j: tuple[float, ...]


def after_stretch(
    level_j: float, usable_j: float, *, span_s: float, load_w: float, charge_w: float,
    charge_share: float,
) -> tuple[float, float, float | None]:  # fmt: skip
    """Carry a battery over a stretch of steady load and charge.

    Parameters
    ----------
    level_j, usable_j : float
        What is in it, and between empty and full, >= 0. [J]
    span_s : float
        How long. [s]
    load_w, charge_w : float
        Drawn, and what may charge it. [W]
    charge_share : float
        Of what goes in that comes out. [-]

    Returns
    -------
    tuple of float, float, float or None
        The level after, what was charged, and after how long it was empty. [J, J, s]

    Notes
    -----
    Charge serves the load first; only what is over goes into the battery.

    References
    ----------
    Energy balance of the stretch, exact.

    Examples
    --------
    >>> level, charged, empty_s = after_stretch(
    ...     3.6e6, 3.6e6, span_s=7200.0, load_w=1000.0, charge_w=0.0, charge_share=0.95
    ... )
    >>> level, charged, empty_s
    (0.0, 0.0, 3600.0)
    """
    net_w = charge_w - load_w
    if net_w >= 0.0:
        into = min(usable_j - level_j, net_w * charge_share * span_s)
        return level_j + into, into / charge_share + load_w * span_s, None
    wanted = -net_w * span_s
    out = min(level_j, wanted)
    empty_s = out / -net_w if out < wanted - 1e-6 else None
    return level_j - out, charge_w * span_s, empty_s


def over_days(
    usable_j: float,
    stretches: Sequence[tuple[float, float, float]],
    *,
    days: int,
    start_share: float = 1.0,
    charge_share: float = CHARGE_SHARE,
) -> Level:
    """Let a battery live the same day over and over.

    Parameters
    ----------
    usable_j : float
        Between empty and full, >= 0. [J]
    stretches : sequence of tuple of float
        Seconds, what is drawn and what may charge it, in order. [s, W, W]
    days : int
        How many. [-]
    start_share : float
        Full at the start, 0 to 1. [-]
    charge_share : float
        Of what goes in that comes out. [-]

    Returns
    -------
    Level
        What it gave and how low it got. [J]

    Notes
    -----
    See `after_stretch`. What finds it full is not counted as charged. An empty one gives
    nothing more and its level stays 0.

    References
    ----------
    Energy balance of each stretch, exact while load and charge are steady.

    Examples
    --------
    >>> round(over_days(3.6e6, [(3600.0, 500.0, 0.0)], days=1).least_j / 3.6e6, 2)
    0.5
    """
    level = usable_j * start_share
    used = charged = 0.0
    least, clock = level, 0.0
    empty: float | None = None
    levels = []
    for _ in range(days):
        for span, load_w, charge_w in stretches:
            level, into, after_s = after_stretch(
                level, usable_j, span_s=span, load_w=load_w, charge_w=charge_w,
                charge_share=charge_share,
            )  # fmt: skip
            charged += into
            if after_s is not None and empty is None:
                empty = clock + after_s
            used += load_w * span
            clock += span
            least = min(least, level)
            levels.append(level)
    return Level(used / days, charged / days, least, empty, level, tuple(levels))
