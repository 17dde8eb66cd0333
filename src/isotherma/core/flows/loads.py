"""What pumps take from the battery while they run, and the volts their wires leave them."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Final

from isotherma.core.fields import known_or
from isotherma.core.supply.wires import Wires, wires_of
from isotherma.core.system import AnyKind
from isotherma.core.system.kinds.electric import Load
from isotherma.core.system.kinds.water import Pump, Submersible
from isotherma.core.system.nominal import ComputedSystem, figure

LARGE_PUMP: Final = (2.5, 2.2e-5, 11.3 / 6e4)  # A, A/Pa, m³/s: a large 12 V diaphragm pump
PUSHES_PA: Final = 1.2e5  # what a shower's pump works against; its current changes little


def pump_current_a(part: Pump | Submersible, pressure_pa: float) -> float | None:
    """Current a pump draws while it runs.

    Parameters
    ----------
    part : Pump or Submersible
        With likely figures settled. [-]
    pressure_pa : float
        What it pushes against, gauge. [Pa]

    Returns
    -------
    float or None
        2.5 A + 2.2 A/bar for a large 12 V diaphragm pump, scaled to the amps on the box
        at cut-out, else to its open flow; an impeller's is taken as on its box. [A]

    References
    ----------
    Judgement of the pump classes in `catalogue/classes/water.toml`.
    """
    if isinstance(part, Submersible):
        return part.current_a
    rest, more, large = LARGE_PUMP
    shape = rest + more * max(0.0, pressure_pa)
    highest = part.cut_out_pa or part.shut_pressure_pa
    if part.current_a is not None and highest:
        return part.current_a * shape / (rest + more * highest)
    if part.open_flow_m3_per_s:
        volts = 12.0 / part.volts_v if part.volts_v else 1.0
        return shape * part.open_flow_m3_per_s / large * volts
    return None


def running_w(part: AnyKind, volts_v: float) -> float:
    """Give the watts of a pump while it runs.

    Parameters
    ----------
    part : a kind of part
        Any; only pumps take anything here. [-]
    volts_v : float
        Of the system. [V]

    Returns
    -------
    float
        Amps at a shower's pressure times volts, or the watts on the label. [W]
    """
    if isinstance(part, Pump | Submersible):
        current = pump_current_a(part, PUSHES_PA)
        return volts_v * current if current is not None else 0.0
    if part.kind in ("circulation_pump", "loop_pump", "dump_pump"):
        return figure(part, "running_w")
    return 0.0


def pump_speed(part: Pump | Submersible, system: ComputedSystem, volts_v: float | None) -> float:
    """Say how fast a pump runs against its label.

    Parameters
    ----------
    part : Pump or Submersible
        The pump. [-]
    system : ComputedSystem
        Its system. [-]
    volts_v : float or None
        That reach it; None where no wire is drawn. [V]

    Returns
    -------
    float
        Its volts over those on its label, else over the system's. [-]
    """
    nominal = system.nominal_v
    if volts_v is None:
        volts_v = nominal if system.volts_v is not None or part.volts_v is None else part.volts_v
    return volts_v / known_or(part.volts_v, nominal)


def standing_amps(system: ComputedSystem, wires: Wires) -> dict[str, float]:
    """Give what other loads take from the wires they share.

    Parameters
    ----------
    system : ComputedSystem
        With what was understood of its parts. [-]
    wires : Wires
        Of that system. [-]

    Returns
    -------
    dict of str to float
        Each that runs at all, as if it ran now: nobody says when it does. [A]
    """
    return {
        part.id: figure(part, "rated_w") / float(wires.source_v[row])
        for part in system.parts
        if isinstance(part, Load) and part.hours_s > 0.0
        if (row := wires.row(part.id)) is not None
    }


def volts_of_pumps(
    system: ComputedSystem,
    positions: Mapping[str, str],
    *,
    wires: Wires | None = None,
    ohms: Mapping[str, float] | None = None,
    amps: Mapping[str, float] | None = None,
) -> dict[str, float]:
    """Give the volts that reach every pump while it runs.

    Parameters
    ----------
    system : ComputedSystem
        With what was understood of its parts and cables. [-]
    positions : mapping of str to str
        How circuits and switches stand. [-]
    wires : Wires or None
        Of that system in that state, where they are at hand. [-]
    ohms : mapping of str to float or None
        Elements that are on beside it. [Ω]
    amps : mapping of str to float or None
        What else takes current beside it. [A]

    Returns
    -------
    dict of str to float
        Of pumps that hang on wires; other pumps do not count, for seldom two run at once. [V]
    """
    tree = wires if wires is not None else wires_of(system, positions)
    found: dict[str, float] = {}
    others = {**standing_amps(system, tree), **(amps or {})} if tree.ids else {}
    for part in system.parts:
        if not isinstance(part, Pump | Submersible) or tree.row(part.id) is None:
            continue
        current = pump_current_a(part, PUSHES_PA)
        if current is not None:
            on = tree.settled(ohms or {}, {**others, part.id: current})
            found[part.id] = on[part.id].volts
    return found
