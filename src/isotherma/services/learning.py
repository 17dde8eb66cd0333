"""Learning from readings: the design, its priors and its laws put together."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from math import isfinite

from isotherma import catalogue
from isotherma.core.errors import CoreError
from isotherma.core.faults.altered import Alterations, Case
from isotherma.core.faults.plays import Edit
from isotherma.core.flows.bands import read_outlet
from isotherma.core.flows.pulse import operate
from isotherma.core.flows.surroundings import spaces_air, tank_c
from isotherma.core.learning.estimate import Learned, Learning, estimate, path_of
from isotherma.core.learning.gauge import GaugeLearned, gauges_of
from isotherma.core.learning.model import Piece, Surroundings, pieces_of
from isotherma.core.learning.parameters import Parameter, cold_water, parameter
from isotherma.core.learning.rows import Row, sessions_of
from isotherma.core.project import Project, Variant
from isotherma.core.system import System
from isotherma.core.system.nominal import computed


@dataclass(frozen=True, slots=True)
class LearnedAll:
    """What was learned of figures, and of gauges."""

    figures: Learning
    gauges: tuple[GaugeLearned, ...]


def learn(
    project: Project, variant: Variant, rows: Sequence[Row],
    ran: Callable[[int, int], None] | None = None,
) -> LearnedAll:  # fmt: skip
    """Learn what readings say of a variant.

    Parameters
    ----------
    project, variant : Project, Variant
        The design as it was entered. [SI]
    rows : sequence of Row
        In any order. [see `KINDS`]
    ran : callable or None
        Told of steps done and of all; may raise to end the work. [-]

    Returns
    -------
    LearnedAll
        Nothing is changed. [SI]
    """
    system = variant.built.system
    known = computed(system)
    state = variant.standing
    place = catalogue.climate(project.brief)
    tank = next((part.id for part in system.parts if part.kind == "fresh_tank"), None)
    around = Surroundings(
        spaces_air(project.brief, system, place)(None),
        tank_c(project.brief, system, state, place, tank),
    )
    sessions = sessions_of(rows)
    pieces: list[Piece] = []
    priors: dict[str, Parameter] = {}
    for piece in pieces_of(known, sessions, around, _flow_of(project, variant)):
        found = _priors(project, variant, piece, around)
        if found is not None:
            pieces.append(piece)
            priors |= found
    figures = estimate(pieces, priors, ran)
    watts = tuple(_watts(system, one, rows) for one in figures.learned)
    learned = (*figures.learned, *(one for one in watts if one is not None))
    return LearnedAll(
        replace(figures, learned=tuple(sorted(learned, key=lambda one: one.parameter.path))),
        tuple(gauges_of(sessions)),
    )


def _watts(system: System, one: Learned, rows: Sequence[Row]) -> Learned | None:
    """Say what a learned resistance makes of an element's watts, at the volts that were read."""
    owner, _, name = one.parameter.path.rpartition(".")
    if name != "resistance_ohm":
        return None
    part_id = owner.removeprefix("parts.")
    volts = [row.value for row in rows
             if row.reading.kind == "volts" and row.reading.part == part_id]  # fmt: skip
    square = (sum(volts) / len(volts)) ** 2
    known = parameter(system, system.part(part_id), "power_w", square / one.likely)
    if known is None:
        return None
    return replace(one, parameter=known, low=square / one.high, likely=square / one.likely,
                   high=square / one.low)  # fmt: skip


def _priors(
    project: Project, variant: Variant, piece: Piece, around: Surroundings
) -> dict[str, Parameter] | None:
    """Give what is known of a piece's figures; None where one has nothing to start from."""
    system = variant.built.system
    found = {}
    for name, figure in piece.figures.items():
        owner, field = figure
        if owner == "brief":
            made: Parameter | None = cold_water(project.brief, around.cold_c)
        else:
            made = parameter(system, system.part(owner), field, piece.starts.get(name))
        if made is None:
            return None
        found[path_of(figure)] = made
    return found


def _flow_of(project: Project, variant: Variant) -> Callable[[str, float], float] | None:
    """Give what solves an outlet alone with another flow factor [m³/s]."""
    system = variant.built.system
    case = Case(project.brief, catalogue.climate(project.brief), system, variant.standing, {})
    try:
        made = Alterations(case)
    except CoreError:
        return None

    def flow(outlet: str, factor: float) -> float:
        edit = Edit(f"parts.{outlet}.flow_factor_si", factor)
        try:
            point = operate(made.altered((edit,)).network, {outlet: 1.0})
        except CoreError:
            return 0.0
        value, _ = read_outlet(point, outlet)
        return value if isfinite(value) else 0.0

    return flow
