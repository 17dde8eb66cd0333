"""What is to be bought for a design: parts, tube, fittings, clips, seals, by what they are for."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass, field, replace
from math import ceil
from typing import Final

from isotherma.core.joints.clips import clips_for, sold_outside_m
from isotherma.core.joints.ends import End, read_end, size_mm
from isotherma.core.joints.piping import RunEnd, RunJoints, tube_end
from isotherma.core.system import AnyKind, System
from isotherma.core.system.kinds import electric, water
from isotherma.core.system.runs import Cable, FuelPipe, Pipe

COIL_SHARE, CUT_OFF_M = 1.05, 0.01
CABLE_SHARE: Final = 1.05
LUGS: Final = 4  # of a cable: two conductors, two ends
SPARE_FUSES: Final = 2
SPARE_SHARE, LEAST_SPARES = 0.1, 2
TAPE_M, WIDE_TAPE_M, WIDE_MM = 0.5, 0.8, 12.7
CLAMPS_MM: Final = ((8, 12), (10, 16), (12, 20), (16, 25), (20, 32), (25, 40), (32, 50))
HOSE_WALLS: Final = 1.5  # outside over bore, where nobody knows it
LEFT_MM: Final = 1.0
INSERT_FROM_MM: Final = 15.0
BORNE: Final = frozenset({"engine_coolant", "outside_source", "open_drain", "alternator"})
PLASTICS: Final = ("semi-rigid plastic", "inch plastic")
CONSUMED: Final = ("washer", "insert", "clamp")


@dataclass(frozen=True, slots=True)
class Line:
    """A line of the list; what nobody knows is None and named in `unknown`."""

    item: str
    size: str = ""
    quantity: float = 1.0
    unit: str = "piece"
    end_a: str | None = None
    end_b: str | None = None
    net: float | None = None
    about: tuple[str, ...] = ()
    why: str = ""
    approval: str | None = None
    phase: str | None = None
    spare: bool = False
    price: float | None = None
    mass_kg: float | None = None
    unknown: tuple[str, ...] = ()


@dataclass(frozen=True, slots=True)
class Listed:
    """The list of a design, with its joints and what does not resolve."""

    lines: tuple[Line, ...]
    runs: tuple[RunJoints, ...]
    assumed: tuple[tuple[str, str, str], ...]
    not_resolved: tuple[tuple[RunEnd, str], ...]
    by_space: Mapping[str, int] = field(default_factory=dict)
    out_of_reach: int = 0

    @property
    def joints(self) -> int:
        """All joints."""
        return sum(run.joints for run in self.runs)


def list_of(
    system: System, runs: Sequence[RunJoints], hot: frozenset[str], phase: str | None = None,
    coolant: frozenset[str] = frozenset(),
) -> Listed:  # fmt: skip
    """Write the list of a design.

    Parameters
    ----------
    system : System
        The design. [-]
    runs : sequence of RunJoints
        Its runs, resolved. [-]
    hot : frozenset of str
        Ids of runs that may get hot. [-]
    phase : str or None
        Only what is fitted in that phase; None: all. [-]
    coolant : frozenset of str
        Ids of runs nobody drinks from: of a closed primary. [-]

    Returns
    -------
    Listed
        Lines in the order parts, tubes, fittings, seals, fixings, wires, spares. [-]
    """
    first = system.phases[0].id if system.phases else None

    def wanted(one: AnyKind | Pipe | FuelPipe | Cable) -> bool:
        return phase is None or (one.phase or first) == phase

    parts = [part for part in system.parts if wanted(part)]
    pipes = [run for run in system.runs if isinstance(run, Pipe | FuelPipe) and wanted(run)]
    cables = [run for run in system.runs if isinstance(run, Cable) and wanted(run)]
    kept = {run.id for run in pipes}
    chosen = [run for run in runs if run.run_id in kept]
    lines = list(_parts(parts))
    lines += _tubes(system, pipes, coolant)
    lines += _fittings(pipes, chosen)
    lines += _seals(system, chosen, hot)
    lines += _fixings(pipes)
    lines += _wires(parts, cables, system)
    lines += _labels(parts, pipes)
    lines += list(_spares(tuple(lines)))  # of what is there, not of what is added
    return Listed(
        tuple(lines), tuple(chosen),
        tuple(dict.fromkeys((end.part_id, end.port, end.end) for run in chosen for end in run.ends
                            if end.assumed and end.end not in ("run", "open"))),
        tuple((end, run.run_id) for run in chosen for end in run.ends
              if end.unknown or (end.chain is not None and end.chain.refused is not None)),
        *_where(system, chosen),
    )  # fmt: skip


def _where(system: System, runs: Sequence[RunJoints]) -> tuple[dict[str, int], int]:
    """Count joints by space, and those behind another part."""
    parts = {part.id: part for part in system.parts}
    spaces = {run.id: getattr(run, "space", None) for run in system.runs}
    found: dict[str, int] = {}
    hidden = 0
    for run in runs:
        for end in run.ends:
            part = parts[end.part_id]
            space = part.space or spaces[run.run_id] or "unknown"
            found[space] = found.get(space, 0) + end.joints
            hidden += end.joints if part.reach == "behind another part" else 0
        along = run.joints - sum(end.joints for end in run.ends)
        space = spaces[run.run_id] or "unknown"
        found[space] = found.get(space, 0) + along
    return found, hidden


def _parts(parts: Iterable[AnyKind]) -> Iterator[Line]:
    for part in parts:
        if part.kind in BORNE or part.owned == "owned":
            continue
        lacking = [name for name in ("price", "dry_mass_kg") if getattr(part, name) is None]
        yield Line(
            part.kind, part.label, about=(part.id,), net=1.0, phase=part.phase, price=part.price,
            mass_kg=part.dry_mass_kg, unknown=tuple(lacking),
            approval="gas" if part.side == "gas" else "drinking" if part.side == "water" else None,
        )  # fmt: skip


def _tubes(
    system: System, pipes: Sequence[Pipe | FuelPipe], coolant: frozenset[str]
) -> Iterator[Line]:  # fmt: skip
    """Give tube and hose by size: what is needed, and from a coil what is bought."""
    parts = {part.id: part for part in system.parts}
    by_size: dict[tuple[str, str, str | None], list[Pipe | FuelPipe]] = {}
    for run in pipes:
        port = parts[run.start.part].port(run.start.port)
        medium = "" if port is None else port.medium
        name = tube_end(run, medium)
        if not name:
            name = "gas hose" if isinstance(run, FuelPipe) else ""
        drunk = medium in ("water", "fluid") and run.id not in coolant
        approval = "gas" if medium == "gas" else "drinking" if drunk else None
        item = "hose" if name.startswith(("hose", "gas hose", "barb")) else "tube"
        by_size.setdefault((item, name, approval), []).append(run)
    for (item, name, approval), runs in by_size.items():
        lengths = [run.length_m for run in runs]
        known = [length for length in lengths if length is not None]
        net = sum(known)
        unknown = [f"runs.{run.id}.length_m" for run in runs if run.length_m is None]
        if not name:
            unknown += [f"runs.{run.id}.family" for run in runs]
        yield Line(
            item, _size_words(name, runs[0]), (net + CUT_OFF_M * len(known)) * COIL_SHARE, "m",
            net=net, about=tuple(run.id for run in runs), approval=approval,
            why="coil", unknown=tuple(unknown),
        )  # fmt: skip


def _size_words(name: str, run: Pipe | FuelPipe) -> str:
    """Write a size as it is asked for in a shop."""
    if isinstance(run, Pipe) and run.family is not None:
        return f"{run.family} {run.nominal or ''}".strip()
    return name


def _fittings(pipes: Sequence[Pipe | FuelPipe], runs: Sequence[RunJoints]) -> Iterator[Line]:
    """Give adapters by their kind, elbows and joiners by the tube they are on."""
    found: dict[str, Line] = {}
    for run in runs:
        for end in run.ends:
            if end.chain is None:
                continue
            for link in end.chain.links:
                item = link.adapter
                before = found.get(item.id)
                about = (*(before.about if before else ()), run.run_id)
                found[item.id] = Line(
                    "adapter", item.id, 1.0 + (before.quantity if before else 0.0),
                    end_a=item.a.name, end_b=item.b.name, about=tuple(dict.fromkeys(about)),
                    approval=item.service or "drinking",
                    why="" if item.everywhere else "not_everywhere", unknown=("price",),
                )  # fmt: skip
    for line in found.values():
        yield replace(line, net=line.quantity)
    for name in ("elbows", "joiners"):
        by_size: dict[str, list[Pipe]] = {}
        for pipe in pipes:
            if isinstance(pipe, Pipe) and getattr(pipe, name):
                by_size.setdefault(_size_words("", pipe), []).append(pipe)
        for size, many in by_size.items():
            count = float(sum(getattr(pipe, name) for pipe in many))
            yield Line(name[:-1], size, count, net=count, about=tuple(pipe.id for pipe in many),
                       unknown=("price",))  # fmt: skip


def _seals(
    system: System, runs: Sequence[RunJoints], hot: frozenset[str]
) -> Iterator[Line]:  # fmt: skip
    """Give washers, tape, clamps, inserts and locking clips, by the joints that need them."""
    pipes = {run.id: run for run in system.runs if isinstance(run, Pipe | FuelPipe)}
    washers: dict[str, list[str]] = {}
    tape: dict[str, tuple[float, list[str]]] = {}
    clamps: dict[str, list[str]] = {}
    inserts: dict[str, list[str]] = {}
    clips: dict[str, list[str]] = {}
    for run in runs:
        pipe = pipes[run.run_id]
        size = _size_words("", pipe)
        for end in run.ends:
            for one, seal in _sealed(end):
                if seal == "washer":
                    washers.setdefault(one.size, []).append(run.run_id)
                elif seal == "tape":
                    metres = WIDE_TAPE_M if size_mm(one.size) > WIDE_MM else TAPE_M
                    kind = _tape(pipe, run.run_id in hot)
                    before, ids = tape.get(kind, (0.0, []))
                    tape[kind] = (before + metres, [*ids, run.run_id])
                elif seal == "clamp":
                    clamps.setdefault(_clamp(pipe), []).append(run.run_id)
            takes = _taker(end, pipe)
            plastic = isinstance(pipe, Pipe) and pipe.family in PLASTICS
            if not plastic:
                continue
            wide = size_mm(end.tube.rpartition("tube ")[2]) >= INSERT_FROM_MM
            if takes == "compression" or (takes == "push-in" and (wide or run.run_id in hot)):
                inserts.setdefault(size, []).append(run.run_id)
            if takes == "push-in" and run.run_id in hot:
                clips.setdefault(size, []).append(run.run_id)
    for item, rows in (("washer", washers), ("clamp", clamps), ("insert", inserts),
                       ("locking_clip", clips)):  # fmt: skip
        for size, ids in rows.items():
            yield Line(item, size, float(len(ids)), net=float(len(ids)),
                       about=tuple(dict.fromkeys(ids)), unknown=("price",))  # fmt: skip
    for kind, (metres, ids) in tape.items():
        yield Line("tape", kind, metres, "m", net=metres, about=tuple(dict.fromkeys(ids)),
                   unknown=("price",))  # fmt: skip


def _sealed(end: RunEnd) -> Iterator[tuple[End, str]]:
    """Give every joint of an end with the end it begins at, and what makes it tight."""
    one = read_end(end.end)
    if end.chain is None or one is None or end.chain.refused is not None:
        return
    starts = [one, *(link.second for link in end.chain.links)]
    yield from zip(starts, end.chain.seals, strict=True)


def _taker(end: RunEnd, pipe: Pipe | FuelPipe) -> str:
    """Give the word of what takes the tube at an end; as the run is joined where bought so."""
    if end.chain is None:
        joint = pipe.joint if isinstance(pipe, Pipe) else None
        return "" if end.end == "open" else joint or ""
    if end.chain.links:
        return end.chain.links[-1].second.word
    one = read_end(end.end)
    return "" if one is None else one.word


def _tape(pipe: Pipe | FuelPipe, hot: bool) -> str:
    if isinstance(pipe, FuelPipe):
        return "EN 751-2"
    return "EN 751-3" if hot else "EN 751-1"


def _clamp(pipe: Pipe | FuelPipe) -> str:
    """Give the smallest clamp that goes over a hose with a millimetre left."""
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


def _fixings(pipes: Sequence[Pipe | FuelPipe]) -> Iterator[Line]:
    """Give clips by the size of what they hold."""
    by_size: dict[str, tuple[float, list[str], list[str]]] = {}
    for run in pipes:
        clips, unknown = clips_for(run)
        size = _size_words(tube_end(run, ""), run) or "gas hose"
        before, ids, lacking = by_size.get(size, (0.0, [], []))
        lacking = [*lacking, *unknown]
        by_size[size] = (before + clips, [*ids, run.id], lacking)
    for size, (count, ids, lacking) in by_size.items():
        if count or lacking:
            yield Line("clip", size, count, net=count, about=tuple(ids),
                       unknown=tuple(lacking) or ("price",))  # fmt: skip


def _wires(
    parts: Sequence[AnyKind], cables: Sequence[Cable], system: System
) -> Iterator[Line]:  # fmt: skip
    """Give cable both ways, lugs, fuses and glands."""
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
                   unknown=tuple(unknown) or ("price",))  # fmt: skip
        lugs = float(LUGS * len(many))
        yield Line("lug", size, lugs, net=lugs, about=ids, unknown=("price",))
    fuses: dict[str, list[str]] = {}
    for part in parts:
        if isinstance(part, electric.Circuit) and part.guard in (None, "fuse"):
            size = "" if part.fuse_a is None else f"{part.fuse_a:g} A"
            fuses.setdefault(size, []).append(part.id)
    for size, keys in fuses.items():
        yield Line("fuse", size, float(len(keys) + SPARE_FUSES), net=float(len(keys)),
                   about=tuple(keys), why="two_more",
                   unknown=("price",) if size else ("fuse_a",))  # fmt: skip
    if cables and system.holes:
        count = float(len(system.holes))
        yield Line("gland", "", count, net=count, about=tuple(hole.id for hole in system.holes),
                   unknown=("price",))  # fmt: skip


def _labels(parts: Sequence[AnyKind], pipes: Sequence[Pipe | FuelPipe]) -> Iterator[Line]:
    """Give a label for each cut end, valve and circuit."""
    valves = [part.id for part in parts if isinstance(
        part, water.ShutOff | water.Selector | water.Drain | electric.Circuit)]  # fmt: skip
    count = float(2 * len(pipes) + len(valves))
    if count:
        yield Line("label", "", count, net=count, about=tuple(valves), why="labels",
                   unknown=("price",))  # fmt: skip


def _spares(lines: Sequence[Line]) -> Iterator[Line]:
    """Give what is bought over: a tenth, at least two, of what is used up; one of each fitting."""
    for line in lines:
        if line.item in CONSUMED:
            more = float(max(LEAST_SPARES, ceil(SPARE_SHARE * line.quantity)))
            yield replace(line, quantity=more, net=0.0, spare=True, why="consumable")
        elif line.item in ("adapter", "elbow", "joiner"):
            yield replace(line, quantity=1.0, net=0.0, spare=True, why="one_short")
