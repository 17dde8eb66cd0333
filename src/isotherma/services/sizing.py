"""Ways of heating sized on a vehicle's own brief."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from contextlib import suppress
from dataclasses import dataclass
from itertools import islice
from typing import Final

from pydantic import ValidationError

from isotherma.catalogue.classes import PRICES, classes
from isotherma.catalogue.families import OWN, families, fixed_to, leaves_unused
from isotherma.core import editing
from isotherma.core.brief import Brief
from isotherma.core.cache import Cache, Caches
from isotherma.core.errors import ChangeRefused, CoreError
from isotherma.core.options.built import Fails, Failure, Leans, Tally
from isotherma.core.options.changes import Change, What, changes_of
from isotherma.core.options.columns import Columns, columns_of, price_span
from isotherma.core.options.extremes import Extreme, Extremes, Foot, extremes_of
from isotherma.core.options.limits import limits_on, struck_over
from isotherma.core.options.sizing import Family, Sized, Step, Struck, size, struck_by
from isotherma.core.project import Project, Variant
from isotherma.core.results.outcome import Outcome
from isotherma.core.results.trip import TripStop
from isotherma.core.system.needs import needs_of
from isotherma.services.comparisons import found_or_asked, found_or_none
from isotherma.services.edits import starting_system
from isotherma.services.long_work import Asker, LongWork, UnderWay
from isotherma.services.runs import compute
from isotherma.services.shopping import joints_in
from isotherma.services.turns import Cancelled, Stopped, never

SAVES_AT_MOST: Final = 10
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
        self.project, self.variant_id = project, variant_id
        self.family = fixed_to(family, project.owned)
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

    def with_brief(self, steps: Sequence[Step]) -> Callable[[Brief], Outcome | CoreError]:
        """Give a run of these sizes under another brief."""
        made = on_brief(self.project, self.family, steps, self.variant_id)

        def run(brief: Brief) -> Outcome | CoreError:
            if self.stopped():
                raise Cancelled
            return _run(made.model_copy(update={"brief": brief}))

        return run

    def barred(self, steps: Sequence[Step]) -> tuple[Struck, ...]:
        """Say which limits of mass, room, money, holes these sizes are beyond as they stand."""
        try:
            made = on_brief(self.project, self.family, steps, self.variant_id)
        except ChangeRefused:
            return ()  # running them says why
        low, _ = price_span([step.price for step in steps if step.price], PRICES)
        price = Tally(low, sum(step.price is None for step in steps))
        system = made.variants[0].system
        return struck_over(limits_on(made.brief.budgets, system, {}, made.vehicle, price))


def _run(made: Project) -> Outcome | CoreError:
    return compute(made, made.variants[0])


def size_family(
    project: Project, family: Family, variant_id: str | None = None, stopped: Stopped = never
) -> Sized:
    """Size a family on a vehicle's brief; Cancelled when stopped."""
    return _sized(_Trying(project, family, variant_id, stopped))


def _sized(trying: _Trying) -> Sized:
    found = size(trying.family, trying.run, barred=trying.barred)
    if found.stands or trying.worst is None or found.outcome is None:
        return found
    # a day that is repeated is harder than the same day on a trip: the largest has another chance
    trying.whole = True
    largest = trying.run([axis.steps[-1] for axis in trying.family.axes])
    if isinstance(largest, Outcome) and not struck_by(largest):
        return size(trying.family, trying.run, barred=trying.barred)
    trying.whole = False
    return found


def saved_by(trying: _Trying, sized: Sized) -> Change | None:
    """Find the smallest single change that would let a struck family stand; None of ten."""
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

    `sizes` and `smaller` are ids of classes by axis, OWN for what is there already; `refused` what
    of it the brief will not have; `by_hand` whether its reader struck it, `by_wish` a wish of
    theirs that it does not meet, and why not; `unused` what is there already and it has no place
    for.
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
    by_wish: tuple[str, str] = ("", "")
    unused: tuple[str, ...] = ()
    extremes: Extremes | None = None

    @property
    def names(self) -> str:
        """What it is sized to, in words; "" where all of it is there already."""
        return ", ".join(classes()[key].name for key in self.sizes if key != OWN)

    @property
    def smaller_names(self) -> str:
        """What of the next smaller is another size, in words."""
        pairs = zip(self.smaller, self.sizes, strict=True)
        return ", ".join(classes()[key].name for key, chosen in pairs if key != chosen)


def _unsized(
    family: str, refused: tuple[str, ...] = (), *, by_hand: bool = False,
    by_wish: tuple[str, str] = ("", ""), unused: tuple[str, ...] = (),
) -> SizedRow:  # fmt: skip
    return SizedRow(
        family, False, refused, (), (), (), (), None, None, (), "", 0, by_hand, by_wish, unused
    )


def _by_hand(project: Project, family: str) -> SizedRow | None:
    """Strike a family by hand, by a hard wish, or by what is there already and it leaves unused."""
    if family in project.brief.struck:
        return _unsized(family, by_hand=True)
    for wish in project.wishes:
        said = wish.judgement(family)
        if wish.hard and said is not None and said.says == "no":
            return _unsized(family, by_wish=(wish.name, said.why))
    if family not in project.brief.kept:
        unused = leaves_unused(families()[family], project.owned)
        if unused:
            return _unsized(family, unused=tuple(part.label for part in unused))
    return None


def sized_row(
    project: Project, family: Family, variant_id: str | None = None, stopped: Stopped = never
) -> SizedRow:
    """Size one family on a vehicle's brief; what it will not have strikes without a run.

    So does what was struck by hand, or by a wish.
    """
    struck = _by_hand(project, family.id)
    if struck is not None:
        return struck
    will_not = set(project.brief.will_not_have)
    refused = tuple(what for what in needs_of(starting_system(family.layout)) if what in will_not)
    if refused:
        return _unsized(family.id, tuple(sorted(refused)))
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
        columns=None if outcome is None or not steps
        else columns_of(outcome, steps, joints_in(outcome.system)),
        needed=outcome.trip.needed if outcome is not None and steps else (),
        error=sized.error.code if sized.error is not None else "", runs=sized.runs,
        extremes=extremes_of(outcome, project.brief, trying.with_brief(steps))
        if outcome is not None and steps else None,
    )  # fmt: skip


def sized_rows(
    project: Project, variant_id: str | None = None, *, only: str = ""
) -> tuple[SizedRow, ...]:
    """Size every family on a vehicle's brief, in the order of the catalogue, or only one."""
    wanted = [family for key, family in families().items() if only in ("", key)]
    return tuple(sized_row(project, family, variant_id) for family in wanted)


SIZING_WORK: Final = "sizing"
WRITTEN: Final = (
    SizedRow, Struck, Change, What, Columns, TripStop, Leans, Failure, Fails, Extremes, Extreme,
    Foot,
)  # fmt: skip


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
        plain = bare(project)
        return tuple(
            refused if (refused := _by_hand(project, key)) is not None
            else self._row(plain, variant, key, asker)
            for key in families()
        )  # fmt: skip

    def seen(self, project: Project, variant: Variant) -> tuple[SizedRow | UnderWay | None, ...]:
        """Give what is sized by now or being sized, and None for what nobody has asked for."""
        plain = bare(project)
        return tuple(
            refused if (refused := _by_hand(project, key)) is not None
            else self._seen(plain, variant, key)
            for key in families()
        )  # fmt: skip

    def known(self, project: Project, variant: Variant) -> tuple[SizedRow, ...]:
        """Give the families that are sized by now; nobody is asked to size the others."""
        plain = bare(project)
        found = (self._known(plain, variant, key) for key in families())
        return tuple(row for row in found if row is not None)

    def _known(self, project: Project, variant: Variant, family: str) -> SizedRow | None:
        key = _key(project, variant, family)
        return found_or_none(self._work, self._rows, SIZING_WORK, key, WRITTEN)

    def _seen(self, project: Project, variant: Variant, family: str) -> SizedRow | UnderWay | None:
        row = self._known(project, variant, family)
        if row is not None or self._work is None:
            return row
        name = "/".join(map(str, _key(project, variant, family)))
        going = self._work.look(SIZING_WORK, name)
        return going if going is not None and going.goes_on else None

    def _row(
        self, project: Project, variant: Variant, family: str, asker: Asker
    ) -> SizedRow | UnderWay:
        return found_or_asked(
            self._work, self._rows, SIZING_WORK, _key(project, variant, family),
            (project, variant, {"family": family}), asker,
            lambda: sized_row(project, families()[family], variant.id), WRITTEN,
        )  # fmt: skip


def bare(project: Project) -> Project:
    """Give a project without what its reader struck and judged: what is sized stays so.

    Parameters
    ----------
    project : Project
        The document. [-]

    Returns
    -------
    Project
        No way of heating is struck in it, by hand, by wish or by what it leaves unused. [-]
    """
    brief = project.brief
    every = tuple(families()) if project.owned else ()  # what is asked of a worker is wanted
    if (brief.struck, brief.kept) != ((), every):
        brief = brief.model_copy(update={"struck": (), "kept": every})
    return project.model_copy(update={"brief": brief, "wishes": ()})


def _key(project: Project, variant: Variant, family: str) -> tuple[object, ...]:
    return (family, project.brief.digest, variant.system.digest,
            *(part.digest for part in project.owned))  # fmt: skip


__all__ = ["SizedRow", "SizingService", "bare", "families", "on_brief", "size_family",
           "sized_row", "sized_rows"]  # fmt: skip
