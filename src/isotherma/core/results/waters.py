"""Where a day's water comes from and where it goes, by tank, bag, can, grey tank and drain."""

from __future__ import annotations

from dataclasses import dataclass

from isotherma.core import water
from isotherma.core.fields import known_or
from isotherma.core.flows.waste import GROUND, sinks_of
from isotherma.core.results.draws import DrawResult
from isotherma.core.setup import Setup
from isotherma.core.setup.completeness import main_outlet
from isotherma.core.setup.reservoirs import FRESH_KG_PER_M3
from isotherma.core.system.kinds.waste import GreyTank, WasteContainer
from isotherma.core.timeline.record import Day


@dataclass(frozen=True, slots=True)
class Share:
    """What a day takes of one tank or brings into one, and what there is [m³].

    `limit_m3` is None where nobody knows how much goes in; `label` its name.
    """

    id: str
    label: str
    per_day_m3: float
    limit_m3: float | None

    @property
    def days(self) -> float:
        """For how many days it lasts; without end where nothing is taken or no limit known."""
        if self.limit_m3 is None or self.per_day_m3 <= 0.0:
            return float("inf")
        return self.limit_m3 / self.per_day_m3


def fresh_shares(setup: Setup, day: Day, draws: tuple[DrawResult, ...]) -> tuple[Share, ...]:
    """Say what a day takes out of every tank, bag and can.

    Parameters
    ----------
    setup : Setup
        The documents and what follows from them. [-]
    day : Day
        A day of it. [-]
    draws : tuple of DrawResult
        Its draws. [-]

    Returns
    -------
    tuple of Share
        In the order of the document, with what a draw would still have taken when it ran dry;
        what a river, a bucket or a pitch gives is taken from none of them. [m³]
    """
    density = water.density_kg_per_m3(setup.conditions.fresh_c)
    reservoirs, found = setup.reservoirs, []
    for reservoir, other in zip(
        reservoirs.reservoirs, reservoirs.other_kg_per_s.tolist(), strict=True
    ):
        washed = day.washed_kg.get(reservoir.id, 0.0)
        washed += sum(draw.missing_kg for draw in draws if draw.empty == reservoir.id)
        taken = max(0.0, washed) / density + other * 86400.0 / FRESH_KG_PER_M3
        found.append(
            Share(reservoir.id, reservoir.label, taken, reservoir.full_kg / FRESH_KG_PER_M3)
        )
    return tuple(found)


def sink_of(setup: Setup, draw: DrawResult) -> str | None:
    """Say where a draw's water falls to.

    Parameters
    ----------
    setup : Setup
        The documents and what follows from them. [-]
    draw : DrawResult
        One of its draws. [-]

    Returns
    -------
    str or None
        A part that keeps it, "" for a drain or open ground, None where nobody says. [-]
    """
    state = setup.system.state_or(draw.draw.state, setup.standing)
    return sinks_of(setup.computed, state).get(draw.outlet)


def grey_shares(
    setup: Setup, draws: tuple[DrawResult, ...], typed_m3: float | None
) -> tuple[Share, ...]:
    """Say what a day brings into every grey tank and can.

    Parameters
    ----------
    setup : Setup
        The documents and what follows from them. [-]
    draws : tuple of DrawResult
        Its draws. [-]
    typed_m3 : float or None
        Room for grey water as the brief has it; it wins over what is drawn. [m³]

    Returns
    -------
    tuple of Share
        One where the brief says the room, or where nothing is drawn; what runs onto a drain or
        open ground fills none. [m³]
    """
    density = water.density_kg_per_m3(setup.conditions.fresh_c)
    kept = {
        part.id: part
        for part in setup.computed.parts
        if isinstance(part, GreyTank | WasteContainer)
    }
    sinks = sinks_of(setup.computed, setup.standing)
    first = next(iter(kept), "grey")
    home = known_or(sinks.get(main_outlet(setup.system)), first)
    into: dict[str, float] = dict.fromkeys(kept, 0.0)
    into.setdefault(first, 0.0)
    for draw in draws:
        at = known_or(sink_of(setup, draw), home)
        if at != GROUND:
            into[at] = into.get(at, 0.0) + draw.used_m3 + draw.missing_kg / density
    for use in setup.brief.uses:
        at = known_or(sinks.get(use.outlet or ""), home)
        if at != GROUND:
            into[at] = into.get(at, 0.0) + use.day_m3 * use.grey_share
    filled = 1.0 - setup.brief.reserve_of("grey")
    if typed_m3 is not None or not kept:
        room = None if typed_m3 is None else typed_m3 * filled
        return (Share("", "Grey water", sum(into.values()), room),)
    found = []
    for key, per_day in into.items():
        part = kept.get(key)
        size = part.volume_m3 if part is not None else None
        if isinstance(part, WasteContainer) and size is not None:
            size *= 1 + part.spare_count
        if size is not None:
            size *= filled
        label = part.label if part is not None else setup.label(key)
        found.append(Share(key, label, per_day, size))
    return tuple(found)


def nearest(shares: tuple[Share, ...]) -> Share:
    """Give the share that ends first; of those that are not touched, all of them together.

    Parameters
    ----------
    shares : tuple of Share
        At least none. [m³]

    Returns
    -------
    Share
        With its name only where there are several to tell apart. [m³]
    """
    used = [share for share in shares if share.per_day_m3 > 0.0]
    if not used:
        limits = [share.limit_m3 for share in shares if share.limit_m3 is not None]
        return Share("", "", 0.0, sum(limits) if limits else None)
    first = min(used, key=lambda share: share.days)
    named = first.label if len(used) > 1 else ""
    return Share(first.id, named, first.per_day_m3, first.limit_m3)
