"""The arrays a circuit's bodies are kept in: what each column holds.

Apart from the code that fills them, so that kernels hang on nothing else.
"""

from __future__ import annotations

from typing import Final, NamedTuple

import numpy as np
from numpy.typing import NDArray

Floats = NDArray[np.float64]
Ints = NDArray[np.int64]

# what a link does to what passes
PASS, PIPE, LAYERED, STIRRED, HELD, COIL, PLATE, AIR_COIL, POOL_IN, POOL_OUT, REUSE = range(11)
# columns of `Bodies.vessel`
FIRST, COUNT, LAYER_KG, LAYER_J, LINK_W, AIR_C, JET, SPECIFIC, SOURCES_FROM, SOURCES_TO = range(10)
# columns of `Bodies.source`
(
    S_VESSEL, S_WATTS, S_SET, S_HYSTERESIS, S_SENSOR, S_LAG, S_FROM, S_UNTIL, S_ALLOWED, S_AT,
    S_LIMIT, S_LEAST, S_SHARES,
) = range(13)  # fmt: skip
# columns of `Bodies.stirred`
(
    B_HEAT_J, B_LOSS, B_AIR, B_SET, B_WATTS, B_LEAST, B_ON, B_OFF, B_SENSE, B_LIGHT, B_RAMP,
    B_KIND, B_LIMIT,
) = range(13)  # fmt: skip
PLAIN_BODY, THROUGH_FLOW, LOOP_HEATER = range(3)
# columns of `Bodies.reuse`
R_HEAT_J, R_STREAM_KG, R_STREAM_W, R_EXCHANGER, R_FALL, R_AIR = range(6)

GONE_C: Final = -1000.0  # a held link that gives nothing now: an engine that is cold


class Bodies(NamedTuple):
    """Bodies of a circuit; see the columns above.

    `act` and `slot` have an entry per link, `specific` the heat of its fluid [J/kgK]. `pipe`
    has a row per run: first cell, cells, cell mass [kg], wall heat, water-to-wall, wall-to-air
    [J/K, W/K], air [°C], link. `coil`: vessel, its layers from and to, conductance. `plate`:
    hot link, cold link, conductance. `air`: what an air coil or a held link is in, and its
    conductance or cap. `pool`: water and body, loss, air, specific heat, refill. `shared` is what
    sources of one supply may take together [W]; a source's `S_SHARES` says which, -1: alone.
    `fuse`: what a fuse bears [A], whether it has blown, and what runs on it beside sources [A];
    `wired`: fuse, source, and amps of the source by its watts [A/W]. `reuse`: water going round
    and its flow, its exchanger, what drops lose of their excess over the air, the air.
    """

    act: Ints
    slot: Ints
    specific: Floats
    pipe: Floats
    vessel: Floats
    loss_w: Floats
    source: Floats
    stirred: Floats
    coil: Floats
    plate: Floats
    air: Floats
    pool: Floats
    shared: Floats
    fuse: Floats
    wired: Floats
    reuse: Floats
