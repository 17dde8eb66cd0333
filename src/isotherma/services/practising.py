"""Practice: a fault that is hidden in a design, found by tests that are chosen and paid for."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Final

import numpy as np

from isotherma.catalogue.fault_table import fault_table
from isotherma.core.cache import Cache, Caches
from isotherma.core.faults.board import Board, Search, greedy
from isotherma.core.faults.evidence import Evidence, Tried
from isotherma.core.faults.hypotheses import Hypotheses
from isotherma.core.faults.next_tests import cost_of
from isotherma.core.faults.practice import Hidden, answered, hide, reported, with_answer
from isotherma.core.faults.readings import Reading
from isotherma.core.faults.stops import Stop, forbidden, stops_of
from isotherma.core.faults.table import FaultTest
from isotherma.core.project import Project, Variant
from isotherma.services.diagnosing import player_of

BOARD_BYTES: Final = 12_000_000  # measured on Folio
DRAWS: Final = 200
SEED_MOST: Final = 999_999


@dataclass(frozen=True, slots=True)
class Told:
    """A test that was done in practice, with its answer; None: nothing computes one."""

    test: FaultTest
    part: str | None
    answer: Reading | Tried | None


@dataclass(frozen=True, slots=True)
class Exercise:
    """A hidden fault as far as it is known: what is reported, what was tried, what is left."""

    seed: int
    hidden: Hidden
    seen: tuple[str, ...]
    denied: tuple[str, ...]
    stops: tuple[Stop, ...]
    told: tuple[Told, ...]
    left: tuple[tuple[FaultTest, str | None], ...]
    minutes: float
    litres: float
    money: float
    cost_min: float
    faults: tuple[str, ...]

    @property
    def evidence(self) -> Evidence:
        """Give what is known, as it would be typed."""
        found = Evidence(self.seen, self.denied)
        for one in self.told:
            found = with_answer(found, one.answer)
        return found


class PracticeService:
    """Hides faults in designs; their boards are kept.

    Parameters
    ----------
    caches : Caches
        Where they are kept. [-]
    """

    def __init__(self, caches: Caches) -> None:
        self._boards: Cache[Board] = Cache(caches, "practice", lambda _: BOARD_BYTES)
        self._means: Cache[float] = Cache(caches, "practice mean", lambda _: 100)

    def _board(self, project: Project, variant: Variant) -> Board:
        state = variant.standing
        key = (project.brief.digest, variant.built.system.digest,
               None if state is None else state.id)  # fmt: skip

        def lay() -> Board:
            player = player_of(project, variant, state, Evidence())
            return Board(Hypotheses(player), fault_table())

        return self._boards.once(key, lay)

    def exercise(
        self, project: Project, variant: Variant, seed: int, did: tuple[str, ...]
    ) -> Exercise:
        """Give an exercise by its seed; `did` names tests in order, as ``test@part``.

        Parameters
        ----------
        project, variant : Project, Variant
            The design; it stays as it is. [-]
        seed : int
            Of the hidden fault and of all noise: the same gives the same. [-]
        did : tuple of str
            Tests that were done; what is none, or was done before, is left out. [-]

        Returns
        -------
        Exercise
            With the answers so far. [minutes]

        Raises
        ------
        CoreError
            If the network of the design cannot be laid.
        """
        board, table = self._board(project, variant), fault_table()
        player = board.hypotheses.player
        hidden, seen, denied = _begin(board, seed)
        stops = stops_of(table, Evidence(seen), player)
        names = {laid.test.key(laid.part): laid for laid in board.laid}
        told = []
        for number, name in enumerate(dict.fromkeys(did)):
            laid = names.get(name)
            if laid is None or forbidden(laid.test, laid.part, stops, player):
                continue
            draw = np.random.default_rng((seed, sum(name.encode()), number))
            told.append(Told(laid.test, laid.part, answered(
                board.hypotheses, hidden, laid.test, laid.part, draw)))  # fmt: skip
        done = {one.test.key(one.part) for one in told}
        left = tuple(
            (laid.test, laid.part) for laid in board.laid
            if laid.test.key(laid.part) not in done
            and not forbidden(laid.test, laid.part, stops, player)
        )  # fmt: skip
        costs = [cost_of(one.test, None) for one in told]
        return Exercise(
            seed, hidden, seen, denied, stops, tuple(told), left,
            sum(one.test.minutes for one in told), sum(one.test.litres for one in told),
            sum(one.test.money for one in told), sum(one for one in costs if one is not None),
            tuple(one for one in board.faults if one != "no_fault"),
        )  # fmt: skip

    def our_search(self, project: Project, variant: Variant, seed: int) -> Search:
        """Give the order we would have taken from the same start."""
        board = self._board(project, variant)
        return self._search(board, seed, np.random.default_rng((seed, 1)))

    def our_mean_min(self, project: Project, variant: Variant, seed: int) -> float:
        """Give what our order costs on the mean of 200 draws from the same start [min]."""
        board = self._board(project, variant)
        key = (variant.built.system.digest, project.brief.digest, seed)

        def mean() -> float:
            costs = [
                self._search(board, seed, np.random.default_rng((seed, 2, number))).cost_min
                for number in range(DRAWS)
            ]
            return float(np.mean(costs))

        return self._means.once(key, mean)

    def _search(self, board: Board, seed: int, draw: np.random.Generator) -> Search:
        hidden, seen, denied = _begin(board, seed)
        stops = stops_of(fault_table(), Evidence(seen), board.hypotheses.player)
        return board.search(hidden, board.start(seen, denied), greedy, draw, stops)


def _begin(board: Board, seed: int) -> tuple[Hidden, tuple[str, ...], tuple[str, ...]]:
    draw = np.random.default_rng((seed, 0))
    hidden = hide(board.instances, draw)
    seen, denied = reported(hidden, fault_table(), draw)
    return hidden, seen, denied
