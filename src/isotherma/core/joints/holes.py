"""Every hole that must be drilled: how wide, in which steps, from where, what it is lined with."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass
from math import ceil
from typing import Final, Literal

from isotherma.core.ends import read_end
from isotherma.core.joints.piping import stated_end
from isotherma.core.joints.sockets import outside_mm
from isotherma.core.joints.threads import Thread
from isotherma.core.system import AnyKind, AnyRun, System
from isotherma.core.system.runs import Cable, Duct, FuelPipe, Pipe
from isotherma.core.system.vehicle import Hole

MM: Final = 1000.0
ROOM_MM: Final = 3.0  # a hole over what goes through
BULKHEAD_MM: Final = 1.0
PILOT_MM, SAW_PILOT_MM, STEP_MM, DRILLS_TO_MM, STEPS_TO_MM = 3.0, 6.0, 4.0, 12.0, 25.0
LOOK_FIRST: Final = "look first"
Kind = Literal["hole", "not planned", "bulkhead"]
EDGES: Final = {
    "metal": "deburr, primer, cure", "wood": "end grain", "plastic": "deburr",
    "glass fibre": "deburr, seal edge", "tank": "chips out",
}  # fmt: skip
TANKS: Final = frozenset({"fresh_tank", "grey_tank"})


@dataclass(frozen=True, slots=True)
class Drilling:
    """One hole. `about` is the part or run it is for; None is not known.

    `order` names the steps of the work; `steps_mm` the drills, the last as wide as the hole.
    """

    id: str
    kind: Kind
    about: str | None
    bore_mm: float | None
    steps_mm: tuple[float, ...]
    pilot_from: str | None
    behind: str
    made_of: str | None
    edge: str | None
    sleeve: str | None
    seal: str | None
    order: tuple[str, ...]
    spaces: tuple[str | None, str | None] = (None, None)
    phase: str | None = None
    unknown: tuple[str, ...] = ()


def steps_of(bore_mm: float) -> tuple[float, ...]:
    """Give the drills that make a hole, each little wider than the one before.

    Parameters
    ----------
    bore_mm : float
        Of the hole. [mm]

    Returns
    -------
    tuple of float
        A pilot of 3, drills up to 12, a step drill to 25; over it a pilot of 6 and a saw. [mm]

    Examples
    --------
    >>> steps_of(10.0)
    (3.0, 7.0, 10.0)
    >>> steps_of(41.0)
    (6.0, 41.0)
    """
    if bore_mm > STEPS_TO_MM:
        return SAW_PILOT_MM, bore_mm
    steps = [min(PILOT_MM, bore_mm)]
    top = min(bore_mm, DRILLS_TO_MM)
    while steps[-1] < top - 1e-9:
        steps.append(min(steps[-1] + STEP_MM, top))
    return (*steps, bore_mm) if bore_mm > DRILLS_TO_MM else tuple(steps)


def holes_of(
    system: System, threads: Sequence[Thread], assumed: Mapping[str, str]
) -> tuple[Drilling, ...]:
    """List what is drilled: holes, ways through that nobody planned, and fittings in tanks.

    Parameters
    ----------
    system : System
        The design. [-]
    threads : sequence of Thread
        To know how wide a fitting in a tank is. [mm]
    assumed : mapping of str to str
        Ends nobody stated. [-]

    Returns
    -------
    tuple of Drilling
        Holes first, as in the document. [mm]
    """
    outsides = {thread.name: thread.high_mm for thread in threads}
    return (
        *(_hole(system, hole) for hole in system.holes),
        *_not_planned(system),
        *_bulkheads(system, outsides, assumed),
    )


def _through(run: AnyRun) -> float | None:
    """Give the outside of what goes through a hole [mm]."""
    if isinstance(run, Pipe | FuelPipe):
        return outside_mm(run)
    if isinstance(run, Duct):
        return None if run.bore_m is None else run.bore_m * MM
    return None


def _passing(system: System, hole: Hole) -> list[AnyRun]:
    """Give the runs that go through a hole: those of its part, between its spaces."""
    spaces = {part.id: part.space for part in system.parts}
    between = {hole.first, hole.second}
    found = []
    for run in system.runs:
        ends = (run.start.part, run.end.part)
        if hole.for_part is not None and hole.for_part not in ends:
            continue
        if None not in between and {spaces[end] for end in ends} == between:
            found.append(run)
    return found


def _hole(system: System, hole: Hole) -> Drilling:
    runs = _passing(system, hole)
    sleeve = _sleeve(runs, hole.made_of)
    unknown = []
    bore = None if hole.bore_m is None else round(hole.bore_m * MM, 6)
    if bore is None and not (hole.sleeved and runs):
        wide = [_through(run) for run in runs]
        if runs and None not in wide:
            bore = max(one for one in wide if one is not None) + ROOM_MM
    if bore is None:
        unknown.append("sleeve" if hole.sleeved and runs else "bore_m")
    if hole.made_of is None:
        unknown.append("made_of")
    if not hole.drill_from:
        unknown.append("drill_from")
    if not hole.behind:
        unknown.append("behind")
    alone = runs[0].id if len(runs) == 1 else None
    return Drilling(
        hole.id, "hole", alone if hole.for_part is None else hole.for_part, bore,
        () if bore is None else steps_of(bore),
        hole.drill_from if hole.drill_from else None,
        hole.behind if hole.behind else LOOK_FIRST, hole.made_of,
        None if hole.made_of is None else EDGES[hole.made_of], sleeve,
        "washer" if hole.made_of == "tank" else "sealant", _order(hole.made_of, sleeve),
        (hole.first, hole.second), runs[0].phase if runs else None, tuple(unknown),
    )  # fmt: skip


def _sleeve(runs: Sequence[AnyRun], made_of: str | None) -> str | None:
    """Say what lines a hole: a sleeve for gas, else a grommet where its edge would cut."""
    if any(isinstance(run, FuelPipe) for run in runs):
        return "sleeve"
    soft = any(isinstance(run, Cable) or (isinstance(run, Pipe) and run.family != "copper")
               for run in runs)  # fmt: skip
    return "grommet" if soft and made_of not in ("wood", "tank") else None


def _order(made_of: str | None, sleeve: str | None) -> tuple[str, ...]:
    """Give the steps of the work, in order."""
    if made_of == "tank":
        return ("empty", "measure inside", "pilot", "look", "drill", "chips out", "washer inside",
                "pipe", "seal")  # fmt: skip
    steps = ["measure inside", "pilot", "look", "drill", "edge"]
    return (*steps, *(["sleeve"] if sleeve else []), "pipe", "seal")


def _not_planned(system: System) -> Iterator[Drilling]:
    """Give the runs whose parts lie in two spaces that no hole joins."""
    spaces = {part.id: part.space for part in system.parts}
    joined = {frozenset((hole.first, hole.second)) for hole in system.holes}
    for run in system.runs:
        one, other = spaces[run.start.part], spaces[run.end.part]
        if one is None or other is None or one == other or frozenset((one, other)) in joined:
            continue
        wide = _through(run)
        bore = None if wide is None else wide + ROOM_MM
        unknown = ([] if bore is not None else ["bore_m"]) + ["made_of", "drill_from", "behind"]
        sleeve = _sleeve([run], None)
        yield Drilling(
            f"not-planned-{run.id}", "not planned", run.id, bore,
            () if bore is None else steps_of(bore), None, LOOK_FIRST, None, None, sleeve,
            "sealant", _order(None, sleeve), (one, other), run.phase, tuple(unknown),
        )  # fmt: skip


def _bulkheads(
    system: System, outsides: Mapping[str, float], assumed: Mapping[str, str]
) -> Iterator[Drilling]:
    """Give the fittings in the walls of tanks, where a run is joined."""
    for part in system.parts:
        if part.kind not in TANKS:
            continue
        seen: set[str] = set()
        for run, here, _ in system.joined(part.id):
            if here.port in seen or isinstance(run, Cable | FuelPipe):
                continue
            seen.add(here.port)
            wide = _fitting_mm(part, here.port, run, outsides, assumed)
            bore = None if wide is None else float(ceil(wide + BULKHEAD_MM - 1e-9))
            yield Drilling(
                f"{part.id}-{here.port.replace('_', '-')}", "bulkhead", part.id, bore,
                () if bore is None else steps_of(bore), "outside", LOOK_FIRST, "tank",
                EDGES["tank"], None, "washer", _order("tank", None), (part.space, part.space),
                part.phase, () if bore is not None else ("bore_m",),
            )  # fmt: skip


def _fitting_mm(
    part: AnyKind, port: str, run: AnyRun, outsides: Mapping[str, float],
    assumed: Mapping[str, str],
) -> float | None:  # fmt: skip
    """Give the outside of a fitting in a tank's wall [mm]."""
    end, _ = stated_end(part, port, assumed)
    if end == "run":
        return _through(run)
    read = read_end(end)
    if read is None:
        return None
    if read.word in ("male", "female", "nut"):
        words = read.size if read.family == "metric" else f"{read.size} {read.family}"
        return outsides.get(words)
    return read.outside_mm or None
