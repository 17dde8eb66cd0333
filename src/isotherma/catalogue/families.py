"""Ways of heating with their sizes, each on a starting layout."""

from __future__ import annotations

import tomllib
from collections.abc import Mapping, Sequence
from dataclasses import replace
from functools import cache
from importlib.resources import files
from typing import Any, Final

from isotherma.catalogue.classes import PartClass, classes, typed
from isotherma.catalogue.layouts import layouts
from isotherma.core.options.sizing import Axis, Family, Step
from isotherma.core.system import AnyKind, System

OWN: Final = "own"  # the size of what is there already
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
        row["part"],
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


def has_place(family: Family, own: AnyKind) -> bool:
    """Say whether a family's layout has a part of the kind of one that is there already."""
    return any(type(part) is type(own) for part in layouts()[family.layout].system.parts)


def leaves_unused(family: Family, owned: Sequence[AnyKind]) -> tuple[AnyKind, ...]:
    """Give the heaters and stores that are there already and have no place in a family.

    Parameters
    ----------
    family : Family
        A way of heating. [-]
    owned : sequence of part
        What is there already. [-]

    Returns
    -------
    tuple of part
        Empty where one of them has a place: it takes what its way of heating asks for. [-]
    """
    heats = [own for own in owned if own.side == "heat"]
    if any(has_place(family, own) for own in heats):
        return ()
    return tuple(heats)


def fixed_to(family: Family, owned: Sequence[AnyKind]) -> Family:
    """Give a family whose sizes are fixed where a part of it is there already.

    Parameters
    ----------
    family : Family
        A way of heating. [-]
    owned : sequence of part
        What is there already. [-]

    Returns
    -------
    Family
        An axis of an owned part has one size, which costs nothing: the part as it is, with what
        follows the smallest class of no less power. [-]
    """
    mine: dict[str, AnyKind] = {}
    for own in owned:
        parts = layouts()[family.layout].system.parts
        place = next((part.id for part in parts if type(part) is type(own)), None)
        if place is not None:
            mine[place] = own
    axes = tuple(
        replace(axis, steps=(_own_step(axis, mine[axis.part]),)) if axis.part in mine else axis
        for axis in family.axes
    )
    return replace(family, axes=axes)


def _own_step(axis: Axis, own: AnyKind) -> Step:
    watts = _watts(own)
    like = next((step for step in axis.steps if step.watts >= watts), axis.steps[-1])
    follows = {
        path: value for path, value in like.values.items()
        if not path.startswith(f"parts.{axis.part}.")
    }  # fmt: skip
    return Step(OWN, own.label, follows, 0, own.outer_m3, own.dry_mass_kg, watts)


def _watts(own: AnyKind) -> float:
    """Give what it takes of electricity, as far as it is known [W]; what is unknown needs none."""
    for name in ("power_w", "rated_w"):
        value = getattr(own, name, None)
        if value is not None:
            return float(value)
    return 0.0
