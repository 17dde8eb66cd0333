"""Checks of whole designs in all their states, with and without the days they rest on.

Usage: PYTHONPATH=src .venv/bin/python bench/checks.py
"""

from __future__ import annotations

import time

from isotherma import catalogue
from isotherma.catalogue.demo import curlew, drover, folio
from isotherma.catalogue.layouts import layouts
from isotherma.catalogue.rules import rule_sets
from isotherma.core.checks.run import check_design
from isotherma.core.errors import CoreError
from isotherma.core.project import Project
from isotherma.core.results.outcome import Outcome
from isotherma.core.system.states import State
from isotherma.services.kernels import collect_seldom
from isotherma.services.runs import compute

ON = "2026-11-28"


def took(project: Project) -> tuple[float, float, int, int]:
    """Give seconds of the days and of the checks, states, findings."""
    variant = project.variants[0].built
    states: tuple[State | None, ...] = variant.system.states or (None,)
    began = time.perf_counter()
    days: dict[str | None, Outcome | CoreError] = {
        None if state is None else state.id: compute(project, variant, state) for state in states
    }
    ran = time.perf_counter()
    found = check_design(
        project, variant, rule_sets()["strictest"], catalogue.climate(project.brief), ON,
        day=lambda state: days[None if state is None else state.id],
    )  # fmt: skip
    return ran - began, time.perf_counter() - ran, len(states), len(found)


def main() -> None:
    """Print a line a design, and the slowest state."""
    collect_seldom()
    designs = [("Folio", folio()), ("Drover", drover()), ("Curlew", curlew())]
    designs += [(key, layout.project()) for key, layout in layouts().items()]
    took(designs[0][1])  # kernels and tables
    slowest = (0.0, "")
    for name, project in designs:
        days, checks, states, found = min(took(project) for _ in range(2))
        slowest = max(slowest, ((days + checks) / states, name))
        print(f"{name:24} {states} states {found:3} findings  days {days:5.2f} s"
              f"  checks {checks:5.2f} s  all {days + checks:5.2f} s")  # fmt: skip
    print(f"slowest state: {slowest[0]:.2f} s, {slowest[1]}")


if __name__ == "__main__":
    main()
