"""What broke a day, in a clause that can stand first."""

from __future__ import annotations

from isotherma.core.quantity import shown
from isotherma.core.results.causes import Broke, Cause, Then
from isotherma.wording.reader import Reader


def cause_words(cause: Cause, reader: Reader) -> str:
    """Say what broke the day, in a clause that can stand first, without a full stop."""
    name = reader.name(cause.part_id)
    figures = cause.figures

    def read(key: str, style: str, digits: int = 3) -> str:
        return reader.quantity(figures[key], style, digits)

    match cause.broke:
        case Broke.FUSE:
            return (
                f"The fuse of {name} blows, {read('takes_a', 'current', 2)} on "
                f"{read('bears_a', 'current', 2)}; {_then_words(cause, reader)}"
            )
        case Broke.CUT_OUT:
            opens = read("opens_c", "temperature")
            return f"{name} opens at {opens} and waits for a hand; {_then_words(cause, reader)}"
        case Broke.SWITCHED_OFF:
            return f"{name} is cut off in this state: a switch is open, or nothing is plugged in"
        case Broke.FAINT:
            volts, least = read("volts_v", "voltage"), read("least_v", "voltage")
            return f"{name} gets {volts} while it glows and gives up under {least}; nothing burns"
        case Broke.BATTERY:
            return f"The battery is empty at {_clock(cause, reader)}"
        case Broke.GAS_COLD:
            at = _clock(cause, reader)
            return f"The gas bottle is too cold to give its load at {at}; the flame goes out"
        case Broke.GAS_EMPTY:
            return f"The gas bottle is empty at {_clock(cause, reader)}; the flame goes out"
        case Broke.FUEL:
            at = _clock(cause, reader)
            return f"The fuel has come to what must stay in the tank at {at}; the flame goes out"
        case Broke.NO_SPARK:
            volts, least = read("volts_v", "voltage", 2), read("least_v", "voltage", 2)
            heater = reader.name(cause.stands[0])
            return f"{heater} does not light: its cells give {volts} each, and sparks want {least}"
        case Broke.NO_FLOW:
            flow, lights = read("flow_m3_per_s", "flow"), read("lights_m3_per_s", "flow")
            return f"{name} does not light: {flow} passes it, and it lights at {lights}"


def _clock(cause: Cause, reader: Reader) -> str:
    return shown(cause.figures["at_s"], "clock", reader.units)


def _then_words(cause: Cause, reader: Reader) -> str:
    if not cause.then_id:
        return "what hangs on it stands"
    name = reader.name(cause.then_id)
    match cause.then:
        case Then.STANDS:
            return f"{name} stands"
        case Then.STAYS_COLD:
            return f"{name} stays cold"
        case Then.GIVES_NOTHING:
            return f"{name} gives nothing"
