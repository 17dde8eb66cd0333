"""Chapters on the work: what is bought, cut and drilled, tests, cards, who signs, an offer."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from typing import Final

from isotherma.core.building.order import Plan
from isotherma.core.errors import PlanCircle
from isotherma.core.joints.pricing import Shopping
from isotherma.core.quantity import duration_words
from isotherma.services.building import labels_of, planned
from isotherma.services.plan_keeping import Ticked
from isotherma.services.shopping import shopping
from isotherma.web.build.page import TIGHTNESS_TASK, stage_row, task_rows
from isotherma.web.build.results import read_in_stages
from isotherma.web.dossier.blocks import Block, Chapter, Sentences, Sign, table
from isotherma.web.frame.context import PageContext
from isotherma.web.shopping.buy import buy_view
from isotherma.web.shopping.drilling import holes_view
from isotherma.web.shopping.pieces import pieces_view
from isotherma.web.use.cards import Card, cards_of, shower_cards
from isotherma.wording import TRADE_WORDS

HOUR_MIN: Final = 60.0
WIDTHS: Final = (26, 18, 12, 32, 12)
SIGNED_FOR: Final = (
    "What a licensed person signs here is what they looked at on that day, as this version has it. "
    "Local rules decide what must be tested, by whom, and how it is recorded."
)
NOT_TIGHT: Final = "▲ The gas tightness test is not recorded: nothing that burns gas is lit."


@dataclass(frozen=True, slots=True)
class Terms:
    """What an offer is reckoned with, in the project's own money; hours None: by the plan."""

    rate: float | None = None
    hours: float | None = None
    visit: float | None = None
    note: str = ""


def _made(context: PageContext) -> Shopping:
    return shopping(context.project, context.variant)


def parts(context: PageContext) -> Chapter:
    """List what is bought, cut and drilled."""
    if not context.variant.system.parts:
        return Chapter("parts", "Parts", (Sentences("", ("There are no parts yet.",)),))
    made = _made(context)
    buy = buy_view(context, made, saves=False)
    cut, holes = pieces_view(context, made), holes_view(context, made)
    blocks: list[Block] = [Sentences("", buy.said)]
    heads = ("What", "Size", "Buy", "For", "Price")
    for shop in buy.shops:
        blocks.append(table(shop.title, heads, [
            (row.what, row.size, row.buy, "; ".join(filter(None, (row.about, row.note))),
             row.price or "not priced") for row in shop.rows], "", WIDTHS))  # fmt: skip
    if buy.spares:
        blocks.append(table("Spares", heads, [
            (row.what, row.size, row.buy, row.about, row.price or "not priced")
            for row in buy.spares], "", WIDTHS))  # fmt: skip
    pieces = [(row.label, row.run, row.size, row.cut, row.bar, row.leave)
              for size in cut.sizes for row in size.rows]  # fmt: skip
    blocks.append(table("Cutting list", ("Piece", "Run", "Size", "Cut", "From", "And"), pieces,
                        cut.said, (8, 30, 18, 12, 12, 20)))  # fmt: skip
    waiting = tuple(f"{one.label}: {one.lacks}" for one in (*cut.open, *cut.more_open))
    if waiting:
        blocks.append(Sentences("Not measured yet", waiting))
    blocks.append(table(
        "Holes", ("Hole", "Where", "Bore", "Pilot from", "Behind it", "Steps"),
        [(row.name, row.between, row.bore, row.pilot, row.behind or "not looked at",
          "; ".join(row.order)) for row in holes.rows], "Nothing is drilled.",
        (18, 16, 8, 10, 14, 34)))  # fmt: skip
    return Chapter("parts", "Parts, cutting and holes", tuple(blocks))


def _plan(context: PageContext) -> Plan | None:
    try:
        return planned(context.project, context.variant,
                       players=context.services.fault_finding.player)  # fmt: skip
    except PlanCircle:
        return None


def _ticked(context: PageContext) -> Mapping[str, Ticked]:
    return context.services.plan_keeping.ticked(context.opened.vehicle_id, context.variant_id)


def tests(context: PageContext) -> Chapter:
    """List the tests in stages, what they expect and what was read, and what is done."""
    plan = _plan(context) if context.variant.system.parts else None
    if plan is None:
        return Chapter("tests", "Tests", (Sentences("", ("No plan can be made yet.",)),))
    names, ticked = labels_of(context.variant.system), _ticked(context)
    logged = read_in_stages(context)
    rows = []
    for stage in plan.stages:
        row = stage_row(context, stage, names, logged)
        tick = ticked.get(f"test.{stage.id}")
        expects = "; ".join(one.words for one in row.expect) or row.lacks or "looked at"
        read = "; ".join(f"{one.read}, {one.judged}" for one in row.expect if one.read) or "–"
        done = "open" if tick is None else f"{tick.state} {tick.at:%Y-%m-%d} {tick.by}".strip()
        rows.append((row.title, expects, read, done))
    about = {one.about for one in context.services.photos.listed(
        context.opened.vehicle_id, context.variant_id)}  # fmt: skip
    tasks = task_rows(plan, names, ticked, context.variant.system, about)
    said = [(row.title, row.said + (" – before a change" if row.changed else ""))
            for row in tasks if row.said]  # fmt: skip
    return Chapter("tests", "Tests and work done", (
        table("Tests in stages", ("Test", "Expects", "Was read", "Done"), rows, "No test yet.",
              (24, 36, 22, 18)),
        table("Done so far", ("Task", "By whom, when"), said, "Nothing is ticked yet."),
    ))  # fmt: skip


def cards(context: PageContext) -> Chapter:
    """Write every card of the door."""
    return Chapter("cards", "Cards for the door", _written(cards_of(
        context, context.variant.standing)))  # fmt: skip


def card(context: PageContext) -> Chapter:
    """Write what whoever uses it needs: a warm shower, and what to shut if something is wrong."""
    return Chapter("card", "A warm shower, and if something is wrong", _written(shower_cards(
        context, context.variant.standing)))  # fmt: skip


def _written(found: Iterable[Card]) -> tuple[Block, ...]:
    blocks: list[Block] = []
    for one in found:
        steps = tuple(" ".join(filter(None, (
            f"{step.first}:" if step.first else "", step.words,
            f"({step.small})" if step.small else ""))) for step in one.steps)  # fmt: skip
        blocks.append(Sentences(one.title, steps, steps=True, caution=one.caution))
        if one.said:
            blocks.append(Sentences("", one.said))
    return tuple(blocks) or (Sentences("", ("There is nothing to use yet.",)),)


def sign(context: PageContext) -> Chapter:
    """Give the sheet for licensed people: what is theirs, and where they sign."""
    plan = _plan(context) if context.variant.system.parts else None
    names, ticked = labels_of(context.variant.system), _ticked(context)
    blocks: list[Block] = [Sentences("", (SIGNED_FOR,))]
    rows = [] if plan is None else [
        row for row in task_rows(plan, names, ticked, context.variant.system, frozenset())
        if row.licensed
    ]  # fmt: skip
    system = context.variant.system
    if system.gas_tested_on or system.gas_tested_by:
        on, by = system.gas_tested_on or "a day nobody said", system.gas_tested_by or "nobody named"
        blocks.append(Sentences("", (f"Gas tested for tightness on {on} by {by}.",)))
    blocks += _reviews(context)
    if not rows:
        blocks.append(Sentences("", ("Nothing of this design is for a licensed person alone.",)))
        return Chapter("sign", "For licensed people", tuple(blocks))
    for trade in dict.fromkeys(row.trade for row in rows):
        mine = [row for row in rows if row.trade == trade]
        recorded = "; ".join(row.said for row in mine if row.said)
        blocks.append(Sign(trade.capitalize(), tuple(row.title for row in mine), recorded))
    tight = ticked.get(TIGHTNESS_TASK)
    if any(row.id == TIGHTNESS_TASK for row in rows) and (tight is None or tight.record is None):
        blocks.append(Sentences("", (NOT_TIGHT,)))
    return Chapter("sign", "For licensed people", tuple(blocks))


def _reviews(context: PageContext) -> list[Block]:
    """Write what was signed by links, and what was changed since."""
    found: list[Block] = []
    for one in context.services.sharing.reviews(
        context.opened.vehicle_id, context.variant_id, context.variant.system
    ):
        found.append(table(
            f"{one.name}, {one.trade}, licence {one.licence}, {one.on}",
            ("What", "They say", "Note"),
            [(item.title, item.verdict, item.note or "–") for item in one.items], ""))  # fmt: skip
        rows = [f"Signed of version {one.revision_id}, content {one.digest[:12]}."]
        rows += [f"Before a change: {', '.join(one.changed)}."] if one.changed else []
        rows += [one.note] if one.note else []
        rows += [f"Answered: {one.answer}"] if one.answer else []
        rows += [f"Dealt with on {one.closed:%Y-%m-%d}."] if one.closed is not None else []
        found.append(Sentences("", tuple(rows)))
    return found


def offer(context: PageContext, terms: Terms) -> Chapter:
    """Reckon an offer: parts, hours by one's own rate, licensed visits, what is not in it."""
    plan = _plan(context) if context.variant.system.parts else None
    if plan is None:
        return Chapter("offer", "Offer", (Sentences("", ("No plan can be made yet.",)),))
    made, money = _made(context), context.project.currency or "of your money"
    minutes = [one.task.minutes for one in plan.tasks if one.task.who == "builder"]
    planned_h = sum(one for one in minutes if one is not None) / HOUR_MIN
    hours = planned_h if terms.hours is None else terms.hours
    visits = len(plan.visits)

    def sums(value: float | None) -> str:
        return "not known" if value is None else f"{value:,.2f} {money}"

    labour = None if terms.rate is None else hours * terms.rate
    licensed = 0.0 if not visits else None if terms.visit is None else visits * terms.visit
    known = [value for value in (made.money.sum, labour, licensed) if value is not None]
    rate = "rate not said" if terms.rate is None else f"at {terms.rate:g} {money} an hour"
    each = "" if terms.visit is None else f", {terms.visit:g} {money} each"
    rows = [
        ("Parts", f"{made.money.unknown} lines are not priced and not in it"
         if made.money.unknown else "every line priced", sums(made.money.sum)),
        ("Work", f"{hours:.1f} hours{' by the plan' if terms.hours is None else ''}, {rate}",
         sums(labour)),
        ("Licensed visits", f"{visits} by the plan{each}", sums(licensed)),
        ("Together", "what is known of it", sums(sum(known) if known else None)),
    ]  # fmt: skip
    not_in = [
        *(f"{made.money.unknown} lines of the list that have no price." for _ in range(1)
          if made.money.unknown),
        *(f"{sum(one is None for one in minutes)} tasks whose minutes nobody knows." for _ in
          range(1) if None in minutes),
        "Taxes, travel, tools, and what is found behind a lining.",
        "What a licensed person asks to be changed.",
    ]  # fmt: skip
    trades = dict.fromkeys(TRADE_WORDS[visit.trade] for visit in plan.visits)
    if trades:
        not_in.append(f"Certificates of: {', '.join(trades)}.")
    waits = sum(one.task.waits_min for one in plan.tasks)
    blocks: list[Block] = [
        table("", ("What", "How it is reckoned", "Sum"), rows, ""),
        Sentences("Not in it", tuple(not_in)),
    ]
    if waits:
        waiting = f"Beside the hours of hands {duration_words(waits * HOUR_MIN)} of waiting."
        blocks.append(Sentences("", (waiting,)))
    if terms.note:
        blocks.append(Sentences("Note", (terms.note,)))
    return Chapter("offer", "Offer", tuple(blocks))
