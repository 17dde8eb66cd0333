"""Write docs/days.md: every starting layout and demo over a winter and a summer day and ten days.

Usage: PYTHONPATH=src .venv/bin/python scripts/days_table.py
"""

from __future__ import annotations

from pathlib import Path

from isotherma.catalogue.demo import curlew, drover, folio
from isotherma.catalogue.layouts import layouts
from isotherma.core.climate import MONTHS
from isotherma.core.project import Project
from isotherma.core.quantity import UnitSystem, duration_words, with_unit
from isotherma.core.results.inventory import battery_level
from isotherma.core.results.ledger import TITLES
from isotherma.core.results.outcome import Outcome
from isotherma.services.runs import compute
from isotherma.wording import verdict

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
    metric = UnitSystem.METRIC
    fuel = ", ".join(
        f"{with_unit(entries[key].used, entries[key].style, metric)} {TITLES[key].lower()}"
        for key in ("gas", "diesel", "mains")
        if entries[key].used > 0.0
    )
    level = battery_level(found.setup, found.timeline, 10)
    power = (
        "none drawn"
        if level is None
        else (
            f"empty on day {int(level.empty_s // 86400) + 1}"
            if level.empty_s is not None
            else f"{level.least_j / max(found.setup.hours.usable_j or 1.0, 1.0):.0%} left"
        )
    )
    ends = [entry for entry in found.ledger if entry.ends_on_day is not None]
    first = min(ends, key=lambda entry: entry.ends_on_day or 0, default=None)
    out = "nothing" if first is None else f"{TITLES[first.budget].lower()}, day {first.ends_on_day}"
    return (
        f"| {name} | {MONTHS[month - 1]} | {met} of {len(found.draws)} | {duration_words(wait)} | "
        f"{peak:.1f} °C | {with_unit(entries['fresh'].used_per_day, 'volume', metric)} | "
        f"{fuel or 'none'} | {power} | {out} |\n"
    )


STATES_HEAD = (
    "\n# Every state over four months\n\n"
    "The same layouts and demos, one day in January, April, July and October, in every state they "
    "have as the state of the day. Four figures are those of the four months, one that of all. A "
    "state for driving or for winter is no state to wash in: it says why there is no water.\n\n"
    "| layout | state | as asked | longest wait | hottest at the head | what the verdict begins "
    "with, in January |\n|---|---|---|---|---|---|\n"
)
MONTHS_ASKED = (1, 4, 7, 10)
FIRST_WORDS = 90


def _joined(values: list[str]) -> str:
    return values[0] if len(set(values)) == 1 else ", ".join(values)


def _state_rows(name: str, project: Project) -> str:
    variant, rows = project.variants[0], ""
    for state in variant.system.states or (None,):
        met, wait, peak, first = [], [], [], ""
        for month in MONTHS_ASKED:
            brief = project.brief.model_copy(update={"month": month})
            found = compute(project.model_copy(update={"brief": brief}), variant, state)
            if not isinstance(found, Outcome):
                met.append("refused")
                wait.append("refused")
                peak.append("refused")
                first = first or str(found)
                continue
            met.append(f"{sum(draw.met for draw in found.draws)} of {len(found.draws)}")
            waits = [draw.wait_s for draw in found.draws]
            longest = max((one for one in waits if one is not None), default=None)
            wait.append("never" if longest is None else duration_words(longest))
            hottest = max((draw.peak_c or 0.0 for draw in found.draws), default=0.0)
            peak.append(f"{hottest:.1f} °C" if hottest else "no water")
            first = first or verdict(found, UnitSystem.METRIC)
        words = first if len(first) <= FIRST_WORDS else first[:FIRST_WORDS].rsplit(" ", 1)[0] + " …"
        rows += (
            f"| {name} | {state.name if state else 'as it stands'} | {_joined(met)} | "
            f"{_joined(wait)} | {_joined(peak)} | {words} |\n"
        )
    return rows


def main() -> None:
    """Write the table and keep the sentences that follow it."""
    projects = [(layout.name, layout.project()) for layout in layouts().values()]
    projects += [("Demo: Drover", drover()), ("Demo: Folio", folio()), ("Demo: Curlew", curlew())]
    rows = "".join(_row(name, project, month) for name, project in projects for month in (1, 7))
    kept = ""
    if OUT.exists():
        _, _, kept = OUT.read_text(encoding="utf-8").partition("\n## ")
    states = "".join(_state_rows(name, project) for name, project in projects)
    text = HEAD + rows + STATES_HEAD + states + ("\n## " + kept if kept else "")
    OUT.write_text(text, encoding="utf-8")


if __name__ == "__main__":
    main()
