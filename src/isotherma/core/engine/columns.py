"""The arrays a run works on: what each column of bodies, state, log and people holds.

Apart from the code that fills them, so that kernels hang on nothing else.
"""

from __future__ import annotations

from typing import Final, NamedTuple

import numpy as np
from numpy.typing import NDArray

from isotherma.core.timeline.columns import BURNER as BURNER
from isotherma.core.timeline.columns import COLD_SIDE as COLD_SIDE
from isotherma.core.timeline.columns import DRAW as DRAW
from isotherma.core.timeline.columns import ELEMENT as ELEMENT
from isotherma.core.timeline.columns import END as END
from isotherma.core.timeline.columns import HEAD as HEAD
from isotherma.core.timeline.columns import HOT as HOT
from isotherma.core.timeline.columns import LOG_COLUMNS as LOG_COLUMNS
from isotherma.core.timeline.columns import MASS as MASS
from isotherma.core.timeline.columns import MIXED as MIXED
from isotherma.core.timeline.columns import PHASE_OF as PHASE_OF
from isotherma.core.timeline.columns import SHARE as SHARE
from isotherma.core.timeline.columns import STEP as STEP
from isotherma.core.timeline.columns import STILL_KG_PER_S as STILL_KG_PER_S

Floats = NDArray[np.float64]
Ints = NDArray[np.int64]
Bools = NDArray[np.bool_]

# what a link does to what passes
PASS, PIPE, LAYERED, STIRRED, HELD, COIL, PLATE, AIR_COIL, POOL_IN, POOL_OUT, REUSE = range(11)
# columns of `vessel`
(
    FIRST, COUNT, LAYER_KG, LAYER_J, LINK_W, AIR_C, JET, SPECIFIC, SOURCES_FROM, SOURCES_TO, ENTERS,
    LEAVES, ASIDE_J, DRAWN,
) = range(14)  # fmt: skip
# columns of `source`; it sits in a vessel or in a pool, the other is NOWHERE
(
    S_VESSEL, S_WATTS, S_SET, S_HYSTERESIS, S_SENSOR, S_LAG, S_FROM, S_UNTIL, S_ALLOWED, S_AT,
    S_LIMIT, S_LEAST, S_SHARES, S_LATCHES, S_DRAWS, S_POOL,
) = range(16)  # fmt: skip
# columns of `stirred`
(
    B_HEAT_J, B_LOSS, B_AIR, B_SET, B_WATTS, B_LEAST, B_ON, B_OFF, B_SENSE, B_LIGHT, B_RAMP,
    B_KIND, B_LIMIT, B_SEES,
) = range(14)  # fmt: skip
PLAIN_BODY, THROUGH_FLOW, LOOP_HEATER = range(3)
# columns of `fuse`: what it bears, whether it has blown, what runs on it beside sources,
# what stands by on it, whether its loads must not run together
U_BEARS, U_BLOWN, U_OTHERS, U_STANDING, U_ALONE = range(5)
# columns of `pipe`: first cell, cells, mass of one [kg], its wall's heat [J/K], from water
# to wall and from wall to air [W/K], air [°C], the link
P_FIRST, P_CELLS, P_CELL_KG, P_WALL_J, P_TO_WALL_W, P_TO_AIR_W, P_AIR_C, P_LINK = range(8)
# columns of `coil`: its vessel, layers from and to, conductance
C_VESSEL, C_FROM, C_TO, C_CONDUCTANCE = range(4)
# columns of `plate`: links of its sides, conductance; of its state: what enters a side [°C]
# and passes it [W/K], whether both have been met in this step, what goes over [W]
X_HOT, X_COLD, X_CONDUCTANCE = range(3)
X_ENTERS_C, X_RATE, X_MET, X_PASSES_W = 0, 2, 4, 5
# columns of `air`: what an air coil or a held link is in, its conductance or cap
A_C, A_W = range(2)
# columns of `pool`
O_KG, O_BODY_J, O_LOSS, O_AIR_C, O_SPECIFIC, O_REFILLS = range(6)
# columns of `wired`
D_FUSE, D_SOURCE, D_AMPS_PER_W = range(3)
# columns of `Work.before`; of the store shown
BEFORE_HEAD, BEFORE_HOT = range(2)
SHOWN_FROM, SHOWN_LAYERS = range(2)
# columns of `reuse`
R_HEAT_J, R_STREAM_KG, R_STREAM_W, R_EXCHANGER, R_FALL, R_AIR = range(6)

NOWHERE: Final = -1
GONE_C: Final = -1000.0  # a held link that gives nothing now: an engine that is cold

# what is counted [J, kg]
(
    IN, OUT, SOURCES, BODIES, HELD_HEAT, AIR_HEAT, LOST_STORE, LOST_PIPE, LOST_BODY, MASS_IN,
    MASS_OUT,
) = range(11)  # fmt: skip
COUNTED: Final = 11
# columns of the state of a stirred body
TEMP, PHASE, TIMER, POWER, WANTED, HEAT_GIVEN, STARTS, FIRED_S = range(8)
COLD, SENSING, LIGHTING, BURNING = range(4)
# columns of the state of a pool
POOL_KG, POOL_C, POOL_RELAY = range(3)
# columns of the state of water that goes round: at the drain, at the head, power, whether it is
# there and runs
ROUND_C, ROUND_HEAD_C, ROUND_W, ROUND_THERE, ROUND_RUNS = range(5)
# columns of `taps`: links of the head and of the mixer's legs, the mixer, whose draw, its phase,
# and for a head of water that goes round its row
T_HEAD, T_HOT, T_COLD, T_MIXER, T_DRAW, T_PHASE, T_ROUND = range(7)
# columns of `windows`: edges, seconds inside so far, whether to stop when warm (1), or hot too (2),
# what somebody gives up below and seconds below it, seconds above the window
W_LOW, W_HIGH, W_INSIDE, W_STOPS, W_GIVES_UP, W_BELOW, W_ABOVE = range(7)
# what a relay does: off, on, would be on were its supply or its water there, held off by its
# cut-out, and the same until a hand resets it, which no day does
OFF, ON, WAITS, CUT, TRIPPED = (float(state) for state in range(5))
# why a stretch of flow ended
TIME_OVER, WARM, DRY, CALLED, LOG_FULL, TOO_COLD, TOO_HOT = range(7)


class ThermalElements(NamedTuple):
    """Thermal elements of a network; see the columns above.

    `act` and `slot` have an entry per link, `specific` the heat of its fluid [J/kgK]. `pipe`
    has a row per run. `shared` is what
    sources of one supply may take together [W]; a source's `S_SHARES` says which, -1: alone.
    `fuse`: as its columns say; `wired`: fuse, source, and amps of the source by its watts [A/W],
    where no volts are known. `feed`: what feeds each source, as
    `supply.ohms` has it, `ohm`: volts lost at a source for
    each amp that another takes. `reuse`: water going round and its flow, its exchanger, what
    drops lose of their excess over the air, the air.
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
    feed: Floats
    ohm: Floats
    reuse: Floats


class ThermalState(NamedTuple):
    """Everything that changes, written in place.

    `ring`, `water`, `wall` of the pipes and `rested` until when each has been cooled [s];
    `layers` and `aside`, the water the flow passes by; `sensors`, `relays`; `given` to the water
    and `drawn` for it by sources [J]; `stirred`, `pool`, `plate` and `reuse` as their columns say;
    `opening` and `shut`, `flow`, `pressure`, `parameters` of the network.
    """

    water: Floats
    wall: Floats
    ring: Floats
    rested: Floats
    layers: Floats
    aside: Floats
    sensors: Floats
    relays: Floats
    given: Floats
    drawn: Floats
    stirred: Floats
    pool: Floats
    plate: Floats
    reuse: Floats
    opening: Floats
    in_c: Floats
    out_c: Floats
    counted: Floats
    taken: Floats


class FlowState(NamedTuple):
    """The network side of a stretch: flows of the links and what they start from."""

    shut: Ints
    flow: Floats
    pressure: Floats
    parameters: Floats
    fixed: Floats
    outflow: Floats
    fluid: Ints
    tables: Floats
    given_c: Floats
    legs: Ints
    mixer: Floats
    lag: Floats
    reducer: Ints


class Reservoirs(NamedTuple):
    """What water is drawn from: by link which reservoir, -1 for none, and 1 or, back into it, -1.

    By well `left` in what is joined, `other` water taken evenly, what draws `took`, and the
    `rate` of now [kg, kg/s].
    """

    row: Ints
    way: Floats
    left: Floats
    other: Floats
    took: Floats
    rate: Floats


class Work(NamedTuple):
    """To work in, made once for a stretch: by link, by node, by layer.

    `order`, `cut` and `sign` say in which order, where cut and which way links run; `swing`,
    `last_flow`, `last_shut` how flows follow a valve; `before` what each head and hot leg were,
    `last_c` what left every link.
    """

    order: Ints
    cut: Ints
    waiting: Ints
    done: Bools
    rho: Floats
    mu: Floats
    mass_at: Floats
    heat_at: Floats
    coil_w: Floats
    room: Floats
    swing: Floats
    last_flow: Floats
    last_shut: Ints
    sign: Floats
    before: Floats
    last_c: Floats
