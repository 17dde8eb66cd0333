"""Remedies that are one change of the document: what gets which value."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Final, Literal

from isotherma.core.checks.found import Found, Severity
from isotherma.core.findings import Quantity
from isotherma.core.system import System
from isotherma.core.system.states import Position

Where = Literal["first", "second", "last", "runs", "hole"]


@dataclass(frozen=True, slots=True)
class Remedy:
    """Which property of what a finding is about gets the figure its remedy names.

    `least` says that only what is less gets it.
    """

    where: Where
    names: tuple[str, ...]
    value: str = "x"
    least: bool = False


# by finding, or finding and variant
REMEDIES: Final[dict[str, Remedy]] = {
    "gas.regulator-small": Remedy("first", ("rated_kg_per_s",)),
    "gas.pressure-match": Remedy("second", ("set_pa",), "l"),
    "gas.pipe-drop": Remedy("runs", ("outside_m",), least=True),
    "gas.clips": Remedy("runs", ("clips",)),
    "tubes.clips": Remedy("runs", ("clips",)),
    "pressure.relief-setting": Remedy("first", ("set_pa",)),
    "dry.cutout-setting": Remedy("first", ("opens_c",)),
    "dry.interlock-level": Remedy("last", ("trips_at_share", "at_share")),
    "electric.fuse-cable": Remedy("first", ("fuse_a",)),
    "electric.drop": Remedy("runs", ("area_m2",), least=True),
    "diesel.trip": Remedy("runs", ("area_m2",), least=True),
    "diesel.pickup": Remedy("first", ("kept_m3",)),
    "scald.starved": Remedy("last", ("set_c",)),
    "pressure.boiling": Remedy("first", ("set_c", "opens_c")),
    "holes.size": Remedy("hole", ("bore_m",)),
    "tubes.bend": Remedy("runs", ("bend_m",), "l"),
}
OFF: Final = {"dry.state": "off", "states.drain-open": "shut"}


def changes_of(system: System, found: Found) -> tuple[tuple[str, object, object], ...]:
    """Give the changes that mend a finding, where they are of one kind.

    Parameters
    ----------
    system : System
        What it was found in. [-]
    found : Found
        Of a check. [-]

    Returns
    -------
    tuple of str, object and object
        Path under the system, value before, value after; none where a hand must do more. [SI]
    """
    if found.severity is Severity.UNKNOWN:
        return ()
    if found.id in OFF:
        return _turned(system, found)
    remedy = REMEDIES.get(found.id)
    if remedy is None or found.variant in ("none", "bare", "before", "weak", "near", "label"):
        return ()
    value = found.values.get(remedy.value)
    after: object = value.value if isinstance(value, Quantity) else value
    if after is None or after == 0.0:
        return ()
    group, keys = _about(remedy.where, found)
    pieces = {piece.id: piece for piece in getattr(system, group)}
    made: list[tuple[str, object, object]] = []
    for key in keys:
        piece = pieces.get(key)
        name = next((one for one in remedy.names if hasattr(piece, one)), None)
        if piece is None or name is None:
            continue
        before = getattr(piece, name)
        if remedy.least and (before is None or not isinstance(after, float) or before >= after):
            continue
        if before != after:
            made.append((f"{group}.{key}.{name}", before, after))
    return tuple(made)


def _about(where: Where, found: Found) -> tuple[str, tuple[str, ...]]:
    match where:
        case "runs":
            return "runs", found.runs
        case "hole":
            return "holes", found.needs[:1]
        case "second":
            return "parts", found.parts[1:2]
        case "last":
            return "parts", found.parts[-1:]
        case "first":
            return "parts", found.parts[:1]


def _turned(system: System, found: Found) -> tuple[tuple[str, object, object], ...]:
    """Turn what is on off in the state it was found in, or in all."""
    key = found.parts[0] if found.id == "dry.state" else found.parts[-1]
    part = next((one for one in system.parts if one.id == key), None)
    at = OFF[found.id]
    if part is None or at not in part.positions:
        return ()
    made: list[tuple[str, object, object]] = []
    for state in system.states:
        if found.state not in (None, state.id):
            continue
        kept = tuple(one for one in state.positions if one.part != key)
        before = [one.model_dump() for one in state.positions]
        after = [one.model_dump() for one in (*kept, Position(part=key, at=at))]
        made.append((f"states.{state.id}.positions", before, after))
    return tuple(made)
