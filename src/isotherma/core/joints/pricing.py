"""What a list costs and what is left to buy: packs, prices, what is there, totals."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Mapping, Sequence
from dataclasses import dataclass, replace
from math import ceil

from isotherma.core.joints.lines import Line
from isotherma.core.joints.listing import Listed
from isotherma.core.project import Price


@dataclass(frozen=True, slots=True)
class Total:
    """A sum with the number of lines it lacks; None where nothing at all is known."""

    sum: float | None
    unknown: int


@dataclass(frozen=True, slots=True)
class Shopping:
    """A list that is priced, and what it comes to; `said` whether the tradition was chosen."""

    listed: Listed
    tradition: str
    said: bool
    currency: str
    bars: Mapping[str, int]
    money: Total
    mass_kg: Total


def price_of(line: Line, prices: Sequence[Price]) -> Price | None:
    """Find what is kept of a line's price, pack and stock.

    Parameters
    ----------
    line : Line
        Any. [-]
    prices : sequence of Price
        Of the project. [-]

    Returns
    -------
    Price or None
        By its item and size; an adapter's size may also be its two ends. [-]
    """
    sizes = {line.size}
    if line.end_a is not None and line.end_b is not None:
        sizes |= {f"{line.end_a} × {line.end_b}", f"{line.end_b} × {line.end_a}"}
    return next((one for one in prices if one.item == line.item and one.size in sizes), None)


def priced(
    lines: Iterable[Line], prices: Sequence[Price], bars: Mapping[str, int]
) -> tuple[Line, ...]:
    """Take off what is there, round up to packs, and price what is left.

    Parameters
    ----------
    lines : iterable of Line
        Nothing priced but what a part says of itself, which wins. [-]
    prices : sequence of Price
        Of the project. [-]
    bars : mapping of str to int
        Bars that are needed, by size, where tube is sold so. [-]

    Returns
    -------
    tuple of Line
        `quantity` is what is to be bought. An entered price of 0 is 0. [-]
    """
    left: dict[tuple[str, str], float] = {}
    found = []
    for line in lines:
        kept = price_of(line, prices)
        if kept is None:
            found.append(line)
            continue
        key = (kept.item, kept.size)
        here = left.setdefault(key, kept.have)
        used = min(here, line.quantity)
        left[key] = here - used
        found.append(_bought(line, kept, used, bars))
    return tuple(found)


def _bought(line: Line, kept: Price, used: float, bars: Mapping[str, int]) -> Line:
    """Give a line as it is bought: in packs, less what is there."""
    wanted = max(0.0, line.quantity - used)
    packs: int | None = None
    if kept.pack is not None:
        whole = bars.get(line.size) if line.item == "tube" else None
        if whole is not None:  # bars there already are whole ones
            packs = max(0, whole - int(kept.have / kept.pack + 1e-9))
        else:
            packs = ceil(wanted / kept.pack - 1e-9)
        wanted = packs * kept.pack
    price = line.price
    if price is None and kept.price is not None:
        price = kept.price * (wanted if packs is None else packs)
    elif price is not None and line.quantity > 0.0:
        price = price * min(1.0, wanted / line.quantity)
    unknown = tuple(name for name in line.unknown if name != "price" or price is None)
    on_bars = line.item == "tube" and line.size in bars
    day = line.priced_on or kept.priced_on
    return replace(
        line, quantity=wanted, packs=packs, why="bars" if on_bars else line.why, price=price,
        have=used, ordered=kept.ordered, priced_on=day, unknown=unknown,
    )  # fmt: skip


def total(lines: Iterable[Line], of: Callable[[Line], float | None]) -> Total:
    """Add up a figure of lines that are to be bought.

    Parameters
    ----------
    lines : iterable of Line
        Any. [-]
    of : callable
        Price or mass of a line. [money, kg]

    Returns
    -------
    Total
        What is known and how many lines lack it; unpriced is not 0. [money, kg]
    """
    said = [of(line) for line in lines if line.quantity > 0.0]
    known = [one for one in said if one is not None]
    return Total(sum(known) if known else None, len(said) - len(known))


def bar_lengths_m(prices: Sequence[Price], most_m: float) -> dict[str, float]:
    """Give how long the bars are that tube is sold in, by size.

    Parameters
    ----------
    prices : sequence of Price
        Of the project. [-]
    most_m : float
        What is longer is a coil. [m]

    Returns
    -------
    dict of str to float
        Of tube alone. [m]
    """
    return {
        one.size: one.pack for one in prices
        if one.item == "tube" and one.pack is not None and one.pack <= most_m
    }  # fmt: skip
