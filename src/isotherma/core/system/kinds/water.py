"""Water in and water moved: tanks and sources, pumps, valves, fittings in line."""

from __future__ import annotations

from collections.abc import Mapping
from math import sqrt
from typing import Annotated, Literal

from pydantic import Field

from isotherma.core.fields import (
    BigVolume,
    Bore,
    Clock,
    Coefficient,
    Count,
    Current,
    Fine,
    Flow,
    FlowFactor,
    Height,
    Length,
    Loss,
    Name,
    PartRef,
    Pressure,
    Rise,
    Seconds,
    Share,
    ShownPairs,
    Size,
    SmallVolume,
    Temperature,
    Voltage,
    Volume,
    Water,
    Watts,
    known,
)
from isotherma.core.system.pieces import (
    BAR,
    FACTOR,
    LITRE,
    LITRE_PER_MIN,
    Around,
    Band,
    PartBase,
    Port,
    Switchable,
    box_volume,
    certain,
    power,
    present,
    through,
    usual,
)
from isotherma.core.thermal.store import tank_loss_w_per_k

PumpPoints = Annotated[
    tuple[
        tuple[Annotated[float, Field(ge=0, le=2e6)], Annotated[float, Field(ge=0, le=2e-3)]], ...
    ],
    ShownPairs("pressure", "flow"),
    Field(max_length=12),
]


class WaterPart(PartBase):
    """A part on the way of the water."""

    side = "water"


class Valve(Switchable):
    """A part on the way of the water that is moved between states."""

    side = "water"


class Vessel(WaterPart):
    """Litres on a label or sides with a tape; what can be used of them."""

    volume_m3: Volume | None = known("Usable volume", "What the pump can reach.")
    nominal_m3: Volume | None = known("Litres on the label")
    inside_length_m: Size | None = known("Inside length", "At the top, where it is tapered.")
    floor_length_m: Size | None = known("Length at the floor", "Empty: as at the top.")
    inside_width_m: Size | None = known("Inside width")
    inside_height_m: Size | None = known("Inside height")

    def worked_out(self, around: Around) -> Mapping[str, Band]:
        """Usable litres from the label, or from a tape."""
        band = None
        if self.nominal_m3 is not None:
            v = self.nominal_m3
            band = Band(
                0.86 * v, 0.93 * v, 0.98 * v,
                "the label counts to the brim; an outlet above the floor and the air under "
                "the lid leave about 7 %",
            )  # fmt: skip
        else:
            box = box_volume(
                self.inside_length_m, self.floor_length_m, self.inside_width_m, self.inside_height_m
            )
            if box is not None:
                shape = "tapered box" if self.floor_length_m is not None else "straight box"
                band = Band(
                    0.83 * box, 0.91 * box, 0.96 * box,
                    f"a {shape} by its inside measures, less about 9 % for round corners, the "
                    "outlet's height and air",
                )  # fmt: skip
        return present([("volume_m3", band)])

    def lacking(self) -> Mapping[str, str]:
        """Name the ways to know the volume."""
        return {"volume_m3": "litres on the label, or its inside measures"}


class FreshTank(Vessel):
    """A vented tank the pump draws from."""

    kind: Literal["fresh_tank"] = "fresh_tank"
    title = "Fresh tank"
    ports = (
        Port("outlet", "water"),
        Port("second_outlet", "water", needed=False),
        Port("fill", "water", needed=False),
        Port("vent", "air", needed=False),
        Port("overflow", "fluid", needed=False),
        Port("returns", "water", many=True, needed=False),
    )
    printed = ("nominal_m3", "volume_m3", "inside_length_m", "floor_length_m",
               "inside_width_m", "inside_height_m")  # fmt: skip
    needs = ("volume_m3",)
    caution = "A full tank is heavy: strap it down, and mind the axle and the payload."
    usual = {
        "outlet_height_m": usual(0.005, 0.015, 0.04, "a side outlet stands a little off the floor"),
        "vent_bore_m": usual(0.008, 0.012, 0.02, "tanks are sold with a small hose tail for air"),
    }
    outlet_height_m: Height | None = known("Outlet above its floor")
    fill_height_m: Height | None = known("Filling port above its floor")
    overflow_height_m: Height | None = known("Overflow above its floor")
    vent_bore_m: Bore | None = known("Vent bore")
    baffled: bool = Field(default=False, title="Has baffles", description="Against slosh.")
    loss_w_per_k: Loss | None = known(
        "Loses to the air", "Each kelvin; lagged ones lose less. Empty: by its size."
    )

    def worked_out(self, around: Around) -> Mapping[str, Band]:
        """Litres, and what it loses by its faces."""
        found = dict(super().worked_out(around))
        volume = self.volume_m3
        if volume is None and "volume_m3" in found:
            volume = found["volume_m3"].likely
        if volume is not None:
            loss = tank_loss_w_per_k(volume)
            found["loss_w_per_k"] = Band(
                0.6 * loss, loss, 1.5 * loss, "a bare plastic cube of its litres in still air"
            )
        return found


class FillPoint(WaterPart):
    """The opening in the body where a hose or a can fills the tank."""

    kind: Literal["fill_point"] = "fill_point"
    title = "Fill point"
    ports = (Port("outlet", "water"),)
    printed = ("bore_m", "lockable")
    usual = {"bore_m": usual(0.025, 0.038, 0.05, "the filler hose most tanks take")}
    bore_m: Bore | None = known("Bore")
    lockable: bool = Field(default=False, title="Locks")


class LooseContainer(Vessel):
    """A can or jerrycan of water that is carried in."""

    kind: Literal["loose_container"] = "loose_container"
    title = "Loose container"
    ports = (Port("outlet", "water", needed=False),)
    printed = ("nominal_m3", "volume_m3", "spare_count")
    needs = ("volume_m3",)
    caution = "A full can is a heavy lift; lift it close to the body, or fill it in place."
    spare_count: Count = Field(default=0, title="More of them carried")
    swap_s: Seconds = Field(
        default=60.0, title="A swap takes", description="From an empty one to the next."
    )


class OutsideSource(WaterPart):
    """A river, a lake or a bucket the pump may draw from."""

    kind: Literal["outside_source"] = "outside_source"
    title = "Outside source"
    ports = (Port("outlet", "water", needed=False),)
    printed = ("source", "lift_m", "water_c")
    caution = (
        "Water from outside stays off the drinking branch: filter it, and keep a check valve "
        "or a gap between it and the tank."
    )
    usual = {"lift_m": usual(0.3, 1.0, 2.5, "a bucket beside the step, or a low bank")}
    source: Literal["bucket", "river or lake", "rain"] = Field(default="bucket", title="Source")
    lift_m: Rise | None = known("Pump above the water")
    water_c: Water | None = known("Its temperature")


class PressurisedInlet(WaterPart):
    """The place where a pitch's water under pressure is plugged in."""

    kind: Literal["pressurised_inlet"] = "pressurised_inlet"
    title = "Pressurised inlet"
    ports = (Port("outlet", "water"),)
    printed = ("pressure_pa", "flow_m3_per_s")
    caution = (
        "Street pressure splits tank fittings: a reducer right behind the inlet, and a check "
        "valve so that nothing flows back."
    )
    usual = {
        "pressure_pa": usual(1.5 * BAR, 3.0 * BAR, 6.0 * BAR, "pitches differ; many give 2 to 4"),
        "flow_m3_per_s": usual(
            6 * LITRE_PER_MIN,
            12 * LITRE_PER_MIN,
            20 * LITRE_PER_MIN,
            "a garden hose of some metres",
        ),
    }
    pressure_pa: Pressure | None = known("Pressure at rest")
    flow_m3_per_s: Flow | None = known("Flow wide open")


class GravityBag(Vessel):
    """A bag that is hung up and runs by its height; often warmed by the sun or a kettle."""

    kind: Literal["gravity_bag"] = "gravity_bag"
    title = "Gravity bag"
    ports = (Port("outlet", "water"),)
    printed = ("nominal_m3", "volume_m3", "hung_m", "dark")
    needs = ("volume_m3",)
    caution = "Hang it from something that holds its weight; feel the water before it runs on skin."
    usual = {"hung_m": usual(0.3, 0.7, 1.2, "a hook at roof height over a head held at the side")}
    hung_m: Rise | None = known("Hung above the outlet")
    dark: bool = Field(default=True, title="Dark, warms in the sun")


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


class Split(WaterPart):
    """A tee where a branch leaves."""

    kind: Literal["split"] = "split"
    title = "Split"
    passes = {"": (("inlet", "outlet"), ("inlet", "branch"), ("outlet", "branch"))}
    ports = (*through(), Port("branch", "fluid"))
    usual = {"loss_k": usual(0.4, 1.0, 1.8, "a tee, between straight on and round the corner")}
    loss_k: Coefficient | None = known("Loss coefficient", "On the bore of the run before it.")


class ShutOff(Valve):
    """A valve that is open or shut by hand."""

    kind: Literal["shut_off"] = "shut_off"
    title = "Shut-off"
    passes = {"shut": ()}
    ports = through()
    positions = ("open", "shut")
    usual = {"loss_k": usual(0.1, 0.3, 2.0, "a full-bore ball valve; a reduced bore takes more")}
    loss_k: Coefficient | None = known("Loss coefficient", "On the bore of the run before it.")


class Selector(Valve):
    """A valve that joins one common port with one of two others, or neither."""

    kind: Literal["selector"] = "selector"
    title = "Selector"
    passes = {"first": (("common", "first"),), "second": (("common", "second"),), "neither": ()}
    ports = (Port("common", "fluid"), Port("first", "fluid"), Port("second", "fluid"))
    positions = ("first", "second", "neither")
    usual = {"loss_k": usual(0.3, 0.8, 2.0, "a three-way ball valve")}
    loss_k: Coefficient | None = known("Loss coefficient")


class CheckValve(WaterPart):
    """A valve that lets water pass one way only."""

    kind: Literal["check_valve"] = "check_valve"
    title = "Check valve"
    ports = through()
    usual = {
        "opening_pa": usual(1e3, 2e3, 5e3, "a light spring"),
        "flow_factor_si": usual(20 * FACTOR, 30 * FACTOR, 40 * FACTOR, "half-inch cartridges"),
    }
    opening_pa: Pressure | None = known("Opens at")
    flow_factor_si: FlowFactor | None = known("Flow factor", "Flow at one bar of loss.")


class Reducer(WaterPart):
    """A valve that lowers a pitch's pressure to a setting."""

    kind: Literal["reducer"] = "reducer"
    title = "Pressure reducer"
    ports = through()
    printed = ("set_pa",)
    usual = {
        "set_pa": usual(1.0 * BAR, 1.5 * BAR, 2.5 * BAR, "reducers sold for vehicles"),
        "flow_factor_si": usual(8 * FACTOR, 12 * FACTOR, 20 * FACTOR, "small cartridges"),
    }
    set_pa: Pressure | None = known("Set to")
    flow_factor_si: FlowFactor | None = known("Flow factor")


class FlowLimiter(WaterPart):
    """A disc or button that lets no more than a set flow pass."""

    kind: Literal["flow_limiter"] = "flow_limiter"
    title = "Flow limiter"
    ports = through()
    printed = ("flow_m3_per_s",)
    needs = ("flow_m3_per_s",)
    flow_m3_per_s: Flow | None = known("Lets through")

    def lacking(self) -> Mapping[str, str]:
        """Name what is printed."""
        return {"flow_m3_per_s": "litres per minute printed on the disc"}


class Relief(WaterPart):
    """A valve that opens when pressure or heat grows too high."""

    kind: Literal["relief"] = "relief"
    title = "Relief valve"
    passes = {"": ()}
    ports = (Port("inlet", "fluid"), Port("outlet", "fluid", needed=False))
    printed = ("set_pa", "opens_c")
    caution = (
        "Its outlet leads outside and below, open, where nobody stands; nothing between it "
        "and the store may shut."
    )
    usual = {"set_pa": usual(2.5 * BAR, 3.5 * BAR, 6.0 * BAR, "marked on its cap")}
    set_pa: Pressure | None = known("Opens at")
    opens_c: Temperature | None = known("Opens at heat", "Empty: by pressure alone.")
    outside: bool = Field(default=False, title="Led outside and below")


class Drain(Valve):
    """A low point that can be opened."""

    kind: Literal["drain"] = "drain"
    title = "Drain"
    passes = {"shut": ()}
    ports = (Port("inlet", "fluid"), Port("outlet", "fluid", needed=False))
    positions = ("shut", "open")
    usual = {"bore_m": usual(0.006, 0.010, 0.013, "small drain cocks")}
    bore_m: Bore | None = known("Bore")
    frost_c: Temperature | None = known("Opens by itself below", "A self-opening frost valve.")


class AirVent(WaterPart):
    """A high point that lets air out, by hand or by itself."""

    kind: Literal["air_vent"] = "air_vent"
    title = "Air vent"
    ports = (Port("inlet", "fluid"),)
    automatic: bool = Field(default=True, title="Vents by itself")


class Strainer(WaterPart):
    """A mesh that keeps grit from the pump."""

    kind: Literal["strainer"] = "strainer"
    title = "Strainer"
    ports = through()
    usual = {"flow_factor_si": usual(20 * FACTOR, 35 * FACTOR, 50 * FACTOR, "a clean mesh")}
    flow_factor_si: FlowFactor | None = known("Flow factor", "Flow at one bar of loss, clean.")


class Filter(WaterPart):
    """A cartridge, usually on the cold branch for drinking."""

    kind: Literal["filter"] = "filter"
    title = "Filter"
    ports = through()
    printed = ("flow_m3_per_s", "pressure_pa", "pore_m", "life_m3")
    usual = {"dirty_share": usual(0.1, 0.3, 0.6, "how much flow a cartridge keeps by its end")}
    flow_m3_per_s: Flow | None = known("Flow on the label")
    pressure_pa: Annotated[Pressure, Field(gt=0)] | None = known(
        "At a pressure of", "Empty: about 2 bar."
    )
    flow_factor_si: FlowFactor | None = known("Flow factor", "Flow at one bar of loss, clean.")
    dirty_share: Share | None = known("Flow left when dirty")
    pore_m: Fine | None = known("Pore size")
    life_m3: BigVolume | None = known("Litres it lasts")

    def worked_out(self, around: Around) -> Mapping[str, Band]:
        """Flow factor from a labelled flow."""
        if self.flow_m3_per_s is None:
            loss = "a small carbon block"
            return {"flow_factor_si": Band(2 * FACTOR, 4 * FACTOR, 8 * FACTOR, loss)}
        q = self.flow_m3_per_s
        if self.pressure_pa is not None:
            k = certain(q / sqrt(self.pressure_pa), "flow and pressure on the label")
        else:
            low, likely, high = (q / sqrt(p * BAR) for p in (4.0, 2.0, 1.0))
            k = Band(low, likely, high, "the label's flow at a household pressure of about 2 bar")
        return {"flow_factor_si": k}


class Coupling(Valve):
    """A pair of quick couplings: joined or apart."""

    kind: Literal["coupling"] = "coupling"
    title = "Quick coupling"
    passes = {"apart": ()}
    ports = through()
    positions = ("joined", "apart")
    usual = {"flow_factor_si": usual(8 * FACTOR, 15 * FACTOR, 25 * FACTOR, "self-sealing halves")}
    flow_factor_si: FlowFactor | None = known("Flow factor")
    sealing: Literal["both sides", "supply side", "neither"] = Field(
        default="supply side", title="Seals when apart"
    )
    shares_half_with: PartRef | None = known(
        "Same supply half as", "Two lines that are plugged in turn into one socket."
    )


class LooseHose(WaterPart):
    """A hose that is carried loose and laid when needed."""

    kind: Literal["loose_hose"] = "loose_hose"
    title = "Loose hose"
    ports = through()
    printed = ("length_m", "bore_m")
    usual = {"bore_m": usual(0.010, 0.0127, 0.019, "half-inch garden hose")}
    length_m: Length | None = known("Length")
    bore_m: Bore | None = known("Bore")
    dated: Name = Field(default="", title="Date on the hose")


class BlankingCap(WaterPart):
    """A cap on a branch that is not used yet."""

    kind: Literal["blanking_cap"] = "blanking_cap"
    title = "Blanking cap"
    ports = (Port("inlet", "fluid"),)


class Solenoid(Valve):
    """A valve opened by electricity."""

    kind: Literal["solenoid"] = "solenoid"
    title = "Solenoid valve"
    passes = {"shut": ()}
    ports = (*through(), power())
    positions = ("open", "shut")
    printed = ("bore_m", "power_w", "rests")
    usual = {
        "flow_factor_si": usual(6 * FACTOR, 12 * FACTOR, 25 * FACTOR, "half-inch, servo type"),
        "power_w": usual(5.0, 8.0, 15.0, "coils of this size"),
    }
    bore_m: Bore | None = known("Orifice")
    flow_factor_si: FlowFactor | None = known("Flow factor")
    power_w: Watts | None = known("Coil watts")
    rests: Literal["shut", "open"] = Field(default="shut", title="Without power")
    from_s: Clock | None = known("May open from")
    until_s: Clock | None = known("May open until")


WaterKind = (
    FreshTank | FillPoint | LooseContainer | OutsideSource | PressurisedInlet | GravityBag
    | Pump | Submersible | FootPump | HandPump | Accumulator | Split | ShutOff | Selector
    | CheckValve | Reducer | FlowLimiter | Relief | Drain | AirVent | Strainer | Filter
    | Coupling | LooseHose | BlankingCap | Solenoid
)  # fmt: skip
