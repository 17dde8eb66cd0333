"""Made-up data that ships: regions, presets of draws, the demo vehicle."""

from __future__ import annotations

import tomllib
from functools import cache
from importlib.resources import files

from isotherma.core.brief import Draw
from isotherma.core.climate import Climate, Region, climate_of
from isotherma.core.errors import UnknownRegion


@cache
def regions() -> tuple[Region, ...]:
    """Load every region, in the order of the catalogue.

    Returns
    -------
    tuple of Region
        Made-up regions with monthly means. [-]
    """
    text = files(__package__).joinpath("regions.toml").read_text(encoding="utf-8")
    return tuple(Region.model_validate(row) for row in tomllib.loads(text)["region"])


def climate(region_id: str, month: int) -> Climate:
    """Find the surroundings of one month of one region.

    Parameters
    ----------
    region_id : str
        Id of a catalogue region. [-]
    month : int
        1 to 12. [-]

    Returns
    -------
    Climate
        That month. [-]

    Raises
    ------
    UnknownRegion
        If the catalogue has no such region.
    """
    for region in regions():
        if region.id == region_id:
            return climate_of(region, month)
    raise UnknownRegion(region=region_id, known=tuple(region.id for region in regions()))


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
