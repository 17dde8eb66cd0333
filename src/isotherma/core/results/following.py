"""Something carried, followed through a trip: what days take of it, what stops bring."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field

from isotherma.core.climate import DAY_S

SLACK = 1e-9  # of what there is: a day that takes all of it leaves nothing, not less


@dataclass(frozen=True, slots=True)
class Taking:
    """What a day takes of something, and when: in spells, what is over them evenly.

    A spell is when it begins, when it ends and what it takes [s, s, any unit].
    """

    total: float
    spells: tuple[tuple[float, float, float], ...] = ()

    def before(self, clock_s: float) -> float:
        """Give what it has taken by a time of day.

        Parameters
        ----------
        clock_s : float
            Since midnight. [s]

        Returns
        -------
        float
            All of it at the end of the day. [as it counts]
        """
        if clock_s >= DAY_S:
            return self.total
        even = self.total - sum(spell[2] for spell in self.spells)
        taken = even * clock_s / DAY_S
        for start_s, end_s, amount in self.spells:
            if clock_s >= end_s:
                taken += amount
            elif clock_s > start_s:
                taken += amount * (clock_s - start_s) / (end_s - start_s)
        return taken

    def when(self, amount: float) -> float:
        """Give when it has taken so much.

        Parameters
        ----------
        amount : float
            Less than the day takes. [as it counts]

        Returns
        -------
        float
            To a second. [s]
        """
        low, high = 0.0, DAY_S
        while high - low > 0.5:
            middle = 0.5 * (low + high)
            low, high = (low, middle) if self.before(middle) >= amount else (middle, high)
        return high


@dataclass(frozen=True, slots=True)
class Filling:
    """A stop that brings something: up to a level, or so much more; both None: full."""

    at_s: float
    up_to: float | None = None
    adds: float | None = None
    what: str = ""

    def level(self, left: float, limit: float) -> float:
        """Give what there is after it; never less than before, never more than fits."""
        there = max(0.0, left)
        if self.adds is not None:
            after = min(limit, there + self.adds)
        else:
            after = limit if self.up_to is None else min(limit, self.up_to)
        return after if after > there else left


@dataclass(frozen=True, slots=True)
class Filled:
    """A stop as it was made: on which day, when, how much went in, what was done."""

    day: int
    at_s: float
    amount: float
    what: str = ""


@dataclass(frozen=True, slots=True)
class Followed:
    """How something carried goes through a trip.

    `used` is the deepest it is drawn down between two fillings, what is asked beyond its end
    too; `total` all that is taken; `ends` on which day and when it first gives out; `levels`
    what is left as each day ends, below 0 what is owed.
    """

    limit: float
    used: float
    total: float
    ends: tuple[int, float] | None
    levels: tuple[float, ...]
    filled: tuple[Filled, ...] = field(default=())


def follow(
    limit: float, takings: Sequence[Taking], fillings: Mapping[int, Sequence[Filling]]
) -> Followed:
    """Follow something carried through the days of a trip, full at its start.

    Parameters
    ----------
    limit : float
        What there is when it is full, >= 0. [as it counts]
    takings : sequence of Taking
        By day, shape (n_days,). [as it counts]
    fillings : mapping of int to sequence of Filling
        By number of the day, from 1. [as it counts]

    Returns
    -------
    Followed
        Its course. [as it counts]

    References
    ----------
    Balance of what comes and goes, exact while spells are even.

    Examples
    --------
    >>> five = [Taking(30.0)] * 5
    >>> follow(100.0, five, {}).ends[0], follow(100.0, five, {3: [Filling(0.0)]}).ends
    (4, None)
    """
    left, least, total = limit, limit, 0.0
    ends: tuple[int, float] | None = None
    levels, filled = [], []
    for number, taking in enumerate(takings, start=1):
        gone = 0.0
        visits = sorted(fillings.get(number, ()), key=lambda item: item.at_s)
        for at_s, filling in (*((item.at_s, item) for item in visits), (DAY_S, None)):
            by_now = taking.before(at_s)
            after = left - (by_now - gone)
            if ends is None and after < -SLACK * max(limit, 1e-12):
                ends = number, taking.when(gone + max(0.0, left))
            least = min(least, after)
            left, gone = after, by_now
            if filling is not None:
                level = filling.level(left, limit)
                filled.append(Filled(number, at_s, max(0.0, level - max(0.0, left)), filling.what))
                left = level
        total += taking.total
        levels.append(left)
    drawn = limit - least if any(item.amount > 0.0 for item in filled) else total
    return Followed(limit, drawn, total, ends, tuple(levels), tuple(filled))


def needed(
    limit: float, takings: Sequence[Taking], fillings: Mapping[int, Sequence[Filling]]
) -> tuple[tuple[Filled, ...], bool]:
    """Find the fewest stops that carry a trip, each as late as it can be.

    Parameters
    ----------
    limit : float
        What there is when it is full. [as it counts]
    takings : sequence of Taking
        By day, shape (n_days,). [as it counts]
    fillings : mapping of int to sequence of Filling
        Stops that are planned already. [as it counts]

    Returns
    -------
    tuple of Filled, and bool
        Those to be added, before anything is taken on their day, and whether they are enough: a
        day may take more than fits.

    Notes
    -----
    Filling up on the last day that can still be begun is never worse than on any earlier one.
    """
    made: dict[int, list[Filling]] = {day: list(items) for day, items in fillings.items()}
    added: list[int] = []
    while (ends := follow(limit, takings, made).ends) is not None and ends[0] not in added:
        added.append(ends[0])
        made.setdefault(ends[0], []).insert(0, Filling(0.0))
    course = follow(limit, takings, made)
    brought = {item.day: item for item in reversed(course.filled)}  # the first of a day
    return tuple(brought[day] for day in sorted(added)), course.ends is None
