"""A pump against everything shut: how long it runs on."""

from __future__ import annotations

from itertools import pairwise

from isotherma.core.flows.fittings import pump_points
from isotherma.core.flows.network_compiler import CompiledNetwork
from isotherma.core.flows.pulse import accumulators_of
from isotherma.core.hydraulics.cushion import run_on_s
from isotherma.core.system.kinds.water import Pump


def run_on_of(network: CompiledNetwork, pump: str) -> float | None:
    """Time a pump runs against everything shut, from nothing to its cut-out.

    Parameters
    ----------
    network : CompiledNetwork
        The network of a state. [-]
    pump : str
        Part id of a pump with a pressure switch. [-]

    Returns
    -------
    float or None
        None where it never reaches its cut-out, or has none. [s]

    References
    ----------
    See `cushion.run_on_s`.
    """
    part = network.parts[pump]
    if not isinstance(part, Pump) or part.cut_out_pa is None:
        return None
    rising = sorted((pressure, flow) for flow, pressure in pump_points(part))

    def flow_at(pressure: float) -> float:
        for (low, more), (high, less) in pairwise(rising):
            if low <= pressure <= high and high > low:
                return more + (less - more) * (pressure - low) / (high - low)
        return 0.0 if pressure > rising[-1][0] else rising[0][1]

    # several accumulators act one beside the other: their volumes add where they are charged alike
    vessels = accumulators_of(network, pump)
    volume = sum(size for size, _ in vessels.values())
    charge = min((precharge for _, precharge in vessels.values()), default=0.0)
    return run_on_s(flow_at, 0.0, part.cut_out_pa, cushion_m3=volume, precharge_pa=charge)
