"""States: how it may stand, and every half-state on the way."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Final

from isotherma.core.checks.found import BUILDER, Found, Severity, check
from isotherma.core.checks.look import Look
from isotherma.core.findings import Quantity
from isotherma.core.system.kinds import heat, water
from isotherma.core.system.moves import ordered_moves

S, F, W = Severity.STOP, Severity.FIX, Severity.WATCH
PUMPS: Final = (water.Pump, water.Submersible)
MANY: Final = 10


@check("states.order")
def _order(look: Look) -> Iterator[Found]:
    """An order of moves with no dangerous half-state."""
    if look.state is None or not look.system.states:
        return
    for other in look.system.states:
        if other.id == look.state.id:
            continue
        found = ordered_moves(look.system, other, look.state, every_order=True)
        if found.clean is None:
            yield look.unknown("states.order", BUILDER, (f"states.{look.state.id}.order",),
                               subject=f"The order of moves from {other.name}")  # fmt: skip
            continue
        wrong = found.passes
        severity = W
        if not found.clean:
            wrong = next((move.wrong[0] for move in found.moves if move.wrong), None)
            severity = S if found.worst_kept else F
        if wrong is None:
            continue
        yield look.found(
            "states.order", severity, BUILDER, *wrong.parts, a=other.name, s=look.state.name,
            b=f"half_{wrong.code}", moves=" → ".join(move.label for move in found.moves),
            figure=Quantity(float(len(found.moves)), "number"),
        )  # fmt: skip


@check("states.shared-half")
def _shared(look: Look) -> Iterator[Found]:
    """Two lines that share one socket, both plugged in."""
    groups: dict[str, list[str]] = {}
    for part in look.system.parts:
        if isinstance(part, water.Coupling) and look.at.get(part.id) == "joined":
            groups.setdefault(part.shares_half_with or part.id, []).append(part.id)
    for keys in groups.values():
        if len(keys) > 1:
            yield look.found("states.shared-half", F, BUILDER, *keys[:2], q=look.label(keys[1]))


@check("states.drain-open")
def _drain_open(look: Look) -> Iterator[Found]:
    """A pump on, with an end open."""
    for pump in look.system.parts:
        if not isinstance(pump, PUMPS) or look.at.get(pump.id) != "on" or pump.id in look.dry:
            continue
        if not look.powered(pump.id):
            continue
        for key, _ in sorted(look.reached(pump.id, "outlet")):
            part = look.parts[key]
            drain = isinstance(part, water.Drain) and look.at.get(key) == "open"
            end = (isinstance(part, water.Coupling) and look.at.get(key) == "apart"
                   and part.sealing == "neither")  # fmt: skip
            if drain or end:
                yield look.found("states.drain-open", F, BUILDER, pump.id, key, q=part.label)
                break


def _returns_elsewhere(look: Look) -> Iterator[Found]:
    """Find a circuit that leaves by one source of heat and comes back to another."""
    kinds = (heat.LiquidHeater, heat.EngineCoolant)
    stops = frozenset({"liquid_heater", "engine_coolant"})
    for source in look.system.parts:
        if not isinstance(source, kinds):
            continue
        if not any(end.port == "outlet" for _, end, _ in look.system.joined(source.id)):
            continue
        nodes = look.reached(source.id, "outlet", stops)
        others = [key for key, port in sorted(nodes) if port == "inlet" and key != source.id
                  and isinstance(look.parts[key], kinds)]  # fmt: skip
        if others and (source.id, "inlet") not in nodes:
            turned = sorted({key for key, _ in nodes
                             if isinstance(look.parts[key], water.Selector)})  # fmt: skip
            first, second = (turned * 2)[:2] if turned else (source.id, others[0])
            yield look.found("states.crossed", F, BUILDER, *dict.fromkeys((first, second)),
                             q=look.label(second))  # fmt: skip
            return


@check("states.crossed")
def _crossed(look: Look) -> Iterator[Found]:
    """Two waters open to one pump; a circuit between two sources."""
    yield from _returns_elsewhere(look)
    for pump in look.system.parts:
        if not isinstance(pump, water.Pump) or look.at.get(pump.id) == "off":
            continue
        wells = [
            key for key in {key for key, _ in look.reached(pump.id, "inlet")}
            if isinstance(look.parts[key], water.FreshTank | water.OutsideSource
                          | water.LooseContainer)
        ]  # fmt: skip
        kinds = {type(look.parts[key]) for key in wells}
        if len(wells) > 1 and len(kinds) > 1:
            first, second = sorted(wells)[:2]
            yield look.found("states.crossed", F, BUILDER, first, second, q=look.label(second))
