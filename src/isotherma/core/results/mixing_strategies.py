"""Mixing strategies: ways to make the temperature, tried on the same draw; what a heater allows."""

from __future__ import annotations

from dataclasses import dataclass

from isotherma.core import water
from isotherma.core.brief import Brief, Draw
from isotherma.core.errors import CoreError
from isotherma.core.results.remedies import THERMOSTATS, Run, with_part, with_runs
from isotherma.core.results.scald import Severity
from isotherma.core.system import Pipe, System
from isotherma.core.system.hot_route import hot_route
from isotherma.core.system.kinds import heat, temperature
from isotherma.core.system.nominal import ComputedSystem, figure, known_figure


@dataclass(frozen=True, slots=True)
class MixingStrategy:
    """One way to make the temperature, on the same draw.

    `warm_m3` inside the window; `sag_k` the largest fall; `scalds` over the limit.
    """

    id: str
    warm_m3: float
    warm_s: float
    wait_s: float | None
    sag_k: float
    peak_c: float | None
    scalds: bool
    met: bool


@dataclass(frozen=True, slots=True)
class StrategyTrial:
    """One way to make the temperature: its brief and its system."""

    id: str
    brief: Brief
    system: System


def strategy_trials(
    brief: Brief, system: System, known: ComputedSystem, draw: Draw, fresh_c: float
) -> tuple[StrategyTrial, ...]:
    """Change brief and system for every mixing strategy.

    Parameters
    ----------
    brief, system : Brief, System
        The documents. [-]
    known : ComputedSystem
        The same with likely figures written in. [-]
    draw : Draw
        The draw that is looked at; its outlet named. [-]
    fresh_c : float
        Cold water. [°C]

    Returns
    -------
    tuple of StrategyTrial
        As it is first; without a mixer before the outlet none. [-]

    Notes
    -----
    At the fixture the mixer sits 0.3 m before the outlet and the hot run grows by what the
    mixed one loses. A manual mixer is opened for the middle of the window from water as hot as
    the store is set; nudged, a hand follows. With the set point as the mixer the store is kept
    at the middle of the window, and all of it passes.
    """
    way = hot_route(known, draw.outlet or "")
    parts = {part.id: part for part in system.parts}
    mixer = next(
        (parts[item.start.part] for item in way
         if isinstance(parts[item.start.part],
                       temperature.ThermostaticMixer | temperature.ManualMixer)), None,
    )  # fmt: skip
    if mixer is None:
        return ()
    low, high = draw.window_c(fresh_c)
    middle = 0.5 * (low + high)
    settings = [part.set_c for part in system.parts if isinstance(part, THERMOSTATS)]
    hot_c = max([*settings, middle + 5.0])
    trials = [StrategyTrial("as-is", brief, system)]
    mixed = [item for item in way if item.start.part == mixer.id or _after(way, item, mixer.id)]
    before = [item for item in way if item not in mixed]
    spare = sum(figure(item, "length_m") for item in mixed) - 0.3
    if mixed and before and spare > 0.3:
        changes: dict[str, dict[str, float]] = {
            item.id: {"length_m": 0.3 / len(mixed)} for item in mixed
        }
        changes[before[0].id] = {"length_m": figure(before[0], "length_m") + spare}
        at_fixture = with_runs(system, changes)
        trials.append(StrategyTrial("fixture", brief, at_fixture))
    share = min(0.95, max(0.1, (middle - fresh_c) / (hot_c - fresh_c)))
    hand = temperature.ManualMixer(
        id=mixer.id, name=mixer.name, space=mixer.space, phase=mixer.phase, hot_share=share
    )
    by_hand = _swap(system, mixer.id, hand)
    nudged, left = (
        brief.model_copy(update={"draws": tuple(
            item.model_copy(update={"nudged": hands}) if item.id == draw.id else item
            for item in brief.draws
        )}) for hands in (True, False)
    )  # fmt: skip
    wide = hand.model_copy(update={"hot_share": 0.98})
    kept = _swap(system, mixer.id, wide)
    for part in system.parts:
        if isinstance(part, THERMOSTATS):
            kept = with_part(kept, part.id, set_c=min(part.set_c, high - 0.5))
    return (
        *trials,
        StrategyTrial("nudged", nudged, by_hand),
        StrategyTrial("left", left, by_hand),
        StrategyTrial("set-point", left, kept),
    )


def mixing_strategies(
    brief: Brief, system: System, known: ComputedSystem, draw: Draw, fresh_c: float, run: Run
) -> tuple[MixingStrategy, ...]:
    """Make the temperature in every way, on the same draws.

    Parameters
    ----------
    brief, system : Brief, System
        The documents. [-]
    known : ComputedSystem
        The same with likely figures written in. [-]
    draw : Draw
        The draw that is looked at; the others run too. [-]
    fresh_c : float
        Cold water. [°C]
    run : callable
        Simulates changed documents. [-]

    Returns
    -------
    tuple of MixingStrategy
        As it is first; without a mixer before the outlet nothing is compared. [SI]
    """
    found = []
    for trial in strategy_trials(brief, system, known, draw, fresh_c):
        try:
            outcome = run(trial.brief, trial.system)
        except CoreError:
            continue
        result = next(item for item in outcome.draws if item.draw.id == draw.id)
        found.append(MixingStrategy(
            trial.id, result.comfort_m3, result.comfort_s, result.wait_s,
            result.largest_drop_k, result.peak_c, result.scald.severity is not Severity.NONE,
            result.met,
        ))  # fmt: skip
    return tuple(found)


def _after(way: tuple[Pipe, ...], item: Pipe, mixer: str) -> bool:
    """Say whether a run of a way lies between the mixer and the outlet."""
    for run in way:  # from the outlet back
        if run is item:
            return True
        if run.start.part == mixer:
            return False
    return False


def _swap(system: System, part_id: str, new: temperature.ManualMixer) -> System:
    parts = tuple(new if part.id == part_id else part for part in system.parts)
    return system.model_copy(update={"parts": parts})


@dataclass(frozen=True, slots=True)
class FlowWindow:
    """What a through-flow heater gives at every flow: where it lights, surges, falls short.

    `points` are flow [m³/s], outlet [°C] and whether it burns; `lights` the flow it comes on
    at, `from_m3_per_s` and `to_m3_per_s` the window in which it holds its setting.
    """

    part_id: str
    label: str
    set_c: float | None
    lights: float
    goes_out: float
    from_m3_per_s: float
    to_m3_per_s: float
    hottest_c: float
    points: tuple[tuple[float, float, bool], ...]


def flow_windows(known: ComputedSystem, fresh_c: float) -> tuple[FlowWindow, ...]:
    """Draw the window of flows in which through-flow heaters work.

    Parameters
    ----------
    known : ComputedSystem
        With likely figures written in. [-]
    fresh_c : float
        Water that enters. [°C]

    Returns
    -------
    tuple of FlowWindow
        One per heater whose heat is known. [SI]

    Notes
    -----
    Steady: Q = clamp(ṁc(T_set − T_in), Q_min, Q_max), T_out = T_in + Q/ṁc; two knobs burn as
    they are set. Below its least flow it is out, or goes out.

    References
    ----------
    Energy balance of the water.
    """
    found = []
    for part in known.parts:
        if not isinstance(part, heat.ThroughFlow) or not part.heat_w:
            continue
        top, least, set_c = part.heat_w, 0.0, known_figure(part, "set_c")
        if isinstance(part, heat.ThroughFlowGas):
            season = figure(part, "summer_share") if part.season == "summer" else 1.0
            top *= season
            least = figure(part, "least_w") * season
            if part.control == "two knobs":
                top = least = part.heat_w * part.gas_share * season
        elif set_c is None:
            least = top
        lights = figure(part, "on_flow_m3_per_s")
        out = figure(part, "off_flow_m3_per_s")
        points = []
        for step in range(1, 61):
            flow = step * 0.2 / 6e4
            rate = flow * 1000.0 * water.SPECIFIC_J_PER_KG_K
            burns = flow >= out
            asked = top if set_c is None else rate * (set_c - fresh_c)
            power = min(top, max(least, asked)) if burns else 0.0
            points.append((flow, min(95.0, fresh_c + power / rate), burns))
        start = out
        if set_c is not None:
            rise = max(1.0, set_c - fresh_c)
            start = max(out, least / (1000.0 * water.SPECIFIC_J_PER_KG_K * rise))
        end = top / (1000.0 * water.SPECIFIC_J_PER_KG_K * rise)
        burning = [celsius for _, celsius, burns in points if burns]
        found.append(FlowWindow(
            part.id, part.label, set_c, lights, out, start, end, max(burning, default=fresh_c),
            tuple(points),
        ))  # fmt: skip
    return tuple(found)
