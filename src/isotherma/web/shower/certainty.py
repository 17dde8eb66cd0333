"""How sure the figures are: the band of a day in words, where it decides and where it does not."""

from __future__ import annotations

from dataclasses import dataclass
from typing import ClassVar

from isotherma.core.errors import CoreError
from isotherma.core.quantity import UnitSystem, with_unit
from isotherma.core.results.ledger import TITLES
from isotherma.core.results.outcome import Outcome
from isotherma.core.results.uncertainty import Range, Sensitivity
from isotherma.services.comparisons import BAND_WORK
from isotherma.services.long_work import UnderWay
from isotherma.web.frame.context import PageContext
from isotherma.web.frame.under_way import UnderWayView, under_way_view
from isotherma.wording import error_words

_SAME = 1e-3  # a reach that moves by less than a thousandth is not worth a line


@dataclass(frozen=True, slots=True)
class UncertainInputRow:
    """One uncertain figure: where it is entered, what it may be, why."""

    key: str
    words: str
    low: str
    likely: str
    high: str
    because: str


@dataclass(frozen=True, slots=True)
class SensitivityRow:
    """One result with its band."""

    title: str
    low: str
    likely: str
    high: str
    by: str


@dataclass(frozen=True, slots=True)
class CertaintyPage:
    """The band of a variant's day."""

    template: ClassVar[str] = "certainty.html"
    vehicle: str
    vehicle_id: int
    variant_id: str
    sentences: tuple[str, ...]
    uncertain: tuple[UncertainInputRow, ...]
    sensitivities: tuple[SensitivityRow, ...]
    runs: int
    error: str
    tried: int = 0
    work: UnderWayView | None = None


def _sentences(outcome: Outcome, band: Range) -> tuple[str, ...]:
    """Say what one of the uncertain inputs alone would turn, and which."""
    found = []
    names = {draw.draw.id: draw for draw in outcome.draws}
    for key in band.decides:
        kind, _, item = key.partition(".")
        if kind == "draw" and item in names:
            draw = names[item]
            sensitivity = band.sensitivity(f"warm.{item}")
            by = (
                sensitivity.moved_by[0]
                if sensitivity and sensitivity.moved_by
                else "one of the figures below"
            )
            turn = "may not be as asked" if draw.met else "may be as asked after all"
            found.append(f"“{draw.draw.name}” {turn}; most by {by}.")
        elif kind == "budget":
            entry = next((row for row in outcome.ledger if row.budget == item), None)
            title = TITLES[entry.budget] if entry is not None else item
            turn = "may last after all" if entry and entry.ends_on_day else "may run out"
            sensitivity = band.sensitivity(f"used.{item}")
            by = (
                sensitivity.moved_by[0]
                if sensitivity and sensitivity.moved_by
                else "one of the figures below"
            )
            found.append(f"{title} {turn}; most by {by}.")
    return tuple(found)


def _sensitivity_row(sensitivity: Sensitivity, units: UnitSystem) -> SensitivityRow | None:
    if sensitivity.likely is None or not sensitivity.moved_by:
        return None
    low, high = sensitivity.low or 0.0, sensitivity.high
    if high is not None and high - low <= _SAME * max(abs(sensitivity.likely), 1e-12):
        return None

    def words(value: float) -> str:
        return with_unit(value, sensitivity.style, units, 3)

    return SensitivityRow(
        sensitivity.title, words(low), words(sensitivity.likely),
        "never" if high is None else words(high), sensitivity.moved_by[0],
    )  # fmt: skip


def certainty_page(context: PageContext) -> CertaintyPage:
    """Say what uncertain figures would change, or how far the runs with them are."""
    project, units, opened = context.project, context.units, context.opened
    variant, variant_id = context.variant, context.variant_id
    outcome = context.services.computing.result(project, variant)
    if isinstance(outcome, CoreError):
        return CertaintyPage(
            project.name, opened.vehicle_id, variant_id, (), (), (), 0,
            error_words(outcome, units),
        )  # fmt: skip
    band = context.services.comparing.band(project, variant, outcome, context.asker)
    if isinstance(band, UnderWay):
        return CertaintyPage(
            project.name, opened.vehicle_id, variant_id, (), (), (), 0, "",
            work=under_way_view(band, BAND_WORK, context.path_of("design.certainty")),
        )  # fmt: skip
    rows = (_sensitivity_row(sensitivity, units) for sensitivity in band.sensitivities)
    return CertaintyPage(
        vehicle=project.name,
        vehicle_id=opened.vehicle_id,
        variant_id=variant_id,
        sentences=_sentences(outcome, band),
        uncertain=tuple(
            UncertainInputRow(
                key=f"part-{item.part_id}" if item.part_id else "",
                words=f"{item.label}: {item.title.lower()}" if item.part_id else item.label,
                low=with_unit(item.low, item.style, units),
                likely=with_unit(item.likely, item.style, units),
                high=with_unit(item.high, item.style, units),
                because=item.because,
            )
            for item in band.inputs
        ),
        sensitivities=tuple(row for row in rows if row is not None),
        runs=band.runs,
        tried=band.tried,
        error="",
    )
