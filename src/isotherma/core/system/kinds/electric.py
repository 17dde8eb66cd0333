"""Electricity: where it comes from, what guards it, what else takes it."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Annotated, Literal

from pydantic import Field

from isotherma.core.fields import (
    BatteryEnergy,
    Charge,
    Clock,
    Count,
    Current,
    Hours,
    PartRef,
    Power,
    Share,
    Tilt,
    Voltage,
    Watts,
    known,
    known_or,
)
from isotherma.core.system.kinds.heat import ELECTRIC_CAUTION
from isotherma.core.system.pieces import (
    MAINS_V,
    SYSTEM_V,
    Around,
    Band,
    PartBase,
    Port,
    Switchable,
    about,
    certain,
    power,
    spread,
    usual,
)


class ElectricPart(PartBase):
    """A part of the wiring."""

    side = "electric"


_FEED = Port("feed", "power", many=True)
_FEEDS = (("feed", "load"),)
_LOAD = Port("load", "power", many=True, needed=False)


class Battery(ElectricPart):
    """The battery the living space runs on, or the starter's."""

    kind: Literal["battery"] = "battery"
    title = "Battery"
    ports = (power(),)
    printed = ("charge_as", "volts_v", "chemistry")
    needs = ("usable_j",)
    caution = "A fuse close to its plus pole, sized for the cable; cover the poles while you work."
    charge_as: Charge | None = known("Amp hours on the label")
    volts_v: Voltage | None = known("Volts", "Empty: the system's, else 12.")
    chemistry: Literal["lithium", "lead", "gel or mat"] | None = known("Chemistry")
    serves: Literal["living space", "engine"] = Field(default="living space", title="Serves")
    usable_j: BatteryEnergy | None = known("Usable energy")

    def worked_out(self, around: Around) -> Mapping[str, Band]:
        """Usable energy from amp hours, volts and chemistry."""
        if self.charge_as is None:
            return {}
        side_v = SYSTEM_V if around.volts_v is None else around.volts_v
        volts = known_or(self.volts_v, side_v)
        if volts == 12.0 and self.chemistry == "lithium":
            volts = 12.8
        whole = self.charge_as * volts
        shares = {
            "lithium": (0.85, 0.95, 1.0),
            "lead": (0.3, 0.5, 0.6),
            "gel or mat": (0.4, 0.5, 0.7),
        }.get(self.chemistry or "", (0.4, 0.5, 0.95))
        words = self.chemistry or "chemistry not said, taken as lead"
        return {
            "usable_j": spread((whole * part for part in shares), f"amp hours × volts, {words}")
        }

    def lacking(self) -> Mapping[str, str]:
        """Name what the label says."""
        return {"usable_j": "amp hours on the label"}


class Inverter(ElectricPart):
    """Makes mains from the battery; takes some even when idle."""

    kind: Literal["inverter"] = "inverter"
    title = "Inverter"
    passes = {"on": _FEEDS, "off": ()}
    ports = (_FEED, _LOAD)
    printed = ("rated_w", "idle_w")
    needs = ("rated_w",)
    positions = ("on", "off")
    caution = ELECTRIC_CAUTION
    usual = {"efficiency": usual(0.84, 0.9, 0.94, "at half load"),
             "idle_w": usual(8.0, 14.0, 25.0, "switched on, nothing plugged in")}  # fmt: skip
    rated_w: Power | None = known("Watts on the label")
    idle_w: Watts | None = known("Takes when idle")
    efficiency: Annotated[Share, Field(gt=0)] | None = known("Efficiency")

    def lacking(self) -> Mapping[str, str]:
        """Name what the label says."""
        return {"rated_w": "watts on the label"}


class Charger(ElectricPart):
    """Charges the battery from mains or from the alternator."""

    kind: Literal["charger"] = "charger"
    title = "Charger"
    passes = {"": _FEEDS}
    ports = (_FEED, _LOAD)
    printed = ("amps_a", "source")
    needs = ("amps_a",)
    caution = ELECTRIC_CAUTION
    usual = {"efficiency": usual(0.8, 0.88, 0.94, "switched chargers")}
    amps_a: Current | None = known("Amps on the label")
    source: Literal["mains", "alternator", "both"] = Field(default="mains", title="Charges from")
    efficiency: Annotated[Share, Field(gt=0)] | None = known("Efficiency")

    def lacking(self) -> Mapping[str, str]:
        """Name what the label says."""
        return {"amps_a": "amps on the label"}


class HookUp(Switchable):
    """The socket for a pitch's mains."""

    kind: Literal["hook_up"] = "hook_up"
    side = "electric"
    title = "Hook-up"
    ports = (Port("load", "power", many=True),)
    positions = ("plugged", "unplugged")
    printed = ("amps_a", "volts_v")
    needs = ("limit_w",)
    caution = ELECTRIC_CAUTION
    usual = {"volts_v": certain(MAINS_V, "mains")}
    amps_a: Current | None = known("Amps the pitch gives")
    volts_v: Voltage | None = known("Volts", "Empty: 230.")
    limit_w: Watts | None = known("Watts it gives at most")

    def worked_out(self, around: Around) -> Mapping[str, Band]:
        """Watts from amps and volts."""
        if self.amps_a is None:
            return {}
        volts = self.nominal("volts_v")
        said = "" if self.volts_v else "; 230 V assumed"
        return {
            "limit_w": Band(
                0.9 * self.amps_a * volts,
                self.amps_a * volts,
                self.amps_a * volts,
                f"amps × volts{said}; long leads take some",
            )
        }

    def lacking(self) -> Mapping[str, str]:
        """Name what the pitch says."""
        return {"limit_w": "amps the pitch gives"}


class Panel(ElectricPart):
    """A solar panel."""

    kind: Literal["panel"] = "panel"
    title = "Solar panel"
    ports = (Port("load", "power", many=True),)
    printed = ("rated_w", "open_v", "short_a", "best_v", "best_a", "count")
    needs = ("rated_w",)
    usual = {"tilt_deg": usual(0.0, 0.0, 15.0, "flat on the roof")}
    rated_w: Watts | None = known("Watts on the label", "In full sun, each; 0: none.")
    open_v: Voltage | None = known("Open voltage")
    short_a: Current | None = known("Short-circuit current")
    best_v: Voltage | None = known("Voltage at best")
    best_a: Current | None = known("Current at best")
    count: Annotated[Count, Field(ge=1)] = Field(default=1, title="How many")
    tilt_deg: Tilt | None = known("Tilt", "To the noon sun; flat: 0.")

    def worked_out(self, around: Around) -> Mapping[str, Band]:
        """Watts from voltage and current at best."""
        if self.best_v is None or self.best_a is None:
            return {}
        return {"rated_w": about(self.best_v * self.best_a, 0.03, "volts × amps at its best")}

    def lacking(self) -> Mapping[str, str]:
        """Name what the label says."""
        return {"rated_w": "watts on the label"}


class PanelController(ElectricPart):
    """Charges the battery from panels, or turns surplus into an element."""

    kind: Literal["panel_controller"] = "panel_controller"
    title = "Panel controller"
    passes = {"": (*_FEEDS, ("feed", "surplus"))}
    ports = (_FEED, _LOAD, Port("surplus", "power", many=True, needed=False))
    printed = ("amps_a", "tracks", "surplus_above_share")
    usual = {"efficiency": usual(0.93, 0.96, 0.98, "tracking controllers"),
             "idle_w": usual(0.2, 0.6, 1.5, "day and night")}  # fmt: skip
    amps_a: Current | None = known("Amps on the label")
    tracks: bool = Field(default=True, title="Finds the best point")
    efficiency: Annotated[Share, Field(gt=0)] | None = known("Efficiency")
    idle_w: Watts | None = known("Takes when idle")
    surplus_above_share: Share | None = known("Surplus above", "Charge from which it diverts.")


class Alternator(ElectricPart):
    """The engine's alternator."""

    kind: Literal["alternator"] = "alternator"
    title = "Alternator"
    ports = (Port("load", "power", many=True),)
    printed = ("amps_a", "spare_a")
    usual = {"spare_a": usual(15.0, 30.0, 60.0, "what is left beside the vehicle's own loads")}
    amps_a: Current | None = known("Amps on the label")
    spare_a: Current | None = known("To spare")
    drive_start_s: Clock = Field(default=9 * 3600.0, title="Drives from")
    drive_s: Hours = Field(default=3600.0, title="Drives for")


class Circuit(ElectricPart):
    """A fuse or breaker with everything that hangs on it."""

    kind: Literal["circuit"] = "circuit"
    title = "Circuit"
    passes = {"on": _FEEDS, "off": ()}
    ports = (_FEED, _LOAD)
    printed = ("fuse_a", "guard")
    needs = ("fuse_a",)
    positions = ("on", "off")
    caution = "The fuse protects the cable: never fit a larger one because it blows."
    fuse_a: Current | None = known("Fuse or breaker")
    guard: Literal["fuse", "breaker", "breaker with residual current"] | None = known("Guarded by")
    earthed: bool | None = known("Earthed", "Protective earth and bonding, on mains.")
    not_together: bool = Field(default=False, title="Loads must not run together")

    def lacking(self) -> Mapping[str, str]:
        """Name what is printed."""
        return {"fuse_a": "amps printed on the fuse"}


class Switch(Switchable):
    """A switch in a circuit."""

    kind: Literal["switch"] = "switch"
    side = "electric"
    title = "Switch"
    passes = {"on": _FEEDS, "off": ()}
    ports = (_FEED, _LOAD)
    positions = ("on", "off")
    printed = ("amps_a",)
    amps_a: Current | None = known("Amps on it")
    direct_current: bool | None = known("Rated for direct current")


class EitherOr(Switchable):
    """A switch that feeds one of two loads, never both."""

    kind: Literal["either_or"] = "either_or"
    side = "electric"
    title = "Either-or switch"
    passes = {"first": (("feed", "first"),), "second": (("feed", "second"),), "off": ()}
    ports = (
        _FEED, Port("first", "power", many=True, needed=False),
        Port("second", "power", many=True, needed=False),
    )  # fmt: skip
    positions = ("first", "second", "off")
    printed = ("amps_a",)
    caution = "Break before make, rated for the larger load and for direct current where it is."
    amps_a: Current | None = known("Amps on it")


class Relay(ElectricPart):
    """A relay that switches a large load for a small signal."""

    kind: Literal["relay"] = "relay"
    title = "Relay"
    passes = {"": _FEEDS}
    ports = (_FEED, _LOAD, Port("signal", "power", many=True, needed=False))
    printed = ("amps_a", "coil_w")
    usual = {"coil_w": usual(0.8, 1.8, 3.0, "automotive relays")}
    amps_a: Current | None = known("Amps on it")
    coil_w: Watts | None = known("Coil takes")
    direct_current: bool | None = known("Rated for direct current")
    closes_on: Literal["signal", "surplus sun", "engine running", "hook-up"] = Field(
        default="signal", title="Closes on"
    )


class Remote(ElectricPart):
    """A remote switch or push button, by wire or by radio."""

    kind: Literal["remote"] = "remote"
    title = "Remote switch"
    passes = {"": _FEEDS}
    ports = (_FEED, _LOAD)
    printed = ("by", "switches")
    by: Literal["wire", "radio", "air pulse"] = Field(default="wire", title="Works by")
    switches: PartRef | None = known("Switches")
    standby_w: Watts | None = known("Takes when idle")
    usual = {"standby_w": usual(0.0, 0.3, 1.0, "radio receivers listen all day")}


class IgnitionCells(ElectricPart):
    """The dry cells that spark a gas heater, or what replaced them."""

    kind: Literal["ignition_cells"] = "ignition_cells"
    title = "Ignition cells"
    ports = (power(),)
    printed = ("cells", "volts_v", "replaced")
    needs = ("volts_v",)
    cells: Annotated[Count, Field(ge=1, le=12)] = Field(default=2, title="Cells")
    volts_v: Voltage | None = known("Volts at the heater", "Measured while it sparks.")
    replaced: bool = Field(default=False, title="Replaced by the vehicle's supply")

    def worked_out(self, around: Around) -> Mapping[str, Band]:
        """Fresh cells give 1.5 V, tired ones 1.2."""
        n = self.cells
        return {"volts_v": Band(1.1 * n, 1.4 * n, 1.55 * n, "1.5 V a cell when new, less when old")}


class Load(ElectricPart):
    """Something else that takes electricity: fridge, lights, a fan."""

    kind: Literal["load"] = "load"
    title = "Other load"
    ports = (power(),)
    printed = ("rated_w", "hours_s", "volts_v")
    needs = ("rated_w",)
    rated_w: Power | None = known("Watts on the label")
    hours_s: Hours = Field(default=3600.0, title="Runs a day")
    volts_v: Voltage | None = known("Volts")
    day_j: BatteryEnergy | None = known("Energy a day")

    def worked_out(self, around: Around) -> Mapping[str, Band]:
        """Energy of a day."""
        if self.rated_w is None or self.hours_s <= 0:
            return {}
        return {"day_j": certain(self.rated_w * self.hours_s, "watts × hours")}

    def lacking(self) -> Mapping[str, str]:
        """Name what the label says."""
        return {"rated_w": "watts on the label", "day_j": "watts on the label"}


ElectricKind = (
    Battery | Inverter | Charger | HookUp | Panel | PanelController | Alternator | Circuit
    | Switch | EitherOr | Relay | Remote | IgnitionCells | Load
)  # fmt: skip
