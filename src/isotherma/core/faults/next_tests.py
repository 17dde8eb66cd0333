"""What to look at next: the most told for the least minutes, litres, money and danger."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from typing import Final

import numpy as np

from isotherma.core.faults.evidence import Evidence, outcome_chances, outcomes_of
from isotherma.core.faults.hypotheses import Hypotheses, known_kind
from isotherma.core.faults.instances import Instance, meets, pieces_of
from isotherma.core.faults.player import Asked, Player
from isotherma.core.faults.posterior import Posterior, Suspect
from isotherma.core.faults.readings import (
    KINDS,
    Expected,
    Floats,
    density,
    off_scale,
    on_scale,
    scale_doubt,
    usual_doubt,
)
from isotherma.core.faults.stops import Stop, forbidden
from isotherma.core.faults.table import FaultTable, FaultTest

LEAST_BITS: Final = 0.05
SURE: Final = 0.85
SHOWN: Final = 3
QUANTILES: Final = 7
GRID: Final = 240
NAMED: Final = 8  # suspects whose names may stand beside a test
HYPOTHESES: Final = 60  # the likeliest; what is left counts as one more that tells nothing
LIKELY: Final = 2e-3  # less is left out: it moves no choice of a test
LITRES_COST: Final = 60.0  # minutes for all the litres that are left
LITRE_UNKNOWN: Final = 2.0  # minutes a litre where nobody knows how many are left
MONEY_COST, DANGER_COST = 0.5, 15.0
# done once for the whole vehicle, whatever parts it has of the kinds
WHOLE: Final = frozenset({
    "look_state", "check_arrow", "paper_joints", "hose_follow", "touch_wires", "outlet_purge",
    "shut_suction_wait", "isolate_hot", "terminal_look", "gas_tightness", "touch_cold",
})  # fmt: skip


@dataclass(frozen=True, slots=True)
class NextTest:
    """A test worth doing: what it gains [bits], what it costs [minutes], what may come of it.

    `outcomes` are the table's with their chances; of a reading its quantiles, in its unit.
    """

    test: FaultTest
    part: str | None
    gain_bits: float
    cost_min: float
    outcomes: tuple[tuple[str, float], ...]
    parts: tuple[str, str] | None = None  # the two likeliest suspects it tells apart

    @property
    def score(self) -> float:
        """Give what it gains for what it costs [bits/min]."""
        return self.gain_bits / self.cost_min


@dataclass(frozen=True, slots=True)
class Told:
    """What a test tells: bits, its outcomes, the suspects it tells apart."""

    gain_bits: float
    outcomes: tuple[tuple[str, float], ...]
    parts: tuple[str, str] | None


def ranked_tests(
    hypotheses: Hypotheses, found: Posterior, table: FaultTable, evidence: Evidence,
    stops: Sequence[Stop], litres_left: float | None, *, licensed: bool = False,
) -> tuple[NextTest, ...]:  # fmt: skip
    """Rank all tests that are allowed.

    Parameters
    ----------
    hypotheses : Hypotheses
        What each fault expects. [-]
    found : Posterior
        How likely each is now. [-]
    table : FaultTable
        The tests. [-]
    evidence : Evidence
        What was done is not done again. [-]
    stops : sequence of Stop
        Forbid some. [-]
    litres_left : float or None
        In the tank; None: unknown; infinite: no limit. [L]
    licensed : bool
        Those for licensed people instead of the builder's. [-]

    Returns
    -------
    tuple of NextTest
        Best first, one look ahead; only those that gain 0.05 bits or more. [bits]

    References
    ----------
    de Kleer and Williams 1987, Artificial Intelligence 32: one-step look-ahead by entropy.
    """
    suspects = [one for one in found.suspects[:HYPOTHESES] if one.chance > LIKELY]
    if not suspects:
        return ()
    ranked = []
    for test, part in candidates(hypotheses.player, table, evidence, licensed=licensed):
        if forbidden(test, part, stops, hypotheses.player):
            continue
        cost = cost_of(test, litres_left)
        if cost is None:
            continue
        told = told_of(hypotheses, test, part, suspects, found.other)
        if told is not None and told.gain_bits >= LEAST_BITS:
            ranked.append(NextTest(test, part, told.gain_bits, cost, told.outcomes, told.parts))
    ranked.sort(key=lambda one: (-one.score, one.test.danger, one.test.litres, one.test.minutes,
                                 one.test.id, one.part or ""))  # fmt: skip
    return tuple(ranked)


def told_of(
    hypotheses: Hypotheses, test: FaultTest, part: str | None, suspects: Sequence[Suspect],
    other: float,
) -> Told | None:  # fmt: skip
    """Say what a test would tell of suspects.

    Parameters
    ----------
    hypotheses : Hypotheses
        What each expects. [-]
    test : FaultTest
        Any. [-]
    part : str or None
        Where. [-]
    suspects : sequence of Suspect
        With their chances. [-]
    other : float
        Chance of what the table does not know. [-]

    Returns
    -------
    Told or None
        None where nothing computes what it would read. [bits]
    """
    if test.reads is None:
        return _of_outcomes(hypotheses.player, test, part, suspects, other)
    return _of_reading(hypotheses, test, part, suspects, other)


def candidates(
    player: Player,
    table: FaultTable,
    evidence: Evidence,
    *,
    licensed: bool = False,
    whole: bool = False,
) -> Iterator[tuple[FaultTest, str | None]]:
    """Give the tests a design has the parts for, and where; what was done or read is left out.

    Parameters
    ----------
    player : Player
        Of the design. [-]
    table : FaultTable
        The tests. [-]
    evidence : Evidence
        What was done. [-]
    licensed : bool
        Those for licensed people instead of the builder's. [-]
    whole : bool
        Another outlet's flow too, before one was read. [-]

    Returns
    -------
    iterator of tuple
        The test, and its part; None for the whole vehicle. [-]
    """
    done = {(tried.test, tried.part) for tried in evidence.tried}
    read = {reading.quantity for reading in evidence.readings}
    flows = [key for key in read if key.startswith("flow.")]
    for test in table.tests.values():
        if (test.who == "licensed") != licensed or (test.id, None) in done:
            continue
        pieces = [
            piece for kind in test.kinds for piece in pieces_of(player, kind)
            if meets(player.known, piece, test.needs)
        ]  # fmt: skip
        if test.id in WHOLE:
            if pieces:
                yield test, None
            continue
        for piece in pieces:
            quantity = None if test.reads is None else f"{test.reads}.{piece.id}"
            if (test.id, piece.id) in done or quantity in read:
                continue
            if test.id == "flow_other" and not (flows or whole):
                continue  # another outlet than which?
            yield test, piece.id


def cost_of(test: FaultTest, litres_left: float | None) -> float | None:
    """Give what a test costs, all of it in minutes.

    Parameters
    ----------
    test : FaultTest
        The test. [-]
    litres_left : float or None
        In the tank; None: unknown. [L]

    Returns
    -------
    float or None
        None where the water does not reach. [min]
    """
    cost = test.minutes + MONEY_COST * test.money + DANGER_COST * test.danger
    if litres_left is None:
        return cost + LITRE_UNKNOWN * test.litres
    if test.litres > litres_left:
        return None
    return cost if not test.litres else cost + LITRES_COST * test.litres / litres_left


def _bits(chances: Floats) -> float:
    """Give the entropy of chances that add up to 1."""
    some = chances[chances > 0.0]
    return float(-np.sum(some * np.log2(some)))


def gain_of(prior: Floats, likely: Floats) -> tuple[float, Floats]:
    """Give the bits gained, and the chance of each outcome.

    Parameters
    ----------
    prior : numpy.ndarray
        Chances of hypotheses; they add up to 1. [-]
    likely : numpy.ndarray
        A row for each hypothesis, a column for each outcome; the last row, of what the table does
        not know, counts as the others' mean. [-]

    Returns
    -------
    tuple
        Bits, and the chances of the outcomes. [bits, -]

    References
    ----------
    Shannon's mutual information.
    """
    # what the table does not know foretells nothing: no test is chosen to rule it out
    known = prior[:-1] @ likely[:-1] / max(1e-12, 1.0 - prior[-1])
    likely = np.vstack([likely[:-1], known])
    joint = prior[:, None] * likely
    chances = joint.sum(axis=0)
    # H(p) - Σ P(o) H(p|o) is what the outcomes and the hypotheses know of each other
    gain = _bits(prior) + _bits(chances) - _bits(joint)
    return gain, chances


def _prior(suspects: Sequence[Suspect], other: float) -> Floats:
    chances = np.array([one.chance for one in suspects] + [other])
    return np.asarray(chances / chances.sum())


def _of_outcomes(
    player: Player, test: FaultTest, part: str | None, suspects: Sequence[Suspect], other: float
) -> Told:
    named = outcomes_of(test)
    rows = []
    for suspect in suspects:
        rows.append(_mixed(player, test, part, suspect.instances))
    rows.append(list(outcome_chances(test, part, "", None).values()))
    likely = np.array(rows)
    gain, chances = gain_of(_prior(suspects, other), likely)
    pairs = zip(named, chances, strict=True)
    return Told(gain, tuple((name, float(chance)) for name, chance in pairs),
                 _apart(suspects, likely))  # fmt: skip


def _mixed(
    player: Player, test: FaultTest, part: str | None, instances: Sequence[Instance]
) -> list[float]:
    """Give the chances of a test's outcomes; of two faults the one that shows more."""
    found = []
    for instance in instances:
        kind = "" if instance.part is None else known_kind(player, instance.part)
        found.append(list(outcome_chances(test, part, kind, instance).values()))
    return min(found, key=lambda row: row[-1])


def _of_reading(
    hypotheses: Hypotheses, test: FaultTest, part: str | None, suspects: Sequence[Suspect],
    other: float,
) -> Told | None:  # fmt: skip
    assert test.reads is not None
    asked = Asked(test.reads, part)
    kind = KINDS[test.reads]
    means = [
        tuple(one for instance in suspect.instances
              for one in hypotheses.expected(instance, asked)) for suspect in suspects
    ]  # fmt: skip
    if not any(means):
        return None
    grid, doubts = grid_of(test.reads, [one for mean in means for one in mean])
    step = float(grid[1] - grid[0])
    flat = np.full(len(grid), 1.0 / (step * len(grid)))
    densities = [density(kind, mean, grid, doubts) if mean else flat for mean in means] + [flat]
    rows = np.array(densities) * step
    rows /= rows.sum(axis=1, keepdims=True)
    prior = _prior(suspects, other)
    reached = np.cumsum(prior @ rows)
    edges = np.minimum((reached * QUANTILES).astype(np.int64), QUANTILES - 1)
    binned = np.zeros((len(rows), QUANTILES))
    for number in range(QUANTILES):
        binned[:, number] = rows[:, edges == number].sum(axis=1)
    gain, chances = gain_of(prior, binned)
    middles = [
        float(off_scale(kind, float(grid[np.searchsorted(reached, (number + 0.5) / QUANTILES)
                                         .clip(0, len(grid) - 1)])))
        for number in range(QUANTILES)
    ]  # fmt: skip
    return Told(gain, tuple((f"{value:.3g} {kind.unit}", float(chance))
                             for value, chance in zip(middles, chances, strict=True)),
                 _apart(suspects, binned))  # fmt: skip


def _apart(suspects: Sequence[Suspect], likely: Floats) -> tuple[str, str] | None:
    """Name the two suspects that a test tells apart best, by how likely both are."""
    best, pair = 0.0, None
    for row, one in enumerate(suspects[:NAMED]):
        for column, other in enumerate(suspects[:row]):
            differ = 0.5 * float(np.abs(likely[row] - likely[column]).sum())
            weight = differ * min(one.chance, other.chance)
            if weight > best:
                best, pair = weight, (other.key, one.key)
    return pair


def grid_of(name: str, means: Sequence[Expected]) -> tuple[Floats, Floats]:
    """Give places of the scale that hold all that is expected, and how unsure readings are.

    Parameters
    ----------
    name : str
        A quantity. [-]
    means : sequence of Expected
        All that may be read; at least one. [see `KINDS`]

    Returns
    -------
    tuple of numpy.ndarray
        Places and standard deviations, on the scale. [-]
    """
    kind = KINDS[name]
    lows = [on_scale(kind, one.low) for one in means]
    highs = [on_scale(kind, one.high) for one in means]
    room = 5.0 * max(scale_doubt(kind, value, usual_doubt(kind, value))
                     for one in means for value in (one.low, one.high))  # fmt: skip
    grid = np.linspace(min(lows) - room, max(highs) + room, GRID)
    values = [off_scale(kind, float(place)) for place in grid]
    doubts = np.array([scale_doubt(kind, value, usual_doubt(kind, value)) for value in values])
    # no finer than the grid itself
    return grid, np.maximum(doubts, 1.5 * float(grid[1] - grid[0]))
