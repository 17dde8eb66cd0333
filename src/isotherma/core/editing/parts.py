"""Parts and runs: put in, joined, fitted, taken away."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import Any

from isotherma.core.editing.values import fresh_id, variant_of, with_lists, with_system
from isotherma.core.errors import ChangeRefused
from isotherma.core.project import Project
from isotherma.core.system import AnyKind, AnyRun, Pipe, PortRef, part_refs
from isotherma.core.system.kinds import KINDS
from isotherma.core.system.pieces import PartBase, joins
from isotherma.core.system.runs import RUNS, RunBase

STUB_M = 0.05  # a cap sits right on what it closes


def goes_in_line(kind: type[PartBase], run: RunBase) -> bool:
    """Say whether a kind of part can be put into a run.

    Parameters
    ----------
    kind : type
        A class of part. [-]
    run : RunBase
        The run that would be cut. [-]

    Returns
    -------
    bool
        True when it has an inlet and an outlet for what the run carries. [-]
    """
    inlet, outlet = kind.port("inlet"), kind.port("outlet")
    if inlet is None or outlet is None or kind.side == "use":
        return False
    return all(
        any(joins(port.medium, medium) for medium in run.carries) for port in (inlet, outlet)
    )


def insert_part(project: Project, variant_id: str, run_id: str, part: PartBase) -> Project:
    """Cut a run in two halves and put a part in line between them.

    Parameters
    ----------
    project : Project
        The document. [-]
    variant_id, run_id : str
        Where. [-]
    part : PartBase
        What; it gets an id of its own, and the run's space where it has none. [-]

    Returns
    -------
    Project
        With the part, length and rise of the run shared equally. [-]

    Raises
    ------
    ChangeRefused
        If the run is gone or the kind does not go in line.
    """
    system = variant_of(project, variant_id).system
    path = f"variants.{variant_id}.system.runs.{run_id}"
    run = next((run for run in system.runs if run.id == run_id), None)
    if run is None:
        raise ChangeRefused(path=path, reason="gone")
    if not goes_in_line(type(part), run):
        raise ChangeRefused(path=path, reason="not_in_line", part=part.title, run=run.title)
    part_id = fresh_id(part.id, [other.id for other in system.parts])
    placed = part.model_copy(update={"id": part_id, "space": part.space or run.space})
    halves: dict[str, Any] = {
        "length_m": None if run.length_m is None else run.length_m / 2,
        "rise_m": run.rise_m / 2,
    }
    second_id = fresh_id(f"{run.id}-after", [other.id for other in system.runs])
    first = {**run.model_dump(), **halves, "end": {"part": part_id, "port": "inlet"}}
    second = {
        **run.model_dump(),
        **halves,
        "id": second_id,
        "name": f"After {part.label}"[:80],
        "start": {"part": part_id, "port": "outlet"},
    }
    for name in ("elbows", "formed_bends", "joiners", "tails", "clips"):
        if second.get(name):  # counted once, on the first half
            second[name] = 0
    for half in (first, second):
        if half.get("legs"):  # nobody measured the halves
            half["legs"] = []
    if first.get("loss_k") is not None:
        first["loss_k"] = second["loss_k"] = first["loss_k"] / 2
    runs: list[object] = []
    for other in system.runs:
        runs += [first, second] if other.id == run_id else [other.model_dump()]
    return with_lists(project, variant_id, parts=(*system.parts, placed), runs=runs)


def remove_part(project: Project, variant_id: str, part_id: str) -> Project:
    """Take a part away: runs on both sides of a part in line are joined, others go with it.

    Parameters
    ----------
    project : Project
        The document. [-]
    variant_id, part_id : str
        Which. [-]

    Returns
    -------
    Project
        Without it and without what named it; a joined run keeps the bore of the first
        and both lengths. [-]

    Raises
    ------
    ChangeRefused
        If the part is gone.
    """
    system = variant_of(project, variant_id).system
    path = f"variants.{variant_id}.system.parts.{part_id}"
    part = next((part for part in system.parts if part.id == part_id), None)
    if part is None:
        raise ChangeRefused(path=path, reason="gone")
    touching = [run for run, _, _ in system.joined(part_id)]
    before = [run for run in touching if run.end.part == part_id and run.start.part != part_id]
    after = [run for run in touching if run.start.part == part_id and run.end.part != part_id]
    pipes = [run for run in touching if isinstance(run, Pipe)]
    joined: AnyRun | None = None
    if len(before) == len(after) == 1 and pipes == touching:
        joined = _joined(before[0], after[0])
    runs = []
    for run in system.runs:
        if joined is not None and run.id == joined.id:
            runs.append(joined)
        elif run not in touching:
            runs.append(run)
    parts = [_forgetting(other, part_id) for other in system.parts if other.id != part_id]
    states = [
        state.model_copy(
            update={
                "positions": tuple(item for item in state.positions if item.part != part_id),
                "dry": tuple(item for item in state.dry if item != part_id),
                "placed": tuple(item for item in state.placed if item.part != part_id),
            }
        )
        for state in system.states
    ]
    holes = [
        hole.model_copy(update={"for_part": None}) if hole.for_part == part_id else hole
        for hole in system.holes
    ]
    return with_lists(project, variant_id, parts=parts, runs=runs, states=states, holes=holes)


def replace_part(project: Project, variant_id: str, part_id: str, part: PartBase) -> Project:
    """Put another kind of part in the place of one, with its runs.

    Parameters
    ----------
    project : Project
        Whose variant. [-]
    variant_id : str
        The variant. [-]
    part_id : str
        What is replaced; its id, place, phase and note stay. [-]
    part : PartBase
        What comes. [-]

    Returns
    -------
    Project
        Validated. [-]

    Raises
    ------
    ChangeRefused
        If a run ends at a port that the new kind does not have, or nothing is there.
    """
    variant = variant_of(project, variant_id)
    old = next((item for item in variant.system.parts if item.id == part_id), None)
    path = f"variants.{variant_id}.system.parts.{part_id}"
    if old is None:
        raise ChangeRefused(path=path, reason="gone")
    ports = {port.name for port in part.ports}
    used = {here.port for _, here, _ in variant.system.joined(part_id)}
    if not used <= ports:
        missing = ", ".join(sorted(used - ports)).replace("_", " ")
        raise ChangeRefused(path=path, reason="no_port", part=part.title, port=missing)
    if old.fitted_in is not None or variant.system.fitted(part_id):
        raise ChangeRefused(path=path, reason="sits")
    kept = {"id": old.id, "space": old.space, "phase": old.phase, "note": old.note}
    new = part.model_copy(update=kept)
    parts = tuple(new if item.id == part_id else item for item in variant.system.parts)
    states = tuple(
        state.model_copy(update={
            "positions": tuple(item for item in state.positions if item.part != part_id
                               or item.at in new.positions)
        })
        for state in variant.system.states
    )  # fmt: skip
    data = variant.system.model_copy(update={"parts": parts, "states": states}).model_dump()
    return with_system(project, variant_id, type(variant.system).model_validate(data))


def _joined(before: AnyRun, after: AnyRun) -> AnyRun:
    """Make one run of two: the ends of both, their lengths and fittings added."""
    changes: dict[str, Any] = {"end": after.end, "rise_m": before.rise_m + after.rise_m}
    one, other = before.length_m, after.length_m
    changes["length_m"] = None if one is None or other is None else one + other
    if isinstance(before, Pipe) and isinstance(after, Pipe):
        for name in ("elbows", "formed_bends", "joiners", "tails"):
            changes[name] = getattr(before, name) + getattr(after, name)
        changes["legs"] = ()  # nobody measured the whole
        if before.loss_k is not None and after.loss_k is not None:
            changes["loss_k"] = before.loss_k + after.loss_k
    return before.model_copy(update=changes)


def _forgetting(part: AnyKind, gone_id: str) -> AnyKind:
    """Empty the properties of a part that name one that is taken away."""
    names = part_refs(type(part))
    gone = {name: None for name in names if getattr(part, name) == gone_id}
    return part.model_copy(update=gone) if gone else part


def add_part(project: Project, variant_id: str, part: PartBase) -> Project:
    """Put a part into a variant, joined to nothing yet.

    Parameters
    ----------
    project : Project
        The document. [-]
    variant_id : str
        Which variant. [-]
    part : PartBase
        What; it gets an id of its own. [-]

    Returns
    -------
    Project
        With the part last in the list. [-]

    Raises
    ------
    ChangeRefused
        If the variant is gone.
    """
    system = variant_of(project, variant_id).system
    part_id = fresh_id(part.id, [other.id for other in system.parts])
    return with_lists(
        project, variant_id, parts=(*system.parts, part.model_copy(update={"id": part_id}))
    )


def new_part(kind: str, values: Mapping[str, object] | None = None) -> PartBase:
    """Make a part of a kind.

    Parameters
    ----------
    kind : str
        Key of `KINDS`. [-]
    values : mapping or None
        Properties that are known already. [SI]

    Returns
    -------
    PartBase
        Its id is a first guess; `add_part` makes it unique. [-]

    Raises
    ------
    ChangeRefused
        If there is no such kind.
    """
    if kind not in KINDS:
        raise ChangeRefused(path="", reason="no_kind", kind=kind[:40])
    return KINDS[kind].model_validate({"id": kind.replace("_", "-"), **(values or {})})


ARRIVING = frozenset(
    {"inlet", "hot", "cold", "hot_in", "cold_in", "feed", "fill", "gas", "fuel", "returns"}
)


def fit_part(project: Project, variant_id: str, part: PartBase) -> Project:
    """Put a part into another, in the same space and phase.

    Parameters
    ----------
    project : Project
        The document. [-]
    variant_id : str
        Which variant. [-]
    part : PartBase
        What; `fitted_in` names the other. [-]

    Returns
    -------
    Project
        With the part last in the list. [-]

    Raises
    ------
    ChangeRefused
        If the other is gone, or holds no such part.
    """
    system = variant_of(project, variant_id).system
    host = next((other for other in system.parts if other.id == part.fitted_in), None)
    if host is None:
        raise ChangeRefused(path="parts", reason="gone")
    if host.kind not in part.sits_in:
        raise ChangeRefused(path=f"parts.{host.id}", reason="does_not_sit", part=part.title)
    placed = part.model_copy(update={"space": host.space, "phase": host.phase})
    return add_part(project, variant_id, placed)


def join(project: Project, variant_id: str, start: str, end: str, kind: str) -> Project:
    """Join two ports written "part.port", the way water takes where that is known.

    Parameters
    ----------
    project : Project
        The document. [-]
    variant_id : str
        Which variant. [-]
    start, end : str
        Part and port with a point between; turned round when the first is an inlet. [-]
    kind : str
        Kind of run. [-]

    Returns
    -------
    Project
        With the run. [-]

    Raises
    ------
    ChangeRefused
        If an end is not written so, or there is no such kind of run.
    pydantic.ValidationError
        If the ports do not fit.
    """
    ends = []
    for text in (start, end):
        part, dot, port = text.partition(".")
        if not dot:
            raise ChangeRefused(path="runs", reason="say_part_and_port")
        ends.append(PortRef(part=part, port=port))
    if ends[0].port in ARRIVING and ends[1].port not in ARRIVING:
        ends.reverse()
    return add_run(project, variant_id, kind, ends[0], ends[1])


def add_run(project: Project, variant_id: str, kind: str, start: PortRef, end: PortRef) -> Project:
    """Join two ports by a new run, its measures still unknown.

    Parameters
    ----------
    project : Project
        The document. [-]
    variant_id : str
        Which variant. [-]
    kind : str
        Key of `RUNS`. [-]
    start, end : PortRef
        What it joins. [-]

    Returns
    -------
    Project
        With the run last in the list. [-]

    Raises
    ------
    ChangeRefused
        If there is no such kind of run.
    pydantic.ValidationError
        If the ports are not there, taken, or for different things.
    """
    system = variant_of(project, variant_id).system
    if kind not in RUNS:
        raise ChangeRefused(path="", reason="no_run_kind", kind=kind[:40])
    names = {part.id: part.label for part in system.parts}
    run_id = fresh_id(f"{start.part}-{end.part}"[:30], [run.id for run in system.runs])
    words = f"{names.get(start.part, start.part)} to {names.get(end.part, end.part).lower()}"
    run = RUNS[kind].model_validate({"id": run_id, "name": words[:80], "start": start, "end": end})
    return with_lists(project, variant_id, runs=(*system.runs, run))


def cap_port(project: Project, variant_id: str, end: str, cap: PartBase) -> Project:
    """Close an open port with a blanking cap on a short pipe.

    Parameters
    ----------
    project : Project
        The document. [-]
    variant_id : str
        Which variant. [-]
    end : str
        Part and port with a point between. [-]
    cap : PartBase
        The cap; it gets the part's space and phase. [-]

    Returns
    -------
    Project
        With the cap last in the list; the pipe is as those at the part. [-]

    Raises
    ------
    ChangeRefused
        If the part is gone.
    pydantic.ValidationError
        If something is joined there already, or it carries no water.
    """
    part_id, _, _ = end.partition(".")
    system = variant_of(project, variant_id).system
    part = next((item for item in system.parts if item.id == part_id), None)
    if part is None:
        raise ChangeRefused(path=f"parts.{part_id}", reason="gone")
    near = next((run for run, _, _ in system.joined(part_id) if isinstance(run, Pipe)), None)
    placed = add_part(
        project, variant_id, cap.model_copy(update={"space": part.space, "phase": part.phase})
    )
    cap_id = variant_of(placed, variant_id).system.parts[-1].id
    done = join(placed, variant_id, end, f"{cap_id}.inlet", "pipe")
    run = variant_of(done, variant_id).system.runs[-1]
    like: dict[str, Any] = {"length_m": STUB_M, "space": part.space, "phase": part.phase}
    if near is not None:
        like |= {"family": near.family, "nominal": near.nominal, "bore_m": near.bore_m,
                 "wall_m": near.wall_m}  # fmt: skip
    runs = [
        item.model_copy(update=like) if item.id == run.id else item
        for item in variant_of(done, variant_id).system.runs
    ]
    return with_runs(done, variant_id, runs)


def with_runs(project: Project, variant_id: str, runs: Sequence[AnyRun]) -> Project:
    """Give a variant other runs, all together; ValidationError if they do not fit.

    Parameters
    ----------
    project : Project
        The document. [-]
    variant_id : str
        Which variant. [-]
    runs : sequence of Run
        All its runs. [-]

    Returns
    -------
    Project
        With these runs. [-]
    """
    return with_lists(project, variant_id, runs=runs)
