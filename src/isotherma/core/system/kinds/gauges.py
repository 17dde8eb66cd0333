"""Gauges: what is read, where it sits, and how it fails."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from isotherma.core.fields import (
    Difference,
    Flow,
    Height,
    PartRef,
    Share,
    ShownPairs,
    known,
)
from isotherma.core.system.pieces import PartBase, power, through, usual

_TANKS = ("fresh_tank", "grey_tank", "loose_container", "waste_container", "store", "fuel_tank")


# what it shows, and the litres that are in the tank then
GaugePoints = Annotated[
    tuple[tuple[Annotated[float, Field(ge=0, le=1)], Annotated[float, Field(ge=0, le=5)]], ...],
    ShownPairs("share", "volume"),
    Field(max_length=40),
]
POINTS_WORDS = "What it shows and what is in the tank then, as 25 % 20 L; 50 % 45 L."


class Gauge(PartBase):
    """Something that is read."""

    side = "gauges"


class FloatSender(Gauge):
    """A float on a rod, read as steps or a needle."""

    kind: Literal["float_sender"] = "float_sender"
    title = "Float sender"
    ports = (power(),)
    printed = ("rod_m", "offset_m", "steps")
    sits_in = _TANKS
    usual = {"offset_m": usual(0.01, 0.03, 0.06, "the float does not reach floor or lid")}
    rod_m: Height | None = known("Rod length")
    offset_m: Height | None = known("Lowest reading above the floor")
    steps: Literal[4, 5, 8, 16] | None = known("Steps it shows")
    gauge_points: GaugePoints | None = known("Measured points", POINTS_WORDS)


class LevelSwitch(Gauge):
    """A switch at one level."""

    kind: Literal["level_switch"] = "level_switch"
    title = "Level switch"
    ports = (power(),)
    printed = ("at_share", "closes", "fails")
    sits_in = _TANKS
    at_share: Share | None = known("At a level of", "Share of the tank's height.")
    closes: Literal["when wet", "when dry"] = Field(default="when wet", title="Closes")
    fails: Literal["open", "closed"] | None = known("When it fails it stays")
    acts_on: PartRef | None = known("Acts on", "The valve, pump or element it switches.")


class SightTube(Gauge):
    """A clear tube beside a tank."""

    kind: Literal["sight_tube"] = "sight_tube"
    title = "Sight tube"
    printed = ("low_m", "high_m")
    sits_in = _TANKS
    low_m: Height | None = known("Lower tail above the floor")
    high_m: Height | None = known("Upper tail above the floor")
    gauge_points: GaugePoints | None = known("Measured points", POINTS_WORDS)


class BottleGauge(Gauge):
    """What tells the gas left: a scale, or a pressure gauge that tells little."""

    kind: Literal["bottle_gauge"] = "bottle_gauge"
    title = "Bottle gauge"
    printed = ("way",)
    sits_in = ("gas_bottle", "regulator")
    way: Literal["scale", "pressure", "ultrasonic", "strip"] = Field(
        default="scale", title="Reads by"
    )


class Thermometer(Gauge):
    """A thermometer in a pocket, strapped on or in the stream."""

    kind: Literal["thermometer"] = "thermometer"
    title = "Thermometer"
    ports = (power(),)
    printed = ("place", "at_share")
    usual = {"error_k": usual(0.5, 1.5, 4.0, "strapped on under tape; a pocket reads truer")}
    place: Literal["pocket", "strapped on", "in the stream"] = Field(
        default="strapped on", title="Sits"
    )
    at_share: Share | None = known("At a height of", "Share of the store's height.")
    error_k: Difference | None = known("May be wrong by")


class FlowMeter(Gauge):
    """A small turbine that counts litres."""

    kind: Literal["flow_meter"] = "flow_meter"
    title = "Flow meter"
    ports = (*through("fluid"), power())
    printed = ("least_m3_per_s", "most_m3_per_s", "error_share")
    usual = {"error_share": usual(0.02, 0.05, 0.15, "small turbines, not calibrated")}
    least_m3_per_s: Flow | None = known("Counts from")
    most_m3_per_s: Flow | None = known("Counts up to")
    error_share: Share | None = known("May be wrong by")


GaugeKind = FloatSender | LevelSwitch | SightTube | BottleGauge | Thermometer | FlowMeter
