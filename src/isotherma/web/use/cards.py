"""Cards to print: one page that stands alone, in the size of the paper, with a code for phones."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from dataclasses import dataclass, replace
from typing import ClassVar, Final

from markupsafe import Markup

from isotherma.core.errors import CoreError
from isotherma.core.system.states import State
from isotherma.files.qr import qr_svg
from isotherma.services.flows import drained
from isotherma.web.frame.context import PageContext
from isotherma.web.frame.draining import drain_panel
from isotherma.web.use.care import routines_part
from isotherma.web.use.views import NowForm, gauges_of, now_card, troubles
from isotherma.wording import ROUTINES

SIZES: Final[Mapping[str, str]] = {
    "a6": "A6", "a5": "A5", "a4": "A4", "letter": "US letter",
}  # fmt: skip
# A6 has no name in style sheets
PAGE: Final[Mapping[str, str]] = {
    "a6": "105mm 148mm", "a5": "A5", "a4": "A4", "letter": "letter",
}  # fmt: skip
MARGIN_MM: Final[Mapping[str, int]] = {"a6": 7, "a5": 10, "a4": 14, "letter": 14}
BASE_PT: Final[Mapping[str, float]] = {"a6": 10.0, "a5": 12.0, "a4": 14.5, "letter": 14.5}
KINDS: Final = {"now": "A warm shower", "gauge": "What the gauge says", "drain": "Drain-down",
                "trouble": "If something is wrong"}  # fmt: skip


NO_CODE: Final = Markup("")
FEW_STEPS: Final = 8


@dataclass(frozen=True, slots=True)
class CardStep:
    """One line of a card: when or how long, what to do, and beside it in small."""

    first: str
    words: str
    small: str = ""


@dataclass(frozen=True, slots=True)
class Card:
    """One card: its steps in order, sentences under them, and where its live page is."""

    id: str
    title: str
    caution: str
    steps: tuple[CardStep, ...]
    said: tuple[str, ...] = ()
    qr: Markup = NO_CODE

    @property
    def few(self) -> bool:
        """Whether it has room for large letters."""
        return len(self.steps) <= FEW_STEPS


@dataclass(frozen=True, slots=True)
class CardsPage:
    """The whole set, or one of it, for one state."""

    template: ClassVar[str] = "cards.html"
    title: str
    state: str
    cards: tuple[Card, ...]
    size: str
    no_code: bool
    style: Markup


@dataclass(frozen=True, slots=True)
class CardChoice:
    """What can be printed: states, sizes, cards."""

    states: tuple[tuple[str, str, bool], ...]
    sizes: tuple[tuple[str, str], ...]
    cards: tuple[tuple[str, str], ...]
    no_code: bool


def card_choice(context: PageContext) -> CardChoice:
    """Say what can be printed."""
    standing = context.variant.standing
    states = tuple((one.id, one.name, one is standing) for one in context.variant.system.states)
    return CardChoice(
        states, tuple(SIZES.items()), tuple({**KINDS, **ROUTINES}.items()),
        not context.address,
    )  # fmt: skip


def page_style(base: str, size: str) -> str:
    """Give the style of a page of cards in a size; one string, so that its hash can be named."""
    return (f"{base}\n@page {{ size: {PAGE[size]}; margin: {MARGIN_MM[size]}mm; }}\n"
            f"@media print {{ body {{ font-size: {BASE_PT[size]}pt; }} }}\n")  # fmt: skip


def cards_page(context: PageContext, base: str) -> CardsPage:
    """Make the cards the address asks for."""
    query = context.query
    size = query.get("size", "")
    size = size if size in SIZES else "a6"
    state = _state(context, query.get("state", ""))
    only = query.get("card", "")
    cards = tuple(card for card in cards_of(context, state)
                  if not only or card.id.split(".")[0] == only)  # fmt: skip
    return CardsPage(
        context.project.name, state.name if state is not None else "", cards, size,
        not context.address, Markup(page_style(base, size)),
    )  # fmt: skip


def _state(context: PageContext, wanted: str) -> State | None:
    for one in context.variant.system.states:
        if one.id == wanted:
            return one
    return context.variant.standing


def _standing(context: PageContext, state: State | None) -> PageContext:
    """Look at the design as it stands in a state; what is saved stays as it is."""
    if state is None or state is context.variant.standing:
        return context
    project = context.project
    stands = tuple(one.model_copy(update={"state": state.id}) if one.id == context.variant_id
                   else one for one in project.variants)  # fmt: skip
    shown = project.model_copy(update={"variants": stands})
    return replace(context, opened=replace(context.opened, project=shown))


def cards_of(context: PageContext, state: State | None) -> Iterator[Card]:
    """Write every card of a design in a state."""
    names = _names(context)
    context = _standing(context, state)
    base = f"{context.path_of('design.use')}"
    if context.project.brief.draws:
        yield _now(context, base)
    for gauge in gauges_of(context):
        if gauge.rows:
            rows = tuple(CardStep(shows, litres, f"{left} showers" if left else "")
                         for shows, litres, left in gauge.rows)  # fmt: skip
            yield Card("gauge", f"Gauge: {gauge.title}", "", rows,
                       qr=_qr(context, f"{base}?view=gauge"))  # fmt: skip
    for one in routines_part(context, names, state).rows:
        steps = tuple(CardStep("", step.words, _small(step.time, step.where, step.wrong))
                      for step in one.steps)  # fmt: skip
        yield Card(one.id, one.title, one.caution, steps,
                   qr=_qr(context, f"{base}?view=routines#routine-{one.id}"))  # fmt: skip
    yield from _drain(context, state, names, base)
    yield from _troubles(context, names, base)


def shower_cards(context: PageContext, state: State | None) -> Iterator[Card]:
    """Write the few of them that a guest needs: a warm shower, and what to shut when."""
    names = _names(context)
    context = _standing(context, state)
    base = f"{context.path_of('design.use')}"
    if context.project.brief.draws:
        yield _now(context, base)
    yield from _troubles(context, names, base)


def _troubles(context: PageContext, names: Mapping[str, str], base: str) -> Iterator[Card]:
    for trouble in troubles(context, names):
        yield Card(f"trouble.{trouble.id}", trouble.title, trouble.first,
                   tuple(CardStep("", words) for words in trouble.shuts),
                   qr=_qr(context, f"{base}?view=trouble"))  # fmt: skip


def _small(time: str, where: str, wrong: tuple[str, ...]) -> str:
    rows = [time] if time else []
    rows += [f"in {where}"] if where else []
    return ", ".join((*rows, *(f"▲ right after it: {words}" for words in wrong)))


def _now(context: PageContext, base: str) -> Card:
    """Answer for the first draw, as soon as it is warm, with all that can be switched on."""
    draw = context.project.brief.draws[0]
    form = NowForm(draw.id, on=context.services.using.sources(context.variant), asked=True)
    answer = now_card(context, form)
    steps = tuple(CardStep(act.when, act.words) for act in answer.acts)
    said = (answer.error,) if answer.error else answer.said
    live = f"{base}/card?ask=1&draw={draw.id}" + "".join(f"&on={key}" for key in form.on)
    return Card("now", f"A warm shower: {draw.name}",
                "Test the water with the back of your hand before anybody stands under it.",
                steps, said, _qr(context, live))  # fmt: skip


def _drain(
    context: PageContext, state: State | None, names: Mapping[str, str], base: str
) -> Iterator[Card]:
    try:
        down = drained(context.project, context.variant, state)
    except CoreError:
        return
    panel = drain_panel(down, names, context.units)
    off = (CardStep("", f"Off or shut: {', '.join(panel.off)}."),) if panel.off else ()
    steps = tuple(CardStep(one.words, f"Open {one.label}.") for one in panel.steps)
    yield Card("drain", KINDS["drain"], "Let hot water cool before you open anything under it.",
               (*off, *steps), (panel.sentence, *panel.trapped[:6]),
               _qr(context, f"{base}?view=drain"))  # fmt: skip


def _qr(context: PageContext, path: str) -> Markup:
    """Draw the code of a live page at the address phones reach; nothing on loopback."""
    return Markup(qr_svg(f"{context.address}{path}")) if context.address else NO_CODE


def _names(context: PageContext) -> dict[str, str]:
    return {piece.id: piece.label
            for piece in (*context.variant.system.parts, *context.variant.system.runs)}  # fmt: skip
