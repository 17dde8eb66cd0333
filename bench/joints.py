"""How long a list takes, and a chain: by hand, as ratios in one run.

Usage: PYTHONPATH=src:. .venv/bin/python bench/joints.py
"""

from __future__ import annotations

from collections.abc import Callable
from time import perf_counter

from isotherma.catalogue.demo import folio
from isotherma.core.joints.resolver import Asked
from isotherma.services import shopping
from isotherma.services.joints import join


def seconds(what: Callable[[], object], times: int = 5) -> float:
    """Give the least of some tries."""
    found = []
    for _ in range(times):
        start = perf_counter()
        what()
        found.append(perf_counter() - start)
    return min(found)


def main() -> None:
    """Print seconds and their ratio to one chain."""
    project = folio()
    variant = project.variants[0]

    def cold() -> object:
        shopping._CHAINS.clear()
        return shopping.listed(project, variant)

    chain = seconds(lambda: join("male 3/8 in parallel", "push-in 15 mm", Asked()))
    rows = (
        ("one chain", chain),
        ("list of Folio, nothing kept", seconds(cold)),
        ("list of Folio, chains kept", seconds(lambda: shopping.listed(project, variant))),
        ("with prices and spares", seconds(lambda: shopping.shopping(project, variant))),
        ("what would save joints", seconds(lambda: shopping.savings(variant))),
    )
    for name, took in rows:
        print(f"{name}: {took * 1e3:.1f} ms, {took / chain:.1f} × one chain")


if __name__ == "__main__":
    main()
