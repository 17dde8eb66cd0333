"""Classes of one's own as a file: parts without a place, to be used in every vehicle."""

from __future__ import annotations

import json
from collections.abc import Sequence
from typing import Any, Final

from pydantic import ValidationError

from isotherma.core.project import FORMAT_VERSION
from isotherma.core.system import part_refs
from isotherma.core.system.kinds import KINDS
from isotherma.core.system.pieces import PartBase
from isotherma.files.project_file import FileRefused, json_content, version_of
from isotherma.wording import validation_sentences

FORMAT: Final = "isotherma-classes"
EXTENSION: Final = ".isotherma-classes.json"
MOST: Final = 500
# where a part is, whose it is and when it is fitted is nothing of its class
OF_ONE_VEHICLE: Final = frozenset({
    "id", "space", "fitted_in", "phase", "owned", "behind", "reach", "x_m", "y_m", "z_m", "held",
})  # fmt: skip


def class_values(part: PartBase) -> dict[str, Any]:
    """Give what of a part holds for every other of its class.

    Parameters
    ----------
    part : PartBase
        As somebody entered it, with ends, price and size. [-]

    Returns
    -------
    dict
        Kind and properties, without its place. [SI]
    """
    left = OF_ONE_VEHICLE | set(part_refs(type(part)))
    values = part.model_dump(mode="json", exclude_defaults=True)
    kept = {key: value for key, value in values.items() if key not in left}
    return {"kind": type(part).model_fields["kind"].default, "name": part.label, **kept}


def part_of_class(values: dict[str, Any], part_id: str = "own") -> PartBase:
    """Make a part of a class of one's own.

    Parameters
    ----------
    values : dict
        As `class_values` gives them. [SI]
    part_id : str
        Id of the part. [-]

    Returns
    -------
    PartBase
        Validated. [-]

    Raises
    ------
    KeyError
        If there is no such kind.
    pydantic.ValidationError
        If a value does not fit.
    """
    kind = KINDS[str(values.get("kind"))]
    return kind.model_validate_json(json.dumps({**values, "id": part_id}), strict=True)


def write_classes(classes: Sequence[dict[str, Any]]) -> bytes:
    """Write classes as a file.

    Parameters
    ----------
    classes : sequence of dict
        Values of each. [SI]

    Returns
    -------
    bytes
        UTF-8 JSON. [-]
    """
    data = {"format": FORMAT, "format_version": FORMAT_VERSION, "classes": list(classes)}
    return (json.dumps(data, ensure_ascii=False, indent=2) + "\n").encode()


def read_classes(data: bytes) -> tuple[PartBase, ...]:
    """Read classes from a file.

    Parameters
    ----------
    data : bytes
        The file's content. [-]

    Returns
    -------
    tuple of PartBase
        In the file's order. [-]

    Raises
    ------
    FileRefused
        If it is no such file, newer, or one of its classes does not fit: none is kept then.
    """
    content = json_content(data)
    if not isinstance(content, dict) or content.get("format") != FORMAT:
        raise FileRefused(
            "other_format", f"This is no file of classes: its “format” is not “{FORMAT}”."
        )
    version_of(content)
    rows = content.get("classes")
    if not isinstance(rows, list) or len(rows) > MOST:
        raise FileRefused("invalid", f"The file has no list of “classes”, of at most {MOST}.")
    return tuple(_read(row, place) for place, row in enumerate(rows, start=1))


def _read(row: object, place: int) -> PartBase:
    where = f"Class {place} of the file"
    if not isinstance(row, dict):
        raise FileRefused("invalid", f"{where} is no object with a kind and its properties.")
    strange = sorted(set(row) & OF_ONE_VEHICLE)
    if strange:
        raise FileRefused("invalid", f"{where} says “{strange[0]}”, which is of one vehicle only.")
    try:
        return part_of_class(row)
    except KeyError:
        raise FileRefused("invalid", f"{where}: there is no kind “{row.get('kind')}”.") from None
    except ValidationError as error:
        said = " ".join(validation_sentences(error)[:3])
        raise FileRefused("invalid", f"{where} was not read. {said}") from None
