"""Home: vehicles and their variants with their verdicts; start, import, delete."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import asdict, dataclass
from typing import Any, ClassVar

from isotherma.core.errors import CoreError
from isotherma.core.project import Project, Variant
from isotherma.core.quantity import UnitSystem
from isotherma.core.results.outcome import Outcome
from isotherma.services.computing import ResultService, stands_key
from isotherma.services.vehicles import Overview
from isotherma.web.frame.context import PageContext
from isotherma.web.shower.chart import Column
from isotherma.web.shower.glance import Glance, make_glance
from isotherma.wording import error_words, verdict


@dataclass(frozen=True, slots=True)
class VariantRow:
    """One variant in a vehicle's list; without a verdict until it has been computed."""

    id: str
    name: str
    verdict: str | None
    glance: Glance | None


@dataclass(frozen=True, slots=True)
class VehicleRow:
    """One vehicle."""

    id: int
    head_id: int
    name: str
    words: str
    example: bool
    variants: tuple[VariantRow, ...]


@dataclass(frozen=True, slots=True)
class HomePage:
    """All vehicles."""

    template: ClassVar[str] = "home.html"
    vehicles: tuple[VehicleRow, ...]
    total: int
    page_number: int
    pages: int
    newer: int | None
    older: int | None
    search: str
    notice: str
    error: str
    error_for: str
    typed_name: str
    undo_delete: int | None


def project_words(project: Project) -> str:
    """Say in a few words how a project is: "3 variants, 4 draws a day"."""
    variants, draws = len(project.variants), len(project.brief.draws)
    return (
        f"{variants} variant{'s' if variants != 1 else ''}, "
        f"{draws} draw{'s' if draws != 1 else ''} a day"
    )


def summary_of(result: Outcome | CoreError) -> dict[str, Any]:
    """Give what the list shows of a result, in both unit systems, as plain data to be kept."""
    return {
        units.value: {
            "verdict": row.verdict,
            "glance": None if row.glance is None else asdict(row.glance),
        }
        for units in UnitSystem
        for row in [_row(result, "", "", units)]
    }


def _summed(summary: Mapping[str, Any], variant: Variant, units: UnitSystem) -> VariantRow:
    """Put a row together from what was kept."""
    kept = summary[units.value]
    glance = kept["glance"]
    picture = None if glance is None else Glance(
        tuple(Column(**bar) for bar in glance["columns"]), tuple(glance["gaps"]), glance["words"]
    )  # fmt: skip
    return VariantRow(variant.id, variant.name, kept["verdict"], picture)


def variant_row(
    result: Outcome | CoreError | None, variant: Variant, units: UnitSystem
) -> VariantRow:
    """Put one variant's row together from what is known of it."""
    return _row(result, variant.id, variant.name, units)


def _row(result: Outcome | CoreError | None, key: str, name: str, units: UnitSystem) -> VariantRow:
    if isinstance(result, Outcome):
        return VariantRow(key, name, verdict(result, units), make_glance(result, units))
    words = None if result is None else error_words(result, units)
    return VariantRow(key, name, words, None)


@dataclass(frozen=True, slots=True)
class VariantPage:
    """One variant's row, once it has been computed."""

    template: ClassVar[str] = "variant.html"
    vehicle: str
    vehicle_id: int
    row: VariantRow


def variant_page(context: PageContext) -> VariantPage:
    """Compute a variant for the list of vehicles."""
    result = context.services.computing.result(context.project, context.variant)
    row = variant_row(result, context.variant, context.units)
    return VariantPage(context.project.name, context.opened.vehicle_id, row)


def home_page(
    overview: Overview,
    units: UnitSystem,
    computing: ResultService,
    *,
    notice: str = "",
    error: str = "",
    error_for: str = "",
    typed_name: str = "",
    undo_delete: int | None = None,
) -> HomePage:
    """Put the home page together: what is not known yet is not computed for it."""
    rows = []
    known = computing.summaries([
        (vehicle.project, variant)
        for vehicle in overview.listed for variant in vehicle.project.variants
    ])  # fmt: skip
    for vehicle in overview.listed:
        variants = []
        for variant in vehicle.project.variants:
            summary = known.get(stands_key(vehicle.project, variant))
            variants.append(
                _summed(summary, variant, units) if summary is not None
                else variant_row(computing.peek(vehicle.project, variant), variant, units)
            )  # fmt: skip
        rows.append(
            VehicleRow(
                vehicle.vehicle_id,
                vehicle.head_id,
                vehicle.project.name,
                project_words(vehicle.project),
                vehicle.project.example,
                tuple(variants),
            )
        )
    return HomePage(
        vehicles=tuple(rows),
        total=overview.total,
        page_number=overview.page,
        pages=overview.pages,
        newer=overview.page - 1 if overview.page > 1 else None,
        older=overview.page + 1 if overview.page < overview.pages else None,
        search=overview.search,
        notice=notice,
        error=error,
        error_for=error_for,
        typed_name=typed_name,
        undo_delete=undo_delete,
    )
