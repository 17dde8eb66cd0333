"""Use: heads, taps and whatever else takes water."""

from __future__ import annotations

from collections.abc import Mapping
from math import sqrt
from typing import Annotated, ClassVar, Final, Literal

from pydantic import Field

from isotherma.core.fields import (
    Flow,
    FlowFactor,
    Height,
    PartRef,
    Pressure,
    Rise,
    Seconds,
    Setting,
    Size,
    Volume,
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
    certain,
    power,
    spread,
    usual,
)

FINE_FACTOR: Final = 3.4 * FACTOR  # fine-hole heads pass about 3 L/min/√bar


class Outlet(PartBase):
    """Where water leaves: its flow by label, by pressure, or by filling a bucket."""

    side = "use"
    ports: ClassVar[tuple[Port, ...]] = (Port("inlet", "water"),)
    printed: ClassVar[tuple[str, ...]] = (
        "flow_m3_per_s",
        "pressure_pa",
        "filled_m3",
        "filled_s",
        "falls_to",
        "height_m",
    )
    flow_m3_per_s: Flow | None = known("Flow on the label")
    pressure_pa: Annotated[Pressure, Field(gt=0)] | None = known(
        "At a pressure of", "Empty: the label does not say."
    )
    filled_m3: Volume | None = known("It fills", "Measured with a bucket, fully open.")
    filled_s: Seconds | None = known("In")
    flow_factor_si: FlowFactor | None = known(
        "Passes at one bar", "Litres a minute; it passes more as the root of the pressure."
    )
    falls_to: PartRef | None = known("Water falls to", "The tray or basin below.")
    height_m: Rise | None = known("Above the floor it is used at")

    def _from_flow(self) -> Band | None:
        if self.filled_m3 is not None and self.filled_s:
            q = self.filled_m3 / self.filled_s
            how = "a bucket and a clock"
        elif self.flow_m3_per_s is not None:
            q, how = self.flow_m3_per_s, "the label's flow"
        else:
            return None
        if self.pressure_pa is not None:
            return certain(q / sqrt(self.pressure_pa), f"{how} and the pressure said")
        if self.filled_m3 is not None:
            # what a small pump leaves before the outlet once it runs
            low, likely, high = (q / sqrt(p * BAR) for p in (2.4, 1.5, 0.7))
            return Band(
                low,
                likely,
                high,
                f"{how}; a small pump leaves 0.7 to 2.4 bar before it, likely 1.5",
            )
        low, likely, high = (q / sqrt(p * BAR) for p in (4.0, 3.0, 1.0))
        return Band(low, likely, high, f"{how}; labels without a pressure mean about 3 bar")

    def worked_out(self, around: Around) -> Mapping[str, Band]:
        """Flow factor from a bucket and a clock, or from the label."""
        band = self._from_flow()
        return {"flow_factor_si": band} if band else {}


class ShowerHead(Outlet):
    """The outlet people stand under."""

    kind: Literal["shower_head"] = "shower_head"
    title = "Shower head"
    printed = (*Outlet.printed, "style", "button")
    style: Literal["fine holes", "trigger", "hand set", "rain"] | None = known("Style")
    button: Literal["none", "on the head", "at the wall", "remote switch"] = Field(
        default="none", title="Shut while soaping by"
    )

    def worked_out(self, around: Around) -> Mapping[str, Band]:
        """From measure or label; else by the style of head."""
        band = self._from_flow()
        if band is not None:
            return {"flow_factor_si": band}
        likely = {"fine holes": 3.0, "trigger": 4.5, "rain": 8.0}.get(self.style or "", 5.2)
        words = f"usual for {self.style}" if self.style else "a usual hand set"
        return {"flow_factor_si": spread((likely * share * FACTOR for share in (0.75, 1.0, 1.3)),
                                       f"{words}; fill a bucket by the clock to know")}  # fmt: skip

    def fine_drops(self) -> bool:
        """Say whether its drops are fine and cool more: by its style, or how little it passes."""
        if self.style == "fine holes":
            return True
        return self.flow_factor_si is not None and self.flow_factor_si <= FINE_FACTOR


class Tap(Outlet):
    """A tap at a basin or sink."""

    kind: Literal["tap"] = "tap"
    title = "Tap"
    printed = (*Outlet.printed, "room")
    usual = {"flow_factor_si": usual(4 * FACTOR, 6 * FACTOR, 9 * FACTOR, "small vehicle taps")}
    room: Literal["kitchen", "basin", "other"] | None = known("Stands in")
    drinks: bool | None = known("Drunk from")


class OutsideOutlet(Switchable, Outlet):
    """A shower or hose point outside the body."""

    kind: Literal["outside_outlet"] = "outside_outlet"
    title = "Outside outlet"
    positions = ("shut", "open")
    usual = {"flow_factor_si": usual(3 * FACTOR, 4.5 * FACTOR, 6 * FACTOR, "trigger sprays")}


class BottleFill(Outlet):
    """A thin tap for drinking bottles."""

    kind: Literal["bottle_fill"] = "bottle_fill"
    title = "Bottle fill"
    usual = {"flow_factor_si": usual(1 * FACTOR, 1.6 * FACTOR, 3 * FACTOR, "filter taps")}


class ToiletFlush(Outlet):
    """The flush of a toilet."""

    kind: Literal["toilet_flush"] = "toilet_flush"
    title = "Toilet flush"
    printed = ("flush_m3", "own_tank")
    usual = {
        "flow_factor_si": usual(3 * FACTOR, 5 * FACTOR, 8 * FACTOR, "small flush valves"),
        "flush_m3": usual(0.2 * LITRE, 0.5 * LITRE, 1.0 * LITRE, "vehicle toilets"),
    }
    flush_m3: Volume | None = known("Water per flush")
    own_tank: bool | None = known("Has a tank of its own")


class Appliance(Outlet):
    """A washing machine or another appliance that takes a charge of water."""

    kind: Literal["appliance"] = "appliance"
    title = "Appliance"
    ports = (Port("inlet", "water"), Port("waste", "waste", needed=False), power())
    printed = ("charge_m3", "charge_c", "rated_w", "runs_s")
    needs = ("charge_m3",)
    usual = {"flow_factor_si": usual(3 * FACTOR, 5 * FACTOR, 8 * FACTOR, "appliance valves"),
             "flow_most_m3_per_s": usual(3 * LITRE_PER_MIN, 6 * LITRE_PER_MIN, 10 * LITRE_PER_MIN,
                                         "appliance valves")}  # fmt: skip
    charge_m3: Volume | None = known("Water per run")
    charge_c: Setting | None = known("Wants it at", "Empty: cold.")
    rated_w: Watts | None = known("Watts on the label")
    runs_s: Seconds | None = known("A run takes")
    flow_most_m3_per_s: Flow | None = known("Takes at most")

    def lacking(self) -> Mapping[str, str]:
        """Name what the handbook says."""
        return {"charge_m3": "litres per run in its handbook"}


PlaceKind = Literal["cubicle", "doorway with curtain", "tent", "outside"]
_STANDS_READY = usual(0.0, 5.0, 20.0, "it stands; a door is shut")
_SETUP: Final[Mapping[PlaceKind, tuple[Band, Band]]] = {
    "cubicle": (_STANDS_READY, usual(20.0, 60.0, 180.0, "wiped dry")),
    "doorway with curtain": (
        usual(20.0, 45.0, 120.0, "curtain drawn, mat laid"),
        usual(60.0, 120.0, 300.0, "curtain and mat dried and folded"),
    ),
    "tent": (
        usual(120.0, 300.0, 600.0, "put up and pegged"),
        usual(180.0, 420.0, 900.0, "shaken out, folded wet"),
    ),
    "outside": (usual(0.0, 15.0, 60.0, "a mat on the ground"),
                usual(10.0, 30.0, 60.0, "mat rinsed and hung up")),
}  # fmt: skip


class ShowerPlace(PartBase):
    """Where people stand: what is set up before a shower and packed away after it."""

    kind: Literal["shower_place"] = "shower_place"
    side = "use"
    title = "Shower place"
    printed = ("setting", "setup_s", "pack_s", "headroom_m", "mat_m")
    sits_in = ("tray",)
    caution = "Wet floors are slippery: a mat that grips, and something to hold on to."
    setting: PlaceKind = Field(default="cubicle", title="It is")
    serves: PartRef | None = known("Under which head", "Empty: the first.")
    setup_s: Seconds | None = known("Set up in")
    pack_s: Seconds | None = known("Packed in")
    headroom_m: Size | None = known("Headroom in it", "Empty: by the vehicle, tray and mat.")
    mat_m: Height | None = known("Mat or grid under the feet")

    def worked_out(self, around: Around) -> Mapping[str, Band]:
        """Seconds by what it is."""
        setup, pack = _SETUP[self.setting]
        return {"setup_s": setup, "pack_s": pack}

    @property
    def wets_the_air(self) -> bool:
        """Whether its vapour stays in the vehicle."""
        return self.setting in ("cubicle", "doorway with curtain")


UseKind = ShowerHead | Tap | OutsideOutlet | BottleFill | ToiletFlush | Appliance | ShowerPlace
