"""One operating point: a network with some of its outlets open, solved."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from isotherma.core.errors import FlowNotSolved, NoSuchOutlet
from isotherma.core.flows import kernel
from isotherma.core.flows.kernel import Flow
from isotherma.core.flows.network_compiler import CompiledNetwork, refuse_unknown
from isotherma.core.graph import reach
from isotherma.core.hydraulics import laws
from isotherma.core.hydraulics.network import GRAVITY_M_PER_S2, HELD, OPEN, SHUT, islands
from isotherma.core.water import fluids

Floats = NDArray[np.float64]

LEFT_PA = 0.1  # of the energy equation of any link; more is no solution
SMALLEST_OPENING = 0.01
MIXER_DOES = ("holds", "hot_stop", "cold_stop", "cold_lost")  # by the kernel's number


@dataclass(frozen=True, slots=True)
class Solved:
    """A solved operating point; arrays by link and node of its network.

    `shut` says of links OPEN, SHUT or HELD; `flow_m3_per_s` volume flow [m³/s] from start to
    end; `taken` what each takes, rise included [Pa]; `pressure_pa` gauge, nan where
    nothing says what it is; `node_c`, `out_c` [°C]; `held_pa` what pumps were held at.
    """

    network: CompiledNetwork
    opens: Mapping[str, float]
    shut: NDArray[np.int64]
    mass: Floats
    flow_m3_per_s: Floats
    pressure_pa: Floats
    node_c: Floats
    out_c: Floats
    density: Floats
    opening: Floats
    doing: NDArray[np.int64]
    lit: NDArray[np.int64]
    rounds: int
    steps: int
    residual_pa: float
    balance: float
    state: Flow

    def port_pa(self, part: str, port: str) -> float:
        """Give the gauge pressure at a port [Pa]."""
        return float(self.pressure_pa[self.network.node[part, port]])

    def through(self, link: int) -> float:
        """Give the volume flow of a link [m³/s]."""
        return float(self.flow_m3_per_s[link])


def solve(
    network: CompiledNetwork, opens: Mapping[str, float], *, near: Solved | None = None,
    held_pa: Mapping[str, float] | None = None, at_once: bool = False,
) -> Solved:  # fmt: skip
    """Solve the steady flow with some outlets open.

    Parameters
    ----------
    network : CompiledNetwork
        The network of a state. [-]
    opens : mapping of str to float
        How far each open outlet is open, above 0 to 1 of its flow factor; drains too. [-]
    near : Solved or None
        A solved point of the same network to start from. [-]
    held_pa : mapping of str to float or None
        Pumps held at a mean gauge pressure, by part id; see `pulse`. [Pa]
    at_once : bool
        The moment after `near`, before any mixing valve has moved. [-]

    Returns
    -------
    Solved
        Flows, pressures and temperatures that agree. [SI]

    Raises
    ------
    NoSuchOutlet
        If something that is no outlet or drain is to be opened, or by no sensible share.
    MissingValue
        If water passes a part or run of which a needed value is unknown.
    FlowNotSolved
        If the equations could not be met; names the part that is furthest off.
    """
    flow, fixed = _prepare(network, opens, near)
    valves = network.valves
    if held_pa:
        caps = valves.cap_pa.copy()
        for index, link in enumerate(valves.capped):
            caps[index] = held_pa.get(network.links[int(link)].item, caps[index])
        valves = valves._replace(cap_pa=caps)
    if at_once:
        stiff = valves.mixer.copy()
        stiff[:, kernel.HOLDS] = 0.0
        valves = valves._replace(mixer=stiff)
    rounds, steps, residual, moved = kernel.operate(
        network.net, network.heat, valves, flow, fixed, near is not None
    )
    if not residual <= LEFT_PA and near is not None:  # a poor start: once more from nothing
        if at_once:
            raise _unsolved(network, opens, flow, (rounds, steps, residual))
        return solve(network, opens, held_pa=held_pa)
    refuse_unknown(network, flow.flow)
    found = _gather(network, opens, flow, rounds, steps, residual)
    if not residual <= LEFT_PA or moved > 1.0:
        raise _unsolved(network, opens, flow, (rounds, steps, residual))
    return found


def _unsolved(
    network: CompiledNetwork, opens: Mapping[str, float], flow: Flow, met: tuple[int, int, float]
) -> FlowNotSolved:
    rounds, steps, residual = met
    link = network.links[_worst(network, _gather(network, opens, flow, rounds, steps, residual))]
    return FlowNotSolved(
        part_id=link.item, part_name=link.label, residual_pa=float(residual), rounds=rounds
    )


def _prepare(
    network: CompiledNetwork, opens: Mapping[str, float], near: Solved | None
) -> tuple[Flow, Floats]:
    links, nodes = len(network.links), len(network.fixed)
    shut = np.array(network.shut, dtype=np.int64)
    parameters = network.net.parameters.copy()
    for part_id, opening in opens.items():
        if part_id not in network.ends or not SMALLEST_OPENING <= opening <= 1.0:
            raise NoSuchOutlet(part_id=part_id, opening=opening, known=tuple(network.ends))
        index = network.ends[part_id]
        shut[index] = OPEN
        parameters[index, laws.RESISTANCE] /= opening**2
        for back in network.diverted.get(part_id, ()):
            shut[back] = OPEN
            parameters[back, laws.LOSS_K] += 1.0 / opening**2 - 1.0  # the same hand holds it back
    for row, part_id in enumerate(network.mixers):
        if not _wanted(network, part_id, shut):
            shut[network.valves.legs[row]] = SHUT
    if near is not None:
        earlier = near.state
        kept = (earlier.shut == HELD) & (shut == OPEN)
        shut[kept] = HELD
        moved = [int(wide) for wide, _ in network.valves.reducer if earlier.shut[wide] == SHUT]
        for wide, regulated in network.valves.reducer:
            if int(wide) in moved:
                shut[wide], shut[regulated] = SHUT, OPEN
        flow = Flow(
            shut, earlier.flow.copy(), earlier.pressure.copy(), earlier.node_c.copy(),
            earlier.out_c.copy(), earlier.opening.copy(), np.zeros_like(earlier.doing),
            np.minimum(earlier.lit, 1), parameters, earlier.outflow.copy(),
        )  # fmt: skip
        for index in network.valves.capped:
            parameters[index, laws.CAP_PA] = earlier.parameters[index, laws.CAP_PA]
        return flow, np.array(network.fixed, dtype=np.float64)
    stands = np.full(len(network.mixers), 0.5)
    for row, part_id in enumerate(network.mixers):
        share = getattr(network.parts[part_id], "hot_share", None)
        if share is not None:
            stands[row] = share
            legs = network.valves.legs[row]
            if share <= 1e-3:
                shut[legs[kernel.HOT_LEG]] = SHUT
            elif share >= 1 - 1e-3:
                shut[legs[kernel.COLD_LEG]] = SHUT
    start_c = np.array(network.start_c, dtype=np.float64)
    # POWER heaters burn whatever the flow; others are lit by it
    lit = np.array([1 if kind == kernel.POWER else 0 for kind in network.heat.kind], dtype=np.int64)
    return Flow(
        shut, np.zeros(links), np.zeros(nodes), start_c, start_c[network.net.start],
        stands, np.zeros(len(network.mixers), dtype=np.int64), lit, parameters, np.zeros(nodes),
    ), np.array(network.fixed, dtype=np.float64)  # fmt: skip


def _wanted(network: CompiledNetwork, mixer: str, shut: NDArray[np.int64]) -> bool:
    """Say whether anything behind a mixer is open or pumped; else its fixture is shut."""
    start = network.node.get((mixer, "outlet"))
    if start is None:
        return False
    legs = set(network.part_links[mixer])
    near = network.heat
    met = False

    def beside(node: int) -> Iterator[int]:
        nonlocal met
        for at in range(near.first[node], near.first[node + 1]):
            index = int(near.touching[at])
            link = network.links[index]
            if index in legs or shut[index] == SHUT:
                continue
            if link.element.role in {"end", "divert"} or link.element.law in (
                laws.STROKE,
                laws.ROUND,
            ):
                met = True
                return
            if link.element.role == "pump" and node != link.start:
                continue  # nothing is drawn out of a pump backwards; into one, it is
            other = link.end if link.start == node else link.start
            if not network.net.given[other]:
                yield other

    reach([start], beside)
    return met


def _gather(
    network: CompiledNetwork, opens: Mapping[str, float], flow: Flow, rounds: int, steps: int,
    residual: float,
) -> Solved:  # fmt: skip
    density, off, whole = kernel.finish(network.net, network.heat, flow)
    return Solved(
        network=network,
        opens=dict(opens),
        shut=flow.shut,
        mass=flow.flow,
        flow_m3_per_s=flow.flow / density,
        pressure_pa=flow.pressure.copy() if whole else _levelled(network, flow),
        node_c=flow.node_c,
        out_c=flow.out_c,
        density=density,
        opening=flow.opening,
        doing=flow.doing,
        lit=flow.lit,
        rounds=rounds,
        steps=steps,
        residual_pa=float(residual),
        balance=off,
        state=flow,
    )


def _levelled(network: CompiledNetwork, flow: Flow) -> Floats:
    """Set the pressure of what is shut in: by its vessel, by what feeds it, or unknown."""
    net = network.net
    pressure = flow.pressure.copy()
    home = islands(net, flow.shut)
    grounded = set(home[net.given].tolist())
    level: dict[int, float] = {}
    for node, reference in network.reference.items():
        if int(home[node]) not in grounded:
            level[int(home[node])] = reference - pressure[node]
    # fed through something that shut itself: the pressure on the other side got in
    for _ in range(len(network.links)):
        changed = False
        for index in np.flatnonzero(flow.shut == HELD):
            one, other = int(net.start[index]), int(net.end[index])
            here, there = int(home[one]), int(home[other])
            if there in grounded or there in level or (here not in grounded and here not in level):
                continue
            if network.links[index].element.law == laws.PUMP:
                continue
            fed = pressure[one] + level.get(here, 0.0)
            fed -= float(_density(network, int(index))) * GRAVITY_M_PER_S2 * net.rise[index]
            level[there] = fed - pressure[other]
            changed = True
        if not changed:
            break
    for node in range(len(pressure)):
        key = int(home[node])
        if key in level:
            pressure[node] += level[key]
        elif key not in grounded:
            pressure[node] = np.nan
    return pressure


def _density(network: CompiledNetwork, link: int) -> float:
    table = network.heat.tables[network.heat.fluid[link]]
    return fluids.look_up(table, fluids.DENSITY, network.conditions.fresh_c)


def _worst(network: CompiledNetwork, found: Solved) -> int:
    """Find the link whose ends disagree most with its law."""
    worst, most = 0, -1.0
    for index in range(len(network.links)):
        if found.shut[index] != OPEN:
            continue
        taken = laws.drop(
            int(network.net.law[index]), float(found.flow_m3_per_s[index]),
            found.state.parameters[index], network.net.curves, float(found.density[index]),
            1e-3, bool(network.net.one_way[index]),
        )[0]  # fmt: skip
        net = network.net
        taken += found.density[index] * GRAVITY_M_PER_S2 * net.rise[index]
        miss = abs(found.pressure_pa[net.start[index]] - found.pressure_pa[net.end[index]] - taken)
        if not miss <= most:
            worst, most = index, float(miss)
    return worst
