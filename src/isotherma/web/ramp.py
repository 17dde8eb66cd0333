"""The one colour scale: cold to hot, kept for temperature alone.

Blue to red by way of pale sand: blue and orange stay apart for colour-blind eyes, and
a number always stands beside the colour.
"""

from __future__ import annotations

from functools import lru_cache
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


def _luminance(rgb: tuple[int, int, int]) -> float:
    """Relative luminance as WCAG 2.2 defines it."""
    parts = [value / 255 for value in rgb]
    linear = [p / 12.92 if p <= 0.04045 else ((p + 0.055) / 1.055) ** 2.4 for p in parts]
    return 0.2126 * linear[0] + 0.7152 * linear[1] + 0.0722 * linear[2]


def ink_on(celsius: float) -> str:
    """Give the class of text that can be read on a temperature's colour."""
    return ink_of(colour(celsius))


@lru_cache(4096)  # layers of a store have few colours, and a chart has thousands of layers
def ink_of(text: str) -> str:
    """Give the class of text that can be read on a colour written as #rrggbb."""
    light = _luminance((int(text[1:3], 16), int(text[3:5], 16), int(text[5:7], 16)))
    # black beats white above the luminance where both contrast alike; softer ink would leave a gap
    return "on-pale" if (light + 0.05) / 0.05 > 1.05 / (light + 0.05) else "on-deep"
