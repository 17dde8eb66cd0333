"""What stands on every page of a design: verdict, ledger strip, steps, undo."""

from __future__ import annotations

from dataclasses import dataclass
from itertools import groupby

from isotherma.core.errors import CoreError, KernelsCompiling, MissingValue, NotComputedYet
from isotherma.core.project import Variant
from isotherma.core.quantity import UnitSystem, with_unit
from isotherma.core.results.ledger import TITLES, Entry
from isotherma.core.results.outcome import Outcome
from isotherma.web.frame.context import Mark, PageContext
from isotherma.web.frame.found import FoundMark, found_mark
from isotherma.web.frame.next_step import Mend, NextStep, mend_of, next_step
from isotherma.wording import cautions, error_words, verdict

_ALWAYS = frozenset({"fresh", "grey", "warmth", "waiting"})  # others only where there is such


@dataclass(frozen=True, slots=True)
class Cell:
    """One budget in the strip."""

    budget: str
    title: str
    used: str
    of: str
    margin: str
    short: bool
    binds: bool
    fill: str
    over: bool
    limit_at: str
    change: str


@dataclass(frozen=True, slots=True)
class Step:
    """One page in the order of work, and how its work stands."""

    key: str
    title: str
    current: bool
    mark: Mark


@dataclass(frozen=True, slots=True)
class Stage:
    """Pages that belong together."""

    title: str
    steps: tuple[Step, ...]


@dataclass(frozen=True, slots=True)
class Frame:
    """Everything around a design page."""

    vehicle_id: int
    vehicle: str
    variant_id: str
    variant: str
    variants: tuple[tuple[str, str, bool], ...]
    head_id: int
    page: str
    question: str
    stages: tuple[Stage, ...]
    verdict: str
    computed: bool
    compiling: bool
    mend: Mend
    next: NextStep | None
    cells: tuple[Cell, ...]
    cautions: tuple[str, ...]
    undo: str | None
    redo: str | None
    notice: str
    only_variant: bool
    rename_error: str
    rename_text: str
    states: tuple[tuple[str, str, bool], ...] = ()
    phases: tuple[tuple[str, str, bool], ...] = ()
    binding: Cell | None = None
    found: FoundMark | None = None
    piece: str = ""

    @property
    def ids(self) -> dict[str, object]:
        """What the addresses of this vehicle's edits need."""
        return {"vehicle_id": self.vehicle_id, "variant_id": self.variant_id}


def cell_of(entry: Entry, before: Entry | None, units: UnitSystem) -> Cell:
    """Write one budget for the strip, with what it was before."""

    def words(value: float, digits: int = 3) -> str:
        return with_unit(value, entry.style, units, digits)

    shown_used, shown_limit = entry.used, entry.limit
    of = "no limit set" if shown_limit is None else f"of {words(shown_limit)}"
    used = words(shown_used)
    if entry.budget == "warmth" and entry.limit is not None:
        used, of = words(entry.limit), f"of {words(entry.used)}"
    if entry.never:
        used, of = "never warm", f"limit {words(entry.limit)}" if entry.limit is not None else ""
    margin, short = "", False
    if entry.margin is not None:
        slack = 1e-9 * max(1.0, abs(entry.used))
        if entry.budget == "warmth":
            slack = 0.02 * entry.used + 1e-9
        short = entry.margin < -slack
        if entry.never:
            short = True
        elif short:
            margin = f"{words(-entry.margin)} short"
        elif entry.budget != "warmth":
            margin = f"{words(entry.margin)} spare"
        else:
            margin = "all of it"
        if entry.ends_on_day is not None:
            margin += f" · day {entry.ends_on_day}"
    share = 0.0
    if entry.limit is not None:
        top = entry.limit / entry.used if entry.budget == "warmth" and entry.used else None
        share = top if top is not None else (entry.used / entry.limit if entry.limit else 1.0)
    change = ""
    if before is not None:
        old = before.limit if entry.budget == "warmth" else before.used
        new = entry.limit if entry.budget == "warmth" else entry.used
        if old is not None and new is not None and words(old) != words(new):
            change = f"{words(old)} → {words(new)}"
        elif before.limit is not None and entry.limit is not None and entry.budget != "warmth":
            old_limit, new_limit = words(before.limit), words(entry.limit)
            change = f"limit {old_limit} → {new_limit}" if old_limit != new_limit else ""
    return Cell(
        budget=entry.budget,
        title=TITLES[entry.budget],
        used=used,
        of=of,
        margin=margin,
        short=short,
        binds=entry.binds,
        fill=f"{min(1.0, max(0.0, share)) * 100:.1f}",
        over=share > 1.0 + 1e-9 and entry.budget != "warmth",
        limit_at=f"{100 / share:.1f}" if share > 1.0 else "",
        change=change,
    )


def mend_piece(error: CoreError) -> str:
    """Give the piece of the Parts page that would mend it; empty for the page itself."""
    if isinstance(error, MissingValue):
        group, piece_id = error.path.split(".")[:2]
        return f"{group.removesuffix('s')}-{piece_id}"
    if isinstance(error, NotComputedYet) and error.part_id:
        return f"part-{error.part_id}"
    return ""


def _in_state(sentence: str, variant: Variant) -> str:
    """Name the state and phase a verdict is for, where they are not the usual ones."""
    states, standing = variant.system.states, variant.standing
    if standing is not None and standing is not states[0]:
        sentence = f"In “{standing.name}”: {sentence[0].lower()}{sentence[1:]}"
    phase = next((item for item in variant.system.phases if item.id == variant.phase), None)
    if phase is None:
        return sentence
    return f"Built as far as “{phase.name}”: {sentence[0].lower()}{sentence[1:]}"


def _phases(variant: Variant) -> tuple[tuple[str, str, bool], ...]:
    """Give how far it may be built: all of it, or a phase before the last."""
    before = variant.system.phases[:-1]
    return (
        ("", "All of it", variant.built is variant),
        *((phase.id, phase.name, phase.id == variant.phase) for phase in before),
    )


def _stages(context: PageContext, page: str, result: Outcome | CoreError) -> tuple[Stage, ...]:
    """Group the pages in the order of work."""
    return tuple(
        Stage(title, tuple(
            Step(room.key, room.title, room.key == page, room.mark(context, result))
            for room in rooms
        ))
        for title, rooms in groupby(context.rooms, key=lambda room: room.stage)
    )  # fmt: skip


def make_frame(context: PageContext, page: str) -> tuple[Frame, Outcome | None]:
    """Put the frame of a design page together; the outcome is None when there is none."""
    opened, project, variant = context.opened, context.project, context.variant
    variant_id, units, typed = context.variant_id, context.units, context.typed
    computing = context.services.computing
    rename = typed if typed is not None and typed.scope == f"variants.{variant_id}" else None
    result = computing.result(project, variant)
    before: Outcome | None = None
    if opened.previous is not None:
        for other in opened.previous.variants:
            if other.id == variant_id:
                earlier = computing.result(opened.previous, other)
                before = earlier if isinstance(earlier, Outcome) else None
    cells: tuple[Cell, ...] = ()
    outcome = result if isinstance(result, Outcome) else None
    if outcome is not None:
        was = {entry.budget: entry for entry in before.ledger} if before else {}
        cells = tuple(
            cell_of(entry, was.get(entry.budget), units)
            for entry in outcome.ledger
            if entry.budget in _ALWAYS or entry.used > 0.0 or entry.limit is not None
        )
        sentence = _in_state(verdict(outcome, units), variant)
    else:
        assert isinstance(result, CoreError)
        sentence = error_words(result, units)
    return Frame(
        vehicle_id=opened.vehicle_id,
        vehicle=project.name,
        variant_id=variant.id,
        variant=variant.name,
        variants=tuple((v.id, v.name, v.id == variant.id) for v in project.variants),
        head_id=opened.head_id,
        page=page,
        question=next(room.question for room in context.rooms if room.key == page),
        stages=_stages(context, page, result),
        verdict=sentence,
        computed=outcome is not None,
        compiling=isinstance(result, KernelsCompiling),
        mend=mend_of(context, result),
        next=next_step(context, page, result),
        cells=cells,
        found=found_mark(context) if variant.system.parts else None,
        binding=next((cell for cell in cells if cell.binds), None),
        cautions=cautions(outcome, units) if outcome and page == "shower" else (),
        undo=opened.undo_label,
        redo=opened.redo_label,
        notice=context.notice,
        only_variant=len(project.variants) == 1,
        rename_error=rename.errors.get("name", "") if rename else "",
        piece=context.piece,
        states=tuple(
            (item.id, item.name, item is variant.standing) for item in variant.system.states
        ),
        phases=_phases(variant),
        rename_text=rename.texts.get("name", [variant.name])[0] if rename else variant.name,
    ), outcome
