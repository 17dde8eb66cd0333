"""What a variant weighs."""

from __future__ import annotations

from isotherma.core.project import Project, Variant
from isotherma.core.setup.weights import Weights, weights
from isotherma.core.system.nominal import computed


def weighed(project: Project, variant: Variant) -> Weights:
    """Weigh what is built of a variant on its vehicle's axles."""
    return weights(computed(variant.built.system), project.vehicle)
