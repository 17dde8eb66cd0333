"""Results as JSON and back: classes and enumerations by name, nothing that could be executed."""

from __future__ import annotations

import json
from collections.abc import Mapping, Sequence
from dataclasses import fields, is_dataclass
from enum import Enum
from typing import Any


class PlainRefused(Exception):
    """Bytes that are no result of ours."""


def write_plain(value: object) -> bytes:
    """Write a result made of dataclasses, enumerations, collections and plain values.

    Parameters
    ----------
    value : object
        What was computed. [-]

    Returns
    -------
    bytes
        JSON. [-]
    """
    return json.dumps(_plain(value), separators=(",", ":"), allow_nan=True).encode()


def read_plain(data: bytes, classes: Sequence[type]) -> Any:  # noqa: ANN401 - what was written
    """Read a result back.

    Parameters
    ----------
    data : bytes
        As `write_plain` made them. [-]
    classes : sequence of type
        Dataclasses and enumerations it may be made of. [-]

    Returns
    -------
    object
        The same. [-]

    Raises
    ------
    PlainRefused
        If they are something else.
    """
    known = {kind.__name__: kind for kind in classes}
    try:
        return _made(json.loads(data), known)
    except (ValueError, TypeError, KeyError) as error:
        raise PlainRefused from error


def _plain(value: object) -> Any:  # noqa: ANN401 - any JSON
    if isinstance(value, Enum):
        return {"enum": [type(value).__name__, value.value]}
    if is_dataclass(value) and not isinstance(value, type):
        values = {item.name: _plain(getattr(value, item.name)) for item in fields(value)}
        return {"class": type(value).__name__, "values": values}
    if isinstance(value, Mapping):
        return {"map": [[_plain(key), _plain(item)] for key, item in value.items()]}
    if isinstance(value, tuple):
        return {"tuple": [_plain(item) for item in value]}
    if isinstance(value, list):
        return [_plain(item) for item in value]
    return value


def _made(value: Any, known: Mapping[str, type]) -> Any:  # noqa: ANN401 - any JSON
    if isinstance(value, list):
        return [_made(item, known) for item in value]
    if not isinstance(value, dict):
        return value
    if "class" in value:
        values = {key: _made(item, known) for key, item in value["values"].items()}
        return known[value["class"]](**values)
    ((kind, held),) = value.items()
    if kind == "enum":
        return known[held[0]](held[1])
    if kind == "map":
        return {_made(key, known): _made(item, known) for key, item in held}
    if kind == "tuple":
        return tuple(_made(item, known) for item in held)
    raise KeyError(kind)
