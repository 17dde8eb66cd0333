"""What the command that learns does: reads readings, learns, prints."""

from __future__ import annotations

import json
from collections.abc import Callable
from pathlib import Path
from typing import TYPE_CHECKING, NoReturn

if TYPE_CHECKING:
    from isotherma.core.project import Project, Variant

Fail = Callable[[str, int], NoReturn]


def print_learned(
    project: Project, variant: Variant, readings: Path, *, as_json: bool, fail: Fail
) -> None:
    """Learn from a file of readings and print what they say."""
    from isotherma.core.quantity import UnitSystem, with_unit
    from isotherma.files.learned_json import learned_object
    from isotherma.files.readings_csv import ReadingsUnreadable, read_readings
    from isotherma.services.building import labels_of
    from isotherma.services.learning import learn
    from isotherma.wording import learned_why

    try:
        text = readings.read_text(encoding="utf-8")
    except (OSError, UnicodeDecodeError):
        fail(f"“{readings}” cannot be read as a text file in UTF-8.", 2)
    system = variant.built.system
    try:
        rows, bad = read_readings(text, {part.id for part in system.parts})
    except ReadingsUnreadable as error:
        fail(f"{readings}: {error.why}", 2)
    if bad:
        lines = "; ".join(f"row {one.number}: {one.why}" for one in bad[:5])
        more = f"; and {len(bad) - 5} more" if len(bad) > 5 else ""
        fail(f"{readings}: {lines}{more}.", 2)
    if not rows:
        fail(f"{readings} has a heading and no reading.", 2)
    found = learn(project, variant, rows)
    if as_json:
        made = learned_object(found.figures, found.gauges)
        print(json.dumps(made, ensure_ascii=False, indent=2, allow_nan=False))
        return
    names = labels_of(system)
    for one in found.figures.learned:
        known, style = one.parameter, one.parameter.style
        owner = known.path.split(".")[1]
        low, likely, high = (with_unit(value, style, UnitSystem.METRIC, 3)
                             for value in (one.low, one.likely, one.high))  # fmt: skip
        was = "unknown" if known.likely is None else with_unit(
            known.likely, style, UnitSystem.METRIC, 3)  # fmt: skip
        sign = "offered" if one.offered else "not offered"
        print(f"{names.get(owner, 'Brief')}, {known.title.lower()}: {was} → {likely} "
              f"({low} to {high}), {sign}: {learned_why(one)}.")  # fmt: skip
    for gauge in found.gauges:
        known_at = ", ".join(f"{share} %: {value * 1e3:.1f} L" for share, value in gauge.at
                             if value is not None)  # fmt: skip
        print(f"{names.get(gauge.sender, gauge.sender)}: {known_at}.")
    held = found.figures.held_out
    if held.before_rms is not None and held.after_rms is not None:
        print(f"Held out, {held.rows} rows: off by {held.before_rms:.1f} of their doubt before, "
              f"{held.after_rms:.1f} after.")  # fmt: skip
    for row in found.figures.doubtful:
        print(f"Doubtful: row {row.row.number}, {row.row.quantity}, {row.standard:+.1f} doubts.")
