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
    "axle_lifted": "It stands beyond one axle and takes load off the other: what the other gives "
    "up is not to spare for steering.",
    "axle_over": "More than there is to spare: move it between the axles, or leave something out.",
    "cuts_out": "Its cut-out ends the flame there.",
    "day_before": "That is the day before.",
    "knob_at_full": "Full fire does not make it so warm: less water, or a larger heater.",
    "knob_at_least": "The lowest fire is already too much: more water, or the seasonal switch.",
    "needle_stopped": "The needle has come to its stop: there is only a range.",
    "pump_pulses": "The pump switches on and off at that flow, and so does the flame: an "
    "accumulator, or open it further.",
    "round_corners": "By its flat sides; round corners take a few hundredths more.",
    "too_little_to_light": "So little water does not light it: open it further.",
    "weigh_it": "Weigh both axles, loaded as you travel: figures of papers leave out what was "
    "added since.",
}
SUM_CELLS: Final[Mapping[str, str]] = {
    "": "",
    "cuts out": "cuts out",
    "no flame": "no flame",
    "pulses": "pulses",
    "too hot": "scalds",
}
