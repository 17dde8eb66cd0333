"""The Brief page: who washes, when and where."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import ClassVar, get_args

from isotherma import catalogue
from isotherma.catalogue.trips import trips
from isotherma.core.brief import Brief, Draw, Purpose, Use
from isotherma.core.brief.days import DayKind
from isotherma.core.climate import MONTHS
from isotherma.core.quantity import duration_words, with_unit
from isotherma.web.frame.context import PageContext
from isotherma.web.frame.forms import FormView, Names, Typed, make_form, marked
from isotherma.web.frame.frame import Frame, make_frame
from isotherma.wording import SERVICES, day_kind_words, order_words

TRIP = ("people", "washes", "days", "region", "month", "cold_water_c", "inside_c", "day_start")
AIR = ("coldest_c", "warmest_c", "air_c")
OTHER = ("reserve", "gives_up_s")
OPEN_DRAWS = 2  # stand open; of the others the line that sums them up

# what only some draws need: shown when the rest is opened
LATER_FIELDS = (
    "flow_m3_per_s", "stops", "stop_s", "clock", "outlet", "nudged", "child", "gives_up_c",
    "waits_hot", "state",
)  # fmt: skip

STOCKS = ("grey_m3", "gas_kg", "mains_energy_j", "longest_wait_s")
LIMITS = ("setup_s", "headroom_m", "holes", "money", "mass_kg", "room_m3")


@dataclass(frozen=True, slots=True)
class DrawForm:
    """One draw of the brief."""

    id: str
    name: str
    label: str
    summary: str
    main: FormView
    more: FormView
    shown: bool


@dataclass(frozen=True, slots=True)
class UseForm:
    """Water by the litre: one line of the brief."""

    id: str
    name: str
    summary: str
    form: FormView


@dataclass(frozen=True, slots=True)
class BriefPage:
    """Who washes, when and where."""

    template: ClassVar[str] = "brief.html"
    frame: Frame
    trip: FormView
    air: FormView
    trip_examples: str
    draw_examples: str
    use_examples: str
    budget_examples: str
    other: FormView
    budgets: FormView
    limits: FormView
    limits_open: bool
    refusals: FormView
    note: FormView
    draws: tuple[DrawForm, ...]
    uses: tuple[UseForm, ...]
    uses_words: str
    purposes: tuple[tuple[str, str], ...]
    presets: tuple[tuple[str, str], ...]
    water_words: str
    kinds: tuple[KindForm, ...]
    order: FormView
    order_words: str
    trips: tuple[tuple[str, str], ...]
    services: tuple[tuple[str, str], ...]


@dataclass(frozen=True, slots=True)
class StopForm:
    """A stop of a kind of day."""

    id: str
    name: str
    form: FormView


@dataclass(frozen=True, slots=True)
class KindForm:
    """A kind of day: what differs on it, and its stops."""

    id: str
    name: str
    summary: str
    days: str
    main: FormView
    left_out: FormView
    stops: tuple[StopForm, ...]
    opened: bool


def _kind_form(context: PageContext, kind: DayKind) -> KindForm:
    brief, units, typed = context.project.brief, context.units, context.typed
    scope = f"brief.day_kinds.{kind.id}"
    names = {
        "draw": [(draw.id, draw.name) for draw in brief.draws],
        "use": [(use.id, use.name) for use in brief.uses],
    }
    count = brief.order.count(kind.id)
    left_out = ("without_draws", "without_uses")
    return KindForm(
        id=kind.id,
        name=kind.name,
        summary=day_kind_words(kind, units),
        days=f"{count} day{'' if count == 1 else 's'}",
        main=make_form(kind, scope, units, typed, leave_out=left_out),
        left_out=make_form(kind, scope, units, typed, only=left_out, names=names),
        stops=tuple(
            StopForm(
                stop.id, SERVICES[stop.what],
                make_form(stop, f"{scope}.stops.{stop.id}", units, typed),
            )
            for stop in kind.stops
        ),
        opened=typed is not None and typed.scope.startswith(scope),
    )  # fmt: skip


def _edges(draw: Draw, typed: Typed | None) -> tuple[str, ...]:
    """Name the fields that say how warm, by what is wanted, or was just asked for."""
    aim: str = draw.aim
    if typed is not None and typed.scope == f"brief.draws.{draw.id}":
        aim = typed.texts.get("aim", [aim])[0]
    return {
        "window": ("low_c", "high_c"),
        "at least": ("low_c",),
        "above the tank": ("rise_k",),
    }.get(aim, ())


def _use_form(context: PageContext, use: Use) -> UseForm:
    return UseForm(
        id=use.id,
        name=use.name,
        summary=f"{with_unit(use.day_m3, 'volume', context.units)} a day",
        form=make_form(
            use, f"brief.uses.{use.id}", context.units, context.typed,
            leave_out=("outlet", "source"),
        ),
    )  # fmt: skip


def _draw_form(context: PageContext, draw: Draw, names: Names, place: int) -> DrawForm:
    scope, units, typed = f"brief.draws.{draw.id}", context.units, context.typed
    alone = sum(other.name == draw.name for other in context.project.brief.draws) == 1
    first = ("name", "who", "start_s", "duration_s", "aim", *_edges(draw, typed))
    return DrawForm(
        id=draw.id,
        name=draw.name,
        label=draw.name if alone else f"{draw.name}, {with_unit(draw.start_s, 'clock')}",
        summary=f"{with_unit(draw.start_s, 'clock')}, {duration_words(draw.duration_s)}",
        main=make_form(draw, scope, units, typed, only=first),
        more=make_form(draw, scope, units, typed, only=LATER_FIELDS, names=names),
        shown=place < OPEN_DRAWS,
    )


def _examples(brief: Brief, names: Sequence[str]) -> str:
    """Name what of these is still an example, as its button sends it."""
    return ",".join(name for name in names if name in brief.examples)


def _trip_fields(brief: Brief) -> tuple[str, ...]:
    """Name the fields of where and when; days in an order count themselves."""
    return tuple(name for name in TRIP if name != "days" or not brief.order)


def brief_page(context: PageContext) -> BriefPage:
    """Put the brief page together."""
    frame, outcome = make_frame(context, "brief")
    brief, units, typed = context.project.brief, context.units, context.typed
    words = ""
    if outcome is not None:
        given = "as given" if brief.cold_water_c is not None else "estimated"
        month = MONTHS[brief.month - 1]
        air = with_unit(catalogue.climate(brief).air_c, "temperature", units, 3)
        water = with_unit(outcome.fresh_c, "temperature", units, 3)
        words = f"Fresh water {water}, {given}; the air in {month} is {air} on average."
    system = context.variant.system
    names = {
        "part": [
            (part.id, part.label) for part in system.parts
            if part.side == "use" or part.kind == "reuse_loop"
        ],
        "state": [(state.id, state.name) for state in system.states],
    }  # fmt: skip
    return BriefPage(
        frame=frame,
        trip=marked(
            make_form(brief, "brief", units, typed, only=_trip_fields(brief)), brief.examples
        ),
        air=make_form(brief, "brief", units, typed, only=AIR),
        trip_examples=_examples(brief, TRIP),
        draw_examples=_examples(brief, ("draws",)),
        use_examples=_examples(brief, ("uses",)),
        budget_examples=_examples(brief, ("budgets",)),
        other=make_form(brief, "brief", units, typed, only=OTHER),
        budgets=make_form(brief.budgets, "brief.budgets", units, typed, only=STOCKS),
        limits=make_form(brief.budgets, "brief.budgets", units, typed, only=LIMITS),
        limits_open=any(getattr(brief.budgets, name) is not None for name in LIMITS)
        or any(name in LIMITS for name in (typed.errors if typed else ())),
        refusals=make_form(brief, "brief", units, typed, only=("will_not_have", "hurts")),
        note=make_form(brief, "brief", units, typed, only=("note",)),
        draws=tuple(
            _draw_form(context, draw, names, place)
            for place, draw in enumerate(sorted(brief.draws, key=lambda draw: draw.start_s))
        ),
        uses=tuple(_use_form(context, use) for use in brief.uses),
        uses_words=f"{with_unit(brief.other_fresh_m3, 'volume', units)} a day, "
        f"{with_unit(brief.other_grey_m3, 'volume', units)} of it to the grey tank.",
        purposes=tuple((purpose, purpose.capitalize()) for purpose in get_args(Purpose)),
        presets=tuple((key, draw.name) for key, draw in catalogue.PRESETS.items()),
        water_words=words,
        kinds=tuple(_kind_form(context, kind) for kind in brief.day_kinds),
        order_words=order_words(brief),
        order=make_form(brief, "brief", units, typed, only=("order",)),
        trips=tuple((key, trip.name) for key, trip in trips().items()),
        services=tuple(SERVICES.items()),
    )
