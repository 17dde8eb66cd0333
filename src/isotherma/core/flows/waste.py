"""Waste by gravity, and filling: does the tray drain, how fast, how long until tanks are empty."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from dataclasses import dataclass, field, replace
from math import hypot, pi, radians, tan
from typing import Final

from isotherma.core.findings import Finding, Quantity
from isotherma.core.flows.levelling import shape_of
from isotherma.core.hydraulics import gravity
from isotherma.core.hydraulics.basin import Standing, drain_places, standing_water
from isotherma.core.hydraulics.friction import ROUGHNESS_M
from isotherma.core.hydraulics.gravity import FallingLeg
from isotherma.core.hydraulics.levels import Gauge, litres_at
from isotherma.core.system import AnyKind, Pipe, System
from isotherma.core.system.configuration import positions
from isotherma.core.system.kinds.use import Outlet, OutsideOutlet
from isotherma.core.system.kinds.waste import (
    DumpPump,
    Gate,
    GreyTank,
    HairTrap,
    OpenDrain,
    ReuseLoop,
    Trap,
    Tray,
    WasteContainer,
)  # fmt: skip
from isotherma.core.system.kinds.water import FreshTank, PressurisedInlet
from isotherma.core.system.nominal import ComputedSystem, computed, figure
from isotherma.core.system.pieces import LITRE_PER_MIN
from isotherma.core.system.states import State
from isotherma.core.system.vehicle import Vehicle

TRAP_K: Final = 2.5  # two bends and a dip; common tables
GATE_K: Final = 0.3
HOSE: Final = FallingLeg(bore_m=0.04, length_m=1.0, loss_k=0.5)  # hung on for emptying, not drawn
HOSE_BELOW_M: Final = 0.2  # its end below the tank's floor
TANK_DEPTH_M: Final = 0.25  # of a tank nobody measured
FLAT_M_PER_M: Final = 0.01  # less fall than this leaves hair and soap behind; common practice
HOSE_M3_PER_S: Final = 12 * LITRE_PER_MIN  # a pitch's hose
GROUND: Final = ""  # a drain that is no tank, or the ground
_SINKS = (GreyTank, WasteContainer, OpenDrain, ReuseLoop)


@dataclass(frozen=True, slots=True)
class WasteRun:
    """One run on the way: how much it falls, and water it keeps where it rises; None: unknown."""

    id: str
    label: str
    length_m: float | None
    fall_m: float
    keeps_m3: float | None


@dataclass(frozen=True, slots=True)
class TrayDrains:
    """How one tray drains as the vehicle stands.

    `ends_in` is the part its water reaches, empty if it reaches none; `blocked` names what
    is in the way. `rate_m3_per_s` is what the pipe carries away, None where something
    needed is unknown; `comes_m3_per_s` what the outlets above it let fall, set by the caller.
    `clogged_m3_per_s` is left once its hair trap is full, after so many `showers`;
    `rise_needed_m` how much higher it must stand for the trap under it, None where nobody
    measured; `seal_m3` is the trap's water.
    """

    id: str
    label: str
    stands: Standing | None
    ends_in: str
    blocked: str
    runs: tuple[WasteRun, ...]
    fall_m: float
    rate_m3_per_s: float | None
    unvented: bool
    trapped_by: str
    unplaced_m: float
    hair_trap: str
    clogged_m3_per_s: float | None
    showers: int
    rise_needed_m: float | None
    seal_m3: float
    lacking: tuple[Finding, ...]

    @property
    def drains(self) -> bool:
        """Whether water leaves it at all."""
        return not self.blocked and bool(self.rate_m3_per_s)


@dataclass(frozen=True, slots=True)
class TankEmpties:
    """How one grey tank is emptied: by its height, or by a pump that lifts.

    `unmeasured` is the run without whose length and bore nothing is computed.
    """

    id: str
    label: str
    volume_m3: float | None
    by: str
    seconds: float | None
    blocked: str
    assumed: tuple[Finding, ...]
    unmeasured: str = ""
    free_until_m3: float | None = None


@dataclass(frozen=True, slots=True)
class TankFills:
    """How one fresh tank is filled.

    `takes_m3_per_s` is what its filler and vent let in by height alone, None without one;
    `seconds` with a hose of `hose_m3_per_s`; `unmeasured` is the run
    without whose length and bore nothing is computed.
    """

    id: str
    label: str
    volume_m3: float | None
    takes_m3_per_s: float | None
    hose_m3_per_s: float
    seconds: float | None
    backs_up: bool
    assumed: tuple[Finding, ...]
    unmeasured: str = ""


@dataclass(frozen=True, slots=True)
class Waste:
    """All of it."""

    trays: tuple[TrayDrains, ...]
    empties: tuple[TankEmpties, ...]
    fills: tuple[TankFills, ...]
    falls_to: Mapping[str, tuple[str, ...]]


class _Side:
    """The waste side of a system in a state, walked from part to part."""

    def __init__(self, system: System, state: State | None, vehicle: Vehicle) -> None:
        self.system = computed(system)
        self.parts = {part.id: part for part in self.system.parts}
        self.at = positions(self.system, state)
        self.pitch, self.roll = vehicle.stands_deg
        self.joined: dict[tuple[str, str], tuple[Pipe, tuple[str, str], bool]] = {}
        for run in self.system.pipes:
            one, other = (run.start.part, run.start.port), (run.end.part, run.end.port)
            self.joined[one] = (run, other, True)
            self.joined.setdefault(other, (run, one, False))

    def lean_m(self, start: AnyKind, end: AnyKind) -> float | None:
        """Give how much lower the end lies for the way the vehicle stands; None if unplaced.

        References
        ----------
        Plane geometry of a tilt.
        """
        if not self.pitch and not self.roll:
            return 0.0
        if start.x_m is None or start.y_m is None or end.x_m is None or end.y_m is None:
            return None
        along, across = end.x_m - start.x_m, end.y_m - start.y_m
        return tan(radians(self.pitch)) * along + tan(radians(self.roll)) * across

    def unsure_m(self, length_m: float) -> float:
        """Give the most a run of unknown direction may gain or lose by the lean."""
        return length_m * hypot(tan(radians(self.pitch)), tan(radians(self.roll)))

    def way(
        self, part_id: str, port: str, *, shut_too: bool = False
    ) -> Iterator[tuple[Pipe, bool, AnyKind]]:
        """Walk from a port: each run with whether it is walked as drawn, and the part reached.

        `shut_too` walks on through what stands shut or off, as if it were opened.
        """
        seen: set[tuple[str, str]] = set()
        at = (part_id, port)
        while at in self.joined and at not in seen:
            seen.add(at)
            run, there, ahead = self.joined[at]
            part = self.parts[there[0]]
            yield run, ahead, part
            if isinstance(part, _SINKS):
                return
            ways = part.ways(self.at.get(part.id, ""))
            if not ways and shut_too:
                ways = next((part.ways(at) for at in part.positions if part.ways(at)), ())
            through = [
                other if there[1] == one else one for one, other in ways if there[1] in (one, other)
            ]
            if not through:
                return
            at = (part.id, through[0])


def _stretch(run: Pipe, loss_k: float) -> FallingLeg:
    return FallingLeg(
        bore_m=figure(run, "bore_m"),
        length_m=figure(run, "length_m"),
        loss_k=figure(run, "loss_k") + loss_k,
        roughness_m=ROUGHNESS_M[run.material],
    )


@dataclass(slots=True)
class _Drain:
    """What a tray's drain runs through to where it ends."""

    lacking: list[Finding]
    runs: list[WasteRun] = field(default_factory=list)
    stretches: list[FallingLeg] = field(default_factory=list)
    ends_in: str = ""
    blocked: str = ""
    trapped_by: str = ""
    unvented: bool = False
    unplaced_m: float = 0.0
    hair: str = ""
    seal_m3: float = 0.0
    left_share: float = 1.0
    showers: int = 0


def _follow(side: _Side, tray: Tray, lacking: list[Finding]) -> _Drain:
    """Follow the water from a tray's drain; `lacking` is what is not known of the tray itself."""
    drain = _Drain(lacking)
    before: AnyKind = tray
    for run, ahead, part in side.way(tray.id, "outlet"):
        length, bore = run.length_m, run.bore_m
        drain.lacking += [
            Finding(code, (run.id,))
            for code, known in (("length_unknown", length), ("bore_unknown", bore))
            if known is None
        ]
        lean = side.lean_m(before, part)
        if lean is None and length is not None:
            drain.unplaced_m += side.unsure_m(length)
        fall = -run.rise_m if ahead else run.rise_m
        fall += 0.0 if lean is None else lean
        held = pi / 4 * bore**2 * length if bore is not None and length is not None else None
        kept = held if fall < 0.0 else 0.0
        extra = 0.0
        if isinstance(part, Trap):
            extra, drain.trapped_by = TRAP_K, part.id
            if part.way != "waterless":  # both limbs stand full
                drain.seal_m3 = 2.0 * figure(part, "seal_m") * pi / 4 * figure(part, "bore_m") ** 2
        elif isinstance(part, HairTrap):
            extra = figure(part, "loss_k")
            drain.hair, drain.left_share = part.id, figure(part, "full_share")
            drain.showers = part.showers_per_emptying
        elif isinstance(part, Gate):
            extra = GATE_K
        drain.runs.append(WasteRun(run.id, run.label, length, fall, kept))
        if not drain.lacking:
            drain.stretches.append(_stretch(run, extra))
        before = part
        if isinstance(part, _SINKS):
            drain.ends_in = part.id
            drain.unvented = isinstance(part, GreyTank) and (part.id, "vent") not in side.joined
        elif not part.ways(side.at.get(part.id, "")):
            drain.blocked = part.id
    if not drain.ends_in and not drain.blocked:
        drain.blocked = before.id
    return drain


def _rise_needed(side: _Side, tray: Tray, trap_id: str) -> float | None:
    """Give how much a tray stands too low for the trap below it; None where nobody knows [m]."""
    trap = side.parts.get(trap_id)
    if trap is None or trap.tall_m is None or tray.raised_m is None or trap.space != tray.space:
        return None
    return max(0.0, trap.tall_m - tray.raised_m)


def _trays(side: _Side) -> tuple[TrayDrains, ...]:
    return tuple(_tray(side, part) for part in side.system.parts if isinstance(part, Tray))


def _tray(side: _Side, tray: Tray) -> TrayDrains:
    stands = None
    if tray.length_m and tray.breadth_m and tray.rim_m:
        stands = standing_water(
            length_m=tray.length_m, breadth_m=tray.breadth_m, rim_m=tray.rim_m,
            fall_deg=figure(tray, "fall_deg"), drains=drain_places(tray.drains, tray.drain_at),
            pitch_deg=side.pitch, roll_deg=side.roll,
        )  # fmt: skip
    lacking = [Finding("sides_unknown", (tray.id,))] if stands is None else []
    drain = _follow(side, tray, lacking)
    fall = sum(run.fall_m for run in drain.runs)
    rate = clogged = None
    if drain.stretches and not drain.lacking:
        depth = 0.01  # a finger of water over the drain
        rate = gravity.gravity_flow_m3_per_s(head_m=fall + depth, stretches=drain.stretches)
        clogged = rate * drain.left_share if drain.hair else None
    return TrayDrains(
        id=tray.id,
        label=tray.label,
        stands=stands,
        ends_in=drain.ends_in,
        blocked="" if drain.ends_in else drain.blocked,
        runs=tuple(drain.runs),
        fall_m=fall,
        rate_m3_per_s=rate if drain.ends_in else None,
        unvented=drain.unvented,
        trapped_by=drain.trapped_by,
        unplaced_m=drain.unplaced_m,
        hair_trap=drain.hair,
        clogged_m3_per_s=clogged if drain.ends_in else None,
        showers=drain.showers,
        rise_needed_m=_rise_needed(side, tray, drain.trapped_by),
        seal_m3=drain.seal_m3,
        lacking=tuple(drain.lacking),
    )


def _empties(side: _Side, tank: GreyTank) -> TankEmpties:
    assumed: list[Finding] = []
    depth = tank.inside_height_m
    if not depth:
        depth = TANK_DEPTH_M
        assumed.append(Finding("depth_assumed", (tank.id,), {"depth_m": Quantity(depth, "bore")}))
    stretches: list[FallingLeg] = []
    below = 0.0
    pump: DumpPump | None = None
    blocked = ""
    before: AnyKind = tank
    for run, ahead, part in side.way(tank.id, "outlet", shut_too=True):
        lean = side.lean_m(before, part)
        below += (-run.rise_m if ahead else run.rise_m) + (0.0 if lean is None else lean)
        if run.length_m is None or run.bore_m is None:
            return TankEmpties(tank.id, tank.label, tank.volume_m3, "", None, "", (), run.label)
        stretches.append(_stretch(run, GATE_K if isinstance(part, Gate) else 0.0))
        before = part
        if isinstance(part, DumpPump):
            pump = part
        elif isinstance(part, Gate) and side.at.get(part.id) == "shut":
            blocked = part.id  # only until somebody opens it: the time is for then
    if not stretches and not tank.outlet_bore_m:
        return TankEmpties(tank.id, tank.label, tank.volume_m3, "", None, tank.id, ())
    if not isinstance(before, OpenDrain | DumpPump):
        bore = tank.outlet_bore_m or (stretches[-1].bore_m if stretches else HOSE.bore_m)
        hose = FallingLeg(bore, HOSE.length_m, HOSE.loss_k)
        stretches.append(hose)
        below += HOSE_BELOW_M
        assumed.append(Finding("hose_hung_on", (tank.id,), {
            "length_m": Quantity(HOSE.length_m, "length"),
            "below_m": Quantity(HOSE_BELOW_M, "bore"),
        }))  # fmt: skip
    if tank.volume_m3 is None:
        return TankEmpties(tank.id, tank.label, None, "", None, "", ())
    if pump is not None:
        flow = gravity.lifting_flow_m3_per_s(
            open_flow_m3_per_s=figure(pump, "flow_m3_per_s"),
            most_m=figure(pump, "lift_m"),
            lift_m=max(0.0, -below),
        )
        seconds = tank.volume_m3 / flow if flow > 0.0 else None
        return TankEmpties(tank.id, tank.label, tank.volume_m3, pump.id, seconds, blocked, ())
    taper = 1.0
    if tank.floor_length_m and tank.inside_length_m:
        taper = tank.floor_length_m / tank.inside_length_m
    seconds = gravity.emptying_s(
        volume_m3=tank.volume_m3, depth_m=depth, below_m=below, stretches=stretches, taper=taper
    )
    return TankEmpties(
        tank.id, tank.label, tank.volume_m3, "height", seconds, blocked, tuple(assumed)
    )


def _free_until(tank: GreyTank) -> float | None:
    """Give what is in a grey tank when its water stands at its inlet [m³]; None: not measured."""
    shape = shape_of(tank)
    if shape is None or tank.inlet_height_m is None or tank.inlet_height_m >= shape.height_m:
        return None
    return litres_at(0.5, shape, Gauge(tank.inlet_height_m, tank.inlet_height_m + 1e-9))[0]


def _fills(side: _Side, tank: FreshTank) -> TankFills:
    assumed: list[Finding] = []
    stretches: list[FallingLeg] = []
    fall = 0.0
    pushed, hose = False, HOSE_M3_PER_S
    for run, ahead, part in side.way(tank.id, "fill"):
        fall += run.rise_m if ahead else -run.rise_m  # walked from the tank outward
        if run.length_m is None or run.bore_m is None:
            return TankFills(
                tank.id, tank.label, tank.volume_m3, None, hose, None, False, (), run.label
            )
        stretches.append(_stretch(run, 0.0))
        if isinstance(part, PressurisedInlet):
            pushed, hose = True, part.flow_m3_per_s or hose
    vent = tank.vent_bore_m
    if tank.vent_shares_overflow:  # air leaves by the hose that water runs over in
        hung = side.joined.get((tank.id, "overflow"))
        bore = hung[0].bore_m if hung is not None else None
        vent = min((one for one in (bore, vent) if one is not None), default=None)
        assumed.append(Finding("vent_shares_overflow", (tank.id,)))
    elif (tank.id, "vent") not in side.joined:
        assumed.append(
            Finding("no_vent", (tank.id,)) if not vent
            else Finding("vent_open", (tank.id,), {"bore_m": Quantity(vent, "bore")})
        )  # fmt: skip
    if not stretches:
        seconds = tank.volume_m3 / hose if tank.volume_m3 else None
        assumed.append(Finding("through_its_lid", (tank.id,)))
        return TankFills(
            tank.id, tank.label, tank.volume_m3, None, hose, seconds, False, tuple(assumed)
        )
    if pushed:  # mains water needs no height
        seconds = tank.volume_m3 / hose if tank.volume_m3 else None
        return TankFills(
            tank.id, tank.label, tank.volume_m3, None, hose, seconds, False, tuple(assumed)
        )
    takes = gravity.gravity_flow_m3_per_s(head_m=fall, stretches=stretches[::-1], vent_bore_m=vent)
    into = min(hose, takes) if takes > 0.0 else 0.0
    seconds = tank.volume_m3 / into if tank.volume_m3 and into > 0.0 else None
    return TankFills(
        tank.id, tank.label, tank.volume_m3, takes, hose, seconds, takes < hose, tuple(assumed)
    )


def waste_of(system: System, state: State | None, vehicle: Vehicle) -> Waste:
    """Tell how a system drains and fills as its vehicle stands.

    Parameters
    ----------
    system : System
        Any document; likely figures are written in. [-]
    state : State or None
        Positions of gates and pumps. [-]
    vehicle : Vehicle
        Its pitch and roll. [-]

    Returns
    -------
    Waste
        Trays, grey and fresh tanks in the order of the document; `falls_to` lists the outlets
        over each tray. [SI]
    """
    side = _Side(system, state, vehicle)
    over: dict[str, list[str]] = {}
    for part in side.system.parts:
        if isinstance(part, Outlet) and part.falls_to is not None:
            over.setdefault(part.falls_to, []).append(part.id)
    return Waste(
        trays=_trays(side),
        empties=tuple(
            replace(_empties(side, part), free_until_m3=_free_until(part))
            for part in side.system.parts
            if isinstance(part, GreyTank)
        ),
        fills=tuple(
            _fills(side, part) for part in side.system.parts if isinstance(part, FreshTank)
        ),
        falls_to={key: tuple(ids) for key, ids in over.items()},
    )


def trays_of(system: System, state: State | None, vehicle: Vehicle) -> tuple[TrayDrains, ...]:
    """Tell how the trays of a system drain as its vehicle stands.

    Parameters
    ----------
    system : System
        Any document; likely figures are written in. [-]
    state : State or None
        Positions of gates and pumps. [-]
    vehicle : Vehicle
        Its pitch and roll. [-]

    Returns
    -------
    tuple of TrayDrains
        In the order of the document. [SI]
    """
    return _trays(_Side(system, state, vehicle))


def sinks_of(system: ComputedSystem, state: State | None) -> dict[str, str]:
    """Say where the water of every outlet ends up.

    Parameters
    ----------
    system : System
        With what was understood of it. [-]
    state : State or None
        Positions of gates and selectors. [-]

    Returns
    -------
    dict of str to str
        By outlet the grey tank, can or loop that keeps it, `GROUND` where it runs onto a drain
        or the ground; an outlet of which nobody says where its water falls is not in it. [-]
    """
    side = _Side(system, state, Vehicle())
    open_air = {space.id for space in system.spaces if space.warmth in ("slung", "outside")}
    found: dict[str, str] = {}
    for part in side.parts.values():
        if not isinstance(part, Outlet):
            continue
        under = side.parts.get(part.falls_to or "")
        if under is None:
            if isinstance(part, OutsideOutlet) or part.space in open_air:
                found[part.id] = GROUND
            continue
        sink = _sink(side, under)
        if sink is not None:
            found[part.id] = sink
    return found


def _sink(side: _Side, under: AnyKind) -> str | None:
    """Follow waste from what water falls into; None where it is not drawn to an end."""
    at: AnyKind = under
    if not isinstance(at, _SINKS):
        *_, at = (under, *(part for _, _, part in side.way(under.id, "outlet")))
    if isinstance(at, OpenDrain):
        return GROUND
    if isinstance(at, GreyTank):
        ends = [part for _, _, part in side.way(at.id, "outlet")]
        return GROUND if ends and isinstance(ends[-1], OpenDrain) else at.id
    return at.id if isinstance(at, _SINKS) else None
