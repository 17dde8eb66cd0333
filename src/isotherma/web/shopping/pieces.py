"""Pieces: each drawn to scale with its marks, in the order they are cut, with labels to print."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Final

from isotherma.core.joints.pieces import Piece, lengths_mm
from isotherma.core.joints.pricing import Shopping
from isotherma.core.joints.run_legs import legs_text
from isotherma.core.quantity import UnitSystem, with_unit
from isotherma.core.system.runs import MEASURED, FuelPipe, Pipe
from isotherma.web.frame.context import PageContext
from isotherma.wording import WAY_WORDS, remark_sentence, unknown_words

WIDE, NARROW = 880.0, 330.0
EDGE: Final = 2.0
LABEL_Y, LABEL_PX = 34, 16
FIRST: Final = 5  # runs that are asked for before the rest is folded


@dataclass(frozen=True, slots=True)
class MarkLine:
    """A mark on a piece, with what it says, low enough to be clear of the last."""

    x: str
    kind: str
    text: str
    text_x: str
    anchor: str
    y: str


@dataclass(frozen=True, slots=True)
class PiecePicture:
    """A piece drawn to scale: its body, bends, marks."""

    width: str
    body: str
    bends: tuple[tuple[str, str], ...]
    marks: tuple[MarkLine, ...]
    tall: str
    words: str


@dataclass(frozen=True, slots=True)
class PieceRow:
    """A piece that can be cut."""

    id: str
    label: str
    run: str
    size: str
    cut: str
    order: str
    bar: str
    leave: str
    wide: PiecePicture
    narrow: PiecePicture


@dataclass(frozen=True, slots=True)
class OpenRun:
    """A run that cannot be cut yet, with its form."""

    id: str
    label: str
    size: str
    length: str
    lacks: str
    measured: str
    legs: str


@dataclass(frozen=True, slots=True)
class SizePieces:
    """Pieces of one size, longest first."""

    size: str
    words: str
    rows: tuple[PieceRow, ...]


@dataclass(frozen=True, slots=True)
class PiecesView:
    """All pieces, and what is not known before the rest is cut."""

    said: str
    open: tuple[OpenRun, ...]
    more_open: tuple[OpenRun, ...]
    sizes: tuple[SizePieces, ...]
    measured: tuple[OpenRun, ...]
    ways: tuple[tuple[str, str], ...]
    labels: tuple[str, ...]
    remarks: tuple[str, ...]


def pieces_view(context: PageContext, made: Shopping) -> PiecesView:
    """Make the view of the pieces."""
    system, units = context.variant.system, context.units
    runs = {run.id: run for run in system.runs if isinstance(run, Pipe | FuelPipe)}
    pieces = made.listed.pieces
    ready = [piece for piece in pieces if piece.cut_mm is not None]
    waiting = {piece.run_id: piece for piece in pieces if piece.cut_mm is None}
    said = ("No piece can be cut yet" if not ready else "1 piece can be cut" if len(ready) == 1
            else f"{len(ready)} pieces can be cut")  # fmt: skip
    said += f"; {len(waiting)} runs wait for a measure." if len(waiting) > 1 else (
        "; 1 run waits for a measure." if waiting else ".")  # fmt: skip
    longest = max((piece.cut_mm or 0.0 for piece in ready), default=1.0)
    sizes = []
    for size in dict.fromkeys(piece.size for piece in ready):
        mine = sorted((piece for piece in ready if piece.size == size),
                      key=lambda piece: piece.order or 0)  # fmt: skip
        rows = tuple(_row(piece, runs[piece.run_id], longest, units) for piece in mine)
        sizes.append(SizePieces(size, _size_words(size, mine, made, context, runs), rows))
    legs_remarks = [one for one in made.listed.remarks
                    if one.code in ("legs_differ", "too_tight", "leg_too_short")]  # fmt: skip
    asked = tuple(
        _open(runs[key], _lacks(piece), piece.size, units) for key, piece in waiting.items()
    )
    return PiecesView(
        said,
        asked[:FIRST], asked[FIRST:],
        tuple(sizes),
        tuple(_open(run, "", made_size(pieces, run.id), units) for run in runs.values()
              if run.measured is not None and run.id not in waiting),
        tuple((way, WAY_WORDS[way]) for way in MEASURED),
        tuple(piece.label for piece in pieces),
        tuple(remark_sentence(one, runs[one.about[0]].label, units) for one in legs_remarks),
    )  # fmt: skip


def made_size(pieces: tuple[Piece, ...], run_id: str) -> str:
    """Give tube and size of a run's pieces."""
    return next((piece.size for piece in pieces if piece.run_id == run_id), "")


def _lacks(piece: Piece) -> str:
    """Say what is asked beside the way it was measured, which the form asks anyway."""
    return ", ".join(unknown_words(name) for name in piece.unknown if name != "how measured")


def _open(run: Pipe | FuelPipe, lacks: str, size: str, units: UnitSystem) -> OpenRun:
    length = run.laid_m
    return OpenRun(
        run.id, run.label, size,
        "length not known" if length is None else with_unit(length, "length", units),
        lacks, run.measured or "", legs_text(run.legs, units),
    )  # fmt: skip


def _size_words(
    size: str, pieces: list[Piece], made: Shopping, context: PageContext,
    runs: Mapping[str, Pipe | FuelPipe],
) -> str:  # fmt: skip
    """Say how much tube a size takes, and off how many bars, with what is not measured yet."""
    units = context.units
    total = sum(piece.cut_mm or 0.0 for piece in pieces) / 1000.0
    words = f"{with_unit(total, 'length', units)} in {len(pieces)} " + (
        "pieces" if len(pieces) != 1 else "piece")  # fmt: skip
    bars = made.bars.get(size)
    pack = next((one.pack for one in context.project.prices
                 if one.item == "tube" and one.size == size), None)  # fmt: skip
    if not bars or pack is None:
        return words
    counted = lengths_mm([one for one in made.listed.pieces if one.size == size], runs)
    waste = bars * pack - sum(length for length in counted if length is not None) / 1000.0
    each = with_unit(pack, "length", units)
    off = f"{bars} bars" if bars != 1 else "1 bar"
    return f"{words}, off {off} of {each}; {with_unit(waste, 'length', units)} left over"


def _row(piece: Piece, run: Pipe | FuelPipe, longest: float, units: UnitSystem) -> PieceRow:
    return PieceRow(
        f"piece-{piece.label}", piece.label, run.label, piece.size,
        _mm(piece.cut_mm or 0.0, units), "" if piece.order is None else str(piece.order),
        "" if piece.bar is None else f"bar {piece.bar}",
        _leave(piece, units),
        _picture(piece, longest, WIDE, units), _picture(piece, longest, NARROW, units),
    )  # fmt: skip


def _leave(piece: Piece, units: UnitSystem) -> str:
    if piece.leaves_mm <= 0.0:
        return ""
    return f"leave {with_unit(piece.leaves_mm / 1000.0, 'bore', units, 2)} to grow when hot"


def _mm(value_mm: float, units: UnitSystem) -> str:
    return with_unit(value_mm / 1000.0, "bore", units, 4)


def _picture(piece: Piece, longest: float, width: float, units: UnitSystem) -> PiecePicture:
    """Draw a piece to scale, all of a page to the same."""
    length = piece.cut_mm or 0.0
    scale = (width - 2 * EDGE) / longest

    def at(mm: float) -> float:
        return EDGE + mm * scale

    asked: list[tuple[float, str, str]] = []
    first, last = piece.goes_in_mm
    if first:
        asked.append((first, "depth", f"goes in {_mm(first, units)}"))
    for bend in piece.bends:
        asked.append(
            (bend.start_mm, "bend", f"{bend.turn_deg:g}° from {_mm(bend.start_mm, units)}")
        )
        asked.append((bend.end_mm, "bend", f"to {_mm(bend.end_mm, units)}"))
    if last:
        asked.append((length - last, "depth", f"goes in {_mm(last, units)}"))
    marks, free, rows = [], [-1e9, -1e9, -1e9], 1
    for mm, kind, text in sorted(asked, key=lambda one: one[0]):
        x = at(mm)
        wide = 6.6 * len(text)
        left = x > width - wide
        begins = x - wide if left else x
        row = next((place for place, end in enumerate(free) if begins >= end + 4.0), len(free) - 1)
        free[row] = begins + wide
        rows = max(rows, row + 1)
        marks.append(MarkLine(f"{x:.1f}", kind, text, f"{x - 3 if left else x + 3:.1f}",
                              "end" if left else "start",
                              f"{LABEL_Y + LABEL_PX * row}"))  # fmt: skip
    words = ", ".join(mark.text for mark in marks) or "straight"
    return PiecePicture(
        f"{width:g}", f"{length * scale:.1f}",
        tuple((f"{at(bend.start_mm):.1f}", f"{(bend.end_mm - bend.start_mm) * scale:.1f}")
              for bend in piece.bends),
        tuple(marks), f"{LABEL_Y - 8 + LABEL_PX * rows}", words,
    )  # fmt: skip
