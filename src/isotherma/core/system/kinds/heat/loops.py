"""Liquid and air heaters, the engine, and what hands their heat on."""

from __future__ import annotations

from collections.abc import Mapping
from math import pi
from typing import Annotated, Literal

from pydantic import Field

from isotherma.core.fields import (
    Bore,
    Clock,
    Conductance,
    Count,
    Current,
    Difference,
    Flow,
    HeatPower,
    Hours,
    Power,
    Pressure,
    Seconds,
    Setting,
    Share,
    StartEnergy,
    Temperature,
    Time,
    TubeLength,
    Voltage,
    Watts,
    known,
)
from isotherma.core.system.kinds.heat.base import COOLANT_CAUTION, HeatPart
from isotherma.core.system.pieces import (
    LITRE_PER_MIN,
    Around,
    Band,
    GasSetting,
    Port,
    Sealing,
    Switchable,
    about,
    power,
    through,
    usual,
)


class LiquidHeater(HeatPart):
    """A diesel or petrol heater that warms a coolant loop."""

    kind: Literal["liquid_heater"] = "liquid_heater"
    title = "Liquid heater"
    ports = (*through("primary"), Port("fuel", "fuel", needed=False), power(needed=True))
    printed = ("rated_w", "fuel", "running_w", "set_c")
    turned = ("set_c",)
    needs = ("heat_w",)
    positions = ("ready", "off")
    caution = (
        COOLANT_CAUTION + " Exhaust and first fire are work for the trade; never cut its "
        "supply before its after-run."
    )
    usual = {
        "least_share": usual(0.3, 0.4, 0.5, "lowest fire, then it cycles"),
        "flame_s": usual(60.0, 100.0, 150.0, "glow and light"),
        "glow_a": usual(8.0, 9.0, 10.0, "glow pin at 12 V for about 75 s"),
        "after_run_s": usual(120.0, 150.0, 200.0, "burns out and cools"),
        "firing_j": usual(12 * 3600.0, 15 * 3600.0, 18 * 3600.0, "each start, at 12 V"),
        "efficiency": usual(0.78, 0.83, 0.88, "of the net heat in the fuel"),
        "running_w": usual(25.0, 40.0, 70.0, "fan, fuel pump and water pump"),
        "trip_v": usual(10.2, 10.5, 11.0, "at its own terminals"),
    }
    rated_w: HeatPower | None = known("kW on the label")
    heat_w: HeatPower | None = known("Heat to the coolant")
    fuel: Literal["diesel", "petrol"] = Field(default="diesel", title="Fuel")
    set_c: Setting = Field(default=75.0, title="Coolant held at")
    least_share: Share | None = known("Lowest fire")
    efficiency: Annotated[Share, Field(gt=0)] | None = known("Reaches the coolant")
    flame_s: Seconds | None = known("To flame")
    glow_a: Current | None = known("Glow current")
    after_run_s: Seconds | None = known("After-run")
    firing_j: StartEnergy | None = known("Electricity per start")
    running_w: Watts | None = known("Electricity while running")
    trip_v: Voltage | None = known("Gives up below")

    def worked_out(self, around: Around) -> Mapping[str, Band]:
        """Labels of liquid heaters name output."""
        if self.rated_w is None:
            return {}
        return {
            "heat_w": Band(
                0.9 * self.rated_w,
                self.rated_w,
                self.rated_w,
                "labels of liquid heaters name heat given to the coolant",
            )
        }

    def lacking(self) -> Mapping[str, str]:
        """Name what the label says."""
        return {"heat_w": "kilowatts on the label"}


class AirHeater(HeatPart):
    """A diesel or gas heater that blows hot air."""

    kind: Literal["air_heater"] = "air_heater"
    title = "Air heater"
    ports = (Port("outlet", "air"), Port("fuel", "fuel", needed=False),
             Port("gas", "gas", needed=False), power())  # fmt: skip
    printed = ("rated_w", "fuel", "running_w")
    needs = ("heat_w",)
    positions = ("ready", "off")
    caution = (
        "Keep its exhaust and hot air clear of pipes, cables and bedding; never cut its "
        "supply before its after-run."
    )
    usual = {
        "outlet_c": usual(70.0, 95.0, 120.0, "at its grille on full"),
        "running_w": usual(10.0, 25.0, 40.0, "fan and fuel pump"),
        "flame_s": usual(60.0, 100.0, 180.0, "glow and light"),
        "after_run_s": usual(120.0, 180.0, 240.0, "burns out and cools"),
    }
    rated_w: HeatPower | None = known("kW on the label")
    heat_w: HeatPower | None = known("Heat to the air")
    fuel: Literal["diesel", "petrol", "propane"] = Field(default="diesel", title="Fuel")
    sealed: Sealing | None = known("Air and flue")
    gas_pa: Pressure | None = known("Gas pressure on the plate")
    gas_setting: GasSetting | None = known("Gas pressure screw")
    outlet_c: Temperature | None = known("Air at its outlet")
    running_w: Watts | None = known("Electricity while running")
    flame_s: Seconds | None = known("To flame")
    after_run_s: Seconds | None = known("After-run")

    def worked_out(self, around: Around) -> Mapping[str, Band]:
        """Copies of copies: labels of air heaters promise more than they give."""
        if self.rated_w is None:
            return {}
        return {"heat_w": Band(0.6 * self.rated_w, 0.85 * self.rated_w, self.rated_w,
                               "labels of air heaters are often rounded up")}  # fmt: skip

    def lacking(self) -> Mapping[str, str]:
        """Name what the label says."""
        return {"heat_w": "kilowatts on the label"}


class AirDiverter(Switchable):
    """A flap that sends hot air to the cabin or over a coil."""

    kind: Literal["air_diverter"] = "air_diverter"
    side = "heat"
    title = "Hot-air diverter"
    passes = {
        "cabin": (("inlet", "cabin"),),
        "coil": (("inlet", "coil"),),
        "both": (("inlet", "cabin"), ("inlet", "coil")),
    }
    ports = (Port("inlet", "air"), Port("cabin", "air", needed=False), Port("coil", "air"))
    positions = ("cabin", "coil", "both")
    usual = {"leak_share": usual(0.02, 0.08, 0.2, "a home-made flap")}
    leak_share: Share | None = known("Leaks past the flap")


class AirOutlet(HeatPart):
    """A grille where hot air comes out: in a room, in a locker that is to dry."""

    kind: Literal["air_outlet"] = "air_outlet"
    title = "Hot-air outlet"
    ports = (Port("inlet", "air"),)
    printed = ("open_share", "bore_m")
    positions = ("open", "shut")
    caution = "Keep bedding and boxes off it; never shut the last one of a heater that runs."
    usual = {"loss_k": usual(1.0, 1.5, 3.0, "a grille with slats")}
    bore_m: Bore | None = known("Bore", "Empty: as its duct.")
    open_share: Annotated[Share, Field(gt=0)] = Field(default=1.0, title="Slats open")
    loss_k: Annotated[float, Field(ge=0, le=1000)] | None = known("Resistance")


class AirCoil(HeatPart):
    """A finned coil in hot air that warms water."""

    kind: Literal["air_coil"] = "air_coil"
    title = "Air-over-water coil"
    ports = (Port("air", "air"), *through("fluid"))
    usual = {
        "conductance_w_per_k": usual(20.0, 40.0, 60.0, "an oil-cooler sized finned coil"),
        "pressure_loss_pa_at_5": usual(4e3, 1e4, 3e4, "parallel tubes of a small cooler"),
    }
    conductance_w_per_k: Conductance | None = known("Conductance")
    pressure_loss_pa_at_5: Pressure | None = known("Takes of the pressure", "At 5 L/min.")


class EngineCoolant(HeatPart):
    """The engine's coolant, hot while driving and for a while after."""

    kind: Literal["engine_coolant"] = "engine_coolant"
    title = "Engine coolant"
    ports = through("primary")
    printed = ("coolant_c", "heat_w", "tail_s")
    caution = COOLANT_CAUTION
    usual = {
        "coolant_c": usual(75.0, 85.0, 92.0, "thermostats of engines"),
        "heat_w": usual(2000.0, 5000.0, 9000.0, "what a heater branch gives at cruising"),
        "tail_s": usual(600.0, 1500.0, 3000.0, "an engine block stays hot for about half an hour"),
        "flow_m3_per_s": usual(
            3 * LITRE_PER_MIN, 8 * LITRE_PER_MIN, 15 * LITRE_PER_MIN, "the heater branch"
        ),
    }
    coolant_c: Setting | None = known("Coolant at")
    heat_w: HeatPower | None = known("Heat it spares")
    tail_s: Time | None = known("Hot after stopping for")
    flow_m3_per_s: Flow | None = known("Flow of the branch")
    drive_start_s: Clock = Field(default=9 * 3600.0, title="Drives from")
    drive_s: Hours = Field(default=3600.0, title="Drives for")


class Coil(HeatPart):
    """A coil in a store through which coolant, or drinking water, passes."""

    kind: Literal["coil"] = "coil"
    title = "Coil"
    ports = through("fluid")
    printed = ("length_m", "outside_m", "conductance_w_per_k")
    sits_in = ("store", "combi", "sun_container")
    usual = {
        "low_share": usual(0.0, 0.05, 0.2, "its lower end near the bottom"),
        "high_share": usual(0.3, 0.5, 0.8, "half way up"),
        "length_m": usual(4.0, 6.0, 10.0, "coils of small stores"),
        "outside_m": usual(0.010, 0.012, 0.015, "tube that bends by hand"),
    }
    length_m: TubeLength | None = known("Length of tube")
    outside_m: Bore | None = known("Outside diameter of the tube")
    conductance_w_per_k: Conductance | None = known("Conductance", "At a difference of 20 K.")
    low_share: Share | None = known("Lower end", "Share of the store's height.")
    high_share: Share | None = known("Upper end", "Share of the store's height.")

    def worked_out(self, around: Around) -> Mapping[str, Band]:
        """Conductance from the tube's outside area; 6 m of 12 mm is 150 W/K at 20 K."""
        if self.length_m is None:
            return {"conductance_w_per_k": Band(70.0, 150.0, 300.0, "no length said; about 6 m")}
        area = pi * self.nominal("outside_m") * self.length_m
        likely = 150.0 * area / (pi * 0.012 * 6.0)
        return {"conductance_w_per_k": Band(likely / 1.5, likely, likely / 0.6,
                                            "outside area of the tube, still water")}  # fmt: skip


class PlateExchanger(HeatPart):
    """A plate exchanger: one liquid warms another, nothing is stored."""

    kind: Literal["plate_exchanger"] = "plate_exchanger"
    title = "Plate exchanger"
    passes = {"": (("hot_in", "hot_out"), ("cold_in", "cold_out"))}
    ports = (Port("hot_in", "fluid"), Port("hot_out", "fluid"),
             Port("cold_in", "fluid"), Port("cold_out", "fluid"))  # fmt: skip
    printed = ("plates", "rated_w", "rated_difference_k")
    usual = {
        "pressure_loss_pa_at_5": usual(2e3, 5e3, 15e3, "small brazed exchangers, each side"),
    }
    plates: Count | None = known("Plates")
    rated_w: HeatPower | None = known("Power on the label")
    rated_difference_k: Difference | None = known("At a mean difference of")
    conductance_w_per_k: Conductance | None = known("Conductance")
    pressure_loss_pa_at_5: Pressure | None = known(
        "Takes of the pressure", "Each side, at 5 L/min."
    )
    double_wall: bool | None = known("Double wall")

    def worked_out(self, around: Around) -> Mapping[str, Band]:
        """Conductance from the label, or by the number of plates."""
        name = "conductance_w_per_k"
        if self.rated_w is not None and self.rated_difference_k:
            ua = self.rated_w / self.rated_difference_k
            return {name: Band(0.6 * ua, 0.8 * ua, ua, "label power over its mean difference")}
        if self.plates:
            return {name: about(50.0 * self.plates, 0.4, "about 50 W/K for each small plate")}
        return {name: Band(600.0, 900.0, 1500.0, "small brazed exchangers for taps")}


class HeatPad(HeatPart):
    """A heating mat that keeps a tank or pipe from freezing."""

    kind: Literal["heat_pad"] = "heat_pad"
    title = "Heat pad"
    ports = (power(),)
    printed = ("power_w", "on_c", "off_c")
    needs = ("power_w",)
    positions = ("ready", "off")
    usual = {
        "on_c": usual(2.0, 5.0, 8.0, "bimetal switches of pads"),
        "off_c": usual(8.0, 12.0, 20.0, "bimetal switches of pads"),
        "power_w": usual(15.0, 30.0, 60.0, "a pad under one tank"),
    }
    power_w: Power | None = known("Watts on the label")
    on_c: Temperature | None = known("Comes on below")
    off_c: Temperature | None = known("Goes off above")

    def lacking(self) -> Mapping[str, str]:
        """Name what the label says."""
        return {"power_w": "watts on the label"}
