"""The list of a design as a table for a spreadsheet: CSV or TSV."""

from __future__ import annotations

import csv
import io
from typing import Final, Literal

from isotherma.core.joints.lines import Line
from isotherma.core.joints.pricing import Shopping
from isotherma.core.quantity import UnitSystem, unit_of
from isotherma.files.tables import safe_text

HEAD: Final = (
    "item", "size", "end a", "end b", "to buy", "needed", "unit", "packs", "for", "approval",
    "phase", "spare", "price", "currency", "kg", "there", "ordered", "not known",
)  # fmt: skip


def parts_table(
    made: Shopping, to: Literal["csv", "tsv"], units: UnitSystem = UnitSystem.METRIC
) -> str:
    """Write a list, a row for each line.

    Parameters
    ----------
    made : Shopping
        The list, priced. [-]
    to : str
        "csv", or "tsv" for tabs. [-]
    units : UnitSystem
        Units of lengths; a column names them. [-]

    Returns
    -------
    str
        With a heading; what nobody knows is an empty cell. [see the unit]
    """
    out = io.StringIO()
    rows = csv.writer(out, delimiter="\t" if to == "tsv" else ",", lineterminator="\n")
    rows.writerow(HEAD)
    for line in made.listed.lines:
        rows.writerow(_row(line, made.currency, units))
    return out.getvalue()


def _row(line: Line, currency: str, units: UnitSystem) -> list[str]:
    unit = unit_of("length", units) if line.unit == "m" else None

    def amount(value: float | None) -> str:
        if value is None:
            return ""
        return f"{value if unit is None else unit.of_si(value):.6g}"

    priced = "" if line.price is None else f"{line.price:.2f}"
    return [
        line.item, safe_text(line.size), line.end_a or "", line.end_b or "",
        amount(line.quantity), amount(line.net), line.unit if unit is None else unit.symbol,
        "" if line.packs is None else str(line.packs), " ".join(line.about), line.approval or "",
        line.phase or "", "yes" if line.spare else "", priced,
        safe_text(currency) if priced else "",
        "" if line.mass_kg is None else f"{line.mass_kg:.4g}", amount(line.have),
        amount(line.ordered), " ".join(line.unknown),
    ]  # fmt: skip
