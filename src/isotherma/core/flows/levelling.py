"""Tanks of a system that a pipe joins, as basins: levelling, filling, following."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

from isotherma.core.fields import known_or
from isotherma.core.hydraulics.friction import ROUGHNESS_M
from isotherma.core.hydraulics.gravity import FallingLeg
from isotherma.core.hydraulics.levelling import Basin, Joint, basin_of
from isotherma.core.hydraulics.levels import TankShape
from isotherma.core.system import AnyKind, Pipe
from isotherma.core.system.joined_tanks import TankJoint, tank_joints
from isotherma.core.system.kinds.water import Filter, FreshTank, ShutOff, Vessel
from isotherma.core.system.nominal import ComputedSystem, figure

VALVE_K = 2.0  # a coupling or mesh on so short a pipe; judgement


@dataclass(frozen=True, slots=True)
class Levelling:
    """Two joined tanks: how long the fuller of them needs until both are level, how filling the
    first ends, when it runs dry while water is drawn from it.

    `shut` is a valve that is shut between them; `unmeasured` a run without length or bore: then
    nothing is computed. `over_s` until the first runs over at `hose_m3_per_s` [s].
    """

    joint: TankJoint
    first: str
    second: str
    shut: str
    unmeasured: str
    level_s: float | None
    hose_m3_per_s: float
    over_s: float | None
    full_s: float | None
    drawn_m3_per_s: float
    dry_s: float | None


def shape_of(tank: Vessel) -> TankShape | None:
    """Give the sides of a tank that was measured.

    Parameters
    ----------
    tank : Vessel
        Fresh, grey, or a can. [-]

    Returns
    -------
    TankShape or None
        None where one of them is missing. [m]
    """
    if not (tank.inside_length_m and tank.inside_width_m and tank.inside_height_m):
        return None
    floor = known_or(tank.floor_length_m, tank.inside_length_m)
    return TankShape(
        floor, tank.inside_width_m, tank.inside_height_m, tank.inside_length_m / floor, 1.0
    )


def _cube_of(volume_m3: float) -> TankShape:
    """Give the cube that holds so much: what stands for a tank nobody measured."""
    side = volume_m3 ** (1.0 / 3.0)
    return TankShape(side, side, side)


def _overflow_m(tank: FreshTank, shape: TankShape) -> float:
    """Give the height water runs over at: of the overflow, else of the lid [m]."""
    return min(known_or(tank.overflow_height_m, shape.height_m), shape.height_m)


def _port_m(tank: FreshTank, port: str, shape: TankShape) -> float:
    """Give the height of a port above the tank's floor; where nobody says, of the lid [m]."""
    if port in ("outlet", "second_outlet"):
        return figure(tank, "outlet_height_m")
    if port == "fill" and tank.fill_height_m is not None:
        return tank.fill_height_m
    return _overflow_m(tank, shape)


def _basin(tank: FreshTank, port: str, port_above_m: float) -> Basin:
    """Describe a tank whose port stands so high above the datum."""
    volume = figure(tank, "volume_m3")
    shape = shape_of(tank) or _cube_of(volume)
    low = min(figure(tank, "outlet_height_m"), 0.5 * shape.height_m)
    high = max(_overflow_m(tank, shape), low + 0.01)
    at = _port_m(tank, port, shape)
    return basin_of(
        shape, volume_m3=volume, outlet_m=low, overflow_m=high, floor_m=port_above_m - at, port_m=at
    )


def levelling(
    system: ComputedSystem,
    at: Mapping[str, str],
    *,
    hose_m3_per_s: float,
    drawn_m3_per_s: float,
) -> tuple[Levelling, ...]:
    """Say of every pair of joined tanks how they level out, fill and follow.

    Parameters
    ----------
    system : ComputedSystem
        With likely figures. [-]
    at : mapping of str to str
        How valves stand. [-]
    hose_m3_per_s : float
        What fills the first of them, > 0. [m³/s]
    drawn_m3_per_s : float
        What is drawn from the first, > 0. [m³/s]

    Returns
    -------
    tuple of Levelling
        In the order of the document. [s]
    """
    parts = {part.id: part for part in system.parts}
    found = []
    for joint in tank_joints(system):
        first, second = parts[joint.first], parts[joint.second]
        assert isinstance(first, FreshTank) and isinstance(second, FreshTank)
        pipe = _joint(system, parts, joint, first, second)
        shut = next((key for key in joint.valves if at.get(key) in ("shut", "apart")), "")
        times: tuple[float | None, ...] = (None, None, None, None)
        unmeasured = ""
        if isinstance(pipe, str):
            unmeasured = pipe
        elif not shut:
            over, full = pipe.fills_in_s(hose_m3_per_s)
            level = pipe.level_after_s(pipe.first.full_m3, 0.0)
            times = level, over, full, pipe.dry_after_s(drawn_m3_per_s)
        found.append(Levelling(
            joint, first.label, second.label, shut, unmeasured, times[0], hose_m3_per_s, times[1],
            times[2], drawn_m3_per_s, times[3],
        ))  # fmt: skip
    return tuple(found)


def _joint(
    system: ComputedSystem, parts: Mapping[str, AnyKind], joint: TankJoint, first: FreshTank,
    second: FreshTank,
) -> Joint | str:  # fmt: skip
    """Put the pipe between two tanks together; the name of what was not measured."""
    runs: dict[str, Pipe] = {run.id: run for run in system.pipes}
    losses = [_loss_k(parts[key]) for key in joint.valves]
    legs, rise = [], 0.0
    for (run_id, ahead), loss in zip(joint.runs, [*losses, 0.0], strict=True):
        run = runs[run_id]
        if run.length_m is None or run.bore_m is None:
            return run.label
        rise += run.rise_m if ahead else -run.rise_m
        legs.append(FallingLeg(
            run.bore_m, run.length_m, figure(run, "loss_k") + loss, ROUGHNESS_M[run.material]
        ))  # fmt: skip
    for tank in (first, second):
        if not tank.volume_m3:
            return tank.label
    return Joint(
        _basin(first, joint.first_port, 0.0), _basin(second, joint.second_port, rise), legs
    )


def _loss_k(part: AnyKind) -> float:
    if isinstance(part, ShutOff):
        return figure(part, "loss_k")
    return 10.0 if isinstance(part, Filter) else VALVE_K
