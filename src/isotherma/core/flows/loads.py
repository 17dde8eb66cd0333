"""What pumps take from the battery while they run."""

from __future__ import annotations

from typing import Final

from isotherma.core.flows.report import pump_current_a
from isotherma.core.system import AnyKind
from isotherma.core.system.kinds.water import Pump, Submersible

PUSHES_PA: Final = 1.2e5  # what a shower's pump works against; its current changes little


def running_w(part: AnyKind, volts_v: float | None) -> float:
    """Give the watts of a pump while it runs.

    Parameters
    ----------
    part : a kind of part
        Any; only pumps take anything here. [-]
    volts_v : float or None
        Of the system; 12 where nobody says. [V]

    Returns
    -------
    float
        Amps at a shower's pressure times volts, or the watts on the label. [W]
    """
    if isinstance(part, Pump | Submersible):
        current = pump_current_a(part, PUSHES_PA)
        return (volts_v or 12.0) * current if current is not None else 0.0
    if part.kind in ("circulation_pump", "loop_pump", "dump_pump"):
        return float(getattr(part, "running_w", None) or 0.0)
    return 0.0
