"""What a simulated day leaves behind: its log, its draws, its stretches, its balance."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, fields, replace
from typing import Any, Literal

import numpy as np
from numpy.typing import NDArray

from isotherma.core.brief import Draw
from isotherma.core.flows.report import ProfileStep
from isotherma.core.timeline.rows import Rows

Floats = NDArray[np.float64]


InventoryKind = Literal["battery", "gas", "diesel"]


@dataclass(frozen=True, slots=True)
class Ended:
    """When and how something carried ended: "empty", or a bottle "too cold" [s of the day]."""

    carried: InventoryKind
    clock_s: float
    how: str


@dataclass(frozen=True, slots=True)
class DrawRecord:
    """One draw as it ran.

    `opening` is how far its outlet was open, `way` what took the pressure on the strongest way to
    it, `standing_m3` the water in the runs between it and the last heat; `pulsing` says that a
    pump switched on and off, `pumping` which pumps moved water, `off` which were switched off,
    `through_m3_per_s` what ran through heaters by flow.

    `out` says what had ended by then: without the battery pumps stand, without gas or fuel
    flames; `stopped` what stood for a fuse by then; `round_m3` the water that went round where it
    was a loop's [m³]; `empty` the tank, bag or can that ran dry,
    `took_kg` what it took of each, less `returned_kg` that a return diverter sent back; `hot_s`
    since when it ran hotter than wanted, where it was that before it was right.
    """

    draw: Draw
    outlet: str
    opened_s: float
    warm_s: float | None
    closed_s: float
    dry: bool
    flow_m3_per_s: float
    index: int = 0
    opening: float = 1.0
    way: tuple[ProfileStep, ...] = ()
    standing_m3: float = 0.0
    pulsing: bool = False
    pumping: frozenset[str] = frozenset()
    off: frozenset[str] = frozenset()
    through_m3_per_s: Mapping[str, float] = field(default_factory=dict)
    out: frozenset[InventoryKind] = frozenset()
    stopped: frozenset[str] = frozenset()
    round_m3: float | None = None
    empty: str = ""
    took_kg: Mapping[str, float] = field(default_factory=dict)
    hot_s: float | None = None
    returned_kg: float = 0.0


@dataclass(frozen=True, slots=True)
class Vessel:
    """What is stored, in equal layers from below.

    A layer has `layer_kg` of water, and with its share of the body `layer_j_per_k`; beside them
    `aside_j_per_k` of water that the flow passes by. `losses_w_per_k` to the air by layer, `end_c`
    the layers as the day ended.
    """

    id: str
    layer_kg: float
    layer_j_per_k: float
    aside_j_per_k: float
    specific_j_per_kg_k: float
    air_c: float
    losses_w_per_k: tuple[float, ...]
    end_c: tuple[float, ...]

    @property
    def layers(self) -> int:
        """How many there are [-]."""
        return len(self.end_c)


@dataclass(frozen=True, slots=True)
class Filled:
    """A run that holds fresh water: how much, its heat with the wall, its loss to the air."""

    id: str
    label: str
    water_kg: float
    heat_j_per_k: float
    loss_w_per_k: float


@dataclass(frozen=True, slots=True)
class Source:
    """What heats a vessel from within: from which of its layers up, by the sensor in which.

    `vessel` is its place among the vessels; -1 for what heats an open box.
    """

    id: str
    vessel: int
    layer: int
    sensor: int
    power_w: float
    set_c: float
    hysteresis_k: float


@dataclass(frozen=True, slots=True)
class Heater:
    """What heats water as it passes, or a loop, and its power [W]."""

    id: str
    power_w: float


@dataclass(frozen=True, slots=True)
class Snapshot:
    """How everything stood at a moment, by state of the system: arrays and what fuses had borne.

    Enough to run on from it; "" is the state of the day. `battery_j` [J].
    """

    battery_j: float
    states: Mapping[str, tuple[tuple[Floats, ...], Floats]]


@dataclass(frozen=True, slots=True)
class Balance:
    """What came in, went out and stayed, in a day [J, kg]."""

    heat_in_j: float
    sources_j: Mapping[str, float]
    drawn_j: Mapping[str, float]
    bodies_j: Mapping[str, float]
    held_j: float
    air_j: float
    heat_out_j: float
    store_loss_j: float
    pipe_loss_j: float
    body_loss_j: float
    stored_change_j: float
    taken_kg: Mapping[str, float]
    energy_error_share: float
    water_error_share: float

    def drained(self, heat_j: float) -> Balance:
        """Count heat that went with what was drained or unjoined, or came with what was filled."""
        gone, came = max(0.0, heat_j), max(0.0, -heat_j)
        return replace(
            self, heat_out_j=self.heat_out_j + gone, heat_in_j=self.heat_in_j + came,
            stored_change_j=self.stored_change_j - heat_j,
        )  # fmt: skip


def merged(balances: Sequence[Balance]) -> Balance:
    """Add up the balances of a day spent in several states.

    Parameters
    ----------
    balances : sequence of Balance
        At least one, in order of time. [-]

    Returns
    -------
    Balance
        Their sum; of the errors the largest. [-]
    """
    if len(balances) == 1:
        return balances[0]
    found: dict[str, Any] = {}
    for item in fields(Balance):
        values = [getattr(balance, item.name) for balance in balances]
        if item.name.endswith("_share"):
            found[item.name] = max(values)
        elif isinstance(values[0], Mapping):
            keys = {key: None for value in values for key in value}
            found[item.name] = {key: sum(v.get(key, 0.0) for v in values) for key in keys}
        else:
            found[item.name] = sum(values)
    return Balance(**found)


@dataclass(frozen=True, slots=True)
class Stretch:
    """What a stretch of the day took, from one edge of the hours to the next.

    `sources_j` heat of elements and burners, `drawn_j` what elements took for it where their
    wires kept some, `bodies_j` heat of heaters [J], `pumped_s` of pumps [s], `starts` of heaters;
    `charge_w` what might have charged the battery, `standing_w` what it gave whatever the water
    did, `air_c` outside, `bottle_c` around the gas bottle; `waits` are sources that called for
    heat and found too little of the pitch left.
    """

    start_s: float
    span_s: float
    sources_j: Mapping[str, float]
    drawn_j: Mapping[str, float]
    bodies_j: Mapping[str, float]
    pumped_s: Mapping[str, float]
    starts: Mapping[str, float]
    charge_w: float
    standing_w: float
    air_c: float
    bottle_c: float
    air_j: float = 0.0
    waits: tuple[str, ...] = ()


@dataclass(frozen=True, slots=True)
class Day:
    """One simulated day: the log as its columns say, the draws, the balance.

    `pumped_s` is how long each pump ran [s], `starts` how often each heater lit, `fired_s` how
    long it heated [s], `stretches` what it took in order of time, `ended` what gave out in it;
    `washed_kg` what draws took from tanks, bags and cans, `swaps` when an empty can made room for
    the next [s]. `vessel` is the one shown, with its `layers`. `blown` are fuses, `tripped` sources
    whose cut-out waits for a hand, as the day ended; `morning` and `evening` how everything stood.
    """

    log: Floats
    drawn: tuple[DrawRecord, ...]
    balance: Balance
    pumped_s: Mapping[str, float]
    starts: Mapping[str, float]
    vessel: str
    layers: int
    stretches: tuple[Stretch, ...] = ()
    ended: tuple[Ended, ...] = ()
    washed_kg: Mapping[str, float] = field(default_factory=dict)
    swaps: tuple[tuple[float, str], ...] = ()
    fired_s: Mapping[str, float] = field(default_factory=dict)
    vessels: tuple[Vessel, ...] = ()
    pipes: tuple[Filled, ...] = ()
    sources: tuple[Source, ...] = ()
    heaters: tuple[Heater, ...] = ()
    blown: tuple[str, ...] = ()
    tripped: tuple[str, ...] = ()
    morning: Snapshot | None = None
    evening: Snapshot | None = None

    @property
    def rows(self) -> Rows:
        """Its log as named series."""
        return Rows(self.log)


@dataclass(frozen=True, slots=True)
class AlikeDays:
    """Days of a trip in a row that are alike: their kind, their numbers, how one of them ran.

    `kind` is "" where the brief names none.
    """

    kind: str
    first: int
    last: int
    day: Day
