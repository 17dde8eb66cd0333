"""The closed circuits of coolant."""

from __future__ import annotations

from isotherma.core.checks.look import Look
from isotherma.core.system.kinds import heat, primary
from isotherma.core.system.nominal import known_figure


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
    return look.once("coolant", lambda: {
        key for part in look.system.parts if isinstance(part, primary.PrimaryFluid)
        for key in circuit_of(look, part)
    })  # fmt: skip


def coolant_c(
    look: Look, part_id: str, ports: tuple[str, ...], over_k: float = 0.0
) -> float | None:
    """Give how hot the coolant gets that comes to a coil or plate.

    Parameters
    ----------
    look : Look
        The design in a state. [-]
    part_id : str
        The coil or plate. [-]
    ports : tuple of str
        Its ports on the coolant's side. [-]
    over_k : float
        By how much a heater goes over its setting. [K]

    Returns
    -------
    float or None
        The highest; None where nothing heats it. [°C]
    """
    found: list[float] = []
    for port in ports:
        for key, _ in look.reached(part_id, port):
            one = look.likely[key]
            if isinstance(one, heat.LiquidHeater) and look.lit(look.parts[key]):
                found.append(one.set_c + over_k)
            elif isinstance(one, heat.EngineCoolant):
                coolant = known_figure(one, "coolant_c")
                found += [] if coolant is None else [coolant]
    return max(found, default=None)
