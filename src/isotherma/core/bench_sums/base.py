"""What every bench sum is made of: what it asks, what it answers, what cannot be."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass

from isotherma.core import water
from isotherma.core.errors import CannotBe
from isotherma.core.thermal.estimates import time_to_heat

Values = Mapping[str, float]


@dataclass(frozen=True, slots=True)
class Asks:
    """One thing a sum asks for, with what stands there at first."""

    key: str
    title: str
    style: str
    start: float


@dataclass(frozen=True, slots=True)
class Figure:
    """One figure of an answer."""

    title: str
    value: float
    style: str


@dataclass(frozen=True, slots=True)
class Put:
    """What of an answer can go into a design: a kind of part and its property."""

    kind: str
    name: str
    value: float
    style: str


@dataclass(frozen=True, slots=True)
class Cell:
    """One cell of a table: a value, None where there is none, and the code of what is wrong."""

    value: float | None
    code: str = ""


@dataclass(frozen=True, slots=True)
class Table:
    """An answer for many values of two figures: `down` by row, `along` by column [SI]."""

    title: str
    style: str
    down: Asks
    down_at: tuple[float, ...]
    along: Asks
    along_at: tuple[float, ...]
    cells: tuple[tuple[Cell, ...], ...]


@dataclass(frozen=True, slots=True)
class Answer:
    """Figures, the first the answer itself; the code of a remark; what can go into a design."""

    figures: tuple[Figure, ...]
    remark: str = ""
    put: Put | None = None
    table: Table | None = None


@dataclass(frozen=True, slots=True)
class Sum:
    """One bench sum."""

    id: str
    question: str
    asks: tuple[Asks, ...]
    work: Callable[[Values], Answer]
    formula: str
    source: str
    caution: str = ""


def need(
    value: float, least: float, reason: str, *, above: bool = True, **values: str
) -> None:  # fmt: skip
    """Refuse a value that is not above its least.

    Parameters
    ----------
    value, least : float
        The value, and what it must be above, or with `above` False no less than. [SI]
    reason : str
        Code of the refusal. [-]
    above : bool
        Whether the least itself is refused. [-]
    values : str
        What the words of the refusal need. [-]

    Returns
    -------
    None
        If it may stand. [-]

    Raises
    ------
    CannotBe
        Else.
    """
    if (value <= least) if above else (value < least):
        raise CannotBe(reason=reason, **values)


def capacity_j_per_k(volume_m3: float, low_c: float, high_c: float) -> float:
    """Give the heat of a vessel's water, filled cold: what it grows by goes out.

    Parameters
    ----------
    volume_m3 : float
        The vessel's. [m³]
    low_c, high_c : float
        Filled at, and heated to. [°C]

    Returns
    -------
    float
        By the mean specific heat between both. [J/K]
    """
    c = water.mean_specific_heat_j_per_kg_k(min(low_c, high_c - 0.1), max(high_c, low_c + 0.1))
    return volume_m3 * water.density_kg_per_m3(low_c) * c


def hot_after_s(v: Values) -> float:
    """Give how long a vessel takes to be hot.

    Parameters
    ----------
    v : mapping of str to float
        Its `volume`, `power`, `loss`, `from`, `to` and the `air` around it. [SI]

    Returns
    -------
    float
        Time. [s]

    Raises
    ------
    CannotBe
        Without volume or power, or if it is to get no warmer.
    TargetNotReached
        If the loss is no less than the heat.
    """
    need(v["volume"], 0.0, "no_volume")
    need(v["power"], 0.0, "no_power")
    need(v["to"], v["from"], "get_warmer")
    return time_to_heat(
        capacity_j_per_k=capacity_j_per_k(v["volume"], v["from"], v["to"]), power_w=v["power"],
        start_c=v["from"], target_c=v["to"], loss_w_per_k=max(v["loss"], 1e-9),
        ambient_c=v["air"],
    )  # fmt: skip


LITRE, LITRE_PER_MIN, BAR = 1e-3, 1e-3 / 60, 1e5
COLD, HOT, WANT, AIR = (
    Asks("cold", "Cold water", "temperature", 10.0), Asks("hot", "Store", "temperature", 65.0),
    Asks("want", "Wanted", "temperature", 38.0), Asks("air", "Air around it", "temperature", 15.0),
)  # fmt: skip
FLOW = Asks("flow", "Flow", "flow", 5 * LITRE_PER_MIN)
VOLUME = Asks("volume", "Water", "volume", 10 * LITRE)
LOSS = Asks("loss", "Loses", "loss", 0.8)
WIRED = "The fuse protects the cable. Mains wiring is work for a licensed electrician."
MAINS = (
    "Mains wiring is work for a licensed electrician. Never heat a vessel without water, nor a "
    "closed one without relief."
)
