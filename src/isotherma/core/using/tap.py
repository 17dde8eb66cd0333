"""How far to open: flow against warm minutes, pulsing and flames that do not light."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Final

from isotherma.core.brief import Brief, Draw
from isotherma.core.results.draws import WhyNot
from isotherma.core.system import System
from isotherma.core.system.states import State
from isotherma.core.using.lead import LONGEST_S, Run, hot_day

SHARES: Final = (1.0, 0.8, 0.6, 0.45, 0.3)  # of the flow fully open
RINSES: Final = 2.5e-3 / 60.0  # less than this rinses nobody


@dataclass(frozen=True, slots=True)
class Opening:
    """A tap so far open [share], its flow [m³/s], how long it stays warm [s].

    `good_s` None: longer than half an hour, or never warm, which `warm` tells; `pulses` where the
    pump starts and stops; `unlit` where the flow is too little for a flame.
    """

    opening: float
    flow_m3_per_s: float
    warm: bool
    good_s: float | None
    pulses: bool
    unlit: bool


def openings_of(
    run: Run, brief: Brief, system: System, state: State | None, draw: Draw, on: Sequence[str]
) -> tuple[Opening, ...]:  # fmt: skip
    """Try a tap at several openings, each from a store that is hot.

    Parameters
    ----------
    run : callable
        Runs a day in a state. [-]
    brief : Brief
        Where it is. [-]
    system : System
        The design. [-]
    state : State or None
        How all but its sources stands. [-]
    draw : Draw
        What is wanted. [-]
    on : sequence of str
        Sources that are on. [-]

    Returns
    -------
    tuple of Opening
        Fully open first; nothing where it never gets hot. [SI]

    Raises
    ------
    CoreError
        If such a day cannot be run.
    """
    day = hot_day(run, brief, system, state, on)
    if day is None:
        return ()
    found: list[Opening] = []
    full = 0.0
    for share in SHARES:
        throttled = None if not found else share * full
        result, opening = day.drawn(draw, stops=0, duration_s=LONGEST_S, flow_m3_per_s=throttled)
        full = full or result.flow_m3_per_s
        warm = result.wait_s is not None
        found.append(Opening(
            opening, result.flow_m3_per_s, warm,
            None if not warm or result.cool_after_s is None or result.wait_s is None
            else max(0.0, result.cool_after_s - result.wait_s),
            result.pulsing, not warm and result.why_not is WhyNot.NEVER_WARM,
        ))  # fmt: skip
    return tuple(found)


def recommended(rows: Sequence[Opening]) -> Opening | None:
    """Choose the one mark: longest warm without pulsing, that still rinses.

    Parameters
    ----------
    rows : sequence of Opening
        As they were tried. [SI]

    Returns
    -------
    Opening or None
        The most open of those that are equally long; None where none is warm. [SI]
    """
    fit = [one for one in rows
           if one.warm and not one.pulses and one.flow_m3_per_s >= RINSES]  # fmt: skip
    if not fit:
        return None
    return max(fit, key=lambda one: (LONGEST_S if one.good_s is None else one.good_s,
                                     one.flow_m3_per_s))  # fmt: skip
