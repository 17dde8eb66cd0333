"""A fault that is hidden: what people would report of it, and what each test would answer."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Final

import numpy as np

from isotherma.core.faults.evidence import Evidence, Tried, outcome_chances
from isotherma.core.faults.hypotheses import Hypotheses, known_kind
from isotherma.core.faults.instances import Instance
from isotherma.core.faults.next_tests import candidates
from isotherma.core.faults.player import Asked
from isotherma.core.faults.readings import (
    KINDS,
    Expected,
    Reading,
    off_scale,
    on_scale,
    scale_doubt,
    usual_doubt,
)
from isotherma.core.faults.table import FaultTable, FaultTest

OFTEN: Final = 0.3  # a symptom so likely is reported where chance is left out
MIDDLE: Final = 0.5


@dataclass(frozen=True, slots=True)
class Hidden:
    """A fault somebody is to find, as bad as `severity`, 0 to 1, of what it may be."""

    instance: Instance
    severity: float = MIDDLE


def hide(instances: Sequence[Instance], draw: np.random.Generator) -> Hidden:
    """Draw a fault by its weight.

    Parameters
    ----------
    instances : sequence of Instance
        All that a design can have. [-]
    draw : numpy.random.Generator
        Seeded by whoever asks. [-]

    Returns
    -------
    Hidden
        As bad as chance has it; never that nothing is wrong. [-]
    """
    there = [one for one in instances if one.part is not None]
    weights = np.array([one.weight for one in there])
    chosen = int(draw.choice(len(there), p=weights / weights.sum()))
    return Hidden(there[chosen], float(draw.uniform()))


def reported(
    hidden: Hidden, table: FaultTable, draw: np.random.Generator | None
) -> tuple[tuple[str, ...], tuple[str, ...]]:
    """Say which symptoms somebody reports of a fault, and which they deny when asked.

    Parameters
    ----------
    hidden : Hidden
        The fault. [-]
    table : FaultTable
        Chances of symptoms. [-]
    draw : numpy.random.Generator or None
        None: what is likely is reported, all else denied. [-]

    Returns
    -------
    tuple
        Seen and denied; of a draw those denied are the fault's own that did not show. [-]
    """
    own = hidden.instance.fault.seen
    if draw is None:
        seen = tuple(key for key in table.symptoms if own.get(key, 0.0) >= OFTEN)
        return seen, tuple(key for key in table.symptoms if key not in seen)
    shown = {key: draw.uniform() < chance for key, chance in own.items()}
    if own and not any(shown.values()):  # somebody came because of something
        shown[max(own, key=lambda key: own[key])] = True
    return (tuple(key for key, here in shown.items() if here),
            tuple(key for key, here in shown.items() if not here))  # fmt: skip


def answered(
    hypotheses: Hypotheses, hidden: Hidden, test: FaultTest, part: str | None,
    draw: np.random.Generator | None,
) -> Reading | Tried | None:  # fmt: skip
    """Say what a test would tell with the hidden fault.

    Parameters
    ----------
    hypotheses : Hypotheses
        What faults do on this design. [-]
    hidden : Hidden
        The fault. [-]
    test : FaultTest
        What is tried. [-]
    part : str or None
        Where. [-]
    draw : numpy.random.Generator or None
        None: what is likeliest, without noise. [-]

    Returns
    -------
    Reading, Tried or None
        None where nothing computes what would be read. [-]
    """
    instance = hidden.instance
    if test.reads is None:
        kind = "" if instance.part is None else known_kind(hypotheses.player, instance.part)
        chances = outcome_chances(test, part, kind, instance)
        names, shares = list(chances), np.array(list(chances.values()))
        if draw is None:
            return Tried(test.id, part, names[int(np.argmax(shares))])
        return Tried(test.id, part, names[int(draw.choice(len(names), p=shares / shares.sum()))])
    expected = hypotheses.expected(instance, Asked(test.reads, part))
    if not expected:
        return None
    return Reading(test.reads, part, _drawn(test.reads, expected, hidden.severity, draw))


def _drawn(
    name: str, expected: Sequence[Expected], severity: float, draw: np.random.Generator | None
) -> float:
    kind = KINDS[name]
    one = expected[min(len(expected) - 1, int(severity * len(expected)))]
    if one.likely is not None:
        place = on_scale(kind, one.likely)
    else:
        low, high = on_scale(kind, one.low), on_scale(kind, one.high)
        place = low + (high - low) * (MIDDLE if draw is None else float(draw.uniform()))
    value = off_scale(kind, place)
    if draw is not None:
        doubt = scale_doubt(kind, value, usual_doubt(kind, value))
        value = off_scale(kind, place + float(draw.normal()) * doubt)
    return value


def all_answers(
    hypotheses: Hypotheses, hidden: Hidden, table: FaultTable, *, readings: bool = True
) -> Evidence:
    """Give all there is to know of a hidden fault: symptoms, and every builder's test, no noise.

    Parameters
    ----------
    hypotheses : Hypotheses
        What faults do on this design. [-]
    hidden : Hidden
        The fault. [-]
    table : FaultTable
        Symptoms and tests. [-]
    readings : bool
        Whether tests that read a figure, and others, are done at all. [-]

    Returns
    -------
    Evidence
        As it would be typed. [-]
    """
    seen, denied = reported(hidden, table, None)
    found = Evidence(seen, denied)
    if not readings:
        return found
    for test, part in list(candidates(hypotheses.player, table, found)):
        told = answered(hypotheses, hidden, test, part, None)
        found = with_answer(found, told)
    return found


def with_answer(evidence: Evidence, told: Reading | Tried | None) -> Evidence:
    """Give evidence with one more answer; the same quantity is not read twice.

    Parameters
    ----------
    evidence : Evidence
        What is known. [-]
    told : Reading, Tried or None
        None changes nothing. [-]

    Returns
    -------
    Evidence
        With it. [-]
    """
    if isinstance(told, Tried):
        return replace(evidence, tried=(*evidence.tried, told))
    if told is None or any(one.quantity == told.quantity for one in evidence.readings):
        return evidence
    return replace(evidence, readings=(*evidence.readings, told))
