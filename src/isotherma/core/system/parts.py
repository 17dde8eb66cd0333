"""Kinds of part: typed properties and ports of each. The engine is elsewhere."""

from __future__ import annotations

from typing import Annotated, ClassVar, Literal

from pydantic import Field

from isotherma.core.climate import Place
from isotherma.core.fields import (
    Capacity,
    Clock,
    Coefficient,
    Conductivity,
    Difference,
    Document,
    Film,
    Flow,
    FlowFactor,
    HeatPower,
    Hysteresis,
    Loss,
    Name,
    Note,
    Power,
    Pressure,
    Seconds,
    Setting,
    Share,
    Size,
    Slug,
    Thickness,
    Volume,
)

LITRE_PER_MIN = 1e-3 / 60
FACTOR = LITRE_PER_MIN / 1e5**0.5  # L/min/√bar in SI


class PartBase(Document):
    """What every part has: an id, a kind, a name, a place."""

    ports: ClassVar[tuple[str, ...]] = ()
    title: ClassVar[str] = ""

    id: Slug
    name: Name = Field(default="", title="Name")
    place: Place = Field(default="inside", title="Lives")
    note: Note = Field(default="", title="Note")

    @property
    def label(self) -> str:
        """Give the name, or the kind's title where it has none."""
        return self.name or self.title


class FreshTank(PartBase):
    """A vented tank the pump draws from."""

    ports = ("outlet",)
    title = "Fresh tank"
    kind: Literal["fresh_tank"] = "fresh_tank"
    volume_m3: Volume | None = Field(
        default=None, title="Usable volume", description="What the pump can reach."
    )


class ShutOff(PartBase):
    """A valve that is open or shut by hand; taken as open."""

    ports = ("inlet", "outlet")
    title = "Shut-off"
    kind: Literal["shut_off"] = "shut_off"
    loss_k: Coefficient = Field(
        default=0.3, title="Loss coefficient", description="On the bore of the run before it."
    )


class Strainer(PartBase):
    """A mesh that keeps grit from the pump."""

    ports = ("inlet", "outlet")
    title = "Strainer"
    kind: Literal["strainer"] = "strainer"
    flow_factor_si: FlowFactor = Field(
        default=35 * FACTOR, title="Flow factor", description="Flow at one bar of loss, clean."
    )


class Pump(PartBase):
    """An electric pump with a pressure switch and a straight curve."""

    ports = ("inlet", "outlet")
    title = "Pump"
    kind: Literal["pump"] = "pump"
    open_flow_m3_per_s: Flow = Field(default=7.5 * LITRE_PER_MIN, title="Open flow")
    shut_pressure_pa: Pressure = Field(
        default=3.6e5, title="Pressure at no flow", description="Where the curve meets zero flow."
    )
    cut_in_pa: Pressure = Field(default=1.7e5, title="Switches on at")
    cut_out_pa: Pressure = Field(default=2.4e5, title="Switches off at")


class Accumulator(PartBase):
    """A small pressure vessel that calms the pump."""

    ports = ("inlet", "outlet")
    title = "Accumulator"
    kind: Literal["accumulator"] = "accumulator"
    volume_m3: Volume = Field(default=0.75e-3, title="Gas volume")
    precharge_pa: Pressure = Field(default=1.0e5, title="Pre-charge")


class Split(PartBase):
    """A tee where the cold branch leaves."""

    ports = ("inlet", "outlet", "branch")
    title = "Split"
    kind: Literal["split"] = "split"
    loss_k: Coefficient = Field(default=1.0, title="Loss coefficient")


class CheckValve(PartBase):
    """A valve that lets water pass one way only."""

    ports = ("inlet", "outlet")
    title = "Check valve"
    kind: Literal["check_valve"] = "check_valve"
    opening_pa: Pressure = Field(default=2e3, title="Opens at")
    flow_factor_si: FlowFactor = Field(default=30 * FACTOR, title="Flow factor")


class Window(Document):
    """A stretch of the day in which a source may run."""

    start_s: Clock = Field(default=0.0, title="From")
    end_s: Clock = Field(default=0.0, title="To", description="Equal to “from”: all day.")


class Source(Document):
    """What an element and a burner share: a thermostat and a stretch of the day."""

    set_c: Setting = Field(default=65.0, title="Thermostat set to")
    hysteresis_k: Hysteresis = Field(default=4.0, title="Comes on again after a fall of")
    sensor_share: Share = Field(default=0.3, title="Sensor height")
    sensor_lag_s: Seconds = Field(default=30.0, title="Sensor lag")
    window: Window = Window()


class Element(Source):
    """An electric heating element on mains."""

    power_w: Power | None = Field(default=None, title="Element power")
    height_share: Share = Field(default=0.1, title="Element height")


class Burner(Source):
    """A room-sealed gas burner below the store."""

    input_w: HeatPower | None = Field(
        default=None, title="Burner input", description="Net, from the plate."
    )
    efficiency: Annotated[Share, Field(gt=0)] = Field(default=0.8, title="Reaches the water")
    fuel: Literal["propane", "butane"] = Field(default="propane", title="Gas")


class Store(PartBase):
    """A closed, insulated store of hot water with an element, a burner or both."""

    ports = ("inlet", "outlet")
    title = "Store"
    kind: Literal["store"] = "store"
    volume_m3: Volume | None = Field(default=None, title="Volume")
    height_m: Size | None = Field(
        default=None, title="Inside height", description="Empty: as tall as it is wide."
    )
    layers: Annotated[int, Field(ge=1, le=40)] | None = Field(
        default=None, title="Layers", description="Empty: from volume and proportions."
    )
    insulation_m: Thickness = Field(default=0.025, title="Insulation")
    insulation_w_per_m_k: Conductivity = Field(default=0.035, title="Its conductivity")
    film_w_per_m2_k: Film = Field(default=8.0, title="Surface film")
    fittings_share: Share = Field(
        default=0.2, title="Added for fittings", description="Pipes and straps through the foam."
    )
    loss_w_per_k: Loss | None = Field(
        default=None, title="Measured loss", description="Wins over the estimate."
    )
    body_j_per_k: Capacity = Field(default=1500.0, title="Heat in the vessel")
    wall_w_m_per_k: Annotated[float, Field(ge=0, le=5)] = Field(
        default=0.04,
        title="Vessel wall conduction",
        description="Conductivity times area of the wall; steel about 0.04 W·m/K.",
    )
    jet_share: Share = Field(default=0.1, title="Inlet jet mixed")
    unreachable: Annotated[Share, Field(le=0.5)] = Field(
        default=0.05, title="Out of reach", description="Water the flow passes by."
    )
    element: Element | None = Field(default=None, title="Element")
    burner: Burner | None = Field(default=None, title="Burner")


class ThermostaticMixer(PartBase):
    """A valve that blends hot and cold to a setting."""

    ports = ("hot", "cold", "outlet")
    title = "Thermostatic mixer"
    kind: Literal["thermostatic_mixer"] = "thermostatic_mixer"
    set_c: Setting = Field(default=40.0, title="Set to")
    difference_k: Difference = Field(default=10.0, title="Minimum difference")
    lag_s: Annotated[Seconds, Field(le=30)] = Field(default=2.0, title="Lag")
    flow_factor_si: FlowFactor = Field(default=12 * FACTOR, title="Flow factor")
    min_flow_m3_per_s: Flow = Field(default=3 * LITRE_PER_MIN, title="Least flow")


class ShowerHead(PartBase):
    """The outlet people stand under."""

    ports = ("inlet",)
    title = "Shower head"
    kind: Literal["shower_head"] = "shower_head"
    flow_factor_si: FlowFactor = Field(default=5.2 * FACTOR, title="Flow factor")


class Tap(PartBase):
    """A second outlet; part of the document, not computed yet."""

    ports = ("inlet",)
    title = "Tap"
    kind: Literal["tap"] = "tap"
    flow_factor_si: FlowFactor = Field(default=6 * FACTOR, title="Flow factor")


class ManualMixer(PartBase):
    """A mixer at a fixed opening; part of the document, not computed yet."""

    ports = ("hot", "cold", "outlet")
    title = "Manual mixer"
    kind: Literal["manual_mixer"] = "manual_mixer"
    hot_share: Share = Field(default=0.5, title="Opening to hot")
    flow_factor_si: FlowFactor = Field(default=12 * FACTOR, title="Flow factor")


class ThroughFlowHeater(PartBase):
    """A heater without a store; part of the document, not computed yet."""

    ports = ("inlet", "outlet")
    title = "Through-flow heater"
    kind: Literal["through_flow_heater"] = "through_flow_heater"
    power_w: HeatPower | None = Field(default=None, title="Heat to the water")


class Drain(PartBase):
    """A low point that can be opened; part of the document, not computed yet."""

    ports = ("inlet",)
    title = "Drain"
    kind: Literal["drain"] = "drain"


Part = Annotated[
    FreshTank
    | ShutOff
    | Strainer
    | Pump
    | Accumulator
    | Split
    | CheckValve
    | Store
    | ThermostaticMixer
    | ShowerHead
    | Tap
    | ManualMixer
    | ThroughFlowHeater
    | Drain,
    Field(discriminator="kind"),
]
InLine = ShutOff | Strainer | Accumulator | CheckValve
IN_LINE: tuple[type[InLine], ...] = (ShutOff, Strainer, Accumulator, CheckValve)
