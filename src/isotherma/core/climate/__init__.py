"""Region and month → the air a system stands in and the water it is filled with."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from isotherma.core.fields import Document, GivenName, Note, Slug

Warmth = Literal["heated", "unheated", "engine bay", "slung", "outside"]
MONTHS = (
    "January",
    "February",
    "March",
    "April",
    "May",
    "June",
    "July",
    "August",
    "September",
    "October",
    "November",
    "December",
)


class Region(Document):
    """A made-up region: mean air temperature and daily swing for each month."""

    id: Slug
    name: GivenName
    air_c: Annotated[tuple[float, ...], Field(min_length=12, max_length=12)]
    swing_k: Annotated[float, Field(ge=0, le=30)]
    source: Note


class Climate(Document):
    """The surroundings of one month: what a simulation needs to know of a region."""

    region: Slug
    month: Annotated[int, Field(ge=1, le=12)]
    air_c: float
    swing_k: float

    def space_c(self, warmth: Warmth, inside_c: float) -> float:
        """Give the mean temperature of a space of the vehicle.

        Parameters
        ----------
        warmth : str
            "heated" living space, "unheated" locker or hold, "engine bay", "slung" below
            the floor, or "outside". [-]
        inside_c : float
            Temperature the living space is kept at. [°C]

        Returns
        -------
        float
            Temperature; the living space is never colder than the air, an unheated space
            lies half way between. [°C]

        References
        ----------
        Judgement: a locker shares about as much wall with the living space as with outside.
        """
        inside = max(inside_c, self.air_c)
        if warmth == "heated":
            return inside
        return (inside + self.air_c) / 2 if warmth == "unheated" else self.air_c

    def fresh_water_c(self, warmth: Warmth, inside_c: float) -> float:
        """Estimate the fresh water's temperature from where its tank lives.

        Parameters
        ----------
        warmth : str
            Of the space the tank lives in. [-]
        inside_c : float
            Temperature the living space is kept at. [°C]

        Returns
        -------
        float
            That of the tank's space, inside 3 K lower since filling brings colder
            water; never below 2 °C, where a tank would be freezing. [°C]

        References
        ----------
        Judgement, as `catalogue/regions.toml` says; a measured value in the brief wins.
        """
        space = self.space_c(warmth, inside_c)
        return max(2.0, space - 3.0 if warmth in {"heated", "unheated"} else space)


def climate_of(region: Region, month: int) -> Climate:
    """Pick one month of a region.

    Parameters
    ----------
    region : Region
        The region's twelve months. [-]
    month : int
        1 to 12. [-]

    Returns
    -------
    Climate
        That month's mean air temperature and swing. [-]
    """
    return Climate(
        region=region.id, month=month, air_c=region.air_c[month - 1], swing_k=region.swing_k
    )
