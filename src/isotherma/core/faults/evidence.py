"""What somebody saw, denied, read and tried, and how likely each is under each fault."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Final

from isotherma.core.faults.instances import Instance
from isotherma.core.faults.readings import Reading
from isotherma.core.faults.table import OTHERS, THE_REST, FaultTest, Symptom

OTHER_SEEN, OTHER_DENIED = 0.3, 0.7  # of what the table does not know
LEAST_CHANCE: Final = 1e-4  # nothing people say is impossible
# a symptom says the same as a reading: the reading counts
SAYS_THE_SAME: Final[Mapping[str, str]] = {
    "flow_low": "flow", "slow_to_heat": "heat_up", "cools_fast": "cool_down",
    "pump_kicks": "kick_every", "gauge_wrong": "level",
}  # fmt: skip
SAYS_WARMTH: Final = ("too_hot", "warm_not_hot")  # of an outlet


@dataclass(frozen=True, slots=True)
class Tried:
    """A test that was done: at which part, None for wherever it belongs, and what came of it."""

    test: str
    part: str | None
    outcome: str


@dataclass(frozen=True, slots=True)
class Evidence:
    """All that is known of a case."""

    seen: tuple[str, ...] = ()
    denied: tuple[str, ...] = ()
    readings: tuple[Reading, ...] = ()
    tried: tuple[Tried, ...] = ()

    @property
    def empty(self) -> bool:
        """Whether nothing at all was said."""
        return not (self.seen or self.denied or self.readings or self.tried)

    def dropped(self, outlets: Sequence[str]) -> dict[str, str]:
        """Name the symptoms a reading says already, and that reading.

        Parameters
        ----------
        outlets : sequence of str
            Ids of outlets. [-]

        Returns
        -------
        dict of str to str
            Quantity by symptom; of those that were seen or denied. [-]
        """
        found = {}
        for symptom in (*self.seen, *self.denied):
            for reading in self.readings:
                warmth = reading.kind == "temp" and reading.part in outlets
                same = SAYS_THE_SAME.get(symptom) == reading.kind
                if same or (symptom in SAYS_WARMTH and warmth):
                    found[symptom] = reading.quantity
        return found


def symptom_chance(symptom: Symptom, instance: Instance | None, *, seen: bool) -> float:
    """Say how likely somebody reports a symptom, or denies it, with a fault.

    Parameters
    ----------
    symptom : Symptom
        The table's row. [-]
    instance : Instance or None
        None: something the table does not know. [-]
    seen : bool
        Reported, or denied when asked. [-]

    Returns
    -------
    float
        Over 0 to 1. [-]
    """
    if instance is None:
        return OTHER_SEEN if seen else OTHER_DENIED
    chance = instance.fault.seen.get(symptom.id, symptom.chance)
    return max(LEAST_CHANCE, chance if seen else 1.0 - chance)


def outcomes_of(test: FaultTest) -> tuple[str, ...]:
    """List what may come of a test that reads nothing: what the table lists, then the rest.

    Parameters
    ----------
    test : FaultTest
        One that reads nothing. [-]

    Returns
    -------
    tuple of str
        In the table's order. [-]
    """
    return (*test.outcomes, THE_REST)


def outcome_chances(
    test: FaultTest, part: str | None, kind: str, instance: Instance | None
) -> dict[str, float]:
    """Say how likely each outcome of a test is with a fault.

    Parameters
    ----------
    test : FaultTest
        One that reads nothing. [-]
    part : str or None
        Where it is done; None: wherever it belongs. [-]
    kind : str
        The kind of the part the fault sits on, empty for the whole. [-]
    instance : Instance or None
        None: something the table does not know, which leaves all alike. [-]

    Returns
    -------
    dict of str to float
        By outcome, the rest among them; they add up to 1. [-]
    """
    named = outcomes_of(test)
    if instance is None:
        return dict.fromkeys(named, 1.0 / len(named))
    # a strainer that is looked at says nothing of another one
    elsewhere = part is not None and kind in test.kinds and instance.part != part
    chances = {}
    for outcome, row in test.outcomes.items():
        listed = None if elsewhere else row.get(instance.fault.id)
        chances[outcome] = row.get(OTHERS, 0.0) if listed is None else listed
    total = sum(chances.values())
    if total > 1.0:
        chances = {outcome: chance / total for outcome, chance in chances.items()}
    chances[THE_REST] = max(0.0, 1.0 - total)
    return {outcome: max(LEAST_CHANCE, chance) for outcome, chance in chances.items()}
