"""How hot water burns: by its temperature and how long, by the outlet and who stands there."""

from __future__ import annotations

from dataclasses import dataclass
from enum import IntEnum
from math import exp, log
from typing import Final

import numpy as np
from numpy.typing import NDArray

from isotherma.core.system import AnyKind
from isotherma.core.system.kinds.use import BottleFill, ShowerHead, Tap

Floats = NDArray[np.float64]

SHOWER_C: Final = 43.0  # limits of ours; local rules name lower or higher ones
BASIN_C: Final = 48.0
KITCHEN_C: Final = 60.0
KITCHEN_FIX_C: Final = 63.0
CHILD_C: Final = 41.0  # TMV2 scheme, shower; check the current text
CEILING_C: Final = 48.0  # strictest code ceiling for washing, Building Regulations G3 (bath)
OVER_K: Final = 3.0  # past the limit for ten seconds: mend before use; ours
HELD_S: Final = 10.0
NOTICED_S: Final = 1.0
FIX_DOSE: Final = 0.2
ADULT_S, CHILD_S, HANDS_S = 10.0, 30.0, 1.0  # before somebody draws back; ours
CHILD_SHARE: Final = 0.25  # of an adult's seconds
# adult seconds to a partial-thickness burn: Moritz & Henriques 1947 as tabulated for ASSE; over
# 60 °C and below 46.7 °C ours [°C], [s]
_AT_C: Final = (43.0, 46.7, 47.8, 48.9, 51.1, 55.0, 60.0, 65.6, 70.0)
_BURNS_S: Final = (1.0e5, 2100.0, 900.0, 480.0, 120.0, 17.0, 3.0, 1.5, 0.7)


class Severity(IntEnum):
    """How serious it is, in rising order."""

    NONE = 0
    WATCH = 1
    FIX = 2
    STOP = 3


@dataclass(frozen=True, slots=True)
class Scald:
    """What a stream of water does to skin.

    `limit_c` is of the outlet and who stands there; `over_s` how long it was over it, `peak_c`
    its highest, `dose` the share of a burn in the worst stretch before somebody draws back,
    `burns_s` the seconds to a burn at the peak, without end below 43 °C.
    """

    severity: Severity
    limit_c: float
    peak_c: float
    over_s: float
    dose: float
    burns_s: float


def burns_after_s(celsius: float, *, child: bool = False) -> float:
    """Give the seconds until skin is burnt through its upper layer.

    Parameters
    ----------
    celsius : float
        Of the water. [°C]
    child : bool
        A child's skin takes a quarter of an adult's time. [-]

    Returns
    -------
    float
        Without end up to 43 °C; 0.7 (an adult's) from 70 °C. [s]

    References
    ----------
    Moritz and Henriques 1947, as tabulated for ASSE; ln t taken straight between entries.

    Examples
    --------
    >>> burns_after_s(43.0)
    inf
    >>> round(burns_after_s(60.0), 1)
    3.0
    >>> burns_after_s(60.0, child=True) / burns_after_s(60.0)
    0.25
    """
    if celsius <= _AT_C[0]:
        return float("inf")
    ln_t = float(np.interp(celsius, _AT_C, [log(value) for value in _BURNS_S]))
    return exp(ln_t) * (CHILD_SHARE if child else 1.0)


def limit_of(outlet: AnyKind | None, *, child: bool) -> float:
    """Give the temperature above which an outlet is worth a word.

    Parameters
    ----------
    outlet : a kind of part or None
        Where water leaves; None counts as a shower. [-]
    child : bool
        Whether a child washes there. [-]

    Returns
    -------
    float
        43 at a shower, 48 at a basin or outside, 60 at a kitchen; 41 where a child washes. [°C]
    """
    kitchen = isinstance(outlet, Tap) and outlet.room in (None, "kitchen")
    if kitchen or isinstance(outlet, BottleFill):
        return KITCHEN_C
    if child:
        return CHILD_C
    if outlet is None or isinstance(outlet, ShowerHead):
        return SHOWER_C
    return BASIN_C


def scald_of(
    outlet: AnyKind | None, head_c: Floats, step_s: Floats, ends_s: Floats, *, child: bool
) -> Scald:
    """Judge a stream of water by what it does to skin.

    Parameters
    ----------
    outlet : a kind of part or None
        Where it leaves. [-]
    head_c : array of float
        Of the water at each step, shape (n,). [°C]
    step_s, ends_s : array of float
        How long each step is and when it ends, shape (n,). [s]
    child : bool
        Whether a child stands there. [-]

    Returns
    -------
    Scald
        Its severity and what it rests on. [-]

    Notes
    -----
    The dose is the largest sum of Δt / t(T) over unbroken flow of as long as somebody bears it
    before drawing back: 10 s, a child 30 s, hands at a kitchen tap 1 s; 1 is a burn.

    References
    ----------
    Exposure, not temperature alone: Moritz and Henriques 1947.
    """
    limit = limit_of(outlet, child=child)
    kitchen = limit == KITCHEN_C
    if not len(head_c):
        return Scald(Severity.NONE, limit, -273.15, 0.0, 0.0, float("inf"))
    peak = float(head_c.max())
    over_s = float(step_s[head_c > limit].sum())
    bears_s = HANDS_S if kitchen else CHILD_S if child else ADULT_S
    dose = _dose(head_c, step_s, ends_s, bears_s, child=child and not kitchen)
    far_s = float(step_s[head_c > limit + OVER_K].sum())
    ceiling_s = float(step_s[head_c > CEILING_C].sum())
    severity = Severity.NONE
    if dose >= 1.0:
        severity = Severity.STOP
    elif kitchen:
        severity = (
            Severity.FIX if peak > KITCHEN_FIX_C
            else Severity.WATCH if peak >= KITCHEN_C else severity
        )  # fmt: skip
    elif dose >= FIX_DOSE or far_s >= HELD_S or ceiling_s >= HELD_S:
        severity = Severity.FIX
    elif over_s >= NOTICED_S:
        severity = Severity.WATCH
    return Scald(severity, limit, peak, over_s, dose, burns_after_s(peak, child=child))


def _dose(head_c: Floats, step_s: Floats, ends_s: Floats, bears_s: float, *, child: bool) -> float:
    """Give the largest share of a burn in any unbroken stretch of so many seconds."""
    if head_c.max() <= _AT_C[0]:
        return 0.0
    seconds = np.exp(np.interp(head_c, _AT_C, np.log(_BURNS_S)))
    rate = np.where(head_c > _AT_C[0], 1.0 / seconds, 0.0) / (CHILD_SHARE if child else 1.0)
    worst = 0.0
    begins = ends_s - step_s
    broken = np.flatnonzero(begins[1:] > ends_s[:-1] + 1e-6) + 1
    for rows in np.split(np.arange(len(head_c)), broken):
        if not rate[rows].any():
            continue
        # the integral of the rate at the edges of steps is straight between them
        edges = np.concatenate([[begins[rows[0]]], ends_s[rows]])
        total = np.concatenate([[0.0], np.cumsum(rate[rows] * step_s[rows])])
        late = np.interp(np.concatenate([edges, edges + bears_s]), edges, total)
        early = np.interp(np.concatenate([edges - bears_s, edges]), edges, total)
        worst = max(worst, float((late - early).max()))
    return worst
