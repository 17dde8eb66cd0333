"""What is to be bought for a design: parts, tube, fittings, and all that goes with them."""

from __future__ import annotations

from collections.abc import Collection, Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass, field, replace
from typing import Final, Literal

from isotherma.core.ends import read_end
from isotherma.core.joints.bearing import Bears
from isotherma.core.joints.holes import Drilling
from isotherma.core.joints.lines import UNPRICED, Line
from isotherma.core.joints.masses import adapter_kg, elbow_kg, tube_kg_per_m
from isotherma.core.joints.pieces import Piece, legs_differ_m, lengths_mm
from isotherma.core.joints.piping import RunEnd, RunJoints, tube_end
from isotherma.core.joints.ratings import bears_pa
from isotherma.core.joints.sundries import (
    approval_of,
    fixings,
    labels,
    seals,
    size_words,
    spares,
    wires,
)
from isotherma.core.system import AnyKind, System
from isotherma.core.system.kinds import water
from isotherma.core.system.runs import Cable, FuelPipe, Pipe

COIL_SHARE, CUT_OFF_M = 1.05, 0.01
BORNE: Final = frozenset({"engine_coolant", "outside_source", "open_drain", "alternator"})
MM: Final = 1000.0
Said = Literal["tails_differ", "tube_before_regulator", "relief_over_rating", "legs_differ",
               "unlike_runs", "too_tight", "leg_too_short"]  # fmt: skip


@dataclass(frozen=True, slots=True)
class Notice:
    """Something a plumber would say of a run or part; figures by the code's words."""

    code: Said
    about: tuple[str, ...]
    figures: tuple[float, ...] = ()


@dataclass(frozen=True, slots=True)
class Listed:
    """The list of a design, with its joints, pieces and holes, and what does not resolve."""

    lines: tuple[Line, ...]
    runs: tuple[RunJoints, ...]
    assumed: tuple[tuple[str, str, str], ...]
    not_resolved: tuple[tuple[RunEnd, str], ...]
    by_space: Mapping[str, int] = field(default_factory=dict)
    out_of_reach: int = 0
    pieces: tuple[Piece, ...] = ()
    holes: tuple[Drilling, ...] = ()
    remarks: tuple[Notice, ...] = ()

    @property
    def joints(self) -> int:
        """All joints."""
        return sum(run.joints for run in self.runs)


def list_of(
    system: System, runs: Sequence[RunJoints], bears: Mapping[str, Bears],
    phase: str | None = None, *, pieces: Sequence[Piece] = (), holes: Sequence[Drilling] = (),
    single: Collection[str] = (),
) -> Listed:  # fmt: skip
    """Write the list of a design.

    Parameters
    ----------
    system : System
        The design. [-]
    runs : sequence of RunJoints
        Its runs, resolved. [-]
    bears : mapping of str to Bears
        What runs must bear; those that are not there carry cold water. [°C, Pa]
    phase : str or None
        Only what is fitted in that phase; None: all. [-]
    pieces : sequence of Piece
        What its tube is cut into. [mm]
    holes : sequence of Drilling
        What is drilled. [mm]
    single : collection of str
        Ids of parts without which no water comes: spares. [-]

    Returns
    -------
    Listed
        Lines in the order parts, tubes, fittings, seals, fixings, wires, holes, spares; nothing
        is priced or taken off for what is there yet. [-]
    """
    first = system.phases[0].id if system.phases else None

    def wanted(one: AnyKind | Pipe | FuelPipe | Cable) -> bool:
        return phase is None or (one.phase or first) == phase

    parts = [part for part in system.parts if wanted(part)]
    pipes = [run for run in system.runs if isinstance(run, Pipe | FuelPipe) and wanted(run)]
    cables = [run for run in system.runs if isinstance(run, Cable) and wanted(run)]
    kept = {run.id for run in pipes}
    chosen = [run for run in runs if run.run_id in kept]
    mine = tuple(piece for piece in pieces if piece.run_id in kept)
    hot = frozenset(key for key, one in bears.items() if one.hot)
    coolant = frozenset(key for key, one in bears.items() if one.coolant)
    drilled = [hole for hole in holes if phase is None or (hole.phase or first) == phase]
    lines = list(_parts(parts, _not_drunk(system, coolant)))
    lines += _tubes(system, pipes, coolant, mine)
    lines += _fittings(pipes, chosen)
    lines += seals(system, chosen, hot)
    lines += fixings(pipes)
    lines += wires(parts, cables, system)
    lines += _drilled(drilled)
    lines += labels(parts, pipes)
    alone = [part for part in parts if part.id in single and part.kind not in BORNE]
    lines += list(spares(tuple(lines), alone))  # of what is there, not of what is added
    phases = {one.id: one.phase for one in (*system.parts, *system.runs)}
    return Listed(
        tuple(_in_phase(line, phases) for line in lines), tuple(chosen),
        tuple(dict.fromkeys((end.part_id, end.port, end.end) for run in chosen for end in run.ends
                            if end.assumed and end.end not in ("run", "open"))),
        tuple((end, run.run_id) for run in chosen for end in run.ends
              if end.unknown or (end.chain is not None and end.chain.refused is not None)),
        *_where(system, chosen), mine, tuple(drilled),
        tuple(_remarks(system, chosen, bears, mine)),
    )  # fmt: skip


def _in_phase(line: Line, phases: Mapping[str, str | None]) -> Line:
    """Give a line the phase all it is for are fitted in, where that is one."""
    said = {phases.get(key) for key in line.about}
    return replace(line, phase=said.pop()) if len(said) == 1 else line


def _not_drunk(system: System, coolant: frozenset[str]) -> frozenset[str]:
    """Give the parts nobody drinks from: all their pipes are a primary's or waste."""
    drunk: set[str] = set()
    joined: set[str] = set()
    for run in system.runs:
        if not isinstance(run, Pipe):
            continue
        ends = {run.start.part, run.end.part}
        joined |= ends
        if run.id not in coolant and run.family != "waste pipe":
            drunk |= ends
    return frozenset(joined - drunk)


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


def _parts(parts: Iterable[AnyKind], not_drunk: frozenset[str]) -> Iterator[Line]:
    for part in parts:
        if part.kind in BORNE or part.owned == "owned":
            continue
        lacking = [name for name in ("price", "dry_mass_kg") if getattr(part, name) is None]
        yield Line(
            part.kind, part.label, about=(part.id,), net=1.0, phase=part.phase, price=part.price,
            mass_kg=part.dry_mass_kg, unknown=tuple(lacking),
            priced_on=part.priced_on, approval=None if part.id in not_drunk else approval_of(part),
        )  # fmt: skip


def _tubes(
    system: System, pipes: Sequence[Pipe | FuelPipe], coolant: frozenset[str],
    pieces: Sequence[Piece],
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
        ids = {run.id: run for run in runs}
        cuts = [piece for piece in pieces if piece.run_id in ids]
        whole = [run for run in runs if all(piece.run_id != run.id for piece in cuts)]
        lengths = [length / MM for length in lengths_mm(cuts, ids) if length is not None]
        lengths += [run.laid_m for run in whole if run.laid_m is not None]
        net = sum(lengths)
        unknown = [f"runs.{run.id}.length_m" for run in runs if run.laid_m is None]
        each = tube_kg_per_m(runs[0])
        if not name:
            unknown += [f"runs.{run.id}.family" for run in runs]
        yield Line(
            item, size_words(name, runs[0]), (net + CUT_OFF_M * len(lengths)) * COIL_SHARE,
            "m", net=net, about=tuple(ids), approval=approval, why="coil",
            mass_kg=None if each is None else each * net, unknown=(*unknown, *UNPRICED),
        )  # fmt: skip


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
                    why="" if item.everywhere else "not_everywhere", unknown=UNPRICED,
                    mass_kg=adapter_kg(item) * (1.0 + (before.quantity if before else 0.0)),
                )  # fmt: skip
    for line in found.values():
        yield replace(line, net=line.quantity)
    for name in ("elbows", "joiners"):
        by_size: dict[str, list[Pipe]] = {}
        for pipe in pipes:
            if isinstance(pipe, Pipe) and pipe.counted(name):
                by_size.setdefault(size_words("", pipe), []).append(pipe)
        for size, many in by_size.items():
            count = float(sum(pipe.counted(name) for pipe in many))
            each = elbow_kg(many[0])
            yield Line(name[:-1], size, count, net=count, about=tuple(pipe.id for pipe in many),
                       mass_kg=None if each is None else count * each,
                       unknown=UNPRICED)  # fmt: skip


def _drilled(holes: Sequence[Drilling]) -> Iterator[Line]:
    """Give what holes are lined and made tight with."""
    found: dict[tuple[str, str], list[str]] = {}
    for hole in holes:
        bore = "" if hole.bore_mm is None else f"{hole.bore_mm:g} mm"
        if hole.sleeve is not None:
            found.setdefault((hole.sleeve, bore), []).append(hole.id)
        if hole.made_of == "metal":
            found.setdefault(("edge_primer", ""), []).append(hole.id)
        if hole.seal == "sealant":
            found.setdefault(("sealant", ""), []).append(hole.id)
    for (item, size), ids in found.items():
        count = 1.0 if item in ("edge_primer", "sealant") else float(len(ids))
        unknown = UNPRICED if size or item in ("edge_primer", "sealant") else ("bore_m", *UNPRICED)
        yield Line(item, size, count, net=count, about=tuple(ids), unknown=unknown)


def _remarks(
    system: System, runs: Sequence[RunJoints], bears: Mapping[str, Bears],
    pieces: Sequence[Piece],
) -> Iterator[Notice]:  # fmt: skip
    """Say what does not add up, though it can be built."""
    there = {run.id: run for run in system.runs if isinstance(run, Pipe | FuelPipe)}
    parts = {part.id: part for part in system.parts}
    for joined in runs:
        run = there[joined.run_id]
        off = legs_differ_m(run)
        if off is not None:
            yield Notice("legs_differ", (run.id,), (off,))
        if isinstance(run, Pipe):
            links = sum(len(end.chain.links) for end in joined.ends if end.chain is not None)
            if run.tails and run.tails != links:
                yield Notice("tails_differ", (run.id,), (float(run.tails), float(links)))
        elif run.way != "hose":
            for ref in (run.start, run.end):
                if parts[ref.part].kind == "regulator" and ref.port == "inlet":
                    yield Notice("tube_before_regulator", (run.id, ref.part))
        yield from _over_rated(joined, run, parts, bears)
    for piece in pieces:
        if piece.refused is not None:
            figures = () if piece.short is None else (float(piece.short),)
            yield Notice(piece.refused, (piece.run_id,), figures)
    yield from _unlike(system, runs)


def _over_rated(
    joined: RunJoints, run: Pipe | FuelPipe, parts: Mapping[str, AnyKind],
    bears: Mapping[str, Bears],
) -> Iterator[Notice]:  # fmt: skip
    """Say where a relief opens over what the tube before it bears."""
    for end in joined.ends:
        part = parts[end.part_id]
        if not isinstance(part, water.Relief) or part.set_pa is None or end.port != "inlet":
            continue
        tube = read_end(end.tube)
        bearing = bears.get(run.id, Bears())
        if tube is None or not isinstance(run, Pipe):
            continue
        at_c = 20.0 if bearing.hot_c is None else bearing.hot_c
        rated = bears_pa(tube, at_c, coolant=bearing.coolant) if run.max_pa is None else run.max_pa
        if part.set_pa > rated > 0.0:
            yield Notice("relief_over_rating", (run.id, part.id), (part.set_pa, rated))


def _unlike(system: System, runs: Sequence[RunJoints]) -> Iterator[Notice]:
    """Say where unlike runs meet at a part that is bought in joint and size of its run."""
    sizes: dict[str, dict[str, str]] = {}
    for joined in runs:
        for end in joined.ends:
            if end.end == "run" and end.tube:
                sizes.setdefault(end.part_id, {})[joined.run_id] = end.tube
    for key, by_run in sizes.items():
        if len(set(by_run.values())) > 1 and system.part(key).kind != "split":
            yield Notice("unlike_runs", (key, *by_run))
