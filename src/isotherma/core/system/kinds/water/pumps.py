"""What moves water and holds its pressure: pumps by wire, foot and hand, accumulators."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Annotated, Literal

from pydantic import Field

from isotherma.core.fields import (
    Current,
    Flow,
    Pressure,
    Rise,
    ShownPairs,
    SmallVolume,
    Voltage,
    Volume,
    known,
)
from isotherma.core.system.kinds.water.base import WaterPart
from isotherma.core.system.pieces import (
    BAR,
    LITRE,
    Around,
    Band,
    Port,
    certain,
    power,
    through,
    usual,
)

PumpPoints = Annotated[
    tuple[
        tuple[Annotated[float, Field(ge=0, le=2e6)], Annotated[float, Field(ge=0, le=2e-3)]], ...
    ],
    ShownPairs("pressure", "flow"),
    Field(max_length=12),
]


class Pump(WaterPart):
    """An electric pressure pump, with a pressure switch or held at constant pressure."""

    kind: Literal["pump"] = "pump"
    title = "Pump"
    ports = (*through("fluid"), power())
    printed = ("open_flow_m3_per_s", "cut_out_pa", "cut_in_pa", "control", "points", "volts_v",
               "current_a")  # fmt: skip
    needs = ("open_flow_m3_per_s", "shut_pressure_pa")
    positions = ("on", "off")
    caution = "Switch it off when you leave: a hose that lets go empties the tank onto the floor."
    usual = {
        "self_priming_m": usual(0.5, 1.5, 2.5, "diaphragm pumps lift some; dry ones lift less"),
    }
    open_flow_m3_per_s: Flow | None = known("Open flow", "Litres per minute on the box.")
    cut_out_pa: Pressure | None = known("Switches off at", "Cut-out pressure on the box.")
    cut_in_pa: Pressure | None = known("Switches on at")
    shut_pressure_pa: Pressure | None = known(
        "Pressure at no flow", "Where the curve meets zero flow."
    )
    control: Literal["switch", "constant pressure", "tap switch"] = Field(
        default="switch", title="Runs by", description="Its own switch, a drive, or the tap's."
    )
    points: PumpPoints | None = known(
        "Points of its curve", "Pressure and flow, as 0 bar 11 L/min; 2 bar 6 L/min."
    )
    volts_v: Voltage | None = known("Rated volts")
    current_a: Current | None = known("Amps on the box", "At its highest pressure.")
    self_priming_m: Rise | None = known("Lifts water by itself")
    may_sit: Literal["any way", "motor above", "motor above or level"] | None = known(
        "May be mounted", "As its sheet says; water that leaks must not run into the motor."
    )
    sits: Literal["motor above", "level", "motor below"] | None = known("Is mounted")

    def worked_out(self, around: Around) -> Mapping[str, Band]:
        """Infer the curve from open flow and cut-out, or from points."""
        found: dict[str, Band] = {}
        points = sorted(self.points or ())
        if len(points) >= 2 and points[0][1] > 0:
            found["open_flow_m3_per_s"] = certain(points[0][1], "first of the points")
            (p1, q1), (p2, q2) = points[-2], points[-1]
            end = p2 if q2 <= 0 or q1 <= q2 else p2 + q2 * (p2 - p1) / (q1 - q2)
            found["shut_pressure_pa"] = certain(end, "the last two points carried on to no flow")
        if self.cut_out_pa is not None:
            off = self.cut_out_pa
            found["cut_in_pa"] = Band(
                0.6 * off, 0.71 * off, 0.8 * off, "switches close again at about 7/10 of cut-out"
            )
            if "shut_pressure_pa" not in found:
                found["shut_pressure_pa"] = Band(
                    1.2 * off, 1.5 * off, 1.8 * off,
                    "the box names where the switch stops it; the pump itself could push about "
                    "half as much again",
                )  # fmt: skip
        elif self.shut_pressure_pa is not None or "shut_pressure_pa" in found:
            top = self.shut_pressure_pa
            if top is None:
                top = found["shut_pressure_pa"].likely
            found["cut_out_pa"] = Band(0.55 * top, 0.67 * top, 0.85 * top, "two thirds of no flow")
            found["cut_in_pa"] = Band(0.35 * top, 0.47 * top, 0.65 * top, "7/10 of cut-out")
        return found

    def lacking(self) -> Mapping[str, str]:
        """Name what the box says."""
        return {
            "open_flow_m3_per_s": "litres per minute on the box",
            "shut_pressure_pa": "the cut-out pressure on the box",
            "cut_out_pa": "the cut-out pressure on the box",
            "cut_in_pa": "the cut-out pressure on the box",
        }


class Submersible(WaterPart):
    """A small pump that hangs in a tank, can or bucket; runs while a switch is held."""

    kind: Literal["submersible"] = "submersible"
    title = "Submersible pump"
    ports = (Port("inlet", "water", needed=False), Port("outlet", "water"), power())
    printed = ("open_flow_m3_per_s", "shut_pressure_pa", "volts_v", "current_a")
    needs = ("open_flow_m3_per_s",)
    positions = ("on", "off")
    sits_in = ("fresh_tank", "loose_container", "outside_source")
    usual = {
        "shut_pressure_pa": usual(0.6 * BAR, 0.8 * BAR, 1.1 * BAR, "impeller pumps of this size"),
        "current_a": usual(2.0, 3.5, 5.0, "impeller pumps of this size at 12 V"),
    }
    open_flow_m3_per_s: Flow | None = known("Open flow")
    shut_pressure_pa: Pressure | None = known("Pressure at no flow")
    volts_v: Voltage | None = known("Rated volts")
    current_a: Current | None = known("Amps on the box")

    def lacking(self) -> Mapping[str, str]:
        """Name what the box says."""
        return {"open_flow_m3_per_s": "litres per minute on the box"}


class _Stroked(WaterPart):
    """A pump worked by a person."""

    usual = {"strokes_per_min": usual(25, 40, 60, "what people keep up while washing")}
    stroke_m3: SmallVolume | None = known("Water per stroke")
    strokes_per_min: Annotated[float, Field(gt=0, le=200)] | None = known("Strokes a minute")
    flow_m3_per_s: Flow | None = known("Flow when worked")

    def worked_out(self, around: Around) -> Mapping[str, Band]:
        """Flow from strokes."""
        if self.stroke_m3 is None:
            return {}
        rate = self.strokes_per_min
        low, likely, high = (rate, rate, rate) if rate else (25, 40, 60)
        v = self.stroke_m3 / 60
        return {"flow_m3_per_s": Band(low * v, likely * v, high * v, "strokes times their water")}

    def lacking(self) -> Mapping[str, str]:
        """Name what to measure."""
        return {"flow_m3_per_s": "millilitres per stroke: ten strokes into a jug"}


class FootPump(_Stroked):
    """A pump worked by foot; no pressure stands behind it."""

    kind: Literal["foot_pump"] = "foot_pump"
    title = "Foot pump"
    ports = through("water")
    printed = ("stroke_m3", "strokes_per_min")
    needs = ("flow_m3_per_s",)


class HandPump(_Stroked):
    """A pump worked by hand."""

    kind: Literal["hand_pump"] = "hand_pump"
    title = "Hand pump"
    ports = through("water")
    printed = ("stroke_m3", "strokes_per_min")
    needs = ("flow_m3_per_s",)


class Accumulator(WaterPart):
    """A small pressure vessel that calms the pump."""

    kind: Literal["accumulator"] = "accumulator"
    title = "Accumulator"
    ports = through()
    printed = ("volume_m3", "precharge_pa")
    usual = {
        "volume_m3": usual(0.5 * LITRE, 0.75 * LITRE, 1.0 * LITRE, "the small size most fit"),
        "precharge_pa": usual(0.7 * BAR, 1.0 * BAR, 1.5 * BAR, "as it leaves the shop"),
    }
    volume_m3: Volume | None = known("Gas volume")
    precharge_pa: Pressure | None = known("Pre-charge")
