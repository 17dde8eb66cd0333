"""Tables of threads and adapters, each row with its source."""

from __future__ import annotations

import tomllib
from functools import cache
from importlib.resources import files
from typing import Any

from isotherma.core.joints.threads import Thread

INCH_MM = 25.4


def _table(name: str) -> dict[str, Any]:
    return tomllib.loads(files(__package__).joinpath(name).read_text(encoding="utf-8"))


@cache
def threads() -> tuple[Thread, ...]:
    """Load every thread.

    Returns
    -------
    tuple of Thread
        By family, small sizes first. [mm]
    """
    found = []
    for family in _table("threads.toml")["family"]:
        words, play = family["words"], family.get("play_mm", 0.0)
        for size, *figures in family["sizes"]:
            *outsides, pitch = figures
            high = outsides[-1]
            found.append(Thread(
                name=f"{size} {words}".strip(), size=size, low_mm=outsides[0] - play, high_mm=high,
                pitch_mm=pitch if family.get("metric") else INCH_MM / pitch, k=family["k"],
                tapers=family.get("tapers", False), left=family.get("left", False),
                source=family["source"],
            ))  # fmt: skip
    return tuple(found)
