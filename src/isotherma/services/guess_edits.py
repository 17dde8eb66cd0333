"""A vehicle nobody drew: the nearest start stands for it, marked as a guess."""

from __future__ import annotations

from dataclasses import replace
from typing import Final

from typing_extensions import override

from isotherma.catalogue.layouts import layouts
from isotherma.core import editing
from isotherma.core.editing.values import variant_of
from isotherma.core.errors import ChangeRefused
from isotherma.core.faults.evidence import Evidence
from isotherma.core.project import Project, SettingNote, Variant
from isotherma.services.edit import Edit, Key

GUESSED: Final = "system"  # the path of the note that marks it; its value is the start
WHY: Final = "a guess: the start that is nearest"


class GuessLayout(Edit):
    """Let the nearest start stand for a vehicle that nobody drew."""

    name = "system.guess"
    shuts = True
    layout: Key

    @property
    @override
    def subject(self) -> str:
        return f"“{self._name()}”"

    def _name(self) -> str:
        if self.layout not in layouts():
            raise ChangeRefused(path="", reason="gone")
        return layouts()[self.layout].name

    @override
    def apply(self, project: Project, variant_id: str) -> Project:
        self._name()
        laid = editing.lay(project, variant_id, layouts()[self.layout].system)
        note = SettingNote(path=GUESSED, value=self.layout, why=WHY)
        return _noted(laid, variant_id, (*_others(laid, variant_id), note))


class KnownLayout(Edit):
    """Say that what stands here is the vehicle, and no guess any more."""

    name = "system.known"

    @override
    def apply(self, project: Project, variant_id: str) -> Project:
        return _noted(project, variant_id, _others(project, variant_id))


def _others(project: Project, variant_id: str) -> tuple[SettingNote, ...]:
    return tuple(one for one in variant_of(project, variant_id).notes if one.path != GUESSED)


def _noted(project: Project, variant_id: str, notes: tuple[SettingNote, ...]) -> Project:
    rows = [one.model_dump(mode="json") for one in notes]
    return editing.set_values(project, {f"variants.{variant_id}.notes": rows})


def guess_of(variant: Variant) -> str | None:
    """Give the start that stands for a vehicle nobody drew; None where it was drawn."""
    note = next((one for one in variant.notes if one.path == GUESSED), None)
    return None if note is None or note.value not in layouts() else note.value


def counted(variant: Variant, evidence: Evidence) -> Evidence:
    """Leave readings out that only a guess could be held against.

    Those of a part count once something was entered of it; symptoms and what tests show always do.
    """
    start = guess_of(variant)
    if start is None:
        return evidence
    guessed = {part.id: part for part in layouts()[start].system.parts}
    entered = {part.id for part in variant.system.parts if guessed.get(part.id) != part}
    return replace(evidence, readings=tuple(
        one for one in evidence.readings if one.part is None or one.part in entered))  # fmt: skip
