"""How likely each fault is once something was seen, read and tried."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from itertools import combinations
from math import exp, log
from typing import Final

from isotherma.core.faults.evidence import (
    Evidence,
    Tried,
    outcome_chances,
    outcomes_of,
    symptom_chance,
)
from isotherma.core.faults.hypotheses import Hypotheses, known_kind
from isotherma.core.faults.instances import Instance
from isotherma.core.faults.player import Asked, Player
from isotherma.core.faults.plays import Play, Severities
from isotherma.core.faults.readings import (
    FLAT_SHARE,
    KINDS,
    Expected,
    Reading,
    likelihood,
    span_of,
)
from isotherma.core.faults.table import NO_FAULT, FaultTable

OTHER_WEIGHT: Final = 3.0
KEPT: Final = 1e-6  # of the best by symptoms; the rest is not played
PAIRED: Final = 8
LEFT: Final = 1.5  # a reading this near its flat share is explained by nothing


@dataclass(frozen=True, slots=True)
class Suspect:
    """A fault at a part, or two of them, with its chance and what speaks for it.

    `says` has the logarithm of the likelihood of each piece of evidence by what it is:
    "+flow_low", "-no_hot", "flow.head", "strainer_look".
    """

    instances: tuple[Instance, ...]
    chance: float
    says: Mapping[str, float]
    severity: Play = ()

    @property
    def key(self) -> str:
        """Give its id, of two with a plus between."""
        return " + ".join(one.key for one in self.instances)


@dataclass(frozen=True, slots=True)
class Posterior:
    """All suspects, likeliest first, and what the table does not know: `other` is its chance."""

    suspects: tuple[Suspect, ...]
    other: float
    dropped: Mapping[str, str]


def asked_of(reading: Reading) -> Asked:
    """Give the quantity of a reading.

    Parameters
    ----------
    reading : Reading
        Any. [-]

    Returns
    -------
    Asked
        With what it was timed between. [°C]
    """
    return Asked(reading.kind, reading.part, reading.from_c, reading.to_c)


def posterior(
    hypotheses: Hypotheses, instances: Sequence[Instance], table: FaultTable, evidence: Evidence
) -> Posterior:  # fmt: skip
    """Weigh every fault against all that is known.

    Parameters
    ----------
    hypotheses : Hypotheses
        What each expects. [-]
    instances : sequence of Instance
        All that this design can have. [-]
    table : FaultTable
        Symptoms and tests. [-]
    evidence : Evidence
        What is known. [-]

    Returns
    -------
    Posterior
        Chances and `other` add up to 1. [-]

    Notes
    -----
    Prior by the table's weights, one fault at a time; two only where a reading is explained by no
    single one.

    References
    ----------
    Bayes' rule; de Kleer and Williams 1987, Artificial Intelligence 32, of one fault at a time.
    """
    player = hypotheses.player
    dropped = evidence.dropped(player.outlets)
    rows = []
    for instance in instances:
        says = _by_words(player, instance, table, evidence, dropped)
        rows.append((instance, says, log(instance.weight) + sum(says.values())))
    best = max((score for _, _, score in rows), default=0.0)
    played = [row for row in rows if row[2] >= best + log(KEPT)]
    scored: list[tuple[tuple[Instance, ...], dict[str, float], float]] = []
    explained = dict.fromkeys((reading.quantity for reading in evidence.readings), 0.0)
    for instance, says, score in played:
        found = dict(says)
        for reading in evidence.readings:
            expected = hypotheses.expected(instance, asked_of(reading))
            chance = _reads(reading, expected)
            found[reading.quantity] = log(chance)
            flat = FLAT_SHARE / span_of(KINDS[reading.kind])
            explained[reading.quantity] = max(explained[reading.quantity], chance / flat)
            score += log(chance)
        scored.append(((instance,), found, score))
    if any(times < LEFT for times in explained.values()):
        scored += _pairs(player, scored, evidence, sum(one.weight for one in instances))
    other = log(OTHER_WEIGHT) + _other(table, evidence, dropped)
    return _normal(scored, other, dropped)


def _by_words(
    player: Player, instance: Instance, table: FaultTable, evidence: Evidence,
    dropped: Mapping[str, str],
) -> dict[str, float]:  # fmt: skip
    """Weigh what people saw and tried; what a reading says already is left out."""
    says = {}
    for sign, keys in (("+", evidence.seen), ("-", evidence.denied)):
        for key in keys:
            if key not in dropped:
                chance = symptom_chance(table.symptoms[key], instance, seen=sign == "+")
                says[f"{sign}{key}"] = log(chance)
    for tried in evidence.tried:
        says[table.tests[tried.test].key(tried.part)] = log(_came(player, table, tried, instance))
    return says


def _came(player: Player, table: FaultTable, tried: Tried, instance: Instance | None) -> float:
    test = table.tests[tried.test]
    kind = "" if instance is None or instance.part is None else known_kind(player, instance.part)
    chances = outcome_chances(test, tried.part, kind, instance)
    return chances.get(tried.outcome, chances[outcomes_of(test)[-1]])


def _reads(reading: Reading, expected: Sequence[Expected]) -> float:
    """Give how likely a reading is; anything is alike where nothing computes it."""
    if not expected:
        return 1.0 / span_of(KINDS[reading.kind])
    return likelihood(reading, expected)


def _other(table: FaultTable, evidence: Evidence, dropped: Mapping[str, str]) -> float:
    total = 0.0
    for keys, seen in ((evidence.seen, True), (evidence.denied, False)):
        for key in keys:
            if key not in dropped:
                total += log(symptom_chance(table.symptoms[key], None, seen=seen))
    for reading in evidence.readings:
        total -= log(span_of(KINDS[reading.kind]))
    for tried in evidence.tried:
        total -= log(len(outcomes_of(table.tests[tried.test])))
    return total


def _pairs(
    player: Player, scored: Sequence[tuple[tuple[Instance, ...], dict[str, float], float]],
    evidence: Evidence, weights: float,
) -> list[tuple[tuple[Instance, ...], dict[str, float], float]]:  # fmt: skip
    """Try the best two by two, each at its likeliest severity; the prior is their product."""
    best = sorted(scored, key=lambda row: -row[2])[:PAIRED]
    plays = {row[0][0].key: _likeliest(player, row[0][0], evidence) for row in best}
    found: list[tuple[tuple[Instance, ...], dict[str, float], float]] = []
    for (one, says, _), (other, also, _) in combinations(best, 2):
        first, second = one[0], other[0]
        if NO_FAULT in (first.fault.id, second.fault.id) or first.part == second.part:
            continue
        play = (*plays[first.key], *plays[second.key])
        if not play:
            continue
        # what people see of two is what they see of either
        words = {key: max(value, also[key]) for key, value in says.items()
                 if key not in {reading.quantity for reading in evidence.readings}}  # fmt: skip
        score = log(first.weight) + log(second.weight / weights) + sum(words.values())
        for reading in evidence.readings:
            expected = player.expected(play, asked_of(reading))
            chance = _reads(reading, () if expected is None else (expected,))
            words[reading.quantity] = log(chance)
            score += log(chance)
        found.append(((first, second), words, score))
    return found


def _likeliest(player: Player, instance: Instance, evidence: Evidence) -> Play:
    """Give the severity of a fault that fits the readings best; none where it is not played."""
    plays = [play for way in instance.ways for play in way.plays]

    def fits(play: Play) -> float:
        total = 0.0
        for reading in evidence.readings:
            expected = player.expected(play, asked_of(reading))
            total += log(_reads(reading, () if expected is None else (expected,)))
        return total

    return max(plays, key=fits) if plays else ()


def _normal(
    scored: Sequence[tuple[tuple[Instance, ...], dict[str, float], float]], other: float,
    dropped: Mapping[str, str],
) -> Posterior:  # fmt: skip
    most = max([other, *(score for _, _, score in scored)])
    total = exp(other - most) + sum(exp(score - most) for _, _, score in scored)
    suspects = [
        Suspect(instances, exp(score - most) / total, says) for instances, says, score in scored
    ]
    suspects.sort(key=lambda one: (-one.chance, -one.instances[0].weight, one.key))
    return Posterior(tuple(suspects), exp(other - most) / total, dropped)


def likeliest_play(player: Player, suspect: Suspect, evidence: Evidence) -> Play:
    """Give the change of the document that fits a suspect best.

    Parameters
    ----------
    player : Player
        Of the design. [-]
    suspect : Suspect
        One or two faults. [-]
    evidence : Evidence
        Readings decide between severities; without any the middle one stands. [-]

    Returns
    -------
    tuple of Edit
        None where nothing plays it. [-]
    """
    found: list[Severities] = [way for one in suspect.instances for way in one.ways]
    if not found:
        return ()
    if not evidence.readings:
        return tuple(edit for one in suspect.instances for way in one.ways[:1]
                     for edit in way.plays[len(way.plays) // 2])  # fmt: skip
    return tuple(edit for one in suspect.instances for edit in _likeliest(player, one, evidence))
