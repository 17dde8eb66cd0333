"""What water passes: tees, valves, filters, couplings, drains."""

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
    Fine,
    Flow,
    FlowFactor,
    Length,
    Name,
    PartRef,
    Pressure,
    Seconds,
    Share,
    Temperature,
    Watts,
    known,
)
from isotherma.core.system.kinds.water.base import Valve, WaterPart
from isotherma.core.system.pieces import (
    BAR,
    FACTOR,
    Around,
    Band,
    Port,
    certain,
    power,
    through,
    usual,
)


class Split(WaterPart):
    """A tee where a branch leaves."""

    kind: Literal["split"] = "split"
    title = "Tee"
    passes = {"": (("inlet", "outlet"), ("inlet", "branch"), ("outlet", "branch"))}
    ports = (*through(), Port("branch", "fluid"))
    usual = {"loss_k": usual(0.4, 1.0, 1.8, "a tee, between straight on and round the corner")}
    loss_k: Coefficient | None = known(
        "Resistance", "Loss coefficient of tables, on the bore of the run before it."
    )


class ShutOff(Valve):
    """A valve that is open or shut by hand."""

    kind: Literal["shut_off"] = "shut_off"
    title = "Shut-off"
    passes = {"shut": ()}
    ports = through()
    positions = ("open", "shut")
    usual = {"loss_k": usual(0.1, 0.3, 2.0, "a full-bore ball valve; a reduced bore takes more")}
    loss_k: Coefficient | None = known(
        "Resistance", "Loss coefficient of tables, on the bore of the run before it."
    )


class Selector(Valve):
    """A valve that joins one common port with one of two others, or neither."""

    kind: Literal["selector"] = "selector"
    title = "Selector"
    passes = {"first": (("common", "first"),), "second": (("common", "second"),), "neither": ()}
    ports = (Port("common", "fluid"), Port("first", "fluid"), Port("second", "fluid"))
    positions = ("first", "second", "neither")
    usual = {"loss_k": usual(0.3, 0.8, 2.0, "a three-way ball valve")}
    loss_k: Coefficient | None = known(
        "Resistance", "Loss coefficient, as tables of fittings give it."
    )


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
    flow_factor_si: FlowFactor | None = known(
        "Passes at one bar", "Litres a minute at one bar lost in it."
    )


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
    flow_factor_si: FlowFactor | None = known(
        "Passes at one bar", "Litres a minute at one bar lost in it."
    )


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
    outside: bool | None = known("Led outside and below")


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
    flow_factor_si: FlowFactor | None = known(
        "Passes at one bar", "Litres a minute at one bar lost in it, clean."
    )


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
    flow_factor_si: FlowFactor | None = known(
        "Passes at one bar", "Litres a minute at one bar lost in it, clean."
    )
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
    flow_factor_si: FlowFactor | None = known(
        "Passes at one bar", "Litres a minute at one bar lost in it."
    )
    sealing: Literal["both sides", "supply side", "neither"] | None = known("Seals when apart")
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


class DustCap(WaterPart):
    """A cap for the halves of a coupling that is apart, so that no dirt gets into the water."""

    kind: Literal["dust_cap"] = "dust_cap"
    title = "Dust cap"
    ports = ()
    printed = ("caps", "move_s")
    caps: PartRef | None = known("Caps", "The coupling whose halves it closes.")
    move_s: Seconds = Field(default=5.0, title="Put on or off in")


class ParkingPlace(WaterPart):
    """A clip or socket that holds the free end of a hose while it is apart."""

    kind: Literal["parking_place"] = "parking_place"
    title = "Parking place"
    ports = ()
    printed = ("holds", "move_s")
    holds: PartRef | None = known("Holds the end of", "The coupling that is apart.")
    move_s: Seconds = Field(default=5.0, title="Put in or out in")


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
    flow_factor_si: FlowFactor | None = known(
        "Passes at one bar", "Litres a minute at one bar lost in it."
    )
    power_w: Watts | None = known("Coil watts")
    rests: Literal["shut", "open"] = Field(default="shut", title="Without power")
    from_s: Clock | None = known("May open from")
    until_s: Clock | None = known("May open until")
