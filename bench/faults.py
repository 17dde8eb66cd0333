"""How much the order of tests saves: 500 hidden faults, four orders, all stopping alike.

Run by hand: `PYTHONPATH=src python bench/faults.py [count]`.
"""

from __future__ import annotations

import sys
import time

import numpy as np

from isotherma.catalogue.demo import curlew, drover, folio
from isotherma.catalogue.fault_table import fault_table
from isotherma.core.faults.board import Board, at_random, by_cost, cheapest_telling, greedy
from isotherma.core.faults.evidence import Evidence
from isotherma.core.faults.hypotheses import Hypotheses
from isotherma.core.faults.practice import hide, reported
from isotherma.core.faults.stops import stops_of
from isotherma.services.diagnosing import player_of

SEED = 20260731


def main(count: int) -> None:
    """Print the mean cost of each order, and how often the fault was named."""
    table = fault_table()
    boards = []
    for make in (folio, drover, curlew):
        project = make()
        variant = project.variants[0]
        started = time.perf_counter()
        player = player_of(project, variant, variant.standing, Evidence())
        boards.append(Board(Hypotheses(player), table))
        print(f"{project.name}: {len(boards[-1].instances)} faults, {len(boards[-1].laid)} tests, "
              f"laid in {time.perf_counter() - started:.1f} s")  # fmt: skip
    draw = np.random.default_rng(SEED)
    orders = {"ours": greedy, "any that is allowed": at_random(draw), "a list by cost": by_cost,
              "cheapest that tells": cheapest_telling}  # fmt: skip
    costs: dict[str, list[float]] = {name: [] for name in orders}
    named = dict.fromkeys(orders, 0)
    for number in range(count):
        board = boards[number % len(boards)]
        hidden = hide(board.instances, draw)
        seen, denied = reported(hidden, table, draw)
        stops = stops_of(table, Evidence(seen), board.hypotheses.player)
        for name, choose in orders.items():
            answers = np.random.default_rng((SEED, number))
            found = board.search(hidden, board.start(seen, denied), choose, answers, stops)
            costs[name].append(found.cost_min)
            named[name] += found.fault == hidden.instance.fault.id
    ours = float(np.mean(costs["ours"]))
    for name in orders:
        mean = float(np.mean(costs[name]))
        print(f"{name:22} {mean:7.1f} min, ours {1 - ours / mean:5.0%} less; "
              f"named {named[name] / count:.0%}")  # fmt: skip


if __name__ == "__main__":
    main(int(sys.argv[1]) if len(sys.argv) > 1 else 500)
