"""Made-up data that ships: regions, presets of draws, the demo vehicle."""

from __future__ import annotations

import tomllib
from functools import cache
from importlib.resources import files

from isotherma.catalogue.presets import PRESETS
from isotherma.core.climate import Climate, Region, climate_of
from isotherma.core.errors import UnknownRegion

__all__ = ["PRESETS", "climate", "regions"]


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
