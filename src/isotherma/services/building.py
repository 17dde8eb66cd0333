"""The plan of a variant: tasks in order, and stages with what the engine expects of them."""

from __future__ import annotations

from isotherma.catalogue.joints import assumed_ends, threads
from isotherma.core.building.order import Plan, plan_of
from isotherma.core.building.sections import sections_of
from isotherma.core.building.stages import stages_of
from isotherma.core.building.tasks import tasks_of
from isotherma.core.joints.holes import holes_of
from isotherma.core.project import Project, Variant
from isotherma.core.system import System
from isotherma.core.system.configuration import fitted_by, positions
from isotherma.core.system.nominal import computed
from isotherma.core.system.states import State
from isotherma.services.expecting import Players, expected
from isotherma.services.shopping import METRIC, run_ends


def planned(
    project: Project,
    variant: Variant,
    *,
    state: State | None = None,
    phase: str | None = None,
    players: Players | None = None,
) -> Plan:
    """Plan the building of a variant in one state.

    Parameters
    ----------
    project : Project
        The document. [-]
    variant : Variant
        Which of its variants. [-]
    state : State or None
        How it stands while it is tested; None: as on the day that is seen. [-]
    phase : str or None
        What that phase adds; None: all of it. [-]
    players : callable or None
        Gives what solves a design, where such are kept; None: made here. [-]

    Returns
    -------
    Plan
        What cannot be computed is said stage by stage. [minutes]

    Raises
    ------
    PlanCircle
        If tasks wait for each other in a circle.
    """
    whole = variant.system
    system = whole if phase is None else fitted_by(whole, phase)
    at = state if state is not None else variant.standing
    built = variant.model_copy(update={"system": system, "phase": None})
    sections = sections_of(system, computed(system), positions(system, at))
    stages = stages_of(system, sections, expected(project, built, at, players, sections))
    holes = holes_of(system, threads(), assumed_ends(system.tradition or METRIC))
    lined = {space.id for space in system.spaces if space.lined}
    tasks = tasks_of(system, run_ends(system), holes, lined)
    return plan_of(system, tasks, stages, holes, phase)


def labels_of(system: System) -> dict[str, str]:
    """Give labels of all a plan may be about, by id: parts, runs, spaces, holes."""
    names = {one.id: one.label for one in (*system.parts, *system.runs)}
    names |= {space.id: space.name for space in system.spaces}
    return names | {hole.id: hole.name for hole in system.holes}
