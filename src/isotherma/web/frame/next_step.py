"""What is next: the field a verdict waits for, what would mend a design, or the page after this."""

from __future__ import annotations

from dataclasses import dataclass, replace

from isotherma.core.errors import CoreError, KernelsCompiling, MissingValue, NotComputedYet
from isotherma.core.options.changes import failing
from isotherma.core.results.causes import Broke
from isotherma.core.results.outcome import Outcome
from isotherma.core.system.pieces import PartBase
from isotherma.web.frame.context import PageContext, Room
from isotherma.web.frame.forms import FormView, make_form

LAST = "shower"  # the page whose verdict is the answer


@dataclass(frozen=True, slots=True)
class Mend:
    """Where the control is that mends a design: a page, a piece of it, a field; "" for none."""

    page: str = ""
    piece: str = ""
    field: str = ""


@dataclass(frozen=True, slots=True)
class NextStep:
    """What the page ends with: a sentence, the field itself, or a page to go to."""

    words: str
    form: FormView | None = None
    page: str = ""
    page_title: str = ""
    tries: bool = False


def _asked(part: PartBase, name: str) -> str:
    """Name what a box says in the place of a figure the engine needs."""
    if name in part.printed:
        return name
    rated = ("rated_w", "rated_flow_m3_per_s", "open_flow_m3_per_s", "stroke_m3")
    return next((other for other in rated if other in part.printed), name)


def missing_field(context: PageContext, error: MissingValue) -> FormView | None:
    """Make the form of the one field a verdict waits for; None where it is a part that lacks."""
    steps = error.path.split(".")
    if len(steps) < 3:
        return None
    part = next((item for item in context.variant.system.parts if item.id == steps[1]), None)
    if part is None:
        return None
    scope = f"variants.{context.variant_id}.system.parts.{part.id}"
    form = make_form(part, scope, context.units, context.typed, only=(_asked(part, steps[2]),))
    # the same field may stand on the page itself
    fields = tuple(replace(view, id=f"next-{view.id}") for view in form.fields)
    return replace(form, fields=fields) if fields else None


def mend_of(context: PageContext, result: Outcome | CoreError) -> Mend:
    """Say where the control is that mends what the verdict begins with."""
    if isinstance(result, MissingValue):
        form = missing_field(context, result)
        if form is not None:
            return Mend(field=form.fields[0].id)
        return Mend("parts", f"part-{result.path.split('.')[1]}")
    if isinstance(result, NotComputedYet):
        if not context.variant.system.parts:
            return Mend("heat")
        return Mend("parts", f"part-{result.part_id}" if result.part_id else "")
    if isinstance(result, KernelsCompiling):
        return Mend()
    if isinstance(result, Outcome):
        if not result.causes:
            return Mend(LAST, field="next") if failing(result).any else Mend()
        cause = result.causes[0]
        if cause.broke is Broke.SWITCHED_OFF:
            return Mend("layout", f"part-{cause.part_id}", "stands-at")
        prefix = f"f-variants-{context.variant_id}-system-parts-{cause.part_id}".replace("_", "-")
        field = f"{prefix}-fuse-a" if cause.broke is Broke.FUSE else "piece"
        return Mend("parts", f"part-{cause.part_id}", field)
    return Mend("parts")


def _after(context: PageContext, page: str, result: Outcome | CoreError) -> Room | None:
    """Give the page to go to: the next in order, of what is not done the first."""
    rooms = context.rooms
    at = next((index for index, room in enumerate(rooms) if room.key == page), 0)
    open_ones = [room for room in rooms[at + 1 :] if room.mark(context, result).sign != "done"]
    return next(iter([*open_ones, *rooms[at + 1 :]]), None)


def next_step(context: PageContext, page: str, result: Outcome | CoreError) -> NextStep | None:
    """Say what a page ends with; None while the kernels are compiled."""
    if isinstance(result, KernelsCompiling):
        return None
    if isinstance(result, MissingValue):
        form = missing_field(context, result)
        words = f"Missing for a verdict: {result.label} of {result.part_name}."
        if form is not None:
            return NextStep(words, form)
        return NextStep(words, page="parts", page_title="Parts")
    if isinstance(result, NotComputedYet) and not context.variant.system.parts:
        if page == "heat":
            return None
        return NextStep("Next: choose what heats the water.", page="heat", page_title="Heat")
    if not isinstance(result, Outcome):
        return NextStep("The verdict waits: the sentence above says for what.", page="parts",
                        page_title="Parts")  # fmt: skip
    if not context.project.brief.draws:
        return NextStep("Missing for a verdict: who washes.", page="brief", page_title="Brief")
    if failing(result).any:
        if page == LAST:
            return NextStep("What would make it do what the brief asks", tries=True)
        return NextStep("Not all is as asked.", page=LAST, page_title="See what would mend it")
    room = _after(context, page, result)
    if room is None:
        return NextStep("Enough for a first answer. Next: try it otherwise above, or compare "
                        "another way to heat.", page="heat", page_title="Heat")  # fmt: skip
    return NextStep(f"Enough for a first answer. Next: {room.question}", page=room.key,
                    page_title=room.title)  # fmt: skip
