"""How many clips a run needs, between its ends, which hold it."""

from __future__ import annotations

from math import ceil
from typing import Final

from isotherma.core.system.runs import FuelPipe, Pipe
from isotherma.core.system.tubes import tube

NO_CLIP_M, ONE_CLIP_M, HELD_M = 0.15, 0.30, 0.20
THIN_M: Final = 0.0165
# metres from clip to clip: up to 16 mm outside, and thicker
EVERY_M: Final = {
    "semi-rigid plastic": (0.3, 0.5), "inch plastic": (0.3, 0.5), "copper": (0.5, 0.5),
    "multilayer": (0.5, 0.5), "soft hose": (0.3, 0.3), "waste pipe": (0.5, 0.5),
    "corrugated steel": (0.5, 0.5),
}  # fmt: skip
GAS_M: Final = {"copper": 0.5, "steel": 1.0, "hose": 0.5}  # EN 1949


def clips_between(length_m: float, every_m: float) -> int:
    """Count the clips of a length.

    Parameters
    ----------
    length_m : float
        Of the run. [m]
    every_m : float
        From clip to clip at most. [m]

    Returns
    -------
    int
        None to 0.15 m, one to 0.30, then one and one for each stretch that is not held. [-]

    Examples
    --------
    >>> [clips_between(length, 0.3) for length in (0.1, 0.25, 0.8)]
    [0, 1, 3]
    """
    if length_m <= NO_CLIP_M:
        return 0
    if length_m <= ONE_CLIP_M:
        return 1
    return 1 + ceil(round((length_m - HELD_M) / every_m, 6))


def sold_outside_m(run: Pipe) -> float | None:
    """Give the outside of a pipe as its family and size are sold.

    Parameters
    ----------
    run : Pipe
        Any. [-]

    Returns
    -------
    float or None
        None where it is in no table. [m]
    """
    if run.family is None or run.nominal is None:
        return None
    sold = tube(run.family, run.nominal)
    return None if sold is None else sold.bore.likely + 2.0 * sold.wall.likely


def clips_for(run: Pipe | FuelPipe) -> tuple[int, tuple[str, ...]]:
    """Count the clips of a run, as given or as it needs, leg by leg where they are known.

    Parameters
    ----------
    run : Pipe or FuelPipe
        Any. [-]

    Returns
    -------
    tuple of int and tuple of str
        With the paths of what is not known. [-]
    """
    if run.clips is not None:
        return run.clips, ()
    legs = [leg.length_m for leg in run.legs]
    if run.length_m is not None and not legs:
        legs = [run.length_m]
    if not legs:
        return 0, (f"runs.{run.id}.length_m",)
    if isinstance(run, FuelPipe):
        every = GAS_M[run.way]
    elif run.family is None:
        return 0, (f"runs.{run.id}.family",)
    else:
        thin, thick = EVERY_M[run.family]
        outside = sold_outside_m(run)
        every = thin if outside is None or outside <= THIN_M else thick
    return sum(clips_between(leg, every) for leg in legs), ()
