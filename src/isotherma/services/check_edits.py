"""Whose rules the checks go by, and findings somebody answers for."""

from __future__ import annotations

from datetime import date
from itertools import zip_longest
from typing import Any, Literal

from pydantic import Field
from typing_extensions import override

from isotherma.core import editing
from isotherma.core.project import Project
from isotherma.core.system.vehicle import RuleSet
from isotherma.services.edit import Edit


class ChooseRules(Edit):
    """Choose a rule set."""

    name = "check.rules"
    rules: RuleSet

    @property
    @override
    def subject(self) -> str:
        return self.rules

    @override
    def apply(self, project: Project, variant_id: str) -> Project:
        return editing.choose_rules(project, self.rules)


class _OfFinding(Edit):
    """What says which finding is meant."""

    name = ""
    finding: str = Field(min_length=3, max_length=60)
    parts: str = Field(default="", max_length=2500)
    runs: str = Field(default="", max_length=2500)
    state: str = Field(default="", max_length=900)  # of several states: one after the other

    @property
    @override
    def subject(self) -> str:
        return self.finding

    def places(self) -> list[dict[str, Any]]:
        """Give its places as the document has them, one for each state."""
        common = {
            "id": self.finding, "parts": tuple(filter(None, self.parts.split(","))),
            "runs": tuple(filter(None, self.runs.split(","))),
        }  # fmt: skip
        return [{**common, "state": state or None} for state in self.state.split(",")]


class Acknowledge(_OfFinding):
    """Answer for a finding, with a reason and a name."""

    name = "check.acknowledge"
    severity: Literal["stop", "fix", "watch", "unknown"]
    figure: str = Field(default="", max_length=900)
    reason: str = Field(default="", max_length=400)
    by: str = Field(default="", max_length=80)

    @override
    def apply(self, project: Project, variant_id: str) -> Project:
        said = {
            "severity": self.severity, "reason": self.reason, "name": self.by,
            "on": date.today().isoformat(),
        }  # fmt: skip
        for place, figure in zip_longest(self.places(), self.figure.split(",")):
            if place is not None:
                values = {**place, **said, "figure": figure or None}
                project = editing.acknowledge(project, variant_id, values)
        return project


class TakeBack(_OfFinding):
    """Answer for a finding no longer."""

    name = "check.take_back"

    @override
    def apply(self, project: Project, variant_id: str) -> Project:
        for place in self.places():
            project = editing.take_back(project, variant_id, place)
        return project
