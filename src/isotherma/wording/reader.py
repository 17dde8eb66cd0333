"""Who reads: in which units, and what parts and runs are called."""

from __future__ import annotations

import re
from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from typing import Final

from isotherma.core.findings import Finding, Quantity
from isotherma.core.quantity import UnitSystem, duration_words, parse, with_unit
from isotherma.core.system import System

# figures as our own sentences write them: "8 mm", "20 to 45 °C"; a size of a fitting is none
_NUMBER: Final = r"[−-]?\d+(?:\.\d+)?"
_FIGURE: Final = re.compile(
    rf"(?<![\w.,/])({_NUMBER})(?:( to | or | and |, )({_NUMBER}))?[ \u00a0]"
    r"(°C|K|mL|L|mm|cm|m|kg|mbar|bar)(?![\w/²³])"
)
_STYLE: Final[Mapping[str, str]] = {
    "°C": "temperature", "K": "difference", "mL": "millilitres", "L": "volume", "mm": "bore",
    "cm": "bore", "m": "length", "kg": "mass", "mbar": "gas_pressure", "bar": "pressure",
}  # fmt: skip
NBSP: Final = "\u00a0"
_SMALLER: Final[Mapping[str, str]] = {"volume": "millilitres", "length": "bore"}


@dataclass(frozen=True)
class Reader:
    """A person's units, and names by id; an id without a name stands for itself."""

    labels: Mapping[str, str]
    units: UnitSystem

    @classmethod
    def of(cls, system: System, units: UnitSystem) -> Reader:
        """Read a system."""
        pieces = (*system.parts, *system.runs)
        return cls({piece.id: piece.label for piece in pieces}, units)

    def name(self, piece_id: str) -> str:
        """Give the name of a part or run."""
        return self.labels.get(piece_id, piece_id)

    def names(self, piece_ids: Iterable[str]) -> str:
        """Give several names, joined by commas."""
        return ", ".join(self.name(key) for key in piece_ids)

    def quantity(self, value: float, style: str, digits: int | None = None) -> str:
        """Write a value in the reader's units."""
        if digits is None:
            return with_unit(value, style, self.units)
        return with_unit(value, style, self.units, digits)

    def value(self, finding: Finding, key: str, digits: int | None = None) -> str:
        """Write one of a finding's values; a duration in minutes and seconds."""
        value = finding.values[key]
        if not isinstance(value, Quantity):
            return ", ".join(value) if isinstance(value, tuple) else str(value)
        if value.style == "duration":
            return duration_words(value.value)
        return self.quantity(value.value, value.style, digits)


def number(finding: Finding, key: str) -> float:
    """Give a value of a finding as a number in SI.

    Parameters
    ----------
    finding : Finding
        That has it. [-]
    key : str
        Its name there. [-]

    Returns
    -------
    float
        The bare number. [SI]
    """
    value = finding.values[key]
    assert isinstance(value, Quantity | int)
    return value.value if isinstance(value, Quantity) else float(value)


def few(words: Iterable[str], most: int = 3) -> str:
    """Join words by commas, three at most, and say how many more there are.

    Parameters
    ----------
    words : iterable of str
        Any. [-]
    most : int
        How many are shown. [-]

    Returns
    -------
    str
        "a, b, c and 2 more". [-]
    """
    every = list(words)
    shown = ", ".join(every[:most])
    return f"{shown} and {len(every) - most} more" if len(every) > most else shown


def in_units(text: str, units: UnitSystem) -> str:
    """Write the figures of a fixed sentence, which are metric, in a reader's units.

    Parameters
    ----------
    text : str
        A sentence of ours; sizes that are names, as of a 15 mm tube, must not be in it. [-]
    units : UnitSystem
        Metric leaves it as it is. [-]

    Returns
    -------
    str
        The same, "8 mm" as "0.31 in", both figures of "20 to 45 °C"; two digits but for
        temperatures. [-]
    """
    if units is UnitSystem.METRIC:
        return text

    def figure(number: str, unit: str) -> str:
        plain, style = number.replace("−", "-"), _STYLE[unit]
        if abs(float(plain)) < 1.0:
            style = _SMALLER.get(style, style)
        value = parse(f"{plain} {unit}", style)
        return with_unit(value, style, units, 3 if unit == "°C" else 2)

    def said(found: re.Match[str]) -> str:
        first, between, second, unit = found.groups()
        if second is None:
            return figure(first, unit)
        return f"{figure(first, unit).partition(NBSP)[0]}{between}{figure(second, unit)}"

    return _FIGURE.sub(said, text)
