"""Systems and briefs the tests build on, of the tests' own making."""

from __future__ import annotations

from typing import Any, TypeVar

from isotherma.catalogue.families import families
from isotherma.core.brief import Brief, Draw, Use
from isotherma.core.climate import Climate
from isotherma.core.editing import set_values
from isotherma.core.engine.day_simulation import DaySimulation
from isotherma.core.engine.periodic_day import play, run_day
from isotherma.core.engine.state_simulation import StateSimulation
from isotherma.core.project import Project
from isotherma.core.results.outcome import Outcome
from isotherma.core.setup import Setup
from isotherma.core.simulate import simulate
from isotherma.core.system import System
from isotherma.core.system.kinds.heat import Element
from isotherma.core.system.layouts import usual_route
from isotherma.core.system.states import State
from isotherma.core.timeline.record import Day
from isotherma.services.runs import compute

Known = TypeVar("Known")
MILD = Climate(region="river-plain", month=6, air_c=18.0, swing_k=8.0)


def shower(number: int = 1, **values: object) -> Draw:
    """A shower of five minutes at seven, or as told."""
    data: dict[str, object] = {
        "id": f"d{number}", "name": f"Shower {number}", "start_s": 25200.0, "duration_s": 300.0,
    }  # fmt: skip
    return Draw.model_validate({**data, **values})


def brief(*draws: Draw, **values: object) -> Brief:
    """A brief with cold water at 10 °C."""
    return Brief.model_validate({"cold_water_c": 10.0, "draws": draws, **values})


def use(volume_m3: float, grey_share: float = 0.0) -> Use:
    """Water by the litre, once a day."""
    return Use(id="other", name="Other", volume_m3=volume_m3, grey_share=grey_share)


def system(store_l: float = 10.0, tank_l: float = 100.0, power_w: float = 1200.0) -> System:
    """The usual route with an element."""
    return usual_route(
        tank_m3=tank_l / 1000,
        store_m3=store_l / 1000,
        element=Element(id="element", power_w=power_w),
    )


def piece(built: System, piece_id: str) -> Any:
    """A part or run by its id, of whatever kind the test knows it is."""
    return next(item for item in (*built.parts, *built.runs) if item.id == piece_id)


def changed(base: System, part_id: str, **values: object) -> System:
    """The same system with some properties of one part changed."""
    parts = [
        {**part.model_dump(), **values} if part.id == part_id else part.model_dump()
        for part in base.parts
    ]
    return System.model_validate({**base.model_dump(), "parts": parts})


def run(asked: Brief, built: System, fine_s: float = 0.25) -> Outcome:
    """Simulate in mild air."""
    return simulate(asked, built, MILD, fine_s=fine_s)


def ran(
    asked: Brief, built: System, state: State | None, climate: Climate, *, fine_s: float = 0.25
) -> tuple[Setup, Day]:
    """Run a day and measure nothing in it."""
    done = run_day(Setup(asked, built, state, climate), fine_s=fine_s)
    return done.setup, done.day


def days_of(
    asked: Brief, built: System, state: State | None, climate: Climate, fine_s: float = 0.25
) -> DaySimulation:
    """A system ready to run days, at midnight of its first."""
    return DaySimulation(Setup(asked, built, state, climate), fine_s)


def stands_of(
    asked: Brief, built: System, state: State | None, climate: Climate, fine_s: float = 0.25
) -> StateSimulation:
    """A system in one state, ready to be stepped."""
    return StateSimulation(Setup(asked, built, state, climate), fine_s)


def again(outcome: Outcome, *, next_day: bool) -> Day:
    """Run a day's outcome once more with everything full, or the day after it."""
    day = outcome.timeline
    began = day.evening if next_day else day.morning
    return play(outcome.setup, began, used_kg={}, levels=outcome.setup.full, ends_s=None)


def days_after(outcome: Outcome) -> DaySimulation:
    """A system ready to run days, standing as a day of it ended."""
    assert outcome.timeline.evening is not None
    days = DaySimulation(outcome.setup)
    days.go_on_from(outcome.timeline.evening)
    return days


def ample(days: DaySimulation) -> dict[str, float]:
    """Ten tons more in every tank than it holds, for days that are not about water."""
    return {reservoir.id: -1e4 for reservoir in days.usual.reservoirs.reservoirs}


def computed(project: Project, variant_id: str) -> Outcome:
    """Give what a variant does; a test fails where it cannot be run."""
    found = compute(project, project.variant(variant_id))
    assert isinstance(found, Outcome), found
    return found


def known(value: Known | None) -> Known:
    """Give what is there; a test fails where it is not."""
    assert value is not None
    return value


def few_ways(project: Project, *kept: str) -> Project:
    """Strike every way of heating but these by hand, so that a test need not size eighteen."""
    struck = tuple(key for key in families() if key not in kept)
    return set_values(project, {"brief.struck": struck})
