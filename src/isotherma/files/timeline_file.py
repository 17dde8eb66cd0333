"""Days that were run as bytes and back: arrays and JSON, nothing that could be executed.

The arrays lie in a zip of their own format; everything else is JSON that names its classes from a
list. What does not fit that list, or comes from other code, is refused and computed anew.
"""

from __future__ import annotations

import io
import json
import zipfile
import zlib
from collections.abc import Mapping
from dataclasses import fields, is_dataclass
from typing import Any, Final

import numpy as np
from numpy.typing import NDArray
from pydantic import ValidationError

from isotherma.core.brief import Draw
from isotherma.core.flows.report import ProfileStep
from isotherma.core.timeline.record import (
    AlikeDays,
    Balance,
    Day,
    DrawRecord,
    Ended,
    Filled,
    Heater,
    Snapshot,
    Source,
    Stretch,
    Vessel,
)

CLASSES: Final[Mapping[str, type]] = {
    kind.__name__: kind
    for kind in (AlikeDays, Balance, Day, DrawRecord, Ended, Filled, Heater, ProfileStep, Snapshot,
                 Source, Stretch, Vessel)
}  # fmt: skip
_REST: Final = "rest"


class TimelineRefused(Exception):
    """Bytes that are no timeline of ours."""


def write_timeline(days: tuple[AlikeDays, ...]) -> bytes:
    """Write a timeline.

    Parameters
    ----------
    days : tuple of AlikeDays
        That were run. [-]

    Returns
    -------
    bytes
        A zip of arrays, one of them JSON. [-]
    """
    arrays: dict[str, NDArray[Any]] = {}
    rest = json.dumps(_plain(days, arrays), separators=(",", ":")).encode()
    arrays[_REST] = np.frombuffer(rest, np.uint8)
    out = io.BytesIO()
    np.savez_compressed(out, **arrays)  # type: ignore[arg-type]  # names are ours
    return out.getvalue()


def read_timeline(data: bytes) -> tuple[AlikeDays, ...]:
    """Read a timeline back.

    Parameters
    ----------
    data : bytes
        As `write_timeline` made them. [-]

    Returns
    -------
    tuple of AlikeDays
        The same to the bit. [-]

    Raises
    ------
    TimelineRefused
        If they are something else.
    """
    try:
        with np.load(io.BytesIO(data), allow_pickle=False) as arrays:
            rest = json.loads(arrays[_REST].tobytes())
            found = _made(rest, arrays)
    except (ValueError, TypeError, KeyError, OSError, EOFError, zipfile.BadZipFile, zlib.error,
            ValidationError) as error:  # fmt: skip
        raise TimelineRefused from error
    if not isinstance(found, tuple) or not found:
        raise TimelineRefused
    if not all(isinstance(row, AlikeDays) and isinstance(row.day, Day) for row in found):
        raise TimelineRefused
    return found


def _plain(value: Any, arrays: dict[str, NDArray[Any]]) -> Any:  # noqa: ANN401 - what a day holds
    """Take a value apart: arrays go aside, classes and collections say what they are."""
    if isinstance(value, np.ndarray):
        name = f"a{len(arrays)}"
        arrays[name] = value
        return {"array": name}
    if isinstance(value, Draw):
        return {"draw": value.model_dump(mode="json")}
    if is_dataclass(value) and not isinstance(value, type):
        values = {item.name: _plain(getattr(value, item.name), arrays) for item in fields(value)}
        return {"class": type(value).__name__, "values": values}
    if isinstance(value, Mapping):
        return {"map": [[_plain(key, arrays), _plain(item, arrays)] for key, item in value.items()]}
    if isinstance(value, frozenset):
        return {"set": sorted(value)}
    if isinstance(value, tuple):
        return {"tuple": [_plain(item, arrays) for item in value]}
    if isinstance(value, np.generic):
        return value.item()
    return value


def _made(value: Any, arrays: Mapping[str, Any]) -> Any:  # noqa: ANN401 - what a day holds
    """Put a value together again; KeyError for a class that is none of a day's."""
    if not isinstance(value, dict):
        return value
    (kind, held), *more = value.items()
    match kind:
        case "array":
            return arrays[held]
        case "draw":
            return Draw.model_validate(held)
        case "class":
            values = dict(more)["values"]
            return CLASSES[held](**{key: _made(item, arrays) for key, item in values.items()})
        case "map":
            return {_made(key, arrays): _made(item, arrays) for key, item in held}
        case "set":
            return frozenset(held)
        case "tuple":
            return tuple(_made(item, arrays) for item in held)
    raise KeyError(kind)
