"""Sweeps: a design run with one or two of its figures varied, kept by what was asked."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from hashlib import sha256
from typing import Any, Final

from pydantic import ValidationError

from isotherma.core.cache import Cache, Caches
from isotherma.core.editing import set_values
from isotherma.core.errors import CoreError
from isotherma.core.options.measures import Measure, Measured, Of, measure
from isotherma.core.options.sweep import Cell, Sweep, Swept, Vary
from isotherma.core.project import Project, Variant
from isotherma.services.comparisons import found_or_asked
from isotherma.services.computing import stands_key
from isotherma.services.long_work import Asker, LongWork, UnderWay
from isotherma.services.runs import compute
from isotherma.services.turns import Cancelled, Stopped, never

CANNOT_BE: Final = "cannot_be"


def _run(project: Project, variant_id: str, values: dict[str, object]) -> Measured | str:
    """Run a design with figures set; why it cannot be, as a code."""
    try:
        changed = set_values(project, values)
    except CoreError as error:
        return error.code
    except ValidationError:
        return CANNOT_BE
    found = compute(changed, changed.variant(variant_id))
    return found.code if isinstance(found, CoreError) else measure(found)


def swept(project: Project, variant_id: str, sweep: Sweep, stopped: Stopped = never) -> Swept:
    """Run a sweep row by row, or a piece of it.

    Parameters
    ----------
    project : Project
        The document; it stays as it is. [-]
    variant_id : str
        Of the project. [-]
    sweep : Sweep
        What is varied. [SI]
    stopped : callable
        Asked before every run; Cancelled is raised once it says so. [-]

    Returns
    -------
    Swept
        Each cell is the same as a run of the document with its values; an answer also where it
        cannot be run. [SI]
    """
    measures: tuple[Measure, ...] = ()
    cells = []
    ups: Sequence[float | None] = (None,) if sweep.up is None else sweep.up.values
    for y in ups:
        for x in sweep.across.values:
            if stopped():
                raise Cancelled
            values: dict[str, object] = {sweep.across.path: x}
            if sweep.up is not None:
                values[sweep.up.path] = y
            found = _run(project, variant_id, values)
            if isinstance(found, str):
                cells.append(Cell(x, y, False, (), found))
                continue
            measures = measures or found.measures
            cells.append(Cell(x, y, found.met, tuple(found.value(one.id) for one in measures)))
    return Swept(measures, tuple(cells))


SWEEP_WORK: Final = "sweep"
WRITTEN: Final = (Swept, Cell, Measure, Of)
CELL_BYTES: Final = 2_000


class SweepService:
    """Runs sweeps piece by piece and remembers what came out.

    Parameters
    ----------
    caches : Caches
        Where it is kept. [-]
    work : LongWork or None
        Who computes; None: this process, at once. [-]
    """

    def __init__(self, caches: Caches, work: LongWork | None = None) -> None:
        self._work = work
        self._cells: Cache[Swept] = Cache(
            caches, "sweeps", lambda piece: CELL_BYTES * len(piece.cells)
        )

    def pieces(
        self, project: Project, variant: Variant, sweep: Sweep, asker: Asker
    ) -> tuple[Swept | UnderWay, ...]:
        """Give every piece of a sweep that has run, or how far it is."""
        return tuple(self._piece(project, variant, piece, asker) for piece in sweep.pieces)

    def _piece(
        self, project: Project, variant: Variant, piece: Sweep, asker: Asker
    ) -> Swept | UnderWay:
        key = (*stands_key(project, variant), variant.id, digest_of(piece))
        return found_or_asked(
            self._work, self._cells, SWEEP_WORK, key, (project, variant, sweep_payload(piece)),
            asker, lambda: swept(project, variant.id, piece), WRITTEN,
        )  # fmt: skip


def digest_of(asked: object) -> str:
    """Name what is asked in few letters: the same for the same question."""
    return sha256(repr(asked).encode()).hexdigest()[:32]


def sweep_payload(sweep: Sweep) -> dict[str, Any]:
    """Write a sweep for whoever does the work."""
    rows = [sweep.across] if sweep.up is None else [sweep.across, sweep.up]
    return {"vary": [{"path": row.path, "values": list(row.values)} for row in rows]}


def sweep_asked(payload: Mapping[str, Any]) -> Sweep:
    """Read a sweep back."""
    return Sweep(*(Vary(row["path"], tuple(row["values"])) for row in payload["vary"]))
