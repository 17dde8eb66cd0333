"""Designs side by side as JSON: ledgers, draws, what they are made of, what differs."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any, Final

from isotherma.core.editing.difference import Difference
from isotherma.core.options.compared import Figure
from isotherma.core.quantity import unit_of

COMPARE_FORMAT: Final = "isotherma-compare"


def figure_object(item: Figure) -> dict[str, Any]:
    """Give one figure of every design.

    Parameters
    ----------
    item : Figure
        The base's first. [SI]

    Returns
    -------
    dict
        Keys as in docs/file-format.md; null where there is none. [see the unit]
    """
    unit = unit_of(item.style)
    values = [None if value is None else unit.of_si(value) for value in item.values]
    base = values[0]
    return {
        "figure": item.id, "of": item.measure.name if item.measure is not None else "",
        "unit": unit.symbol, "values": values,
        "differences": [
            None if value is None or base is None else value - base for value in values
        ],
        "not_known_of": list(item.unknown),
    }  # fmt: skip


def difference_object(item: Difference) -> dict[str, Any]:
    """Give one value of the documents that differs.

    Parameters
    ----------
    item : Difference
        From the base to another design. [SI]

    Returns
    -------
    dict
        Keys as in docs/file-format.md. [SI]
    """
    return {"path": item.path, "where": item.where, "what": item.title, "base": item.before,
            "then": item.after}  # fmt: skip


def compare_object(
    variants: Sequence[dict[str, Any]], figures: Sequence[Figure], *, name: str
) -> dict[str, Any]:
    """Give designs side by side as an object for JSON.

    Parameters
    ----------
    variants : sequence of dict
        One for each design, the base first. [-]
    figures : sequence of Figure
        Of all of them. [SI]
    name : str
        Of the vehicle. [-]

    Returns
    -------
    dict
        Keys as in docs/file-format.md. [see the units]
    """
    return {
        "format": COMPARE_FORMAT, "vehicle": name, "variants": list(variants),
        "figures": [figure_object(item) for item in figures],
    }  # fmt: skip
