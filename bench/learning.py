"""Whether learned bands hold what is true: simulated vehicles, readings with noise.

Run by hand: `PYTHONPATH=src python bench/learning.py [count]`.
"""

from __future__ import annotations

import sys
import time
from dataclasses import dataclass, replace
from math import exp

import numpy as np

from isotherma.catalogue.demo import drover
from isotherma.core.bench_sums.base import capacity_j_per_k
from isotherma.core.faults.readings import KINDS, Reading, usual_doubt
from isotherma.core.learning.parameters import parameter
from isotherma.core.learning.rows import Row
from isotherma.core.project import Project, Variant
from isotherma.core.system.nominal import computed, known_figure
from isotherma.services.learning import LearnedAll, learn

SEED = 20261128
LITRE, L_PER_MIN, BAR = 1e-3, 1e-3 / 60.0, 1e5
MAINS_V = 230.0
LEARNED = (
    ("store", "loss_w_per_k"), ("store", "volume_m3"), ("element", "power_w"),
    ("pump", "open_flow_m3_per_s"), ("pump", "shut_pressure_pa"), ("head", "flow_factor_si"),
    ("tank", "volume_m3"),
)  # fmt: skip


@dataclass(frozen=True, slots=True)
class Simulated:
    """A vehicle as it truly is, and what somebody read of it."""

    project: Project
    variant: Variant
    truth: dict[str, float]
    rows: tuple[Row, ...]


class _Logbook:
    """Writes rows with noise."""

    def __init__(self, draw: np.random.Generator) -> None:
        self.draw = draw
        self.rows: list[Row] = []

    def read(
        self, session: str, kind: str, time_s: float, quantity: str, part: str | None, value: float
    ) -> None:
        """Note a reading, off by its usual doubt."""
        doubt = usual_doubt(KINDS[quantity], value)
        noisy = value + doubt * float(self.draw.normal())
        reading = Reading(quantity, part, noisy, unsure=doubt)
        self.rows.append(Row(len(self.rows) + 1, session, kind, time_s, reading))


def simulated(seed: int, *, lies: int = 0) -> Simulated:
    """Draw a vehicle by what is known of Drover, and six sessions of readings.

    Parameters
    ----------
    seed : int
        The same gives the same. [-]
    lies : int
        How many rows are wrong by twenty doubts. [-]

    Returns
    -------
    Simulated
        Truth by path, and rows. [SI, see `KINDS`]
    """
    project = drover()
    variant = project.variants[0]
    system = variant.system
    draw = np.random.default_rng((SEED, seed))
    truth = {}
    for part_id, name in LEARNED:
        known = parameter(system, system.part(part_id), name, None)
        assert known is not None
        truth[known.path] = known.value(known.mean + known.sigma * float(draw.normal()))
    book = _Logbook(draw)
    _stores(book, truth, draw)
    _water(book, truth, draw)
    rows = list(book.rows)
    for number in draw.choice(len(rows), size=lies, replace=False):
        row = rows[int(number)]
        wrong = replace(row.reading, value=row.value + 20.0 * row.doubt)
        rows[int(number)] = replace(row, reading=wrong)
    return Simulated(project, variant, truth, tuple(rows))


def _stores(book: _Logbook, truth: dict[str, float], draw: np.random.Generator) -> None:
    loss, volume = truth["parts.store.loss_w_per_k"], truth["parts.store.volume_m3"]
    watts = truth["parts.element.power_w"]
    store = computed(drover().variants[0].system).part("store")
    body = known_figure(store, "body_j_per_k")
    assert body is not None
    capacity = capacity_j_per_k(volume, 15.0, 60.0) + body
    for name in ("cools one", "cools two"):
        air, start = float(draw.uniform(5.0, 20.0)), float(draw.uniform(58.0, 66.0))
        book.read(name, "cool_down", 0.0, "air", None, air)
        for hour in range(11):
            left = exp(-loss * hour * 3600.0 / capacity)
            book.read(name, "cool_down", hour * 3600.0, "temp", "store", air + (start - air) * left)
    for name in ("heats one", "heats two"):
        air, start = float(draw.uniform(8.0, 20.0)), float(draw.uniform(10.0, 16.0))
        book.read(name, "heat_up", 0.0, "air", None, air)
        rests = air + watts / loss
        for step in range(9):
            seconds = step * 240.0
            celsius = rests + (start - rests) * exp(-loss * seconds / capacity)
            if celsius < 68.0:
                book.read(name, "heat_up", seconds, "temp", "store", celsius)
        book.read(name, "heat_up", 60.0, "amps", "element", watts / MAINS_V)


def _water(book: _Logbook, truth: dict[str, float], draw: np.random.Generator) -> None:
    most, shut = truth["parts.pump.open_flow_m3_per_s"], truth["parts.pump.shut_pressure_pa"]
    for name in ("flows one", "flows two"):
        for number, share in enumerate((0.15, 0.4, 0.7)):
            pa = share * shut + 1e3 * float(draw.normal())
            flow = most * (1.0 - pa / shut) / L_PER_MIN
            at = number * 60.0
            # the gauge is taken as true: its doubt is in the flow's
            book.rows.append(Row(len(book.rows) + 1, name, "flow", at,
                                 Reading("pressure", "pump", pa / BAR)))  # fmt: skip
            book.read(name, "flow", at, "flow", "pump", flow)
        for number, bar in enumerate((0.6, 1.2)):
            at = 600.0 + number * 60.0
            book.rows.append(Row(len(book.rows) + 1, name, "flow", at,
                                 Reading("pressure", "head", bar)))  # fmt: skip
            flow = truth["parts.head.flow_factor_si"] * (bar * BAR) ** 0.5 / L_PER_MIN
            book.read(name, "flow", at, "flow", "head", flow)
        book.read(f"fills {name}", "fill", 0.0, "litres", "tank",
                  truth["parts.tank.volume_m3"] / LITRE)  # fmt: skip
    book.read("fills three", "fill", 0.0, "litres", "tank", truth["parts.tank.volume_m3"] / LITRE)


def held(made: Simulated, found: LearnedAll) -> tuple[int, int]:
    """Count what was offered, and how much of it holds what is true."""
    offered = [one for one in found.figures.learned
               if one.offered and one.parameter.path in made.truth]  # fmt: skip
    inside = sum(one.low <= made.truth[one.parameter.path] <= one.high for one in offered)
    return inside, len(offered)


def main(count: int) -> None:
    """Print the share of offered bands that hold the truth."""
    inside = offered = 0
    started = time.perf_counter()
    by_path: dict[str, list[int]] = {}
    for seed in range(count):
        made = simulated(seed)
        found = learn(made.project, made.variant, made.rows)
        one, all_of = held(made, found)
        inside, offered = inside + one, offered + all_of
        for item in found.figures.learned:
            if item.offered and item.parameter.path in made.truth:
                hit = item.low <= made.truth[item.parameter.path] <= item.high
                by_path.setdefault(item.parameter.path, []).append(int(hit))
    print(f"{count} vehicles, {offered} offers, {inside / offered:.1%} hold what is true; "
          f"{(time.perf_counter() - started) / count:.2f} s each")  # fmt: skip
    for path, hits in sorted(by_path.items()):
        print(f"  {path:36} {len(hits):4} offers, {sum(hits) / len(hits):.0%}")


if __name__ == "__main__":
    main(int(sys.argv[1]) if len(sys.argv) > 1 else 200)
