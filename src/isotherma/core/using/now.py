"""One warm shower today: when to switch on, how far to open, how long it is good."""

from __future__ import annotations

from dataclasses import dataclass

from isotherma.core.brief import Brief, Draw
from isotherma.core.system import System
from isotherma.core.system.kinds import temperature
from isotherma.core.system.states import State
from isotherma.core.using.lead import DAY_S, LONGEST_S, Lead, Run, hot_day


@dataclass(frozen=True, slots=True)
class Today:
    """What is so today: sources that are on, the tank's warmth if it was read, litres left.

    `wanted_s` is the time of day it is wanted at; None: as soon as it is warm.
    """

    on: tuple[str, ...]
    wanted_s: float | None = None
    cold_c: float | None = None
    fresh_m3: float | None = None
    grey_m3: float = 0.0


@dataclass(frozen=True, slots=True)
class Now:
    """The answer: flows and litres [SI]; None is not known, or never.

    `switch_on_s` is the time of day, None where it is wanted as soon as it is warm; `wait_s` runs
    cold first, `good_s` is how long it stays warm, None: longer than anybody looked; `next_s` from
    the end of this draw until the water is hot again.
    """

    lead: Lead
    switch_on_s: float | None
    valve: str | None
    set_c: float | None
    outlet: str
    opening: float
    flow_m3_per_s: float
    wait_s: float | None
    cold_m3: float
    good_s: float | None
    next_s: float | None
    used_m3: float
    fresh_left_m3: float | None
    grey_then_m3: float


def now_of(
    run: Run, brief: Brief, system: System, state: State | None, draw: Draw, today: Today
) -> Now | None:  # fmt: skip
    """Answer for one draw, as the engine runs it from cold.

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
    today : Today
        What is so. [-]

    Returns
    -------
    Now or None
        None where it never gets warm with what is on. [SI]

    Raises
    ------
    CoreError
        If such a day cannot be run.

    Notes
    -----
    As `hot_day` says of its day.
    """
    day = hot_day(run, brief, system, state, today.on, cold_c=today.cold_c)
    if day is None:
        return None
    lead = day.lead
    as_asked, opening = day.drawn(draw)
    long, _ = day.drawn(draw, duration_s=LONGEST_S, stops=0)
    on_at = None
    if today.wanted_s is not None and lead.takes_s is not None and not lead.by_clock:
        on_at = (today.wanted_s - lead.takes_s) % DAY_S
    valve = next((part for part in system.parts
                  if isinstance(part, temperature.ThermostaticMixer)), None)  # fmt: skip
    left = None if today.fresh_m3 is None else today.fresh_m3 - as_asked.used_m3
    return Now(
        lead, on_at, None if valve is None else valve.id, None if valve is None else valve.set_c,
        as_asked.outlet, opening, as_asked.flow_m3_per_s, as_asked.wait_s,
        as_asked.cold_m3, long.cool_after_s, as_asked.ready_again_s,
        as_asked.used_m3, left, today.grey_m3 + as_asked.used_m3,
    )  # fmt: skip
