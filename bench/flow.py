"""Steady flows, warm: a two-outlet network, 60 parts with loops, growth with size.

Usage: .venv/bin/python bench/flow.py
"""

from __future__ import annotations

import statistics
import sys
import time
from collections.abc import Callable
from pathlib import Path

import numpy as np

sys.path.insert(0, str(Path(__file__).parents[1]))

from isotherma.catalogue.layouts import layouts
from isotherma.core.flows.network_compiler import CompiledNetwork, compile_network
from isotherma.core.flows.pulse import operate
from isotherma.core.flows.report import flow_report
from isotherma.core.flows.shock import shocks
from isotherma.core.flows.solving import solve
from isotherma.core.system import System
from tests.networks import Grown, network, part, pipe, pump, tank, tap


def median_s(work: Callable[[], object], rounds: int = 300) -> float:
    """Give the median seconds of some rounds after three to warm up."""
    for _ in range(3):
        work()
    times = []
    for _ in range(rounds):
        began = time.perf_counter()
        work()
        times.append(time.perf_counter() - began)
    return statistics.median(times)


def two_outlets() -> System:
    """Tank, pump, accumulator, split, two taps."""
    parts = [tank(), pump(), part("acc", "accumulator"), part("split", "split"), tap("one"),
             tap("two")]  # fmt: skip
    runs = [pipe("tank", "pump"), pipe("pump", "acc"), pipe("acc", "split"), pipe("split", "one"),
            pipe("split.branch", "two")]  # fmt: skip
    return network(parts, runs)


def neighbours(network: CompiledNetwork) -> Callable[[], object]:
    """Solve warm between two openings of all outlets in turn."""
    wide = dict.fromkeys(network.ends, 1.0)
    less = dict.fromkeys(network.ends, 0.9)
    now = [solve(network, wide)]
    turn = [0]

    def work() -> object:
        turn[0] += 1
        now[0] = solve(network, less if turn[0] % 2 else wide, near=now[0])
        return now[0]

    return work


def main() -> None:
    """Print all figures, with a dense solution of a 60 × 60 system beside them."""
    dense = np.random.default_rng(1).random((60, 60)) + 60 * np.eye(60)
    right = np.ones(60)
    yard = median_s(lambda: np.linalg.solve(dense, right))
    print(f"a dense 60 × 60 solution: {yard * 1e6:.0f} µs")
    small = compile_network(two_outlets(), None)
    took = median_s(neighbours(small))
    print(f"two outlets, {len(small.links)} links: {took * 1e3:.3f} ms, {took / yard:.1f} of it")
    folio = layouts()["coolant-coil"].system
    network = compile_network(folio, folio.states[0])
    took = median_s(neighbours(network))
    print(f"coil layout, {len(network.links)} links, two circuits: {took * 1e3:.3f} ms")
    sizes = []
    for most in (15, 30, 60, 120, 240):
        per = []
        for seed in range(8):
            network = compile_network(Grown(seed, most).system(), None)
            if network.ends:
                took = median_s(neighbours(network), 40)
                per.append((len(network.parts), len(network.links), took))
        parts, links, took = (statistics.mean(column) for column in zip(*per, strict=True))
        sizes.append((links, took))
        print(
            f"grown, {parts:.0f} parts, {links:.0f} links with loops, mixers: {took * 1e3:.3f} ms, "
            f"{took / links * 1e6:.1f} µs a link"
        )
    slope = np.polyfit(np.log([s[0] for s in sizes]), np.log([s[1] for s in sizes]), 1)[0]
    print(f"grows with links to the power {slope:.2f}")
    began = time.perf_counter()
    for _ in range(20):
        fresh = compile_network(folio, folio.states[0])
        point = operate(fresh, {"head": 1.0})
        flow_report(point)
        shocks(fresh, point)
    took = (time.perf_counter() - began) / 20
    print(f"coil layout from the document to a whole report: {took * 1e3:.1f} ms")


if __name__ == "__main__":
    main()
