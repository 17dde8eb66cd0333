"""Lead times: from switching on to hot, off the engine's own heating curve, read backwards."""

from __future__ import annotations

from collections.abc import Callable, Collection, Mapping, Sequence
from dataclasses import dataclass
from typing import Final

import numpy as np

from isotherma.core.brief import Brief, Draw
from isotherma.core.results.draws import DrawResult
from isotherma.core.results.outcome import Outcome
from isotherma.core.supply.feeds import SWITCHED, feeds_of
from isotherma.core.system import AnyKind, System
from isotherma.core.system.configuration import positions
from isotherma.core.system.kinds import heat, primary
from isotherma.core.system.states import Position, State

LONGEST_S: Final = 1800.0  # a shower is looked at for so long
DAY_S: Final = 86_400.0
NEAR_K: Final = 0.5  # of its setting: a controller hovers about it
WARM_C: Final = 35.0  # nobody calls colder water hot
PEAK_K: Final = 1.0  # of the warmest it gets, where it never comes to its setting
SOURCES: Final = (heat.Element, heat.Burner, heat.Combi, heat.LiquidHeater, heat.EngineCoolant)
BY_ITSELF: Final = ("while driving", "surplus sun")
Run = Callable[[Brief, System, State], Outcome]


@dataclass(frozen=True, slots=True)
class Lead:
    """How warm a store's top is by the time since switching on, from cold.

    `target_c` is its setting, or what it comes to in a day where that is less (`short`);
    None where nothing is stored: what runs through a flame is hot at once.
    """

    sources: tuple[str, ...]
    month: int
    cold_c: float
    times_s: tuple[float, ...]
    top_c: tuple[float, ...]
    target_c: float | None
    short: bool = False

    @property
    def by_clock(self) -> bool:
        """Whether nothing is switched on: the sun or the engine warms it at its own hour."""
        return not self.sources

    def after_s(self, target_c: float) -> float | None:
        """Read the curve backwards: when it is first so warm; None where it never is [s]."""
        if not self.times_s:
            return 0.0
        if self.cold_c >= target_c:
            return 0.0
        warm = np.array([self.cold_c, *self.top_c])
        times = np.array([0.0, *self.times_s])
        at = int(np.argmax(warm >= target_c))
        if warm[at] < target_c:
            return None
        share = (target_c - warm[at - 1]) / (warm[at] - warm[at - 1])
        return float(times[at - 1] + share * (times[at] - times[at - 1]))

    @property
    def takes_s(self) -> float | None:
        """From switching on to hot [s]; None where it does not warm at all."""
        return 0.0 if self.target_c is None else self.after_s(self.target_c)


def sources_of(system: System) -> tuple[str, ...]:
    """List what heats water when a hand switches it on, in the order of the document.

    Parameters
    ----------
    system : System
        The design. [-]

    Returns
    -------
    tuple of str
        Part ids. [-]
    """
    return tuple(part.id for part in system.parts
                 if isinstance(part, SOURCES) and "off" in part.positions
                 and not _by_itself(part))  # fmt: skip


def on_in(system: System, state: State | None) -> tuple[str, ...]:
    """List sources that are on in a state, and fed in it where wires feed them.

    Parameters
    ----------
    system : System
        The design. [-]
    state : State or None
        How it stands. [-]

    Returns
    -------
    tuple of str
        Of `sources_of`. [-]
    """
    at = positions(system, state)
    return tuple(key for key in sources_of(system) if at[key] != "off" and _fed(system, key, at))


def _fed(system: System, key: str, at: Mapping[str, str]) -> bool:
    """Say whether what feeds a part by wire is on; what no wire is drawn to counts as fed."""
    feeds = feeds_of(system, key)
    live = [source for source in feeds.sources if at.get(source) not in ("off", "unplugged")]
    return bool(live or not feeds.sources) and all(at.get(one) != "off" for one in feeds.circuits)


def _by_itself(part: AnyKind) -> bool:
    """Say whether the sun or driving decides when it runs."""
    if isinstance(part, heat.Element) and part.direct_current:
        return True
    return getattr(part, "rule", "") in BY_ITSELF


def at_will(system: System, on: Collection[str]) -> System:
    """Let sources run whenever they are switched on: their hours are the hand's now.

    Parameters
    ----------
    system : System
        The design. [-]
    on : collection of str
        Sources that are switched on. [-]

    Returns
    -------
    System
        The same otherwise. [-]
    """
    free = {"rule": "always", "window_start_s": 0.0, "window_end_s": 0.0}
    parts = [part.model_copy(update=free) if part.id in on and "rule" in type(part).model_fields
             else part for part in system.parts]  # fmt: skip
    return system.model_copy(update={"parts": tuple(parts)})


def with_sources(system: System, state: State | None, on: Collection[str]) -> State:
    """Give a state in which these sources are on, and no others.

    Parameters
    ----------
    system : System
        The design. [-]
    state : State or None
        How all else stands. [-]
    on : collection of str
        Part ids; what feeds them, and what moves coolant, is on where one of them needs it. [-]

    Returns
    -------
    State
        Of its own id. [-]
    """
    at = dict(positions(system, state))
    parts = {part.id: part for part in system.parts}
    wanted = set(on)
    for key in sources_of(system):
        at[key] = parts[key].positions[0] if key in wanted else "off"
    needs_pump = any(isinstance(parts[key], heat.LiquidHeater) for key in wanted if key in parts)
    by_wire = any(isinstance(parts[key], heat.Element | heat.Combi) for key in wanted
                  if key in parts)  # fmt: skip
    for part in system.parts:
        if isinstance(part, SWITCHED) and part.positions and by_wire:
            at[part.id] = part.positions[0]
        if isinstance(part, primary.CirculationPump) and needs_pump and "off" in part.positions:
            at[part.id] = next(one for one in part.positions if one != "off")
    rows = tuple(Position(part=key, at=where) for key, where in at.items())
    base = State(id="used", name="As it is used") if state is None else state
    return base.model_copy(update={"positions": rows})


def quiet_day(brief: Brief, month: int, cold_c: float | None) -> Brief:
    """Give a day on which nothing is drawn, and which begins cold.

    Parameters
    ----------
    brief : Brief
        Where it is. [-]
    month : int
        1 to 12. [-]
    cold_c : float or None
        Of the tank, where somebody read it. [°C]

    Returns
    -------
    Brief
        One day. [-]
    """
    changes: dict[str, object] = {
        "draws": (), "days": 1, "day_start": "cold", "order": (), "day_kinds": (), "month": month,
    }  # fmt: skip
    if cold_c is not None:
        changes["cold_water_c"] = cold_c
    return brief.model_copy(update=changes)


def lead_of(
    run: Run, brief: Brief, system: System, state: State | None, on: Sequence[str], *,
    month: int, cold_c: float | None = None,
) -> Lead:  # fmt: skip
    """Warm a store from cold with some sources and nothing else, by the engine.

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
    on : sequence of str
        Sources that are switched on. [-]
    month : int
        1 to 12. [-]
    cold_c : float or None
        Of the tank, where somebody read it. [°C]

    Returns
    -------
    Lead
        Off the day's own log; nothing where nothing is stored. [s, °C]

    Raises
    ------
    CoreError
        If such a day cannot be run.
    """
    outcome = run(quiet_day(brief, month, cold_c), at_will(system, on),
                  with_sources(system, state, on))  # fmt: skip
    day = outcome.timeline
    cold = outcome.setup.conditions.fresh_c
    if not day.layers:
        return Lead(tuple(on), month, cold, (), (), None)
    top = day.rows.layers_c.max(axis=1)
    sets = [source.set_c for source in day.sources if source.id in on]
    peak = float(top.max())
    target, short = max(peak - PEAK_K, WARM_C), True
    if sets and peak >= max(sets) - NEAR_K:
        target, short = max(sets) - NEAR_K, False
    return Lead(
        tuple(on), month, cold, tuple(day.rows.end_s.tolist()), tuple(top.tolist()),
        max(target, cold), short,
    )  # fmt: skip


@dataclass(frozen=True, slots=True)
class HotDay:
    """A day on which a store was warmed from cold, and is drawn from as soon as it is hot."""

    lead: Lead
    start_s: float
    run: Callable[[Draw], Outcome]

    def drawn(self, draw: Draw, **changes: object) -> tuple[DrawResult, float]:
        """Draw from it once, with changes of the draw: what came of it, how far it was open.

        Parameters
        ----------
        draw : Draw
            What is wanted; it begins when the store is hot. [-]
        changes : object
            Figures of the draw by name. [SI]

        Returns
        -------
        tuple
            The draw as it came out, and the share its outlet was open. [SI]
        """
        moved = draw.model_copy(update={
            "start_s": self.start_s, "state": None, "waits_hot": False, **changes})  # fmt: skip
        outcome = self.run(moved)
        return outcome.draws[0], outcome.timeline.drawn[0].opening


def hot_day(
    run: Run, brief: Brief, system: System, state: State | None, on: Sequence[str], *,
    cold_c: float | None = None,
) -> HotDay | None:  # fmt: skip
    """Warm a store from cold in the month of the brief, to be drawn from.

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
    on : sequence of str
        Sources that are switched on. [-]
    cold_c : float or None
        Of the tank, where somebody read it. [°C]

    Returns
    -------
    HotDay or None
        None where it never gets hot with what is on. [SI]

    Raises
    ------
    CoreError
        If such a day cannot be run.

    Notes
    -----
    Switching on so long before a draw is wanted is the same day, later. What is not in the sources'
    hands - air, frost - is that of the small hours.
    """
    lead = lead_of(run, brief, system, state, on, month=brief.month, cold_c=cold_c)
    takes = lead.takes_s
    if takes is None:
        return None
    free, stood = at_will(system, on), with_sources(system, state, on)
    base = quiet_day(brief, brief.month, cold_c)
    return HotDay(
        lead, min(takes, DAY_S - LONGEST_S),
        lambda draw: run(base.model_copy(update={"draws": (draw,)}), free, stood),
    )  # fmt: skip
