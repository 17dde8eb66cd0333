"""Columns of the log of a day, as the kernels write them and the timeline names them.

Apart from both, so that neither hangs on the other.
"""

from __future__ import annotations

from typing import Final

# before the layers of the store shown
END, STEP, MASS, HEAD, HOT, COLD_SIDE, SHARE, MIXED, ELEMENT, BURNER, DRAW, PHASE_OF = range(12)
LOG_COLUMNS: Final = 12
# what `PHASE_OF` holds: nobody washes, waits for warm, washes, has shut for soaping, hands move
REST, WAITING, RUNNING, STOPPED, MOVING = range(5)
STILL_KG_PER_S: Final = 1e-7
