"""A network as the kernels write on it: its flows, what hands steer to, what holds draws back."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from typing import Final

import numpy as np
from numpy.typing import NDArray

from isotherma.core.engine.columns import FlowState
from isotherma.core.flows.kernel import DIFFERENCE, HOLDS, SET_C
from isotherma.core.flows.network_compiler import CompiledNetwork
from isotherma.core.flows.pulse import Point
from isotherma.core.hydraulics import laws
from isotherma.core.hydraulics.network import Net
from isotherma.core.setup.networks import BAG_C, Networks, mixes_for
from isotherma.core.system.kinds import heat, temperature
from isotherma.core.system.kinds import water as moved
from isotherma.core.system.nominal import figure

Floats = NDArray[np.float64]

HAND_LAG_S: Final = 8.0  # between two nudges; judgement
STILL_LAG_S: Final = 2.0  # of a valve nobody turns


@dataclass(frozen=True, slots=True)
class _Lasting:
    """What of a network does not change while it runs."""

    lag: Floats
    mixer: Floats
    given_c: Floats
    fixed_pa: Floats
    tanks: tuple[tuple[moved.FreshTank, int], ...]


class NetworkFlows:
    """Networks of a system as the kernels take them.

    Parameters
    ----------
    networks : Networks
        Shared with other runs; only read and added to. [-]
    """

    def __init__(self, networks: Networks) -> None:
        self._networks = networks
        self._lasting: dict[CompiledNetwork, _Lasting] = {}
        self._kettle = any(isinstance(part, heat.Kettle) for part in networks.system.parts)

    def flowing(
        self,
        point: Point,
        shift_k: Callable[[moved.FreshTank], float],
        nudged_c: Mapping[str, float] | None = None,
    ) -> FlowState:
        """Give the kernel a network with its flows, to write on.

        Parameters
        ----------
        point : Point
            Where flows settle. [-]
        shift_k : callable
            What a fresh tank now is above its mean. [K]
        nudged_c : mapping of str to float or None
            What hands steer mixers to, by outlet. [°C]

        Returns
        -------
        FlowState
            Arrays of its own where they change. [see columns]
        """
        solved, network = point.solved, point.solved.network
        kept = self._lasting.get(network)
        if kept is None:
            kept = self._lasting[network] = self._last(network)
        lag, mixer, given = kept.lag.copy(), kept.mixer, kept.given_c.copy()
        if nudged_c:
            mixer = mixer.copy()
        for outlet, celsius in (nudged_c or {}).items():  # a hand is slower than a valve
            for at in np.flatnonzero(mixer[:, HOLDS] == 0.0).tolist():
                if mixes_for(network, network.mixers[at], outlet):
                    mixer[at, SET_C], mixer[at, DIFFERENCE] = celsius, 0.5
                    mixer[at, HOLDS], lag[at] = 1.0, HAND_LAG_S
        for tank, node in kept.tanks:
            given[node] += shift_k(tank)
        return FlowState(
            shut=solved.shut.copy(), flow=solved.mass.copy(), pressure=solved.state.pressure.copy(),
            parameters=solved.state.parameters.copy(),
            fixed=kept.fixed_pa, outflow=solved.state.outflow.copy(),
            fluid=network.heat.fluid, tables=network.heat.tables, given_c=given,
            legs=network.valves.legs, mixer=mixer, lag=lag, reducer=network.valves.reducer,
        )  # fmt: skip

    def still(self, network: CompiledNetwork) -> FlowState:
        """Give the kernel a network in which nothing flows yet.

        Parameters
        ----------
        network : CompiledNetwork
            Of this system. [-]

        Returns
        -------
        FlowState
            Without flows and pressures. [see columns]
        """
        kept, links, nodes = self._last(network), len(network.links), len(network.fixed)
        return FlowState(
            shut=np.array(network.shut, dtype=np.int64), flow=np.zeros(links),
            pressure=np.zeros(nodes), parameters=network.net.parameters.copy(),
            fixed=kept.fixed_pa, outflow=np.zeros(nodes), fluid=network.heat.fluid,
            tables=network.heat.tables, given_c=kept.given_c, legs=network.valves.legs,
            mixer=kept.mixer, lag=kept.lag, reducer=network.valves.reducer,
        )  # fmt: skip

    def _last(self, network: CompiledNetwork) -> _Lasting:
        """Gather what of a network stays the same from one stretch of flow to the next."""
        count = len(network.mixers)
        lag = np.ones(2 * count)
        for row, part_id in enumerate(network.mixers):
            valve = network.parts[part_id]
            thermostatic = isinstance(valve, temperature.ThermostaticMixer)
            lag[row] = figure(valve, "lag_s") if thermostatic else STILL_LAG_S
        given = np.array(network.heat.given_c, dtype=np.float64)
        for link in network.links:
            part = network.parts.get(link.item)
            if isinstance(part, moved.GravityBag) and self._kettle:
                given[link.start] = max(BAG_C, self._networks.conditions.fresh_c)
        tanks = []
        for part in network.parts.values():
            node = network.node.get((part.id, "outlet"))
            if isinstance(part, moved.FreshTank) and node is not None and network.net.given[node]:
                tanks.append((part, node))
        return _Lasting(
            lag, network.valves.mixer, given,
            np.array(network.fixed, dtype=np.float64), tuple(tanks),
        )  # fmt: skip


def held_back(point: Point, flowing: FlowState, limits: Mapping[str, float]) -> Net:
    """Give the network of draws; a hand keeps each flow where it is wanted.

    Parameters
    ----------
    point : Point
        Where flows settle. [-]
    flowing : FlowState
        Of that point; its parameters are written to. [see columns]
    limits : mapping of str to float
        Wanted flows by outlet. [m³/s]

    Returns
    -------
    Net
        With limits in the place of those outlets. [-]
    """
    net = point.solved.network.net
    if not limits:
        return net
    law = net.law.copy()
    for outlet, wanted in limits.items():
        link = point.solved.network.ends[outlet]
        law[link] = laws.LIMIT
        flowing.parameters[link, laws.RESISTANCE] = net.parameters[link, laws.RESISTANCE]
        flowing.parameters[link, laws.MOST] = wanted
    return net._replace(law=law)


def make_thermal_net(network: CompiledNetwork, net: Net) -> Net:
    """Join the two sides of reducers: their water passes, though their pressures do not.

    Parameters
    ----------
    network : CompiledNetwork
        Whose reducers. [-]
    net : Net
        Its network, limits and all. [-]

    Returns
    -------
    Net
        As heat goes through it. [-]
    """
    start = net.start.copy()
    for wide, regulated in network.valves.reducer:
        start[regulated] = net.start[wide]
    return net._replace(start=start)
