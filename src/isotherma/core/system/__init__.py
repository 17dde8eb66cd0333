"""The system: parts with ports, and runs of pipe that join them. A network of any shape."""

from __future__ import annotations

from typing import Annotated, Literal, Self

from pydantic import Field, model_validator

from isotherma.core.climate import Place
from isotherma.core.fields import (
    Bore,
    Coefficient,
    Conductivity,
    Document,
    Length,
    Name,
    Rise,
    Slug,
    Thickness,
    WallThickness,
)
from isotherma.core.system.parts import Part

Material = Literal["plastic", "copper", "hose"]


class PortRef(Document):
    """One port of one part."""

    part: Slug
    port: Annotated[str, Field(pattern=r"^[a-z_]{1,20}$")]


class Run(Document):
    """A run of pipe from one port to another, in the direction water should take."""

    id: Slug
    name: Name = Field(default="", title="Name")
    start: PortRef
    end: PortRef
    bore_m: Bore = Field(default=0.0117, title="Inside diameter")
    length_m: Length = Field(default=0.5, title="Length")
    rise_m: Rise = Field(default=0.0, title="Rise", description="End above start.")
    wall_m: WallThickness = Field(default=0.00165, title="Wall")
    material: Material = Field(default="plastic", title="Material")
    insulation_m: Thickness = Field(default=0.0, title="Insulation")
    insulation_w_per_m_k: Conductivity = Field(default=0.038, title="Its conductivity")
    loss_k: Coefficient = Field(
        default=0.0, title="Fittings", description="Sum of loss coefficients of its fittings."
    )
    place: Place = Field(default="inside", title="Lives")


class System(Document):
    """One way of building it: parts and runs in any order."""

    parts: Annotated[tuple[Part, ...], Field(max_length=400)] = ()
    runs: Annotated[tuple[Run, ...], Field(max_length=800)] = ()

    @model_validator(mode="after")
    def _joints_exist(self) -> Self:
        ports: dict[str, tuple[str, ...]] = {}
        for part in self.parts:
            if part.id in ports:
                raise ValueError(f"two parts have the id “{part.id}”; give one another id")
            ports[part.id] = part.ports
        runs: set[str] = set()
        used: dict[tuple[str, str], str] = {}
        for run in self.runs:
            if run.id in runs:
                raise ValueError(f"two runs have the id “{run.id}”; give one another id")
            runs.add(run.id)
            for end in (run.start, run.end):
                if end.part not in ports:
                    raise ValueError(
                        f"run “{run.id}” joins the part “{end.part}”, which is not there; "
                        "add the part or mend the run"
                    )
                if end.port not in ports[end.part]:
                    raise ValueError(
                        f"run “{run.id}” joins the port “{end.port}” of “{end.part}”, "
                        f"which has only {', '.join(ports[end.part])}"
                    )
                other = used.setdefault((end.part, end.port), run.id)
                if other != run.id or run.start == run.end:
                    raise ValueError(
                        f"two ends meet at port “{end.port}” of “{end.part}” "
                        f"(runs “{other}” and “{run.id}”); put a split between them"
                    )
        return self

    def part(self, part_id: str) -> Part:
        """Find a part by id; KeyError if it is not there."""
        for part in self.parts:
            if part.id == part_id:
                return part
        raise KeyError(part_id)
