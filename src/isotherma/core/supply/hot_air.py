"""Hot air of an air heater: what of its heat gets to each outlet and to a coil."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping
from dataclasses import dataclass
from math import exp, inf, pi, sqrt
from typing import Final

from isotherma.core.fields import known_or
from isotherma.core.system import AnyKind, System
from isotherma.core.system.kinds import heat
from isotherma.core.system.nominal import figure, known_figure
from isotherma.core.system.runs import Duct

FRICTION: Final = 0.03  # of flexible duct with its ribs; common tables
COIL_K: Final = 6.0  # fins and the turn before them; judgement
OPEN_END_K: Final = 1.0  # a duct that ends in the room
OPEN_BORE_M: Final = 0.06  # of an outlet with no duct: what most of these heaters are sold with
DUCT_M: Final = 1.0
BARE_W_PER_M2_K, LAGGED_W_PER_M2_K = 6.0, 2.0  # thin wall in still air; with a sleeve
LEAST_RISE_K: Final = 10.0  # of a heater whose outlet is entered colder than the room

Air = Callable[[str | None], float]


@dataclass(frozen=True, slots=True)
class HotAir:
    """What of an air heater's heat arrives somewhere.

    `part_id` is an outlet or coil, "" a duct or flap that ends in the room; `share` of its air,
    `heat_w` over the room's air that is sucked in again, `air_c` as it arrives, `stream_w_per_k`
    its air times specific heat; `duct_m` the way, `lost_w` what the ducts kept.
    """

    heater: str
    part_id: str
    label: str
    space: str | None
    share: float
    heat_w: float
    air_c: float
    stream_w_per_k: float
    duct_m: float
    lost_w: float


@dataclass(frozen=True, slots=True)
class _Way:
    """A duct, or none, and what it leads to."""

    duct: Duct | None
    part: AnyKind | None
    branches: tuple[tuple[_Way, float], ...] = ()  # with the part of the air a flap lets through
    shut: bool = False


def hot_air(system: System, at: Mapping[str, str], air_c: Air) -> tuple[HotAir, ...]:
    """Say what of every air heater's heat arrives where, at full fire.

    Parameters
    ----------
    system : System
        With likely figures. [-]
    at : mapping of str to str
        How heaters, flaps and outlets stand. [-]
    air_c : callable
        Air of a space, by its id; None: the living space. [°C]

    Returns
    -------
    tuple of HotAir
        By heater, in the order of the ducts; none of one that is off. [W, °C]

    Notes
    -----
    The heater takes its air from its own space: C = P/(T_out − T_in). Branches share it by
    1/√(Σ f L/d⁵ + k/d⁴); a flap that is not on “both” lets its leak the other way. Along a duct
    T = T_a + (T₀ − T_a) exp(−U π d L/C).

    References
    ----------
    Idelchik, Handbook of Hydraulic Resistance; Incropera et al., ch. 8.
    """
    found: list[HotAir] = []
    parts = {part.id: part for part in system.parts}
    for heater in system.parts:
        if not isinstance(heater, heat.AirHeater) or at.get(heater.id) == "off":
            continue
        power = known_figure(heater, "heat_w")
        if power is None:
            continue
        inside = air_c(heater.space)
        hot = max(figure(heater, "outlet_c"), inside + LEAST_RISE_K)
        stream = power / (hot - inside)
        way = _way(system, parts, at, heater.id, "outlet", frozenset())
        for end, share, duct_m, arrives_c, lost in _ends(way, 1.0, stream, hot, air_c):
            part = end.part
            found.append(HotAir(
                heater.id, part.id if part is not None else "",
                part.label if part is not None else "", _space_of(end), share,
                share * stream * (arrives_c - inside), arrives_c, share * stream, duct_m, lost,
            ))  # fmt: skip
    return tuple(found)


def _space_of(way: _Way) -> str | None:
    if way.part is not None:
        return way.part.space
    return way.duct.space if way.duct is not None else None


def _way(
    system: System, parts: Mapping[str, AnyKind], at: Mapping[str, str], part_id: str, port: str,
    seen: frozenset[str],
) -> _Way:  # fmt: skip
    """Follow the duct from a port to what it leads to."""
    duct = next(
        (run for run in system.runs
         if isinstance(run, Duct) and run.start.part == part_id and run.start.port == port), None
    )  # fmt: skip
    if duct is None or duct.end.part in seen:
        return _Way(None, None)
    part = parts[duct.end.part]
    stands = at.get(part.id, "")
    if not isinstance(part, heat.AirDiverter):
        return _Way(duct, part, shut=stands == "shut")
    stands = stands or part.positions[0]
    leak = 0.0 if stands == "both" else figure(part, "leak_share")
    branches = tuple(
        (_way(system, parts, at, part.id, name, seen | {part.id}),
         1.0 if stands == "both" else (1.0 - leak if stands == name else leak))
        for name in ("cabin", "coil")
    )  # fmt: skip
    return _Way(duct, part, branches)


def _resistance(way: _Way) -> float:
    """Give what a way takes of the pressure, for its flow squared [1/m⁴]; without end if shut."""
    if way.shut:
        return inf
    end_k, bore = OPEN_END_K, OPEN_BORE_M
    total = 0.0
    if way.duct is not None:
        bore = figure(way.duct, "bore_m")
        total += FRICTION * _length(way.duct) / bore**5
    if way.branches:
        passes = sum(_eases(branch) for branch, _ in way.branches)
        return total + (1.0 / passes**2 if passes > 0.0 else inf)
    if isinstance(way.part, heat.AirCoil):
        end_k = COIL_K
    elif isinstance(way.part, heat.AirOutlet):
        bore = known_or(way.part.bore_m, bore)
        end_k = figure(way.part, "loss_k") / way.part.open_share**2
    return total + end_k / bore**4


def _eases(way: _Way) -> float:
    """Give how easily air takes a way, by which branches share it [m²]."""
    takes = _resistance(way)
    return 0.0 if takes == inf else 1.0 / sqrt(takes)


def _length(duct: Duct) -> float:
    return DUCT_M if duct.length_m is None else duct.length_m


def _ends(
    way: _Way, share: float, stream: float, hot_c: float, air_c: Air
) -> Iterator[tuple[_Way, float, float, float, float]]:
    """Give every end with its share, metres of duct, the air's temperature and what was lost."""
    duct_m, lost = 0.0, 0.0
    if way.duct is not None and share > 0.0:
        duct_m = _length(way.duct)
        bore = figure(way.duct, "bore_m")
        film = LAGGED_W_PER_M2_K if way.duct.lagged else BARE_W_PER_M2_K
        around = air_c(way.duct.space)
        arrives = around + (hot_c - around) * exp(-film * pi * bore * duct_m / (share * stream))
        lost = share * stream * (hot_c - arrives)
        hot_c = arrives
    if not way.branches:
        yield way, share, duct_m, hot_c, lost
        return
    forced = any(part != 1.0 for _, part in way.branches)
    eases = [float(not branch.shut) if forced else _eases(branch) for branch, _ in way.branches]
    weights = [part * ease for (_, part), ease in zip(way.branches, eases, strict=True)]
    total = sum(weights)
    for (branch, _), weight in zip(way.branches, weights, strict=True):
        of_it = weight / total if total > 0.0 else 0.0
        for end, ends_share, metres, arrives_c, kept in _ends(
            branch, share * of_it, stream, hot_c, air_c
        ):
            yield end, ends_share, duct_m + metres, arrives_c, lost * of_it + kept


def coil_air(system: System, at: Mapping[str, str], air_c: Air) -> dict[str, tuple[float, float]]:
    """Give the air on every coil in hot air: its temperature, and what the coil takes of it.

    Parameters
    ----------
    system : System
        With likely figures. [-]
    at : mapping of str to str
        How heaters, flaps and outlets stand. [-]
    air_c : callable
        Air of a space, by its id. [°C]

    Returns
    -------
    dict of str to tuple of float
        By coil that a duct leads to: air and conductance, which an air stream holds down; 0 W/K
        where no hot air comes. [°C, W/K]

    Notes
    -----
    The water's side is much the larger stream: G = C (1 − exp(−UA/C)).

    References
    ----------
    Kays and London, Compact Heat Exchangers: effectiveness and number of transfer units.
    """
    ducted = {run.end.part for run in system.runs if isinstance(run, Duct)}
    found = {
        part.id: (air_c(part.space), 0.0)
        for part in system.parts if isinstance(part, heat.AirCoil) and part.id in ducted
    }  # fmt: skip
    for air in hot_air(system, at, air_c):
        if air.part_id not in found or air.stream_w_per_k <= 0.0:
            continue
        ua = figure(system.part(air.part_id), "conductance_w_per_k")
        held = air.stream_w_per_k * (1.0 - exp(-ua / air.stream_w_per_k))
        found[air.part_id] = (air.air_c, held)
    return found
