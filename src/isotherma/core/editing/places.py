"""Parts put somewhere: a step this way or that, or on, under, beside another part."""

from __future__ import annotations

from typing import Final, Literal

from isotherma.core.editing.values import set_values, variant_of
from isotherma.core.errors import ChangeRefused
from isotherma.core.project import Project
from isotherma.core.system import AnyKind, System

How = Literal["on", "under", "left of", "right of", "behind", "ahead of"]
# by how much a part is moved along, across, up, in half sizes of both: axis, direction
_WAYS: Final[dict[How, tuple[str, float]]] = {
    "on": ("up", 1.0), "under": ("up", -1.0), "left of": ("across", -1.0),
    "right of": ("across", 1.0), "behind": ("along", 1.0), "ahead of": ("along", -1.0),
}  # fmt: skip


def _part(project: Project, variant_id: str, part_id: str) -> tuple[System, AnyKind, str]:
    system = variant_of(project, variant_id).system
    path = f"variants.{variant_id}.system.parts.{part_id}"
    found = next((part for part in system.parts if part.id == part_id), None)
    if found is None:
        raise ChangeRefused(path=path, reason="gone")
    return system, found, path


def move_part(
    project: Project, variant_id: str, part_id: str, along_m: float, across_m: float, up_m: float
) -> Project:
    """Move a part by a step.

    Parameters
    ----------
    project : Project
        The document. [-]
    variant_id, part_id : str
        Which part. [-]
    along_m, across_m, up_m : float
        Rearward, to the right, up. [m]

    Returns
    -------
    Project
        A part without a place begins at the front, in the middle, on the floor. [-]

    Raises
    ------
    ChangeRefused
        If the part is gone.
    """
    _, part, path = _part(project, variant_id, part_id)
    return set_values(project, {
        f"{path}.x_m": _moved(part.x_m, along_m),
        f"{path}.y_m": _moved(part.y_m, across_m),
        f"{path}.z_m": _moved(part.z_m, up_m),
    })  # fmt: skip


def _moved(place: float | None, step_m: float) -> float:
    """Give a place after a step: of none, from where the living space begins."""
    return round(sum(one for one in (place, step_m) if one is not None), 4)


def put_part(
    project: Project, variant_id: str, part_id: str, how: How, other_id: str, gap_m: float
) -> Project:
    """Put a part on, under or beside another one.

    Parameters
    ----------
    project : Project
        The document. [-]
    variant_id, part_id, other_id : str
        Which part, and beside which; that one has a place. [-]
    how : str
        "on", "under", "left of", "right of", "behind" or "ahead of". [-]
    gap_m : float
        Between both. [m]

    Returns
    -------
    Project
        With the part's place, and in the same space. [-]

    Raises
    ------
    ChangeRefused
        If a part is gone, is put beside itself, or the other has no place or a size is missing.
    """
    _, part, path = _part(project, variant_id, part_id)
    _, other, beside = _part(project, variant_id, other_id)
    if part.id == other.id:
        raise ChangeRefused(path=path, reason="beside_itself")
    if other.x_m is None or other.y_m is None or other.z_m is None:
        raise ChangeRefused(path=beside, reason="has_no_place", part=other.label)
    axis, way = _WAYS[how]
    place = {"along": other.x_m, "across": other.y_m, "up": other.z_m}
    sizes = {
        "along": (part.depth_m, other.depth_m), "across": (part.width_m, other.width_m),
        "up": (part.tall_m, other.tall_m),
    }  # fmt: skip
    own, its = sizes[axis]
    needed = (its,) if how == "on" else (own,) if how == "under" else (own, its)
    if any(size is None for size in needed):
        lacking = part if own is None and how != "on" else other
        raise ChangeRefused(path=path, reason="has_no_size", part=lacking.label)
    apart = sum(size for size in needed if size is not None)
    # a place is the middle along and across, but the underside
    place[axis] += way * (gap_m + (apart if axis == "up" else 0.5 * apart))
    values: dict[str, object] = {
        f"{path}.x_m": round(place["along"], 4), f"{path}.y_m": round(place["across"], 4),
        f"{path}.z_m": round(place["up"], 4),
    }  # fmt: skip
    if other.space is not None:
        values[f"{path}.space"] = other.space
    return set_values(project, values)
