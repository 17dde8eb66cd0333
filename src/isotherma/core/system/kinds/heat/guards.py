"""What guards heat and what it burns: thermostats, cut-outs, flues, the fuel tank."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Literal

from pydantic import Field

from isotherma.core.fields import (
    Bore,
    Flow,
    Height,
    Hysteresis,
    Length,
    PartRef,
    Seconds,
    Setting,
    Share,
    Temperature,
    Volume,
    known,
)
from isotherma.core.system.kinds.heat.base import HeatPart
from isotherma.core.system.pieces import (
    LITRE,
    PartBase,
    Port,
    power,
    usual,
)


class Thermostat(HeatPart):
    """A thermostat of its own that switches elements, burners or pumps."""

    kind: Literal["thermostat"] = "thermostat"
    title = "Thermostat"
    ports = (power(),)
    printed = ("set_c", "hysteresis_k")
    turned = ("set_c",)
    usual = {
        "hysteresis_k": usual(2.0, 4.0, 8.0, "mechanical ones"),
        "sensor_lag_s": usual(15.0, 30.0, 60.0, "strapped on"),
        "sensor_share": usual(0.3, 0.5, 0.7, "strapped on half way up"),
    }
    set_c: Setting = Field(default=60.0, title="Set to")
    hysteresis_k: Hysteresis | None = known("Comes on again after a fall of")
    sensor_share: Share | None = known("Sensor height", "Share of the store's height.")
    sensor_lag_s: Seconds | None = known("Sensor lag")
    switches: PartRef | None = known("Switches", "The element, burner or pump it runs.")
    direct_current: bool | None = known("Contacts rated for direct current")


def calls_a_pump(part: PartBase, parts: Mapping[str, PartBase]) -> bool:
    """Say whether a part is a thermostat that lets a pump bring heat to the vessel it sits in.

    Parameters
    ----------
    part : PartBase
        Any part. [-]
    parts : mapping of str to PartBase
        All parts by id. [-]

    Returns
    -------
    bool
        True for a thermostat that switches a circulation pump. [-]
    """
    if not isinstance(part, Thermostat) or part.switches is None:
        return False
    switched = parts.get(part.switches)
    return switched is not None and getattr(switched, "kind", "") == "circulation_pump"


class HighLimit(HeatPart):
    """An independent cut-out against overheating."""

    kind: Literal["high_limit"] = "high_limit"
    title = "Thermal cut-out"
    printed = ("opens_c", "resets")
    usual = {"opens_c": usual(75.0, 85.0, 95.0, "printed on its body")}
    opens_c: Temperature | None = known("Opens at")
    resets: Literal["by hand", "by itself", "once only"] | None = known("Resets")
    guards: PartRef | None = known("Guards", "The element or burner it cuts.")


class Interlock(HeatPart):
    """A switch that stops heat where there is no water or no flow."""

    kind: Literal["interlock"] = "interlock"
    title = "Water interlock"
    ports = (Port("inlet", "fluid", needed=False), Port("outlet", "fluid", needed=False), power())
    printed = ("senses", "trips_at_share", "trips_at_m3_per_s")
    usual = {"trips_at_share": usual(0.2, 0.3, 0.5, "above most elements")}
    senses: Literal["level", "flow", "pressure"] = Field(default="level", title="Senses")
    trips_at_share: Share | None = known("Trips at a level of", "Share of the tank's height.")
    trips_at_m3_per_s: Flow | None = known("Trips below a flow of")
    guards: PartRef | None = known("Guards", "The element, burner or pump it stops.")
    fails: Literal["stops the heat", "lets it run"] | None = known("When it fails it")


class Flue(HeatPart):
    """The duct that takes burnt gas out and, room-sealed, brings air in."""

    kind: Literal["flue"] = "flue"
    title = "Flue"
    printed = ("length_m", "bore_m", "room_sealed")
    caution = (
        "Flue work is for a licensed fitter; a loose joint fills the living space with "
        "carbon monoxide."
    )
    length_m: Length | None = known("Length")
    bore_m: Bore | None = known("Bore")
    room_sealed: bool | None = known("Room sealed")
    rise_m: Height | None = known("Rises by")
    lagged: bool | None = known("Lagged")
    clear_m: Height | None = known("Clear of", "To the nearest plastic, cloth or wood.")


class Terminal(HeatPart):
    """Where the flue or exhaust ends outside."""

    kind: Literal["terminal"] = "terminal"
    title = "Flue terminal"
    printed = ("wall", "to_opening_m", "to_filler_m")
    caution = "Burnt gas must not drift back in: keep it clear of windows, vents and the filler."
    wall: Literal["side", "roof", "floor", "rear"] | None = known("Through")
    to_opening_m: Height | None = known("To the nearest window or vent")
    to_filler_m: Height | None = known("To the fuel filler")


class FuelTank(HeatPart):
    """The diesel or petrol a heater burns: the vehicle's own tank, or one apart."""

    kind: Literal["fuel_tank"] = "fuel_tank"
    title = "Fuel tank"
    ports = (Port("outlet", "fuel", many=True),)
    printed = ("volume_m3", "kept_m3", "fuel")
    needs = ("volume_m3",)
    caution = (
        "Fuel and its vapour burn: take the pickup with the tank low, outdoors, no flame near."
    )
    usual = {"kept_m3": usual(5 * LITRE, 10 * LITRE, 20 * LITRE, "the pickup stands off the floor")}
    volume_m3: Volume | None = known("Volume")
    kept_m3: Volume | None = known("Kept for driving", "The pickup does not reach it.")
    fuel: Literal["diesel", "petrol"] = Field(default="diesel", title="Fuel")

    def lacking(self) -> Mapping[str, str]:
        """Name what the handbook of the vehicle says."""
        return {"volume_m3": "litres in the vehicle's papers"}
