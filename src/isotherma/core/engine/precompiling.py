"""The kernels of a day, compiled for the types they are called with and not run.

A first run would compile one after the other as it comes to them. Two processes that compile
different ones for the same folder are done in half the time.
"""

from __future__ import annotations

import numpy as np

from isotherma.core.compiled import compile_for
from isotherma.core.engine import columns, kernel
from isotherma.core.engine.network_state import make_thermal_net
from isotherma.core.engine.state_simulation import StateSimulation
from isotherma.core.hydraulics import basin
from isotherma.core.setup import Setup


def compile_flow(setup: Setup) -> None:
    """Compile what runs while water flows.

    Parameters
    ----------
    setup : Setup
        Of any system; the types are the same for all. [-]

    Returns
    -------
    None
        It is kept on disk. [-]
    """
    simulation = StateSimulation(setup)
    network = simulation.network
    people = np.zeros((0, columns.T_ROUND + 1), dtype=np.int64)
    windows = np.zeros((0, columns.W_ABOVE + 1))
    reservoirs = columns.Reservoirs(np.zeros(0, dtype=np.int64), *(np.zeros(0) for _ in range(5)))
    log = np.empty((1, columns.LOG_COLUMNS))
    compile_for(
        kernel.run_flow, network.net, make_thermal_net(network, network.net),
        simulation.named.thermal, simulation.state, simulation.trial,
        simulation.flows.still(network), people, windows, simulation.layers_shown, 0.0, 1.0,
        reservoirs, simulation.fine_s, log, 0,
    )  # fmt: skip


def compile_rest(setup: Setup) -> None:
    """Compile what runs while everything stands, and the water in trays.

    Parameters
    ----------
    setup : Setup
        Of any system; the types are the same for all. [-]

    Returns
    -------
    None
        It is kept on disk. [-]
    """
    simulation = StateSimulation(setup)
    compile_for(basin.sink, np.zeros((1, 1)), np.zeros((1, 1)))
    log = np.empty((1, columns.LOG_COLUMNS))
    still = np.zeros(len(simulation.network.links))
    compile_for(
        kernel.run_rest, simulation.named.thermal, simulation.state, simulation.trial, still,
        simulation.layers_shown, 0.0, 1.0, log, 0, -1, 0,
    )  # fmt: skip
