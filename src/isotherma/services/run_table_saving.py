"""Reading a pasted run table into a variant: all of it, or why none of it."""

from __future__ import annotations

from dataclasses import dataclass

from pydantic import ValidationError

from isotherma.core import editing
from isotherma.core.project import Project
from isotherma.core.quantity import UnitSystem
from isotherma.core.system import AnyRun, System
from isotherma.files.run_table import TableRefused, read_runs
from isotherma.services.vehicles import NewerElsewhere, Vehicles, find_variant
from isotherma.wording import validation_sentences


@dataclass(frozen=True, slots=True)
class TableSaving:
    """What became of a pasted table: nothing wrong, or sentences that say what is."""

    problems: tuple[str, ...] = ()
    conflict: bool = False


def save_runs(
    vehicles: Vehicles, vehicle_id: int, variant_id: str, base_id: int, text: str,
    units: UnitSystem,
) -> TableSaving:  # fmt: skip
    """Read a run table in as one change; `base_id` is the revision it was shown at, 0 if unknown.

    NotFound if there is no such vehicle or variant.
    """
    opened = vehicles.open(vehicle_id)
    shown = vehicles.at(vehicle_id, base_id) if base_id else opened.project

    def read_in(project: Project) -> Project:
        now = find_variant(project, variant_id).system
        wanted = read_runs(text, now, units)
        _refuse_stale(now, find_variant(shown, variant_id).system, wanted)
        return editing.with_runs(project, variant_id=variant_id, runs=wanted)

    try:
        vehicles.change(vehicle_id, read_in, "Run table read in")
    except NewerElsewhere as error:
        names = ", ".join(f"“{key}”" for key in list(error.conflicts)[:4])
        return TableSaving((
            f"Another window has meanwhile changed {names}. Nothing was read in; read the table in "
            "again to put yours in their place.",
        ), conflict=True)  # fmt: skip
    except TableRefused as error:
        return TableSaving(error.problems)
    except ValidationError as error:
        return TableSaving(tuple(validation_sentences(error)))
    return TableSaving()


def _refuse_stale(now: System, then: System, wanted: tuple[AnyRun, ...]) -> None:
    """Refuse a table that would put back what another window has changed since it was shown."""
    was, current = ({run.id: run for run in system.runs} for system in (then, now))
    stale = {
        run.id: current.get(run.id)
        for run in wanted
        if run != current.get(run.id) and current.get(run.id) != was.get(run.id)
    }
    if stale:
        raise NewerElsewhere(stale, 0)
