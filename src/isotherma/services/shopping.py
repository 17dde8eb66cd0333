"""What a variant needs to be built: its list and its joints, with our tables."""

from __future__ import annotations

from isotherma import catalogue
from isotherma.catalogue.joints import adapters, assumed_ends
from isotherma.catalogue.rules import rule_sets
from isotherma.core.checks.hot_pipes import carries_coolant, hot_runs
from isotherma.core.checks.look import Look
from isotherma.core.joints.listing import Listed, list_of
from isotherma.core.joints.piping import joints_of
from isotherma.core.project import Project, Variant

TRADITIONS = ("metric", "UK", "US", "Australia")
HOT_C = 48.0


def listed(
    project: Project, variant: Variant, *, tradition: str = "metric", phase: str | None = None
) -> Listed:
    """Write the list of a variant.

    Parameters
    ----------
    project : Project
        The document. [-]
    variant : Variant
        Which of its variants. [-]
    tradition : str
        Of the ends nobody stated. [-]
    phase : str or None
        Only what is fitted in that phase. [-]

    Returns
    -------
    Listed
        Every run is resolved as hot as it gets in any state. [-]
    """
    hot: dict[str, float] = {}
    rules = rule_sets()["strictest"]
    climate = catalogue.climate(project.brief)
    coolant: set[str] = set()
    for state in variant.system.states or (None,):
        look = Look(project, variant, rules, state, "", climate)
        for run, celsius in hot_runs(look).items():
            hot[run] = max(hot.get(run, celsius), celsius)
        coolant |= {run.id for run in look.pipes if carries_coolant(look, run)}
    runs = joints_of(variant.system, adapters(), assumed_ends(tradition), hot,
                     frozenset(coolant))  # fmt: skip
    warm = frozenset(run for run, celsius in hot.items() if celsius > HOT_C)
    return list_of(variant.system, runs, warm, phase, frozenset(coolant))
