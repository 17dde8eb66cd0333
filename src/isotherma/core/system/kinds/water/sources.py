"""Where water comes from: tanks, cans, bags, rivers, a pitch, and where they are filled."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Literal

from pydantic import Field

from isotherma.core.fields import (
    Bore,
    Count,
    Flow,
    Height,
    Loss,
    Pressure,
    Rise,
    Seconds,
    Water,
    known,
)
from isotherma.core.system.kinds.water.base import Vessel, WaterPart
from isotherma.core.system.pieces import (
    BAR,
    LITRE_PER_MIN,
    Around,
    Band,
    Port,
    usual,
)
from isotherma.core.thermal.losses import tank_loss_w_per_k


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
    vent_shares_overflow: bool = Field(
        default=False,
        title="Vent and overflow share one hose",
        description="Air must leave by the hose that water runs over in.",
    )
    baffled: bool | None = known("Has baffles", "Against slosh.")
    loss_w_per_k: Loss | None = known(
        "Loses to the air", "Each kelvin; lagged ones lose less. Empty: by its size."
    )

    def worked_out(self, around: Around) -> Mapping[str, Band]:
        """Litres, and what it loses by its faces."""
        found = dict(super().worked_out(around))
        between = self._between_heights()
        if between is not None and self.nominal_m3 is None:
            found["volume_m3"] = between
        volume = self.volume_m3
        if volume is None and "volume_m3" in found:
            volume = found["volume_m3"].likely
        if volume is not None:
            loss = tank_loss_w_per_k(volume)
            found["loss_w_per_k"] = Band(
                0.6 * loss, loss, 1.5 * loss, "a bare plastic cube of its litres in still air"
            )
        return found

    def _between_heights(self) -> Band | None:
        """Litres between outlet and overflow, where its inside and one of both were measured.

        References
        ----------
        Geometry of a tapered box.
        """
        height = self.inside_height_m
        if not (self.inside_length_m and self.inside_width_m and height):
            return None
        if self.outlet_height_m is None and self.overflow_height_m is None:
            return None
        low = self.usual["outlet_height_m"].likely
        low = min(height, low if self.outlet_height_m is None else self.outlet_height_m)
        high = height if self.overflow_height_m is None else min(height, self.overflow_height_m)
        if high <= low:
            return None
        floor = self.floor_length_m or self.inside_length_m
        middle = 0.5 * (low + high) / height
        length = floor + (self.inside_length_m - floor) * middle
        litres = length * self.inside_width_m * (high - low)
        return Band(
            0.92 * litres, 0.96 * litres, litres,
            "by its inside measures between outlet and overflow, less about 4 % for round corners",
        )  # fmt: skip


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
    water_c: Water | None = known(
        "Its temperature", "Empty: by where it stands, the region and the month."
    )


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
