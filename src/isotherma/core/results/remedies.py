"""The dead leg and its remedies: the same draw on changed systems."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from math import pi
from typing import Any, Final

from isotherma.core import water
from isotherma.core.brief import Brief, Draw
from isotherma.core.errors import CoreError
from isotherma.core.results.draws import DrawResult, draw_rows
from isotherma.core.results.loops import placed_loop, well_placed, without_loops
from isotherma.core.results.outcome import Outcome
from isotherma.core.system import Pipe, System
from isotherma.core.system.hot_route import hot_route
from isotherma.core.system.kinds import heat, temperature
from isotherma.core.system.nominal import ComputedSystem, figure
from isotherma.core.thermal.pipe import loss_w_per_m_k

Run = Callable[[Brief, System], Outcome]
FOAM_M: Final = 0.013
THINNER: Final = 0.75  # of the bore, about a nominal size down
AT_THE_TAP_M: Final = 0.1  # each run of what is left
THERMOSTATS: Final = (heat.Element, heat.Burner, heat.Combi, heat.Thermostat)
LOOPS: Final = ("button", "timed", "continuous")
DIP_K: Final = 3.0  # under the window, felt as cold
DIP_WITHIN_S: Final = 60.0
LOOP_TIMED_SHARE: Final = 0.1  # a timer that runs a loop six minutes an hour


@dataclass(frozen=True, slots=True)
class Remedy:
    """One way with the dead leg, for one draw after a pause.

    `needs` says by a code what has to be got, `needs_m` how much of it where it is measured;
    `lost_m3` and `lost_j` are water and heat thrown away each time; `kept` is the code of why none
    is, or of what else comes of it; "" for nothing.
    `day_j` is energy it takes or saves on a day beside that [J, negative saves]; `flow_m3_per_s`
    what is left of the flow. `computed` is False where it is estimated.
    """

    id: str
    needs: str
    joints: int
    wait_s: float | None
    lost_m3: float
    lost_j: float
    kept: str
    day_j: float
    flow_m3_per_s: float
    computed: bool
    needs_m: float | None = None


def with_runs(system: System, changes: Mapping[str, Mapping[str, Any]]) -> System:
    """Give a system with other values in some of its runs.

    Parameters
    ----------
    system : System
        As it is. [-]
    changes : mapping of str to mapping
        New values by property, by id of a run. [SI]

    Returns
    -------
    System
        A copy; not validated again. [SI]
    """
    runs = tuple(
        run.model_copy(update=dict(changes[run.id])) if run.id in changes else run
        for run in system.runs
    )
    return system.model_copy(update={"runs": runs})


def with_part(system: System, part_id: str, **values: object) -> System:
    """Give a system with other values in one of its parts.

    Parameters
    ----------
    system : System
        As it is. [-]
    part_id : str
        Id of the part. [-]
    values : object
        New values by property. [SI]

    Returns
    -------
    System
        A copy; not validated again. [SI]
    """
    parts = tuple(
        part.model_copy(update=values) if part.id == part_id else part for part in system.parts
    )
    return system.model_copy(update={"parts": parts})


def _trial(brief: Brief, draw: Draw, pause_s: float) -> Brief:
    """Ask for the draw twice: the second after a pause is the one that is looked at."""
    start = min(draw.start_s, 86400.0 - pause_s - 2 * (draw.duration_s + brief.gives_up_s) - 60.0)
    first = draw.model_copy(update={"id": "before", "start_s": max(0.0, start), "stops": 0})
    length = draw.duration_s + draw.stops * draw.stop_s
    second = draw.model_copy(
        update={"id": "after", "start_s": max(0.0, start) + length + pause_s, "stops": 0}
    )
    return brief.model_copy(update={"draws": (first, second)})


def _dead_leg(outcome: Outcome) -> tuple[DrawResult, float]:
    """Give the second draw and the heat that ran away before it was warm [J]."""
    draw = outcome.draws[-1]
    rows = draw_rows(outcome.timeline, len(outcome.draws) - 1)
    until = draw.start_s + draw.wait_s if draw.wait_s is not None else draw.end_s
    early = rows.where(rows.began_s < until - 1e-6)
    over = early.head_c - outcome.fresh_c
    return draw, float((early.mass_kg * water.SPECIFIC_J_PER_KG_K * over).sum())


def _dips(outcome: Outcome) -> str:
    """Say where water dips soon after it was warm: cold reaches a valve used to warm water."""
    draw = outcome.draws[-1]
    if draw.wait_s is None:
        return ""
    rows = draw_rows(outcome.timeline, len(outcome.draws) - 1)
    since = rows.end_s - draw.start_s - draw.wait_s
    soon = rows.head_c[(since > 0.0) & (since < DIP_WITHIN_S)]
    if not len(soon) or soon.min() >= draw.draw.low_c - DIP_K or soon[-1] < draw.draw.low_c:
        return ""
    return "dips"


def _standing_j(outcome: Outcome) -> float:
    """Heat that is lost on a day by stores, pipes and heaters [J]."""
    balance = outcome.timeline.balance
    return balance.store_loss_j + balance.pipe_loss_j + balance.body_loss_j


def _trials(
    system: System, known: ComputedSystem, way: tuple[Pipe, ...]
) -> list[tuple[str, str, int, System]]:
    """List what is tried: id, what it needs, joints, the system changed so."""
    trials: list[tuple[str, str, int, System]] = [
        ("as-is", "nothing", 0, system),
        ("shorter", "nearer", 0,
         with_runs(system, {
             item.id: {"length_m": figure(item, "length_m") / 2} for item in way
         })),
        ("thinner", "reducers", 2,
         with_runs(system, {
             item.id: {"bore_m": THINNER * figure(item, "bore_m"), "nominal": None}
             for item in way
         })),
        ("insulated", "sleeve", 0,
         with_runs(system, {item.id: {"insulation_m": FOAM_M} for item in way})),
        ("at-outlet", "elsewhere", 0,
         with_runs(system, {item.id: {"length_m": AT_THE_TAP_M} for item in way})),
    ]  # fmt: skip
    pump = next((part for part in system.parts if isinstance(part, temperature.LoopPump)), None)
    if pump is not None:
        trials.append(("without", "nothing", 0, without_loops(system)))
    in_place = pump is not None and well_placed(known)
    for rule in LOOPS:
        if pump is not None and in_place:
            if pump.rule != rule:
                built = with_part(system, pump.id, rule=rule)
                trials.append((rule, "loop_set", 0, built))
            continue
        tried = placed_loop(system, way, rule)
        if tried is not None:
            trials.append((rule, "loop_to_store", 6, tried))
    return trials


def dead_leg(
    brief: Brief, system: System, known: ComputedSystem, draw: Draw, pause_s: float, run: Run
) -> tuple[Remedy, ...]:
    """Compare the remedies of the dead leg on one draw after a pause.

    Parameters
    ----------
    brief, system : Brief, System
        The documents. [-]
    known : ComputedSystem
        The same with likely figures written in. [-]
    draw : Draw
        Which draw; its outlet named. [-]
    pause_s : float
        Since somebody last drew there, >= 0. [s]
    run : callable
        Simulates changed documents. [-]

    Returns
    -------
    tuple of Remedy
        As it is first; remedies that cannot be tried are left out. [SI]

    Notes
    -----
    Shorter halves the runs between heat and outlet, thinner takes a quarter off their bores,
    insulated puts 13 mm of foam on, at the outlet leaves a tenth of a metre of each. A jug and
    a diverter leave the wait as it is and keep the water, the diverter its heat too. Loops are
    simulated as a plumber would place them: the one there is where it is placed so, else one put
    in for the trial; where the heat is no vessel they are estimated from the loss of twice the
    way.
    """
    way = hot_route(known, draw.outlet or "")
    asked = _trial(brief, draw, pause_s)
    pump = next((part for part in system.parts if isinstance(part, temperature.LoopPump)), None)
    found: list[Remedy] = []
    base: Outcome | None = None
    for key, needs, joints, changed in _trials(system, known, way):
        try:
            outcome = run(asked, changed)
        except CoreError:
            continue
        result, lost_j = _dead_leg(outcome)
        base = base or outcome
        found.append(Remedy(
            key, needs, joints, result.wait_s, result.cold_m3, lost_j,
            _dips(outcome) if key in LOOPS else "",
            _standing_j(outcome) - _standing_j(base), result.flow_m3_per_s, True,
            sum(figure(item, "length_m") for item in way) if needs == "sleeve" else None,
        ))  # fmt: skip
    if not found:
        return ()
    first = found[0]
    kept = [
        Remedy("jug", "jug", 0, first.wait_s, 0.0, first.lost_j, "water_kept", 0.0,
             first.flow_m3_per_s, True),
        Remedy("diverter", "diverter", 5, first.wait_s, 0.0, 0.0, "all_kept", 0.0,
             first.flow_m3_per_s, True),
    ]  # fmt: skip
    simulated = {remedy.id for remedy in found}
    if pump is None and base is not None and not simulated & {"timed", "continuous"}:
        kept += _loops(base, way)
    return (*found, *kept)


def _loops(base: Outcome, way: tuple[Pipe, ...]) -> list[Remedy]:
    """Estimate loops that are not there: a pipe there and back, warm as long as it runs."""
    peak_c = base.draws[-1].peak_c
    if peak_c is None:  # nothing came out: nothing is known of how warm a loop would be
        return []
    hot_c = peak_c
    watts = volume = 0.0
    for run in way:
        bore, wall = figure(run, "bore_m"), figure(run, "wall_m")
        per_m = loss_w_per_m_k(
            bore_m=bore, wall_m=wall, material=run.material,
            insulation_m=figure(run, "insulation_m"),
            insulation_w_per_m_k=figure(run, "insulation_w_per_m_k"),
        )  # fmt: skip
        air = base.setup.hours.space_c(run.space, 12 * 3600.0)
        watts += 2 * per_m * figure(run, "length_m") * max(0.0, hot_c - air)
        volume += pi / 4 * bore**2 * figure(run, "length_m")
    flow = base.draws[-1].flow_m3_per_s
    wait = 1.0 if flow <= 0 else max(1.0, 0.05 * volume / flow)
    return [
        Remedy(key, "loop", 6, wait, flow * wait, 0.0, "estimated", share * watts * 86400.0, flow,
             False)
        for key, share in (("timed", LOOP_TIMED_SHARE), ("continuous", 1.0))
    ]  # fmt: skip
