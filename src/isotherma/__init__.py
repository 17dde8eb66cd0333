"""Isotherma: hot water and a shower for a vehicle, designed and computed.

Importing it chooses where compiled kernels are kept. The compiler's own cache looks only
at the file a kernel stands in, so a kernel that calls another in a changed file would run
the old one. Here the place is named after the content of the whole core instead; it must
be set before the compiler is first imported, which is why it stands in this file.
"""

from __future__ import annotations

import hashlib
import os
from pathlib import Path


def kernel_folder() -> Path:
    """Give the folder of compiled kernels that belongs to the core as it stands."""
    package = Path(__file__).parent
    digest = hashlib.sha256()
    for source in sorted((package / "core").rglob("*.py")):
        digest.update(source.read_bytes())
    return package.parents[1] / ".run" / "kernels" / digest.hexdigest()[:16]


os.environ.setdefault("NUMBA_CACHE_DIR", str(kernel_folder()))
