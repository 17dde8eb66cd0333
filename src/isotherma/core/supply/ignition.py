"""What sparks a gas heater: dry cells that may be too weak."""

from __future__ import annotations

from typing import Final

from isotherma.core.system import System
from isotherma.core.system.kinds.electric import IgnitionCells
from isotherma.core.system.kinds.heat import ThroughFlowGas

WEAK_V: Final = 1.1  # of a cell while it sparks; under it sparks are rare; judgement


def cells_of(system: System, heater: ThroughFlowGas) -> IgnitionCells | None:
    """Find the dry cells that spark a heater.

    Parameters
    ----------
    system : System
        Its system. [-]
    heater : ThroughFlowGas
        The heater. [-]

    Returns
    -------
    IgnitionCells or None
        Those fitted to it or wired to it, else those fitted to nothing; None where it sparks by
        something else, or its cells are replaced by the vehicle's supply. [-]
    """
    if heater.ignition not in (None, "cells"):
        return None
    cells = [part for part in system.parts if isinstance(part, IgnitionCells) and not part.replaced]
    wired = {
        end for run in system.runs if run.kind == "cable"
        for one, end in ((run.start.part, run.end.part), (run.end.part, run.start.part))
        if one == heater.id
    }  # fmt: skip
    own = [part for part in cells if part.fitted_in == heater.id or part.id in wired]
    loose = [part for part in cells if part.fitted_in is None]
    return next(iter([*own, *loose]), None)


def sparkless(system: System) -> dict[str, float]:
    """Name gas heaters whose cells are too weak to light them.

    Parameters
    ----------
    system : System
        As it was entered: only volts somebody measured count. [-]

    Returns
    -------
    dict of str to float
        By heater the volts of each cell; cells nobody measured are taken to spark. [V]
    """
    found: dict[str, float] = {}
    for part in system.parts:
        if not isinstance(part, ThroughFlowGas):
            continue
        cells = cells_of(system, part)
        if cells is None or cells.volts_v is None:
            continue
        each = cells.volts_v / max(1, cells.cells)
        if each < WEAK_V:
            found[part.id] = each
    return found
