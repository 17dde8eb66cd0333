"""The list of a design as JSON."""

from __future__ import annotations

from typing import Any, Final

from isotherma.core.joints.listing import Line, Listed
from isotherma.core.system import System

PARTS_FORMAT: Final = "isotherma-parts"


def parts_object(
    found: Listed, system: System, tradition: str, whys: dict[str, str]
) -> dict[str, Any]:
    """Give a list as an object for JSON.

    Parameters
    ----------
    found : Listed
        The list. [-]
    system : System
        What it is of. [-]
    tradition : str
        Of the ends nobody stated. [-]
    whys : dict of str to str
        Words of why a line is there. [-]

    Returns
    -------
    dict
        Keys as in docs/file-format.md; what nobody knows is null. [see the keys]
    """
    lines = [_line(line, whys) for line in found.lines]
    prices = [line.price for line in found.lines if line.price is not None]
    masses = [line.mass_kg for line in found.lines if line.mass_kg is not None]
    return {
        "format": PARTS_FORMAT,
        "tradition": tradition,
        "assumed": [
            {"part": part, "port": port, "end": end} for part, port, end in found.assumed
        ],
        "lines": lines,
        "joints": {
            "total": found.joints,
            "by_run": {run.run_id: run.joints for run in found.runs},
            "by_space": dict(found.by_space),
            "out_of_reach": found.out_of_reach,
        },
        "cuts": [
            {"label": f"{run.run_id}-1", "run": run.run_id, "size": run.ends[0].tube or None,
             "cut_mm": None, "bends": [], "bar": None, "order": None, "unknown": ["how measured"]}
            for run in found.runs
        ],
        "holes": [
            {"id": hole.id, "for": hole.for_part,
             "bore_mm": None if hole.bore_m is None else hole.bore_m * 1000.0,
             "behind": hole.behind or "look first",
             "unknown": [] if hole.bore_m is not None else ["bore_m"]}
            for hole in system.holes
        ],
        "totals": {
            "money": sum(prices) if prices else None,
            "lines_not_priced": len(lines) - len(prices),
            "mass_kg": sum(masses) if masses else None,
            "lines_not_weighed": len(lines) - len(masses), "joints": found.joints,
        },
        "not_resolved": [
            {"at": [end.part_id, end.port, run],
             "why": "unknown_size" if end.chain is None else end.chain.refused,
             "nearest": [] if end.chain is None else list(end.chain.nearest)}
            for end, run in found.not_resolved
        ],
    }  # fmt: skip


def _line(line: Line, whys: dict[str, str]) -> dict[str, Any]:
    return {
        "item": line.item, "end_a": line.end_a, "end_b": line.end_b, "size": line.size or None,
        "quantity": line.quantity, "net": line.net, "unit": line.unit, "packs": None,
        "for": list(line.about), "why": whys.get(line.why) or None, "approval": line.approval,
        "phase": line.phase, "spare": line.spare, "price": line.price, "currency": None,
        "mass_kg": line.mass_kg, "unknown": list(line.unknown),
    }  # fmt: skip
