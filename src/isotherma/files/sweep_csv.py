"""A sweep as CSV: a row for each run, what was set, whether all is as asked, every result."""

from __future__ import annotations

import csv
import io
from collections.abc import Sequence

from isotherma.core.options.measures import Measure
from isotherma.core.options.parameters import Parameter
from isotherma.core.options.sweep import Swept
from isotherma.core.quantity import UnitSystem, unit_of, with_unit
from isotherma.files.tables import safe_text
from isotherma.wording import measure_words


def write_sweep(parameters: Sequence[Parameter], pieces: Sequence[Swept], units: UnitSystem) -> str:
    """Write every run of a sweep.

    Parameters
    ----------
    parameters : sequence of Parameter
        What was varied: the figure across, then the one up, if any. [-]
    pieces : sequence of Swept
        What has run, in order. [SI]
    units : UnitSystem
        Units of the figures; headings name them. [-]

    Returns
    -------
    str
        CSV with a heading; empty where there is no such result. [see the headings]
    """
    measures: Sequence[Measure] = next((one.measures for one in pieces if one.measures), ())
    out = io.StringIO()
    rows = csv.writer(out, lineterminator="\n")
    rows.writerow([
        *(_heading(row.label, row.style, units) for row in parameters), "all as asked",
        "cannot be run",
        *(_heading(measure_words(one), one.style, units) for one in measures),
    ])  # fmt: skip
    for piece in pieces:
        for cell in piece.cells:
            set_to = [cell.x] if cell.y is None else [cell.x, cell.y]
            values = cell.values or (None,) * len(measures)
            rows.writerow([
                *(_plain(value, row.style, units)
                  for value, row in zip(set_to, parameters, strict=True)),
                "" if cell.error else ("yes" if cell.met else "no"), cell.error,
                *(_plain(value, one.style, units)
                  for value, one in zip(values, measures, strict=True)),
            ])  # fmt: skip
    return out.getvalue()


def _heading(title: str, style: str, units: UnitSystem) -> str:
    symbol = "" if style == "clock" else unit_of(style, units).symbol
    return safe_text(f"{title} [{symbol}]" if symbol else title)


def _plain(value: float | None, style: str, units: UnitSystem) -> str:
    if value is None:
        return ""
    if style == "clock":
        return with_unit(value, style)
    unit = unit_of(style, units)
    return f"{unit.of_si(value):.6g}"
