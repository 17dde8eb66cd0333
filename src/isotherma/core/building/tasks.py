"""What must be done to build a design: a task for each part, run and hole, by who may do it."""

from __future__ import annotations

from collections.abc import Collection, Iterator, Sequence
from dataclasses import dataclass, field
from typing import Final, Literal

from isotherma.core.graph import reach
from isotherma.core.joints.holes import Drilling
from isotherma.core.joints.piping import RunJoints
from isotherma.core.system import AnyKind, AnyRun, System
from isotherma.core.system.kinds import electric, heat
from isotherma.core.system.runs import Cable, Duct, FuelPipe, Pipe
from isotherma.core.system.vehicle import Space

Trade = Literal[
    "body", "insulation", "floor", "lining", "furniture", "water", "waste", "low_voltage", "mains",
    "gas", "flue", "fuel", "test",
]  # fmt: skip
Who = Literal["builder", "licensed"]
LOW, HIGH = 0.6, 2.0  # of the likely minutes
LOOSE: Final = frozenset({
    "loose_container", "waste_container", "kettle", "jug", "loose_hose", "dust_cap",
    "parking_place", "outside_source", "open_drain", "engine_coolant", "alternator",
    "primary_fluid", "blanking_cap", "gravity_bag", "shower_place", "remote", "ignition_cells",
})  # fmt: skip
LARGE: Final = frozenset({"fresh_tank", "grey_tank", "store", "combi"})
TWO_PEOPLE_KG: Final = 25.0
OUTSIDE: Final = frozenset({"outside", "slung"})
LICENSED_GAS, LICENSED_MAINS = "gas by a licensed person", "mains by a licensed person"
# minutes, likely; all judgement
HOLE, ROOF_MORE, WIDE_MORE, WIDE_MM = 35.0, 15.0, 10.0, 60.0
MOUNT, MOUNT_LARGE, FIT = 20.0, 60.0, 15.0
LICENSED, FLUE = 45.0, 60.0
CURES_MIN: Final = 720.0  # sealant; judgement


@dataclass(frozen=True, slots=True)
class Task:
    """One task. `row` says what is done, `about` to what; `source` places it in the document.

    `minutes` are likely ones, None where nobody can say; `waits_min` go by after them without
    hands, as sealant cures or a pump is watched; `after` names the tasks before it.
    """

    id: str
    row: str
    trade: Trade
    who: Who
    about: tuple[str, ...]
    space: str | None = None
    phase: str | None = None
    minutes: float | None = None
    tools: tuple[str, ...] = ()
    consumables: tuple[str, ...] = ()
    cautions: tuple[str, ...] = ()
    before_closing: bool = False
    two_people: bool = False
    waits_min: float = 0.0
    source: int = 0
    after: frozenset[str] = field(default_factory=frozenset)

    @property
    def band(self) -> tuple[float, float, float] | None:
        """Give low, likely and high minutes; None where nobody can say."""
        if self.minutes is None:
            return None
        return LOW * self.minutes, self.minutes, HIGH * self.minutes


def on_mains(system: System) -> frozenset[str]:
    """Name the parts wires join to a hook-up or an inverter, not through a battery or charger.

    Parameters
    ----------
    system : System
        The design. [-]

    Returns
    -------
    frozenset of str
        With hook-ups and inverters themselves. [-]
    """
    near: dict[str, list[str]] = {}
    parts = {part.id: part for part in system.parts}
    stops = (electric.Battery, electric.Charger)
    for run in system.runs:
        if isinstance(run, Cable):
            for one, other in ((run.start, run.end), (run.end, run.start)):
                if isinstance(parts[one.part], electric.Inverter) and one.port != "load":
                    continue  # its battery side
                near.setdefault(one.part, []).append(other.part)

    def onward(key: str) -> list[str]:
        return [] if isinstance(parts[key], stops) else near.get(key, [])

    starts = [part.id for part in system.parts
              if isinstance(part, electric.HookUp | electric.Inverter)]  # fmt: skip
    found = reach(starts, onward)
    chargers = {key for key in found if isinstance(parts[key], stops)}
    return frozenset(found) - {key for key in chargers if isinstance(parts[key], electric.Battery)}


def tasks_of(
    system: System, joints: Sequence[RunJoints], holes: Sequence[Drilling],
    lined: Collection[str] = (),
) -> tuple[Task, ...]:  # fmt: skip
    """List what must be done, in the order of the document, with no order between tasks yet.

    Parameters
    ----------
    system : System
        The design. [-]
    joints : sequence of RunJoints
        Its runs, resolved. [-]
    holes : sequence of Drilling
        What is drilled. [-]
    lined : collection of str
        Ids of spaces that get a lining over their runs. [-]

    Returns
    -------
    tuple of Task
        Ids are a row and what it is about, so that what was ticked outlives edits. [minutes]
    """
    order = {one.id: place for place, one in enumerate((*system.parts, *system.runs))}
    mains = on_mains(system)
    made = {one.run_id: one for one in joints}
    found = [_drill(hole, place, system) for place, hole in enumerate(holes)]
    for part in system.parts:
        task = _part(system, part, mains, order[part.id], lined)
        if task is not None:
            found.append(task)
    for run in system.runs:
        found += _run(run, made.get(run.id), mains, system, order[run.id], lined)
    busy = {task.space for task in found}
    for place, space in enumerate(system.spaces):
        found += _finish(space, place, busy, lined, holes)
    return tuple(found)


def _drill(hole: Drilling, place: int, system: System) -> Task:
    planned = next((one for one in system.holes if one.id == hole.id), None)
    roof = planned is not None and planned.through == "roof"
    wide = hole.bore_mm is not None and hole.bore_mm > WIDE_MM
    minutes = HOLE + (ROOF_MORE if roof else 0.0) + (WIDE_MORE if wide else 0.0)
    about = (hole.id, *((hole.about,) if hole.about is not None else ()))
    return Task(
        f"hole.{hole.id}", "hole", "body", "builder", about, hole.spaces[0], hole.phase, minutes,
        tools=tuple(f"{step:g} mm" for step in hole.steps_mm),
        consumables=("primer", "sealant", "blade"), cautions=("drilling",), waits_min=CURES_MIN,
        source=place - 10_000,
    )  # fmt: skip


def _closed(part: AnyKind, lined: Collection[str]) -> bool:
    """Say whether something will be covered: what needs a hatch, stands behind, or is lined."""
    return part.reach in ("hatch", "behind another part") or part.space in lined


def _part(
    system: System, part: AnyKind, mains: Collection[str], source: int, lined: Collection[str]
) -> Task | None:
    """Give the task of a part; None of what is not fixed."""
    if part.kind in LOOSE:
        return None
    closing = _closed(part, lined)
    if isinstance(part, heat.Flue | heat.Terminal):
        return Task(
            f"flue.{part.id}", "flue", "flue", "licensed", (part.id,), part.space, part.phase, FLUE,
            consumables=("sealant for heat",), cautions=("gas",), before_closing=closing,
            waits_min=CURES_MIN,
            source=source,
        )  # fmt: skip
    licensed = bool({LICENSED_GAS, LICENSED_MAINS} & set(part.limits))
    if part.fitted_in is not None:
        host = next(one for one in system.parts if one.id == part.fitted_in)
        wired = isinstance(part, heat.Element) and part.id in mains
        row, trade, minutes = "fit", _trade(host, mains), FIT
        if wired:
            row, trade, minutes, licensed = "mains", "mains", LICENSED, True
        return Task(
            f"{row}.{part.id}", row, trade, "licensed" if licensed else "builder",
            (part.id, host.id), part.space or host.space, part.phase, minutes,
            consumables=("seal",), cautions=("mains",) if trade == "mains" else (),
            before_closing=closing, source=source,
        )  # fmt: skip
    trade = _trade(part, mains)
    if trade == "mains" and isinstance(part, electric.Circuit | electric.HookUp):
        return Task(
            f"mains.{part.id}", "mains", "mains", "licensed", (part.id,), part.space, part.phase,
            LICENSED, cautions=("mains",), before_closing=closing, source=source,
        )  # fmt: skip
    heavy = part.dry_mass_kg is not None and part.dry_mass_kg > TWO_PEOPLE_KG
    careful = {"gas": ("gas",), "mains": ("mains",)}.get(trade, ())
    return Task(
        f"mount.{part.id}", "mount", trade, "licensed" if licensed else "builder", (part.id,),
        part.space, part.phase, MOUNT_LARGE if part.kind in LARGE else MOUNT,
        consumables=("screws",), cautions=(*careful, *(("lifting",) if heavy else ())),
        before_closing=closing, two_people=heavy, source=source,
    )  # fmt: skip


def _trade(part: AnyKind, mains: Collection[str]) -> Trade:
    """Say whose work mounting a part is."""
    if part.side == "gas":
        return "gas"
    if part.side == "waste":
        return "waste"
    if part.side == "electric":
        return "mains" if part.id in mains else "low_voltage"
    return "water"


def space_of(run: AnyRun, system: System) -> str | None:
    """Say where a run is laid: as it says, else where both its ends are.

    Parameters
    ----------
    run : AnyRun
        One of its runs. [-]
    system : System
        The design. [-]

    Returns
    -------
    str or None
        None where nobody says, or it goes from one space to another. [-]
    """
    if run.space is not None:
        return run.space
    spaces = {part.space for part in system.parts if part.id in (run.start.part, run.end.part)}
    return spaces.pop() if len(spaces) == 1 else None


def _run(
    run: AnyRun, made: RunJoints | None, mains: Collection[str], system: System, source: int,
    lined: Collection[str],
) -> Iterator[Task]:  # fmt: skip
    """Give the tasks of a run: laid, insulated; by whom."""
    length = getattr(run, "length_m", None)
    space = space_of(run, system)
    covered = space in lined
    parts = {part.id: part for part in system.parts}
    ends = (parts[run.start.part], parts[run.end.part])

    def task(
        row: str, trade: Trade, minutes: float | None, things: tuple[str, ...] = (),
        who: Who = "builder", cautions: tuple[str, ...] = (),
    ) -> Task:  # fmt: skip
        return Task(f"{row}.{run.id}", row, trade, who, (run.id,), space, run.phase, minutes,
                    consumables=things, cautions=cautions, before_closing=covered,
                    source=source)  # fmt: skip

    def by_metre(base: float, each: float) -> float | None:
        return None if length is None else base + each * length

    if isinstance(run, Pipe):
        if run.family == "waste pipe" or all(end.side == "waste" for end in ends):
            yield task("waste", "waste", by_metre(15.0, 8.0), ("solvent or seals",),
                       cautions=("solvent",))  # fmt: skip
            return
        elbows = run.counted("elbows")
        count = 2 if made is None else made.joints - 2 * elbows
        laid = by_metre(8.0 + 4.0 * count + 6.0 * elbows, 6.0)
        yield task("lay", "water", laid, ("tube", "inserts", "clips"))
        if run.board is not None:
            yield task("insulate", "insulation", by_metre(3.0, 4.0), ("tape",))
    elif isinstance(run, FuelPipe):
        gas = any(end.side == "gas" for end in ends)
        clips = ("clips each 0.5 m",)
        if gas:
            yield task("gas", "gas", by_metre(20.0, 15.0), clips, "licensed", ("gas",))
        else:
            yield task("fuel", "fuel", by_metre(20.0, 15.0), clips, cautions=("fuel",))
    elif isinstance(run, Cable):
        live = all(end.id in mains for end in ends)
        yield task("pull", "mains" if live else "low_voltage", by_metre(10.0 + 12.0, 5.0),
                   ("lugs", "sleeve"), "licensed" if live else "builder",
                   ("mains",) if live else ())  # fmt: skip
    elif isinstance(run, Duct):
        yield task("duct", "water", by_metre(10.0, 6.0), ("clips",))


def _finish(
    space: Space, place: int, busy: Collection[str | None], lined: Collection[str],
    holes: Sequence[Drilling],
) -> Iterator[Task]:  # fmt: skip
    """Give insulation, floor, lining and furniture of a space that holds a run or a hole."""
    drilled = any(space.id in hole.spaces for hole in holes if hole.kind != "bulkhead")
    if space.warmth in OUTSIDE or (space.id not in busy and not drilled):
        return
    rows: list[tuple[str, Trade]] = [("insulation", "insulation"), ("floor", "floor")]
    rows += [("lining", "lining")] if space.id in lined else []
    rows += [("furniture", "furniture")]
    for step, (row, trade) in enumerate(rows):
        yield Task(f"{row}.{space.id}", row, trade, "builder", (space.id,), space.id,
                   source=100_000 + 10 * place + step)  # fmt: skip
