"""The list of a design as JSON."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any, Final

from isotherma.core.joints.holes import Drilling
from isotherma.core.joints.lines import Line
from isotherma.core.joints.pieces import Piece
from isotherma.core.joints.pricing import Shopping

PARTS_FORMAT: Final = "isotherma-parts"


def parts_object(made: Shopping, whys: dict[str, str], remarks: Sequence[str]) -> dict[str, Any]:
    """Give a list as an object for JSON.

    Parameters
    ----------
    made : Shopping
        The list, priced. [-]
    whys : dict of str to str
        Words of why a line is there. [-]
    remarks : sequence of str
        Sentences of its remarks, in order. [-]

    Returns
    -------
    dict
        Keys as in docs/file-format.md; what nobody knows is null. [see the keys]
    """
    found = made.listed
    return {
        "format": PARTS_FORMAT,
        "tradition": made.tradition,
        "assumed": [
            {"part": part, "port": port, "end": end} for part, port, end in found.assumed
        ],
        "lines": [_line(line, whys, made.currency) for line in found.lines],
        "joints": {
            "total": found.joints,
            "by_run": {run.run_id: run.joints for run in found.runs},
            "by_space": dict(found.by_space),
            "out_of_reach": found.out_of_reach,
        },
        "cuts": [_cut(piece) for piece in found.pieces],
        "holes": [_hole(hole) for hole in found.holes],
        "totals": {
            "money": made.money.sum, "currency": made.currency or None,
            "lines_not_priced": made.money.unknown,
            "mass_kg": made.mass_kg.sum, "lines_not_weighed": made.mass_kg.unknown,
            "joints": found.joints,
        },
        "not_resolved": [
            {"at": [end.part_id, end.port, run],
             "why": "unknown_size" if end.chain is None else end.chain.refused,
             "nearest": [] if end.chain is None else list(end.chain.nearest)}
            for end, run in found.not_resolved
        ],
        "remarks": [
            {"code": remark.code, "about": list(remark.about), "words": words}
            for remark, words in zip(found.remarks, remarks, strict=True)
        ],
    }  # fmt: skip


def _line(line: Line, whys: dict[str, str], currency: str) -> dict[str, Any]:
    return {
        "item": line.item, "end_a": line.end_a, "end_b": line.end_b, "size": line.size or None,
        "quantity": line.quantity, "net": line.net, "unit": line.unit, "packs": line.packs,
        "for": list(line.about), "why": whys.get(line.why) or None, "approval": line.approval,
        "phase": line.phase, "spare": line.spare, "price": line.price,
        "currency": (currency or None) if line.price is not None else None,
        "mass_kg": line.mass_kg, "unknown": list(line.unknown),
    }  # fmt: skip


def _cut(piece: Piece) -> dict[str, Any]:
    return {
        "label": piece.label, "run": piece.run_id, "size": piece.size or None,
        "cut_mm": piece.cut_mm,
        "bends": [
            {"turn_deg": one.turn_deg, "start_mm": one.start_mm, "end_mm": one.end_mm,
             "gain_mm": one.gain_mm}
            for one in piece.bends
        ],
        "bar": piece.bar, "order": piece.order, "leave_mm": piece.leaves_mm,
        "unknown": list(piece.unknown),
    }  # fmt: skip


def _hole(hole: Drilling) -> dict[str, Any]:
    return {
        "id": hole.id, "kind": hole.kind, "for": hole.about, "bore_mm": hole.bore_mm,
        "steps_mm": list(hole.steps_mm), "pilot_from": hole.pilot_from, "behind": hole.behind,
        "edge": hole.edge, "sleeve": hole.sleeve, "seal": hole.seal, "order": list(hole.order),
        "unknown": list(hole.unknown),
    }  # fmt: skip
