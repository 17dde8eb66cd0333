"""Figures learned from readings: taken, and given up again."""

from __future__ import annotations

from datetime import date

from pydantic import Field, Json
from typing_extensions import override

from isotherma.core import editing
from isotherma.core.project import Project
from isotherma.services.edit import Edit, Key


class TakeMeasured(Edit):
    """Let a learned figure win."""

    name = "measured.take"
    path: Key
    value: float
    low: float | None = None
    high: float | None = None
    sessions: str = Field(default="", max_length=2000)

    @property
    @override
    def subject(self) -> str:
        return self.path.split(".", 1)[-1]

    @override
    def apply(self, project: Project, variant_id: str) -> Project:
        names = tuple(filter(None, (one.strip()[:80] for one in self.sessions.split("|"))))
        return editing.take_measured(project, variant_id, {
            "path": self.path, "value": self.value, "low": self.low, "high": self.high,
            "sessions": names, "on": date.today().isoformat(),
        })  # fmt: skip


class TakeColdWater(Edit):
    """Let the fresh water be as warm as readings say."""

    name = "measured.cold"
    value: float

    @property
    @override
    def subject(self) -> str:
        return f"{self.value:.1f} °C"

    @override
    def apply(self, project: Project, variant_id: str) -> Project:
        return editing.set_values(project, {"brief.cold_water_c": self.value})


class TakeGauge(Edit):
    """Let a gauge mean the litres that were metered."""

    name = "gauge.take"
    part: Key
    points: Json[tuple[tuple[float, float], ...]]

    @property
    @override
    def subject(self) -> str:
        return self.part

    @override
    def apply(self, project: Project, variant_id: str) -> Project:
        path = f"variants.{variant_id}.system.parts.{self.part}.gauge_points"
        return editing.set_values(project, {path: self.points})


class ForgetMeasured(Edit):
    """Give a learned figure up."""

    name = "measured.forget"
    path: Key

    @property
    @override
    def subject(self) -> str:
        return self.path.split(".", 1)[-1]

    @override
    def apply(self, project: Project, variant_id: str) -> Project:
        return editing.forget_measured(project, variant_id, self.path)
