"""Figures of a piece as it is understood: entered, derived, assumed, measured."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import dataclass

from isotherma.core.project import Measured
from isotherma.core.quantity import UnitSystem, with_unit
from isotherma.core.system.pieces import Figure


@dataclass(frozen=True, slots=True)
class FigureRow:
    """One figure as computed, beside what it comes from."""

    title: str
    low: str
    likely: str
    high: str
    because: str
    origin: str
    instead: str


def _figure_row(figure: Figure, units: UnitSystem) -> FigureRow:
    def words(value: float | None) -> str:
        return "–" if value is None else with_unit(value, figure.style, units)

    instead = ""
    if figure.instead is not None:
        instead = f"without it: {words(figure.instead.likely)}, {figure.instead.because}"
    certain = figure.low == figure.high
    return FigureRow(
        title=figure.title,
        low="" if certain else words(figure.low),
        likely=words(figure.likely) if figure.likely is not None else "unknown",
        high="" if certain else words(figure.high),
        because=figure.because,
        origin=figure.origin,
        instead=instead,
    )


def _measured_row(figure: Figure, measured: Measured, units: UnitSystem) -> FigureRow:
    """Show a figure that was learned: it wins over what is entered or derived."""

    def words(value: float | None) -> str:
        return "" if value is None else with_unit(value, figure.style, units)

    before = "nothing" if figure.likely is None else with_unit(figure.likely, figure.style, units)
    when = f", {measured.on}" if measured.on else ""
    return FigureRow(
        figure.title, words(measured.low), words(measured.value), words(measured.high),
        f"measured{when}; it wins over {before}; given up on the Log page", "measured", "",
    )  # fmt: skip


def measured_of(measured: Iterable[Measured], piece: str) -> dict[str, Measured]:
    """Give what was measured of a piece, by the name of the figure."""
    return {one.path.rsplit(".", 1)[1]: one for one in measured
            if one.path.startswith(f"{piece}.")}  # fmt: skip


def figure_rows(
    figures: Iterable[Figure], measured: Mapping[str, Measured], units: UnitSystem
) -> tuple[FigureRow, ...]:
    """Show every figure, a measured one in the place of what it wins over."""
    return tuple(
        _measured_row(figure, measured[figure.name], units)
        if figure.name in measured
        else _figure_row(figure, units)
        for figure in figures
    )
