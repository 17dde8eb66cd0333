"""Holding a store hot against switching it on in time: what each gives, takes, and asks to wait."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Final

from isotherma.core.brief import Brief
from isotherma.core.climate import DAY_S
from isotherma.core.errors import CoreError
from isotherma.core.results.outcome import Outcome
from isotherma.core.results.remedies import Run, with_part
from isotherma.core.results.spending import spent
from isotherma.core.system import System
from isotherma.core.system.kinds import heat
from isotherma.core.system.nominal import ComputedSystem, known_figure

LEADS_H: Final = (0.5, 1.0, 1.5, 2.0, 3.0, 4.0, 6.0, 9.0)  # how long before the first draw
STEPPED_FROM_W: Final = 400.0  # smaller elements are sold with one step
BY_HAND: Final = ("always", "on hook-up", "when switched on")


@dataclass(frozen=True, slots=True)
class Holding:
    """One way to have hot water in time.

    `lead_s` how long before the first draw it is switched on, None where it is held; `warm_m3`
    inside the windows of all draws; `electric_j` from mains and battery, `gas_kg`; `wait_s` the
    longest, None where somebody never gets warm; `met` of `draws` as asked.
    """

    id: str
    lead_s: float | None
    warm_m3: float
    electric_j: float
    gas_kg: float
    diesel_m3: float
    wait_s: float | None
    met: int
    draws: int


def _sources(system: System) -> tuple[heat.Element | heat.Burner, ...]:
    """Give what a hand or a clock may switch: elements and burners of stores."""
    stores = {part.id for part in system.parts if isinstance(part, heat.Store)}
    return tuple(
        part for part in system.parts
        if isinstance(part, heat.Element | heat.Burner)
        and part.fitted_in in stores and part.rule in BY_HAND
    )  # fmt: skip


def _windowed(system: System, sources: Sequence[heat.Element | heat.Burner], start_s: float,
              end_s: float) -> System:  # fmt: skip
    for source in sources:
        system = with_part(system, source.id, window_start_s=start_s % DAY_S,
                           window_end_s=end_s % DAY_S)  # fmt: skip
    return system


def _read(key: str, lead_s: float | None, outcome: Outcome) -> Holding:
    took = spent(outcome.setup, outcome.timeline)
    waits = [draw.wait_s for draw in outcome.draws]
    known = [wait for wait in waits if wait is not None]
    return Holding(
        key, lead_s, sum(draw.comfort_m3 for draw in outcome.draws), took.mains_j + took.battery_j,
        took.gas_kg, took.diesel_m3, max(known, default=0.0) if len(known) == len(waits) else None,
        sum(draw.met for draw in outcome.draws), len(outcome.draws),
    )  # fmt: skip


def holding(brief: Brief, system: System, known: ComputedSystem, run: Run) -> tuple[Holding, ...]:
    """Run a day with the store held hot, switched on in time, and held low with a boost.

    Parameters
    ----------
    brief, system : Brief, System
        The documents. [-]
    known : ComputedSystem
        The same with likely figures written in. [-]
    run : callable
        Simulates changed documents. [-]

    Returns
    -------
    tuple of Holding
        As it is first; nothing without draws, or without a source a hand may switch. [SI]

    Notes
    -----
    In time is the shortest lead with which as many draws are as asked as when it is held; where
    none does, the one that comes nearest.

    References
    ----------
    The day is simulated each time; nothing is estimated.
    """
    sources = _sources(system)
    if not sources or not brief.draws:
        return ()
    first = min(draw.start_s for draw in brief.draws)
    last = max(draw.start_s + draw.duration_s for draw in brief.draws)
    found = []

    def tried(key: str, lead_s: float | None, changed: System) -> Holding | None:
        try:
            return _read(key, lead_s, run(brief, changed))
        except CoreError:
            return None

    as_is = tried("as-is", None, system)
    held = tried("held", None, _windowed(system, sources, 0.0, 0.0))
    found += [one for one in (as_is, held) if one is not None]
    best: Holding | None = None
    for lead_h in LEADS_H:
        lead = lead_h * 3600.0
        if lead >= DAY_S - (last - first):
            break
        one = tried("in-time", lead, _windowed(system, sources, first - lead, last + 1800.0))
        if one is not None and (best is None or one.met > best.met):
            best = one
        if best is not None and held is not None and best.met >= held.met:
            break
    if best is not None:
        found.append(best)
    stepped = _stepped(system, known, sources)
    if stepped is not None:
        low = tried("stepped", None, stepped)
        found += [low] if low is not None else []
    return tuple(found)


def _stepped(
    system: System, known: ComputedSystem, sources: Sequence[heat.Element | heat.Burner]
) -> System | None:
    """Give the system with its elements at half their watts, and full an hour before draws."""
    changed = None
    for source in sources:
        watts = known_figure(known.part(source.id), "power_w")
        if not isinstance(source, heat.Element) or watts is None or watts < STEPPED_FROM_W:
            continue
        changed = with_part(
            changed or system, source.id, low_w=0.5 * watts, boost="before a draw",
            boost_before_s=3600.0,
        )  # fmt: skip
    return changed
