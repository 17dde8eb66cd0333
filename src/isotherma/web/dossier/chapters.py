"""Chapters on the design: what it does, its brief, route, spaces, days, budgets, checks."""

from __future__ import annotations

from typing import Final

from isotherma.core.drawing.plan import lay_out
from isotherma.core.errors import CoreError
from isotherma.core.quantity import duration_words, with_unit
from isotherma.core.results.levels import level_lines
from isotherma.core.results.outcome import Outcome
from isotherma.core.system.configuration import positions
from isotherma.core.system.nominal import computed
from isotherma.web.budgets.lines import WIDE, draw_lines
from isotherma.web.checks.page import finding_rows
from isotherma.web.dossier.blocks import Block, Chapter, Drawing, Sentences, Table, table
from isotherma.web.dossier.drawings import drawn
from isotherma.web.frame.context import PageContext
from isotherma.web.frame.found import checked
from isotherma.web.frame.frame import cell_of
from isotherma.web.frame.route_picture import Shown, draw, route_of
from isotherma.web.frame.words import position_words
from isotherma.web.shower.chart import make_chart
from isotherma.wording import SEVERITY_WORDS, cautions, error_words, reason_words, verdict

MONTHS: Final = ("January", "February", "March", "April", "May", "June", "July", "August",
                 "September", "October", "November", "December")  # fmt: skip
MOST_CURVES: Final = 6


def outcome_of(context: PageContext) -> Outcome | CoreError:
    """Give the day of the design, or why there is none."""
    return context.services.computing.result(context.project, context.variant)


def what_it_does(context: PageContext) -> Chapter:
    """Write the verdict, the budgets beside their limits, and what can hurt first."""
    result, units = outcome_of(context), context.units
    if isinstance(result, CoreError):
        return Chapter("verdict", "What it does",
                       (Sentences("", (error_words(result, units),)),))  # fmt: skip
    cells = [cell_of(entry, None, units) for entry in result.ledger
             if entry.used > 0.0 or entry.limit is not None]  # fmt: skip
    rows = [(cell.title, cell.used, cell.of, cell.margin or "–") for cell in cells]
    said = verdict(result, units)
    return Chapter("verdict", "What it does", (
        Sentences("", (f"{said[0].upper()}{said[1:]}",)),
        table("What is used, of how much", ("Budget", "Used", "Limit", "Margin"), rows, ""),
        Sentences("Know before you use it", cautions(result, units)),
    ))  # fmt: skip


def brief(context: PageContext) -> Chapter:
    """Write who washes when, and where."""
    asked, units = context.project.brief, context.units
    parts = {part.id: part.label for part in context.variant.system.parts}

    def degrees(value: float) -> str:
        return with_unit(value, "temperature", units)

    rows = [
        (one.name, one.who + (" (child)" if one.child else ""), with_unit(one.start_s, "clock"),
         duration_words(one.duration_s), f"{degrees(one.low_c)} to {degrees(one.high_c)}",
         parts.get(one.outlet or "", "first shower"))
        for one in asked.draws
    ]  # fmt: skip
    facts = [
        ("People", str(asked.people)), ("Days between fills", str(asked.trip_days)),
        ("Where", asked.region.replace("-", " ")), ("Month", MONTHS[asked.month - 1]),
        ("Living space kept at", degrees(asked.inside_c)),
        ("Other water in a day", with_unit(asked.other_fresh_m3, "volume", units)),
    ]  # fmt: skip
    return Chapter("brief", "Brief", (
        table("", ("What", "It is"), facts, ""),
        table("Draws of a day", ("What for", "Who", "At", "Runs for", "Wanted", "Where"), rows,
              "Nobody washes yet."),
        *((Sentences("Note", (asked.note,)),) if asked.note else ()),
    ))  # fmt: skip


def route(context: PageContext) -> Chapter:
    """Draw the way of the water."""
    system = context.variant.built.system
    nodes, lines = route_of(system)
    if not nodes:
        return Chapter("route", "Route", (Sentences("", ("Nothing is laid out yet.",)),))
    picture = draw(Shown(system, None, "", {}, {}, {}, context.units), lay_out(nodes, lines),
                   lines, "wide")  # fmt: skip
    svg = drawn("_glyphs.html", "route(picture, '', '', name, live=False)", picture=picture,
                name=context.project.name)  # fmt: skip
    return Chapter("route", "Route", (Drawing("", svg, "From the tank to the head."),), wide=True)


def spaces(context: PageContext) -> Chapter:
    """Say what lives where, and how it stands in each state."""
    system = context.variant.system
    rows = []
    for space in system.spaces:
        inside = [part.label for part in system.parts if part.space == space.id]
        rows.append((space.name, space.warmth, ", ".join(inside) or "–"))
    usual = positions(system, None)
    stands = []
    for state in system.states:
        at = positions(system, state)
        moved = [part for part in system.parts if part.positions and at[part.id] != usual[part.id]]
        other = [f"{part.label}: {position_words(system, part, at[part.id])}" for part in moved]
        dry = [part.label for part in system.parts if part.id in state.dry]
        empty = f"; empty: {', '.join(dry)}" if dry else ""
        stands.append((state.name, ("; ".join(other) or "all as usual") + empty))
    return Chapter("spaces", "Spaces and states", (
        table("", ("Space", "Warmth", "In it"), rows, "No space is named yet."),
        table("How it stands", ("State", "Otherwise than usual"), stands, "One state: as usual."),
    ))  # fmt: skip


def day(context: PageContext) -> Chapter:
    """Draw what comes out of the head, and its figures."""
    result, units = outcome_of(context), context.units
    if isinstance(result, CoreError):
        return Chapter("day", "The day", (Sentences("", (error_words(result, units),)),))
    limit_s = result.brief.budgets.longest_wait_s

    def figure(value: float | None, style: str) -> str:
        return "–" if value is None else with_unit(value, style, units)

    rows = [
        (one.draw.name, with_unit(one.start_s, "clock"),
         "never warm" if one.wait_s is None else duration_words(one.wait_s),
         f"{figure(one.comfort_m3, 'volume')}, {duration_words(one.comfort_s)}",
         figure(one.mean_c, "temperature"), figure(one.flow_m3_per_s, "flow"),
         reason_words(one, limit_s, units) or "as asked")
        for one in result.draws
    ]  # fmt: skip
    heads = ("Draw", "At", "Wait", "Good", "Mean", "Flow", "It is")
    blocks: list[Block] = [table("", heads, rows, "Nobody washes yet.")]
    for index, one in enumerate(result.draws[:MOST_CURVES]):
        chart = make_chart(result, index, "litres", units)
        if chart is not None:
            svg = drawn("_macros.html", "chart(chart, 0, key=key)", chart=chart, key=f"d{index}")
            blocks.append(Drawing(one.draw.name, svg, chart.description))
    if len(result.draws) > MOST_CURVES:
        more = f"{len(result.draws) - MOST_CURVES} more draws are in the table alone."
        blocks.append(Sentences("", (more,)))
    return Chapter("day", "The day", tuple(blocks))


def budgets(context: PageContext) -> Chapter:
    """Draw every budget through the trip."""
    result, units = outcome_of(context), context.units
    if isinstance(result, CoreError):
        return Chapter("budgets", "Budgets", (Sentences("", (error_words(result, units),)),))
    binding = next((entry.budget for entry in result.ledger if entry.binds), "")
    pictures = draw_lines(level_lines(result.course), result.course, binding, units, WIDE)
    blocks = [
        Drawing(one.title, drawn("_macros.html", "level(p)", p=one), one.words) for one in pictures
    ]
    if not blocks:
        return Chapter("budgets", "Budgets",
                       (Sentences("", ("Nothing that is carried has a limit yet.",)),))  # fmt: skip
    return Chapter("budgets", "Budgets", tuple(blocks))


def checks(context: PageContext) -> Chapter:
    """List what was found, with its figures, and who has answered for it."""
    if not context.built.system.parts:
        return Chapter("checks", "Checks", (Sentences("", ("There is nothing to look at yet.",)),))
    result = checked(context)
    rows = finding_rows(context, result)
    blocks: list[Block] = [Sentences("", (
        f"Looked at by the limits “{result.rules.name}”. These are findings of a computation, no "
        "inspection: a licensed person decides on gas, mains and flues.",))]  # fmt: skip
    for severity, words in SEVERITY_WORDS.items():
        mine = [row for row in rows if row.severity == severity.value]
        if mine:
            blocks.append(table(words, ("Finding", "Figure", "Limit", "What mends it", "Who"), [
                (f"{row.sign} {row.sentence}" + (
                    f" Answered for by {row.by}: {row.reason}" if row.by else ""),
                 row.figure or "–", row.limit or "–", row.remedy, row.who)
                for row in mine], "", (42, 10, 10, 22, 16)))  # fmt: skip
    return Chapter("checks", "Checks", tuple(blocks))


def assumed(context: PageContext) -> Chapter:
    """List every figure that nobody entered and that counts all the same."""
    known, units = computed(context.variant.built.system), context.units
    rows: list[tuple[str, ...]] = []
    for piece in (*known.parts, *known.runs):
        for one in known.figures(piece.id):
            if one.origin != "assumed" or one.likely is None:
                continue
            low, high = (None if value is None else with_unit(value, one.style, units)
                         for value in (one.low, one.high))  # fmt: skip
            between = "" if one.low == one.high or not low or not high else f"{low} to {high}"
            rows.append((piece.label, one.title, with_unit(one.likely, one.style, units), between,
                         one.because))  # fmt: skip
    return Chapter("assumed", "What was assumed", (
        Sentences("", ("Nobody entered these: they are usual for their kind, and the answers hang "
                       "on them.",)),
        Table("", ("Part or run", "Figure", "Taken as", "May be", "Because"), tuple(rows),
              "Nothing: every figure was entered or follows from one.", (22, 20, 14, 18, 26)),
    ))  # fmt: skip
