"""What parts on the water side have in common."""

from __future__ import annotations

from collections.abc import Mapping

from isotherma.core.fields import (
    Size,
    Volume,
    known,
)
from isotherma.core.system.pieces import (
    Around,
    Band,
    PartBase,
    Switchable,
    box_volume,
    present,
)


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
