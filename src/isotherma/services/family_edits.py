"""Beginning with a way of heating in the sizes that were found for it."""

from __future__ import annotations

from pydantic import Field
from typing_extensions import override

from isotherma.catalogue.families import families, fixed_to, leaves_unused
from isotherma.catalogue.layouts import layouts
from isotherma.core import editing
from isotherma.core.editing.values import variant_of
from isotherma.core.errors import ChangeRefused
from isotherma.core.options.sizing import Family
from isotherma.core.project import Project
from isotherma.services.edit import Edit, Key


def _known(key: str) -> Family:
    if key not in families():
        raise ChangeRefused(path="", reason="gone")
    return families()[key]


class StrikeFamily(Edit):
    """Strike a way of heating by hand: it is not sized any more."""

    name = "family.strike"
    family: Key

    @property
    @override
    def subject(self) -> str:
        return f"“{_known(self.family).name}”"

    @override
    def apply(self, project: Project, variant_id: str) -> Project:
        _known(self.family)
        others = [key for key in project.brief.struck if key != self.family]
        kept = tuple(key for key in project.brief.kept if key != self.family)
        return editing.set_values(
            project, {"brief.struck": (*others, self.family), "brief.kept": kept}
        )


class BringFamilyBack(StrikeFamily):
    """Bring a way of heating back that was struck by hand, or by what it leaves unused."""

    name = "family.back"

    @override
    def apply(self, project: Project, variant_id: str) -> Project:
        family = _known(self.family)
        others = tuple(key for key in project.brief.struck if key != self.family)
        kept = tuple(key for key in project.brief.kept if key != self.family)
        if leaves_unused(family, project.owned):
            kept = (*kept, self.family)
        return editing.set_values(project, {"brief.struck": others, "brief.kept": kept})


class LayFamily(Edit):
    """Begin with a way of heating, sized or as it is laid out.

    It is a variant of its own where there are parts already.
    """

    name = "system.family"
    family: Key
    sizes: str = Field(default="", max_length=400)

    @property
    @override
    def subject(self) -> str:
        return f"“{_known(self.family).name}”"

    @override
    def apply(self, project: Project, variant_id: str) -> Project:
        family = fixed_to(_known(self.family), project.owned)
        wanted = self.sizes.split(",") if self.sizes else []
        values: dict[str, object] = {}
        for axis, key in zip(family.axes, wanted, strict=False):
            step = next((step for step in axis.steps if step.id == key), None)
            if step is None:
                raise ChangeRefused(path="", reason="no_class", part=key[:40])
            values |= step.values
        there = variant_of(project, variant_id).system
        system = editing.with_tank(layouts()[family.layout].system, there)
        route = editing.with_owned(system, project.owned)
        return editing.lay_sized(project, variant_id, route, values, family.name)

    @override
    def shows(self, after: Project, variant_id: str) -> str:
        """Show the variant that was begun."""
        named = [item.id for item in after.variants if item.name == _known(self.family).name]
        return named[-1] if named else variant_id
