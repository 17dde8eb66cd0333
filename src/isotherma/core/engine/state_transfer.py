"""States of a system side by side: copied, filled for the first time, handed to another network."""

from __future__ import annotations

from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from isotherma.core.engine import columns
from isotherma.core.engine.columns import ThermalState
from isotherma.core.engine.thermal_elements import Named
from isotherma.core.flows.network_compiler import CompiledNetwork
from isotherma.core.system.kinds import temperature
from isotherma.core.thermal.mixer import HOT_STOP

Floats = NDArray[np.float64]


class Holder(NamedTuple):
    """A state with the names of what it holds: bodies, runs by the pipe's row, mixers."""

    state: ThermalState
    named: Named
    runs: list[str]
    mixers: tuple[str, ...]


def copied(state: ThermalState) -> ThermalState:
    """Give a copy that shares nothing.

    Parameters
    ----------
    state : ThermalState
        Any. [see columns]

    Returns
    -------
    ThermalState
        With arrays of its own. [see columns]
    """
    return ThermalState(*(array.copy() for array in state))


def overwrite(mine: ThermalState, theirs: ThermalState) -> ThermalState:
    """Let a state stand as another of the same network.

    Parameters
    ----------
    mine, theirs : ThermalState
        The first is written to. [see columns]

    Returns
    -------
    ThermalState
        The first. [see columns]
    """
    for into, source in zip(mine, theirs, strict=True):
        into[:] = source
    return mine


def filled(network: CompiledNetwork, named: Named, fresh_c: float) -> ThermalState:
    """Give the state just filled: fresh water everywhere, walls at their surroundings.

    Parameters
    ----------
    network : CompiledNetwork
        The network. [-]
    named : Named
        Its thermal elements. [-]
    fresh_c : float
        Of the fresh water. [°C]

    Returns
    -------
    ThermalState
        Nothing heats, nothing has been counted. [see columns]
    """
    thermal, links = named.thermal, len(network.links)
    wall = np.empty(named.cells)
    for row in thermal.pipe:
        first = int(row[columns.P_FIRST])
        wall[first : first + int(row[columns.P_CELLS])] = row[columns.P_AIR_C]
    stirred = np.zeros((len(thermal.stirred), 8))
    stirred[:, columns.TEMP] = thermal.stirred[:, columns.B_AIR] if len(thermal.stirred) else 0.0
    pool = np.zeros((len(thermal.pool), 3))
    if len(thermal.pool):
        pool[:, columns.POOL_KG], pool[:, columns.POOL_C] = thermal.pool[:, columns.O_KG], fresh_c
    opening = np.full(len(network.mixers), HOT_STOP)
    for at, part_id in enumerate(network.mixers):
        part = network.parts[part_id]
        if isinstance(part, temperature.ManualMixer):
            opening[at] = min(0.999, max(0.001, part.hot_share))
    return ThermalState(
        water=np.full(named.cells, fresh_c), wall=wall, ring=np.zeros((len(thermal.pipe), 3)),
        rested=np.zeros(len(thermal.pipe)), layers=np.full(named.layers, fresh_c),
        aside=np.full(named.layers, fresh_c),
        sensors=np.full(len(thermal.source), fresh_c), relays=np.zeros(len(thermal.source)),
        given=np.zeros(len(thermal.source)), drawn=np.zeros(len(thermal.source)), stirred=stirred,
        pool=pool,
        plate=np.zeros((len(thermal.plate), 6)), reuse=np.zeros((len(thermal.reuse), 5)),
        opening=opening, in_c=np.full(links, fresh_c),
        out_c=np.full(links, fresh_c), counted=np.zeros(columns.COUNTED), taken=np.zeros(links),
    )  # fmt: skip


def hand_over(here: Holder, there: Holder) -> ThermalState:
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
    ThermalState
        The first's, as it goes on. [see columns]
    """
    mine, theirs = here.state, there.state
    thermal, others = here.named.thermal, there.named.thermal
    for at, run in enumerate(here.runs):
        if run in there.runs:
            frm = there.runs.index(run)
            one, two = thermal.pipe[at], others.pipe[frm]
            a, b, cells = int(one[0]), int(two[0]), int(min(one[1], two[1]))
            mine.water[a : a + cells] = theirs.water[b : b + cells]
            mine.wall[a : a + cells] = theirs.wall[b : b + cells]
            mine.ring[at] = theirs.ring[frm]
    for at, vessel in enumerate(here.named.vessels):
        if vessel in there.named.vessels:
            frm = there.named.vessels.index(vessel)
            one, two = thermal.vessel[at], others.vessel[frm]
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
