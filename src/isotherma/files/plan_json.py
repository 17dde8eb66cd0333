"""A plan as JSON."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any, Final

from isotherma.core.building.order import Plan, Planned
from isotherma.core.building.stages import Stage
from isotherma.wording import (
    EXPECT_WORDS,
    MISS_WORDS,
    NOT_COMPUTED,
    TASK_CAUTIONS,
    stage_title,
    task_title,
)

PLAN_FORMAT: Final = "isotherma-plan-1"
LITRE: Final = 1e-3


def plan_object(
    plan: Plan, *, vehicle: str, variant: str, state: str | None, phase: str | None,
    names: Mapping[str, str],
) -> dict[str, Any]:  # fmt: skip
    """Give a plan as an object for JSON.

    Parameters
    ----------
    plan : Plan
        In the order of work. [-]
    vehicle, variant, state, phase : str or None
        Which plan it is. [-]
    names : mapping of str to str
        Labels of parts, runs, spaces and holes, by id. [-]

    Returns
    -------
    dict
        Keys as in docs/file-format.md; what nobody knows is null. [see the keys]
    """
    stages = {stage.id: stage for stage in plan.stages}
    return {
        "format": PLAN_FORMAT, "vehicle": vehicle, "variant": variant, "state": state,
        "phase": phase,
        "tasks": [_task(one, names, stages) for one in plan.tasks],
        "stages": [_stage(stage, names) for stage in plan.stages],
        "critical_minutes": plan.minutes,
        "visits": [{"trade": visit.trade, "tasks": list(visit.tasks),
                    "because": list(visit.because)} for visit in plan.visits],
    }  # fmt: skip


def title_of(one: Planned, names: Mapping[str, str], stages: Mapping[str, Stage]) -> str:
    """Write the title of a task, of a test that of its stage.

    Parameters
    ----------
    one : Planned
        Any task. [-]
    names : mapping of str to str
        Labels by id. [-]
    stages : mapping of str to Stage
        By id. [-]

    Returns
    -------
    str
        A few words. [-]
    """
    about = one.task.about[0]
    if one.task.row == "test":
        stage = stages[about]
        return stage_title(stage.kind, names.get(stage.about, stage.about))
    # a hole nobody named is called after what goes through it, or the tank it is in
    named = next((names[key] for key in one.task.about if key in names), about)
    return task_title(one.task.row, named)


def _task(one: Planned, names: Mapping[str, str], stages: Mapping[str, Stage]) -> dict[str, Any]:
    task, band = one.task, one.task.band
    return {
        "id": task.id, "phase": task.phase, "trade": task.trade, "who": task.who,
        "title": title_of(one, names, stages), "about": list(task.about), "space": task.space,
        "minutes": None if band is None else dict(
            zip(("low", "likely", "high"), band, strict=True)),
        "tools": list(task.tools), "consumables": list(task.consumables),
        "cautions": [TASK_CAUTIONS[code] for code in task.cautions],
        "before_closing": task.before_closing, "after": sorted(task.after),
        "critical": one.critical, "start_min": one.start_min,
    }  # fmt: skip


def _stage(stage: Stage, names: Mapping[str, str]) -> dict[str, Any]:
    return {
        "id": stage.id, "kind": stage.kind, "who": stage.who,
        "title": stage_title(stage.kind, names.get(stage.about, stage.about)),
        "part": stage.part, "opens": list(stage.opens), "shuts": list(stage.shuts),
        "runs": list(stage.runs), "parts": list(stage.parts),
        "litres": None if stage.litres_m3 is None else stage.litres_m3 / LITRE,
        "minutes": stage.minutes, "purge_at": list(stage.purge_at), "air_at": list(stage.air_at),
        "look_at": list(stage.look_at), "dose_ml": stage.dose_ml,
        "expect": [
            {"quantity": one.quantity, "low": one.low, "likely": one.likely, "high": one.high,
             "unit": one.unit, "finds_l_per_h": one.finds_l_per_h,
             "because": EXPECT_WORDS[one.because] if one.at_m3 is None
             else f"{one.at_m3 / LITRE:.1f} L: {EXPECT_WORDS[one.because]}"}
            for one in stage.expect
        ],
        "on_miss": list(MISS_WORDS.get(stage.kind, ())), "after": list(stage.after),
        "not_computed": None if stage.not_computed is None else NOT_COMPUTED[stage.not_computed],
    }  # fmt: skip
