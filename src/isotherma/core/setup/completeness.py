"""What must be known before a day can run, and which outlet is meant."""

from __future__ import annotations

from typing import NoReturn

from isotherma.core.errors import MissingValue
from isotherma.core.flows.network_compiler import CompiledNetwork
from isotherma.core.system import AnyKind, System
from isotherma.core.system.kinds import heat, use
from isotherma.core.system.kinds import water as moved


def refuse_missing(network: CompiledNetwork) -> None:
    """Refuse a day that hangs on litres nobody knows, or on a store nothing heats.

    Parameters
    ----------
    network : CompiledNetwork
        The network of a state. [-]

    Returns
    -------
    None
        If nothing needed is missing. [-]

    Raises
    ------
    MissingValue
        Naming the first of them.
    """
    joined = {part_id for part_id, _ in network.node}
    heats = {
        part.fitted_in for part in network.parts.values()
        if isinstance(part, heat.Element | heat.Burner | heat.Coil)
        or heat.calls_a_pump(part, network.parts)
    }  # fmt: skip
    for part in network.parts.values():
        if part.id not in joined or part.id in network.dry:
            continue
        held = isinstance(
            part,
            moved.FreshTank | moved.GravityBag | moved.LooseContainer | heat.Store | heat.Combi
            | heat.Canister | heat.SunContainer,
        )  # fmt: skip
        if held and getattr(part, "volume_m3", None) is None:
            _missing(part, "volume_m3")
        if isinstance(part, heat.Store | heat.Canister) and part.id not in heats:
            raise MissingValue(
                path=f"parts.{part.id}", part_name=part.label, label="element or burner in it"
            )
    for part in network.parts.values():
        if isinstance(part, heat.Element) and part.power_w is None:
            _missing(part, "power_w")
        if isinstance(part, heat.Burner) and part.input_w is None:
            _missing(part, "input_w")


def _missing(part: AnyKind, name: str) -> NoReturn:
    title = type(part).model_fields[name].title or name
    raise MissingValue(path=f"parts.{part.id}.{name}", part_name=part.label, label=title.lower())


def main_outlet(system: System) -> str:
    """Give the outlet a draw without one is at: a shower head, else any.

    Parameters
    ----------
    system : System
        The network. [-]

    Returns
    -------
    str
        Part id; empty if there is none. [-]
    """
    heads = [part.id for part in system.parts if isinstance(part, use.ShowerHead)]
    others = [part.id for part in system.parts if isinstance(part, use.Outlet)]
    return next(iter([*heads, *others]), "")
