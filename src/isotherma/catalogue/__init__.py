"""Made-up data that ships: regions, presets of draws, the demo vehicle."""

from __future__ import annotations

import tomllib
from functools import cache
from importlib.resources import files

from isotherma.catalogue.presets import PRESETS
from isotherma.core.brief import Brief
from isotherma.core.climate import Climate, Region, climate_of, own_air
from isotherma.core.errors import UnknownRegion

__all__ = ["PRESETS", "climate", "climate_in", "regions"]


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


def _region(region_id: str) -> Region:
    for region in regions():
        if region.id == region_id:
            return region
    raise UnknownRegion(region=region_id, known=tuple(region.id for region in regions()))


def climate_in(region_id: str, month: int) -> Climate:
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
    return climate_of(_region(region_id), month)


def climate(brief: Brief) -> Climate:
    """Find the surroundings of a brief: its month of its region, and what it knows better.

    Parameters
    ----------
    brief : Brief
        Region, month, and the air of a place of one's own where it is entered. [-]

    Returns
    -------
    Climate
        That month. [-]

    Raises
    ------
    UnknownRegion
        If the catalogue has no such region.
    """
    own = own_air(_region(brief.region), months_c=brief.air_c, coldest_c=brief.coldest_c,
                  warmest_c=brief.warmest_c)  # fmt: skip
    return climate_of(own, brief.month)
