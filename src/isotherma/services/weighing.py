"""What a variant weighs."""

from __future__ import annotations

from isotherma.core.joints.masses import laid_kg
from isotherma.core.project import Project, Variant
from isotherma.core.setup.weights import Weights, weights
from isotherma.core.system.nominal import computed
from isotherma.services.shopping import run_ends


def weighed(project: Project, variant: Variant) -> Weights:
    """Weigh what is built of a variant on its vehicle's axles."""
    system = variant.built.system
    return weights(computed(system), project.vehicle, laid_kg(system, run_ends(system)))
