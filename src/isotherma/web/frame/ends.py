"""Ends of a part or a run: what is stated or assumed there, and what makes it meet its tube."""

from __future__ import annotations

from dataclasses import dataclass

from isotherma.core.joints.piping import RunEnd
from isotherma.core.system import System
from isotherma.services.shopping import run_ends
from isotherma.wording import REFUSED_JOINT_WORDS, SEAL_WORDS


@dataclass(frozen=True, slots=True)
class EndRow:
    """One port of a part where a run ends."""

    id: str
    part: str
    part_id: str
    port: str
    port_words: str
    end: str
    stated: bool
    run: str
    tube: str
    meets: bool
    words: str
    steps: tuple[str, ...]
    nearest: tuple[str, ...]


def end_row(end: RunEnd, part: str, run: str) -> EndRow:
    """Write one end with what makes it meet its tube."""
    chain = end.chain
    steps: tuple[str, ...] = ()
    nearest: tuple[str, ...] = ()
    meets = not end.unknown and (chain is None or chain.refused is None)
    if end.unknown:
        words = "the tube of its run is not known"
    elif end.end == "open":
        words = "hangs open"
    elif chain is None:
        words = "bought in joint and size of its run" if end.end == "run" else "made up hose"
    elif chain.refused is not None:
        words = REFUSED_JOINT_WORDS[chain.refused].format(
            end=end.end, at="what it gets", pressure="what it stands under")  # fmt: skip
        nearest = chain.nearest
    else:
        count = len(chain.links)
        words = ("meets as it is" if not count else "1 adapter" if count == 1
                 else f"{count} adapters")  # fmt: skip
        words += f": {', '.join(SEAL_WORDS[seal] for seal in chain.seals)}"
        steps = tuple(f"{link.first.name} × {link.second.name}" for link in chain.links)
    return EndRow(
        f"end-{end.part_id}-{end.port}", part, end.part_id, end.port, end.port.replace("_", " "),
        end.end, not end.assumed, run, end.tube, meets, words, steps, nearest,
    )  # fmt: skip


def ends_at(system: System, part_id: str = "", run_id: str = "") -> tuple[EndRow, ...]:
    """Give the ends at a part, or both of a run."""
    parts = {part.id: part.label for part in system.parts}
    runs = {run.id: run.label for run in system.runs}
    return tuple(
        end_row(end, parts[end.part_id], runs[joined.run_id])
        for joined in run_ends(system) for end in joined.ends
        if end.part_id == part_id or joined.run_id == run_id
    )  # fmt: skip


def unmet_ends(system: System) -> dict[tuple[str, bool], str]:
    """Name the ends of runs that do not meet: by run and whether it is its start, with words."""
    parts = {part.id: part.label for part in system.parts}
    found = {}
    for joined in run_ends(system):
        for begins, end in zip((True, False), joined.ends, strict=True):
            row = end_row(end, parts[end.part_id], joined.run_id)
            if not row.meets and not end.unknown:
                found[joined.run_id, begins] = (
                    f"{row.part}, {row.port_words}: {row.end} does not meet {row.tube}; {row.words}"
                )
    return found
