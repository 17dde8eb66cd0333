"""What is wrong with what feeds a system: a cold bottle, a small fuse, nothing that stops it."""

from __future__ import annotations

from math import inf

from isotherma.core.findings import Finding, Quantity, Value
from isotherma.core.results.course import Course
from isotherma.core.results.failure_modes import dry_fires
from isotherma.core.results.inventory import battery_course, bottle, bottle_course
from isotherma.core.setup import Setup
from isotherma.core.supply.bottle import ATMOSPHERE_PA, sustained_kg_per_s
from isotherma.core.supply.feeds import feeds_of
from isotherma.core.supply.ignition import cells_of
from isotherma.core.supply.ohms import FUSE_BEARS
from isotherma.core.supply.wires import element_ohm
from isotherma.core.system.configuration import positions
from isotherma.core.system.kinds import electric, heat
from isotherma.core.system.nominal import figure
from isotherma.core.timeline.record import Day

LOST_SHARE = 0.05  # of the volts; below it nobody notices


def _seconds(value: float) -> Quantity:
    return Quantity(value, "duration")


def _amps(value: float) -> Quantity:
    return Quantity(value, "current")


def _bottle(setup: Setup, day: Day, course: Course) -> list[Finding]:
    held = bottle_course(course)
    start = bottle(setup)
    if held is None or start is None:
        return []
    hold, _, load = held
    failed_s, how = hold.held_s, hold.ended
    today = next((item for item in day.ended if item.carried == "gas"), None)
    if today is not None:
        failed_s, how = today.clock_s, today.how
    found = [
        Finding("bottle_swapped", (), {
            "at_s": _seconds(swap_s), "takes_s": _seconds(setup.swap_s),
        })
        for swap_s in hold.swaps[:1]
    ]  # fmt: skip
    if failed_s is None:
        return found
    at: dict[str, Value] = {"at_s": _seconds(failed_s)}
    if how == "empty":
        return [*found, Finding("bottle_ends", (), {**at, "swaps": len(hold.swaps)})]
    least = setup.least_pa
    lasting = sustained_kg_per_s(start, air_c=start.celsius, limit_pa=least)
    return [
        *found,
        Finding("bottle_cold", (), {
            **at, "needs_pa": Quantity(least - ATMOSPHERE_PA, "pressure"),
            "load_kg_per_s": Quantity(load, "mass_flow"),
            "lasting_kg_per_s": Quantity(lasting, "mass_flow"),
        }),
    ]  # fmt: skip


def _battery(course: Course) -> list[Finding]:
    level = battery_course(course)
    if level is None or level.empty_s is None:
        return []
    return [Finding("battery_ends", (), {"at_s": _seconds(level.empty_s)})]


def _fuses(setup: Setup, day: Day) -> list[Finding]:
    """Find what is too much for a fuse, alone or together with what hangs on it."""
    found = []
    stand = positions(setup.system, setup.standing)  # as it was set, not as it runs
    for fuse_id, loads in setup.fuses.loads.items():
        bears = setup.fuses.bears[fuse_id]
        there = {
            key: taken for key, taken in loads.items()
            if stand.get(key) != "off" and key not in setup.wires.dead
        }  # fmt: skip
        alone = {key: taken for key, taken in there.items() if taken > bears * FUSE_BEARS}
        for key, taken in alone.items():
            found.append(Finding("fuse_alone", (fuse_id, key), {
                "takes_a": _amps(taken), "bears_a": _amps(bears),
            }))  # fmt: skip
        rest = {key: taken for key, taken in there.items() if key not in alone}
        if sum(rest.values()) <= bears * FUSE_BEARS:
            continue
        values: dict[str, Value] = {"takes_a": _amps(sum(rest.values())), "bears_a": _amps(bears)}
        apart = getattr(setup.computed.part(fuse_id), "not_together", False)
        if apart and fuse_id not in day.blown:
            found.append(Finding("fuse_waits", (fuse_id, *rest), values))
        else:
            code = "fuse_blows" if fuse_id in day.blown else "fuse_would_blow"
            found.append(Finding(code, (fuse_id, *rest), values))
    return found


def _pitch(setup: Setup) -> list[Finding]:
    system = setup.computed
    parts = {part.id: part for part in system.parts}
    pitch = [part for part in system.parts if isinstance(part, electric.HookUp) and part.limit_w]
    on_pitch = 0.0
    for part in system.parts:
        if not isinstance(part, heat.Element) or setup.at.get(part.id) == "off":
            continue
        sources = feeds_of(system, part.id).sources
        if any(isinstance(parts.get(key), electric.HookUp) for key in sources):
            on_pitch += figure(part, "power_w")
    return [
        Finding("pitch_trips", (item.id,), {
            "takes_w": Quantity(on_pitch, "power"),
            "gives_w": Quantity(figure(item, "limit_w"), "power"),
        })
        for item in pitch
        if on_pitch > figure(item, "limit_w") * 1.001
    ]  # fmt: skip


def _wires(setup: Setup) -> list[Finding]:
    """Find what wires keep of what an element takes, and which nobody measured."""
    found = []
    balance = setup.wires
    parts = setup.computed
    for key in balance.ids:
        part = parts.part(key)
        if not isinstance(part, heat.Element) or setup.at.get(key) == "off":
            continue
        row = balance.row(key)
        assert row is not None
        volts = float(balance.source_v[row])
        fed = balance.settled({key: element_ohm(part, volts)})[key]
        if volts - fed.volts > LOST_SHARE * volts:
            found.append(Finding("wires_keep", (key,), {
                "keeps_v": Quantity(volts - fed.volts, "voltage"),
                "of_v": Quantity(volts, "voltage"),
                "reaches_w": Quantity(fed.volts * fed.amps, "power"),
                "lost_w": Quantity(fed.lost_w, "power"),
            }))  # fmt: skip
    unmeasured = tuple(run.id for run in parts.runs if run.id in balance.unmeasured)
    if unmeasured and balance.ids:
        found.append(Finding("wires_unmeasured", unmeasured))
    return found


def _sparks(setup: Setup) -> list[Finding]:
    """Find cells nobody measured, which are taken to spark."""
    found = []
    for part in setup.system.parts:
        if not isinstance(part, heat.ThroughFlowGas):
            continue
        cells = cells_of(setup.system, part)
        if cells is not None and cells.volts_v is None:
            found.append(Finding("cells_unmeasured", (cells.id, part.id)))
    return found


def _trips(setup: Setup, day: Day) -> list[Finding]:
    """Find which cut-outs wait for a hand."""
    found = []
    for key in day.tripped:
        limit = next(
            part
            for part in setup.parts.values()
            if isinstance(part, heat.HighLimit) and part.guards == key
        )
        opens = Quantity(figure(limit, "opens_c"), "temperature")
        found.append(Finding("cut_out_waits", (limit.id, key), {"opens_c": opens}))
    return found


def _rules(setup: Setup) -> list[Finding]:
    found = []
    panels = any(isinstance(item, electric.Panel) for item in setup.parts.values())
    for part in setup.parts.values():
        if not isinstance(part, heat.Element | heat.Burner):
            continue
        if part.rule == "while driving" and not setup.hours.drives:
            found.append(Finding("never_drives", (part.id,)))
        if part.rule == "surplus sun" and not panels:
            found.append(Finding("no_panel", (part.id,)))
    return found


def _dry(setup: Setup) -> list[Finding]:
    bare = [fire for fire in dry_fires(setup.network, setup.brief.inside_c)
            if not fire.stopped_by]  # fmt: skip
    if not bare:
        return []
    worst = min(bare, key=lambda fire: fire.to_limit_s)
    if worst.to_limit_s == inf:
        return []
    parts = (worst.vessel_id, *(fire.part_id for fire in bare))
    return [Finding("dry_fire", parts, {
        "passes_c": Quantity(100.0, "temperature"), "after_s": _seconds(worst.to_limit_s),
    })]  # fmt: skip


def supply_findings(setup: Setup, day: Day, course: Course) -> tuple[Finding, ...]:
    """Find what is wrong with what feeds a system.

    Parameters
    ----------
    setup : Setup
        The documents and what follows from them. [-]
    day : Day
        A day of it. [-]
    course : Course
        All days of the trip. [-]

    Returns
    -------
    tuple of Finding
        The gravest first; none when nothing is wrong. [SI]
    """
    return (
        *_fuses(setup, day), *_pitch(setup), *_trips(setup, day), *_rules(setup), *_wires(setup),
        *_sparks(setup), *_bottle(setup, day, course), *_battery(course), *_dry(setup),
    )  # fmt: skip
