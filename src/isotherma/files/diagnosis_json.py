"""A diagnosis as JSON."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any, Final

from isotherma.core.faults.diagnosis import Diagnosis
from isotherma.core.faults.next_tests import NextTest
from isotherma.core.faults.table import FaultTable
from isotherma.core.quantity import UnitSystem
from isotherma.wording import reason_sentence, stop_words, tell_words, twins_sentence, why_test

DIAGNOSIS_FORMAT: Final = "isotherma-diagnosis-1"
METRIC: Final = UnitSystem.METRIC


def diagnosis_object(
    found: Diagnosis, table: FaultTable, names: Mapping[str, str]
) -> dict[str, Any]:
    """Give a diagnosis as an object for JSON.

    Parameters
    ----------
    found : Diagnosis
        Best first. [-]
    table : FaultTable
        Words of symptoms and tests. [-]
    names : mapping of str to str
        Labels of parts and runs, by id. [-]

    Returns
    -------
    dict
        Keys as in docs/file-format.md. [see the keys]
    """
    shown = sum(one.chance for one in found.listed)
    return {
        "format": DIAGNOSIS_FORMAT,
        "faults": [_fault(found, row, table, names) for row in range(len(found.listed))],
        "other_probability": max(0.0, 1.0 - shown),
        "next_tests": [_test(one, names) for one in found.next_tests],
        "refer": [{"test": one.test.id, "part": one.part, "tell": tell_words(one, found, table)}
                  for one in found.refer],
        "stop": _stop(found),
        "changes": _changes(found, table),
        "dropped": [{"symptom": key, "because": f"{quantity} was read and says the same"}
                    for key, quantity in found.found.dropped.items()],
        "quantities": [
            {"quantity": one.quantity,
             "expected": None if one.expected is None else {
                 "low": one.expected.low, "likely": one.expected.likely,
                 "high": one.expected.high},
             "judged": one.judged}
            for one in found.read
        ],
    }  # fmt: skip


def _fault(
    found: Diagnosis, row: int, table: FaultTable, names: Mapping[str, str]
) -> dict[str, Any]:
    suspect = found.listed[row]
    licensed = any(one.fault.who == "licensed" for one in suspect.instances)
    told = row < len(found.plays)
    return {
        "fault": " + ".join(one.fault.id for one in suspect.instances),
        "part": " + ".join(one.part or "" for one in suspect.instances) or None,
        "probability": suspect.chance,
        "who": "licensed" if licensed else "builder",
        "plays": [{"path": edit.path, "value": edit.value} for edit in found.plays[row]]
        if told else [],
        "fix": " ".join(one.fault.fix for one in suspect.instances),
        "because": [reason_sentence(reason, found, table, names, METRIC)
                    for reason in found.reasons[row]] + _twins(found, row, names) if told else [],
    }  # fmt: skip


def _twins(found: Diagnosis, row: int, names: Mapping[str, str]) -> list[str]:
    said = twins_sentence(found.listed[row], found, names)
    return [] if said is None else [said]


def _test(one: NextTest, names: Mapping[str, str]) -> dict[str, Any]:
    test = one.test
    return {
        "test": test.id, "part": one.part, "who": test.who, "minutes": test.minutes,
        "litres": test.litres, "money": test.money, "danger": test.danger,
        "gain_bits": one.gain_bits, "score": one.score,
        "outcomes": [{"outcome": name, "probability": chance} for name, chance in one.outcomes],
        "because": why_test(one, names), "undo": test.undo,
    }  # fmt: skip


def _changes(found: Diagnosis, table: FaultTable) -> list[dict[str, Any]]:
    """List the tests that were tried and change something until it is put back."""
    return [
        {"test": one.test, "part": one.part, "undo": table.tests[one.test].undo}
        for one in found.tried if table.tests[one.test].undo is not None
    ]  # fmt: skip


def _stop(found: Diagnosis) -> dict[str, str] | None:
    if not found.stops:
        return None
    words, until = stop_words(found.stops[0])
    return {"what": found.stops[0].what, "because": words, "until": until}
