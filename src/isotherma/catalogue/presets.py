"""Draws and everyday water people begin a brief with."""

from __future__ import annotations

from isotherma.core.brief import Draw, Purpose, Use

_MIN = 60.0
PRESETS: dict[str, Draw] = {
    "rinse": Draw(id="rinse", name="Quick rinse", start_s=7 * 3600, duration_s=2 * _MIN),
    "stop-and-go": Draw(
        id="stop-and-go", name="Stop-and-go shower", start_s=7 * 3600, duration_s=4 * _MIN,
        stops=2, stop_s=60.0,
    ),
    "shower": Draw(id="shower", name="Shower", start_s=7 * 3600, duration_s=5 * _MIN),
    "long-shower": Draw(id="long-shower", name="Long shower", start_s=7 * 3600,
                        duration_s=10 * _MIN),
    "child": Draw(
        id="child", name="Child’s shower", start_s=18.5 * 3600, duration_s=4 * _MIN, child=True,
        low_c=36.0, high_c=40.0,
    ),
    "boots": Draw(
        id="boots", name="Boots and dog", start_s=17 * 3600, duration_s=3 * _MIN, clock="open",
        low_c=15.0, high_c=41.0,
    ),
}  # fmt: skip

# litres a person uses in a day on the road: what people write down when they count cups
_EVERYDAY: tuple[tuple[str, str, Purpose, float, float, float], ...] = (
    ("drinking", "Drinking and tea", "drinking", 1.8, 1.0, 0.0),
    ("cooking", "Cooking", "cooking", 0.8, 1.0, 0.3),
    ("dishes", "Dishes", "dishes", 1.5, 1.0, 1.0),
    ("hands", "Hands and face", "hands and face", 1.2, 1.0, 1.0),
)


def everyday(people: int) -> tuple[Use, ...]:
    """Give the water of a day beside the washing.

    Parameters
    ----------
    people : int
        How many. [-]

    Returns
    -------
    tuple of Use
        Drinking, cooking, dishes, hands. [m³]
    """
    return tuple(
        Use(
            id=key, name=name, purpose=purpose, volume_m3=litres * 1e-3, times=times * people,
            grey_share=grey,
        )
        for key, name, purpose, litres, times, grey in _EVERYDAY
    )  # fmt: skip
