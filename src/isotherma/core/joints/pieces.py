"""The pieces a design is cut into: how long, where they are bent, from which bar."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from typing import Final, Literal

from isotherma.core.joints.bearing import Bears
from isotherma.core.joints.cuts import Bend, Ends, bars_for, cut
from isotherma.core.joints.piping import TAKEN_BY, RunEnd, RunJoints, taker_of
from isotherma.core.joints.sockets import (
    centre_mm,
    growth_mm,
    insertion_mm,
    least_radius_mm,
    outside_mm,
)
from isotherma.core.system import System
from isotherma.core.system.runs import FuelPipe, Leg, Pipe

MM: Final = 1000.0
OFF_M: Final = 0.005
LONG_MM: Final = 1000.0
CUT_AT_C: Final = 20.0
BAR_M: Final = 6.0  # what is sold longer is a coil
SAWN: Final = ("waste pipe", "corrugated steel")
SAW_MM: Final = 2.0
Refused = Literal["leg_too_short", "too_tight"]


@dataclass(frozen=True, slots=True)
class Piece:
    """A piece of a run. `unknown` names what must be known before it is cut.

    `goes_in_mm` are the marks of depth at its ends; `leaves_mm` what hot plastic wants free.
    """

    label: str
    run_id: str
    size: str
    cut_mm: float | None = None
    bends: tuple[Bend, ...] = ()
    radius_mm: float | None = None
    outside_mm: float | None = None
    goes_in_mm: tuple[float | None, float | None] = (None, None)
    leaves_mm: float = 0.0
    bar: int | None = None
    order: int | None = None
    unknown: tuple[str, ...] = ()
    refused: Refused | None = None
    short: int | None = None


def legs_differ_m(run: Pipe | FuelPipe) -> float | None:
    """Give by how much the legs of a run differ from its length, where that is too much.

    Parameters
    ----------
    run : Pipe or FuelPipe
        Any. [-]

    Returns
    -------
    float or None
        Over 5 mm, legs less length; None else. [m]
    """
    summed = run.legs_m
    if summed is None or run.length_m is None or abs(summed - run.length_m) <= OFF_M + 1e-9:
        return None
    return summed - run.length_m


def pieces_of(
    system: System, runs: Sequence[RunJoints], bears: Mapping[str, Bears], sizes: Mapping[str, str],
) -> tuple[Piece, ...]:  # fmt: skip
    """Cut every run that is tube or hose into its pieces.

    Parameters
    ----------
    system : System
        The design. [-]
    runs : sequence of RunJoints
        Its runs, resolved: what takes their ends. [-]
    bears : mapping of str to Bears
        How hot they get, by run. [°C]
    sizes : mapping of str to str
        Tube and size as asked for, by run. [-]

    Returns
    -------
    tuple of Piece
        In the document's order; a gas hose is bought made up and is none. [mm]
    """
    there = {run.id: run for run in system.runs if isinstance(run, Pipe | FuelPipe)}
    found: list[Piece] = []
    for joined in runs:
        run = there[joined.run_id]
        if isinstance(run, FuelPipe) and not joined.ends[0].tube and run.way == "hose":
            continue
        for piece in _pieces(system, run, joined, sizes[run.id]):
            bearing = bears.get(run.id, Bears())
            plastic = isinstance(run, Pipe) and run.family in ("semi-rigid plastic", "inch plastic")
            if (piece.cut_mm is not None and plastic and bearing.hot and piece.cut_mm > LONG_MM
                    and bearing.hot_c is not None):  # fmt: skip
                free = growth_mm(run, piece.cut_mm, bearing.hot_c - CUT_AT_C)
                piece = replace(piece, leaves_mm=free)
            found.append(piece)
    return tuple(found)


def _pieces(system: System, run: Pipe | FuelPipe, joined: RunJoints, size: str) -> list[Piece]:
    """Cut a run; one piece with what is unknown where that decides."""
    whole = Piece(f"{run.id}-1", run.id, size, outside_mm=outside_mm(run))
    unknown = _lacks(run)
    if unknown:
        return [replace(whole, unknown=tuple(unknown))]
    assert run.legs or run.length_m is not None  # else it is lacking
    legs = run.legs if run.length_m is None or run.legs else (Leg(length_m=run.length_m),)
    stretches = _stretches(legs)
    found = []
    for place, stretch in enumerate(stretches):
        first = None if place else joined.ends[0]
        last = joined.ends[1] if place == len(stretches) - 1 else None
        piece = replace(whole, label=f"{run.id}-{place + 1}")
        found.append(_cut(system, run, piece, stretch, (first, last)))
    return found


def _lacks(run: Pipe | FuelPipe) -> list[str]:
    """Name what must be known before anything of a run is cut."""
    if run.measured is None:
        return ["how measured"]
    if not run.legs and run.length_m is None:
        return ["length_m"]
    if isinstance(run, Pipe):
        if run.joiners:
            return ["where its joiners are"]
        bent = run.elbows or (run.formed_bends and run.measured != "the tube itself")
    else:
        bent = run.bends and run.measured != "the tube itself"
    return ["legs"] if bent and not run.legs else []


def _stretches(legs: Sequence[Leg]) -> list[tuple[list[float], list[float]]]:
    """Part legs at elbows: of each piece its legs [mm] and the turns between them [°]."""
    before = legs[-1].turn_deg > 0.0 and legs[0].turn_deg == 0.0  # turns stand before their legs
    turns = [(leg.turn_deg, leg.by) for leg in (legs[1:] if before else legs[:-1])]
    found: list[tuple[list[float], list[float]]] = [([legs[0].length_m * MM], [])]
    for (turn, by), leg in zip(turns, legs[1:], strict=True):
        if by == "elbow" and turn > 0.0:
            found.append(([leg.length_m * MM], []))
        elif turn > 0.0:
            found[-1][0].append(leg.length_m * MM)
            found[-1][1].append(turn)
        else:  # straight on
            found[-1][0][-1] += leg.length_m * MM
    return found


def _cut(
    system: System, run: Pipe | FuelPipe, piece: Piece, stretch: tuple[list[float], list[float]],
    ends: tuple[RunEnd | None, RunEnd | None],
) -> Piece:  # fmt: skip
    """Cut one piece between two ends; None is an elbow on the run."""
    unknown: list[str] = []
    out: list[float] = []
    goes_in: list[float | None] = []
    for end in ends:
        took, deep, lacks = _end(system, run, end)
        unknown += [lack for lack in lacks if lack not in unknown]
        out.append(took)
        goes_in.append(deep)
    legs, turns = stretch
    radius = least_radius_mm(run)
    bent = getattr(run, "bend_m", None)
    if turns and bent is not None:
        if radius is not None and bent * MM < radius - 1e-6:
            return replace(piece, refused="too_tight", radius_mm=bent * MM,
                           unknown=("too_tight",))  # fmt: skip
        radius = bent * MM
    if turns and radius is None:
        unknown.append("radius")
    if unknown:
        return replace(piece, unknown=tuple(unknown))
    deep_mm = tuple(0.0 if one is None else one for one in goes_in)
    made = cut(
        legs, turns, "centres", Ends((out[0], out[1]), (deep_mm[0], deep_mm[1])),
        radius_mm=0.0 if radius is None else radius,
    )  # fmt: skip
    if made.short is not None:
        return replace(piece, refused="leg_too_short", short=made.short,
                       unknown=("leg_too_short",), radius_mm=radius)  # fmt: skip
    return replace(
        piece, cut_mm=made.cut_mm, bends=made.bends, radius_mm=radius if turns else None,
        goes_in_mm=(goes_in[0], goes_in[1]),
    )  # fmt: skip


def _end(
    system: System, run: Pipe | FuelPipe, end: RunEnd | None
) -> tuple[float, float | None, list[str]]:
    """Give what a fitting takes out and how deep the tube goes in, and what is not known of it."""
    itself = run.measured == "the tube itself"
    if end is None:
        word = _elbow_word(run)
        centre, deep = centre_mm(word, run), insertion_mm(word, run)
        if centre is None or deep is None:
            return 0.0, None, ["joint" if not word else f"take-out of {word} elbow"]
        return centre, deep, []
    if end.end == "open":
        return 0.0, None, []
    word = taker_of(end, run)
    deep = insertion_mm(word, run)
    if itself:
        return 0.0, None, []
    unknown = [] if deep is not None else [f"insertion of {word}" if word else "joint"]
    if run.measured == "between faces":
        return 0.0, deep, unknown
    tee = system.part(end.part_id).kind == "split" and end.chain is None
    centre = centre_mm(word, run) if tee else None
    if centre is None:
        unknown.append(f"take-out of {end.part_id}")
    return 0.0 if centre is None else centre, deep, unknown


def _elbow_word(run: Pipe | FuelPipe) -> str:
    """Give what takes the tube in an elbow on a run; "" where nobody says how it is joined."""
    said = TAKEN_BY.get(run.joint or "", ()) if isinstance(run, Pipe) else ()
    return said[0] if said else ""


def on_bars(
    pieces: Sequence[Piece], runs: Mapping[str, Pipe | FuelPipe], packs_m: Mapping[str, float]
) -> tuple[tuple[Piece, ...], dict[str, int]]:
    """Put pieces in the order they are cut, longest first, and on bars where it is sold so.

    Parameters
    ----------
    pieces : sequence of Piece
        All of a design. [mm]
    runs : mapping of str to Pipe or FuelPipe
        By id. [-]
    packs_m : mapping of str to float
        Length sold of a size, where it is a bar of no more than 6 m. [m]

    Returns
    -------
    tuple of tuple and dict
        The pieces with bar and order, and the number of bars by size; a run that is not cut yet
        counts with its length. [-]
    """
    found = list(pieces)
    bars: dict[str, int] = {}
    for size in dict.fromkeys(piece.size for piece in pieces):
        mine = [place for place, piece in enumerate(found) if piece.size == size]
        counted = lengths_mm([found[place] for place in mine], runs)
        lengths = {place: length for place, length in zip(mine, counted, strict=True)
                   if length is not None}  # fmt: skip
        in_turn = sorted(lengths, key=lambda place: (-lengths[place], place))
        for order, place in enumerate(in_turn, start=1):
            found[place] = replace(found[place], order=order)
        bar_mm = packs_m.get(size, 0.0) * MM
        cuts = [lengths[place] for place in in_turn]
        if bar_mm <= 0.0 or not cuts or max(cuts) > bar_mm + 1e-6:
            continue
        run = runs[found[mine[0]].run_id]
        sawn = isinstance(run, FuelPipe) or run.family in SAWN
        stock = bars_for(cuts, bar_mm, SAW_MM if sawn else 0.0)
        bars[size] = len(stock.bars)
        for number, bar in enumerate(stock.bars, start=1):
            for index in bar:
                place = in_turn[index]
                found[place] = replace(found[place], bar=number)
    return tuple(found), bars


def lengths_mm(pieces: Sequence[Piece], runs: Mapping[str, Pipe | FuelPipe]) -> list[float | None]:
    """Give the length each piece counts with: as cut, else its run's whole length, once.

    Parameters
    ----------
    pieces : sequence of Piece
        All pieces of some runs. [mm]
    runs : mapping of str to Pipe or FuelPipe
        By id. [-]

    Returns
    -------
    list of float or None
        Piece by piece; None where it is not known or counted with the first of its run. [mm]
    """
    open_runs = {piece.run_id for piece in pieces if piece.cut_mm is None}
    found: list[float | None] = []
    counted: set[str] = set()
    for piece in pieces:
        if piece.run_id not in open_runs:
            found.append(piece.cut_mm)
            continue
        run = runs[piece.run_id]
        length = run.laid_m
        first = piece.run_id not in counted
        found.append(length * MM if first and length is not None else None)
        counted.add(piece.run_id)
    return found
