"""What must stop at once, and which tests it forbids."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Final

from isotherma.core.faults.evidence import Evidence
from isotherma.core.faults.player import Player
from isotherma.core.faults.table import FaultTable, FaultTest, Stopped
from isotherma.core.supply.feeds import on_battery
from isotherma.core.system.kinds import heat, use

SCALD_C: Final = 43.0  # at a shower, for minutes
# with these nobody tries anything: out, and call
LEAVE: Final = ("gas_smell", "co_alarm")
# tests in which a flame may light
FIRES: Final = frozenset({
    "cells_volts", "cells_swap", "bottle_valve", "second_gas_load", "relight_again",
    "run_heater_watch", "gas_pressure_at_appliance", "gas_burner_open", "volts_at_heater",
})  # fmt: skip
# tests in which hot water is drawn or a store heated: they fire where a burner heats it
HEATS: Final = frozenset({"head_thermometer", "mixer_turn", "heat_up_time", "store_thermometer",
                          "flow_bucket", "flow_other", "flow_no_head"})  # fmt: skip
# tests in which mains is live
MAINS: Final = frozenset({"hookup_amps", "mains_ohms", "mains_insulation"})
# tests in which something on the low-voltage side runs or its wires are touched
LOADS: Final = frozenset({
    "pump_pressure", "pump_shut_in", "pump_listen", "volts_at_pump", "volts_at_element",
    "volts_at_heater", "volts_battery", "element_amps", "touch_wires", "remote_bypass", "kick_time",
    "suction_clear", "heat_up_time", "circ_feel",
})  # fmt: skip
HOT: Final = frozenset({"head_thermometer", "mixer_turn"})  # somebody's hand is in the stream


@dataclass(frozen=True, slots=True)
class Stop:
    """Something must not be used: what, by which symptom or reading, whether to leave."""

    what: Stopped | str
    because: str
    leave: bool = False


def stops_of(table: FaultTable, evidence: Evidence, player: Player) -> tuple[Stop, ...]:
    """List what must stop by what was seen or read.

    Parameters
    ----------
    table : FaultTable
        Symptoms say what they stop. [-]
    evidence : Evidence
        What is known. [-]
    player : Player
        Of the design. [-]

    Returns
    -------
    tuple of Stop
        What makes people leave first. [-]
    """
    found = [
        Stop(stop, key, key in LEAVE) for key in evidence.seen
        if (stop := table.symptoms[key].stops) is not None
    ]  # fmt: skip
    outlets = {part.id for part in player.known.parts if isinstance(part, use.Outlet)}
    found += [
        Stop("outlet", reading.quantity) for reading in evidence.readings
        if reading.kind == "temp" and reading.part in outlets and reading.value > SCALD_C
    ]  # fmt: skip
    return tuple(sorted(found, key=lambda stop: not stop.leave))


def forbidden(test: FaultTest, part: str | None, stops: Sequence[Stop], player: Player) -> bool:
    """Say whether a stop forbids a test.

    Parameters
    ----------
    test : FaultTest
        The test. [-]
    part : str or None
        Where it would be done. [-]
    stops : sequence of Stop
        All that hold. [-]
    player : Player
        Of the design. [-]

    Returns
    -------
    bool
        True of every test once people are to leave. [-]
    """
    for stop in stops:
        if stop.leave:
            return True
        if stop.what in ("gas", "burner") and _fires(test, player):
            return True
        if stop.what == "mains" and _on_mains(test, part, player):
            return True
        if stop.what == "circuit" and test.id in LOADS:
            return True
        if stop.what == "outlet" and test.id in HOT:
            return True
    return False


def _fires(test: FaultTest, player: Player) -> bool:
    if test.id in FIRES or "gas_load" in test.kinds:
        return True
    burns = any(
        isinstance(part, heat.ThroughFlowGas | heat.Burner | heat.Combi | heat.LiquidHeater)
        for part in player.known.parts
    )
    return burns and test.id in HEATS


def _on_mains(test: FaultTest, part: str | None, player: Player) -> bool:
    if test.id in MAINS:
        return True
    elements = [one for one in player.known.parts if isinstance(one, heat.Element)]
    mains = [one for one in elements if not on_battery(player.known, one)]
    if test.id == "heat_up_time":
        return any(one.fitted_in == part for one in mains)
    return test.needs == "mains" or any(one.id == part for one in mains)
