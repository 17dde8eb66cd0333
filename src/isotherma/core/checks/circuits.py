"""The closed circuits of coolant."""

from __future__ import annotations

from isotherma.core.checks.look import Look
from isotherma.core.system.kinds import primary


def circuit_of(look: Look, fluid: primary.PrimaryFluid) -> set[str]:
    """Give the parts of the closed primary a fluid fills.

    Parameters
    ----------
    look : Look
        The design. [-]
    fluid : PrimaryFluid
        Which says one part of it. [-]

    Returns
    -------
    set of str
        Ids, whatever stands how; empty where it says none. [-]
    """
    if fluid.fills is None:
        return set()
    part = look.parts[fluid.fills]
    found: set[str] = set()
    for port in part.ports:
        hot = port.name not in ("cold_in", "cold_out")
        joined = any(end.port == port.name for _, end, _ in look.system.joined(part.id))
        if port.medium in ("primary", "fluid", "water") and hot and joined:
            found |= {key for key, _ in look.usually(part.id, port.name)}
    return found


def coolant_parts(look: Look) -> set[str]:
    """Give the parts of every closed primary.

    Parameters
    ----------
    look : Look
        The design. [-]

    Returns
    -------
    set of str
        Ids, whatever stands how. [-]
    """
    return {
        key for part in look.system.parts if isinstance(part, primary.PrimaryFluid)
        for key in circuit_of(look, part)
    }  # fmt: skip
