"""What the commands about joints do: threads, cuts, chains of adapters; read, compute, print."""

from __future__ import annotations

import json
import re
from collections.abc import Callable
from typing import TYPE_CHECKING, Any, Final, NoReturn

import typer

from isotherma.core.errors import ChangeRefused, QuantityError
from isotherma.core.joints.cuts import Ends, Way, bars_for, cut
from isotherma.core.joints.leg_text import read_legs, read_length_mm
from isotherma.core.joints.resolver import Use
from isotherma.core.joints.threads import Measured
from isotherma.core.quantity import UnitSystem, parse
from isotherma.wording import reason_of

if TYPE_CHECKING:
    from isotherma.core.project import Project, Variant

Fail = Callable[[str, int], NoReturn]
MM: Final = 1000.0
REFUSED: Final = 3
INCH_MM: Final = 25.4
WAYS: Final[dict[str, Way]] = {
    "centres": "centres", "faces": "faces", "tube": "tube", "backs": "backs",
}  # fmt: skip


def millimetres(text: str, what: str, fail: Fail) -> float:
    """Read a length in millimetres; a bare number is millimetres."""
    try:
        return read_length_mm(text)
    except ChangeRefused as error:
        fail(f"{what}: {reason_of(error.reason, error.values)}", 2)


def _print(made: dict[str, Any], lines: list[str], *, as_json: bool) -> None:
    if as_json:
        print(json.dumps(made, ensure_ascii=False, indent=2, allow_nan=False))
    else:
        print("\n".join(lines))


def _pitch_mm(text: str, fail: Fail) -> float:
    """Read a pitch: threads per inch, or millimetres."""
    per_inch = re.fullmatch(r"\s*(\d+(?:\.\d+)?)\s*tpi\s*", text)
    pitch = INCH_MM / float(per_inch[1]) if per_inch and float(per_inch[1]) else (
        0.0 if per_inch else millimetres(text, "--pitch", fail))  # fmt: skip
    if pitch <= 0.0:
        fail(f"--pitch: {text!r} is no pitch; write 14tpi or 1.81mm.", 2)
    return pitch


def which_thread(
    *, outside: str | None, inside: str | None, pitch: str | None, threads: float | None,
    over: str | None, taper: str | None, hand: str | None, flank: int | None, by: str,
    as_json: bool, fail: Fail,
) -> None:  # fmt: skip
    """Say which thread was measured, and print it."""
    from isotherma.services.joints import which_thread as named
    from isotherma.wording.english.joints import MEASURE_WORDS

    if (outside is None) == (inside is None):
        fail("Say either --outside, of a male thread, or --inside, of a female one.", 2)
    if pitch is not None and threads is not None:
        fail("Say either --pitch, or --threads with --over.", 2)
    if (threads is None) != (over is None):
        fail("--threads goes with --over: 7 threads over 12.7mm.", 2)
    across = millimetres(outside or inside or "", "--outside" if outside else "--inside", fail)
    pitch_mm = None if pitch is None else _pitch_mm(pitch, fail)
    if threads is not None and over is not None:
        if threads <= 0.0:
            fail("--threads must be more than 0.", 2)
        pitch_mm = millimetres(over, "--over", fail) / threads
    measured = Measured(
        across, inside is not None, pitch_mm, threads, None if taper is None else taper == "seen",
        None if hand is None else hand == "left", flank, by == "ruler",
    )  # fmt: skip
    found = named(measured)
    made = {
        "format": "isotherma-thread",
        "candidates": [
            {"thread": one.thread.name, "score": one.score, "outside_mm": one.thread.high_mm,
             "pitch_mm": one.thread.pitch_mm}
            for one in found.candidates
        ],
        "none": found.none,
        "decide": None if found.decide is None else {
            "measure": found.decide, "words": MEASURE_WORDS[found.decide]},
    }  # fmt: skip
    lines = [f"{one.thread.name}: {one.score:.0%} (outside {one.thread.high_mm:g} mm, pitch "
             f"{one.thread.pitch_mm:.3g} mm)" for one in found.candidates]  # fmt: skip
    lines.append(f"none of these: {found.none:.0%}")
    if found.decide is not None:
        lines.append(f"To decide: {MEASURE_WORDS[found.decide]}")
    _print(made, lines, as_json=as_json)


def _pair(text: str | None, what: str, fail: Fail) -> tuple[float, float]:
    """Read what holds at both ends: one figure for both, or two parted by a comma."""
    if text is None:
        return 0.0, 0.0
    pieces = text.split(",")
    if len(pieces) > 2:
        fail(f"{what}: {text!r} has more than two ends.", 2)
    first, *rest = (millimetres(piece, what, fail) for piece in pieces)
    return first, rest[0] if rest else first


def cut_tube(
    legs: str, *, measured: str, take_out: str | None, insertion: str | None, radius: str | None,
    outside: str | None, as_json: bool, fail: Fail,
) -> None:  # fmt: skip
    """Say how long a tube is cut and where its bends are, and print it."""
    from isotherma.wording.english.joints import REFUSED_JOINT_WORDS

    if measured not in WAYS:
        fail(f"--measured: {measured!r} is none of {', '.join(WAYS)}.", 2)
    try:
        written = read_legs(legs)
    except ChangeRefused as error:
        fail(f"Legs: {reason_of(error.reason, error.values)}", 2)
    lengths, turns = written.legs_mm, written.turns_deg
    if "elbow" in written.by:
        fail("Legs: an elbow ends two pieces; ask for each of them.", 2)
    if turns and radius is None:
        fail("A bend needs its --radius, of the middle line.", 2)
    if measured == "backs" and outside is None:
        fail("Legs to the backs of bends need the tube's --outside.", 2)
    ends = Ends(_pair(take_out, "--take-out", fail), _pair(insertion, "--insertion", fail))
    found = cut(
        lengths, turns, WAYS[measured], ends,
        radius_mm=0.0 if radius is None else millimetres(radius, "--radius", fail),
        outside_mm=0.0 if outside is None else millimetres(outside, "--outside", fail),
    )  # fmt: skip
    refused = None
    if found.short is not None:
        words = REFUSED_JOINT_WORDS["leg_too_short"].format(leg=found.short)
        refused = {"reason": "leg_too_short", "words": words}
    made = {
        "format": "isotherma-cut",
        "cut_mm": found.cut_mm,
        "bends": [
            {"turn_deg": one.turn_deg, "start_mm": one.start_mm, "end_mm": one.end_mm,
             "gain_mm": one.gain_mm}
            for one in found.bends
        ],
        "refused": refused,
    }  # fmt: skip
    lines = [f"Cut {found.cut_mm:.1f} mm."]
    lines += [f"Bend {one.turn_deg:g}°: from {one.start_mm:.1f} to {one.end_mm:.1f} mm, "
              f"gains {one.gain_mm:.1f} mm." for one in found.bends]  # fmt: skip
    if refused is not None:
        lines.append(f"Refused: {refused['words']}.")
    _print(made, lines, as_json=as_json)
    if refused is not None:
        raise typer.Exit(REFUSED)


def cut_bars(pieces: str, of: str | None, kerf: str | None, *, as_json: bool, fail: Fail) -> None:
    """Lay pieces on the fewest bars, and print it."""
    from isotherma.wording.english.joints import REFUSED_JOINT_WORDS

    if of is None:
        fail("--pieces goes with --of, the length of a bar.", 2)
    lengths = [millimetres(piece, "--pieces", fail) for piece in pieces.split(",")]
    bar = millimetres(of, "--of", fail)
    lost = 0.0 if kerf is None else millimetres(kerf, "--kerf", fail)
    if bar <= 0.0 or any(length <= 0.0 for length in lengths):
        fail("Pieces and bars must be longer than 0.", 2)
    longest = max(lengths)
    if longest > bar + 1e-9:
        words = REFUSED_JOINT_WORDS["too_long"].format(piece=f"{longest:g} mm", bar=f"{bar:g} mm")
        made: dict[str, Any] = {"format": "isotherma-cut", "bars": [], "waste_mm": None,
                                "refused": {"reason": "too_long", "words": words}}  # fmt: skip
        _print(made, [f"Refused: {words}."], as_json=as_json)
        raise typer.Exit(REFUSED)
    stock = bars_for(lengths, bar, lost)
    waste = len(stock.bars) * bar - sum(lengths)
    made = {
        "format": "isotherma-cut",
        "bars": [[lengths[place] for place in one] for one in stock.bars],
        "waste_mm": waste, "exact": stock.exact, "at_least": stock.at_least, "refused": None,
    }  # fmt: skip
    lines = [f"Bar {number}: " + ", ".join(f"{lengths[place]:g} mm" for place in one)
             for number, one in enumerate(stock.bars, start=1)]  # fmt: skip
    lines.append(f"{waste:g} mm are left over"
                 + ("." if stock.exact else f"; {stock.at_least} bars may do."))  # fmt: skip
    _print(made, lines, as_json=as_json)


def join_ends(
    one: str, other: str, *, use: str | None, at: str | None, pressure: str | None, base: bool,
    as_json: bool, fail: Fail,
) -> None:  # fmt: skip
    """Find the fewest adapters from one end to another, and print them."""
    from isotherma.core.joints.resolver import Asked
    from isotherma.services.joints import join
    from isotherma.wording.english.joints import REFUSED_JOINT_WORDS

    at_c, pressure_pa = _bears(at, pressure, fail)
    uses: dict[str, Use] = {"drinking": "drinking", "hot": "hot", "gas": "gas", "waste": "waste"}
    joined = join(one, other, Asked(None if use is None else uses[use], at_c, pressure_pa, base))
    found, reason = joined.chain, joined.reason
    refused = None
    if reason is not None:
        words = REFUSED_JOINT_WORDS[reason].format(
            end=", ".join(joined.about), at=at or "20 °C", pressure=pressure or "it"
        )
        refused = {"reason": reason, "words": words}
    made = {
        "format": "isotherma-join",
        "joins": refused is None,
        "adapters": len(found.links) if refused is None else None,
        "joints": found.joints if refused is None else None,
        "chain": [
            {"id": link.adapter.id, "end_a": link.first.name, "end_b": link.second.name,
             "everywhere": link.adapter.everywhere}
            for link in found.links
        ],
        "seal": list(found.seals), "unknown": list(found.unknown), "refused": refused,
        "nearest": list(found.nearest),
    }  # fmt: skip
    lines = [f"{link.adapter.id}: {link.first.name} – {link.second.name}"
             + ("" if link.adapter.everywhere else ", not sold everywhere")
             for link in found.links]  # fmt: skip
    if refused is None:
        lines.append(f"{found.joints} joints: {', '.join(found.seals)}.")
        lines += [f"Not known: {', '.join(found.unknown)}."] if found.unknown else []
    else:
        lines.append(f"Refused: {refused['words']}.")
        lines += [f"Nearest: {', '.join(found.nearest)}."] if found.nearest else []
    _print(made, lines, as_json=as_json)
    if refused is not None:
        raise typer.Exit(REFUSED)


def _bears(at: str | None, pressure: str | None, fail: Fail) -> tuple[float | None, float | None]:
    """Read how hot and under what pressure."""
    found: list[float | None] = []
    for text, style, option in ((at, "temperature", "--at"), (pressure, "pressure", "--pressure")):
        try:
            found.append(None if text is None else parse(text, style))
        except QuantityError as error:
            fail(f"{option}: {text!r} cannot be read; write it as {error.example}.", 2)
    return found[0], found[1]


def list_parts(
    project: Project, variant: Variant, *, tradition: str | None, phase: str | None, as_json: bool,
    table: str | None, fail: Fail,
) -> None:  # fmt: skip
    """Write what is to be bought, with joints, cuts and holes, and print it."""
    from isotherma.files.parts_json import parts_object
    from isotherma.files.parts_table import parts_table
    from isotherma.services.shopping import TRADITIONS, shopping, unknown_sizes
    from isotherma.wording import LINE_WHY, remark_sentence

    if tradition is not None and tradition not in TRADITIONS:
        fail(f"--tradition: {tradition!r} is none of {', '.join(TRADITIONS)}.", 2)
    phases = [one.id for one in variant.system.phases]
    if phase is not None and phase not in phases:
        fail(f"There is no phase “{phase}”. The file has: {', '.join(phases) or 'none'}.", 2)
    for where, end, near in unknown_sizes(variant.system):
        fail(f"{where}: no such size is known: “{end}”. Nearest: {', '.join(near) or 'none'}.", 2)
    made = shopping(project, variant, tradition=tradition, phase=phase)
    if table is not None:
        print(parts_table(made, "tsv" if table == "tsv" else "csv"), end="")
        return
    found = made.listed
    remarks = [remark_sentence(one, one.about[0], UnitSystem.METRIC) for one in found.remarks]
    lines = [
        f"{line.quantity:g} {line.unit} {line.item.replace('_', ' ')} {line.size}".rstrip()
        + (f" – {LINE_WHY[line.why]}" if line.why else "") for line in found.lines
    ]  # fmt: skip
    lines.append(f"{found.joints} joints, {found.out_of_reach} of them out of reach; "
                 f"{len(found.assumed)} ends are assumed ({made.tradition}).")  # fmt: skip
    if made.money.sum is not None:
        lines.append(f"{made.money.sum:.2f} {made.currency}, {made.money.unknown} lines not "
                     "priced.")  # fmt: skip
    lines += [f"Not resolved: {end.end} of {end.part_id} with {end.tube or 'an unknown tube'}."
              for end, _ in found.not_resolved]  # fmt: skip
    _print(parts_object(made, dict(LINE_WHY), remarks), lines + remarks, as_json=as_json)
