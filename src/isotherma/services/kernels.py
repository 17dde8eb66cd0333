"""Compile the kernels before anyone waits for them; afterwards they come from a cache.

A server answers at once and compiles beside that: what would compute meanwhile says how far it is.
One process compiles, others wait for it and read what it has kept.
"""

from __future__ import annotations

import fcntl
import gc
import os
from collections.abc import Iterator
from contextlib import contextmanager

from isotherma import catalogue, kernel_folder
from isotherma.catalogue.classes import classes
from isotherma.catalogue.demo import drover
from isotherma.catalogue.layouts import layouts
from isotherma.core.simulate import simulate
from isotherma.services.flows import Asked, solve_flows


def compile_kernels() -> None:
    """Simulate and solve the demo vehicle once and forget it; read the catalogue, which is kept."""
    classes()
    layouts()
    project = drover()
    variant = project.variants[0]
    climate = catalogue.climate(project.brief.region, project.brief.month)
    with _alone():
        simulate(project.brief, variant.system, climate, state=variant.standing)
        solve_flows(project, variant, None, Asked(opens={"head": 1.0}))
    collect_seldom()


@contextmanager
def _alone() -> Iterator[None]:
    """Let one process at a time compile."""
    folder = kernel_folder()
    folder.mkdir(parents=True, exist_ok=True)
    lock = os.open(folder / ".compiling", os.O_CREAT | os.O_RDWR, 0o666)
    try:
        fcntl.flock(lock, fcntl.LOCK_EX)
        yield
    finally:
        os.close(lock)


def collect_seldom() -> None:
    """Let the interpreter look for garbage seldom, and never among what stays anyway.

    The classes of all kinds never die, and documents kept for undo hardly: sweeping them over
    and over costs a day a quarter of its time. The server sweeps when nobody waits.
    """
    gc.collect()
    gc.freeze()
    gc.set_threshold(200_000, 50, 50)
