"""Elements and burners in a vessel, and what a plate says of their power."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Annotated, ClassVar, Literal

from pydantic import Field

from isotherma.core import water
from isotherma.core.fields import (
    Clock,
    HeatPower,
    Hysteresis,
    Power,
    Pressure,
    Resistance,
    Seconds,
    Setting,
    Share,
    Temperature,
    Time,
    Voltage,
    known,
    known_or,
)
from isotherma.core.system.kinds.heat.base import ELECTRIC_CAUTION, GAS_CAUTION, Fuel, HeatPart
from isotherma.core.system.pieces import (
    Around,
    Band,
    GasSetting,
    Port,
    Sealing,
    about,
    power,
    usual,
)


class Source(HeatPart):
    """What elements and burners share: a thermostat, and the hours in which it may run."""

    positions: ClassVar[tuple[str, ...]] = ("ready", "off")
    sits_in = ("store", "combi", "canister", "sun_container")
    turned = ("set_c", "rule")
    usual = {
        "hysteresis_k": usual(2.0, 4.0, 8.0, "mechanical thermostats of small stores"),
        "sensor_share": usual(0.1, 0.3, 0.7, "a pocket in the lower half"),
        "sensor_lag_s": usual(15.0, 30.0, 60.0, "a sensor strapped on; a pocket is slower"),
    }
    set_c: Setting = Field(default=65.0, title="Thermostat set to")
    hysteresis_k: Hysteresis | None = known("Comes on again after a fall of")
    sensor_share: Share | None = known("Sensor height", "Share of the store's height.")
    sensor_lag_s: Seconds | None = known("Sensor lag")
    window_start_s: Clock = Field(default=0.0, title="May run from")
    window_end_s: Clock = Field(
        default=0.0, title="May run until", description="Equal to “from”: all day."
    )
    rule: Literal["always", "on hook-up", "while driving", "surplus sun", "when switched on"] = (
        Field(default="always", title="Runs")
    )


def _known_store(around: Around) -> tuple[float, float, float] | None:
    """Capacity [J/K], loss [W/K] and surroundings [°C] of the store something sits in."""
    host = around.host
    volume_m3 = getattr(host, "volume_m3", None)
    if host is None or volume_m3 is None:
        return None
    inside = host.worked_out(Around())

    def of(name: str) -> float | None:
        given = getattr(host, name, None)
        band = inside.get(name) or host.usual.get(name)
        return given if given is not None or band is None else band.likely

    body, loss = of("body_j_per_k"), of("loss_w_per_k")
    if body is None or loss is None:
        return None
    capacity = volume_m3 * water.density_kg_per_m3(20.0)
    capacity *= water.mean_specific_heat_j_per_kg_k(10.0, 60.0)
    return capacity + body, loss, 18.0


Boost = Literal["never", "from a time", "before a draw", "by button"]


class Element(Source):
    """An electric heating element in a store, on mains or on battery voltage."""

    kind: Literal["element"] = "element"
    title = "Element"
    ports = (power(),)
    positions = ("ready", "full", "off")
    printed = ("rated_w", "rated_v", "supply_v", "resistance_ohm", "heats_in_s", "from_c", "to_c",
               "set_c", "power_w", "low_w", "boost")  # fmt: skip
    needs = ("power_w",)
    caution = ELECTRIC_CAUTION
    usual = {**Source.usual, "height_share": usual(0.05, 0.1, 0.3, "near the bottom")}
    power_w: Power | None = known("Element power", "That reaches the water.")
    rated_w: Power | None = known("Watts on the label")
    rated_v: Voltage | None = known("At volts on the label")
    supply_v: Voltage | None = known("Volts it gets", "Empty: those on the label.")
    resistance_ohm: Resistance | None = known("Resistance", "Measured across its ends, cold.")
    heats_in_s: Annotated[Time, Field(gt=0)] | None = known(
        "Heats the store in", "Timed, nothing drawn."
    )
    from_c: Temperature | None = known("From")
    to_c: Temperature | None = known("To")
    height_share: Share | None = known("Element height", "Share of the store's height.")
    direct_current: bool | None = known("Contacts rated for direct current")
    low_w: Power | None = known("Watts at its low step", "Empty: it has one step.")
    boost: Boost = Field(
        default="never", title="Full step", description="With a low step, which holds meanwhile."
    )
    boost_from_s: Clock = Field(default=6 * 3600.0, title="Full step from")
    boost_until_s: Clock = Field(default=8 * 3600.0, title="Full step until")
    boost_before_s: Time = Field(default=3600.0, title="Full step this long before a draw")

    def worked_out(self, around: Around) -> Mapping[str, Band]:
        """Watts from the label, from ohms, or from the time a known store took."""
        printed_v = known_or(self.rated_v, around.volts_v)
        volts = known_or(self.supply_v, printed_v)
        if self.rated_w is not None:
            if self.supply_v is not None and self.rated_v is not None:
                scaled = self.rated_w * (self.supply_v / self.rated_v) ** 2
                return {"power_w": about(scaled, 0.05, "watts on the label, by volts squared")}
            return {"power_w": about(self.rated_w, 0.05, "watts on the label, ±5 % as made")}
        if self.resistance_ohm is not None and volts is not None:
            watts = volts**2 / self.resistance_ohm
            return {"power_w": about(watts, 0.07, "volts squared over ohms; wires take some")}
        store = _known_store(around)
        timed = (self.heats_in_s, self.from_c, self.to_c)
        if store is not None and None not in timed:
            capacity, loss, air_c = store
            takes_s, from_c, to_c = (value for value in timed if value is not None)
            rise_k = to_c - from_c
            watts = capacity * rise_k / takes_s
            watts += loss * ((from_c + to_c) / 2 - air_c)
            if watts > 0:
                return {
                    "power_w": about(
                        watts, 0.12,
                        "heat into the store's water and body in the time it took, and its loss "
                        "on the way; a thermometer and a clock leave about 12 %",
                    )
                }  # fmt: skip
        return {}

    def lacking(self) -> Mapping[str, str]:
        """Name the ways to know the watts."""
        return {"power_w": "watts on the label, or ohms, or the time it took to heat the store"}


class Burner(Source):
    """A gas or diesel burner below a store."""

    kind: Literal["burner"] = "burner"
    title = "Burner"
    ports = (Port("gas", "gas", needed=False), power())
    printed = ("rated_w", "rating", "basis", "fuel", "set_c", "gas_pa", "input_w")
    needs = ("input_w",)
    caution = GAS_CAUTION
    usual = {
        **Source.usual,
        "efficiency": usual(0.72, 0.8, 0.86, "small burners under a store, of the net heat"),
    }
    input_w: HeatPower | None = known("Burner input", "Net.")
    rated_w: HeatPower | None = known("Power on the plate")
    rating: Literal["input", "output"] | None = known(
        "The plate means", "What it burns, or what reaches the water."
    )
    basis: Literal["net", "gross"] | None = known(
        "The plate counts", "Net leaves out the heat of the steam, gross counts it; most mean net."
    )
    efficiency: Annotated[Share, Field(gt=0)] | None = known("Reaches the water")
    fuel: Literal["propane", "butane"] = Field(default="propane", title="Gas")
    gas_pa: Pressure | None = known("Gas pressure on the plate")
    sealed: Sealing | None = known("Air and flue")
    gas_setting: GasSetting | None = known("Gas pressure screw")

    def worked_out(self, around: Around) -> Mapping[str, Band]:
        """Net input from what the plate says."""
        if self.rated_w is None:
            return {}
        share = self.nominal("efficiency")
        return {"input_w": net_input(self.rated_w, self.rating, self.basis, self.fuel, share)}

    def lacking(self) -> Mapping[str, str]:
        """Name what the plate says."""
        return {"input_w": "kilowatts or BTU/h on the plate"}


# gross over net heating value, from the pairs in MJ/kg: 50.33/46.34, 49.51/45.72; diesel, petrol
GROSS_OVER_NET: Mapping[Fuel, float] = {
    "propane": 1.086,
    "butane": 1.083,
    "diesel": 1.066,
    "petrol": 1.070,
}


def net_input(
    rated_w: float, rating: str | None, basis: str | None, fuel: Fuel, efficiency: float
) -> Band:
    """Net input from a plate that may mean input or output, net or gross.

    Parameters
    ----------
    rated_w : float
        Power on the plate, > 0. [W]
    rating, basis : str or None
        "input" or "output", "net" or "gross"; None when the plate does not say. [-]
    fuel : str
        Decides gross over net. [-]
    efficiency : float
        Share of the net input that reaches the water. [-]

    Returns
    -------
    Band
        Net input; wide where the plate leaves it open. [W]
    """
    ratio = GROSS_OVER_NET[fuel]
    lows, highs, words = rated_w, rated_w, []
    likely = rated_w
    if rating == "output":
        lows, likely, highs = (rated_w / efficiency for _ in range(3))
        words.append(f"output over {efficiency:.0%} efficiency")
    elif rating is None:
        highs = rated_w / efficiency
        words.append("taken as input, since plates name input more often than output")
    else:
        words.append("input as the plate says")
    if basis == "gross" and rating != "output":
        lows, likely, highs = lows / ratio, likely / ratio, highs / ratio
        words.append(f"gross heat over {ratio:.3f} for {fuel}")
    elif basis is None and rating != "output":
        lows /= ratio
        words.append("taken as net; it may be gross")
    return Band(lows, likely, highs, "; ".join(words))
