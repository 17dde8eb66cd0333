"""Sweeps in words: what a measure measures, what came of a cell, what does it."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Final

from isotherma.core.options.measures import Measure, Of
from isotherma.core.quantity import UnitSystem, duration_words, with_unit
from isotherma.core.results.ledger import TITLES

_MEASURES: Final[Mapping[Of, str]] = {
    Of.CARRIES: "Days until something is not as asked",
    Of.DRAWS_MET: "Draws as asked on the trip",
    Of.LONGEST_WAIT: "Longest wait for warm",
    Of.WARM: "{name}: warm for",
    Of.WAIT: "{name}: wait for warm",
    Of.MEAN: "{name}: mean at the outlet",
    Of.PEAK: "{name}: hottest",
    Of.LITRES: "{name}: fresh water",
    Of.COLD_LITRES: "{name}: cold first",
    Of.AGAIN: "{name}: hot again after",
    Of.USED: "{title}: taken",
    Of.LEFT: "{title}: left over",
}


def measure_words(measure: Measure) -> str:
    """Name what a measure measures.

    Parameters
    ----------
    measure : Measure
        Of a trip, a draw or a budget. [-]

    Returns
    -------
    str
        A title without a full stop. [-]
    """
    title = next((words for budget, words in TITLES.items() if budget == measure.about), "")
    return _MEASURES[measure.what].format(name=measure.name or measure.about, title=title)


def measured_words(measure: Measure, value: float | None, units: UnitSystem) -> str:
    """Write the figure of a measure.

    Parameters
    ----------
    measure : Measure
        What it is of. [-]
    value : float or None
        None where there is none: it never gets warm, or no limit is set. [SI]
    units : UnitSystem
        Units to speak in. [-]

    Returns
    -------
    str
        With its unit. [-]
    """
    if value is None:
        return "never" if measure.what in (Of.WAIT, Of.LONGEST_WAIT, Of.AGAIN) else "none"
    if measure.style in ("minutes", "seconds"):
        return duration_words(value)
    return with_unit(value, measure.style, units, 3)
