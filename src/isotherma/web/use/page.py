"""The page for whoever did not build it, in the view its address asks for."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass, replace
from typing import ClassVar, Final

from isotherma.core.errors import CoreError
from isotherma.core.using.lead import sources_of
from isotherma.services.building import labels_of
from isotherma.services.flows import drained
from isotherma.web.frame.context import Mark, PageContext
from isotherma.web.frame.draining import DrainPanel, drain_panel
from isotherma.web.frame.frame import Frame, make_frame
from isotherma.web.use.cards import CardChoice, card_choice
from isotherma.web.use.care import (
    DampPart,
    ParkPart,
    RoutinesPart,
    damp_part,
    park_part,
    routines_part,
)
from isotherma.web.use.diary import DiaryForm, diary_form
from isotherma.web.use.views import (
    GaugePart,
    LeadPart,
    NowCard,
    NowForm,
    TapPart,
    TroubleRow,
    gauges_of,
    lead_part,
    now_card,
    read_now,
    tap_part,
    troubles,
)
from isotherma.wording import error_words

VIEWS: Final = (("now", "Now"), ("lead", "Lead times"), ("tap", "How far to open"),
                ("gauge", "What the gauge says"), ("park", "Where to park"), ("damp", "Damp"),
                ("routines", "Routines"), ("drain", "Drain-down"),
                ("trouble", "If something is wrong"), ("diary", "Calendar"),
                ("cards", "Cards to print"))  # fmt: skip


NOTHING_ASKED: Final = NowForm()


@dataclass(frozen=True, slots=True)
class UsePage:
    """For somebody who did not build it."""

    template: ClassVar[str] = "use.html"
    frame: Frame
    empty: bool
    view: str
    views: tuple[tuple[str, str, bool], ...]
    form: NowForm = NOTHING_ASKED
    draws: tuple[tuple[str, str, bool], ...] = ()
    sources: tuple[tuple[str, str, bool], ...] = ()
    card: NowCard | None = None
    card_query: str = ""
    lead: LeadPart | None = None
    tap: TapPart | None = None
    gauges: tuple[GaugePart, ...] = ()
    park: ParkPart | None = None
    damp: DampPart | None = None
    routines: RoutinesPart | None = None
    diary: DiaryForm | None = None
    print_cards: CardChoice | None = None
    drain: DrainPanel | None = None
    drain_error: str = ""
    troubles: tuple[TroubleRow, ...] = ()


def use_page(context: PageContext, diary: DiaryForm | None = None) -> UsePage:
    """Make the page in the view its address asks for; with a calendar that was refused, that."""
    asked = context.query.get("view", "")
    shown = "diary" if diary else asked if asked in {key for key, _ in VIEWS} else "now"
    views = tuple((key, words, key == shown) for key, words in VIEWS)
    frame, _ = make_frame(context, "use")
    system = context.variant.system
    page = UsePage(frame, not system.parts, shown, views)
    if not system.parts:
        return page
    if shown == "diary":
        return replace(page, diary=diary_form(context, diary))
    if shown == "now":
        return _now(context, page)
    return _MAKES[shown](context, page, labels_of(system))


def _now(context: PageContext, page: UsePage) -> UsePage:
    form = read_now(context)
    names = labels_of(context.variant.system)
    return replace(
        page, form=form,
        draws=tuple((one.id, one.name, one.id == form.draw) for one in context.project.brief.draws),
        sources=tuple((key, names[key], key in form.on)
                      for key in sources_of(context.variant.built.system)),
        card=now_card(context, form) if form.asked and not form.error else None,
        card_query=str(context.query),
    )  # fmt: skip


def _drained(context: PageContext, page: UsePage, names: Mapping[str, str]) -> UsePage:
    """Show the drain-down of the state that is seen; why not where no network can be laid."""
    try:
        down = drained(context.project, context.variant, context.variant.standing)
    except CoreError as error:
        return replace(page, drain_error=error_words(error, context.units))
    return replace(page, drain=drain_panel(down, names, context.units))


Makes = Callable[[PageContext, UsePage, Mapping[str, str]], UsePage]
_MAKES: Final[Mapping[str, Makes]] = {
    "lead": lambda context, page, names: replace(page, lead=lead_part(context, names)),
    "tap": lambda context, page, _: replace(page, tap=tap_part(context)),
    "gauge": lambda context, page, _: replace(page, gauges=gauges_of(context)),
    "park": lambda context, page, names: replace(page, park=park_part(context, names)),
    "damp": lambda context, page, _: replace(page, damp=damp_part(context)),
    "routines": lambda context, page, names: replace(
        page, routines=routines_part(context, names, context.variant.standing)),
    "drain": _drained,
    "trouble": lambda context, page, names: replace(page, troubles=troubles(context, names)),
    "cards": lambda context, page, _: replace(page, print_cards=card_choice(context)),
}  # fmt: skip


def use_mark(context: PageContext, _: object) -> Mark:
    """Nothing here is wrong by itself."""
    if not context.variant.system.parts:
        return Mark("missing", "missing: parts")
    return Mark("done", "enough for a first answer")
