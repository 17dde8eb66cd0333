"""Whose rules the checks go by, and findings somebody answers for."""

from __future__ import annotations

from datetime import date
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
    state: str = Field(default="", max_length=40)

    @property
    @override
    def subject(self) -> str:
        return self.finding

    def place(self) -> dict[str, Any]:
        """Give its place as the document has it."""
        return {
            "id": self.finding, "parts": tuple(filter(None, self.parts.split(","))),
            "runs": tuple(filter(None, self.runs.split(","))), "state": self.state or None,
        }  # fmt: skip


class Acknowledge(_OfFinding):
    """Answer for a finding, with a reason and a name."""

    name = "check.acknowledge"
    severity: Literal["stop", "fix", "watch", "unknown"]
    figure: str = Field(default="", max_length=40)
    reason: str = Field(default="", max_length=400)
    by: str = Field(default="", max_length=80)

    @override
    def apply(self, project: Project, variant_id: str) -> Project:
        values = {
            **self.place(), "severity": self.severity, "reason": self.reason, "name": self.by,
            "figure": self.figure or None,
            "on": date.today().isoformat(),
        }  # fmt: skip
        return editing.acknowledge(project, variant_id, values)


class TakeBack(_OfFinding):
    """Answer for a finding no longer."""

    name = "check.take_back"

    @override
    def apply(self, project: Project, variant_id: str) -> Project:
        return editing.take_back(project, variant_id, self.place())
