"""What would save joints: bends instead of elbows, one size of tube, other ends, a manifold."""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass
from math import radians, tan
from typing import Final, Literal

from isotherma.core.joints.piping import RunJoints
from isotherma.core.joints.sockets import least_radius_mm
from isotherma.core.system import AnyKind, System
from isotherma.core.system.runs import AnyRun, Leg, Pipe, turns_of

MM: Final = 1000.0
BENT: Final = frozenset({"semi-rigid plastic", "inch plastic", "copper", "multilayer"})
TEES_FROM: Final = 2
MOST: Final = 8
Kind = Literal["formed_bend", "one_size", "other_ends", "manifold"]
ENDS_OF: Final = {"push-in": "push-in", "compression": "compression", "clamped hose": "barb",
                  "soldered": "solder"}  # fmt: skip


@dataclass(frozen=True, slots=True)
class Change:
    """One value that would be another: its path in the system, what is there, what would be."""

    path: str
    before: object
    after: object


@dataclass(frozen=True, slots=True)
class Saving:
    """What could be changed, and how many joints that saves; `radius_mm` of a bend.

    A manifold is no part of the document: its saving has no changes.
    """

    kind: Kind
    about: tuple[str, ...]
    joints: int
    changes: tuple[Change, ...] = ()
    radius_mm: float | None = None
    to: str = ""


def savings_of(
    system: System, runs: Sequence[RunJoints], joints: Callable[[System], int]
) -> tuple[Saving, ...]:
    """Find what would save joints, each tried by counting again.

    Parameters
    ----------
    system : System
        The design. [-]
    runs : sequence of RunJoints
        Its runs, resolved. [-]
    joints : callable
        Counts the joints of a changed system; it is not validated. [-]

    Returns
    -------
    tuple of Saving
        Those that save most first, eight at most. [-]
    """
    now = sum(run.joints for run in runs)
    found = list(_manifolds(system))
    for kind, about, changes, radius, to in (
        *_bends(system), *_sizes(system, runs), *_ends(system, runs)
    ):  # fmt: skip
        saved = now - joints(_changed(system, changes))
        if saved > 0:
            found.append(Saving(kind, about, saved, changes, radius, to))
    found.sort(key=lambda one: (-one.joints, one.about))
    return tuple(found[:MOST])


Try = tuple[Kind, tuple[str, ...], tuple[Change, ...], float | None, str]


def _changed(system: System, changes: Sequence[Change]) -> System:
    """Put values into a copy, runs and parts alone, without validating the whole again."""
    lists: dict[str, dict[str, dict[str, object]]] = {}
    for change in changes:
        group, key, name = change.path.split(".")
        lists.setdefault(group, {}).setdefault(key, {})[name] = change.after
    update: dict[str, object] = {}
    for group, by_id in lists.items():
        pieces: Sequence[AnyRun | AnyKind] = getattr(system, group)
        update[group] = tuple(
            type(one).model_validate({**one.model_dump(), **by_id[one.id]})
            if one.id in by_id else one for one in pieces
        )  # fmt: skip
    return system.model_copy(update=update)


def _bends(system: System) -> Iterator[Try]:
    """Bend the tube where elbows are, if its legs are long enough for that."""
    for run in system.runs:
        if not isinstance(run, Pipe) or run.family not in BENT or not run.counted("elbows"):
            continue
        radius = least_radius_mm(run)
        if radius is None or not _fits(run.legs, radius):
            continue
        path = f"runs.{run.id}"
        if run.legs:
            legs = [leg.model_dump() for leg in run.legs]
            bent = [{**leg, "by": "formed"} for leg in legs]
            changes: tuple[Change, ...] = (Change(f"{path}.legs", legs, bent),)
        else:
            changes = (
                Change(f"{path}.elbows", run.elbows, 0),
                Change(f"{path}.formed_bends", run.formed_bends, run.formed_bends + run.elbows),
            )
        yield "formed_bend", (run.id,), changes, radius, ""


def _fits(legs: Sequence[Leg], radius_mm: float) -> bool:
    """Say whether every leg is longer than the bends at its ends take; unknown legs may be."""
    if not legs:
        return True
    takes = [radius_mm * tan(radians(leg.turn_deg) / 2.0) for leg in turns_of(tuple(legs))]
    taken = zip([0.0, *takes], [*takes, 0.0], strict=True)
    return all(leg.length_m * MM >= sum(pair) - 1e-6
               for leg, pair in zip(legs, taken, strict=False))  # fmt: skip


def _sizes(system: System, runs: Sequence[RunJoints]) -> Iterator[Try]:
    """Lay odd sizes of a family in the size most of it has."""
    sizes: dict[str, Counter[str]] = {}
    pipes = [run for run in system.runs if isinstance(run, Pipe)]
    for run in pipes:
        if run.family is not None and run.nominal is not None:
            sizes.setdefault(run.family, Counter())[run.nominal] += 1
    resolved = {one.run_id for one in runs}
    for family, counts in sizes.items():
        usual, many = counts.most_common(1)[0]
        odd = [run for run in pipes if run.family == family and run.nominal not in (None, usual)]
        if many < 2 or not odd or len(odd) >= many or not all(run.id in resolved for run in odd):
            continue
        changes = tuple(Change(f"runs.{run.id}.nominal", run.nominal, usual) for run in odd)
        yield "one_size", tuple(run.id for run in odd), changes, None, f"{family} {usual}"


def _ends(system: System, runs: Sequence[RunJoints]) -> Iterator[Try]:
    """Buy a part with ends that take the tube, where adapters are at it now."""
    parts = {part.id: part for part in system.parts}
    pipes = {run.id: run for run in system.runs if isinstance(run, Pipe)}
    at: dict[str, list[tuple[str, str]]] = {}
    for one in runs:
        run = pipes.get(one.run_id)
        word = None if run is None else ENDS_OF.get(run.joint or "")
        if run is None or word is None or run.nominal is None:
            continue
        name = " nominal" if run.nominal.endswith("in") and word == "push-in" else ""
        for end in one.ends:
            if end.chain is not None and end.chain.links and end.assumed:
                at.setdefault(end.part_id, []).append((end.port, f"{word} {run.nominal}{name}"))
    for key, ends in at.items():
        part = parts[key]
        if part.owned == "owned":
            continue
        said = [one.model_dump() for one in part.ends]
        after = [*said, *({"port": port, "end": end} for port, end in ends)]
        change = Change(f"parts.{key}.ends", said, after)
        yield "other_ends", (key,), (change,), None, ends[0][1]


def _manifolds(system: System) -> Iterator[Saving]:
    """Count what tees one after the other would save as one manifold: 3 n to n + 2."""
    tees = {part.id for part in system.parts if part.kind == "split"}
    near: dict[str, set[str]] = {key: set() for key in tees}
    for run in system.runs:
        one, other = run.start.part, run.end.part
        if isinstance(run, Pipe) and one in tees and other in tees:
            near[one].add(other)
            near[other].add(one)
    seen: set[str] = set()
    for key in tees:
        if key in seen:
            continue
        group, waiting = set[str](), [key]
        while waiting:
            here = waiting.pop()
            if here not in group:
                group.add(here)
                waiting += near[here]
        seen |= group
        count = len(group)
        if count >= TEES_FROM:
            order = tuple(part.id for part in system.parts if part.id in group)
            yield Saving("manifold", order, 3 * count - (count + 2))
