"""How the temperature is made and kept: mixers, diverter, loop, jug."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from isotherma.core.fields import (
    Difference,
    Flow,
    FlowFactor,
    PartRef,
    Seconds,
    Setting,
    Share,
    Volume,
    Watts,
    known,
)
from isotherma.core.system.pieces import (
    FACTOR,
    LITRE_PER_MIN,
    PartBase,
    Port,
    Switchable,
    power,
    through,
    usual,
)

_LEGS = (Port("hot", "water"), Port("cold", "water"), Port("outlet", "water"))


_BLENDS = {"": (("hot", "outlet"), ("cold", "outlet"))}


class ThermostaticMixer(PartBase):
    """A valve that blends hot and cold to a setting, at the store or at the fixture."""

    kind: Literal["thermostatic_mixer"] = "thermostatic_mixer"
    side = "temperature"
    title = "Thermostatic mixer"
    passes = _BLENDS
    ports = _LEGS
    printed = ("set_c", "where", "difference_k", "checks")
    turned = ("set_c",)
    caution = (
        "Both legs need a check valve, or hot and cold cross when the head is shut. Feel the "
        "water at the head before anyone steps under it."
    )
    usual = {
        "difference_k": usual(5.0, 10.0, 15.0, "hot above the setting by this, or it sags"),
        "band_k": usual(1.0, 2.0, 3.0, "how closely small valves hold"),
        "lag_s": usual(1.0, 2.0, 4.0, "wax or bimetal"),
        "flow_factor_si": usual(8 * FACTOR, 12 * FACTOR, 20 * FACTOR, "half-inch valves"),
        "min_flow_m3_per_s": usual(
            2 * LITRE_PER_MIN, 3 * LITRE_PER_MIN, 5 * LITRE_PER_MIN, "below it they drift"
        ),
        "pressure_ratio": usual(1.5, 2.0, 5.0, "between its legs"),
    }
    set_c: Setting = Field(default=40.0, title="Set to")
    where: Literal["central", "at the fixture"] = Field(default="central", title="Stands")
    difference_k: Difference | None = known("Minimum difference")
    band_k: Difference | None = known("Holds within")
    lag_s: Annotated[Seconds, Field(le=30)] | None = known("Lag")
    flow_factor_si: FlowFactor | None = known(
        "Passes at one bar", "Litres a minute at one bar lost in it."
    )
    min_flow_m3_per_s: Flow | None = known("Least flow")
    pressure_ratio: Annotated[float, Field(ge=1, le=20)] | None = known("Pressure ratio it takes")
    checks: Literal["both legs", "none"] | None = known("Check valves in it")


class ManualMixer(PartBase):
    """A mixer at a fixed opening, nudged by hand."""

    kind: Literal["manual_mixer"] = "manual_mixer"
    side = "temperature"
    title = "Manual mixer"
    passes = _BLENDS
    ports = _LEGS
    printed = ("hot_share", "lever", "checks")
    turned = ("hot_share",)
    caution = "It does not hold its temperature: feel it again whenever another tap is opened."
    usual = {
        "flow_factor_si": usual(8 * FACTOR, 12 * FACTOR, 16 * FACTOR, "small mixer taps"),
        "finds_s": usual(4.0, 8.0, 20.0, "a hand turns and waits for the pipe"),
    }
    hot_share: Share = Field(default=0.5, title="Opening to hot")
    flow_factor_si: FlowFactor | None = known(
        "Passes at one bar", "Litres a minute at one bar lost in it."
    )
    lever: Literal["one lever", "two taps"] = Field(default="one lever", title="Worked by")
    pauses: bool = Field(default=False, title="Keeps its place while paused")
    finds_s: Seconds | None = known("Found again in", "After a pause in which it lost its place.")
    checks: Literal["both legs", "none"] | None = known("Check valves in it")


class ReturnDiverter(Switchable):
    """A hand or foot valve that sends the cold water back to the tank until it runs warm."""

    kind: Literal["return_diverter"] = "return_diverter"
    side = "temperature"
    title = "Return diverter"
    passes = {"to the outlet": (("inlet", "outlet"),), "to the tank": (("inlet", "returns"),)}
    ports = (Port("inlet", "water"), Port("outlet", "water"), Port("returns", "water"))
    positions = ("to the outlet", "to the tank")
    usual = {"loss_k": usual(0.5, 1.0, 2.5, "a small three-way valve")}
    worked_by: Literal["hand", "foot"] = Field(default="hand", title="Worked by")
    loss_k: Annotated[float, Field(ge=0, le=1000)] | None = known(
        "Resistance", "Loss coefficient, as tables of fittings give it."
    )


class LoopPump(PartBase):
    """A pump that keeps the hot run warm by a return: by button, by the clock, or always."""

    kind: Literal["loop_pump"] = "loop_pump"
    side = "temperature"
    title = "Loop pump"
    ports = (*through("water"), power())
    printed = ("rule", "running_w", "flow_m3_per_s", "runs_s", "every_s")
    turned = ("rule",)
    needs = ("flow_m3_per_s",)
    positions = ("on", "off")
    usual = {
        "flow_m3_per_s": usual(
            1 * LITRE_PER_MIN, 2 * LITRE_PER_MIN, 4 * LITRE_PER_MIN, "small circulators"
        ),
        "running_w": usual(5.0, 12.0, 25.0, "small circulators"),
    }
    rule: Literal["button", "timed", "continuous"] = Field(default="button", title="Runs")
    flow_m3_per_s: Flow | None = known("Flow round the loop")
    running_w: Watts | None = known("Watts on the label")
    runs_s: Seconds = Field(default=60.0, title="Each run")
    every_s: Seconds = Field(default=900.0, title="Every", description="When timed.")


class Jug(PartBase):
    """A jug that catches the cold water for the kettle or the tank."""

    kind: Literal["jug"] = "jug"
    side = "temperature"
    title = "Jug"
    printed = ("volume_m3", "under")
    usual = {"volume_m3": usual(0.5e-3, 1.5e-3, 3e-3, "a kitchen jug")}
    volume_m3: Volume | None = known("Volume")
    under: PartRef | None = known("Held under", "The outlet whose cold water it catches.")


TemperatureKind = ThermostaticMixer | ManualMixer | ReturnDiverter | LoopPump | Jug
