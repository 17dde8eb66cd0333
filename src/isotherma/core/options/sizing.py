"""Sizing a way of heating: the smallest sizes that do what is asked, found by running days."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping, Sequence
from dataclasses import dataclass
from itertools import product
from math import inf
from typing import Final

from isotherma.core.errors import CoreError
from isotherma.core.results.draws import WhyNot
from isotherma.core.results.outcome import Outcome

MOST_RUNS: Final = 60
PERSONAL: Final = frozenset({"fresh", "grey"})  # a stop mends them, whatever heats the water


@dataclass(frozen=True, slots=True)
class Step:
    """One size: what it is called, its values by path in the system, what it costs in what.

    `price` is a class of price, 1 to 5, 0 for what is there already; what nobody knows is None and
    counts last.
    """

    id: str
    name: str
    values: Mapping[str, object]
    price: int | None = None
    room_m3: float | None = None
    mass_kg: float | None = None
    watts: float = 0.0


@dataclass(frozen=True, slots=True)
class Axis:
    """A figure that may vary: its sizes from the smallest to the largest.

    `monotone` says that more of it never does less, so that what fails need not be tried smaller;
    `part` is the part of the layout whose sizes they are.
    """

    title: str
    steps: tuple[Step, ...]
    monotone: bool = True
    part: str = ""


@dataclass(frozen=True, slots=True)
class Family:
    """A way of heating: a starting layout and what of it may vary."""

    id: str
    name: str
    layout: str
    axes: tuple[Axis, ...]


Point = tuple[int, ...]
Run = Callable[[Sequence[Step]], Outcome | CoreError]


@dataclass(frozen=True, slots=True)
class Struck:
    """Why sizes do not do it: which draw or budget, its figure and the limit [SI].

    `what` is a draw's id or a budget; `code` why, as the results have it.
    """

    what: str
    name: str
    code: str
    figure: float | None
    limit: float | None
    style: str


@dataclass(frozen=True, slots=True)
class Sized:
    """What sizing has found: the sizes, what they do, how the next smaller fails.

    `steps` are None where no size does it; then `struck` says by what, at the largest. `runs` is
    how many sizes were tried.
    """

    family: str
    steps: tuple[Step, ...] | None
    outcome: Outcome | None
    smaller: tuple[Step, ...] | None
    smaller_struck: tuple[Struck, ...]
    struck: tuple[Struck, ...]
    error: CoreError | None
    runs: int

    @property
    def stands(self) -> bool:
        """Whether some size does what the brief asks."""
        return self.steps is not None


def struck_by(outcome: Outcome) -> tuple[Struck, ...]:
    """Say by what a design is struck: draws that are not as asked, budgets that give out.

    Parameters
    ----------
    outcome : Outcome
        Of the whole trip. [-]

    Returns
    -------
    tuple of Struck
        Draws of every day, then budgets. Water that a stop a day carries strikes nothing. [SI]
    """
    found: list[Struck] = []
    seen: set[tuple[str, WhyNot]] = set()
    limit_s = outcome.brief.budgets.longest_wait_s
    for leg in outcome.course.legs:
        for draw in leg.draws:
            if draw.why_not is None or (draw.draw.id, draw.why_not) in seen:
                continue
            seen.add((draw.draw.id, draw.why_not))
            figure: float | None = draw.comfort_s
            limit, style = draw.asked_s, "minutes"
            if draw.why_not is WhyNot.LONG_WAIT:
                figure, limit, style = draw.wait_s, limit_s, "seconds"
            elif draw.why_not in (WhyNot.NEVER_WARM, WhyNot.STAYS_COOL) and draw.held_c is not None:
                figure, limit, style = draw.held_c, draw.draw.low_c, "temperature"
            elif draw.why_not is WhyNot.TOO_HOT and draw.peak_c is not None:
                figure, limit, style = draw.peak_c, draw.draw.high_c, "temperature"
            found.append(
                Struck(draw.draw.id, draw.draw.name, draw.why_not.value, figure, limit, style)
            )
    hopeless = set(outcome.trip.hopeless)
    for entry in outcome.ledger:
        if entry.ends_on_day is None or (entry.budget in PERSONAL and entry.budget not in hopeless):
            continue
        found.append(Struck(entry.budget, "", "gives_out", entry.used, entry.limit, entry.style))
    return tuple(found)


Judge = Callable[[Outcome], tuple[Struck, ...]]


Barred = Callable[[Sequence[Step]], tuple[Struck, ...]]


def size(
    family: Family, run: Run, judge: Judge | None = None, barred: Barred | None = None
) -> Sized:
    """Find the smallest sizes of a family that do what the brief asks, or what else must hold.

    Parameters
    ----------
    family : Family
        What may vary; an axis without sizes cannot. [-]
    run : callable
        Runs the trip with one step of each axis. [-]
    judge : callable or None
        Says by what a run is struck; None: by what of the brief it does not do. [-]
    barred : callable or None
        Says which limits sizes are beyond that need no run: mass, room, money; None: none. [-]

    Returns
    -------
    Sized
        The first that does it in the order of price, room, watts, name; the same for the same
        input. [-]

    Notes
    -----
    Along monotone axes the least that is needed is bisected first, and what fails strikes all that
    is smaller; what is left is tried from the cheapest, so few are run. A larger store heats
    longer, so more may do less: the neighbours of what was found are run, and where one that was
    struck does it after all, all cheaper ones are tried, up to 60 runs. Sizes beyond a limit
    are no answer, but what they do still tells of smaller ones.
    """
    return _Search(family, run, judge or struck_by, barred or (lambda _: ())).found()


class _Search:
    """The runs of one family."""

    def __init__(self, family: Family, run: Run, judge: Judge, barred: Barred) -> None:
        self.family, self.run, self.judge, self.barred = family, run, judge, barred
        self.known: dict[Point, tuple[Struck, ...] | CoreError] = {}
        self.outcomes: dict[Point, Outcome] = {}

    def steps(self, point: Point) -> tuple[Step, ...]:
        return tuple(axis.steps[at] for axis, at in zip(self.family.axes, point, strict=True))

    def cost(self, point: Point) -> tuple[float, float, float, tuple[str, ...]]:
        """Order candidates: price, room, watts; what nobody knows comes last, ties by name."""
        steps = self.steps(point)
        price = sum(inf if step.price is None else step.price for step in steps)
        room = sum(inf if step.room_m3 is None else step.room_m3 for step in steps)
        return price, room, sum(step.watts for step in steps), tuple(step.id for step in steps)

    def does(self, point: Point) -> bool:
        """Run a candidate, once; say whether it does what is asked."""
        if point not in self.known:
            result = self.run(self.steps(point))
            if isinstance(result, CoreError):
                self.known[point] = result
            else:
                self.known[point] = self.judge(result)
                self.outcomes[point] = result
        return self.known[point] == ()

    def is_struck(self, point: Point) -> bool:
        """Say whether something no smaller has failed already."""
        return any(
            known != () and self._covers(failed, point) for failed, known in self.known.items()
        )

    def _covers(self, failed: Point, point: Point) -> bool:
        return all(
            at <= other if axis.monotone else at == other
            for axis, at, other in zip(self.family.axes, point, failed, strict=True)
        )

    def smaller(self, point: Point) -> Iterator[Point]:
        """Give the neighbours one size below, the most expensive axis first."""
        found = [
            (*point[:place], at - 1, *point[place + 1 :])
            for place, at in enumerate(point) if at > 0
        ]  # fmt: skip
        yield from sorted(found, key=self.cost)

    def _ceiling(self, point: Point) -> Point:
        """Give the most of every monotone axis beside a candidate: what fails there strikes it."""
        return tuple(
            len(axis.steps) - 1 if axis.monotone else at
            for axis, at in zip(self.family.axes, point, strict=True)
        )

    def _bisect(self) -> None:
        """Find how much of each monotone axis is needed at least, all else at its most."""
        top = tuple(len(axis.steps) - 1 for axis in self.family.axes)
        if not self.does(top):
            return
        for place, axis in enumerate(self.family.axes):
            low, high = 0, len(axis.steps) - 1
            while axis.monotone and low < high:
                middle = (low + high) // 2
                enough = self.does((*top[:place], middle, *top[place + 1 :]))
                low, high = (low, middle) if enough else (middle + 1, high)

    def found(self) -> Sized:
        every = sorted(
            product(*(range(len(axis.steps)) for axis in self.family.axes)), key=self.cost
        )
        points = [point for point in every if not self.barred(self.steps(point))]
        if not points:
            return self._none(self.barred(self.steps(every[0])), None, None)
        self._bisect()
        best = next(
            (
                point for point in points
                if not self.is_struck(point) and len(self.known) < MOST_RUNS
                and self.does(self._ceiling(point)) and self.does(point)
            ),
            None,
        )  # fmt: skip
        if best is None:
            return self._struck(points)
        if any(self.does(point) for point in self.smaller(best)):
            # more did less: whatever is cheaper may do it after all
            best = next(
                point for point in points
                if (len(self.known) < MOST_RUNS or point in self.known) and self.does(point)
            )  # fmt: skip
        below = next(self.smaller(best), None)
        why = self.known.get(below) if below is not None else None
        return Sized(
            self.family.id, self.steps(best), self.outcomes[best],
            self.steps(below) if below is not None else None,
            why if isinstance(why, tuple) else (), (), None, len(self.known),
        )  # fmt: skip

    def _struck(self, points: Sequence[Point]) -> Sized:
        """Say by what no size does it: what the largest fails by, else why it cannot be run."""
        largest = max(points, key=lambda point: (sum(point), self.cost(point)))
        self.does(largest)
        why = self.known[largest]
        return self._none(
            why if isinstance(why, tuple) else (), self.outcomes.get(largest),
            why if isinstance(why, CoreError) else None,
        )  # fmt: skip

    def _none(
        self, struck: tuple[Struck, ...], outcome: Outcome | None, error: CoreError | None
    ) -> Sized:
        return Sized(self.family.id, None, outcome, None, (), struck, error, len(self.known))
