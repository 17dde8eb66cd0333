"""All tests of a design against all its faults, laid out once: for practice and for measuring."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from math import log
from typing import Final

import numpy as np

from isotherma.core.faults.evidence import (
    Evidence,
    Tried,
    outcome_chances,
    outcomes_of,
    symptom_chance,
)
from isotherma.core.faults.hypotheses import Hypotheses, known_kind
from isotherma.core.faults.instances import instances_of
from isotherma.core.faults.next_tests import (
    LEAST_BITS,
    QUANTILES,
    SURE,
    candidates,
    cost_of,
    gain_of,
    grid_of,
)
from isotherma.core.faults.player import Asked
from isotherma.core.faults.posterior import OTHER_WEIGHT
from isotherma.core.faults.practice import Hidden, answered
from isotherma.core.faults.readings import (
    KINDS,
    Expected,
    Floats,
    Reading,
    density,
    likelihood,
    span_of,
)
from isotherma.core.faults.stops import Stop, forbidden
from isotherma.core.faults.table import FaultTable, FaultTest

MOST_STEPS: Final = 60


@dataclass(frozen=True, slots=True)
class Laid:
    """One test at one part: its cost [min], and its rows.

    `rows` has the chance of each outcome, or of each place of the scale, by fault; the last row is
    what the table does not know.
    """

    test: FaultTest
    part: str | None
    cost_min: float
    rows: Floats


@dataclass(frozen=True, slots=True)
class Step:
    """One test that was done in a search."""

    test: FaultTest
    part: str | None
    told: Reading | Tried


@dataclass(frozen=True, slots=True)
class Search:
    """How a search went: its tests in order, what they cost [min], what stood first at its end."""

    steps: tuple[Step, ...]
    cost_min: float
    fault: str
    chance: float


# of a board and the bits that the tests which are left would gain, the one that is done next
Chooser = Callable[["Board", Mapping[int, float]], int]


class Board:
    """The tests and faults of a design."""

    def __init__(self, hypotheses: Hypotheses, table: FaultTable) -> None:
        self.hypotheses, self.table = hypotheses, table
        player = hypotheses.player
        self.instances = instances_of(player, table)
        self._means: dict[Asked, list[tuple[Expected, ...]]] = {}
        self._kinds = [
            "" if one.part is None else known_kind(player, one.part) for one in self.instances
        ]
        self.faults = sorted({one.fault.id for one in self.instances})
        self._of_fault = np.array([self.faults.index(one.fault.id) for one in self.instances])
        self.laid = [
            laid for test, part in candidates(player, table, Evidence(), whole=True)
            if (laid := self._lay(test, part)) is not None
        ]  # fmt: skip

    def _lay(self, test: FaultTest, part: str | None) -> Laid | None:
        cost = cost_of(test, None)
        assert cost is not None  # litres are unknown here, so none is too dear
        if test.reads is None:
            rows = [
                list(outcome_chances(test, part, kind, one).values())
                for one, kind in zip(self.instances, self._kinds, strict=True)
            ]
            rows.append(list(outcome_chances(test, part, "", None).values()))
            return Laid(test, part, cost, np.array(rows))
        asked = Asked(test.reads, part)
        means = [self.hypotheses.expected(one, asked) for one in self.instances]
        self._means[asked] = means
        if not any(means):
            return None
        kind = KINDS[test.reads]
        grid, doubts = grid_of(test.reads, [one for mean in means for one in mean])
        flat = np.full(len(grid), 1.0 / len(grid))
        densities = [density(kind, mean, grid, doubts) if mean else flat for mean in means]
        found = np.array([*densities, flat])
        return Laid(test, part, cost, found / found.sum(axis=1, keepdims=True))

    def start(self, seen: Sequence[str], denied: Sequence[str]) -> Floats:
        """Give the logarithms of the weights of all faults, and of others, by symptoms alone."""
        found = np.array([*(log(one.weight) for one in self.instances), log(OTHER_WEIGHT)])
        for keys, here in ((seen, True), (denied, False)):
            for key in keys:
                symptom = self.table.symptoms[key]
                found += [log(symptom_chance(symptom, one, seen=here))
                          for one in (*self.instances, None)]  # fmt: skip
        return found

    def chances(self, weights: Floats) -> Floats:
        """Give the chances of all faults, and of others last."""
        found = np.exp(weights - weights.max())
        return np.asarray(found / found.sum())

    def first(self, weights: Floats) -> tuple[str, float]:
        """Give the likeliest fault, all its parts together, and its chance."""
        sums = np.bincount(self._of_fault, self.chances(weights)[:-1], len(self.faults))
        best = int(np.argmax(sums))
        return self.faults[best], float(sums[best])

    def gain(self, weights: Floats, number: int) -> float:
        """Give the bits a test gains."""
        return self.gains(weights, [number])[0]

    def gains(self, weights: Floats, numbers: Sequence[int]) -> list[float]:
        """Give the bits that tests gain."""
        chances = self.chances(weights)
        found = []
        for number in numbers:
            laid = self.laid[number]
            rows = laid.rows
            if laid.test.reads is not None:
                reached = np.cumsum(chances @ rows)
                edges = np.searchsorted(reached, np.arange(QUANTILES) / QUANTILES)
                rows = np.add.reduceat(rows, np.minimum(edges, rows.shape[1] - 1), axis=1)
            found.append(gain_of(chances, rows)[0])
        return found

    def after(self, weights: Floats, told: Reading | Tried) -> Floats:
        """Give the weights once a test has answered; one of those that are laid."""
        if isinstance(told, Tried):
            laid = next(one for one in self.laid
                        if (one.test.id, one.part) == (told.test, told.part))  # fmt: skip
            column = outcomes_of(laid.test).index(told.outcome)
            return np.asarray(weights + np.log(laid.rows[:, column]))
        span = span_of(KINDS[told.kind])
        means = self._means[Asked(told.kind, told.part)]
        found = [likelihood(told, mean) if mean else 1.0 / span for mean in means]
        return np.asarray(weights + np.log(np.array([*found, 1.0 / span])))

    def search(
        self, hidden: Hidden, weights: Floats, choose: Chooser, draw: np.random.Generator,
        stops: Sequence[Stop] = (),
    ) -> Search:  # fmt: skip
        """Look for a hidden fault until the first is sure or no test tells anything.

        Parameters
        ----------
        hidden : Hidden
            The fault. [-]
        weights : numpy.ndarray
            As `start` gives them. [-]
        choose : callable
            The order: of a board and what the tests that are left would gain. [-]
        draw : numpy.random.Generator
            Answers tests, with their noise. [-]
        stops : sequence of Stop
            Forbid some tests. [-]

        Returns
        -------
        Search
            Every order stops alike. [-]
        """
        player = self.hypotheses.player
        left = [number for number, laid in enumerate(self.laid)
                if not forbidden(laid.test, laid.part, stops, player)]  # fmt: skip
        steps: list[Step] = []
        cost = 0.0
        while self.first(weights)[1] <= SURE and len(steps) < MOST_STEPS:
            gains = dict(zip(left, self.gains(weights, left), strict=True))
            if max(gains.values(), default=0.0) < LEAST_BITS:
                break
            number = choose(self, gains)
            left.remove(number)
            laid = self.laid[number]
            told = answered(self.hypotheses, hidden, laid.test, laid.part, draw)
            cost += laid.cost_min
            if told is None:
                continue
            weights = self.after(weights, told)
            steps.append(Step(laid.test, laid.part, told))
            if isinstance(told, Reading):  # what was read by one test is not read by another
                left = [one for one in left if self.laid[one].part != laid.part
                        or self.laid[one].test.reads != laid.test.reads]  # fmt: skip
        fault, chance = self.first(weights)
        return Search(tuple(steps), cost, fault, chance)


def greedy(board: Board, gains: Mapping[int, float]) -> int:
    """Choose what gains most for its cost.

    Parameters
    ----------
    board : Board
        Tests that are laid. [-]
    gains : mapping of int to float
        Bits by test, of those that are left. [bits]

    Returns
    -------
    int
        Number of a test. [-]
    """
    return max(gains, key=lambda number: gains[number] / board.laid[number].cost_min)


def cheapest_telling(board: Board, gains: Mapping[int, float]) -> int:
    """Choose the cheapest of those that gain anything to speak of.

    Parameters
    ----------
    board : Board
        Tests that are laid. [-]
    gains : mapping of int to float
        Bits by test, of those that are left. [bits]

    Returns
    -------
    int
        Number of a test. [-]
    """
    tells = [number for number, gain in gains.items() if gain >= LEAST_BITS]
    return min(tells, key=lambda number: board.laid[number].cost_min)


def by_cost(board: Board, gains: Mapping[int, float]) -> int:
    """Choose by a fixed list, the cheapest first, whatever the case.

    Parameters
    ----------
    board : Board
        Tests that are laid. [-]
    gains : mapping of int to float
        Bits by test, of those that are left. [bits]

    Returns
    -------
    int
        Number of a test. [-]
    """
    return min(gains, key=lambda number: (board.laid[number].cost_min, number))


def at_random(draw: np.random.Generator) -> Chooser:
    """Give an order that chooses any of what is allowed.

    Parameters
    ----------
    draw : numpy.random.Generator
        Seeded by whoever asks. [-]

    Returns
    -------
    callable
        An order, as the others are. [-]
    """

    def choose(board: Board, gains: Mapping[int, float]) -> int:
        left = list(gains)
        return left[int(draw.integers(len(left)))]

    return choose
