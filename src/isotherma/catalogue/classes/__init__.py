"""Generic classes of parts: figures of our own, each with its reason."""

from __future__ import annotations

import tomllib
from collections.abc import Mapping
from dataclasses import dataclass
from functools import cache
from importlib.resources import files
from typing import Any

from isotherma.core.fields import Document, style_of
from isotherma.core.quantity import parse
from isotherma.core.system.kinds import KINDS, SIDES
from isotherma.core.system.pieces import PartBase


@dataclass(frozen=True, slots=True)
class PartClass:
    """One row of the catalogue: a kind, a size, and the part it makes."""

    id: str
    kind: str
    name: str
    reason: str
    part: PartBase

    @property
    def values(self) -> dict[str, object]:
        """Give the properties it sets."""
        values = self.part.model_dump(exclude_unset=True)
        return {key: value for key, value in values.items() if key not in {"id", "kind"}}


def typed(document: type[Document], values: Mapping[str, Any]) -> dict[str, Any]:
    """Read values written as a person would type them: "10 L", "65 °C".

    Parameters
    ----------
    document : type
        Whose properties they are. [-]
    values : mapping
        Text with a unit, or plain values. [-]

    Returns
    -------
    dict
        The same in SI; what has no unit is left as it is. [SI]

    Raises
    ------
    QuantityError
        If a text is no such quantity.
    """
    found: dict[str, Any] = {}
    for name, value in values.items():
        info = document.model_fields.get(name)
        style = style_of(info) if info is not None else None
        found[name] = parse(value, style) if style and isinstance(value, str) else value
    return found


@cache
def classes() -> Mapping[str, PartClass]:
    """Load every row, in the order of the sides.

    Returns
    -------
    mapping of str to PartClass
        By id, the kind and the size with a hyphen: "pump-small". [-]
    """
    found: dict[str, PartClass] = {}
    for side in SIDES:
        text = files(__package__).joinpath(f"{side}.toml").read_text(encoding="utf-8")
        for kind, rows in tomllib.loads(text).items():
            for size, row in rows.items():
                key = f"{kind}-{size}".replace("_", "-")
                found[key] = _class(key, kind, dict(row))
    return found


def _class(key: str, kind: str, row: dict[str, Any]) -> PartClass:
    name, reason = row.pop("name"), row.pop("reason")
    values = typed(KINDS[kind], row)
    part = KINDS[kind].model_validate({"id": key, "kind": kind, "name": name, **values})
    return PartClass(key, kind, name, reason, part)
