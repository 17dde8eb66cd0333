"""Designs side by side as CSV: a row for each figure, a column for each design."""

from __future__ import annotations

import csv
import io
from collections.abc import Sequence

from isotherma.core.options.compared import Figure
from isotherma.core.quantity import UnitSystem, unit_of
from isotherma.files.tables import safe_text
from isotherma.wording import MADE_OF_WORDS, measure_words


def write_comparison(names: Sequence[str], figures: Sequence[Figure], units: UnitSystem) -> str:
    """Write figures of several designs.

    Parameters
    ----------
    names : sequence of str
        Of the designs, the base first. [-]
    figures : sequence of Figure
        Every figure. [SI]
    units : UnitSystem
        Units of the figures; a column names them. [-]

    Returns
    -------
    str
        CSV with a heading; empty where there is no such figure. [see the unit]
    """
    out = io.StringIO()
    rows = csv.writer(out, lineterminator="\n")
    rows.writerow(["figure", "unit", *map(safe_text, names)])
    for one in figures:
        unit = unit_of(one.style, units)
        title = measure_words(one.measure) if one.measure else MADE_OF_WORDS[one.made_of]
        rows.writerow([
            safe_text(title), unit.symbol,
            *("" if value is None else f"{unit.of_si(value):.6g}"
              for value in one.values),
        ])  # fmt: skip
    return out.getvalue()
