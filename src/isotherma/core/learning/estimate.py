"""The likeliest figures of a design by its readings, how sure, and what cannot be told apart."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, replace
from math import sqrt
from typing import Final

import numpy as np
from numpy.typing import NDArray
from scipy.optimize import least_squares

from isotherma.core.learning.model import CURVE, Piece
from isotherma.core.learning.parameters import TENTH, Parameter
from isotherma.core.learning.rows import Row

Floats = NDArray[np.float64]
Ran = Callable[[int, int], None]

MOVES: Final = 0.1  # of its doubt a row must move by a figure's own, or it says nothing of it
SHRINKS: Final = 0.7  # what data alone must leave of the doubt before them
TIED: Final = 0.95  # of a correlation: two figures that move together
DOUBTFUL: Final = 4.0  # standard residuals
TOO_MANY: Final = 0.2  # doubtful rows of all
FAR: Final = 3.0  # standard deviations from what was known: look twice
OWN_K: Final = 50.0  # doubt of a temperature that only one session has
ENOUGH_ROWS, ENOUGH_SESSIONS = 3, 2
BLOCK: Final = 3


@dataclass(frozen=True, slots=True)
class Learned:
    """What readings make of one figure; bands are 10 to 90 %, SI.

    `why` is a code: offered, not_identified, too_few, doubtful, bound, no_better, worse_ahead,
    look_twice.
    """

    parameter: Parameter
    low: float
    likely: float
    high: float
    identified: bool
    offered: bool
    sessions: tuple[str, ...]
    confused_with: tuple[str, ...]
    why: str
    far: bool = False


@dataclass(frozen=True, slots=True)
class Residual:
    """One row: what was read, what was foretold before and after, in how many doubts it is off."""

    row: Row
    before: float
    after: float
    standard: float


@dataclass(frozen=True, slots=True)
class HeldOut:
    """Rows that were foretold without being learned from, in units of their doubt."""

    rows: int
    before_rms: float | None
    after_rms: float | None


@dataclass(frozen=True, slots=True)
class Learning:
    """All that was learned."""

    learned: tuple[Learned, ...]
    residuals: tuple[Residual, ...]
    doubtful: tuple[Residual, ...]
    held_out: HeldOut
    converged: bool
    iterations: int


@dataclass(frozen=True, slots=True)
class _Fit:
    """A fit: figures and session temperatures on their scales, with what surrounds them."""

    places: Floats
    jacobian: Floats
    residuals: Floats
    converged: bool
    iterations: int


class _Problem:
    """Rows, laws and figures as one least-squares problem."""

    def __init__(self, pieces: Sequence[Piece], figures: Mapping[str, Parameter],
                 fixed: Mapping[str, float]) -> None:  # fmt: skip
        self.pieces = pieces
        self.paths = tuple(figures)
        self.figures = [figures[path] for path in self.paths]
        self.fixed = fixed
        self.rows = [row for piece in pieces for row in piece.rows]
        self.values = np.array([row.value for row in self.rows])
        self.doubts = np.array([row.doubt for row in self.rows])
        self.own = [one for piece in pieces for one in piece.own]
        self.count = len(self.figures)

    def start(self) -> Floats:
        """Begin where figures are likely and temperatures as first read."""
        return np.array([*(one.mean for one in self.figures), *self.own])

    def foretold(self, places: Floats) -> Floats:
        """Give every row's value."""
        known = dict(self.fixed)
        for path, figure, place in zip(self.paths, self.figures, places, strict=False):
            known[path] = figure.value(float(place))
        found: list[float] = []
        at = self.count
        for piece in self.pieces:
            own = tuple(float(one) for one in places[at : at + len(piece.own)])
            at += len(piece.own)
            given = {name: known[path_of(figure)] for name, figure in piece.figures.items()}
            found += piece.law(given, own)
        return np.array(found)

    def off(self, places: Floats) -> Floats:
        """Give residuals of rows in units of their doubt, then of what was known before."""
        rows = (self.foretold(places) - self.values) / self.doubts
        prior = [
            0.0 if figure.flat else (float(place) - figure.mean) / figure.sigma
            for place, figure in zip(places, self.figures, strict=False)
        ]
        own = [(float(place) - start) / OWN_K
               for place, start in zip(places[self.count :], self.own, strict=True)]  # fmt: skip
        return np.array([*rows, *prior, *own])

    def fit(self, start: Floats | None = None) -> _Fit:
        """Find the likeliest figures; single rows that lie far off pull little."""
        first = self.start() if start is None else start
        own = len(self.own)
        low = np.array([*(one.place(one.least) for one in self.figures), *([-80.0] * own)])
        high = np.array([*(one.place(one.most) for one in self.figures), *([200.0] * own)])
        first = np.clip(first, low + 1e-9, high - 1e-9)
        found = least_squares(self.off, first, bounds=(low, high), loss="soft_l1", x_scale="jac",
                              max_nfev=200)  # fmt: skip
        return _Fit(found.x, self._slopes(found.x), self.off(found.x), bool(found.success),
                    int(found.nfev))  # fmt: skip

    def _slopes(self, places: Floats) -> Floats:
        here = self.off(places)
        made = np.zeros((len(here), len(places)))
        for column in range(len(places)):
            step = 1e-5 * max(1.0, abs(float(places[column])))
            moved = places.copy()
            moved[column] += step
            made[:, column] = (self.off(moved) - here) / step
        return made


def path_of(figure: tuple[str, str]) -> str:
    """Give the path of a figure: of a part, or of the brief.

    Parameters
    ----------
    figure : tuple of str
        Part and property, or "brief" and property. [-]

    Returns
    -------
    str
        As in the document. [-]
    """
    owner, name = figure
    return f"brief.{name}" if owner == "brief" else f"parts.{owner}.{name}"


def _weights(residuals: Floats) -> Floats:
    """Give the weight of each residual under soft_l1: what lies far off counts little."""
    return np.asarray(1.0 / np.sqrt(1.0 + residuals**2))


def estimate(
    pieces: Sequence[Piece], known: Mapping[str, Parameter], ran: Ran | None = None
) -> Learning:
    """Learn figures from readings.

    Parameters
    ----------
    pieces : sequence of Piece
        Rows and the laws that foretell them. [see `KINDS`]
    known : mapping of str to Parameter
        What is known of each figure before, by path; a piece of which a figure is missing must not
        be given. [SI]
    ran : callable or None
        Told of steps done and of all; may raise to end the work. [-]

    Returns
    -------
    Learning
        The same whatever order the rows came in. [SI]

    References
    ----------
    Maximum a posteriori by least squares; Gelman et al., Bayesian Data Analysis, ch. 4 and 13.
    """
    tell = ran or (lambda done, whole: None)
    free, fixed = _free(pieces, known)
    problem = _Problem(pieces, free, fixed)
    if not problem.rows or not free:
        return Learning((), (), (), HeldOut(0, None, None), converged=True, iterations=0)
    whole = len(free) + 3
    tell(0, whole)
    fit = problem.fit()
    tell(1, whole)
    count = len(problem.rows)
    before = _Problem(pieces, {}, {**fixed, **{key: one.value(one.mean)
                                               for key, one in free.items()}})  # fmt: skip
    first = before.foretold(_own_only(before))
    after = problem.foretold(fit.places)
    scale = _scale(fit, count, problem.count)
    residuals = tuple(
        Residual(row, float(old), float(new), float((row.value - new) / (row.doubt * scale)))
        for row, old, new in zip(problem.rows, first, after, strict=True)
    )
    doubtful = tuple(one for one in residuals if abs(one.standard) > DOUBTFUL)
    held = _held_out(pieces, free, fixed)
    tell(2, whole)
    doubts = _doubts(problem, fit, count, scale, {path: known[path] for path in fixed})
    again = _without(pieces, free, fixed, doubtful)
    learned = []
    for number, path in enumerate(problem.paths):
        learned.append(_judge(problem, fit, number, path, doubts, residuals, doubtful, held, again))
        tell(3 + number, whole)
    return Learning(tuple(learned), residuals, doubtful, held, fit.converged, fit.iterations)


def _own_only(problem: _Problem) -> Floats:
    return np.array(problem.own)


def _free(
    pieces: Sequence[Piece], known: Mapping[str, Parameter]
) -> tuple[dict[str, Parameter], dict[str, float]]:
    """Part figures that readings say something of from those that stay as they are."""
    used = dict.fromkeys(path_of(one) for piece in pieces for one in piece.figures.values())
    everything = {path: known[path] for path in sorted(used)}
    problem = _Problem(pieces, everything, {})
    if not problem.rows:
        return {}, {}
    slopes = problem._slopes(problem.start())[: len(problem.rows)]
    free, fixed = {}, {}
    for column, (path, figure) in enumerate(everything.items()):
        moves = float(np.max(np.abs(slopes[:, column]))) * figure.sigma
        if moves > MOVES:
            free[path] = figure
        else:
            fixed[path] = figure.value(figure.mean)
    given = [path for path, figure in free.items() if figure.origin == "given"]
    # a given figure moves only where data alone part it from all others
    for path in given:
        if len(free) > 1 and not _parted(pieces, free, fixed, path):
            fixed[path] = free[path].value(free[path].mean)
            free = {key: one for key, one in free.items() if key != path}
    return free, fixed


def _parted(
    pieces: Sequence[Piece], free: Mapping[str, Parameter], fixed: Mapping[str, float], path: str
) -> bool:
    problem = _Problem(pieces, free, fixed)
    slopes = problem._slopes(problem.start())[: len(problem.rows)]
    covariance = _inverse(slopes.T @ slopes)
    if covariance is None:
        return False
    number = problem.paths.index(path)
    spread = np.sqrt(np.maximum(np.diag(covariance), 1e-30))
    tied = np.abs(covariance[number, : problem.count]) / spread[number] / spread[: problem.count]
    tied[number] = 0.0
    return bool(spread[number] < SHRINKS * free[path].sigma and np.max(tied) < TIED)


def _inverse(matrix: Floats) -> Floats | None:
    """Invert, or None where data alone leave something open."""
    if not len(matrix) or np.linalg.cond(matrix) > 1e13:
        return None
    return np.asarray(np.linalg.inv(matrix))


def _scale(fit: _Fit, count: int, figures: int) -> float:
    """Give how much wider rows lie than they are unsure; never under 1.

    References
    ----------
    Birge ratio, Birge 1932, Physical Review 40.
    """
    rows = fit.residuals[:count]
    free = count - len(fit.places)
    if free < 1:
        return 1.0
    chi = float(np.sum(_weights(rows) * rows**2))
    return sqrt(max(1.0, chi / free))


def _stays(
    problem: _Problem, fit: _Fit, staying: Mapping[str, Parameter], count: int
) -> list[tuple[Parameter, Floats]]:
    """Give what each figure that stays would move the rows by, for a step of its scale."""
    here = problem.off(fit.places)[:count]
    found = []
    for path, figure in staying.items():
        place = figure.place(problem.fixed[path])
        step = 1e-4 * max(1.0, abs(place))
        moved = _Problem(problem.pieces, dict(zip(problem.paths, problem.figures, strict=True)),
                         {**problem.fixed, path: figure.value(place + step)})  # fmt: skip
        found.append((figure, (moved.off(fit.places)[:count] - here) / step))
    return found


def _doubts(
    problem: _Problem, fit: _Fit, count: int, scale: float, staying: Mapping[str, Parameter]
) -> tuple[Floats, Floats, Floats]:
    """Give posterior doubts, doubts by data alone, and correlations by data alone."""
    weights = np.concatenate([_weights(fit.residuals[:count]),
                              np.ones(len(fit.residuals) - count)])  # fmt: skip
    weighted = fit.jacobian * np.sqrt(weights)[:, None]
    both = _inverse(weighted.T @ weighted)
    data = _inverse(weighted[:count].T @ weighted[:count])
    many = problem.count
    if both is None:
        own = [OWN_K**2] * len(problem.own)
        both = np.diag([*(one.sigma**2 for one in problem.figures), *own])
    squares = scale**2 * np.diag(both)[:many]
    # what stays as it was given still has its own doubt: it widens what hangs on it
    for figure, slope in _stays(problem, fit, staying, count):
        moved = both @ (weighted[:count].T @ (np.sqrt(weights[:count]) * slope))
        squares = squares + (moved[:many] * figure.sigma) ** 2
    sigmas = np.sqrt(squares)
    if data is None:
        return sigmas, np.full(many, np.inf), _parts_tied(weighted[:count], many)
    spread = np.sqrt(np.maximum(np.diag(data), 1e-30))
    return sigmas, scale * spread[:many], (data / np.outer(spread, spread))[:many, :many]


def _parts_tied(slopes: Floats, many: int) -> Floats:
    """Name figures whose effect on all rows is one another's, where data cannot be inverted."""
    sizes = np.linalg.norm(slopes[:, :many], axis=0)
    sizes[sizes == 0.0] = 1.0
    alike = (slopes[:, :many] / sizes).T @ (slopes[:, :many] / sizes)
    return np.asarray(alike)


def _without(
    pieces: Sequence[Piece], free: Mapping[str, Parameter], fixed: Mapping[str, float],
    doubtful: Sequence[Residual],
) -> Mapping[str, float] | None:  # fmt: skip
    """Fit once more without doubtful rows; None where there are none."""
    if not doubtful:
        return None
    numbers = {one.row.number for one in doubtful}
    left = [less for piece in pieces if (less := without_rows(piece, numbers)) is not None]
    problem = _Problem(left, free, fixed)
    if not problem.rows:
        return None
    fit = problem.fit()
    return {path: figure.value(float(place)) for path, figure, place in
            zip(problem.paths, problem.figures, fit.places, strict=False)}  # fmt: skip


def without_rows(piece: Piece, numbers: set[int]) -> Piece | None:
    """Give a piece whose rows of some numbers do not count; None where none is left.

    Parameters
    ----------
    piece : Piece
        Rows and their law. [-]
    numbers : set of int
        Of rows. [-]

    Returns
    -------
    Piece or None
        Its law still follows all times, so that a curve is not torn. [-]
    """
    kept = [place for place, row in enumerate(piece.rows) if row.number not in numbers]
    if len(kept) == len(piece.rows):
        return piece
    if not kept:
        return None
    whole = piece.law

    def law(given: Mapping[str, float], own: tuple[float, ...]) -> list[float]:
        values = whole(given, own)
        return [values[place] for place in kept]

    return replace(piece, rows=tuple(piece.rows[place] for place in kept), law=law)


def _held_out(
    pieces: Sequence[Piece], free: Mapping[str, Parameter], fixed: Mapping[str, float]
) -> HeldOut:
    """Foretell every second session, or every second block of rows, from the others."""
    names = sorted({row.session for piece in pieces for row in piece.rows})
    if len(names) > 1:
        out = {row.number for piece in pieces for row in piece.rows
               if row.session in set(names[1::2])}  # fmt: skip
    else:
        rows = sorted((row for piece in pieces for row in piece.rows),
                      key=lambda row: (row.time_s, row.quantity))  # fmt: skip
        out = {row.number for place, row in enumerate(rows) if place // BLOCK % 2}
    inside = {row.number for piece in pieces for row in piece.rows} - out
    taught = [one for piece in pieces if (one := without_rows(piece, out)) is not None]
    asked = [one for piece in pieces if (one := without_rows(piece, inside)) is not None]
    if not taught or not asked:
        return HeldOut(0, None, None)
    start = {path: figure.value(figure.mean) for path, figure in free.items()}
    problem = _Problem(taught, free, fixed)
    fit = problem.fit()
    found = {path: figure.value(float(place)) for path, figure, place in
             zip(problem.paths, problem.figures, fit.places, strict=False)}  # fmt: skip
    rms = []
    for figures in (start, {**start, **found}):
        tried = _Problem(asked, {}, {**fixed, **figures})
        settled = least_squares(tried.off, _own_only(tried), loss="soft_l1") if tried.own else None
        places = _own_only(tried) if settled is None else settled.x
        off = (tried.foretold(places) - tried.values) / tried.doubts
        rms.append(float(np.sqrt(np.mean(np.minimum(np.abs(off), 1e6) ** 2))))
    return HeldOut(sum(len(one.rows) for one in asked), rms[0], rms[1])


def _judge(
    problem: _Problem, fit: _Fit, number: int, path: str,
    doubts: tuple[Floats, Floats, Floats], residuals: Sequence[Residual],
    doubtful: Sequence[Residual], held: HeldOut, again: Mapping[str, float] | None,
) -> Learned:  # fmt: skip
    """Say of one figure what it is now, whether it can be told, and whether it is offered."""
    sigmas, alone, tied = doubts
    figure, place, sigma = problem.figures[number], float(fit.places[number]), float(sigmas[number])
    low, likely, high = (figure.value(place + step * TENTH * sigma) for step in (-1, 0, 1))
    confused = tuple(
        other for column, other in enumerate(problem.paths)
        if column != number and abs(float(tied[number, column])) >= TIED
    )  # fmt: skip
    identified = bool(alone[number] <= SHRINKS * figure.sigma and not confused)
    mine = [piece for piece in problem.pieces
            if path in {path_of(one) for one in piece.figures.values()}]  # fmt: skip
    sessions = tuple(sorted({row.session for piece in mine for row in piece.rows}))
    why = _why(figure, likely, identified, confused, mine, sessions, residuals, doubtful, held)
    if why == "offered" and again is not None and not low <= again.get(path, likely) <= high:
        why = "doubtful"
    far = not figure.flat and abs(place - figure.mean) > FAR * figure.sigma
    return Learned(figure, low, likely, high, identified, why == "offered", sessions, confused,
                   why, far)  # fmt: skip


def _why(
    figure: Parameter, likely: float, identified: bool, confused: tuple[str, ...],
    mine: Sequence[Piece], sessions: tuple[str, ...], residuals: Sequence[Residual],
    doubtful: Sequence[Residual], held: HeldOut,
) -> str:  # fmt: skip
    if not identified:
        return "confused" if confused else "not_identified"
    rows = sum(len(piece.rows) for piece in mine)
    curve = any(len(piece.rows) >= CURVE for piece in mine)
    if not curve and (rows < ENOUGH_ROWS or len(sessions) < ENOUGH_SESSIONS):
        return "too_few"
    if len(doubtful) > TOO_MANY * len(residuals):
        return "doubtful"
    if likely <= figure.least * (1 + 1e-6) or likely >= figure.most * (1 - 1e-6):
        return "bound"
    numbers = {row.number for piece in mine for row in piece.rows}
    own = [one for one in residuals if one.row.number in numbers]
    before, after = (
        sqrt(sum(min(1e6, abs(value - one.row.value) / one.row.doubt) ** 2
                 for one, value in pairs))
        for pairs in ([(one, one.before) for one in own], [(one, one.after) for one in own])
    )  # fmt: skip
    if after >= before:
        return "no_better"
    if held.before_rms is not None and held.after_rms is not None and (
        held.after_rms > held.before_rms
    ):  # fmt: skip
        return "worse_ahead"
    return "offered"
