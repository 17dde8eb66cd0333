"""A simulated day, warm, and the same store against a stiff solver in the same run.

Usage: PYTHONPATH=src .venv/bin/python bench/day.py
"""

from __future__ import annotations

import resource
import statistics
import time
from collections.abc import Callable
from functools import partial

import numba
import numpy as np
from scipy.integrate import solve_ivp

from isotherma import catalogue
from isotherma.catalogue.demo import curlew, drover, folio
from isotherma.core.brief import Draw
from isotherma.core.brief.days import DayKind
from isotherma.core.editing import set_trip
from isotherma.core.engine import columns
from isotherma.core.engine.day_simulation import DaySimulation
from isotherma.core.results.outcome import Outcome
from isotherma.core.setup import Setup
from isotherma.core.simulate import simulate
from isotherma.core.thermal.store import advance, draw
from isotherma.services.kernels import collect_seldom


def best(work: Callable[[], object], rounds: int) -> float:
    """Give the median seconds of some rounds after one to warm up."""
    work()
    times = []
    for _ in range(rounds):
        began = time.perf_counter()
        work()
        times.append(time.perf_counter() - began)
    return statistics.median(times)


def in_turn(
    one: Callable[[], object], other: Callable[[], object], rounds: int
) -> tuple[float, float]:
    """Give the median seconds of two works done in turn, so that a slow minute slows both."""
    one()
    other()
    times: tuple[list[float], list[float]] = ([], [])
    for _ in range(rounds):
        for work, took in zip((one, other), times, strict=True):
            began = time.perf_counter()
            work()
            took.append(time.perf_counter() - began)
    return statistics.median(times[0]), statistics.median(times[1])


LAYERS, LAYER_J, LAYER_KG, SPECIFIC = 12, 5400.0, 1.25, 4182.0
LOSS = np.full(LAYERS, 0.08)
HEAT = np.full(LAYERS, 100.0)
FLOW_KG_PER_S = 0.05


@numba.njit(error_model="numpy")
def drawn_and_stood(
    layers: np.ndarray, sensors: np.ndarray, at: np.ndarray, lag: np.ndarray, heat: np.ndarray,
    loss: np.ndarray,
) -> None:  # fmt: skip
    """Step a store as a day does: in one compiled run."""
    for _ in range(600):
        draw(layers, LAYER_KG, LAYER_J, SPECIFIC, FLOW_KG_PER_S, 10.0, 0.0)
        advance(layers, LAYER_J, loss, 15.0, 2.0, heat, sensors, at, lag, 1.0)
    advance(layers, LAYER_J, loss, 15.0, 2.0, 0.0 * heat, sensors, at, lag, 85_800.0)


def ours() -> object:
    """Draw and heat a store for ten minutes at a second a step, then let it stand a day."""
    layers = np.full(LAYERS, 60.0)
    drawn_and_stood(layers, np.zeros(2), np.zeros(2), np.full(2, 30.0), HEAT, LOSS)
    return layers


def stiff() -> object:
    """Do the same with a stiff solver at 1e-6."""

    def right(time_s: float, t: np.ndarray) -> np.ndarray:
        drawn = time_s < 600
        flow = (HEAT if drawn else 0.0) - LOSS * (t - 15.0)
        flow[1:] += 2.0 * (t[:-1] - t[1:])
        flow[:-1] += 2.0 * (t[1:] - t[:-1])
        if drawn:
            flow += FLOW_KG_PER_S * SPECIFIC * (np.concatenate([[10.0], t[:-1]]) - t)
        return flow / LAYER_J

    state = np.full(LAYERS, 60.0)
    for span in ((0.0, 600.0), (600.0, 86_400.0)):
        state = solve_ivp(right, span, state, method="BDF", rtol=1e-6, atol=1e-6).y[:, -1]
    return state


@numba.njit(error_model="numpy")
def bare(layers: np.ndarray, count: int) -> float:
    """Run a bare loop of steps over layers, the yardstick of the handbook."""
    for _ in range(count):
        for i in range(layers.size - 1, 0, -1):
            layers[i] += 1e-6 * (layers[i - 1] - layers[i])
    return float(layers[0])


def ten_days(days: DaySimulation, draws: tuple[Draw, ...]) -> object:
    """Run ten days of a system one after the other."""
    return [
        days.day(draws, {well.id: -1e4 for well in days.usual.reservoirs.reservoirs})
        for _ in range(10)
    ]


def ten_second_means(outcome: Outcome, index: int) -> np.ndarray:
    """Give the means of a draw's temperature at the head over ten seconds each."""
    log = outcome.timeline.log
    rows = log[(log[:, columns.DRAW] == index) & (log[:, columns.MASS] > 0)]
    ends = np.concatenate([[0.0], np.cumsum(rows[:, columns.STEP])])
    sums = np.concatenate([[0.0], np.cumsum(rows[:, columns.STEP] * rows[:, columns.HEAD])])
    means: np.ndarray = np.diff(np.interp(np.arange(0.0, ends[-1], 10.0), ends, sums)) / 10.0
    return means


def furthest(usual: Outcome, fine: Outcome) -> float:
    """Give the largest difference of ten-second means between two runs of a day [K]."""
    found = 0.0
    for index in range(len(usual.draws)):
        one, other = ten_second_means(usual, index), ten_second_means(fine, index)
        both = min(len(one), len(other))
        found = max(found, float(np.abs(one[:both] - other[:both]).max(initial=0.0)))
    return found


def main() -> None:
    """Print the day of every demo variant, ten days of Folio, and the ratios."""
    collect_seldom()
    for project in (drover(), folio(), curlew()):
        climate = catalogue.climate(project.brief)
        for variant in project.variants[:2]:
            work = partial(simulate, project.brief, variant.system, climate)
            seconds = best(work, 7)
            outcome = work()
            flowing = sum(draw.end_s - draw.start_s for draw in outcome.draws) / 60
            print(
                f"{project.name}, {variant.id}: {seconds * 1e3:.0f} ms with the days before, "
                f"{flowing:.0f} min of flow a day"
            )
    project = folio()
    climate = catalogue.climate(project.brief)
    system = project.variants[0].system
    days = DaySimulation(Setup(project.brief, system, system.states[0], climate))
    draws = tuple(draw.settled(10.0) for draw in sorted(
        project.brief.draws, key=lambda item: item.start_s))  # fmt: skip
    took, yard = in_turn(
        partial(ten_days, days, draws),
        lambda: bare(np.linspace(10.0, 60.0, 12), 600_000),
        9,
    )
    asked = partial(simulate, project.brief, system, climate)
    gap = furthest(asked(), asked(fine_s=0.05))
    print(f"a day of Folio is within {gap:.2f} K of one in steps of 0.05 s, ten-second means")
    answered, beside = in_turn(asked, lambda: bare(np.linspace(10.0, 60.0, 12), 600_000), 15)
    print(
        f"ten days of Folio, answered (the day they repeat, the day before it, every budget): "
        f"{answered * 1e3:.0f} ms, {answered / beside:.1f} bare loops"
    )
    print(f"ten days of Folio, each stepped: {took * 1e3:.0f} ms, {took / yard:.0f} bare loops")
    kinds = tuple(
        DayKind(id=f"day-{at}", name=f"Day {at}", warmer_k=at - 5.0, sun=("clear", "dark")[at % 2])
        for at in range(10)
    )
    unlike = set_trip(project, kinds, [kind.id for kind in kinds]).brief
    trip, beside = in_turn(
        partial(simulate, unlike, system, climate),
        lambda: bare(np.linspace(10.0, 60.0, 12), 600_000),
        7,
    )
    print(f"ten unlike days of Folio: {trip * 1e3:.0f} ms, {trip / beside:.0f} bare loops")
    print(f"a bare loop: {yard * 1e3:.0f} ms")
    mine, theirs = best(ours, 15), best(stiff, 5)
    gap = float(np.abs(np.asarray(ours()) - np.asarray(stiff())).max())
    print(f"store: {mine * 1e3:.1f} ms against {theirs * 1e3:.0f} ms, {theirs / mine:.0f} times")
    print(f"largest difference {gap:.3f} K")
    peak = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1024
    print(f"peak memory {peak:.0f} MB")


if __name__ == "__main__":
    main()
