"""Wishes of a person's own, and the variant that is kept."""

from __future__ import annotations

from typing import Literal

from pydantic import Field
from typing_extensions import override

from isotherma.core import editing
from isotherma.core.project import Project
from isotherma.services.edit import Edit, Key


class AddWish(Edit):
    """Put in a wish of one's own, which ways of heating and variants are judged by."""

    name = "wish.add"
    text: str = Field(min_length=1, max_length=80)
    hard: Literal["yes", ""] = ""

    @property
    @override
    def subject(self) -> str:
        return f"“{self.text}”"

    @override
    def apply(self, project: Project, variant_id: str) -> Project:
        return editing.add_wish(project, self.text, hard=self.hard == "yes")


class RemoveWish(Edit):
    """Take a wish out, with what was judged by it."""

    name = "wish.remove"
    wish: Key

    @override
    def apply(self, project: Project, variant_id: str) -> Project:
        return editing.remove_wish(project, self.wish)


class Judge(Edit):
    """Say whether a way of heating or a variant does what a wish asks."""

    name = "wish.judge"
    wish: Key
    of: Key
    says: Literal["yes", "no", "so-so", ""] = ""
    why: str = Field(default="", max_length=80)

    @property
    @override
    def subject(self) -> str:
        return f"{self.of}: {self.says or 'no verdict'}"

    @override
    def apply(self, project: Project, variant_id: str) -> Project:
        return editing.judge(project, self.wish, self.of, self.says, self.why)


class KeepVariant(Edit):
    """Keep this variant: it stands first, the others stay."""

    name = "variant.first"
    variant: Key

    @override
    def apply(self, project: Project, variant_id: str) -> Project:
        return editing.keep_first(project, self.variant)

    @override
    def shows(self, after: Project, variant_id: str) -> str:
        """Show the one that is kept."""
        return self.variant
