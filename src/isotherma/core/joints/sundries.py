"""What joints, runs and holes need beside fittings: seals, clamps, clips, cable, labels, spares."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Mapping, Sequence
from dataclasses import replace
from math import ceil
from typing import Final

from isotherma.core.ends import End, read_end, size_mm
from isotherma.core.joints.clips import clips_for, sold_outside_m
from isotherma.core.joints.lines import UNPRICED, Line
from isotherma.core.joints.piping import RunEnd, RunJoints, taker_of, tube_end
from isotherma.core.system import AnyKind, System
from isotherma.core.system.kinds import electric, water
from isotherma.core.system.runs import Cable, FuelPipe, Pipe

CABLE_SHARE: Final = 1.05
LUGS: Final = 4  # of a cable: two conductors, two ends
SPARE_FUSES: Final = 2
SPARE_SHARE, LEAST_SPARES = 0.1, 2
TAPE_M, WIDE_TAPE_M, WIDE_MM = 0.5, 0.8, 12.7
CLAMPS_MM: Final = ((8, 12), (10, 16), (12, 20), (16, 25), (20, 32), (25, 40), (32, 50))
HOSE_WALLS: Final = 1.5  # outside over bore, where nobody knows it
LEFT_MM: Final = 1.0
INSERT_FROM_MM: Final = 15.0
PLASTICS: Final = ("semi-rigid plastic", "inch plastic")
CONSUMED: Final = ("washer", "insert", "clamp")
Gathered = dict[str, list[str]]


def size_words(name: str, run: Pipe | FuelPipe) -> str:
    """Write a size as it is asked for in a shop.

    Parameters
    ----------
    name : str
        Its cut end in words. [-]
    run : Pipe or FuelPipe
        Whose tube. [-]

    Returns
    -------
    str
        As "semi-rigid plastic 12 mm". [-]
    """
    if isinstance(run, Pipe) and run.family is not None:
        return f"{run.family} {run.nominal or ''}".strip()
    return name.replace("barb", "fuel line", 1) if isinstance(run, FuelPipe) else name


def seals(
    system: System, runs: Sequence[RunJoints], hot: frozenset[str]
) -> Iterator[Line]:  # fmt: skip
    """Give washers, tape, clamps, inserts and locking clips, by the joints that need them.

    Parameters
    ----------
    system : System
        The design. [-]
    runs : sequence of RunJoints
        Those that are listed, resolved. [-]
    hot : frozenset of str
        Ids of runs that may get hot. [-]

    Returns
    -------
    iterator of Line
        One for each size. [-]
    """
    pipes = {run.id: run for run in system.runs if isinstance(run, Pipe | FuelPipe)}
    found: dict[str, Gathered] = {"washer": {}, "clamp": {}, "insert": {}, "locking_clip": {}}
    tape: dict[str, tuple[float, list[str]]] = {}
    for run in runs:
        pipe = pipes[run.run_id]
        is_hot = run.run_id in hot
        for end in run.ends:
            for one, seal in _sealed(end):
                if seal == "washer":
                    found["washer"].setdefault(one.size, []).append(run.run_id)
                elif seal == "tape":
                    metres = WIDE_TAPE_M if size_mm(one.size) > WIDE_MM else TAPE_M
                    kind = _tape(pipe, hot=is_hot)
                    before, ids = tape.get(kind, (0.0, []))
                    tape[kind] = (before + metres, [*ids, run.run_id])
                elif seal == "clamp":
                    found["clamp"].setdefault(clamp_for(pipe), []).append(run.run_id)
            bought_so = end.chain is None and end.end != "open"  # its barbs are in no chain
            _held(pipe, end.tube, taker_of(end, pipe), found, hot=is_hot, barbs=bought_so)
        for word in _along(pipe):
            _held(pipe, run.ends[0].tube, word, found, hot=is_hot, barbs=True)
    for item, rows in found.items():
        for size, ids in rows.items():
            yield Line(item, size, float(len(ids)), net=float(len(ids)),
                       about=tuple(dict.fromkeys(ids)), unknown=UNPRICED)  # fmt: skip
    for kind, (metres, ids) in tape.items():
        yield Line("tape", kind, metres, "m", net=metres, about=tuple(dict.fromkeys(ids)),
                   unknown=UNPRICED)  # fmt: skip


def _along(pipe: Pipe | FuelPipe) -> list[str]:
    """Give what takes the tube at each of the ends elbows and joiners make."""
    if not isinstance(pipe, Pipe):
        return []
    words = {"clamped hose": "barb"}
    joint = pipe.joint or ""
    return [words.get(joint, joint)] * (2 * (pipe.counted("elbows") + pipe.joiners))


def _held(
    pipe: Pipe | FuelPipe, tube: str, takes: str, found: Mapping[str, Gathered], *, hot: bool,
    barbs: bool,
) -> None:  # fmt: skip
    """Count what holds one end of a tube: a clamp on a barb, an insert, a locking clip."""
    if not isinstance(pipe, Pipe):
        return
    if takes == "barb" and barbs:
        found["clamp"].setdefault(clamp_for(pipe), []).append(pipe.id)
    if pipe.family not in PLASTICS:
        return
    size = size_words("", pipe)
    wide = size_mm(tube.rpartition("tube ")[2]) >= INSERT_FROM_MM
    if takes == "compression" or (takes == "push-in" and (wide or hot)):
        found["insert"].setdefault(size, []).append(pipe.id)
    if takes == "push-in" and hot:
        found["locking_clip"].setdefault(size, []).append(pipe.id)


def _sealed(end: RunEnd) -> Iterator[tuple[End, str]]:
    """Give every joint of an end with the end it begins at, and what makes it tight."""
    one = read_end(end.end)
    if end.chain is None or one is None or end.chain.refused is not None:
        return
    starts = [one, *(link.second for link in end.chain.links)]
    yield from zip(starts, end.chain.seals, strict=True)


def _tape(pipe: Pipe | FuelPipe, *, hot: bool) -> str:
    if isinstance(pipe, FuelPipe):
        return "EN 751-2"
    return "EN 751-3" if hot else "EN 751-1"


def clamp_for(pipe: Pipe | FuelPipe) -> str:
    """Give the smallest clamp that goes over a hose with a millimetre left.

    Parameters
    ----------
    pipe : Pipe or FuelPipe
        Of hose. [-]

    Returns
    -------
    str
        As "12-20 mm". [-]
    """
    sold = sold_outside_m(pipe) if isinstance(pipe, Pipe) else None
    if sold is None:
        named = pipe.nominal if isinstance(pipe, Pipe) else None
        bore = size_mm(named or "") if pipe.bore_m is None else pipe.bore_m * 1000.0
        outside = HOSE_WALLS * bore
    else:
        outside = sold * 1000.0
    for low, high in CLAMPS_MM:
        if high >= outside + LEFT_MM:
            return f"{low}-{high} mm"
    return f"{CLAMPS_MM[-1][0]}-{CLAMPS_MM[-1][1]} mm"


def fixings(pipes: Sequence[Pipe | FuelPipe]) -> Iterator[Line]:
    """Give clips by the size of what they hold.

    Parameters
    ----------
    pipes : sequence of Pipe or FuelPipe
        Those that are listed. [-]

    Returns
    -------
    iterator of Line
        One for each size. [-]
    """
    by_size: dict[str, tuple[float, list[str], list[str]]] = {}
    for run in pipes:
        clips, unknown = clips_for(run)
        size = size_words(tube_end(run, ""), run) or "gas hose"
        before, ids, lacking = by_size.get(size, (0.0, [], []))
        lacking = [*lacking, *unknown]
        by_size[size] = (before + clips, [*ids, run.id], lacking)
    for size, (count, ids, lacking) in by_size.items():
        if count or lacking:
            yield Line("clip", size, count, net=count, about=tuple(ids),
                       unknown=(*lacking, *UNPRICED))  # fmt: skip


def wires(
    parts: Sequence[AnyKind], cables: Sequence[Cable], system: System
) -> Iterator[Line]:  # fmt: skip
    """Give cable both ways, lugs, fuses and glands.

    Parameters
    ----------
    parts : sequence of AnyKind
        Those that are listed. [-]
    cables : sequence of Cable
        Those that are listed. [-]
    system : System
        The design, for its holes. [-]

    Returns
    -------
    iterator of Line
        One for each size. [-]
    """
    by_size: dict[str, list[Cable]] = {}
    for run in cables:
        size = f"{run.gauge} gauge" if run.area_m2 is None and run.gauge is not None else (
            "" if run.area_m2 is None else f"{run.area_m2 * 1e6:g} mm²")  # fmt: skip
        by_size.setdefault(size, []).append(run)
    for size, many in by_size.items():
        net = 2.0 * sum(run.length_m for run in many if run.length_m is not None)
        unknown = [f"runs.{run.id}.length_m" for run in many if run.length_m is None]
        unknown += [] if size else [f"runs.{run.id}.area_m2" for run in many]
        ids = tuple(run.id for run in many)
        yield Line("cable", size, net * CABLE_SHARE, "m", net=net, about=ids,
                   unknown=(*unknown, *UNPRICED))  # fmt: skip
        lugs = float(LUGS * len(many))
        yield Line("lug", size, lugs, net=lugs, about=ids, unknown=UNPRICED)
    fuses: dict[str, list[str]] = {}
    for part in parts:
        if isinstance(part, electric.Circuit) and part.guard in (None, "fuse"):
            size = "" if part.fuse_a is None else f"{part.fuse_a:g} A"
            fuses.setdefault(size, []).append(part.id)
    for size, keys in fuses.items():
        yield Line("fuse", size, float(len(keys) + SPARE_FUSES), net=float(len(keys)),
                   about=tuple(keys), why="two_more",
                   unknown=UNPRICED if size else ("fuse_a", *UNPRICED))  # fmt: skip
    if cables and system.holes:
        count = float(len(system.holes))
        yield Line("gland", "", count, net=count, about=tuple(hole.id for hole in system.holes),
                   unknown=UNPRICED)  # fmt: skip


def labels(parts: Sequence[AnyKind], pipes: Sequence[Pipe | FuelPipe]) -> Iterator[Line]:
    """Give a label for each cut end, valve and circuit.

    Parameters
    ----------
    parts : sequence of AnyKind
        Those that are listed. [-]
    pipes : sequence of Pipe or FuelPipe
        Those that are listed. [-]

    Returns
    -------
    iterator of Line
        One, where anything is labelled. [-]
    """
    valves = [part.id for part in parts if isinstance(
        part, water.ShutOff | water.Selector | water.Drain | electric.Circuit)]  # fmt: skip
    ends = sum(
        2 * (1 + (run.counted("elbows") + run.joiners if isinstance(run, Pipe) else 0))
        for run in pipes
    )
    count = float(ends + len(valves))
    if count:
        yield Line("label", "", count, net=count, about=tuple(valves), why="labels",
                   unknown=UNPRICED)  # fmt: skip


def spares(lines: Sequence[Line], single: Iterable[AnyKind] = ()) -> Iterator[Line]:
    """Give what is bought over: of what is used up, of each fitting, of what all hangs on.

    Parameters
    ----------
    lines : sequence of Line
        Of the list. [-]
    single : iterable of AnyKind
        Parts without which no water comes. [-]

    Returns
    -------
    iterator of Line
        A tenth and at least two of what is used up; one of each other. [-]
    """
    for line in lines:
        if line.item in CONSUMED:
            more = float(max(LEAST_SPARES, ceil(SPARE_SHARE * line.quantity)))
            yield replace(line, quantity=more, net=0.0, spare=True, why="consumable",
                          mass_kg=None)  # fmt: skip
        elif line.item in ("adapter", "elbow", "joiner"):
            each = None if line.mass_kg is None else line.mass_kg / line.quantity
            yield replace(line, quantity=1.0, net=0.0, spare=True, why="one_short",
                          mass_kg=each)  # fmt: skip
    for part in single:
        yield Line(part.kind, part.label, about=(part.id,), net=0.0, spare=True,
                   why="single_point", mass_kg=part.dry_mass_kg,
                   approval=approval_of(part), unknown=UNPRICED)  # fmt: skip


def approval_of(part: AnyKind) -> str | None:
    """Say what a part must be fit for: gas, drinking water, or neither.

    Parameters
    ----------
    part : AnyKind
        Any. [-]

    Returns
    -------
    str or None
        "gas", "drinking" or None. [-]
    """
    if part.side == "gas":
        return "gas"
    wet = part.side in ("water", "temperature", "use") or part.kind in (
        "store", "combi", "canister", "through_flow_gas", "through_flow_electric",
        "plate_exchanger", "coil", "sun_container",
    )  # fmt: skip
    return "drinking" if wet else None
