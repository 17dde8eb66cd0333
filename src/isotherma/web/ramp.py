"""The one colour scale: cold to hot, kept for temperature alone.

Blue to red by way of pale sand: blue and orange stay apart for colour-blind eyes, and
a number always stands beside the colour.
"""

from __future__ import annotations

from itertools import pairwise

STOPS: tuple[tuple[float, tuple[int, int, int]], ...] = (
    (0.0, (29, 46, 122)),
    (10.0, (44, 98, 178)),
    (20.0, (98, 160, 209)),
    (30.0, (186, 211, 219)),
    (37.0, (244, 222, 170)),
    (43.0, (243, 176, 92)),
    (52.0, (221, 106, 44)),
    (62.0, (172, 42, 32)),
    (80.0, (98, 14, 40)),
)


def colour(celsius: float) -> str:
    """Give the colour of a temperature as #rrggbb; held at the ends of the scale."""
    if celsius <= STOPS[0][0]:
        return _hex(STOPS[0][1])
    for (low, cold), (high, hot) in pairwise(STOPS):
        if celsius <= high:
            part = (celsius - low) / (high - low)
            mixed = [round(a + (b - a) * part) for a, b in zip(cold, hot, strict=True)]
            return _hex((mixed[0], mixed[1], mixed[2]))
    return _hex(STOPS[-1][1])


def _hex(rgb: tuple[int, int, int]) -> str:
    return "#{:02x}{:02x}{:02x}".format(*rgb)


def ink_on(celsius: float) -> str:
    """Give the class of text that can be read on a temperature's colour."""
    return "on-pale" if 24.0 < celsius < 50.0 else "on-deep"
