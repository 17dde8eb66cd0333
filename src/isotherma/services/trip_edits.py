"""Edits of the trip: kinds of day, their order, the stops on the way."""

from __future__ import annotations

from pydantic import Field
from typing_extensions import override

from isotherma.catalogue.trips import TripPreset, trips
from isotherma.core import editing
from isotherma.core.brief.days import Service
from isotherma.core.errors import ChangeRefused
from isotherma.core.project import Project
from isotherma.services.edit import Edit, Key


class LayTrip(Edit):
    """Begin with a trip of the catalogue; none: all days are alike."""

    name = "trip.lay"
    preset: str = Field(default="", max_length=100)

    @property
    @override
    def subject(self) -> str:
        return self._preset().name if self.preset else "all days alike"

    def _preset(self) -> TripPreset:
        if self.preset not in trips():
            raise ChangeRefused(path="brief.order", reason="gone")
        return trips()[self.preset]

    @override
    def apply(self, project: Project, variant_id: str) -> Project:
        if not self.preset:
            return editing.set_trip(project, (), ())
        trip = self._preset()
        return editing.set_trip(project, trip.kinds, trip.order)


class AddDayKind(Edit):
    """Add a kind of day, new or like another."""

    name = "day.add"
    like: str = Field(default="", max_length=100)

    @override
    def apply(self, project: Project, variant_id: str) -> Project:
        return editing.add_day_kind(project, self.like)


class RemoveDayKind(Edit):
    """Take a kind of day out, and its days with it."""

    name = "day.remove"
    kind: Key

    @override
    def apply(self, project: Project, variant_id: str) -> Project:
        return editing.remove_day_kind(project, self.kind)


class AddStop(Edit):
    """Add a stop to a kind of day."""

    name = "stop.add"
    kind: Key
    what: Service

    @property
    @override
    def subject(self) -> str:
        return self.what.capitalize()

    @override
    def apply(self, project: Project, variant_id: str) -> Project:
        return editing.add_stop(project, self.kind, self.what)


class RemoveStop(Edit):
    """Take a stop out of a kind of day."""

    name = "stop.remove"
    kind: Key
    stop: Key

    @override
    def apply(self, project: Project, variant_id: str) -> Project:
        return editing.remove_stop(project, self.kind, self.stop)


class PlanStop(Edit):
    """Plan a stop on one day of the trip."""

    name = "stop.plan"
    day: int
    what: Service

    @property
    @override
    def subject(self) -> str:
        return f"{self.what.capitalize()} on day {self.day}"

    @override
    def apply(self, project: Project, variant_id: str) -> Project:
        return editing.plan_stop(project, self.day, self.what)
