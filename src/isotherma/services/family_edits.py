"""Beginning with a way of heating in the sizes that were found for it."""

from __future__ import annotations

from pydantic import Field
from typing_extensions import override

from isotherma.catalogue.families import families
from isotherma.catalogue.layouts import layouts
from isotherma.core import editing
from isotherma.core.editing.values import variant_of
from isotherma.core.errors import ChangeRefused
from isotherma.core.options.sizing import Family
from isotherma.core.project import Project
from isotherma.services.edit import Edit, Key


class LayFamily(Edit):
    """Begin with a way of heating, sized; a variant of its own where there are parts already."""

    name = "system.family"
    family: Key
    sizes: str = Field(max_length=400)

    @property
    @override
    def subject(self) -> str:
        return f"“{self._family().name}”"

    def _family(self) -> Family:
        if self.family not in families():
            raise ChangeRefused(path="", reason="gone")
        return families()[self.family]

    @override
    def apply(self, project: Project, variant_id: str) -> Project:
        family = self._family()
        wanted = self.sizes.split(",")
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
        named = [item.id for item in after.variants if item.name == self._family().name]
        return named[-1] if named else variant_id
