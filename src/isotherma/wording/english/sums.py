"""Bench sums: what is said beside an answer, by its code."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Final

SUM_REMARKS: Final[Mapping[str, str]] = {
    "": "",
    "bottle_cools": "The bottle cools as it boils: then its pressure no longer feeds the "
    "regulator.",
    "by_mass": "By mass. A through-flow heater sees only the hot part of the flow.",
    "cable_carries": "Cable there and back. A fuse protects the cable: never larger than "
    "the cable carries.",
    "carries_until_empty": "It carries this load until it is empty.",
    "direct_current_contacts": "A thermostat made for mains welds shut on a panel's direct "
    "current: only contacts rated for it.",
    "fuse_above_cable": "The fuse is larger than this cable bears: it does not protect it. Take "
    "a smaller fuse or a thicker cable.",
    "hot_store_kicks": "A hot store that cools shrinks its water and makes the pump start too: "
    "test it cold.",
    "vessel_takes_some": "The vessel itself takes some too: a tenth more with a small steel store.",
    "volts_at_element": "Volts measured at the element while it heats, not at the battery.",
    "wall_takes_first": "Warm water comes a third later than it passes: the wall takes heat first.",
    "without_reheating": "Without reheating; the valve needs 10 K over what it gives.",
}
