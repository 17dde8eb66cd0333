"""Compile the kernels before anyone waits for them; afterwards they come from a cache.

A server answers at once and compiles beside that: what would compute meanwhile says how far it is.
One process compiles, others wait for it and read what it has kept.
"""

from __future__ import annotations

import ctypes
import fcntl
import gc
import os
import signal
import subprocess
import sys
from collections.abc import Iterator
from contextlib import contextmanager, suppress
from pathlib import Path
from typing import Final

import isotherma
from isotherma import catalogue, kernel_folder
from isotherma.catalogue.classes import classes
from isotherma.catalogue.demo import drover
from isotherma.catalogue.layouts import layouts
from isotherma.core.engine.precompiling import compile_flow, compile_rest
from isotherma.core.setup import Setup
from isotherma.core.simulate import simulate
from isotherma.services.flows import Asked, solve_flows

DONE: Final = ".compiled"  # in the folder of kernels once all are there
OTHER_S: Final = 300.0
ENDS_WITH_PARENT: Final = 1  # PR_SET_PDEATHSIG of prctl(2)


def compile_kernels() -> None:
    """Simulate and solve the demo vehicle once and forget it; read the catalogue, which is kept.

    Where nothing is compiled yet two processes share the work.
    """
    classes()
    layouts()
    done, setup = kernel_folder() / DONE, _setup()
    with _alone():
        if not done.exists() and (os.cpu_count() or 1) > 1:
            _share_out(setup)
        simulate(setup.brief, setup.system, setup.climate, state=setup.standing)
        _solve()
        done.touch()
    collect_seldom()


def _setup() -> Setup:
    """Give the demo vehicle's documents, and what follows from them once somebody asks."""
    project = drover()
    variant = project.variants[0]
    climate = catalogue.climate(project.brief)
    return Setup(project.brief, variant.built.system, variant.standing, climate)


def _solve() -> None:
    project = drover()
    solve_flows(project, project.variants[0], None, Asked(opens={"head": 1.0}))


def _share_out(setup: Setup) -> None:
    """Compile what water flows by here, the network and what stands in another process.

    Should the other fail, this one compiles all there is as it comes to it.
    """
    env = {**os.environ, "PYTHONPATH": str(Path(isotherma.__file__).parents[1])}
    code = "from isotherma.services.kernels import compile_half; compile_half()"
    other = subprocess.Popen([sys.executable, "-c", code], env=env, stderr=subprocess.DEVNULL)
    try:
        compile_flow(setup)
        with suppress(subprocess.TimeoutExpired):
            other.wait(timeout=OTHER_S)
    finally:
        other.kill()
        other.wait()


def compile_half() -> None:
    """Compile the other half, in a process that ends when the one that began it does."""
    ctypes.CDLL(None).prctl(ENDS_WITH_PARENT, signal.SIGKILL)
    _solve()
    compile_rest(_setup())


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
