"""Generic classes of parts: figures of our own, each with its reason."""

from __future__ import annotations

import tomllib
from collections.abc import Mapping
from dataclasses import dataclass
from functools import cache
from importlib.resources import files
from typing import Any, Final

from isotherma.core.fields import Document, style_of
from isotherma.core.quantity import parse
from isotherma.core.system.kinds import KINDS, SIDES
from isotherma.core.system.pieces import PartBase

# what each class of price is about, in units of whatever money: judgement, of no maker's list
PRICES: Final[Mapping[int, tuple[float, float]]] = {
    1: (10.0, 40.0), 2: (40.0, 100.0), 3: (100.0, 250.0), 4: (250.0, 700.0), 5: (700.0, 2000.0),
}  # fmt: skip


@dataclass(frozen=True, slots=True)
class PartClass:
    """One row of the catalogue: a kind, a size, and the part it makes.

    `price_class` is 1 to 5, a span of money each: see `PRICES`.
    """

    id: str
    kind: str
    name: str
    reason: str
    part: PartBase
    price_class: int | None = None

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
    name, reason, price = row.pop("name"), row.pop("reason"), row.pop("price_class", None)
    values = typed(KINDS[kind], row)
    part = KINDS[kind].model_validate({"id": key, "kind": kind, "name": name, **values})
    return PartClass(key, kind, name, reason, part, price)
