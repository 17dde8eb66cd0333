"""Elements with a low and a full step: which of them is on, and when that changes."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from typing import Final

from isotherma.core.brief import Draw
from isotherma.core.climate import DAY_S, within_hours
from isotherma.core.system import AnyKind
from isotherma.core.system.kinds.heat import Element

FULL: Final = "full"


def full_step(part: Element, stands: str | None, draws: Sequence[Draw], clock_s: float) -> bool:
    """Say whether an element is on its full step, should its thermostat call.

    Parameters
    ----------
    part : Element
        The element. [-]
    stands : str or None
        Its position: a button, or the state, may put it on full. [-]
    draws : sequence of Draw
        Of the day. [-]
    clock_s : float
        Since midnight. [s]

    Returns
    -------
    bool
        Always for one without a low step. [-]
    """
    if part.low_w is None or stands == FULL:
        return True
    if part.boost == "from a time":
        return within_hours(clock_s, part.boost_from_s, part.boost_until_s)
    if part.boost == "before a draw":
        return any(
            within_hours(
                clock_s, draw.start_s - part.boost_before_s, draw.start_s + draw.duration_s
            )
            for draw in draws
        )
    return False


def step_edges_s(parts: Iterable[AnyKind], draws: Sequence[Draw]) -> tuple[float, ...]:
    """Give when elements change their step by the clock.

    Parameters
    ----------
    parts : iterable of part
        Of a system. [-]
    draws : sequence of Draw
        Of the day. [-]

    Returns
    -------
    tuple of float
        Since midnight, within a day. [s]
    """
    found: set[float] = set()
    for part in parts:
        if not isinstance(part, Element) or part.low_w is None:
            continue
        if part.boost == "from a time":
            found |= {part.boost_from_s % DAY_S, part.boost_until_s % DAY_S}
        elif part.boost == "before a draw":
            for draw in draws:
                found |= {
                    (draw.start_s - part.boost_before_s) % DAY_S,
                    (draw.start_s + draw.duration_s) % DAY_S,
                }
    return tuple(sorted(found))
