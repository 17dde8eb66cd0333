"""What comes before what, when each task begins, what waits for whom, visits of the licensed."""

from __future__ import annotations

import heapq
from collections.abc import Callable, Iterable, Mapping, Sequence
from dataclasses import dataclass, replace
from itertools import pairwise
from typing import Final

from isotherma.core.building.stages import Stage
from isotherma.core.building.tasks import Task, Trade, space_of
from isotherma.core.errors import PlanCircle
from isotherma.core.joints.holes import Drilling
from isotherma.core.system import System
from isotherma.core.system.runs import Cable, FuelPipe, Pipe

FIRST_FIX: Final = frozenset({"lay", "pull", "gas", "fuel", "waste", "duct"})
STARTS: Final = frozenset({"mount", "fit", "mains", "flue"})


@dataclass(frozen=True, slots=True)
class Planned:
    """A task in its place. `start_min` is its earliest, `slack_min` what it may be late by."""

    task: Task
    start_min: float
    slack_min: float

    @property
    def critical(self) -> bool:
        """Whether a delay of it delays the whole."""
        return self.slack_min <= 1e-6


@dataclass(frozen=True, slots=True)
class Visit:
    """Tasks of one licensed trade that are done in one visit; a later one waits for `because`."""

    trade: Trade
    tasks: tuple[str, ...]
    because: tuple[str, ...] = ()


@dataclass(frozen=True, slots=True)
class Plan:
    """All tasks in the order of work.

    `while_open` are holes and runs of a later phase in a space that is lined: done earlier, while
    its walls are open, the lining need not wait for them.
    """

    tasks: tuple[Planned, ...]
    stages: tuple[Stage, ...]
    minutes: float
    visits: tuple[Visit, ...]
    while_open: tuple[Task, ...] = ()


def plan_of(
    system: System, tasks: Sequence[Task], stages: Sequence[Stage], holes: Sequence[Drilling],
    phase: str | None = None,
) -> Plan:  # fmt: skip
    """Put tasks and stages in the order of work.

    Parameters
    ----------
    system : System
        The design. [-]
    tasks, stages : sequence of Task, Stage
        Of it. [minutes]
    holes : sequence of Drilling
        What is drilled. [-]
    phase : str or None
        Only what that phase adds; None: all of it. [-]

    Returns
    -------
    Plan
        One builder, every licensed trade beside them; ties by phase, document, id. [minutes]

    Raises
    ------
    PlanCircle
        If tasks wait for each other in a circle.
    """
    every = [*tasks, *(_tested(stage, place, system) for place, stage in enumerate(stages))]
    by_id = {task.id: task for task in every}
    before: dict[str, set[str]] = {key: set() for key in by_id}

    def then(one: str, other: str) -> None:
        if one in by_id and other in by_id and one != other:
            before[other].add(one)

    _edges(system, every, stages, holes, then)
    phases = {one.id: place for place, one in enumerate(system.phases)}

    def rank(key: str) -> tuple[int, int, str]:
        task = by_id[key]
        return phases.get(task.phase or "", 0), task.source, key

    number: dict[str, int] = {}
    for key in _sorted(before, rank):  # what waits for a later phase is done in that one
        own = phases.get(by_id[key].phase or "", 0)
        number[key] = max([own, *(number[one] for one in before[key])])
    _phases(number, before)
    wanted = None if phase is None else phases[phase]
    names = [one.id for one in system.phases]
    made = [
        replace(
            by_id[key], after=frozenset(one for one in before[key]
                                        if wanted is None or number[one] == wanted),
            phase=names[number[key]] if names else None,
        )
        for key in _sorted(before, lambda key: (number[key], *rank(key)[1:]))
        if wanted is None or number[key] == wanted
    ]  # fmt: skip
    planned, minutes = _scheduled(made)
    kept = {task.about[0] for task in made if task.row == "test"}
    return Plan(planned, tuple(stage for stage in stages if stage.id in kept), minutes,
                _visits(made), _while_open(system, tasks, number))  # fmt: skip


def _while_open(
    system: System, tasks: Sequence[Task], number: Mapping[str, int]
) -> tuple[Task, ...]:
    """Give what a lining would cover in a later phase than the first that is in its space."""
    lined = {space.id for space in system.spaces if space.lined}
    first: dict[str, int] = {}
    covered = [
        task for task in tasks
        if task.space in lined and (task.row in FIRST_FIX or task.row == "hole")
    ]  # fmt: skip
    for task in covered:
        key = task.space or ""
        first[key] = min(number[task.id], first.get(key, number[task.id]))
    return tuple(task for task in covered if number[task.id] > first[task.space or ""])


def _tested(stage: Stage, place: int, system: System) -> Task:
    """Give a stage as a task."""
    spaces = {part.id: part.space for part in system.parts}
    space = next((spaces[key] for key in stage.parts if key in spaces), None)
    return Task(f"test.{stage.id}", "test", "test", stage.who, (stage.id,), space, stage.phase,
                stage.works_min, waits_min=stage.watch_min, source=50_000 + place)  # fmt: skip


def _edges(
    system: System, tasks: Sequence[Task], stages: Sequence[Stage], holes: Sequence[Drilling],
    then: Callable[[str, str], None],
) -> None:  # fmt: skip
    """Say what comes before what, by the rows of the handbook."""
    rows: dict[str, dict[str, str]] = {}
    for task in tasks:
        rows.setdefault(task.about[0], {})[task.row] = task.id
    of_run = {
        run.id: [key for row, key in rows.get(run.id, {}).items() if row in FIRST_FIX]
        for run in system.runs
    }
    of_part = {
        part.id: [key for row, key in rows.get(part.id, {}).items() if row in STARTS]
        for part in system.parts
    }
    _through_holes(system, holes, of_run, of_part, then)
    for part in system.parts:
        for mine in of_part[part.id]:
            for behind in of_part.get(part.behind or "", ()):
                then(mine, behind)  # what stands behind goes in first
            for host in of_part.get(part.fitted_in or "", ()):
                then(host, mine)
    for run in system.runs:
        for key in of_run[run.id]:
            for end in (run.start.part, run.end.part):
                for mount in of_part[end]:
                    then(mount, key)
            then(key, f"insulation.{space_of(run, system)}")
    for space in system.spaces:
        chain = [f"{row}.{space.id}" for row in ("insulation", "lining", "furniture")]
        chain = [key for key in chain if any(task.id == key for task in tasks)]
        for one, other in pairwise(chain):
            then(one, other)
    _stages(system, stages, of_run, of_part, then)


def _through_holes(
    system: System, holes: Sequence[Drilling], of_run: Mapping[str, list[str]],
    of_part: Mapping[str, list[str]], then: Callable[[str, str], None],
) -> None:  # fmt: skip
    spaces = {part.id: part.space for part in system.parts}
    floors = {hole.id for hole in system.holes if hole.through == "floor"}
    for hole in holes:
        key = f"hole.{hole.id}"
        if hole.kind == "bulkhead":
            for mount in of_part.get(hole.about or "", ()):
                then(key, mount)
            continue
        for run in system.runs:
            ends = {spaces[run.start.part], spaces[run.end.part]}
            if run.id == hole.about or (None not in hole.spaces and ends == set(hole.spaces)):
                for laid in of_run[run.id]:
                    then(key, laid)
        for mount in of_part.get(hole.about or "", ()):
            then(key, mount)
        if hole.id in floors:
            for space in hole.spaces:
                then(key, f"floor.{space}")


def _stages(
    system: System, stages: Sequence[Stage], of_run: Mapping[str, list[str]],
    of_part: Mapping[str, list[str]], then: Callable[[str, str], None],
) -> None:  # fmt: skip
    """Tests after what they test, before what covers it; one after the other as they say."""
    spaces = {run.id: space_of(run, system) for run in system.runs}
    wires = [key for run in system.runs if isinstance(run, Cable) for key in of_run[run.id]]
    gas = [key for run in system.runs if isinstance(run, FuelPipe) for key in of_run[run.id]]
    flues = [key for part in system.parts if part.kind in ("flue", "terminal")
             for key in of_part[part.id]]  # fmt: skip
    waste = [key for run in system.runs if isinstance(run, Pipe)
             for key in of_run[run.id] if key.startswith("waste.")]  # fmt: skip
    for stage in stages:
        key = f"test.{stage.id}"
        for earlier in stage.after:
            then(f"test.{earlier}", key)
        for run in stage.runs:
            for laid in of_run.get(run, ()):
                then(laid, key)
            if stage.kind == "fill":
                then(key, f"insulate.{run}")
                then(key, f"lining.{spaces.get(run)}")
        for part in stage.parts:
            for mount in of_part.get(part, ()):
                then(mount, key)
        needs: Iterable[str] = ()
        if stage.kind in ("pump", "heat_electric"):
            needs = wires
        elif stage.kind == "gas_tightness":
            needs = (*gas, *flues)
        elif stage.kind == "first_fire":
            needs = (*gas, *flues, *wires)
        elif stage.kind == "waste":
            needs = waste
        for one in needs:
            then(one, key)


def _phases(number: Mapping[str, int], before: dict[str, set[str]]) -> None:
    """Put a phase after the one before it: what begins it waits for what ends that."""
    of: dict[int, list[str]] = {}
    for key, phase in number.items():
        of.setdefault(phase, []).append(key)
    for later in sorted(of)[1:]:
        earlier = [key for phase in sorted(of) if phase < later for key in of[phase]]
        goes_on = {one for key in earlier for one in before[key]}
        ends = {key for key in earlier if key not in goes_on}
        for key in of[later]:
            if not before[key] & set(of[later]):
                before[key] |= ends


def _sorted(
    before: Mapping[str, set[str]], rank: Callable[[str], tuple[int, int, str]]
) -> list[str]:
    """Put tasks in an order in which nothing waits for what comes later."""
    left = {key: len(needs) for key, needs in before.items()}
    after: dict[str, list[str]] = {key: [] for key in before}
    for key, needs in before.items():
        for one in needs:
            after[one].append(key)
    ready = [(rank(key), key) for key, count in left.items() if count == 0]
    heapq.heapify(ready)
    found = []
    while ready:
        _, key = heapq.heappop(ready)
        found.append(key)
        for later in after[key]:
            left[later] -= 1
            if left[later] == 0:
                heapq.heappush(ready, (rank(later), later))
    if len(found) < len(before):
        raise PlanCircle(tasks=tuple(sorted(key for key, count in left.items() if count > 0)))
    return found


def _minutes(task: Task) -> float:
    """Give the minutes of hands a task takes; what nobody knows takes none here."""
    return 0.0 if task.minutes is None else task.minutes


def _lane(task: Task) -> str:
    return "builder" if task.who == "builder" else task.trade


def _scheduled(tasks: Sequence[Task]) -> tuple[tuple[Planned, ...], float]:
    """Begin each task as early as hands are free; then see by how much each may be late."""
    ends: dict[str, float] = {}
    starts: dict[str, float] = {}
    free: dict[str, float] = {}
    last: dict[str, str] = {}
    follows: dict[str, set[str]] = {task.id: set() for task in tasks}
    waited = {task.id: task.after for task in tasks}
    for task in tasks:
        lane = _lane(task)
        begin = max([free.get(lane, 0.0), *(ends[key] for key in task.after)])
        hands_off = begin + _minutes(task)
        starts[task.id], ends[task.id] = begin, hands_off + task.waits_min
        for key in task.after:
            follows[key].add(task.id)
        if lane in last:
            follows[last[lane]].add(task.id)
        free[lane], last[lane] = hands_off, task.id
    whole = max(ends.values(), default=0.0)
    late: dict[str, float] = {}
    for task in reversed(tasks):
        # what waits for it waits for the cure too; the same hands go on without it
        by = [late[key] - (task.waits_min if task.id in waited[key] else 0.0)
              for key in follows[task.id]]  # fmt: skip
        late[task.id] = min([whole - task.waits_min, *by]) - _minutes(task)
    found = tuple(Planned(task, starts[task.id], late[task.id] - starts[task.id]) for task in tasks)
    return found, whole


def _visits(tasks: Sequence[Task]) -> tuple[Visit, ...]:
    """Group licensed tasks into visits, as few as what they wait for allows."""
    found: list[Visit] = []
    trades = dict.fromkeys(task.trade for task in tasks if task.who == "licensed")
    for trade in trades:
        visit: dict[str, int] = {}
        waits: dict[str, int] = {}  # visits that are over before this task may begin
        for task in tasks:
            mine = task.who == "licensed" and task.trade == trade
            over = max((waits[key] for key in task.after), default=0)
            if mine:
                visit[task.id] = over
                waits[task.id] = over
                continue
            done = [visit[key] + 1 for key in task.after if key in visit]
            waits[task.id] = max([over, *done])
        by_id = {task.id: task for task in tasks}
        for number in sorted(set(visit.values())):
            inside = tuple(key for key, which in visit.items() if which == number)
            because = tuple(
                key for one in inside for key in by_id[one].after
                if key not in visit and waits[key] == number and number
            )  # fmt: skip
            found.append(Visit(trade, inside, tuple(dict.fromkeys(because))))
    return tuple(found)
