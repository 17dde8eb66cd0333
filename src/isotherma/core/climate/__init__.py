"""Region and month → the air a system stands in and the water it is filled with."""

from __future__ import annotations

from math import atan, cos, degrees, pi, radians, sin, tan
from typing import Annotated, Final, Literal

from pydantic import Field

from isotherma.core.fields import Document, GivenName, Note, Sky, Slug, known_or

DIFFUSE: Final = 0.5  # of an average day’s sun; judgement
MOST_TILTED: Final = 3.0
WARMEST_S: Final = 15 * 3600.0  # the air is warmest three hours after noon
DAY_S: Final = 86400.0
COLDEST_S: Final = WARMEST_S + DAY_S / 2
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
    sun_kwh_per_m2: Annotated[tuple[float, ...], Field(min_length=12, max_length=12)]
    clear_kwh_per_m2: Annotated[tuple[float, ...], Field(min_length=12, max_length=12)]
    dark_kwh_per_m2: Annotated[tuple[float, ...], Field(min_length=12, max_length=12)]
    day_h: Annotated[tuple[float, ...], Field(min_length=12, max_length=12)]
    source: Note


class Climate(Document):
    """The surroundings of one month: what a simulation needs to know of a region."""

    region: Slug
    month: Annotated[int, Field(ge=1, le=12)]
    air_c: float
    swing_k: float
    sun_j_per_m2: float = 0.0
    clear_j_per_m2: float | None = None
    dark_j_per_m2: float | None = None
    daylight_s: float = 12 * 3600.0
    latitude_deg: float = 50.0

    def on(self, sun: Sky, warmer_k: float) -> Climate:
        """Give the surroundings of one day that differs from the month's average.

        Parameters
        ----------
        sun : str
            "clear", "mixed" for the average day, or "dark". [-]
        warmer_k : float
            Air above the month's mean. [K]

        Returns
        -------
        Climate
            Of that day; where nobody knows clear or dark days, the average sun. [-]
        """
        shines = {"clear": self.clear_j_per_m2, "dark": self.dark_j_per_m2}.get(sun)
        return self.model_copy(
            update={
                "air_c": self.air_c + warmer_k,
                "sun_j_per_m2": known_or(shines, self.sun_j_per_m2),
            }
        )

    def air_at_c(self, clock_s: float) -> float:
        """Give the air's temperature at a time of day.

        Parameters
        ----------
        clock_s : float
            Since midnight; any number of days. [s]

        Returns
        -------
        float
            The month's mean and half the swing up and down, warmest at three. [°C]

        References
        ----------
        Judgement: one cosine; real nights are flatter and mornings steeper.
        """
        return self.air_c + 0.5 * self.swing_k * cos(2 * pi * (clock_s - WARMEST_S) / DAY_S)

    def sun_w_per_m2(self, clock_s: float) -> float:
        """Give the sun on a flat roof at a time of day, average clouds in it.

        Parameters
        ----------
        clock_s : float
            Since midnight; any number of days. [s]

        Returns
        -------
        float
            Half a sine from sunrise to sunset around noon that sums to the day's. [W/m²]

        References
        ----------
        Judgement: the shape of a clear day, scaled to the average day.
        """
        since = clock_s % DAY_S - (0.5 * DAY_S - 0.5 * self.daylight_s)
        if not 0.0 < since < self.daylight_s:
            return 0.0
        top = self.sun_j_per_m2 * pi / (2.0 * self.daylight_s)
        return top * sin(pi * since / self.daylight_s)

    def tilted(self, tilt_deg: float, clock_s: float) -> float:
        """Give the sun on a panel tilted to the noon sun over that on a flat roof.

        Parameters
        ----------
        tilt_deg : float
            0 flat, 90 upright. [°]
        clock_s : float
            Since midnight. [s]

        Returns
        -------
        float
            1 for a flat one; near sunrise and sunset no more than 3. [-]

        References
        ----------
        Liu and Jordan: beam by the angles of the sun, diffuse by the share of the sky; Duffie and
        Beckman, Solar Engineering of Thermal Processes, ch. 1 and 2. Half of an average day's sun
        is taken as diffuse: judgement.

        Examples
        --------
        >>> flat = Climate(region="hills", month=12, air_c=0.0, swing_k=0.0)
        >>> flat.tilted(0.0, 43200.0)
        1.0
        >>> flat.tilted(60.0, 43200.0) > 1.5
        True
        """
        if tilt_deg <= 0.0:
            return 1.0
        decline = radians(23.45 * sin(2 * pi * (284 + 30.4 * self.month - 15.0) / 365.0))
        high, tilt = radians(self.latitude_deg), radians(tilt_deg)
        turn = cos(2 * pi * (clock_s % DAY_S - 0.5 * DAY_S) / DAY_S)
        flat = sin(decline) * sin(high) + cos(decline) * cos(high) * turn
        leaning = sin(decline) * sin(high - tilt) + cos(decline) * cos(high - tilt) * turn
        beam = min(MOST_TILTED, max(0.0, leaning) / max(flat, 1e-3)) if flat > 0.0 else 0.0
        return DIFFUSE * 0.5 * (1.0 + cos(tilt)) + (1.0 - DIFFUSE) * beam

    def space_at_c(self, warmth: Warmth, inside_c: float, clock_s: float) -> float:
        """Give the temperature of a space of the vehicle at a time of day.

        Parameters
        ----------
        warmth : str
            As for `space_c`. [-]
        inside_c : float
            Temperature the living space is kept at. [°C]
        clock_s : float
            Since midnight. [s]

        Returns
        -------
        float
            As `space_c`, following the air by day and night. [°C]

        References
        ----------
        Judgement: thin walls follow the air within the hour.
        """
        return _space_c(warmth, inside_c, self.air_at_c(clock_s))

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
        return _space_c(warmth, inside_c, self.air_c)

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


def own_air(
    region: Region, *, months_c: tuple[float, ...] | None, coldest_c: float | None,
    warmest_c: float | None,
) -> Region:  # fmt: skip
    """Put what a person knows of the air of a place over a region.

    Parameters
    ----------
    region : Region
        What stands for the place; sun, daylight and swing stay its own. [-]
    months_c : tuple of float or None
        Mean air of its twelve months, shape (12,); wins over the two below. [°C]
    coldest_c, warmest_c : float or None
        Mean air of its coldest and warmest month. [°C]

    Returns
    -------
    Region
        With that air: two months stretch the region's own year between them, one alone
        shifts it. [-]

    References
    ----------
    Judgement: places of one kind of country have a year of one shape.
    """
    if months_c is not None:
        return region.model_copy(update={"air_c": months_c})
    if coldest_c is None and warmest_c is None:
        return region
    low, high = min(region.air_c), max(region.air_c)
    if coldest_c is not None and warmest_c is not None:
        span = (warmest_c - coldest_c) / (high - low) if high > low else 0.0
        air = tuple(coldest_c + (value - low) * span for value in region.air_c)
    else:
        shift = coldest_c - low if coldest_c is not None else known_or(warmest_c, high) - high
        air = tuple(value + shift for value in region.air_c)
    return region.model_copy(update={"air_c": air})


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
        That month's mean air, swing, sun and daylight. [-]
    """
    return Climate(
        region=region.id,
        month=month,
        air_c=region.air_c[month - 1],
        swing_k=region.swing_k,
        sun_j_per_m2=region.sun_kwh_per_m2[month - 1] * 3.6e6,
        clear_j_per_m2=region.clear_kwh_per_m2[month - 1] * 3.6e6,
        dark_j_per_m2=region.dark_kwh_per_m2[month - 1] * 3.6e6,
        daylight_s=region.day_h[month - 1] * 3600.0,
        latitude_deg=_latitude_deg(region.day_h[5]),
    )


def within_hours(clock_s: float, start_s: float, end_s: float) -> bool:
    """Say whether a time of day lies between two others, which may lie about midnight.

    Parameters
    ----------
    clock_s, start_s, end_s : float
        Since midnight; any number of days. [s]

    Returns
    -------
    bool
        Never where both are the same; always from 0:00 to 24:00. [-]

    Examples
    --------
    >>> within_hours(3600.0, 79200.0, 7200.0), within_hours(43200.0, 79200.0, 7200.0)
    (True, False)
    """
    if end_s - start_s >= DAY_S:
        return True
    now, start, end = clock_s % DAY_S, start_s % DAY_S, end_s % DAY_S
    return start <= now < end if start <= end else now >= start or now < end


def _latitude_deg(longest_day_h: float) -> float:
    """Give the latitude whose day is so long in June.

    References
    ----------
    cos(ω) = −tan(φ) tan(δ); Duffie and Beckman, ch. 1.
    """
    turn = pi * min(23.9, max(12.0, longest_day_h)) / 24.0
    return degrees(atan(-cos(turn) / tan(radians(23.45))))


def _space_c(warmth: Warmth, inside_c: float, air_c: float) -> float:
    inside = max(inside_c, air_c)
    if warmth == "heated":
        return inside
    return (inside + air_c) / 2 if warmth == "unheated" else air_c
