"""If this fails: what to close, how much spills, what still runs."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from math import log, pi
from typing import Final

from isotherma.core.flows.network_compiler import CompiledNetwork
from isotherma.core.graph import reach, reaches
from isotherma.core.system import AnyKind, System
from isotherma.core.system.kinds import electric, heat, primary, temperature, use
from isotherma.core.system.kinds import water as moved
from isotherma.core.system.nominal import figure, known_figure
from isotherma.core.system.pieces import Switchable

_SUPPLIES: Final = {
    "cable": frozenset({"battery", "panel", "hook_up", "alternator"}),
    "fuel_pipe": frozenset({"gas_bottle", "fuel_tank"}),
}
HEATERS: Final = (
    heat.Element, heat.Burner, heat.Combi, heat.ThroughFlow, heat.LiquidHeater, heat.AirHeater,
    heat.EngineCoolant, heat.SunContainer, heat.Kettle,
)  # fmt: skip
_TAKERS: Final = (
    heat.Element, heat.Burner, heat.Combi, heat.LiquidHeater, heat.AirHeater, heat.ThroughFlow,
    moved.Pump, moved.Submersible, primary.CirculationPump, temperature.LoopPump,
)  # fmt: skip
_VESSELS: Final = (heat.Store, heat.Combi, heat.Canister, heat.SunContainer)


@dataclass(frozen=True, slots=True)
class Left:
    """An outlet once a part has failed: whether water still comes, and whether warm."""

    outlet: str
    label: str
    water: bool
    warm: bool


@dataclass(frozen=True, slots=True)
class Outage:
    """What a failed part means.

    `close` are parts to shut, in the document's order; `spilt_m3` what may run out before and
    after, without what is in `unknown` runs and parts; `all_of` tanks nothing shuts off; `left`
    every outlet; `bypassed` says that cold water passes it, `stopped` names heaters and pumps that
    stop with it.
    """

    part_id: str
    label: str
    close: tuple[str, ...]
    spilt_m3: float
    unknown: tuple[str, ...]
    all_of: tuple[str, ...]
    left: tuple[Left, ...]
    bypassed: bool
    stopped: tuple[str, ...]


def _may_shut(part: AnyKind) -> bool:
    """Say whether a hand can shut this part so that no water passes."""
    return isinstance(part, Switchable) and (
        "shut" in part.positions or "apart" in part.positions or "neither" in part.positions
    )


class _Walk:
    """Where water can go from and come to in a network."""

    def __init__(
        self, network: CompiledNetwork, gone: frozenset[str], shut: frozenset[str]
    ) -> None:
        self.network = network
        self.gone, self.closed = gone, shut
        self.before: dict[int, list[tuple[int, int]]] = {}
        for index, link in enumerate(network.links):
            if link.item in gone or link.item in shut or network.shut[index] == 1:
                continue
            self.before.setdefault(link.end, []).append((link.start, index))
            if not link.element.one_way:
                self.before.setdefault(link.start, []).append((link.end, index))

    def upstream(self, nodes: set[int], stop: frozenset[str]) -> tuple[set[int], set[int]]:
        """Give nodes whose water can reach some, and links on the way; stops at given nodes."""
        links = set()

        def before(node: int) -> Iterator[int]:
            if self.network.net.given[node] and node not in nodes:
                return
            for other, index in self.before.get(node, ()):
                if self.network.links[index].item not in stop:
                    links.add(index)
                    yield other

        return set(reach(nodes, before)), links


def _nodes_of(network: CompiledNetwork, part_id: str) -> set[int]:
    return {node for (owner, _), node in network.node.items() if owner == part_id}


def _stopped(system: System, part: AnyKind) -> tuple[str, ...]:
    """Name what is supplied only through a part: by cable, or by gas or fuel pipe."""
    lost = []
    for kind, sources in _SUPPLIES.items():
        near: dict[str, set[str]] = {}
        for run in system.runs:
            if run.kind == kind:
                near.setdefault(run.start.part, set()).add(run.end.part)
                near.setdefault(run.end.part, set()).add(run.start.part)
        if part.id not in near:
            continue
        kinds = {item.id: item.kind for item in system.parts}
        for item in system.parts:
            if item.id == part.id or item.id not in near or not isinstance(item, _TAKERS):
                continue
            fed = _reaches(near, kinds, item.id, sources, "")
            if fed and not _reaches(near, kinds, item.id, sources, part.id):
                lost.append(item.id)
    return tuple(lost)


def _reaches(
    near: Mapping[str, set[str]], kinds: Mapping[str, str], start: str, sources: frozenset[str],
    without: str,
) -> bool:  # fmt: skip
    return reaches(
        [start],
        lambda item: (other for other in near.get(item, ()) if other != without),
        lambda item: item != start and kinds.get(item) in sources,
    )


def if_fails(system: System, network: CompiledNetwork, part_id: str) -> Outage:
    """Say what a failed part means: it leaks, or feeds nothing any more.

    Parameters
    ----------
    system : System
        The network. [-]
    network : CompiledNetwork
        It in a state. [-]
    part_id : str
        The part. [-]

    Returns
    -------
    Outage
        Valves to close, litres, outlets left. [m³]

    Notes
    -----
    A part that carries water is taken to leak: what can run to it without passing a shut
    valve or against a check may spill. Valves nearest to it are closed; then an outlet has
    water when a source still leads to it through neither, and warm water when a heater that
    still runs lies on the way.
    """
    part = network.parts[part_id]
    stopped = frozenset(_stopped(system, part))
    if isinstance(part, HEATERS) and part.side == "heat":
        stopped |= {part_id}
    nodes = _nodes_of(network, part_id)
    leaks = bool(nodes) and not isinstance(part, electric.ElectricPart)
    gone = frozenset({part_id}) if leaks else frozenset()
    closers = frozenset(
        item.id for item in network.parts.values() if _may_shut(item) and item.id != part_id
    )
    close: tuple[str, ...] = ()
    spilt, all_of, unknown = 0.0, list[str](), list[str]()
    if leaks:
        whole = _Walk(network, frozenset(), frozenset())
        region, links = whole.upstream(nodes, closers)
        edge = set()
        for index, link in enumerate(network.links):
            if link.item in closers and (link.start in region or link.end in region):
                reach = link.end in region or not link.element.one_way
                if reach and not _is_outlet(network, link.item):
                    edge.add(link.item)
            if index in links and link.is_run:
                if index in network.unsure:
                    unknown.append(link.item)
                else:
                    length = figure(network.runs[link.item], "length_m")
                    spilt += pi / 4 * link.bore_m**2 * length
        for item in network.parts.values():
            mine = _nodes_of(network, item.id)
            tank = isinstance(item, moved.FreshTank | moved.GravityBag | moved.LooseContainer)
            if not mine & region or not (tank or isinstance(item, _VESSELS)):
                continue
            if tank:
                all_of.append(item.id)
            volume = known_figure(item, "volume_m3")
            if volume is None:
                unknown.append(item.id)
            else:
                spilt += volume
        close = tuple(key for key in network.parts if key in edge)
    lost_pumps = {key for key in stopped if key in network.pumps}
    blocked = gone | frozenset(close) | frozenset(lost_pumps)
    left = tuple(_left(network, end, blocked, stopped) for end in _outlets(network))
    heaters = isinstance(part, (*HEATERS, *_VESSELS))
    return Outage(
        part_id=part_id, label=part.label, close=close, spilt_m3=spilt, unknown=tuple(unknown),
        all_of=tuple(all_of),
        left=left, bypassed=heaters and any(item.water for item in left),
        stopped=tuple(sorted(stopped - {part_id})),
    )  # fmt: skip


def _is_outlet(network: CompiledNetwork, part_id: str) -> bool:
    return isinstance(network.parts.get(part_id), use.Outlet)


def _outlets(network: CompiledNetwork) -> tuple[str, ...]:
    return tuple(key for key in network.ends if _is_outlet(network, key))


def _left(
    network: CompiledNetwork, outlet: str, blocked: frozenset[str], stopped: frozenset[str]
) -> Left:
    """Say whether an outlet still has water, and whether a heater that runs is on its way."""
    end = network.links[network.ends[outlet]]
    walk = _Walk(network, blocked, frozenset())
    seen, links = walk.upstream({end.start}, frozenset())
    water = outlet not in blocked and any(
        network.net.given[node] and node != end.end for node in seen
    )
    warm = water and any(_warms(network, network.links[index].item, stopped) for index in links)
    return Left(outlet, network.parts[outlet].label, water, warm)


def _warms(network: CompiledNetwork, item: str, stopped: frozenset[str]) -> bool:
    part = network.parts.get(item)
    if part is None or item in stopped:
        return False
    inside = [other for other in network.parts.values() if other.fitted_in == item]
    running = [
        other for other in inside
        if isinstance(other, heat.Element | heat.Burner) and other.id not in stopped
    ]  # fmt: skip
    coiled = any(isinstance(other, heat.Coil) for other in inside) and any(
        isinstance(other, heat.LiquidHeater | heat.EngineCoolant | heat.AirHeater)
        and other.id not in stopped
        for other in network.parts.values()
    )
    if isinstance(part, heat.Store | heat.Canister):
        return bool(running) or coiled
    if isinstance(part, heat.PlateExchanger):
        return any(
            isinstance(other, heat.LiquidHeater | heat.EngineCoolant | heat.Element | heat.Burner)
            and other.id not in stopped
            for other in network.parts.values()
        )
    return isinstance(part, heat.Combi | heat.ThroughFlow | heat.SunContainer | heat.AirCoil)


@dataclass(frozen=True, slots=True)
class DryFire:
    """An element that could heat without water: what stops it, how hot, how soon.

    `stopped_by` is the part that cuts it, if any; `reaches_c` what the empty vessel reaches,
    `to_limit_s` until it is at the cut-out's or 100 °C [s].
    """

    part_id: str
    label: str
    vessel_id: str
    stopped_by: str
    reaches_c: float
    to_limit_s: float


TANK_LOSS_W_PER_K: Final = 1.0  # of what is no store but has an element in it; judgement
TANK_BODY_J_PER_K: Final = 1000.0  # little, so that the time until it is hot is not overstated
HOTTEST_C: Final = 700.0  # a sheath glows and fails about here; more is not computed


def dry_fires(network: CompiledNetwork, air_c: float) -> tuple[DryFire, ...]:
    """Find elements and burners that could run with their vessel empty.

    Parameters
    ----------
    network : CompiledNetwork
        The network in a state. [-]
    air_c : float
        Around them. [°C]

    Returns
    -------
    tuple of DryFire
        One for each element or burner in a store or canister. [°C, s]

    Notes
    -----
    The empty vessel is one body: T = T_a + P/U (1 − e^(−U t/C)) with its own heat C and its
    standing loss U.

    References
    ----------
    Incropera et al., ch. 5 (lumped capacitance with a source).
    """
    found = []
    for part in network.parts.values():
        if not isinstance(part, heat.Element | heat.Burner) or part.fitted_in is None:
            continue
        host = network.parts.get(part.fitted_in)
        if host is None:
            continue
        if isinstance(part, heat.Element):
            watts = figure(part, "power_w")
        else:
            watts = figure(part, "input_w") * figure(part, "efficiency")
        loss, body = TANK_LOSS_W_PER_K, TANK_BODY_J_PER_K
        if isinstance(host, heat.Insulated):
            loss, body = figure(host, "loss_w_per_k"), figure(host, "body_j_per_k")
        guard = next(
            (item for item in network.parts.values()
             if isinstance(item, heat.Interlock) and item.guards == part.id
             and item.senses == "level"), None,
        )  # fmt: skip
        limit = next(
            (item for item in network.parts.values()
             if isinstance(item, heat.HighLimit) and item.guards == part.id), None,
        )  # fmt: skip
        top = air_c + watts / loss
        goal = figure(limit, "opens_c") if limit is not None else 100.0
        soon = float("inf")
        if top > goal > air_c:
            soon = -body / loss * log(1.0 - (goal - air_c) * loss / watts)
        stopped = guard.label if guard is not None else limit.label if limit is not None else ""
        reached = min(goal if limit is not None else top, HOTTEST_C)
        reached = air_c if guard is not None else reached
        found.append(DryFire(part.id, part.label, host.id, stopped, reached, soon))
    return tuple(found)
