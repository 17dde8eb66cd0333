"""What a stage may expect: figures of the engine, in the unit they are read in."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field

Band3 = tuple[float, float, float]  # low, likely, high


@dataclass(frozen=True, slots=True)
class Expect:
    """A figure to expect, in the unit it is read in; a bound nobody knows is None.

    `finds_l_per_h` is the least leak it shows, `at_m3` how much is in the tank.
    """

    quantity: str
    low: float | None
    likely: float | None
    high: float | None
    unit: str
    because: str
    finds_l_per_h: float | None = None
    at_m3: float | None = None


@dataclass(frozen=True, slots=True)
class Computed:
    """What the engine says of a design: flows of single outlets, pumps with everything shut.

    `flows` [m³/s] by outlet, `warmth` of its water [°C] and `wait_s` for it, low, likely, high;
    `behind` the outlets behind each mixing valve; `run_on_s` and `cut_out_pa` by pump; `kept_m3`
    water between the switch's pressures; `amps` by element, `heats_s` by it alone from cold to set;
    `heights` of ports as the vehicle stands [m], `heights_said` where anybody said how anything
    rises. `fills_s` by fresh tank; `pairs` of outlets that run at once, with both flows [m³/s];
    `drains` in the order they are opened, `drained_m3` by each, `stays_m3` in all; `trays` with
    seconds for five litres and water that stands [s, m]; `levels` of gauges by litres, low and
    high [m³, %]; `rests_pa` by pump after half an hour. What is not there is not computed.
    """

    flows: Mapping[str, Band3] = field(default_factory=dict)
    run_on_s: Mapping[str, Band3] = field(default_factory=dict)
    cut_out_pa: Mapping[str, float] = field(default_factory=dict)
    kept_m3: Mapping[str, Band3] = field(default_factory=dict)
    amps: Mapping[str, Band3] = field(default_factory=dict)
    heats_s: Mapping[str, Band3] = field(default_factory=dict)
    warmth: Mapping[str, Band3] = field(default_factory=dict)
    wait_s: Mapping[str, Band3] = field(default_factory=dict)
    behind: Mapping[str, tuple[str, ...]] = field(default_factory=dict)
    heights: Mapping[tuple[str, str], float] = field(default_factory=dict)
    heights_said: bool = False
    fills_s: Mapping[str, float] = field(default_factory=dict)
    pairs: Mapping[tuple[str, str], Mapping[str, Band3]] = field(default_factory=dict)
    drains: tuple[str, ...] = ()
    drained_m3: Mapping[str, float] = field(default_factory=dict)
    stays_m3: float | None = None
    trays: Mapping[str, tuple[float | None, float | None]] = field(default_factory=dict)
    levels: Mapping[str, tuple[Band3, ...]] = field(default_factory=dict)
    rests_pa: Mapping[str, Band3] = field(default_factory=dict)
