"""Trees of wires and gas pipes: a row for each part, lines as wide as what they carry."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from typing import Final

from isotherma.core.graph import beside

ROW, STEP, LEFT, TOP = 30.0, 26.0, 16.0, 18.0
WIDE: Final = 620
NARROW: Final = 410  # as wide as its letters, so that a phone shows them large
LEAST_WIDTH, MORE_WIDTH = 1.2, 8.0


@dataclass(frozen=True, slots=True)
class Branch:
    """A part below another, by the run that joins them and what it carries."""

    part: str
    run: str
    carries: float
    below: tuple[Branch, ...] = ()


@dataclass(frozen=True, slots=True)
class TreeRow:
    """One part: where it stands, its name, what is said of it."""

    part: str
    x: str
    y: str
    text_x: str
    name: str
    words: str
    still: bool


@dataclass(frozen=True, slots=True)
class TreeLine:
    """A run between two rows."""

    run: str
    path: str
    width: str
    words: str
    still: bool


@dataclass(frozen=True, slots=True)
class TreePicture:
    """A whole tree."""

    rows: tuple[TreeRow, ...]
    lines: tuple[TreeLine, ...]
    height: int
    width: int = WIDE
    narrow: int = NARROW


def branches(
    roots: Sequence[str], ends: Mapping[str, tuple[str, str]], carries: Mapping[str, float]
) -> tuple[Branch, ...]:
    """Walk runs from their sources; every part stands once, at its first way from a source.

    Parameters
    ----------
    roots : sequence of str
        Parts that give, in the order they are drawn. [-]
    ends : mapping of str to tuple of str
        The two parts a run joins, by run. [-]
    carries : mapping of str to float
        What it carries. [any]

    Returns
    -------
    tuple of Branch
        Of every root that nothing reached before. [-]
    """
    near = beside((run, one, other) for run, (one, other) in ends.items())
    seen: set[str] = set()

    def below(part: str) -> tuple[Branch, ...]:
        mine = []
        for run, other in near.get(part, ()):
            if other not in seen:
                seen.add(other)
                mine.append((run, other))
        return tuple(Branch(other, run, carries.get(run, 0.0), below(other)) for run, other in mine)

    found = []
    for root in roots:
        if root not in seen:
            seen.add(root)
            found.append(Branch(root, "", 0.0, below(root)))
    return tuple(found)


def draw_tree(
    found: Sequence[Branch], name: Callable[[str], str], words: Callable[[str], str],
    run_words: Callable[[str], str], still: Callable[[str], bool],
) -> TreePicture:  # fmt: skip
    """Draw a tree: children under their parent, a step to the right."""
    most = max((_most(branch) for branch in found), default=0.0)
    rows: list[TreeRow] = []
    lines: list[TreeLine] = []

    def put(branch: Branch, depth: int, above: tuple[float, float] | None) -> None:
        x, y = LEFT + STEP * depth, TOP + ROW * len(rows)
        rows.append(
            TreeRow(
                branch.part, f"{x:.0f}", f"{y:.0f}", f"{x + 11:.0f}", name(branch.part),
                words(branch.part), still(branch.part),
            )
        )  # fmt: skip
        if above is not None:
            share = branch.carries / most if most > 0.0 else 0.0
            lines.append(
                TreeLine(
                    branch.run, f"M{above[0]:.0f} {above[1]:.0f}V{y:.0f}H{x:.0f}",
                    f"{LEAST_WIDTH + MORE_WIDTH * share:.1f}", run_words(branch.run),
                    branch.carries <= 0.0,
                )
            )  # fmt: skip
        for child in branch.below:
            put(child, depth + 1, (x, y))

    for branch in found:
        put(branch, 0, None)
    # what carries little is drawn over what carries much, so that both are seen
    lines.sort(key=lambda line: -float(line.width))
    return TreePicture(tuple(rows), tuple(lines), round(TOP + ROW * len(rows)))


def _most(branch: Branch) -> float:
    return max([branch.carries, *(_most(child) for child in branch.below)])
