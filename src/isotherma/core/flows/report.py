"""What a solved operating point says: runs, parts, outlets, pumps, what eats the pressure."""

from __future__ import annotations

from collections.abc import Collection, Mapping, Sequence
from dataclasses import dataclass, replace
from math import pi
from typing import Final

import numpy as np

from isotherma.core.findings import Finding, Quantity
from isotherma.core.flows import kernel
from isotherma.core.flows.fittings import RESERVOIR
from isotherma.core.flows.loads import pump_current_a
from isotherma.core.flows.network_compiler import CompiledNetwork
from isotherma.core.flows.pulse import Point, Running
from isotherma.core.flows.solving import MIXER_DOES, Solved
from isotherma.core.hydraulics import laws
from isotherma.core.hydraulics.network import GRAVITY_M_PER_S2, SHUT
from isotherma.core.hydraulics.pulsing import ATMOSPHERE_PA, Cycle
from isotherma.core.system.kinds.temperature import ThermostaticMixer
from isotherma.core.system.kinds.water import Drain, Pump, Submersible
from isotherma.core.system.nominal import figure

NOTHING_M3_PER_S: Final = 1e-8  # 0.6 mL/min is shown as no flow
FAST_M_PER_S: Final = 2.0  # above it small pipes are heard, and taps hammer; common practice
NOISY_SUCTION_PA: Final = -35e3  # diaphragm pumps rattle and lose flow beyond it; judgement

HEATER_DOES: Final = ("too_little_to_light", "burns", "lights_by_turns")  # by the kernel's number


@dataclass(frozen=True, slots=True)
class RunFlow:
    """One run: `drop_pa` is friction and fittings, `static_head_pa` what its rise takes."""

    id: str
    label: str
    flow_m3_per_s: float
    velocity_m_per_s: float
    drop_pa: float
    static_head_pa: float
    start_pa: float
    end_pa: float
    temperature_c: float


@dataclass(frozen=True, slots=True)
class PartFlow:
    """One part: gauge pressure and temperature where water leaves it, and what it takes."""

    id: str
    label: str
    kind: str
    flow_m3_per_s: float
    pressure_pa: float
    drop_pa: float
    temperature_c: float
    doing: Finding | None


@dataclass(frozen=True, slots=True)
class OutletFlow:
    """One open outlet: pressure before it, temperature as it runs for good."""

    id: str
    label: str
    opening: float
    flow_m3_per_s: float
    pressure_pa: float
    temperature_c: float
    drain: bool


@dataclass(frozen=True, slots=True)
class PumpFlow:
    """One pump that is on.

    `lift_m` is from the water it draws to its inlet, `primes_m` what it lifts by itself
    when dry; `over_boiling_pa` how far its inlet is above the vapour pressure. `doing` is
    "runs", "cycles", "rests" or "held" at constant pressure.
    """

    id: str
    label: str
    doing: str
    flow_m3_per_s: float
    inlet_pa: float
    outlet_pa: float
    current_a: float | None
    lift_m: float | None
    primes_m: float | None
    over_boiling_pa: float
    cycle: Cycle | None
    steady_above_m3_per_s: float | None
    fastest_m3_per_s: float | None
    fastest: Cycle | None


@dataclass(frozen=True, slots=True)
class ProfileStep:
    """One step on the way from source to outlet: pressures at its ends, how far along."""

    id: str
    label: str
    is_run: bool
    from_m: float
    to_m: float
    start_pa: float
    end_pa: float
    drop_pa: float
    static_head_pa: float


@dataclass(frozen=True, slots=True)
class FlowReport:
    """Everything about one operating point; `eaten` has the losses of each open outlet's way."""

    runs: tuple[RunFlow, ...]
    parts: tuple[PartFlow, ...]
    outlets: tuple[OutletFlow, ...]
    pumps: tuple[PumpFlow, ...]
    profiles: Mapping[str, tuple[ProfileStep, ...]]
    rounds: int
    steps: int
    residual_pa: float
    balance: float

    def eaten(self, outlet: str) -> tuple[ProfileStep, ...]:
        """List what takes pressure on the way to an outlet, the most first."""
        taken = [step for step in self.profiles[outlet] if step.drop_pa > 1.0]
        return tuple(sorted(taken, key=lambda step: -step.drop_pa))


def vapour_pa(celsius: float) -> float:
    """Pressure at which water boils.

    Parameters
    ----------
    celsius : float
        Its temperature, 1 to 100. [°C]

    Returns
    -------
    float
        Absolute pressure, within 1 %. [Pa]

    References
    ----------
    Antoine's equation with the constants of Lange's Handbook of Chemistry for 1–100 °C.

    Examples
    --------
    >>> abs(vapour_pa(100.0) / 101_325.0 - 1) < 0.01
    True
    >>> abs(vapour_pa(20.0) / 2339.0 - 1) < 0.01
    True
    """
    return float(10 ** (8.07131 - 1730.63 / (233.426 + celsius)) * 133.322)


def _still(flow: float) -> float:
    return 0.0 if abs(flow) < NOTHING_M3_PER_S else flow


def _static_head_pa(solved: Solved, link: int) -> float:
    return float(solved.density[link] * GRAVITY_M_PER_S2 * solved.network.net.rise[link])


def _drop_pa(solved: Solved, link: int) -> float:
    """What a link itself takes of the pressure in its direction of flow, rise left out [Pa]."""
    if _still(float(solved.flow_m3_per_s[link])) == 0.0:
        return 0.0
    net = solved.network.net
    taken = solved.pressure_pa[net.start[link]] - solved.pressure_pa[net.end[link]]
    taken -= _static_head_pa(solved, link)
    return float(taken if solved.flow_m3_per_s[link] > 0 else -taken)


def _enters_c(solved: Solved, link: int) -> float:
    net = solved.network.net
    at = net.start[link] if solved.mass[link] >= 0 else net.end[link]
    return float(solved.node_c[at])


def _run(solved: Solved, link: int) -> RunFlow:
    network = solved.network
    item = network.links[link]
    flow = _still(float(solved.flow_m3_per_s[link]))
    return RunFlow(
        id=item.item, label=item.label, flow_m3_per_s=flow,
        velocity_m_per_s=abs(flow) / (pi / 4 * item.bore_m**2), drop_pa=_drop_pa(solved, link),
        static_head_pa=_static_head_pa(solved, link),
        start_pa=float(solved.pressure_pa[item.start]), end_pa=float(solved.pressure_pa[item.end]),
        temperature_c=_enters_c(solved, link),
    )  # fmt: skip


def _part_does(solved: Solved, part_id: str) -> Finding | None:
    """Find what a part that moves by itself does; None of all others."""
    network = solved.network
    if part_id in network.mixers:
        row = network.mixers.index(part_id)
        hot, cold = (solved.flow_m3_per_s[link] for link in network.valves.legs[row])
        if min(hot, cold) < -NOTHING_M3_PER_S:
            back = "hot" if hot < cold else "cold"
            return Finding("runs_back", (part_id,), {"leg": back})
        doing = int(solved.doing[row])
        runs = bool(network.valves.mixer[row, kernel.HOLDS]) and max(hot, cold) > NOTHING_M3_PER_S
        beyond = _beyond(solved, part_id, float(hot + cold)) if runs else None
        if beyond is not None:
            return beyond
        seen = runs or doing == kernel.COLD_LOST
        return Finding(MIXER_DOES[doing], (part_id,)) if seen else None
    for link in network.part_links[part_id]:
        kind, lit = network.heat.kind[link], int(solved.lit[link])
        if kind == kernel.THROUGH and _still(float(solved.flow_m3_per_s[link])) != 0.0:
            return Finding(HEATER_DOES[lit], (part_id,))
    return None


def _beyond(solved: Solved, mixer: str, flow: float) -> Finding | None:
    """Find what a thermostatic valve stands that is more than it is made for."""
    part = solved.network.parts[mixer]
    if not isinstance(part, ThermostaticMixer):
        return None
    hot_pa, cold_pa = (max(1.0, solved.port_pa(mixer, port)) for port in ("hot", "cold"))
    ratio = max(hot_pa, cold_pa) / min(hot_pa, cold_pa)
    if ratio > figure(part, "pressure_ratio"):
        return Finding("unequal_pressures", (mixer,), {"ratio": Quantity(ratio, "number")})
    if flow < figure(part, "min_flow_m3_per_s"):
        return Finding("too_little_flow", (mixer,))
    return None


def _part(solved: Solved, part_id: str) -> PartFlow:
    network = solved.network
    part = network.parts[part_id]
    links = network.part_links[part_id]
    main = max(links, key=lambda link: (abs(float(solved.flow_m3_per_s[link])), -link))
    element = network.links[main].element
    ahead = solved.flow_m3_per_s[main] >= 0
    leaves = network.net.end[main] if ahead else network.net.start[main]
    if element.role == "end":  # what counts of an outlet is the pressure before it
        leaves = network.net.start[main]
    pumping = element.role in {"pump", "own"}
    flow, celsius = abs(float(solved.flow_m3_per_s[main])), float(solved.out_c[main])
    if part_id in network.mixers:  # both legs leave as one
        leaves = network.net.end[main]
        flow, celsius = (
            abs(float(solved.flow_m3_per_s[list(links)].sum())),
            float(solved.node_c[leaves]),
        )
    return PartFlow(
        id=part_id,
        label=part.label,
        kind=part.kind,
        flow_m3_per_s=_still(flow),
        pressure_pa=float(solved.pressure_pa[leaves]),
        drop_pa=0.0 if pumping else _drop_pa(solved, main),
        temperature_c=celsius,
        doing=_part_does(solved, part_id),
    )


def profile(solved: Solved, outlet: str) -> tuple[ProfileStep, ...]:
    """Follow the water back from an outlet to where it comes from.

    Parameters
    ----------
    solved : Solved
        An operating point. [-]
    outlet : str
        Part id of an open outlet. [-]

    Returns
    -------
    tuple of ProfileStep
        From the source to the outlet, along the strongest inflow at each meeting; the
        outlet itself is the last. [m, Pa]
    """
    network = solved.network
    back = [network.ends[outlet], *network.diverted.get(outlet, ())]
    link = next((at for at in back if _still(float(solved.flow_m3_per_s[at])) != 0.0), back[0])
    path = [link]
    net, heat = network.net, network.heat
    node = net.start[link] if solved.mass[link] >= 0 else net.end[link]
    seen = {int(node)}
    while not net.given[node]:
        arriving = []
        for at in range(heat.first[node], heat.first[node + 1]):
            other = int(heat.touching[at])
            if _still(float(solved.flow_m3_per_s[other])) == 0.0:
                continue
            into = net.end[other] if solved.mass[other] > 0 else net.start[other]
            if into == node:
                arriving.append(other)
        if not arriving:
            break
        link = max(arriving, key=lambda at: abs(solved.mass[at]))
        path.append(link)
        node = net.start[link] if solved.mass[link] >= 0 else net.end[link]
        if int(node) in seen:  # a loop that goes round by itself
            break
        seen.add(int(node))
    steps: list[ProfileStep] = []
    along = 0.0
    for link in reversed(path):
        item = network.links[link]
        ahead = solved.mass[link] >= 0
        ends = (item.start, item.end) if ahead else (item.end, item.start)
        length = float(net.parameters[link, laws.LENGTH_M]) if item.is_run else 0.0
        lift = _static_head_pa(solved, link)
        step = ProfileStep(
            id=item.item,
            label=item.label,
            is_run=item.is_run,
            from_m=along,
            to_m=along + length,
            start_pa=float(solved.pressure_pa[ends[0]]),
            end_pa=float(solved.pressure_pa[ends[1]]),
            drop_pa=0.0 if item.element.role in {"pump", "own"} else _drop_pa(solved, link),
            static_head_pa=lift if ahead else -lift,
        )
        if steps and steps[-1].id == step.id:  # two ways through one part are one step
            before = steps.pop()
            step = replace(
                step,
                start_pa=before.start_pa,
                drop_pa=before.drop_pa + step.drop_pa,
                static_head_pa=before.static_head_pa + step.static_head_pa,
            )
        steps.append(step)
        along += length
    return tuple(steps)


def standing_m3(
    network: CompiledNetwork, way: Sequence[ProfileStep], hot: Collection[str]
) -> float:
    """Give the water in the runs between the last heat and an outlet.

    Parameters
    ----------
    network : CompiledNetwork
        The network. [-]
    way : sequence of ProfileStep
        The strongest way to the outlet, see `profile`. [-]
    hot : collection of str
        Parts that hold or make hot water. [-]

    Returns
    -------
    float
        All of the way's runs where nothing on it is hot. [m³]

    References
    ----------
    Geometry of pipes.
    """
    volume = 0.0
    for step in reversed(way):
        if step.id in hot:
            break
        if step.is_run:
            bore = network.links[network.run[step.id]].bore_m
            volume += pi / 4 * bore**2 * (step.to_m - step.from_m)
    return volume


def static_head_m(network: CompiledNetwork, pump: str, solved: Solved) -> float | None:
    """Height of a pump's inlet above the water it draws.

    Parameters
    ----------
    network : CompiledNetwork
        The network of a state. [-]
    pump : str
        Part id. [-]
    solved : Solved
        Says which way the water comes. [-]

    Returns
    -------
    float or None
        Negative below the water; None if nothing open to the air feeds it. [m]
    """
    net, heat = network.net, network.heat
    start = network.links[network.pumps[pump]].start
    seen, waiting = {start: 0.0}, [start]
    while waiting:
        node = waiting.pop(0)
        for at in range(heat.first[node], heat.first[node + 1]):
            link = int(heat.touching[at])
            item = network.links[link]
            if solved.shut[link] == SHUT or item.element.role in {"pump", "own", "end"}:
                continue
            other = item.start if item.end == node else item.end
            rise = float(net.rise[link]) * (1 if item.end == node else -1)
            if item.element.start == RESERVOIR and other == item.start:
                return seen[node] + rise
            if other not in seen:
                seen[other] = seen[node] + rise
                waiting.append(other)
    return None


def _pump(solved: Solved, part_id: str, running: Mapping[str, Running]) -> PumpFlow:
    network = solved.network
    link = network.pumps[part_id]
    part = network.parts[part_id]
    item = network.links[link]
    flow = _still(float(solved.flow_m3_per_s[link]))
    inlet = float(solved.pressure_pa[item.start])
    outlet = float(solved.pressure_pa[item.end])
    how = running.get(part_id)
    cycle = how.cycle if how is not None else None
    doing = "runs" if flow else "rests"
    if cycle is not None:
        doing = "cycles"
    elif isinstance(part, Pump) and part.control == "constant pressure" and part.cut_out_pa:
        doing = "held" if flow and outlet >= part.cut_out_pa - 100.0 else doing
    current = None
    if isinstance(part, Pump | Submersible):
        current = pump_current_a(part, outlet) if flow else 0.0
        if cycle is not None and current is not None:
            current *= cycle.on_s / cycle.period_s
    describe = how.switched if how is not None else None
    quickest = describe.fastest() if describe is not None else None
    primes = part.self_priming_m if isinstance(part, Pump) else None
    return PumpFlow(
        id=part_id,
        label=part.label,
        doing=doing,
        flow_m3_per_s=flow,
        inlet_pa=inlet,
        outlet_pa=outlet,
        current_a=current,
        lift_m=static_head_m(network, part_id, solved) if isinstance(part, Pump) else None,
        primes_m=primes,
        over_boiling_pa=inlet + ATMOSPHERE_PA - vapour_pa(_enters_c(solved, link)),
        cycle=cycle,
        steady_above_m3_per_s=describe.steady_above if describe is not None else None,
        fastest_m3_per_s=quickest[0] if quickest is not None else None,
        fastest=quickest[1] if quickest is not None else None,
    )


def flow_report(point: Point) -> FlowReport:
    """Read everything people ask for out of a solved operating point.

    Parameters
    ----------
    point : Point
        As `operate` gives it. [-]

    Returns
    -------
    FlowReport
        In the order of the document. [SI]
    """
    solved = point.solved
    network = solved.network
    running = {how.switched.pump: how for how in point.running}
    outlets = []
    for part_id in solved.opens:
        link = network.ends[part_id]
        before = float(solved.pressure_pa[network.net.start[link]])
        flow = _still(float(solved.flow_m3_per_s[link]))
        outlets.append(
            OutletFlow(
                id=part_id,
                label=network.parts[part_id].label,
                opening=solved.opens[part_id],
                flow_m3_per_s=flow,
                pressure_pa=before if flow and np.isfinite(before) else 0.0,
                temperature_c=float(solved.out_c[link]),
                drain=isinstance(network.parts[part_id], Drain),
            )
        )
    return FlowReport(
        runs=tuple(_run(solved, link) for link in network.run.values()),
        parts=tuple(_part(solved, part_id) for part_id in network.part_links),
        outlets=tuple(outlets),
        pumps=tuple(_pump(solved, part_id, running) for part_id in network.pumps),
        profiles={part_id: profile(solved, part_id) for part_id in solved.opens},
        rounds=solved.rounds,
        steps=solved.steps,
        residual_pa=solved.residual_pa,
        balance=solved.balance,
    )
