"""Ways of heating as they were sized, as JSON."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import Any, Final

from isotherma.core.options.columns import Columns, price_span
from isotherma.core.options.extremes import Extreme, Extremes
from isotherma.core.options.sizing import Struck
from isotherma.core.quantity import unit_of

SIZE_FORMAT: Final = "isotherma-size"
Spans = Mapping[int, tuple[float, float]]


def struck_object(item: Struck) -> dict[str, Any]:
    """Give one reason why sizes do not do it.

    Parameters
    ----------
    item : Struck
        A draw or a budget. [SI]

    Returns
    -------
    dict
        Keys as in docs/file-format.md. [see the unit]
    """
    unit = unit_of(item.style)

    def plain(value: float | None) -> float | None:
        return None if value is None else unit.of_si(value)

    return {
        "what": item.what, "name": item.name, "why": item.code, "figure": plain(item.figure),
        "limit": plain(item.limit), "unit": unit.symbol,
    }  # fmt: skip


def columns_object(columns: Columns, spans: Spans) -> dict[str, Any]:
    """Give the figures of a way of heating.

    Parameters
    ----------
    columns : Columns
        Of its day. [SI]
    spans : mapping of int to tuple of float
        What each class of price is about. [money]

    Returns
    -------
    dict
        Units end the names. [see the keys]
    """
    low, high = price_span(columns.price, spans)
    return {
        "warm_min": columns.warm_s / 60, "asked_min": columns.asked_s / 60,
        "longest_wait_s": columns.longest_wait_s,
        "washing_l_per_day": columns.washing_m3 * 1e3,
        "lost_to_waiting_l_per_day": columns.waiting_m3 * 1e3,
        "other_l_per_day": columns.other_m3 * 1e3,
        "gas_kg_per_day": columns.gas_kg, "diesel_l_per_day": columns.diesel_m3 * 1e3,
        "mains_kwh_per_day": columns.mains_j / 3.6e6,
        "battery_wh_per_day": columns.battery_j / 3600,
        "hot_again_s": columns.ready_again_s, "dry_mass_kg": columns.mass_kg,
        "room_l": None if columns.room_m3 is None else columns.room_m3 * 1e3,
        "price_from": low, "price_to": high, "unpriced": columns.unpriced,
        "parts": columns.parts, "joints": columns.joints, "holes": columns.holes,
        "flame": columns.flame, "licensed_work": columns.licensed,
        "set_up_and_pack_s": columns.setup_s, "reach_s": columns.reach_s,
        "leans_on": [one.value for one in columns.leans],
        "if_heat_fails": None if columns.heat_fails is None else {
            "part": columns.heat_fails.part_id, "outlets": columns.heat_fails.outlets,
            "with_water": columns.heat_fails.water, "warm": columns.heat_fails.warm,
        },
    }  # fmt: skip


def extremes_object(extremes: Extremes) -> dict[str, Any]:
    """Give how a way of heating does at the edges.

    Parameters
    ----------
    extremes : Extremes
        As it was tried. [SI]

    Returns
    -------
    dict
        Keys as in docs/file-format.md. [see the keys]
    """

    def edge(item: Extreme) -> dict[str, Any]:
        return {
            "does": item.does, "struck_by": [struck_object(one) for one in item.struck],
            "freezes": item.freezes or None, "freezes_s": item.freezes_s,
            "cannot_run": item.error or None,
        }  # fmt: skip

    return {
        "at_2_l_per_min": edge(extremes.little),
        "in_frost": edge(extremes.frost),
        "foot_pump": extremes.foot.value,
        "lost_standing_by_w": extremes.lost_w,
    }


def size_object(families: Sequence[dict[str, Any]], *, name: str) -> dict[str, Any]:
    """Give all families as an object for JSON.

    Parameters
    ----------
    families : sequence of dict
        One per family. [-]
    name : str
        Of the vehicle. [-]

    Returns
    -------
    dict
        Keys as in docs/file-format.md. [see the keys]
    """
    return {"format": SIZE_FORMAT, "vehicle": name, "families": list(families)}
