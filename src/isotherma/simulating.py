"""What `simulate` and `trip` do: days computed, in words, as an object, written as a table."""

from __future__ import annotations

import json
from collections.abc import Callable
from pathlib import Path
from typing import NoReturn

from isotherma.commands import band_lines
from isotherma.core.project import Project, Variant
from isotherma.core.quantity import UnitSystem, duration_words, with_unit
from isotherma.core.results.last_day import LastDay
from isotherma.core.results.ledger import TITLES
from isotherma.core.results.outcome import Outcome
from isotherma.core.results.trip import BUDGET_STYLES
from isotherma.core.system.states import State
from isotherma.files.report_json import REPORT_FORMAT, band_object, report
from isotherma.files.timeline_csv import write_timeline
from isotherma.files.trip_json import TRIP_FORMAT, trip_object
from isotherma.services.runs import compute, compute_band, play_last_day
from isotherma.wording import (
    cautions,
    day_kind_words,
    error_words,
    fails_words,
    last_day_words,
    left_words,
    reason_words,
    stops_words,
    verdict,
)

Fail = Callable[[str, int], NoReturn]


def simulated(
    project: Project, chosen: Variant, standing: State | None, units: UnitSystem, fail: Fail, *,
    as_json: bool, csv: Path | None, band: bool,
) -> None:  # fmt: skip
    """Simulate one day and print it; what cannot be is told with status 3."""
    outcome = _computed(project, chosen, standing, units, fail, REPORT_FORMAT if as_json else "")
    if csv is not None:
        try:
            csv.write_text(write_timeline(outcome), encoding="utf-8")
        except OSError as error:
            fail(f"{csv}: {error.strerror}.", 2)
    last = play_last_day(outcome)
    ranged = compute_band(project, chosen, outcome, standing) if band else None
    if as_json:
        data = report(outcome, last, name=project.name, variant=chosen.id, units=units)
        if ranged is not None:
            data["band"] = band_object(ranged)
        print(json.dumps(data, ensure_ascii=False, indent=2, allow_nan=False))
    else:
        _print(outcome, last, units)
        if ranged is not None:
            print("\n".join(band_lines(ranged, units)))


def followed(
    project: Project, chosen: Variant, standing: State | None, units: UnitSystem, fail: Fail, *,
    as_json: bool,
) -> None:  # fmt: skip
    """Follow every budget through the trip and print it; what cannot be is told with status 3."""
    outcome = _computed(project, chosen, standing, units, fail, TRIP_FORMAT if as_json else "")
    if as_json:
        data = trip_object(outcome, name=project.name, variant=chosen.id)
        print(json.dumps(data, ensure_ascii=False, indent=2, allow_nan=False))
        return
    print(fails_words(outcome.trip))
    kinds = {kind.id: kind for kind in project.brief.day_kinds}
    for day in outcome.trip.days:
        kind = kinds.get(day.kind)
        said = f": {kind.name} ({day_kind_words(kind, units)})" if kind is not None else ""
        print(f"  Day {day.number}{said}; {day.draws_met} of {day.draws} as asked")
        for row in day.budgets:
            if row.used <= 0.0:
                continue
            left = "" if row.level is None else f", {left_words(row, units)}"
            out = "" if row.ends_s is None else f", out at {with_unit(row.ends_s, 'clock')}"
            used = with_unit(row.used, BUDGET_STYLES[row.budget], units)
            print(f"    {TITLES[row.budget]}: {used}{left}{out}")
    print(stops_words(outcome.trip))


def _computed(
    project: Project, chosen: Variant, standing: State | None, units: UnitSystem, fail: Fail,
    json_format: str,
) -> Outcome:  # fmt: skip
    outcome = compute(project, chosen, standing)
    if not isinstance(outcome, Outcome):
        words = error_words(outcome, units)
        if json_format:
            part = getattr(outcome, "part_id", None)
            data = {"code": outcome.code, "message": words, "part": part}
            print(json.dumps({"format": json_format, "error": data}, ensure_ascii=False))
        fail(words, 3)
    return outcome


def _print(outcome: Outcome, last: LastDay | None, units: UnitSystem) -> None:
    print(verdict(outcome, units))
    for draw in outcome.draws:
        words = reason_words(draw, outcome.brief.budgets.longest_wait_s, units) or "as asked"
        wait = duration_words(draw.wait_s) if draw.wait_s is not None else "never"
        print(f"  {draw.draw.name}: {words}; warm after {wait}, {duration_words(draw.comfort_s)}")
    for entry in outcome.ledger:
        limit = "no limit" if entry.limit is None else with_unit(entry.limit, entry.style, units)
        mark = " ←" if entry.binds else ""
        used = with_unit(entry.used, entry.style, units)
        print(f"  {TITLES[entry.budget]}: {used} of {limit}{mark}")
    if last is not None:
        print(f"  {last_day_words(last, outcome, units)}")
    for caution in cautions(outcome, units):
        print(f"  ! {caution}")
