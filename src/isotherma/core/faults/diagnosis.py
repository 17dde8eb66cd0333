"""From what is known of a case to suspects, next tests, stops and whom to call."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field
from math import inf
from typing import Final

from isotherma.core.faults.evidence import Evidence, Tried
from isotherma.core.faults.hypotheses import Hypotheses
from isotherma.core.faults.instances import instances_of
from isotherma.core.faults.next_tests import SHOWN, SURE, NextTest, ranked_tests
from isotherma.core.faults.player import Player
from isotherma.core.faults.plays import Play
from isotherma.core.faults.posterior import Posterior, Suspect, asked_of, likeliest_play, posterior
from isotherma.core.faults.readings import Expected, Reading, judged
from isotherma.core.faults.stops import Stop, stops_of
from isotherma.core.faults.table import FaultTable
from isotherma.core.faults.twins import twins_of
from isotherma.core.system.kinds.water import FreshTank, PressurisedInlet

LISTED: Final = 0.001
PLAYED: Final = 8  # suspects that are shown with how bad they are, and why
FOR, AGAINST = 2, 1  # pieces of evidence that are named
SPEAKS: Final = 0.1  # of a logarithm; less speaks for nothing
REFERRED: Final = 0.03  # a licensed test is named for faults at least so likely


@dataclass(frozen=True, slots=True)
class Read:
    """A quantity that was read: what a sound design gives, and how the reading is judged."""

    quantity: str
    reading: Reading
    expected: Expected | None
    judged: str


@dataclass(frozen=True, slots=True)
class Reason:
    """Why a suspect is likelier, or less likely, than its rival: a piece of evidence.

    `says` as the suspect's: "+symptom", "-symptom", a quantity or a test; `speaks_for` whether it
    speaks for the suspect. `expected` is what a reading would be with it, low and high.
    """

    says: str
    speaks_for: bool
    expected: tuple[float, float] | None = None


@dataclass(frozen=True, slots=True)
class Diagnosis:
    """All that is said of a case; `listed` are the suspects over a thousandth.

    `twins` are those of the shown that no builder's test parts, by key.
    """

    found: Posterior
    listed: tuple[Suspect, ...]
    plays: tuple[Play, ...]
    reasons: tuple[tuple[Reason, ...], ...]
    next_tests: tuple[NextTest, ...]
    refer: tuple[NextTest, ...]
    stops: tuple[Stop, ...]
    read: tuple[Read, ...]
    seen: tuple[str, ...]
    tried: tuple[Tried, ...]
    twins: Mapping[str, tuple[str, ...]] = field(default_factory=dict)

    @property
    def sure(self) -> bool:
        """Whether the first is likely enough to be mended and verified, wherever it sits."""
        return _is_sure(self.found)


def diagnose(player: Player, table: FaultTable, evidence: Evidence) -> Diagnosis:
    """Say what is likeliest wrong with a design, and what to look at next.

    Parameters
    ----------
    player : Player
        Of the design in its state; it keeps what it plays. [-]
    table : FaultTable
        Symptoms, faults, tests. [-]
    evidence : Evidence
        What was seen, denied, read and tried; of none of it only the weights speak. [-]

    Returns
    -------
    Diagnosis
        Best first. No test is offered that a stop forbids, or that is for licensed people; none
        at all once the first suspect is sure. [-]
    """
    hypotheses = Hypotheses(player)
    instances = instances_of(player, table)
    found = posterior(hypotheses, instances, table, evidence)
    listed = tuple(one for one in found.suspects if one.chance > LISTED)
    stops = stops_of(table, evidence, player)
    left = litres_left(player, evidence)
    tests = () if _is_sure(found) else ranked_tests(hypotheses, found, table, evidence, stops, left)
    refer = tuple(
        one for one in ranked_tests(hypotheses, found, table, evidence, (), inf, licensed=True)
        if _concerns(one, found)
    )  # fmt: skip
    return Diagnosis(
        found, listed, tuple(likeliest_play(player, one, evidence) for one in listed[:PLAYED]),
        tuple(_reasons(hypotheses, one, listed, evidence) for one in listed[:PLAYED]),
        tests[:SHOWN], refer[:SHOWN], stops, tuple(_read(player, one) for one in evidence.readings),
        evidence.seen, evidence.tried, twins_of(hypotheses, listed, table),
    )  # fmt: skip


def _is_sure(found: Posterior) -> bool:
    """Say whether one fault, all parts it may sit on together, is sure."""
    first = found.suspects[0].instances[0].fault.id if found.suspects else ""
    alike = sum(one.chance for one in found.suspects if one.instances[0].fault.id == first)
    return alike > SURE


def _reasons(
    hypotheses: Hypotheses, suspect: Suspect, listed: tuple[Suspect, ...], evidence: Evidence
) -> tuple[Reason, ...]:
    """Give what speaks for and against a suspect, beside the likeliest other one."""
    rival = next((one for one in listed if one.key != suspect.key), None)
    readings = {one.quantity: one for one in evidence.readings}
    weighed = sorted(
        ((value - (0.0 if rival is None else rival.says.get(key, value)), key)
         for key, value in suspect.says.items()), reverse=True,
    )  # fmt: skip
    chosen = [key for more, key in weighed if more > SPEAKS][:FOR]
    against = [key for more, key in reversed(weighed) if more < -SPEAKS][:AGAINST]
    if not chosen:  # nothing parts both: what speaks loudest of all
        alone = sorted(suspect.says.items(), key=lambda pair: -pair[1])
        chosen = [key for key, _ in alone if key not in against][:FOR]

    def expected(key: str) -> tuple[float, float] | None:
        if key not in readings:
            return None
        means = [one for instance in suspect.instances
                 for one in hypotheses.expected(instance, asked_of(readings[key]))]  # fmt: skip
        return (min(one.low for one in means), max(one.high for one in means)) if means else None

    rows = [*((key, True) for key in chosen), *((key, False) for key in against)]
    return tuple(Reason(key, speaks_for=good, expected=expected(key)) for key, good in rows)


def _read(player: Player, reading: Reading) -> Read:
    expected = player.expected((), asked_of(reading))
    return Read(reading.quantity, reading, expected, judged(reading, expected))


def _concerns(test: NextTest, found: Posterior) -> bool:
    """Say whether a licensed test is about a fault that is likely enough to call somebody."""
    named = {fault for row in test.test.outcomes.values() for fault in row}
    return any(one.chance >= REFERRED and one.instances[0].fault.id in named
               for one in found.suspects[:10])  # fmt: skip


def litres_left(player: Player, evidence: Evidence) -> float | None:
    """Give the litres a state can still draw, as they were read.

    Parameters
    ----------
    player : Player
        Of the design. [-]
    evidence : Evidence
        A reading of the tank's litres. [L]

    Returns
    -------
    float or None
        Infinite on a pitch's water; None where nobody read it. [L]
    """
    for reading in evidence.readings:
        if reading.kind == "litres" and reading.part is not None:
            part = next((one for one in player.known.parts if one.id == reading.part), None)
            if isinstance(part, FreshTank):
                return reading.value
    parts = player.made.healthy.network.parts.values()
    plugged = any(isinstance(part, PressurisedInlet) for part in parts)
    return inf if plugged and not any(isinstance(part, FreshTank) for part in parts) else None
