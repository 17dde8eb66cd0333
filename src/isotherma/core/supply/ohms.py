"""Ohm's law for loads that share wires, on plain arrays: what the day's kernel and pages call."""

from __future__ import annotations

from typing import Final

import numpy as np
from numpy.typing import NDArray

from isotherma.core.compiled import lean

Floats = NDArray[np.float64]

# columns of a table of loads: volts at the source, ohms of what follows its volts (0: what takes
# its amps whatever they are), volts that other loads take from it, amps now. No volts: it gets its
# watts whatever its wires
F_VOLTS, F_OHM, F_LOST, F_AMPS = range(4)
ROUNDS: Final = 60
FUSE_BEARS: Final = 1.001  # for a moment; what a slow fuse bears for minutes is not known
SAME_A: Final = 1e-7
IS_ON: Final = 1.0


@lean
def settle_amps(loads: Floats, ohm: Floats, on: Floats) -> bool:
    """Find the amps of everything that is on; say whether there was anything to find.

    Parameters
    ----------
    loads : array of float
        As the columns above; the last is written to; shape (n, 4). [V, Ω, V, A]
    ohm : array of float
        Volts lost at one for each amp of another, there and back, shape (n, n). [Ω]
    on : array of float
        1 where it is on, anything else where it is not; shape (n,). [-]

    Returns
    -------
    bool
        False where no load has volts of its own. [-]

    Notes
    -----
    Iᵢ = (Vᵢ − lost − Σⱼ≠ᵢ Zᵢⱼ Iⱼ) / (Rᵢ + Zᵢᵢ), one after the other until nothing changes; Z has
    the largest entries on its diagonal, so it settles. Nothing flows backwards.

    References
    ----------
    Ohm's and Kirchhoff's laws; iteration of Gauss and Seidel.
    """
    any_fed = False
    for s in range(loads.shape[0]):
        if loads[s, F_VOLTS] > 0.0:
            any_fed = True
            if on[s] != IS_ON:
                loads[s, F_AMPS] = 0.0
    if not any_fed:
        return False
    for _ in range(ROUNDS):
        most = 0.0
        for s in range(loads.shape[0]):
            if loads[s, F_VOLTS] <= 0.0 or on[s] != IS_ON or loads[s, F_OHM] <= 0.0:
                continue
            left = loads[s, F_VOLTS] - loads[s, F_LOST]
            for other in range(loads.shape[0]):
                if other != s and loads[other, F_VOLTS] > 0.0 and on[other] == IS_ON:
                    left -= ohm[s, other] * loads[other, F_AMPS]
            amps = max(0.0, left / (loads[s, F_OHM] + ohm[s, s]))
            most = max(most, abs(amps - loads[s, F_AMPS]))
            loads[s, F_AMPS] = amps
        if most < SAME_A:
            break
    return True
