"""Ways of heating sized on a vehicle's own brief."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from contextlib import suppress
from dataclasses import dataclass
from itertools import islice
from typing import Final

from pydantic import ValidationError

from isotherma.catalogue.classes import classes
from isotherma.catalogue.families import families
from isotherma.core import editing
from isotherma.core.brief import Brief
from isotherma.core.cache import Cache, Caches
from isotherma.core.errors import ChangeRefused, CoreError
from isotherma.core.options.changes import Change, What, changes_of
from isotherma.core.options.columns import Columns, columns_of
from isotherma.core.options.sizing import Family, Sized, Step, Struck, size, struck_by
from isotherma.core.project import Project, Variant
from isotherma.core.results.outcome import Outcome
from isotherma.core.results.trip import TripStop
from isotherma.core.system.needs import needs_of
from isotherma.services.comparisons import found_or_asked
from isotherma.services.edits import starting_system
from isotherma.services.long_work import Asker, LongWork, UnderWay
from isotherma.services.runs import compute
from isotherma.services.turns import Cancelled, Stopped, never

SAVES_AT_MOST: Final = 12
HERE: Final = "start"


def on_brief(
    project: Project, family: Family, steps: Sequence[Step], variant_id: str | None = None
) -> Project:
    """Give a family in some sizes under a vehicle's brief, with what is there already.

    Its fresh tank is that of a variant, the first unless told. ChangeRefused or ValidationError
    where the sizes do not go into it.
    """
    there = project.variant(variant_id) if variant_id is not None else project.variants[0]
    system = editing.with_tank(starting_system(family.layout), there.system)
    system = editing.with_owned(system, project.owned)
    variant = Variant(id=HERE, name=family.name, system=system)
    made = project.model_copy(update={"variants": (variant,)})
    values = {
        f"variants.{HERE}.system.{path}": value
        for step in steps for path, value in step.values.items()
    }  # fmt: skip
    return editing.set_values(made, values) if values else made


class _Trying:
    """Runs sizes of a family: on the worst day first, and what does that on the whole trip.

    The worst day is that of the first sizes that are run; where days are alike it is the trip.
    """

    def __init__(
        self, project: Project, family: Family, variant_id: str | None, stopped: Stopped
    ) -> None:
        self.project, self.family, self.variant_id = project, family, variant_id
        self.stopped = stopped
        self.worst: Brief | None = None
        self.whole = False

    def run(self, steps: Sequence[Step]) -> Outcome | CoreError:
        """Run sizes; an answer is given, not raised."""
        try:
            made = on_brief(self.project, self.family, steps, self.variant_id)
        except ChangeRefused as error:
            return error
        return self.judge(made)

    def judge(
        self, made: Project, values: Mapping[str, object] | None = None
    ) -> Outcome | CoreError:
        """Run a design, with changes; on the worst day, and what does that on the whole trip."""
        if self.stopped():
            raise Cancelled
        changes = values or {}
        if self.worst is not None and not self.whole:
            day = made.model_copy(update={"brief": self.worst})
            with suppress(ChangeRefused, ValidationError):  # what is not of that day changes more
                quick = _run(editing.set_values(day, changes) if changes else day)
                if isinstance(quick, CoreError) or struck_by(quick):
                    return quick
        try:
            result = _run(editing.set_values(made, changes) if changes else made)
        except ChangeRefused as error:
            return error
        if self.worst is None and isinstance(result, Outcome) and result.legs:
            self.worst = result.brief
        return result


def _run(made: Project) -> Outcome | CoreError:
    return compute(made, made.variants[0])


def size_family(
    project: Project, family: Family, variant_id: str | None = None, stopped: Stopped = never
) -> Sized:
    """Size a family on a vehicle's brief; Cancelled when stopped."""
    return _sized(_Trying(project, family, variant_id, stopped))


def _sized(trying: _Trying) -> Sized:
    found = size(trying.family, trying.run)
    if found.stands or trying.worst is None:
        return found
    # a day that is repeated is harder than the same day on a trip: the largest has another chance
    trying.whole = True
    largest = trying.run([axis.steps[-1] for axis in trying.family.axes])
    if isinstance(largest, Outcome) and not struck_by(largest):
        return size(trying.family, trying.run)
    trying.whole = False
    return found


def saved_by(trying: _Trying, sized: Sized) -> Change | None:
    """Find the smallest single change that would let a struck family stand; None of twelve."""
    if sized.stands or sized.outcome is None:
        return None
    family = trying.family
    largest = [axis.steps[-1] for axis in family.axes]
    made = on_brief(trying.project, family, largest, trying.variant_id)
    for change in islice(changes_of(made, made.variants[0], sized.outcome), SAVES_AT_MOST):
        try:
            result = trying.judge(made, change.values)
        except ValidationError:
            continue
        if isinstance(result, Outcome) and not struck_by(result):
            return change
    return None


@dataclass(frozen=True, slots=True)
class SizedRow:
    """A way of heating as it was sized, without its days.

    `sizes` and `smaller` are ids of classes by axis; `refused` what of it the brief will not have;
    `by_hand` whether its reader struck it.
    """

    family: str
    stands: bool
    refused: tuple[str, ...]
    sizes: tuple[str, ...]
    smaller: tuple[str, ...]
    smaller_struck: tuple[Struck, ...]
    struck: tuple[Struck, ...]
    saved: Change | None
    columns: Columns | None
    needed: tuple[TripStop, ...]
    error: str
    runs: int
    by_hand: bool = False

    @property
    def names(self) -> str:
        """What it is sized to, in words."""
        return ", ".join(classes()[key].name for key in self.sizes)

    @property
    def smaller_names(self) -> str:
        """What of the next smaller is another size, in words."""
        pairs = zip(self.smaller, self.sizes, strict=True)
        return ", ".join(classes()[key].name for key, chosen in pairs if key != chosen)


def sized_row(
    project: Project, family: Family, variant_id: str | None = None, stopped: Stopped = never
) -> SizedRow:
    """Size one family on a vehicle's brief; what it will not have strikes without a run.

    Nor is one run that was struck by hand.
    """
    by_hand = family.id in project.brief.struck
    will_not = set(project.brief.will_not_have)
    refused = tuple(what for what in needs_of(starting_system(family.layout)) if what in will_not)
    if refused or by_hand:
        return SizedRow(family.id, False, tuple(sorted(refused)), (), (), (), (), None, None, (),
                        "", 0, by_hand)  # fmt: skip
    trying = _Trying(project, family, variant_id, stopped)
    sized = _sized(trying)
    steps = sized.steps or ()
    outcome = sized.outcome
    return SizedRow(
        family=family.id, stands=sized.stands, refused=(),
        sizes=tuple(step.id for step in steps),
        smaller=tuple(step.id for step in sized.smaller or ()),
        smaller_struck=sized.smaller_struck, struck=sized.struck,
        saved=saved_by(trying, sized),
        columns=columns_of(outcome, steps) if outcome is not None and steps else None,
        needed=outcome.trip.needed if outcome is not None and steps else (),
        error=sized.error.code if sized.error is not None else "", runs=sized.runs,
    )  # fmt: skip


def sized_rows(
    project: Project, variant_id: str | None = None, *, only: str = ""
) -> tuple[SizedRow, ...]:
    """Size every family on a vehicle's brief, in the order of the catalogue, or only one."""
    wanted = [family for key, family in families().items() if only in ("", key)]
    return tuple(sized_row(project, family, variant_id) for family in wanted)


SIZING_WORK: Final = "sizing"
WRITTEN: Final = (SizedRow, Struck, Change, What, Columns, TripStop)


class SizingService:
    """Sizes every way of heating on a brief and remembers what came out.

    Parameters
    ----------
    caches : Caches
        Where it is kept. [-]
    work : LongWork or None
        Who computes; None: this process, at once. [-]
    """

    def __init__(self, caches: Caches, work: LongWork | None = None) -> None:
        self._work = work
        self._rows: Cache[SizedRow] = Cache(caches, "sizing", lambda _: 8_000)

    def rows(
        self, project: Project, variant: Variant, asker: Asker
    ) -> tuple[SizedRow | UnderWay, ...]:
        """Give every family sized, or how far that is; each is asked for by itself."""
        struck = project.brief.struck
        # of the others nothing hangs on it: what is sized stays so
        bare = editing.set_values(project, {"brief.struck": ()}) if struck else project
        return tuple(
            sized_row(project, family, variant.id) if key in struck
            else self._row(bare, variant, key, asker)
            for key, family in families().items()
        )  # fmt: skip

    def _row(
        self, project: Project, variant: Variant, family: str, asker: Asker
    ) -> SizedRow | UnderWay:
        key = (family, project.brief.digest, variant.system.digest,
               *(part.digest for part in project.owned))  # fmt: skip
        return found_or_asked(
            self._work, self._rows, SIZING_WORK, key, (project, variant, {"family": family}), asker,
            lambda: sized_row(project, families()[family], variant.id), WRITTEN,
        )  # fmt: skip


__all__ = ["SizedRow", "SizingService", "families", "on_brief", "size_family",
           "sized_row", "sized_rows"]  # fmt: skip
