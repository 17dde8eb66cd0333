"""Isotherma: hot water and a shower for a vehicle, designed and computed.

Importing it chooses where compiled kernels are kept. The compiler's own cache looks only
at the file a kernel stands in, so a kernel that calls another in a changed file would run
the old one. Here the place is named after the content of every file a kernel may call or
take a constant from; it must be set before the compiler is first imported, which is why it
stands in this file.
"""

from __future__ import annotations

import hashlib
import os
from pathlib import Path

# a test holds that kernels import nothing of the core but these
KERNEL_SOURCES = (
    "compiled.py", "engine/columns.py", "engine/heater_control.py", "engine/kernel.py",
    "engine/flow_step.py", "engine/standing_step.py", "engine/valve_dynamics.py", "flows/kernel.py",
    "hydraulics/basin.py", "hydraulics/laws.py", "hydraulics/network.py", "supply/ohms.py",
    "thermal/exchanger.py", "thermal/mixer.py", "thermal/pipe.py", "thermal/store.py",
    "timeline/columns.py", "water/__init__.py", "water/antifreeze_table.py", "water/arrays.py",
    "water/fluids.py", "water/table.py",
)  # fmt: skip


def kernel_folder() -> Path:
    """Give the folder of compiled kernels that belongs to their sources as they stand."""
    core = Path(__file__).parent / "core"
    digest = hashlib.sha256()
    for name in KERNEL_SOURCES:
        digest.update((core / name).read_bytes())
    checkout = core.parents[2]
    if (checkout / "pyproject.toml").exists():
        room = checkout / ".run"
    else:  # installed as a library: nothing is written beside it
        room = Path(os.environ.get("XDG_CACHE_HOME") or Path.home() / ".cache") / "isotherma"
    return room / "kernels" / digest.hexdigest()[:16]


os.environ.setdefault("NUMBA_CACHE_DIR", str(kernel_folder()))
