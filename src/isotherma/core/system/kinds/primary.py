"""The primary: a closed circuit whose fluid nobody drinks."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Final, Literal

from pydantic import Field

from isotherma.core.fields import (
    Difference,
    Flow,
    PartRef,
    Pressure,
    Seconds,
    Share,
    Temperature,
    Volume,
    Watts,
    known,
)
from isotherma.core.system.pieces import (
    BAR,
    LITRE,
    LITRE_PER_MIN,
    Around,
    Band,
    PartBase,
    Port,
    power,
    through,
    usual,
)

USUAL_FLUID: Final = "propylene glycol"  # where nobody says; most circuits of vehicles


class PrimaryPart(PartBase):
    """A part of the closed circuit."""

    side = "primary"


class PrimaryFluid(PrimaryPart):
    """What fills a closed circuit: water or an antifreeze mix."""

    kind: Literal["primary_fluid"] = "primary_fluid"
    title = "Primary fluid"
    printed = ("fluid", "antifreeze_share", "volume_m3")
    caution = (
        "Some antifreeze is poisonous: use the food-grade kind next to drinking water, and "
        "label the filler."
    )
    usual = {"volume_m3": usual(1 * LITRE, 3 * LITRE, 8 * LITRE, "hoses, coil and heater")}
    fluid: Literal["water", "propylene glycol", "ethylene glycol"] | None = known("Antifreeze")
    antifreeze_share: Share | None = known("Share of antifreeze", "By volume.")
    volume_m3: Volume | None = known("Volume of the circuit")
    freezes_c: Temperature | None = known("Freezes at")
    fills: PartRef | None = known("Fills the circuit of", "Any part of that circuit.")

    def worked_out(self, around: Around) -> Mapping[str, Band]:
        """Freezing point from the share (propylene glycol, common tables)."""
        if self.fluid == "water":
            return {"freezes_c": Band(0.0, 0.0, 0.0, "water")}
        if self.antifreeze_share is None:
            return {
                "antifreeze_share": Band(
                    0.25, 0.4, 0.5,
                    "as circuits are often filled; what it freezes at stays unknown until measured",
                )
            }  # fmt: skip
        x = self.antifreeze_share
        likely = -(12.0 * x + 92.0 * x * x) if x <= 0.6 else -45.0  # −13 at 30 %, −29 at 50 %
        return {"freezes_c": Band(likely - 4, likely, likely + 3, "glycol by its share")}

    def lacking(self) -> Mapping[str, str]:
        """Name what to know."""
        return {"freezes_c": "the share of antifreeze"}


class ExpansionVessel(PrimaryPart):
    """A vessel that takes up the growth of heated fluid."""

    kind: Literal["expansion_vessel"] = "expansion_vessel"
    title = "Expansion vessel"
    ports = (Port("inlet", "fluid"),)
    printed = ("volume_m3", "precharge_pa", "open_header")
    usual = {
        "volume_m3": usual(0.16 * LITRE, 0.5 * LITRE, 2 * LITRE, "small vessels"),
        "precharge_pa": usual(0.5 * BAR, 1.0 * BAR, 1.5 * BAR, "as it leaves the shop"),
    }
    volume_m3: Volume | None = known("Volume")
    precharge_pa: Pressure | None = known("Pre-charge")
    open_header: bool = Field(default=False, title="An open header tank")
    cap_pa: Pressure | None = known("Cap opens at")


class Bleed(PrimaryPart):
    """A high point of the circuit where air is let out."""

    kind: Literal["bleed"] = "bleed"
    title = "Bleed"
    ports = (Port("inlet", "fluid"),)
    automatic: bool = Field(default=False, title="Bleeds by itself")


class CirculationPump(PrimaryPart):
    """A pump that moves the primary round, and when it runs."""

    kind: Literal["circulation_pump"] = "circulation_pump"
    title = "Circulation pump"
    ports = (*through("primary"), power())
    printed = ("flow_m3_per_s", "running_w", "runs", "difference_k")
    positions = ("on", "off")
    usual = {
        "flow_m3_per_s": usual(
            4 * LITRE_PER_MIN, 8 * LITRE_PER_MIN, 15 * LITRE_PER_MIN, "coolant boosters"
        ),
        "shut_pressure_pa": usual(0.08 * BAR, 0.15 * BAR, 0.3 * BAR, "coolant boosters"),
        "running_w": usual(10.0, 18.0, 30.0, "coolant boosters at 12 V"),
        "difference_k": usual(3.0, 6.0, 10.0, "source over store, before it starts"),
    }
    flow_m3_per_s: Flow | None = known("Open flow")
    shut_pressure_pa: Pressure | None = known("Pressure at no flow")
    running_w: Watts | None = known("Watts on the label")
    runs: Literal["with the heater", "on a difference", "while driving", "always", "by hand"] = (
        Field(default="with the heater", title="Runs")
    )
    difference_k: Difference | None = known("Starts at a difference of")
    after_run_s: Seconds = Field(default=120.0, title="Runs on for")


PrimaryKind = PrimaryFluid | ExpansionVessel | Bleed | CirculationPump
