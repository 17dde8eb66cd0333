"""The order of a walk from source to head, and what the engine leaves out of a part."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Final

from isotherma.core.system import AnyKind, AnyRun, Pipe, System

# kinds of part of which something has no part in a simulated day yet
LEFT_OUT: Final = frozenset({
    "gas_bottle", "regulator", "gas_coupling", "circuit", "reuse_loop", "air_heater", "grey_tank",
    "level_switch", "heat_pad", "kettle",
})  # fmt: skip


def not_computed(system: System) -> dict[str, str]:
    """Find of every part whether the engine leaves something of it out yet.

    Parameters
    ----------
    system : System
        Any network. [-]

    Returns
    -------
    dict of str to str
        A code by part id: its kind, "gauges", or "when_switched_on" of a rule taken as always;
        parts that are computed whole are left out. [-]
    """
    found: dict[str, str] = {}
    for part in system.parts:
        if getattr(part, "rule", "") == "when switched on":
            found[part.id] = "when_switched_on"
        elif part.kind in LEFT_OUT:
            found[part.id] = part.kind
        elif part.side == "gauges":
            found[part.id] = "gauges"
    return found


def reading_order(system: System) -> tuple[AnyRun | AnyKind, ...]:
    """Put parts and runs in the order of a walk from source to head, leftovers last.

    Parameters
    ----------
    system : System
        Any network; it need not be complete. [-]

    Returns
    -------
    tuple of Run or Part
        Every part and run once; what sits in a part follows it. [-]
    """
    order: list[AnyRun | AnyKind] = []
    done: set[str] = set()
    runs = system.pipes
    sources = {"fresh_tank", "loose_container", "outside_source", "pressurised_inlet",
               "gravity_bag"}  # fmt: skip
    starts = [part for part in system.parts if part.kind in sources]

    def put(part: AnyKind) -> None:
        done.add(f"part:{part.id}")
        order.append(part)
        for inner in system.fitted(part.id):
            if f"part:{inner.id}" not in done and not list(_pipes_at(system, inner.id)):
                put(inner)

    def walk(part: AnyKind) -> None:
        if f"part:{part.id}" in done:
            return
        arriving = [run for run in runs if run.end.part == part.id]
        waits = any(f"run:{run.id}" not in done for run in arriving)
        if part.side == "temperature" and waits and arriving:
            return  # wait for the other branch, so that both stand before the mixer
        put(part)
        for port in part.ports:
            for run in runs:
                if (run.start.part, run.start.port) == (part.id, port.name):
                    done.add(f"run:{run.id}")
                    order.append(run)
                    walk(system.part(run.end.part))

    for part in starts:
        walk(part)
    for part in system.parts:
        if list(_pipes_at(system, part.id)):
            walk(part)
    for part in system.parts:
        if f"part:{part.id}" not in done and part.fitted_in is None:
            put(part)
    for part in system.parts:
        if f"part:{part.id}" not in done:
            put(part)
    order += [run for run in system.runs if f"run:{run.id}" not in done]
    return tuple(order)


def _pipes_at(system: System, part_id: str) -> Iterator[Pipe]:
    for run, _, _ in system.joined(part_id):
        if isinstance(run, Pipe):
            yield run
