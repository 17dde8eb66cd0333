"""Compile the kernels before anyone waits for them; afterwards they come from a cache."""

from __future__ import annotations

import gc

from isotherma.catalogue.classes import classes
from isotherma.catalogue.demo import drover
from isotherma.catalogue.layouts import layouts
from isotherma.services.computing import compute
from isotherma.services.flows import Asked, solve_flows


def warm() -> None:
    """Simulate and solve the demo vehicle once and forget it; read the catalogue, which is kept."""
    classes()
    layouts()
    project = drover()
    compute(project, project.variants[0])
    solve_flows(project, project.variants[0], None, Asked(opens={"head": 1.0}))
    calm()


def calm() -> None:
    """Let the interpreter look for garbage seldom, and never among what stays anyway.

    The classes of all kinds never die, and documents kept for undo hardly: sweeping them over
    and over costs a day a quarter of its time. The server sweeps when nobody waits.
    """
    gc.collect()
    gc.freeze()
    gc.set_threshold(200_000, 50, 50)
