"""The Compare page: designs side by side, differences signed, curves over each other."""

from __future__ import annotations

import re
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from itertools import groupby
from typing import ClassVar, Final
from urllib.parse import urlencode

from isotherma.core.options.compared import Figure, figures
from isotherma.core.options.measures import Measure, Of
from isotherma.core.project import Wish
from isotherma.core.quantity import UnitSystem, duration_words, with_unit
from isotherma.core.results.ledger import TITLES
from isotherma.services.comparing import (
    MOST_SIDES,
    Compared,
    Side,
    changed,
    compared,
    family_side,
    variant_side,
    version_side,
)
from isotherma.services.sizing import SizedRow, families
from isotherma.services.vehicles import NotFound
from isotherma.web.compare.curves import LETTERS, CurvePicture, draw_curves
from isotherma.web.frame.changes import ChangeRow, change_row
from isotherma.web.frame.context import PageContext
from isotherma.web.frame.frame import Frame, make_frame
from isotherma.web.rendering import whole_number
from isotherma.wording import (
    FAILS_WORDS,
    MADE_OF_WORDS,
    error_words,
    failure_words,
    measure_words,
    measured_words,
    state_change_words,
    verdict,
)

DIFFERENCES_SHOWN: Final = 60
MORE_IS: Final = {  # better, where it is plain; of what is not here more is only more
    Of.CARRIES: 1, Of.DRAWS_MET: 1, Of.LONGEST_WAIT: -1, Of.WARM: 1, Of.WAIT: -1,
    Of.COLD_LITRES: -1, Of.AGAIN: -1, Of.LEFT: 1,
}  # fmt: skip


@dataclass(frozen=True, slots=True)
class SideView:
    """One design at the head of a column."""

    letter: str
    key: str
    name: str
    kind: str
    verdict: str
    href: str
    base: bool
    first: bool
    variant_id: str
    family: str
    sizes: str


@dataclass(frozen=True, slots=True)
class CompareRow:
    """One row: a title, and for each design a figure with its difference to the base."""

    title: str
    cells: tuple[tuple[str, str], ...]


@dataclass(frozen=True, slots=True)
class CompareGroup:
    """Rows that belong together."""

    title: str
    rows: tuple[CompareRow, ...]


@dataclass(frozen=True, slots=True)
class Changed:
    """What differs from the base to another design."""

    words: str
    count: str
    rows: tuple[ChangeRow, ...]
    more: int


@dataclass(frozen=True, slots=True)
class Choice:
    """A design that may be put beside, by its key."""

    key: str
    words: str
    chosen: bool


@dataclass(frozen=True, slots=True)
class WishRow:
    """A wish of the person's own, with a verdict for each design that can be changed."""

    id: str
    name: str
    cells: tuple[tuple[str, str, str, str], ...]


@dataclass(frozen=True, slots=True)
class ComparePage:
    """Designs side by side."""

    template: ClassVar[str] = "compare.html"
    frame: Frame
    sides: tuple[SideView, ...]
    groups: tuple[CompareGroup, ...]
    draws: tuple[CompareGroup, ...]
    curves: tuple[CurvePicture, ...]
    changes: tuple[Changed, ...]
    wishes: tuple[WishRow, ...]
    variants: tuple[Choice, ...]
    versions: tuple[Choice, ...]
    families: tuple[Choice, ...]
    gone: str
    csv: str
    columns: int
    found_path: str


def asked_keys(context: PageContext) -> tuple[str, ...]:
    """Give what is compared: the variant that is looked at, then what the address asks."""
    base = f"variant:{context.variant_id}"
    wanted = [key[:400] for key in context.query.getlist("with") if key]
    if "with" not in context.query:
        wanted = [f"variant:{one.id}" for one in context.project.variants]
    return (base, *(key for key in dict.fromkeys(wanted) if key != base))[:MOST_SIDES]


def side_of(context: PageContext, key: str) -> Side | None:
    """Find a design by its key; None where it is gone."""
    kind, _, rest = key.partition(":")
    project = context.project
    if kind == "variant":
        return variant_side(project, rest)
    if kind == "version":
        named, _, variant_id = rest.partition(":")
        number = whole_number(named)
        if number < 0:
            return None
        vehicle_id = context.opened.vehicle_id
        try:
            then = context.services.vehicles.at(vehicle_id, number)
        except NotFound:
            return None
        history = context.services.vehicles.history(vehicle_id)
        row = next((one for one in history if one.id == number), None)
        name = "an earlier version" if row is None else (row.name or row.label)
        return version_side(project, then, number, name, variant_id)
    if kind == "family":
        family_id, _, sizes = rest.partition(":")
        return family_side(
            project, family_id, sizes.split(",") if sizes else (), context.variant_id
        )
    return None


def sides_of(context: PageContext) -> tuple[tuple[Compared, ...], int]:
    """Run what is compared; say how many of what is asked are gone."""
    keys = asked_keys(context)
    found = [side_of(context, key) for key in keys]
    computing = context.services.computing
    return tuple(
        compared(side, computing.result(side.project, side.variant))
        for side in found if side is not None
    ), sum(side is None for side in found)  # fmt: skip


def _sides(context: PageContext, sides: Sequence[Compared]) -> tuple[SideView, ...]:
    units = context.units
    found = []
    for place, one in enumerate(sides):
        side = one.side
        words = verdict(one.outcome, units) if one.outcome is not None else error_words(
            one.error, units) if one.error is not None else ""  # fmt: skip
        _, _, rest = side.key.partition(":")
        family, _, sizes = rest.partition(":") if side.kind == "family" else ("", "", "")
        found.append(
            SideView(
                LETTERS[place], side.key, side.name, side.kind, words,
                context.path_of("design.shower", side.variant.id) if side.kind == "variant" else "",
                place == 0, side.variant.id == context.project.variants[0].id, side.variant.id,
                family, sizes,
            )
        )  # fmt: skip
    return tuple(found)


def _difference(figure: Figure, place: int, units: UnitSystem) -> str:
    """Write how far a figure lies from that of the base, with its sign."""
    base, value = figure.values[0], figure.values[place]
    if place == 0 or base is None or value is None:
        return ""
    far = value - base
    if _value(figure, 0, units) == _value(figure, place, units):
        return "="  # what reads the same is no difference to anybody
    style = {"temperature": "difference"}.get(figure.style, figure.style)
    sign = "+" if far > 0 else "−"
    if style in ("minutes", "seconds"):
        words = duration_words(abs(far))
    else:
        words = with_unit(abs(far), style, units, 2)
    if re.match(r"0(\.0+)? ", words):
        return "="
    better = MORE_IS.get(figure.measure.what, 0) if figure.measure is not None else 0
    said = "" if not better else (" better" if better * far > 0 else " worse")
    return f"{sign}{words}{said}"


def _value(figure: Figure, place: int, units: UnitSystem) -> str:
    value, unknown = figure.values[place], figure.unknown[place]
    if figure.measure is not None:
        return measured_words(figure.measure, value, units)
    if value is None:
        return f"not known of {unknown}" if unknown else "not known"
    words = with_unit(value, figure.style, units, 3)
    return f"{words}; of {unknown} not known" if unknown else words


def _row(figure: Figure, units: UnitSystem) -> CompareRow:
    title = measure_words(figure.measure) if figure.measure else MADE_OF_WORDS[figure.made_of]
    return CompareRow(
        title,
        tuple(
            (_value(figure, place, units), _difference(figure, place, units))
            for place in range(len(figure.values))
        ),
    )


def _group(measure: Measure | None) -> str:
    if measure is None:
        return "What it is made of"
    if measure.about in TITLES:
        return "Budgets over the trip"
    return "The trip" if not measure.about else f"“{measure.name}”, on its worst day"


def _groups(sides: Sequence[Compared], units: UnitSystem, *, draws: bool) -> Iterator[CompareGroup]:
    """Give the rows: of every draw, or of the trip and what the designs are made of."""
    every = figures([side.result for side in sides])
    kept = [
        one for one in every
        if any(value is not None and value != 0.0 for value in one.values)
        or (one.measure is None and one.made_of in ("holes", "findings"))
    ]  # fmt: skip
    for title, rows in groupby(kept, key=lambda one: _group(one.measure)):
        of_draw = title.startswith("“")
        if of_draw == draws:
            yield CompareGroup(title, tuple(_row(one, units) for one in rows))
    if draws:
        return
    made = [side.result.built if side.result is not None else None for side in sides]
    fails = [
        CompareRow(words, tuple(
            (next((failure_words(item, units) for item in one.failures
                   if item.kind is kind), "there is none") if one else "not known", "")
            for one in made
        ))
        for kind, words in FAILS_WORDS.items()
        if any(item.kind is kind for one in made if one for item in one.failures)
    ]  # fmt: skip
    if fails:
        yield CompareGroup("If this fails: the worst of its kind", tuple(fails))
    if any(one is not None and one.changes for one in made):
        cells = tuple(
            ("; ".join(map(state_change_words, one.changes)) if one else "", "") for one in made
        )
        yield CompareGroup("From the first state into another", (CompareRow("Moves", cells),))


def _changes(sides: Sequence[Compared], units: UnitSystem) -> tuple[Changed, ...]:
    found = []
    for place, one in enumerate(sides[1:], start=1):
        rows = changed(sides[0].side, one.side)
        found.append(
            Changed(
                f"From A {sides[0].side.name} to {LETTERS[place]} {one.side.name}",
                "one difference" if len(rows) == 1 else f"{len(rows)} differences",
                tuple(change_row(item, units) for item in rows[:DIFFERENCES_SHOWN]),
                max(0, len(rows) - DIFFERENCES_SHOWN),
            )
        )
    return tuple(found)


def judged_of(side: Side) -> str:
    """Give the id that wishes judge a design by."""
    return side.key.split(":")[1] if side.kind == "family" else side.variant.id


def _wishes(wishes: Sequence[Wish], sides: Sequence[Compared]) -> tuple[WishRow, ...]:
    def cell(wish: Wish, one: Compared) -> tuple[str, str, str, str]:
        of = judged_of(one.side)
        said = wish.judgement(of)
        return (of, one.side.name, said.says if said else "", said.why if said else "")

    return tuple(
        WishRow(wish.id, wish.name, tuple(cell(wish, one) for one in sides)) for wish in wishes
    )


def _choices(
    context: PageContext, keys: Sequence[str]
) -> tuple[tuple[Choice, ...], tuple[Choice, ...], tuple[Choice, ...]]:
    """List what may be put beside: other variants, kept versions, ways of heating."""
    project, here = context.project, context.variant_id
    variants = tuple(
        Choice(key, one.name, key in keys)
        for one in project.variants if one.id != here and (key := f"variant:{one.id}")
    )  # fmt: skip
    history = context.services.vehicles.history(context.opened.vehicle_id)
    named = [row for row in history if row.name] + [row for row in history if not row.name][1:20]
    versions = tuple(
        Choice(key, f"{row.name or row.label}, {row.at:%Y-%m-%d %H:%M}", key in keys)
        for row in named
        if (key := f"version:{row.id}:{here}")
    )
    sized = {
        row.family: row
        for row in context.services.sizing.known(project, context.variant)
        if isinstance(row, SizedRow) and row.stands
    }
    ways = []
    for family_id, family in families().items():
        row = sized.get(family_id)
        key = f"family:{family_id}" + (f":{','.join(row.sizes)}" if row and row.sizes else "")
        words = f"{family.name}, {row.names}" if row and row.sizes else family.name
        ways.append(Choice(key, words, key in keys))
    return variants, versions, tuple(ways)


def compare_page(context: PageContext) -> ComparePage:
    """Put the Compare page together."""
    frame, _ = make_frame(context, "compare")
    keys = asked_keys(context)
    sides, gone = sides_of(context)
    variants, versions, ways = _choices(context, keys)
    units = context.units
    query = urlencode([("with", key) for key in keys[1:]] or [("with", "")])
    return ComparePage(
        frame,
        _sides(context, sides),
        tuple(_groups(sides, units, draws=False)),
        tuple(_groups(sides, units, draws=True)),
        draw_curves([side.outcome for side in sides], units),
        _changes(sides, units),
        _wishes(context.project.wishes, sides),
        variants, versions, ways,
        gone="" if not gone else (
            "One of what was to be compared is not there any more." if gone == 1
            else f"{gone} of what was to be compared are not there any more."
        ),
        csv=f"{context.path_of('design.compare.csv')}?{query}",
        columns=len(sides) + 1,
        found_path=f"{context.path_of('design.compare.found')}?{query}",
    )  # fmt: skip
