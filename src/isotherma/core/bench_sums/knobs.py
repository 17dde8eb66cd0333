"""The bench sum of a heater with a gas knob and a water knob, as a table of both."""

from __future__ import annotations

from typing import Final

from isotherma.core.bench_sums.base import (
    COLD,
    LITRE_PER_MIN,
    Answer,
    Asks,
    Cell,
    Figure,
    Sum,
    Table,
    Values,
    need,
)
from isotherma.core.thermal.estimates import rise_k
from isotherma.core.thermal.knobs import Knobs, at_knobs, gas_for

_GAS: Final = Asks("gas", "Gas knob", "share", 1.0)
_FLOW: Final = Asks("flow", "Water knob", "flow", 4 * LITRE_PER_MIN)
_FLOWS: Final = (2.0, 3.0, 4.0, 5.0, 6.0, 8.0)  # L/min, as heads throttle
_KNOB_STEPS: Final = 4
LEAST_HEAT_W: Final = 1.0


def _knobs(v: Values) -> Answer:
    need(v["power"], LEAST_HEAT_W, "no_power")
    need(v["flow"], 0.0, "no_flow")
    need(v["want"], v["cold"], "wanted_above_cold")
    heater = Knobs(v["power"], v["least"], v["lights"], v["steady"], v["limit"])
    asked = gas_for(
        heat_w=v["power"], want_c=v["want"], flow_m3_per_s=v["flow"], cold_c=v["cold"]
    )  # fmt: skip
    set_to = min(1.0, max(v["least"], asked))
    gives, region = at_knobs(
        heater, gas_share=set_to, flow_m3_per_s=v["flow"], cold_c=v["cold"]
    )  # fmt: skip
    figures = [Figure("set the gas to", set_to, "share")]
    if gives is not None:
        figures.append(Figure("gives", gives, "temperature"))
    figures.append(Figure("at full fire", v["cold"] + rise_k(v["power"], v["flow"], v["cold"]),
                          "temperature"))  # fmt: skip
    remark = "knob_at_full" if asked > 1.0 else "knob_at_least" if asked < v["least"] else ""
    by_region = {"no flame": "too_little_to_light", "pulses": "pump_pulses", "cuts out": "cuts_out"}
    steps = [
        v["least"] + (1.0 - v["least"]) * step / _KNOB_STEPS for step in range(_KNOB_STEPS + 1)
    ]
    flows = tuple(flow * LITRE_PER_MIN for flow in _FLOWS)
    cells = tuple(
        tuple(
            Cell(*at_knobs(heater, gas_share=share, flow_m3_per_s=flow, cold_c=v["cold"]))
            for flow in flows
        )
        for share in steps
    )
    table = Table(
        "What comes out, by both knobs", "temperature", _GAS, tuple(steps), _FLOW, flows, cells
    )
    return Answer(tuple(figures), by_region.get(region, remark), table=table)


KNOBS: Final[tuple[Sum, ...]] = (
    Sum("knobs", "How do I set a heater with two knobs?",
        (Asks("power", "Heat at full fire", "heat_power", 12000.0),
         Asks("least", "Gas knob at its least", "share", 0.4), COLD,
         Asks("want", "Wanted", "temperature", 39.0), _FLOW,
         Asks("lights", "Lights from", "flow", 2.5 * LITRE_PER_MIN),
         Asks("steady", "The pump runs without a break from", "flow", 2.5 * LITRE_PER_MIN),
         Asks("limit", "Cut-out", "temperature", 85.0)), _knobs,
        "x = ṁ c (T − T_cold)/P; less water is hotter water", "Energy balance of the water.",
        "It scalds when somebody throttles the water: feel it at the wrist after every turn of "
        "a knob. It burns outdoors, or is room-sealed."),
)  # fmt: skip
