"""What the command that plans does: reads, plans, prints."""

from __future__ import annotations

import json
from collections.abc import Callable
from typing import TYPE_CHECKING, NoReturn

from isotherma.core.errors import PlanCircle

if TYPE_CHECKING:
    from isotherma.core.project import Project, Variant

Fail = Callable[[str, int], NoReturn]


def print_plan(
    project: Project, variant: Variant, *, state: str | None, phase: str | None, as_json: bool,
    fail: Fail,
) -> None:  # fmt: skip
    """Plan the building of a variant and print it."""
    from isotherma.core.quantity import UnitSystem, duration_words
    from isotherma.files.plan_json import plan_object, title_of
    from isotherma.services.building import labels_of, planned
    from isotherma.wording import error_words

    system = variant.system
    states = {one.id: one for one in system.states}
    if state is not None and state not in states:
        fail(f"There is no state “{state}”. The file has: {', '.join(states) or 'none'}.", 2)
    phases = [one.id for one in system.phases]
    if phase is not None and phase not in phases:
        fail(f"There is no phase “{phase}”. The file has: {', '.join(phases) or 'none'}.", 2)
    try:
        plan = planned(project, variant, state=states.get(state or ""), phase=phase)
    except PlanCircle as error:
        fail(error_words(error, UnitSystem.METRIC), 3)
    names = labels_of(system)
    at = states.get(state or "") or variant.standing
    if as_json:
        made = plan_object(
            plan, vehicle=project.name, variant=variant.id, state=None if at is None else at.id,
            phase=phase, names=names,
        )  # fmt: skip
        print(json.dumps(made, ensure_ascii=False, indent=2, allow_nan=False))
        return
    stages = {stage.id: stage for stage in plan.stages}
    for one in plan.tasks:
        hands = "" if one.task.minutes is None else f" ({one.task.minutes:.0f} min)"
        who = "" if one.task.who == "builder" else " – licensed"
        print(f"{one.start_min:5.0f}  {title_of(one, names, stages)}{hands}{who}")
    print(f"{len(plan.tasks)} tasks, {duration_words(plan.minutes * 60.0)} for one builder.")
    for visit in plan.visits:
        print(f"Licensed, {visit.trade}: {len(visit.tasks)} tasks in one visit.")
