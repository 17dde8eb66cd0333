"""Waste: from the tray to where it is emptied."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Annotated, Literal

from pydantic import Field

from isotherma.core.fields import (
    Angle,
    Bore,
    Conductance,
    Count,
    Flow,
    Height,
    Hours,
    Loss,
    Rise,
    Share,
    Size,
    Volume,
    Watts,
    known,
)
from isotherma.core.system.kinds.water import Vessel
from isotherma.core.system.pieces import (
    LITRE_PER_MIN,
    Around,
    Band,
    PartBase,
    Port,
    Switchable,
    power,
    through,
    usual,
)


class WastePart(PartBase):
    """A part on the way of the waste."""

    side = "waste"


class Tray(WastePart):
    """The tray or basin water falls into."""

    kind: Literal["tray"] = "tray"
    title = "Tray"
    ports = (Port("outlet", "waste"), Port("second_outlet", "waste", needed=False))
    printed = ("length_m", "breadth_m", "rim_m", "fall_deg", "drains", "drain_at")
    usual = {"fall_deg": usual(0.0, 1.0, 2.0, "moulded trays")}
    length_m: Size | None = known("Length")
    breadth_m: Size | None = known("Breadth")
    rim_m: Height | None = known("Rim above its lowest point")
    fall_deg: Angle | None = known("Fall to the drain")
    drains: Literal[1, 2, 4] = Field(default=1, title="Drain places")
    drain_at: Literal["middle", "front", "rear", "left", "right", "corners"] = Field(
        default="middle", title="Drains at"
    )
    holds_m3: Volume | None = known("Holds before it spills")
    raised_m: Height | None = known("Raised above the floor", "Room for trap and drain below it.")

    def worked_out(self, around: Around) -> Mapping[str, Band]:
        """Litres on the floor from its sides and rim."""
        if self.length_m is None or self.breadth_m is None or not self.rim_m:
            return {}
        box = self.length_m * self.breadth_m * self.rim_m
        return {"holds_m3": Band(0.4 * box, 0.6 * box, 0.9 * box, "its sides, less the slope")}

    def lacking(self) -> Mapping[str, str]:
        """Name what to measure."""
        return {"holds_m3": "length, breadth and rim"}


class Trap(WastePart):
    """What keeps smell from coming back: water, a waterless valve or a loop of hose."""

    kind: Literal["trap"] = "trap"
    title = "Trap"
    ports = through("waste")
    printed = ("way", "bore_m", "seal_m")
    usual = {"seal_m": usual(0.02, 0.035, 0.05, "shallow traps for vehicles"),
             "bore_m": usual(0.019, 0.025, 0.04, "small waste hose")}  # fmt: skip
    way: Literal["water", "waterless", "hose loop"] = Field(default="water", title="Seals by")
    bore_m: Bore | None = known("Bore")
    seal_m: Height | None = known("Depth of its seal")


class HairTrap(WastePart):
    """A mesh that keeps hair and lint out of the drain."""

    kind: Literal["hair_trap"] = "hair_trap"
    title = "Hair trap"
    ports = through("waste")
    printed = ("loss_k", "full_share", "showers_per_emptying")
    usual = {
        "loss_k": usual(1.0, 2.0, 4.0, "a clean mesh in a strainer body"),
        "full_share": usual(0.15, 0.3, 0.5, "a mesh that wants to be emptied"),
    }
    loss_k: Annotated[float, Field(ge=0, le=1000)] | None = known(
        "Resistance, clean", "Loss coefficient, as tables of strainers give it."
    )
    full_share: Annotated[Share, Field(gt=0)] | None = known("Passes, full of hair")
    showers_per_emptying: Annotated[Count, Field(ge=1)] = Field(
        default=6, title="Emptied after", description="Showers; long hair fills it in a few."
    )


class GreyTank(Vessel):
    """The tank waste water is kept in; often tapered."""

    kind: Literal["grey_tank"] = "grey_tank"
    side = "waste"
    title = "Grey tank"
    passes = {"": ()}
    ports = (Port("inlet", "waste", many=True), Port("outlet", "waste", needed=False),
             Port("vent", "air", needed=False))  # fmt: skip
    printed = ("nominal_m3", "volume_m3", "inside_length_m", "floor_length_m",
               "inside_width_m", "inside_height_m")  # fmt: skip
    needs = ("volume_m3",)
    inlet_height_m: Height | None = known("Inlet above its floor")
    loss_w_per_k: Loss | None = known(
        "Loses to the air", "Each kelvin; lagged ones lose less. Empty: by its size."
    )
    outlet_bore_m: Bore | None = known("Outlet bore")


class Gate(Switchable):
    """The valve that empties the grey tank."""

    kind: Literal["gate"] = "gate"
    side = "waste"
    title = "Gate"
    passes = {"shut": ()}
    ports = (Port("inlet", "waste"), Port("outlet", "waste", needed=False))
    positions = ("shut", "open")
    usual = {"bore_m": usual(0.025, 0.04, 0.075, "slide gates")}
    bore_m: Bore | None = known("Bore")
    powered: bool = Field(default=False, title="Moved by a motor")
    manual_spare: bool = Field(default=False, title="Has a hand-worked spare")


class DumpPump(WastePart):
    """A pump that lifts waste out."""

    kind: Literal["dump_pump"] = "dump_pump"
    title = "Dump pump"
    passes = {"off": ()}
    ports = (*through("waste"), power())
    printed = ("flow_m3_per_s", "lift_m", "running_w")
    positions = ("off", "on")
    usual = {"flow_m3_per_s": usual(8 * LITRE_PER_MIN, 14 * LITRE_PER_MIN, 25 * LITRE_PER_MIN,
                                    "self-priming waste pumps"),
             "lift_m": usual(1.0, 2.5, 4.0, "self-priming waste pumps"),
             "running_w": usual(30.0, 60.0, 120.0, "at 12 V")}  # fmt: skip
    flow_m3_per_s: Flow | None = known("Open flow")
    lift_m: Rise | None = known("Lifts up to")
    running_w: Watts | None = known("Watts on the label")


class WasteContainer(Vessel):
    """A loose container under the drain."""

    kind: Literal["waste_container"] = "waste_container"
    side = "waste"
    title = "Waste container"
    ports = (Port("inlet", "waste", many=True),)
    printed = ("nominal_m3", "volume_m3", "spare_count")
    needs = ("volume_m3",)
    caution = "A full container is a heavy lift; empty it at a drain, not on the ground."
    spare_count: Count = Field(default=0, title="More of them carried")


class OpenDrain(WastePart):
    """Waste that runs straight to a drain or a service point."""

    kind: Literal["open_drain"] = "open_drain"
    title = "Straight to a drain"
    ports = (Port("inlet", "waste", many=True, needed=False),)
    caution = "Only into a drain that is meant for it; ask on the pitch."


class ReuseLoop(WastePart):
    """Shower water filtered and sent round again, warmed by an exchanger of its own."""

    kind: Literal["reuse_loop"] = "reuse_loop"
    title = "Reuse loop"
    passes = {"off": (), "on": (("inlet", "outlet"), ("hot_in", "hot_out"))}
    ports = (Port("inlet", "waste"), Port("outlet", "waste"),
             Port("hot_in", "primary", needed=False), Port("hot_out", "primary", needed=False),
             power())  # fmt: skip
    printed = ("holds_m3", "filter_step", "flow_m3_per_s", "running_w")
    needs = ("holds_m3",)
    positions = ("off", "on")
    caution = (
        "Reused water is for one shower only, never to drink and never joined to the fresh "
        "side; drain it and rinse the loop the same day."
    )
    usual = {
        "conductance_w_per_k": usual(400.0, 800.0, 1500.0, "a small plate exchanger"),
        "running_w": usual(20.0, 45.0, 90.0, "its pump"),
        "flow_m3_per_s": usual(
            4 * LITRE_PER_MIN, 7 * LITRE_PER_MIN, 10 * LITRE_PER_MIN, "its pump"
        ),
    }
    holds_m3: Volume | None = known("Water going round")
    filter_step: Literal["none", "hair", "fine", "fine and ultraviolet"] = Field(
        default="hair", title="Filtered by"
    )
    flow_m3_per_s: Flow | None = known("Flow")
    running_w: Watts | None = known("Watts of its pump")
    conductance_w_per_k: Conductance | None = known("Exchanger conductance")
    longest_s: Annotated[Hours, Field(le=86400)] = Field(
        default=3600.0, title="Emptied after", description="How old its water may get."
    )

    def lacking(self) -> Mapping[str, str]:
        """Name what to measure."""
        return {"holds_m3": "litres poured in until it runs"}


WasteKind = (
    Tray | Trap | HairTrap | GreyTank | Gate | DumpPump | WasteContainer | OpenDrain | ReuseLoop
)  # fmt: skip
