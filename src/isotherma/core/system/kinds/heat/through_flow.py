"""Heaters that heat water as it passes, by gas or electricity."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Annotated, Literal

from pydantic import Field

from isotherma.core.fields import (
    BodyLoss,
    Capacity,
    Flow,
    HeatPower,
    Pressure,
    RiseOf,
    Seconds,
    Setting,
    Share,
    Temperature,
    Voltage,
    known,
    known_or,
)
from isotherma.core.system.kinds.heat.base import ELECTRIC_CAUTION, GAS_CAUTION, HeatPart
from isotherma.core.system.kinds.heat.sources import net_input
from isotherma.core.system.pieces import (
    LITRE_PER_MIN,
    Around,
    Band,
    GasSetting,
    Port,
    Sealing,
    about,
    power,
    present,
    spread,
    through,
    usual,
)
from isotherma.core.water import LABEL_J_PER_M3_K


class ThroughFlow(HeatPart):
    """What heaters without a store share: heat by flow and rise, and the flow they light at."""

    positions = ("ready", "off")
    usual = {
        "on_flow_m3_per_s": usual(
            2.0 * LITRE_PER_MIN, 2.5 * LITRE_PER_MIN, 3.2 * LITRE_PER_MIN, "flow switches differ"
        ),
        "off_flow_m3_per_s": usual(
            1.5 * LITRE_PER_MIN, 2.0 * LITRE_PER_MIN, 2.7 * LITRE_PER_MIN, "a little under its on"
        ),
        "body_j_per_k": usual(2000.0, 2700.0, 3500.0, "a copper exchanger with its water"),
        "loss_w_per_k": usual(0.5, 1.0, 2.0, "a small exchanger in its case"),
        "pressure_loss_pa_at_5": usual(1e4, 3e4, 8e4, "a coiled exchanger at 5 L/min"),
    }
    heat_w: HeatPower | None = known("Heat to the water", "At full fire.")
    rated_flow_m3_per_s: Flow | None = known("Litres per minute on the box")
    rated_rise_k: RiseOf | None = known("At a rise of", "Empty: the box does not say.")
    on_flow_m3_per_s: Flow | None = known("Comes on at")
    off_flow_m3_per_s: Flow | None = known("Goes off below")
    body_j_per_k: Capacity | None = known("Heat in its body")
    loss_w_per_k: BodyLoss | None = known("Its body loses", "To the air around it.")
    control_by: Literal["outlet sensor", "feed-forward"] = Field(
        default="outlet sensor",
        title="Fire follows",
        description="A sensor at its outlet gives full fire until the water is warm; "
        "feed-forward goes by flow and cold water alone and does not know a cold body.",
    )
    pressure_loss_pa_at_5: Pressure | None = known("Takes of the pressure", "At 5 L/min.")

    def _by_flow(self) -> Band | None:
        if self.rated_flow_m3_per_s is None:
            return None
        per_k = self.rated_flow_m3_per_s * LABEL_J_PER_M3_K
        if self.rated_rise_k is not None:
            return about(per_k * self.rated_rise_k, 0.03, "flow and rise on the box")
        return Band(
            20.0 * per_k, 25.0 * per_k, 30.0 * per_k,
            "litres per minute without a rise: boxes mean about 25 K, some 20, some 30",
        )  # fmt: skip


class ThroughFlowGas(ThroughFlow):
    """A gas heater without a store: thermostatic, or with a gas knob and a water knob."""

    kind: Literal["through_flow_gas"] = "through_flow_gas"
    title = "Through-flow gas heater"
    ports = (*through("water"), Port("gas", "gas", needed=False), power())
    printed = ("rated_flow_m3_per_s", "rated_rise_k", "rated_w", "rating", "basis", "fuel",
               "control", "set_c", "gas_pa", "sealed")  # fmt: skip
    turned = ("set_c", "gas_share", "season")
    needs = ("heat_w",)
    caution = GAS_CAUTION
    usual = {
        **ThroughFlow.usual,
        "efficiency": usual(0.78, 0.84, 0.88, "small instantaneous burners, of the net heat"),
        "sense_s": usual(0.3, 0.5, 1.0, "flow switch"),
        "light_s": usual(1.0, 2.0, 5.0, "spark to flame; fan-flued ones purge first"),
        "ramp_s": usual(3.0, 5.0, 8.0, "to full fire"),
        "summer_share": usual(0.5, 0.6, 0.75, "the seasonal switch takes a burner segment out"),
        "limit_c": usual(80.0, 85.0, 95.0, "its own cut-out, where none is printed"),
    }
    rated_w: HeatPower | None = known("Power on the plate", "kW or BTU/h.")
    rating: Literal["input", "output"] | None = known(
        "The plate means", "What it burns, or what reaches the water."
    )
    basis: Literal["net", "gross"] | None = known(
        "The plate counts", "Net leaves out the heat of the steam, gross counts it; most mean net."
    )
    efficiency: Annotated[Share, Field(gt=0)] | None = known("Reaches the water")
    input_w: HeatPower | None = known("Net input", "At full fire.")
    least_w: HeatPower | None = known("Heat at its lowest fire")
    fuel: Literal["propane", "butane"] = Field(default="propane", title="Gas")
    control: Literal["thermostatic", "two knobs"] = Field(default="thermostatic", title="Kept by")
    set_c: Setting = Field(default=42.0, title="Set to", description="A thermostatic one.")
    gas_share: Share = Field(default=1.0, title="Gas knob", description="Share of full fire.")
    season: Literal["winter", "summer"] = Field(default="winter", title="Seasonal switch")
    summer_share: Share | None = known("Fire left in summer")
    limit_c: Temperature | None = known("Limit cut-out")
    gas_pa: Pressure | None = known("Gas pressure on the plate")
    sealed: Sealing | None = known("Air and flue")
    gas_setting: GasSetting | None = known("Gas pressure screw")
    ignition: Literal["cells", "vehicle supply", "mains"] | None = known("Sparks from")
    sense_s: Seconds | None = known("Senses flow in")
    light_s: Seconds | None = known("Lights in")
    ramp_s: Seconds | None = known("Ramps up in")

    def by_hand(self) -> tuple[str, ...]:
        """A thermostatic one is set to a temperature, the other has a gas knob and a season."""
        return ("set_c",) if self.control == "thermostatic" else ("gas_share", "season")

    def worked_out(self, around: Around) -> Mapping[str, Band]:
        """Heat to the water from litres per minute or from the plate."""
        share = self.nominal("efficiency")
        heat = self._by_flow()
        net = None
        if self.rated_w is not None:
            net = net_input(self.rated_w, self.rating, self.basis, self.fuel, share)
            if heat is None:
                heat = Band(net.low * 0.93 * share, net.likely * share, net.high * share,
                            f"{net.because}; times {share:.0%} that reaches the water")  # fmt: skip
        if net is None and (heat is not None or self.heat_w is not None):
            likely = known_or(self.heat_w, heat.likely if heat else 0.0)
            given = self.heat_w is not None
            low, high = (heat.low, heat.high) if heat and not given else (likely, likely)
            net = Band(low / share, likely / share, high / share, f"heat over {share:.0%}")
        least = None
        top = known_or(self.heat_w, heat.likely if heat else None)
        if top is not None:
            shares = (0.18, 0.3, 0.45) if self.control == "thermostatic" else (0.35, 0.5, 0.7)
            least = spread((top * part for part in shares), "burners turn down to about a third")
        return present([("heat_w", heat), ("input_w", net), ("least_w", least)])

    def lacking(self) -> Mapping[str, str]:
        """Name what box and plate say."""
        words = "litres per minute on the box, or kW or BTU/h on the plate"
        return {"heat_w": words, "input_w": words, "least_w": words}


class ThroughFlowElectric(ThroughFlow):
    """An electric heater without a store, on mains."""

    kind: Literal["through_flow_electric"] = "through_flow_electric"
    title = "Through-flow electric heater"
    ports = (*through("water"), power(needed=True))
    printed = ("rated_w", "rated_v", "rated_flow_m3_per_s", "rated_rise_k", "set_c")
    turned = ("set_c",)
    needs = ("heat_w",)
    caution = ELECTRIC_CAUTION
    usual = {
        **ThroughFlow.usual,
        "body_j_per_k": usual(300.0, 600.0, 1200.0, "a small cell"),
        "loss_w_per_k": usual(0.1, 0.3, 0.6, "a small cell"),
    }
    rated_w: HeatPower | None = known("Watts on the label")
    rated_v: Voltage | None = known("At volts on the label")
    set_c: Setting | None = known("Set to", "Empty: all its power all the time.")

    def worked_out(self, around: Around) -> Mapping[str, Band]:
        """Heat from watts, or from litres per minute."""
        if self.rated_w is not None:
            return {"heat_w": about(self.rated_w, 0.05, "all its watts reach the water")}
        return present([("heat_w", self._by_flow())])

    def lacking(self) -> Mapping[str, str]:
        """Name what the label says."""
        return {"heat_w": "watts on the label"}
