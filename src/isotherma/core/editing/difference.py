"""What differs between two states of a project, value by value."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from typing import Any

from isotherma.core.fields import Document, style_of
from isotherma.core.project import Project


@dataclass(frozen=True, slots=True)
class Difference:
    """One value that differs: where, what it is called, before and after; None is not there.

    `style` is the quantity style of numbers, empty for other values.
    """

    path: str
    where: str
    title: str
    style: str
    before: object
    after: object


def differences(before: Project, after: Project) -> tuple[Difference, ...]:
    """List what differs from one state of a project to another.

    Parameters
    ----------
    before, after : Project
        Two states; neither is changed. [-]

    Returns
    -------
    tuple of Difference
        In the document's order; pieces that came or went are one difference each. [-]
    """
    return tuple(_walk(before, after, "", ""))


def _name(item: Document) -> str:
    found = getattr(item, "label", None) or getattr(item, "name", None) or getattr(item, "id", "")
    return str(found)


def _walk(before: Document, after: Document, path: str, where: str) -> Iterator[Difference]:
    for name, info in type(after).model_fields.items():
        one, two = getattr(before, name, None), getattr(after, name)
        if one == two:
            continue
        here = f"{path}.{name}" if path else name
        title = info.title or name.replace("_", " ")
        if isinstance(one, Document) and isinstance(two, Document) and type(one) is type(two):
            yield from _walk(one, two, here, where)
        elif _keyed(one) and _keyed(two):
            yield from _lists(one, two, here, where)
        else:
            style = style_of(info) or ""
            yield Difference(here, where, title, style, _plain(one), _plain(two))


def _keyed(value: object) -> bool:
    return isinstance(value, tuple) and all(hasattr(item, "id") for item in value)


def _lists(before: Any, after: Any, path: str, where: str) -> Iterator[Difference]:  # noqa: ANN401
    """Match pieces of two lists by their ids."""
    then = {item.id: item for item in before}
    now = {item.id: item for item in after}
    for key, item in then.items():
        if key not in now:
            yield Difference(f"{path}.{key}", where, _name(item), "", "there", None)
    for key, item in now.items():
        there = f"{where}, {_name(item)}" if where else _name(item)
        if key not in then:
            yield Difference(f"{path}.{key}", where, _name(item), "", None, "there")
        elif type(then[key]) is not type(item):
            yield Difference(f"{path}.{key}", where, _name(item), "", then[key].kind, item.kind)
        else:
            yield from _walk(then[key], item, f"{path}.{key}", there)


def _plain(value: object) -> object:
    """Give a value that can be written: documents as what they name."""
    if isinstance(value, Document):
        parts = [str(item) for item in value.model_dump().values() if item not in (None, ())]
        return ", ".join(parts)
    if isinstance(value, tuple):
        return ", ".join(str(_plain(item)) for item in value) or None
    return value
