"""What the checks found, as an object for other programs."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from typing import Any, Final

from isotherma.core.checks.found import Found
from isotherma.core.findings import Quantity
from isotherma.core.project import Acknowledged
from isotherma.core.quantity import unit_of

CHECK_FORMAT: Final = "isotherma-check"


def _in_unit(quantity: Quantity | None) -> float | None:
    return None if quantity is None else unit_of(quantity.style).of_si(quantity.value)


def _unit(found: Found) -> str:
    quantity = found.figure if found.figure is not None else found.limit
    return "" if quantity is None else unit_of(quantity.style).symbol


def check_object(
    found: tuple[Found, ...], acknowledged: Mapping[int, Acknowledged], rule_set: str,
    sentence: Callable[[Found], str], remedy: Callable[[Found], str],
) -> dict[str, Any]:  # fmt: skip
    """Give findings as an object.

    Parameters
    ----------
    found : tuple of Found
        Worst first. [-]
    acknowledged : mapping of int to Acknowledged
        Who answers for which of them. [-]
    rule_set : str
        Its name. [-]
    sentence, remedy : callable
        Their words. [-]

    Returns
    -------
    dict
        Keys as in docs/file-format.md; figures in the sentence's unit. [see `unit`]
    """
    return {
        "format": CHECK_FORMAT, "rule_set": rule_set,
        "findings": [
            {
                "id": one.id, "severity": one.severity.value, "parts": list(one.parts),
                "runs": list(one.runs), "state": one.state, "figure": _in_unit(one.figure),
                "limit": _in_unit(one.limit), "unit": _unit(one), "sentence": sentence(one),
                "remedy": remedy(one), "who": one.who, "source": one.source,
                "needs": list(one.needs),
                "acknowledged": None if place not in acknowledged else
                acknowledged[place].model_dump(mode="json"),
            }
            for place, one in enumerate(found)
        ],
    }  # fmt: skip
