"""Figures of a design that readings may say something of, and what is known of them before."""

from __future__ import annotations

from dataclasses import dataclass
from math import exp, log, sqrt
from typing import Final, Literal

from isotherma.core.brief import Brief
from isotherma.core.fields import Document, style_of
from isotherma.core.system import System
from isotherma.core.system.nominal import understand
from isotherma.core.system.pieces import PartBase

TENTH: Final = 1.2815515655446004  # of a normal: 10 % lie beyond so many standard deviations
BAND_WIDTH: Final = 2.56  # of ln(high/low) where low and high are 10 and 90 %
# one standard deviation of a given figure, by where it is from
GIVEN: Final = {"measured": 0.02, "maker's sheet": 0.05, "assumed": 0.15}
UNSAID: Final = 0.15
COLD_K: Final = 3.0  # of a tank nobody measured
FLAT_LOW, FLAT_HIGH = 1e-3, 1e3  # shares of a start value where nothing bounds it


@dataclass(frozen=True, slots=True)
class Parameter:
    """A figure that may be learned: where it is, and what is known before.

    `mean` and `sigma` are of its logarithm, or of itself if `linear`; `flat` says that nobody
    knows anything but bounds. `low`, `likely` and `high` are SI, None where unknown.
    """

    path: str
    title: str
    style: str
    low: float | None
    likely: float | None
    high: float | None
    origin: Literal["given", "derived", "assumed", "unknown"]
    mean: float
    sigma: float
    least: float
    most: float
    linear: bool = False
    flat: bool = False

    def place(self, value: float) -> float:
        """Give where a value lies on the parameter's scale."""
        return value if self.linear else log(max(value, self.least))

    def value(self, place: float) -> float:
        """Give the value at a place of the scale, within its bounds."""
        found = place if self.linear else exp(min(700.0, place))
        return min(self.most, max(self.least, found))


def parameter(system: System, part: PartBase, name: str, start: float | None) -> Parameter | None:
    """Describe a figure of a part as it is known before anything was measured.

    Parameters
    ----------
    system : System
        As entered. [-]
    part : PartBase
        One of its parts. [-]
    name : str
        A property that holds a number. [-]
    start : float or None
        What readings alone make of it, where nobody knows it. [SI]

    Returns
    -------
    Parameter or None
        None where nobody knows it and nothing gives a start. [SI]
    """
    info = type(part).model_fields[name]
    style, title = style_of(info) or "number", info.title or name
    found = next((one for one in understand(part, system.around(part)) if one.name == name), None)
    least, most = _bounds(type(part), name)
    path = f"parts.{part.id}.{name}"
    given = getattr(part, name)
    if given is not None and given > 0.0:
        sigma = GIVEN.get(part.evidence or "", UNSAID)
        spread = exp(TENTH * sigma)
        return Parameter(path, title, style, given / spread, given, given * spread, "given",
                         log(given), sigma, least, most)  # fmt: skip
    if found is not None and found.likely:
        low, high = found.low or found.likely, found.high or found.likely
        sigma = log(high / low) / BAND_WIDTH if high > low > 0.0 else UNSAID
        origin: Literal["derived", "assumed"] = (
            "derived" if found.origin == "derived" else "assumed"
        )
        return Parameter(path, title, style, low, found.likely, high, origin,
                         log(found.likely), max(sigma, 1e-3), least, most)  # fmt: skip
    if start is None or start <= 0.0:
        return None
    low, high = max(least, FLAT_LOW * start), min(most, FLAT_HIGH * start)
    return Parameter(path, title, style, None, None, None, "unknown", log(start),
                     log(high / low) / sqrt(12.0), least, most, flat=True)  # fmt: skip


def cold_water(brief: Brief, likely_c: float) -> Parameter:
    """Describe the temperature of the fresh water: as the brief says, else by where it stands.

    Parameters
    ----------
    brief : Brief
        What somebody answered. [-]
    likely_c : float
        By its space and month. [°C]

    Returns
    -------
    Parameter
        Linear. [°C]
    """
    given = brief.cold_water_c
    likely = likely_c if given is None else given
    sigma = COLD_K if given is None else 1.0
    return Parameter(
        "brief.cold_water_c", "Fresh water", "temperature", likely - TENTH * sigma, likely,
        likely + TENTH * sigma, "assumed" if given is None else "given", likely, sigma, 0.5, 45.0,
        linear=True,
    )  # fmt: skip


def _bounds(kind: type[Document], name: str) -> tuple[float, float]:
    """Give the bounds the document sets to a figure; wide ones where it sets none."""
    least, most = 1e-12, 1e12
    stack: list[object] = [kind.model_fields[name], kind.model_fields[name].annotation]
    while stack:
        one = stack.pop()
        for item in getattr(one, "metadata", ()) or ():
            stack.append(item)
        for item in getattr(one, "__metadata__", ()) or ():
            stack.append(item)
        stack.extend(getattr(one, "__args__", ()) or ())
        for key, low in (("gt", True), ("ge", True), ("lt", False), ("le", False)):
            limit = getattr(one, key, None)
            if isinstance(limit, int | float) and not isinstance(limit, bool):
                if low:
                    least = max(least, float(limit))
                else:
                    most = min(most, float(limit))
    return least, most
