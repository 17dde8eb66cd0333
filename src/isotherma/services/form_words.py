"""Values of a form in words, and the label of their change."""

from __future__ import annotations

from isotherma.core.fields import Document
from isotherma.core.quantity import UnitSystem, with_unit
from isotherma.services.forms import properties


def value_words(document: Document, name: str, value: object, units: UnitSystem) -> str:
    """Write a value of a property for reading."""
    item = next(item for item in properties(type(document)) if item.name == name)
    if value is None:
        return "nothing"
    if item.style and isinstance(value, float | int):
        return with_unit(float(value), item.style, units)
    if isinstance(value, bool):
        return "yes" if value else "no"
    if isinstance(value, float | int):
        return f"{value:g}"
    if isinstance(value, tuple):
        return ", ".join(str(part) for part in value) or "nothing"
    return f"“{value}”"


def values_label(document: Document, values: dict[str, object], units: UnitSystem) -> str:
    """Name a change for undo: what it was made to."""
    titles = {item.name: item.title for item in properties(type(document))}
    if len(values) == 1:
        name, value = next(iter(values.items()))
        return f"{titles[name]} → {value_words(document, name, value, units)}"
    return ", ".join(titles[name] for name in values) or "Nothing"
