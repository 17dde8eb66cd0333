"""Which figures of a design may be varied: every number that is entered in its brief and system."""

from __future__ import annotations

from collections.abc import Container, Iterator, Mapping
from dataclasses import dataclass, replace
from typing import Final

from pydantic.fields import FieldInfo

from isotherma.core.fields import Document, style_of
from isotherma.core.project import Project, Variant
from isotherma.core.system.kinds.words import WORDS_ONLY
from isotherma.core.system.pieces import PartBase

_OF_THE_BRIEF: Final = "Brief"
# size, mass and place of a part, and what only hands need: no figure of a day hangs on them
_NOT_OF_A_DAY: Final = frozenset({
    "width_m", "depth_m", "tall_m", "dry_mass_kg", "x_m", "y_m", "clips", "move_s", "people",
})  # fmt: skip


@dataclass(frozen=True, slots=True)
class Parameter:
    """A figure that may be varied: where it stands, what it is called, what it is today [SI].

    `entered` is as the document has it, `today` as the engine used it; both None where nobody
    knows it. `whole` says that it is a count, `turned` that hands set it in use.
    """

    path: str
    where: str
    title: str
    style: str
    today: float | None
    entered: float | None = None
    whole: bool = False
    turned: bool = False

    @property
    def label(self) -> str:
        """Name it for a reader."""
        return f"{self.where}: {self.title}"


def parameters_of(
    project: Project, variant: Variant, computed: Mapping[str, PartBase],
    seen: Mapping[str, float], unread: Container[str],
) -> tuple[Parameter, ...]:  # fmt: skip
    """List the figures of a design that may be varied.

    Parameters
    ----------
    project : Project
        The document. [-]
    variant : Variant
        Which of its variants. [-]
    computed : mapping of str to PartBase
        Parts by id as the engine used them: what an empty field stands for; may be empty. [-]
    seen : mapping of str to float
        What came of figures of the brief that nobody entered, by path; may be empty. [SI]
    unread : container of str
        Names of properties that nothing reads yet. [-]

    Returns
    -------
    tuple of Parameter
        What hands turn first, then the brief, parts and runs in the document's order. [SI]
    """
    system, at = variant.system, f"variants.{variant.id}.system"
    found = [
        *_walk(project.brief, "brief", _OF_THE_BRIEF, unread),
        *(
            row for part in system.parts
            for row in _walk(part, f"{at}.parts.{part.id}", part.label, unread,
                             computed.get(part.id))
        ),
        *(
            row for run in system.runs
            for row in _walk(run, f"{at}.runs.{run.id}", run.label, unread)
        ),
    ]  # fmt: skip
    rows = (
        replace(row, today=seen[row.path]) if row.today is None and row.path in seen else row
        for row in found
    )
    return tuple(sorted(rows, key=lambda row: not row.turned))


def _walk(
    item: Document, path: str, where: str, unread: Container[str],
    computed: PartBase | None = None,
) -> Iterator[Parameter]:  # fmt: skip
    """Give the figures of a document, and of those within it."""
    turned = item.by_hand() if isinstance(item, PartBase) else ()
    for name, info in type(item).model_fields.items():
        if name in WORDS_ONLY or name in _NOT_OF_A_DAY or name in unread:
            continue
        value = getattr(item, name)
        if isinstance(value, Document):
            yield from _walk(value, f"{path}.{name}", where, unread)
        elif isinstance(value, tuple) and value and all(hasattr(one, "id") for one in value):
            for one in value:
                named = getattr(one, "name", "") or where
                yield from _walk(one, f"{path}.{name}.{one.id}", named, unread)
        else:
            style, whole = style_of(info), _is_count(info)
            if style is None and not whole:
                continue
            used = getattr(computed, name) if value is None and computed is not None else value
            if used is None or isinstance(used, int | float):
                yield Parameter(
                    f"{path}.{name}", where, info.title or name.replace("_", " "),
                    style or "number", None if used is None else float(used), value, whole,
                    name in turned,
                )  # fmt: skip


def _is_count(info: FieldInfo) -> bool:
    """Say whether a property counts something."""
    kind = info.annotation
    inner = getattr(kind, "__args__", (kind,))
    return any(getattr(one, "__origin__", one) is int for one in inner)
