"""Gas: from the bottle to the appliance, and what warns."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Literal

from pydantic import Field

from isotherma.core.fields import (
    Bodied,
    Date,
    Heat,
    HeatPower,
    Hours,
    Loss,
    MassFlow,
    Pressure,
    Seconds,
    Share,
    known,
)
from isotherma.core.system.kinds.heat import GAS_CAUTION
from isotherma.core.system.pieces import (
    BAR,
    Around,
    Band,
    GasSetting,
    PartBase,
    Port,
    Sealing,
    Switchable,
    about,
    certain,
    power,
    spread,
    through,
    usual,
)

LEAST_OVER_PA = 0.2 * BAR  # lost in a regulator at full load; butane as sold then holds to 2 °C


class GasPart(PartBase):
    """A part on the way of the gas."""

    side = "gas"


class GasBottle(Switchable):
    """A bottle of liquid gas."""

    kind: Literal["gas_bottle"] = "gas_bottle"
    side = "gas"
    title = "Gas bottle"
    ports = (Port("outlet", "gas"),)
    positions = ("open", "shut")
    printed = ("gas_kg", "empty_kg", "gas", "butane_share")
    needs = ("gas_kg",)
    caution = (
        "Upright, strapped, in a locker that is sealed from the living space and open to the "
        "outside at its floor. " + GAS_CAUTION
    )
    gas_kg: Bodied | None = known("Gas when full")
    empty_kg: Bodied | None = known("Empty it weighs")
    gas: Literal["propane", "butane", "mix"] = Field(default="propane", title="Gas")
    butane_share: Share | None = known("Butane in it")
    conductance_w_per_k: Loss | None = known("Takes up heat", "Wetted by the liquid.")
    fill_share: Share = Field(default=1.0, title="Full at the start")
    spare: bool = Field(default=False, title="A spare, not joined")
    stands: Literal["upright", "lying"] | None = known("How it stands")
    swap_s: Seconds = Field(
        default=300.0, title="A swap takes", description="Shut, off, on, tested with soap."
    )

    def worked_out(self, around: Around) -> Mapping[str, Band]:
        """Heat it takes up from the air and the steel that cools with it, by its size."""
        found = {
            "butane_share": {
                "propane": Band(0.0, 0.0, 0.1, "propane as sold"),
                "butane": certain(1.0, "butane; a quarter of it isobutane, as sold"),
                "mix": Band(0.2, 0.5, 0.7, "mixes as sold; the label says it"),
            }[self.gas]
        }
        if self.gas_kg:
            ua = 1.2 * (self.gas_kg / 2.0) ** 0.5  # 1.2 W/K at 2 kg, about 2 at 6 kg
            found["conductance_w_per_k"] = about(ua, 0.4, "bottles of this size in still air")
            found["empty_kg"] = about(1.1 * self.gas_kg, 0.2, "steel bottles of this size")
        return found

    def lacking(self) -> Mapping[str, str]:
        """Name what the bottle says."""
        words = "kilograms of gas"
        return {"gas_kg": "kilograms on the bottle", "conductance_w_per_k": words,
                "empty_kg": "the tare stamped on it"}  # fmt: skip


class Regulator(GasPart):
    """What brings the bottle's pressure down to the appliance's."""

    kind: Literal["regulator"] = "regulator"
    title = "Regulator"
    ports = through("gas")
    printed = ("set_pa", "rated_kg_per_s", "changes_over")
    caution = GAS_CAUTION
    usual = {
        "set_pa": usual(
            0.028 * BAR, 0.030 * BAR, 0.037 * BAR, "marked on it; must equal the appliance's"
        ),
        "rated_kg_per_s": usual(1.0 / 3600, 1.5 / 3600, 2.0 / 3600, "vehicle regulators"),
    }
    set_pa: Pressure | None = known("Gives")
    least_inlet_pa: Pressure | None = known(
        "Needs before it", "Least pressure of the bottle at which it still gives its load."
    )
    rated_kg_per_s: MassFlow | None = known("Up to")
    changes_over: bool = Field(default=False, title="Changes over by itself")
    dated: Date | None = known("Made on", "As 2024-03-31; replace by its label.")
    gas_setting: GasSetting | None = known("Gas pressure screw")

    def worked_out(self, around: Around) -> Mapping[str, Band]:
        """Least pressure before it, from what it gives."""
        gives = self.nominal("set_pa")
        return {
            "least_inlet_pa": spread(
                (gives + over for over in (0.1 * BAR, LEAST_OVER_PA, 0.4 * BAR)),
                "about 0.2 bar above what it gives at full load",
            )
        }


class GasCoupling(Switchable):
    """A quick coupling for gas that cannot flow when apart."""

    kind: Literal["gas_coupling"] = "gas_coupling"
    side = "gas"
    title = "Gas coupling"
    passes = {"apart": ()}
    ports = through("gas")
    positions = ("joined", "apart")
    caution = GAS_CAUTION
    sealing: Literal["supply side", "both sides", "neither"] | None = known("Seals when apart")
    own_valve: bool | None = known("Has a valve that locks it")


class GasValve(Switchable):
    """An isolation valve near an appliance or at the manifold."""

    kind: Literal["gas_valve"] = "gas_valve"
    side = "gas"
    title = "Gas valve"
    passes = {"shut": ()}
    ports = through("gas")
    positions = ("open", "shut")
    caution = GAS_CAUTION


class Manifold(GasPart):
    """Where one gas pipe becomes several."""

    kind: Literal["manifold"] = "manifold"
    title = "Manifold"
    ports = (Port("inlet", "gas"), Port("outlet", "gas", many=True))
    caution = GAS_CAUTION
    valves: bool | None = known("A valve for each branch")


class GasLoad(GasPart):
    """Another appliance on the same gas: hob, fridge, cabin heater."""

    kind: Literal["gas_load"] = "gas_load"
    title = "Other gas load"
    ports = (Port("gas", "gas"),)
    printed = ("rated_w", "hours_s")
    needs = ("rated_w",)
    positions = ("ready", "off")
    caution = GAS_CAUTION
    rated_w: HeatPower | None = known("Power on the plate")
    hours_s: Hours = Field(default=3600.0, title="Runs a day")
    mean_w: Heat | None = known("Mean heat over the day")
    use: Literal["hob", "fridge", "heater", "other"] | None = known("Kind of appliance")
    sealed: Sealing | None = known("Air and flue")
    gas_pa: Pressure | None = known("Gas pressure on the plate")
    gas_setting: GasSetting | None = known("Gas pressure screw")

    def worked_out(self, around: Around) -> Mapping[str, Band]:
        """Mean over the day."""
        if self.rated_w is None:
            return {}
        return {"mean_w": certain(self.rated_w * self.hours_s / 86400, "power times its hours")}

    def lacking(self) -> Mapping[str, str]:
        """Name what the plate says."""
        return {"rated_w": "kilowatts or BTU/h on the plate", "mean_w": "power on the plate"}


class GasAlarm(GasPart):
    """An alarm for carbon monoxide, gas or both."""

    kind: Literal["gas_alarm"] = "gas_alarm"
    title = "Alarm"
    ports = (power(),)
    printed = ("warns_of", "dated")
    caution = "Test it with its button before every trip; replace it by its date."
    warns_of: Literal["carbon monoxide", "gas", "both"] | None = known("Warns of")
    dated: Date | None = known("Replace by", "As 2029-03-31.")


GasKind = (
    GasBottle | Regulator | GasCoupling | GasValve | Manifold | GasLoad | GasAlarm
)  # fmt: skip
