"""What the command that finds faults does: reads, diagnoses, prints."""

from __future__ import annotations

import json
from collections.abc import Callable, Mapping, Sequence
from typing import TYPE_CHECKING, NoReturn

from isotherma.core.errors import CoreError, NotInTable, QuantityError

if TYPE_CHECKING:
    from isotherma.core.faults.diagnosis import Diagnosis
    from isotherma.core.faults.table import FaultTable
    from isotherma.core.project import Project, Variant

Fail = Callable[[str, int], NoReturn]
LEAST_SHOWN = 0.005


def print_diagnosis(
    project: Project, variant: Variant, *, state: str | None, seen: Sequence[str],
    denied: Sequence[str], readings: Sequence[str], tried: Sequence[str], as_json: bool,
    fail: Fail,
) -> None:  # fmt: skip
    """Say what is likeliest wrong with a variant and print it."""
    from isotherma.catalogue.fault_table import fault_table
    from isotherma.core.faults.typed import evidence_of
    from isotherma.core.quantity import UnitSystem
    from isotherma.files.diagnosis_json import diagnosis_object
    from isotherma.services.building import labels_of
    from isotherma.services.diagnosing import diagnosed
    from isotherma.wording import error_words

    system, table = variant.built.system, fault_table()
    states = {one.id: one for one in system.states}
    if state is not None and state not in states:
        fail(f"There is no state “{state}”. The file has: {', '.join(states) or 'none'}.", 2)
    at = states.get(state or "") or variant.standing
    try:
        evidence = evidence_of(table, system, seen=seen, denied=denied, readings=readings,
                               tried=tried)  # fmt: skip
    except (NotInTable, QuantityError) as error:
        fail(error_words(error, UnitSystem.METRIC), 2)
    if evidence.empty:
        fail("Say what is seen: --seen SYMPTOM, --reading flow.PART=4.2 or --tested TEST=OUTCOME. "
             f"Symptoms are: {', '.join(table.symptoms)}.", 2)  # fmt: skip
    try:
        found = diagnosed(project, variant, at, evidence)
    except CoreError as error:
        fail(error_words(error, UnitSystem.METRIC), 3)
    names = labels_of(system)
    if as_json:
        made = diagnosis_object(found, table, names)
        print(json.dumps(made, ensure_ascii=False, indent=2, allow_nan=False))
        return
    _print(found, table, names)


def _print(found: Diagnosis, table: FaultTable, names: Mapping[str, str]) -> None:
    from isotherma.core.quantity import UnitSystem
    from isotherma.wording import (
        read_words,
        reason_sentence,
        stop_words,
        suspect_title,
        tell_words,
        title_of_test,
        why_test,
    )

    for stop in found.stops:
        words, until = stop_words(stop)
        print(f"STOP. {words} Until {until}.")
    for read in found.read:
        print(f"{read_words(read, names, UnitSystem.METRIC)}")
    shown = [one for one in found.listed[:5] if one.chance >= LEAST_SHOWN]
    for row, suspect in enumerate(shown):
        print(f"{suspect.chance:4.0%}  {suspect_title(suspect, names)}")
        print(f"      {' '.join(one.fault.fix for one in suspect.instances)}")
        for reason in found.reasons[row]:
            print(f"      {reason_sentence(reason, found, table, names, UnitSystem.METRIC)}")
    rest = 1.0 - sum(one.chance for one in shown)
    print(f"{rest:4.0%}  all others, and what the table does not know")
    for test in found.next_tests:
        print(f"Next: {title_of_test(test.test, test.part, names)}, {test.test.minutes:g} min, "
              f"{test.test.litres:g} L. {why_test(test, names)}")  # fmt: skip
    for test in found.refer:
        print(f"Refer: {tell_words(test, found, table)}")
