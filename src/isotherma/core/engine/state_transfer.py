"""States of a system side by side: copied, filled for the first time, handed to another network."""

from __future__ import annotations

from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from isotherma.core.engine import columns
from isotherma.core.engine.columns import State
from isotherma.core.engine.thermal_elements import Named
from isotherma.core.flows.network_compiler import Circuit
from isotherma.core.system.kinds import temperature
from isotherma.core.thermal.mixer import HOT_STOP

Floats = NDArray[np.float64]


class Holder(NamedTuple):
    """A state with the names of what it holds: bodies, runs by the pipe's row, mixers."""

    state: State
    named: Named
    runs: list[str]
    mixers: tuple[str, ...]


def copied(state: State) -> State:
    """Give a copy that shares nothing.

    Parameters
    ----------
    state : State
        Any. [see columns]

    Returns
    -------
    State
        With arrays of its own. [see columns]
    """
    return State(*(array.copy() for array in state))


def overwrite(mine: State, theirs: State) -> State:
    """Let a state stand as another of the same network.

    Parameters
    ----------
    mine, theirs : State
        The first is written to. [see columns]

    Returns
    -------
    State
        The first. [see columns]
    """
    for into, source in zip(mine, theirs, strict=True):
        into[:] = source
    return mine


def filled(circuit: Circuit, named: Named, fresh_c: float) -> State:
    """Give the state just filled: fresh water everywhere, walls at their surroundings.

    Parameters
    ----------
    circuit : Circuit
        The network. [-]
    named : Named
        Its bodies. [-]
    fresh_c : float
        Of the fresh water. [°C]

    Returns
    -------
    State
        Nothing heats, nothing has been counted. [see columns]
    """
    bodies, links = named.bodies, len(circuit.links)
    wall = np.empty(named.cells)
    for row in bodies.pipe:
        first = int(row[columns.P_FIRST])
        wall[first : first + int(row[columns.P_CELLS])] = row[columns.P_AIR_C]
    stirred = np.zeros((len(bodies.stirred), 8))
    stirred[:, columns.TEMP] = bodies.stirred[:, columns.B_AIR] if len(bodies.stirred) else 0.0
    pool = np.zeros((len(bodies.pool), 3))
    if len(bodies.pool):
        pool[:, columns.POOL_KG], pool[:, columns.POOL_C] = bodies.pool[:, columns.O_KG], fresh_c
    opening = np.full(len(circuit.mixers), HOT_STOP)
    for at, part_id in enumerate(circuit.mixers):
        part = circuit.parts[part_id]
        if isinstance(part, temperature.ManualMixer):
            opening[at] = min(0.999, max(0.001, part.hot_share))
    return State(
        water=np.full(named.cells, fresh_c), wall=wall, ring=np.zeros((len(bodies.pipe), 3)),
        rested=np.zeros(len(bodies.pipe)), layers=np.full(named.layers, fresh_c),
        aside=np.full(named.layers, fresh_c),
        sensors=np.full(len(bodies.source), fresh_c), relays=np.zeros(len(bodies.source)),
        given=np.zeros(len(bodies.source)), drawn=np.zeros(len(bodies.source)), stirred=stirred,
        pool=pool,
        plate=np.zeros((len(bodies.plate), 6)), reuse=np.zeros((len(bodies.reuse), 5)),
        opening=opening, in_c=np.full(links, fresh_c),
        out_c=np.full(links, fresh_c), counted=np.zeros(columns.COUNTED), taken=np.zeros(links),
    )  # fmt: skip


def hand_over(here: Holder, there: Holder) -> State:
    """Go on from another network of the same system.

    What both have keeps its heat; what only one has stands as it was left, or is empty.

    Parameters
    ----------
    here : Holder
        Written to. [-]
    there : Holder
        As it was left. [-]

    Returns
    -------
    State
        The first's, as it goes on. [see columns]
    """
    mine, theirs = here.state, there.state
    bodies, others = here.named.bodies, there.named.bodies
    for at, run in enumerate(here.runs):
        if run in there.runs:
            frm = there.runs.index(run)
            one, two = bodies.pipe[at], others.pipe[frm]
            a, b, cells = int(one[0]), int(two[0]), int(min(one[1], two[1]))
            mine.water[a : a + cells] = theirs.water[b : b + cells]
            mine.wall[a : a + cells] = theirs.wall[b : b + cells]
            mine.ring[at] = theirs.ring[frm]
    for at, vessel in enumerate(here.named.vessels):
        if vessel in there.named.vessels:
            frm = there.named.vessels.index(vessel)
            one, two = bodies.vessel[at], others.vessel[frm]
            a, b, layers = int(one[0]), int(two[0]), int(one[1])
            mine.layers[a : a + layers] = theirs.layers[b : b + layers]
            mine.aside[a : a + layers] = theirs.aside[b : b + layers]
    _by_name(here.named.sources, mine.sensors, there.named.sources, theirs.sensors)
    _by_name(here.named.sources, mine.relays, there.named.sources, theirs.relays)
    _by_name(here.named.stirred, mine.stirred, there.named.stirred, theirs.stirred)
    _by_name(here.named.pools, mine.pool, there.named.pools, theirs.pool)
    _by_name(here.mixers, mine.opening, there.mixers, theirs.opening)
    return mine


def filled_up(rows: list[Floats], width: int) -> list[Floats]:
    """Let a vessel that a state lacks stand as it last was, in the log.

    Parameters
    ----------
    rows : list of array
        Pieces of the log, some without layers. [see columns]
    width : int
        Columns of the whole. [-]

    Returns
    -------
    list of array
        All of that width, shape (n_rows, width) each. [see columns]
    """
    found: list[Floats] = []
    last = np.zeros(width - columns.LOG_COLUMNS)
    for part in rows:
        if part.shape[1] < width:
            part = np.hstack([part, np.broadcast_to(last, (len(part), last.size))])
        if len(part):
            last = part[-1, columns.LOG_COLUMNS :]
        found.append(part)
    return found


def _by_name(names: tuple[str, ...], into: Floats, others: tuple[str, ...], source: Floats) -> None:
    """Copy rows of what goes by the same name; of several alike, in their order."""
    rows: dict[str, list[int]] = {}
    for at, name in enumerate(others):
        rows.setdefault(name, []).append(at)
    for at, name in enumerate(names):
        if rows.get(name):
            into[at] = source[rows[name].pop(0)]
