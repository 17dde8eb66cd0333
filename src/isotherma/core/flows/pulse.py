"""A solved network with its pumps' switches: what runs on, what cycles, how fast.

A pump with a pressure switch runs on where the network takes more than the pump gives
at cut-out. Below that it cycles; the flow then swings between its values at cut-in and
cut-out, and the point shown is the one that gives the mean.
"""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from dataclasses import dataclass, replace
from typing import Final

import numpy as np
from numpy.typing import NDArray

from isotherma.core.cache import remembered
from isotherma.core.flows.network_compiler import CompiledNetwork
from isotherma.core.flows.solving import Solved, solve
from isotherma.core.graph import reach
from isotherma.core.hydraulics import laws, pulsing
from isotherma.core.hydraulics.network import SHUT
from isotherma.core.hydraulics.pulsing import Cycle
from isotherma.core.system.kinds.water import Accumulator, Pump
from isotherma.core.system.nominal import figure

Floats = NDArray[np.float64]

POINTS: Final = 7  # operating points between cut-in and cut-out
FINE: Final = 61  # points the cycle is timed on
TURNS: Final = 4
SAME_PA: Final = 200.0
REST_M3_PER_S: Final = 1e-8  # 0.6 mL/min: nothing flows
FASTEST_SEARCH: Final = np.linspace(0.05, 0.95, 19)


@dataclass(frozen=True, slots=True)
class Switched:
    """A pump with a switch and what it pushes against: how it cycles at any flow.

    `pumped` gives at the pressures `at_pa` what the pump delivers [m³/s]; `kept` the
    water between cut-in and each [m³]. `accumulators` are gas volume and pre-charge.
    """

    pump: str
    cut_in_pa: float
    cut_out_pa: float
    at_pa: Floats
    pumped: Floats
    kept: Floats
    accumulators: tuple[tuple[float, float], ...]

    @property
    def steady_above(self) -> float:
        """Flow above which it runs on and below which it cycles [m³/s]."""
        return float(self.pumped[-1])

    def throttled(self, flow_m3_per_s: float) -> Cycle:
        """Time the cycle at an outlet held back to a mean flow.

        Parameters
        ----------
        flow_m3_per_s : float
            Wanted flow at the middle pressure; it goes with the root of the pressure. [m³/s]

        Returns
        -------
        Cycle
            Endless where the pump just runs. [-]
        """
        middle = (self.cut_in_pa + self.cut_out_pa) / 2
        out = flow_m3_per_s * np.sqrt(self.at_pa / middle)
        return pulsing.cycle(
            pressure_pa=self.at_pa, kept_m3=self.kept, out_m3_per_s=out, in_m3_per_s=self.pumped
        )

    def fastest(self) -> tuple[float, Cycle]:
        """Find the throttled flow at which it starts most often [m³/s], and that cycle."""
        flows = self.steady_above * FASTEST_SEARCH
        cycles = [(float(flow), self.throttled(float(flow))) for flow in flows]
        return max(cycles, key=lambda row: row[1].starts_per_h)


@dataclass(frozen=True, slots=True)
class Running:
    """How one pump with a switch fares at an operating point; no cycle while it runs on."""

    switched: Switched
    cycle: Cycle | None
    at_rest: bool


@dataclass(frozen=True, slots=True)
class Point:
    """An operating point with the switches obeyed: the mean where a pump cycles.

    `held_pa` has the pressure that stands for each pump that does not run on.
    """

    solved: Solved
    running: tuple[Running, ...]
    held_pa: Mapping[str, float]


def switch_pumps(network: CompiledNetwork) -> tuple[tuple[str, Pump], ...]:
    """List the pumps that run by a pressure switch and are on.

    Parameters
    ----------
    network : CompiledNetwork
        The network of a state. [-]

    Returns
    -------
    tuple of pairs
        Id and part; both switch pressures known. [-]
    """
    found = []
    for part_id in network.pumps:
        part = network.parts[part_id]
        if (
            isinstance(part, Pump)
            and part.control == "switch"
            and part.cut_in_pa
            and part.cut_out_pa
        ):
            found.append((part_id, part))
    return tuple(found)


def accumulators_of(network: CompiledNetwork, pump: str) -> dict[str, tuple[float, float]]:
    """Find the accumulators that a pump fills.

    Parameters
    ----------
    network : CompiledNetwork
        The network of a state. [-]
    pump : str
        Part id. [-]

    Returns
    -------
    dict of str to pair
        Gas volume and pre-charge by part id of each behind it, before another pump, a
        check valve that faces it or a reducer. [m³, Pa]
    """
    start = network.links[network.pumps[pump]].end
    near = network.heat
    found: dict[str, tuple[float, float]] = {}

    def beside(node: int) -> Iterator[int]:
        for at in range(near.first[node], near.first[node + 1]):
            index = int(near.touching[at])
            link = network.links[index]
            if network.shut[index] == SHUT or link.element.role in {"pump", "own", "idle", "wide"}:
                continue
            if link.element.one_way and link.end == node:
                continue  # a check: its water cannot come back to the switch
            part = network.parts.get(link.item)
            if isinstance(part, Accumulator) and not link.is_run and part.volume_m3:
                found[link.item] = (part.volume_m3, figure(part, "precharge_pa"))
            other = link.end if link.start == node else link.start
            if not network.net.given[other]:
                yield other

    reach([start], beside)
    return found


def switched(network: CompiledNetwork, pump: str, inlet_pa: float) -> Switched:
    """Describe a pump with its switch and what keeps pressure behind it.

    Parameters
    ----------
    network : CompiledNetwork
        The network of a state. [-]
    pump : str
        Part id of one of `switch_pumps`. [-]
    inlet_pa : float
        Gauge pressure at its inlet while it runs. [Pa]

    Returns
    -------
    Switched
        Ready to time cycles. [-]
    """
    part = network.parts[pump]
    assert isinstance(part, Pump) and part.cut_in_pa and part.cut_out_pa
    low, high = part.cut_in_pa, part.cut_out_pa
    at_pa = np.linspace(low, high, FINE)
    store = tuple(accumulators_of(network, pump).values())
    parameters = network.net.parameters[network.pumps[pump]]
    pumped = np.array(
        [laws.flow_at_head(float(p) - inlet_pa, parameters, network.net.curves) for p in at_pa]
    )
    full = pulsing.kept_water_m3(
        accumulators=store, low_pa=low, high_pa=high, exponent=pulsing.CYCLE_EXPONENT
    )
    kept = full - np.array(
        [
            pulsing.kept_water_m3(
                accumulators=store,
                low_pa=float(p),
                high_pa=high,
                exponent=pulsing.CYCLE_EXPONENT,
            )
            for p in at_pa
        ]
    )
    return Switched(pump, low, high, at_pa, pumped, kept, store)


def operate(
    network: CompiledNetwork, opens: Mapping[str, float], *, near: Solved | None = None
) -> Point:
    """Solve a state with some outlets open, the pumps' switches obeyed.

    Parameters
    ----------
    network : CompiledNetwork
        The network of a state. [-]
    opens : mapping of str to float
        Openings of outlets and drains, see `solve`. [-]
    near : Solved or None
        A solved point of the same network to start from. [-]

    Returns
    -------
    Point
        The mean where a pump cycles, the steady point elsewhere. [-]

    Raises
    ------
    NoSuchOutlet, MissingValue, FlowNotSolved
        As `solve`.
    """
    solved = solve(network, opens, near=near)
    pumps = switch_pumps(network)
    held = {  # all that would pass their cut-out stand there at first, so that none pushes the rest
        pump: part.cut_out_pa
        for pump, part in pumps
        if part.cut_out_pa is not None and _after(network, pump, solved) > part.cut_out_pa
    }
    if held:
        solved = solve(network, opens, near=solved, held_pa=held)
    running: dict[str, Running] = {}
    for _ in range(TURNS):  # what one pump does changes what another pushes against
        changed = False
        for pump, part in pumps:
            others = {key: value for key, value in held.items() if key != pump}
            running[pump], hold = _switch(network, opens, (pump, part), solved, others)
            before = held.pop(pump, None)
            if hold is not None:
                held[pump] = hold
            if not _same(before, hold):
                changed = True
                solved = solve(network, opens, near=solved, held_pa=held)
        if not changed or len(pumps) == 1:
            break
    return Point(solved, tuple(running.values()), held)


class _Question:
    """A network and what is open, told from others by all that its answer hangs on."""

    __slots__ = ("_key", "network", "opens")

    def __init__(self, network: CompiledNetwork, opens: Mapping[str, float]) -> None:
        self.network, self.opens = network, opens
        net, heat, valves = network.net, network.heat, network.valves
        moving = tuple(
            part.model_dump_json() for part in network.parts.values()
            if isinstance(part, Pump | Accumulator) or part.id in network.mixers
        )  # fmt: skip
        arrays = (
            net.law, net.rise, net.parameters, net.curves, net.given, net.one_way, heat.fluid,
            heat.kind, heat.figures, heat.given_c, heat.tables, valves.legs, valves.mixer,
            valves.capped, valves.cap_pa, valves.reducer, valves.set_pa,
        )  # fmt: skip
        self._key = (
            network.links, network.shut, network.fixed, network.start_c, network.mixers,
            tuple(network.reference.items()), tuple(network.diverted.items()), moving,
            tuple(opens.items()), *(array.tobytes() for array in arrays),
        )  # fmt: skip

    def __hash__(self) -> int:
        return hash(self._key)

    def __eq__(self, other: object) -> bool:
        return isinstance(other, _Question) and self._key == other._key


POINT_BYTES: Final = 60_000  # with its network; measured on Folio


@remembered("operating point", lambda _: POINT_BYTES)
def _answer(question: _Question) -> Point:
    return operate(question.network, question.opens)


def operate_once(network: CompiledNetwork, opens: Mapping[str, float]) -> Point:
    """Solve a state as `operate` does, or remember it: most edits leave the water as it was.

    Parameters
    ----------
    network : CompiledNetwork
        The network of a state. [-]
    opens : mapping of str to float
        Openings of outlets and drains, see `solve`. [-]

    Returns
    -------
    Point
        Shared with others who asked the same, so it is only read; it names this network. [-]

    Raises
    ------
    NoSuchOutlet, MissingValue, FlowNotSolved
        As `operate`.
    """
    point = _answer(_Question(network, dict(opens)))
    if point.solved.network is network:
        return point
    return replace(point, solved=replace(point.solved, network=network))


def _after(network: CompiledNetwork, pump: str, solved: Solved) -> float:
    """Pressure behind a pump [Pa]."""
    return float(solved.pressure_pa[network.net.end[network.pumps[pump]]])


def _same(before_pa: float | None, now_pa: float | None) -> bool:
    """Say whether a pump is held at the same pressure, or at none, as before."""
    if before_pa is None or now_pa is None:
        return before_pa is now_pa
    return abs(before_pa - now_pa) <= SAME_PA


def _switch(
    network: CompiledNetwork,
    opens: Mapping[str, float],
    pump: tuple[str, Pump],
    near: Solved,
    others: Mapping[str, float],
) -> tuple[Running, float | None]:
    """Say how one pump fares beside the others, and the pressure that stands for its cycle."""
    part_id, part = pump
    assert part.cut_in_pa is not None and part.cut_out_pa is not None
    link = network.pumps[part_id]
    start, end = network.net.start[link], network.net.end[link]
    free = solve(network, opens, near=near, held_pa=others)
    describe = switched(network, part_id, float(free.pressure_pa[start]))
    if free.flow_m3_per_s[link] > REST_M3_PER_S and free.pressure_pa[end] <= part.cut_out_pa:
        return Running(describe, None, False), None
    top = {**others, part_id: part.cut_out_pa}
    at_top = solve(network, opens, near=free, held_pa=top)
    if at_top.flow_m3_per_s[link] <= REST_M3_PER_S or at_top.pressure_pa[start] >= part.cut_in_pa:
        return Running(describe, None, True), part.cut_out_pa
    found = _cycle(network, opens, describe, at_top, others)
    if found is None:  # at its cut-in the others still keep it shut: it never starts again
        return Running(describe, None, True), part.cut_out_pa
    if found.off_s == 0.0:  # nothing lets it reach cut-out: it runs on
        return Running(describe, None, False), None
    return Running(describe, found, False), found.mean_pa


def _cycle(
    network: CompiledNetwork,
    opens: Mapping[str, float],
    describe: Switched,
    at_top: Solved,
    held: Mapping[str, float],
) -> Cycle | None:
    """Tabulate what the network takes between the switch pressures, and time the cycle.

    None if at cut-in it takes nothing.
    """
    link = network.pumps[describe.pump]
    pressures = np.linspace(describe.cut_out_pa, describe.cut_in_pa, POINTS)
    taken = [float(at_top.flow_m3_per_s[link])]
    last = at_top
    for pressure in pressures[1:]:
        last = solve(network, opens, near=last, held_pa={**held, describe.pump: float(pressure)})
        taken.append(float(last.flow_m3_per_s[link]))
    if taken[-1] <= REST_M3_PER_S:
        return None
    out = np.interp(describe.at_pa, pressures[::-1], np.array(taken)[::-1])
    return pulsing.cycle(
        pressure_pa=describe.at_pa,
        kept_m3=describe.kept,
        out_m3_per_s=np.maximum(out, 1e-12),
        in_m3_per_s=describe.pumped,
    )
