"""A fault as a change of the document: the table's words, read for one part."""

from __future__ import annotations

import re
from collections.abc import Callable, Iterator
from dataclasses import dataclass
from functools import partial
from typing import Final

from isotherma.core.system import AnyKind, AnyRun
from isotherma.core.system.nominal import ComputedSystem

# the table's short names of properties
NAMES: Final = {
    "open_flow": "open_flow_m3_per_s", "shut_pressure": "shut_pressure_pa",
    "cut_out": "cut_out_pa", "cut_in": "cut_in_pa", "flow_factor": "flow_factor_si",
    "power": "power_w", "loss": "loss_w_per_k", "conductance": "conductance_w_per_k",
    "heat": "heat_w", "pressure_loss": "pressure_loss_pa_at_5", "pressure": "pressure_pa",
    "lag": "lag_s", "volts": "volts_v",
}  # fmt: skip
# what the document cannot say is said of a link of the network, or of the pump's supply
SHUT, ENDS, LEGS, STUCK, BOTH_WAYS, VOLTS_SHARE = (
    "shut", "ends", "legs", "stuck_share", "both_ways", "volts_share",
)  # fmt: skip
LEAK: Final = "leak_l_per_h"
SUCTION_LEAST_PA: Final = -0.9e5  # before a pump; more nothing sucks
POINTS: Final = (0.0, 0.5, 1.0)  # of a range that are played
LEAK_RANGE: Final = (0.1, 20.0)

_NUMBER = r"[-+]?\d+(?:\.\d+)?"
_ITEM = re.compile(
    rf"^(?P<name>[a-z_0-9]*)(?P<op>[*=+-]|\+-)(?P<low>{_NUMBER})(?:\.\.(?P<high>{_NUMBER}))?$"
)
_WORD = re.compile(r"^(?P<name>[a-z_0-9]+)=(?P<word>[a-z_ ]+)$")
_STUCK = re.compile(rf"^hot share (?P<low>{_NUMBER})\.\.(?P<high>{_NUMBER})$")


@dataclass(frozen=True, slots=True)
class Edit:
    """One thing that is other than the document says: where, and what it is instead."""

    path: str
    value: float | str | None

    @property
    def piece(self) -> str:
        """Give the id of the part or run."""
        return self.path.split(".")[1]

    @property
    def name(self) -> str:
        """Give the property."""
        return self.path.split(".")[2]


Play = tuple[Edit, ...]


@dataclass(frozen=True, slots=True)
class Severities:
    """One way a fault shows: plays from slight to bad, all alike likely; one, or a range of three.

    What lies between the plays of a range is interpolated.
    """

    plays: tuple[Play, ...]


def severities(
    known: ComputedSystem, piece: AnyKind | AnyRun, play: str, at: str
) -> tuple[Severities, ...]:
    """Read what the table says a fault does to a part or run.

    Parameters
    ----------
    known : ComputedSystem
        The system with likely figures. [SI]
    piece : part or run
        On which the fault sits. [-]
    play : str
        The table's words. [-]
    at : str
        The position in which the piece stands, empty if it has none. [-]

    Returns
    -------
    tuple of Severities
        Empty where the engine cannot play it: the table's own figures stand then. [-]
    """
    special = _PHRASES.get(play)
    if special is not None:
        return tuple(Severities((edits,)) for edits in special(known, piece, at))
    stuck = _STUCK.match(play)
    if stuck is not None:
        low, high = float(stuck["low"]), float(stuck["high"])
        return (_ranged(lambda t: (_of(piece, STUCK, low + (high - low) * t),)),)
    if play.startswith("leak"):
        low, high = LEAK_RANGE
        # leaks differ by powers of ten
        return (_ranged(lambda t: (_of(piece, LEAK, low * (high / low) ** t),)),)
    return _by_items(piece, play)


def _by_items(piece: AnyKind | AnyRun, play: str) -> tuple[Severities, ...]:
    """Read figures: times, plus, minus, set to; a later item without a name is another way."""
    ways: list[list[tuple[str, str, float, float]]] = [[]]
    words: list[Edit] = []
    name = ""
    for item in play.split(", "):
        found, word = _ITEM.match(item), _WORD.match(item)
        if found is not None:
            low = float(found["low"])
            high = low if found["high"] is None else float(found["high"])
            if found["op"] in ("+", "-"):  # the sign is said of both ends
                high = abs(high)
            row = (found["name"] or name, found["op"], low, high)
            if not found["name"]:
                ways.append([row])
            elif found["op"] == "+-":
                ways[-1].append((found["name"], "+", low, high))
                ways.append([(found["name"], "-", low, high)])
            else:
                ways[-1].append(row)
            name = row[0]
        elif word is not None:
            edit = _set_to(piece, word["name"], word["word"])
            words += [] if edit is None else [edit]
    made = []
    for way in ways:
        if any(_base(piece, row) is None for row in way) or not (way or words):
            continue
        if all(low == high for _, _, low, high in way):
            made.append(Severities(((*words, *_edits(piece, way, 0.0)),)))
        else:
            made.append(_ranged(partial(_whole, piece, tuple(words), way)))
    return tuple(made)


def _whole(
    piece: AnyKind | AnyRun, words: Play, way: list[tuple[str, str, float, float]], t: float
) -> Play:
    return (*words, *_edits(piece, way, t))


def _ranged(edits: Callable[[float], Play]) -> Severities:
    return Severities(tuple(edits(t) for t in POINTS))


def _of(piece: AnyKind | AnyRun, name: str, value: float | str | None) -> Edit:
    group = "parts" if hasattr(piece, "fitted_in") else "runs"
    return Edit(f"{group}.{piece.id}.{name}", value)


def _property(piece: AnyKind | AnyRun, name: str) -> str:
    """Give the property a short name of the table means; a pump's volts are its supply's share."""
    if name == "volts" and piece.kind == "pump":
        return VOLTS_SHARE
    return NAMES.get(name, name)


def _base(piece: AnyKind | AnyRun, row: tuple[str, str, float, float]) -> float | None:
    """Give the figure an item starts from; 0 for what is set outright, None if unknown."""
    name, op, _, _ = row
    field = _property(piece, name)
    if field == VOLTS_SHARE:
        return 1.0
    if field not in type(piece).model_fields:
        return None
    if op == "=":
        return 0.0
    value = getattr(piece, field)
    return float(value) if isinstance(value, int | float) else None


def _edits(piece: AnyKind | AnyRun, way: list[tuple[str, str, float, float]], t: float) -> Play:
    made = []
    for row in way:
        name, op, low, high = row
        start, by = _base(piece, row), low + (high - low) * t
        assert start is not None
        value = {"*": start * by, "=": by, "+": start + by, "-": start - by}[op]
        made.append(_of(piece, _property(piece, name), value))
    return tuple(made)


def _set_to(piece: AnyKind | AnyRun, name: str, word: str) -> Edit | None:
    """Read `name=word`: a position, a choice, none of it, or another of its own figures."""
    if name == "at":
        return _of(piece, "at", word)
    field = _property(piece, name)
    if field not in type(piece).model_fields:
        return None
    other = NAMES.get(word)
    if other is not None:
        return _of(piece, field, getattr(piece, other))
    return _of(piece, field, word)


def _positions(known: ComputedSystem, piece: AnyKind | AnyRun, at: str) -> Iterator[Play]:
    for other in getattr(piece, "positions", ()):
        if other != at:
            yield (_of(piece, "at", other),)


def _closed(known: ComputedSystem, piece: AnyKind | AnyRun, at: str) -> Iterator[Play]:
    yield (_of(piece, SHUT, "shut"),)


def _off(known: ComputedSystem, piece: AnyKind | AnyRun, at: str) -> Iterator[Play]:
    yield (_of(piece, "at", "off"),)


def _guarded(known: ComputedSystem, piece: AnyKind | AnyRun, at: str) -> Iterator[Play]:
    guarded = getattr(piece, "guards", None) or getattr(piece, "acts_on", None)
    if guarded is not None:
        yield (Edit(f"parts.{guarded}.at", "off"),)


def _turned(known: ComputedSystem, piece: AnyKind | AnyRun, at: str) -> Iterator[Play]:
    yield (_of(piece, ENDS, "swapped"),)


def _crossed(known: ComputedSystem, piece: AnyKind | AnyRun, at: str) -> Iterator[Play]:
    yield (_of(piece, LEGS, "swapped"),)


def _open_both(known: ComputedSystem, piece: AnyKind | AnyRun, at: str) -> Iterator[Play]:
    yield (_of(piece, BOTH_WAYS, "open"),)


def _shut_or_open(known: ComputedSystem, piece: AnyKind | AnyRun, at: str) -> Iterator[Play]:
    yield (_of(piece, SHUT, "shut"),)
    yield (_of(piece, BOTH_WAYS, "open"),)


def _nothing(known: ComputedSystem, piece: AnyKind | AnyRun, at: str) -> Iterator[Play]:
    """Say that the document and the network have nothing to change for it."""
    return iter(())


_Phrase = Callable[[ComputedSystem, AnyKind | AnyRun, str], Iterator[Play]]
_PHRASES: Final[dict[str, _Phrase]] = {
    "": _nothing,
    "each other position": _positions,
    "shut": _closed, "circuit shut at it": _closed, "run shut until purged": _closed,
    "off": _off, "flow=0": _off, "on_flow=none": _off, "at=off": _off,
    "no hour of its rule": _off, "power=0": _off,
    "guarded part off": _guarded, "gas shut": _nothing,
    "ends swapped": _turned, "legs swapped": _crossed, "opening=0, both ways": _open_both,
    "loop shut or always open": _shut_or_open,
    "cooling": _nothing, "amps of all loads": _nothing, "error_k": _nothing,
    "fuel ended": _nothing, "flow below on_flow": _off, "minutes at this load": _nothing,
    "pipe drop": _nothing, "pitch, roll": _nothing, "level full": _nothing,
    "rated_v or watts of another type": _nothing, "set_pa against gas_pa": _nothing,
    "taper of the tank": _nothing, "waste shut": _nothing, "leak back to suction": _nothing,
}  # fmt: skip


def is_read(play: str) -> bool:
    """Say whether the words of a play are understood, all of them.

    Parameters
    ----------
    play : str
        The table's. [-]

    Returns
    -------
    bool
        False for words that nothing reads. [-]
    """
    if play in _PHRASES or play.startswith("leak") or _STUCK.match(play):
        return True
    limits = "suction capped at -0.9 bar"  # holds of every play, see `SUCTION_LEAST_PA`
    return all(_ITEM.match(item) or _WORD.match(item) or item == limits
               for item in play.split(", "))  # fmt: skip
