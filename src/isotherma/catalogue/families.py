"""Ways of heating with their sizes, each on a starting layout."""

from __future__ import annotations

import tomllib
from collections.abc import Mapping
from functools import cache
from importlib.resources import files
from typing import Any, Final

from isotherma.catalogue.classes import PartClass, classes, typed
from isotherma.catalogue.layouts import layouts
from isotherma.core.options.sizing import Axis, Family, Step
from isotherma.core.system import System

# what a class says of a part that the layout has said for its own reasons
_LAYOUTS_OWN: Final = frozenset({"name", "set_c", "rule", "control"})


@cache
def families() -> Mapping[str, Family]:
    """Load every family, in our own order.

    Returns
    -------
    mapping of str to Family
        By id. [-]
    """
    text = files("isotherma.catalogue").joinpath("families.toml").read_text(encoding="utf-8")
    return {key: _family(key, row) for key, row in tomllib.loads(text).items()}


def _family(key: str, row: Mapping[str, Any]) -> Family:
    system = layouts()[row["layout"]].system
    return Family(
        key, row["name"], row["layout"], tuple(_axis(axis, system) for axis in row["sizes"])
    )


def _axis(row: Mapping[str, Any], system: System) -> Axis:
    follows = row.get("follows", ())
    return Axis(
        row["title"],
        tuple(
            _step(row["part"], classes()[name], follows[at] if at < len(follows) else {}, system)
            for at, name in enumerate(row["classes"])
        ),
        row.get("monotone", True),
    )


def _step(part_id: str, found: PartClass, follows: Mapping[str, str], system: System) -> Step:
    pieces = {piece.id: piece for piece in (*system.parts, *system.runs)}
    values: dict[str, object] = {
        f"parts.{part_id}.{name}": value for name, value in found.values.items()
        if name not in _LAYOUTS_OWN
    }  # fmt: skip
    parts = {part.id for part in system.parts}
    for path, text in follows.items():
        piece_id, _, name = path.partition(".")
        group = "parts" if piece_id in parts else "runs"
        values[f"{group}.{piece_id}.{name}"] = typed(type(pieces[piece_id]), {name: text})[name]
    outer = found.part
    return Step(
        found.id, found.name, values, found.price_class, outer.outer_m3, outer.dry_mass_kg,
        float(found.values.get("rated_w", 0.0) or 0.0),  # type: ignore[arg-type]
    )  # fmt: skip
