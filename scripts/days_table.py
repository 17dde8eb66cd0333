"""Write docs/days.md: every starting layout and demo over a winter and a summer day and ten days.

Usage: .venv/bin/python scripts/days_table.py
"""

from __future__ import annotations

from pathlib import Path

from isotherma.catalogue.demo import curlew, drover, folio
from isotherma.catalogue.layouts import layouts
from isotherma.core.climate import MONTHS
from isotherma.core.project import Project
from isotherma.core.quantity import Habit, duration_words, with_unit
from isotherma.core.results.carried import battery_level
from isotherma.core.results.ledger import TITLES
from isotherma.core.results.outcome import Outcome
from isotherma.services.computing import compute

OUT = Path(__file__).parents[1] / "docs" / "days.md"
COLUMNS = (
    "layout", "month", "as asked", "wait", "hottest at the head", "fresh a day",
    "fuel or mains in ten days", "battery", "first to run out in ten days",
)  # fmt: skip
HEAD = (
    "# Every starting layout over a day and ten\n\n"
    "Written by `scripts/days_table.py` from the engine; the brief is the layout's own, in January "
    "and in July, and the budgets are those of ten days. “Battery” is the lowest it gets on the "
    "ten days, or when it is empty. The sentences under the table are judgement: whether the "
    "figures are plausible, and what was corrected because they were not.\n\n"
    f"| {' | '.join(COLUMNS)} |\n{'|---' * len(COLUMNS)}|\n"
)


def _row(name: str, project: Project, month: int) -> str:
    brief = project.brief.model_copy(update={"month": month, "days": 10})
    found = compute(project.model_copy(update={"brief": brief}), project.variants[0])
    if not isinstance(found, Outcome):
        return f"| {name} | {MONTHS[month - 1]} | not computed | | | | | | |\n"
    entries = {entry.budget: entry for entry in found.ledger}
    met = sum(draw.met for draw in found.draws)
    wait = max((draw.wait_s or brief.gives_up_s for draw in found.draws), default=0.0)
    peak = max((draw.peak_c or 0.0 for draw in found.draws), default=0.0)
    fuel = ", ".join(
        f"{with_unit(entries[key].used, entries[key].style, Habit.METRIC)} {TITLES[key].lower()}"
        for key in ("gas", "diesel", "mains")
        if entries[key].used > 0.0
    )
    level = battery_level(found.course, found.timeline, 10)
    power = "none drawn" if level is None else (
        f"empty on day {int(level.empty_s // 86400) + 1}" if level.empty_s is not None
        else f"{level.least_j / max(found.course.hours.usable_j or 1.0, 1.0):.0%} left"
    )  # fmt: skip
    ends = [entry for entry in found.ledger if entry.ends_on_day is not None]
    first = min(ends, key=lambda entry: entry.ends_on_day or 0, default=None)
    out = "nothing" if first is None else f"{TITLES[first.budget].lower()}, day {first.ends_on_day}"
    return (
        f"| {name} | {MONTHS[month - 1]} | {met} of {len(found.draws)} | {duration_words(wait)} | "
        f"{peak:.1f} °C | {with_unit(entries['fresh'].used_per_day, 'volume', Habit.METRIC)} | "
        f"{fuel or 'none'} | {power} | {out} |\n"
    )


def main() -> None:
    """Write the table and keep the sentences that follow it."""
    projects = [(layout.name, layout.project()) for layout in layouts().values()]
    projects += [("Demo: Drover", drover()), ("Demo: Folio", folio()), ("Demo: Curlew", curlew())]
    rows = "".join(_row(name, project, month) for name, project in projects for month in (1, 7))
    kept = ""
    if OUT.exists():
        _, _, kept = OUT.read_text(encoding="utf-8").partition("\n## ")
    text = HEAD + rows + ("\n## " + kept if kept else "")
    OUT.write_text(text, encoding="utf-8")


if __name__ == "__main__":
    main()
