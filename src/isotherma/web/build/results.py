"""What stages expect, beside what was read in them; a miss says what it may be."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, replace

from isotherma.core.building.expectations import Expect
from isotherma.core.building.stages import Stage
from isotherma.core.errors import CoreError
from isotherma.core.faults.evidence import Evidence
from isotherma.core.faults.readings import KINDS, Expected, Reading, judged
from isotherma.core.quantity import UnitSystem, unit_of, with_unit
from isotherma.services.diagnosing import foretold
from isotherma.services.logbook import Logged
from isotherma.web.frame.context import PageContext
from isotherma.wording import (
    EXPECT_WORDS,
    JUDGED_WORDS,
    figure_words,
    quantity_title,
    range_words,
    suspect_title,
    title_of_test,
)
from isotherma.wording.reader import in_units

SUSPECTS = 3


@dataclass(frozen=True, slots=True)
class ExpectRow:
    """A figure a stage expects: in words, what was read, how it is judged, what it may be."""

    words: str
    quantity: str
    unit: str
    timed: bool
    read: str = ""
    judged: str = ""
    suspects: tuple[str, ...] = ()
    next_test: str = ""
    value: str = ""
    step: int = 0
    metered: str = ""
    follows: bool = True
    apart: bool = False


LITRE = 1e-3
STEP_S = 60.0  # readings of one stage that follow each other, as a tank is filled
ALIKE = 0.1
ALONE = 1  # what the fault finder compares is read with one outlet open


def session_of(stage_id: str) -> str:
    """Give the session of the log that holds a stage's readings."""
    return f"stage {stage_id}"[:80]


Read = tuple[str, str, float]


def read_in_stages(context: PageContext) -> dict[Read, Logged]:
    """Give the last reading of each session of a stage, quantity and step."""
    place = (context.opened.vehicle_id, context.variant_id)
    found: dict[Read, Logged] = {}
    logged = context.services.logbook.readings(*place, kind="stage")
    for one in sorted(logged, key=lambda one: one.number):
        found[one.row.session, one.row.quantity, one.row.time_s] = one
    return found


def expect_rows(
    context: PageContext, stage: Stage, names: Mapping[str, str],
    logged: Mapping[Read, Logged],
) -> tuple[ExpectRow, ...]:  # fmt: skip
    """Show what a stage expects, and what was read in it."""
    units = context.units
    rows = []
    follows = len(stage.opens) <= ALONE and stage.kind not in ("hold_pressure", "gauge")
    for one, step in zip(stage.expect, _steps(stage), strict=True):
        kind = KINDS[one.quantity.partition(".")[0]]
        row = ExpectRow(_words(one, names, units), one.quantity,
                        unit_of(kind.style, units).symbol, kind.timed, step=step,
                        metered="" if one.at_m3 is None else f"{one.at_m3 / LITRE:.6g}",
                        follows=follows)  # fmt: skip
        found = logged.get((session_of(stage.id), one.quantity, step * STEP_S))
        rows.append(row if found is None else _judged(context, row, one, found, names))
    return tuple(rows)


def passed(context: PageContext, stage: Stage) -> bool:
    """Tell whether all a stage expects was read, and is as it should be."""
    logged = read_in_stages(context)
    read = [(one, logged.get((session_of(stage.id), one.quantity, step * STEP_S)))
            for one, step in zip(stage.expect, _steps(stage), strict=True)]  # fmt: skip
    return all(found is not None and judged(found.row.reading, _band(one)) == "pass"
               for one, found in read)  # fmt: skip


def _steps(stage: Stage) -> list[int]:
    """Number the readings that follow each other in a stage; what stands alone is 0."""
    return [at if one.at_m3 is not None else 0 for at, one in enumerate(stage.expect)]


def _judged(
    context: PageContext, row: ExpectRow, one: Expect, found: Logged, names: Mapping[str, str]
) -> ExpectRow:
    reading = found.row.reading
    says = judged(reading, _band(one))
    figure = figure_words(reading.kind, reading.value, context.units)
    suspects: tuple[str, ...] = ()
    test = ""
    follows = row.follows and says in ("near", "miss") and _played_alike(context, one, reading)
    if follows:
        try:
            case = context.services.fault_finding.diagnosed(
                context.project, context.variant, context.variant.standing,
                Evidence(readings=(reading,)))  # fmt: skip
            suspects = tuple(f"{suspect_title(who, names)} {who.chance:.0%}"
                             for who in case.listed[:SUSPECTS])  # fmt: skip
            test = next((title_of_test(after.test, after.part, names)
                         for after in case.next_tests), "")  # fmt: skip
        except CoreError:
            suspects = ()
    return replace(row, follows=follows, apart=says in ("near", "miss") and not follows,
                   read=figure, judged=JUDGED_WORDS[says], suspects=suspects, next_test=test,
                   value=figure)  # fmt: skip


def _played_alike(context: PageContext, one: Expect, reading: Reading) -> bool:
    """Say whether the fault finder expects the same in the state that is seen.

    An element that is tested alone, while a burner heats too in that state, is another thing.
    """
    if one.likely is None:
        return True
    try:
        sound = foretold(context.services.fault_finding, context.project, context.variant, reading)
    except CoreError:
        return False
    if sound is None or sound.likely is None:
        return False
    return abs(sound.likely - one.likely) <= ALIKE * abs(one.likely)


def _band(one: Expect) -> Expected | None:
    """Give the band of an expected figure; open where it has only a least."""
    if one.low is None:
        return None
    return Expected(one.low, one.likely, float("inf") if one.high is None else one.high)


def _words(one: Expect, names: Mapping[str, str], units: UnitSystem) -> str:
    kind = one.quantity.partition(".")[0]
    at = "" if one.at_m3 is None else f" with {with_unit(one.at_m3, 'volume', units, 3)} in"
    words = f"{quantity_title(one.quantity, names)}{at}: "
    if one.low is not None and one.high is not None:
        words += range_words(kind, one.low, one.high, units)
    elif one.likely is not None:
        words += f"about {figure_words(kind, one.likely, units)}"
    elif one.low is not None:
        words += f"at least {figure_words(kind, one.low, units)}"
    if one.finds_l_per_h is not None:
        hourly = one.finds_l_per_h * LITRE
        style = "millilitres" if one.finds_l_per_h < 1.0 else "volume"
        words += f", which finds {with_unit(hourly, style, units, 2)} an hour and more"
    return f"{words} ({in_units(EXPECT_WORDS[one.because], units)})"
