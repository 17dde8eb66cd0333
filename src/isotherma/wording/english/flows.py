"""Flows in sentences: what runs, what pulses, what a second tap does, what is wrong."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from typing import Final

from isotherma.core.findings import Finding
from isotherma.core.flows.kernel import LEAST_INLET_PA
from isotherma.core.flows.report import (
    NOISY_SUCTION_PA,
    NOTHING_M3_PER_S,
    OutletFlow,
    PumpFlow,
)
from isotherma.core.flows.shock import Shock
from isotherma.core.hydraulics.pulsing import Cycle
from isotherma.core.quantity import UnitSystem, shown, with_unit
from isotherma.wording.reader import Reader, number

BOILING_MARGIN_PA: Final = 20e3
FELT_K: Final = 1.0
FELT_SHARE: Final = 0.1


def flow_words(value: float, units: UnitSystem) -> str:
    """Write a flow for reading.

    Parameters
    ----------
    value : float
        The flow. [m³/s]
    units : UnitSystem
        Units to speak in. [-]

    Returns
    -------
    str
        Fewer digits below 10 L/min. [-]
    """
    return with_unit(value, "flow", units, 2 if value < 1e-3 / 6 else 3)


def pressure_words(value: float, units: UnitSystem) -> str:
    """Write a gauge pressure for reading.

    Parameters
    ----------
    value : float
        The pressure. [Pa]
    units : UnitSystem
        Units to speak in. [-]

    Returns
    -------
    str
        With its unit. [-]
    """
    return with_unit(value, "pressure", units, 3)


def _swings(cycle: Cycle, units: UnitSystem) -> str:
    low, high = (shown(q, "flow", units, 2) for q in (cycle.least_m3_per_s, cycle.most_m3_per_s))
    unit = with_unit(0.0, "flow", units).split("\u00a0")[1]
    return f"{low} to {high}\u00a0{unit}"


def _rate(cycle: Cycle) -> str:
    per_min = cycle.starts_per_h / 60.0
    if per_min >= 1.0:
        return f"{per_min:.0f} times a minute" if per_min >= 1.5 else "about once a minute"
    return f"{cycle.starts_per_h:.0f} times an hour"


def pump_sentences(pump: PumpFlow, units: UnitSystem) -> tuple[str, ...]:
    """Say how a pump fares: whether it runs or cycles, what it sucks and draws.

    Parameters
    ----------
    pump : PumpFlow
        As reported. [-]
    units : UnitSystem
        Units to speak in. [-]

    Returns
    -------
    tuple of str
        Whole sentences. [-]
    """
    name = pump.label
    said = []
    current = f", drawing {with_unit(pump.current_a, 'current')}" if pump.current_a else ""
    if pump.doing == "rests":
        said.append(f"{name} rests: nothing takes water from it.")
    elif pump.cycle is not None:
        cycle = pump.cycle
        kind = "pulses" if cycle.short_cycles else "switches on and off"
        mean = f"{current} on average" if current else ""
        said.append(
            f"{name} {kind} {_rate(cycle)}: {cycle.on_s:.1f} s on, {cycle.off_s:.1f} s off; the "
            f"flow swings from {_swings(cycle, units)}{mean}."
        )
    else:
        how = "is held at" if pump.doing == "held" else "runs on against"
        said.append(f"{name} {how} {pressure_words(pump.outlet_pa, units)}{current}.")
    if (
        pump.steady_above_m3_per_s is not None and pump.fastest is not None
        and pump.steady_above_m3_per_s > NOTHING_M3_PER_S and pump.fastest.starts_per_h >= 0.5
    ):  # fmt: skip
        most = pump.fastest
        assert pump.fastest_m3_per_s is not None
        verb = "pulses" if most.short_cycles else "switches on and off"
        said.append(
            f"Below {flow_words(pump.steady_above_m3_per_s, units)} it {verb}, at "
            f"{flow_words(pump.fastest_m3_per_s, units)} most often: {_rate(most)}."
        )
    return (*said, *_suction(pump, units))


def _suction(pump: PumpFlow, units: UnitSystem) -> list[str]:
    said = []
    sucks = pressure_words(pump.inlet_pa, units)
    if pump.flow_m3_per_s and pump.inlet_pa < LEAST_INLET_PA + 1e3:
        said.append(
            f"It sucks as hard as anything can ({sucks}): air and vapour come out of the water at "
            "its inlet, so it rattles and no more than this flow gets through. Shorten or widen "
            "the suction side, or clean the strainer."
        )
    elif pump.flow_m3_per_s and pump.over_boiling_pa < BOILING_MARGIN_PA:
        said.append(
            f"It sucks so hard ({sucks}) that water this warm nears boiling at its inlet: less "
            "than this flow may come. Shorten or widen the suction side."
        )
    elif pump.flow_m3_per_s and pump.inlet_pa < NOISY_SUCTION_PA:
        said.append(
            f"It sucks at {sucks}: expect noise and less flow. Shorten or "
            "widen the suction side, or clean the strainer."
        )
    if pump.lift_m is not None and pump.primes_m is not None:
        lift, primes = (with_unit(v, "length", units) for v in (pump.lift_m, pump.primes_m))
        if pump.lift_m > pump.primes_m:
            said.append(
                f"It stands {lift} above the water and lifts about {primes} when dry: it may not "
                "prime."
            )
        elif pump.lift_m > 0.05:
            said.append(f"It lifts the water {lift}, of about {primes} it manages when dry.")
    return said


def outlet_sentence(outlet: OutletFlow, units: UnitSystem) -> str:
    """Say what comes out of an open outlet.

    Parameters
    ----------
    outlet : OutletFlow
        As reported. [-]
    units : UnitSystem
        Units to speak in. [-]

    Returns
    -------
    str
        One sentence. [-]
    """
    if outlet.flow_m3_per_s <= 0.0:
        return (
            f"Nothing comes out of {outlet.label} in this state: no pump, height or pressure "
            "reaches it, or something in between is shut."
        )
    return (
        f"{outlet.label} gives {flow_words(outlet.flow_m3_per_s, units)} at "
        f"{with_unit(outlet.temperature_c, 'temperature', units)}, with "
        f"{pressure_words(outlet.pressure_pa, units)} before it."
    )


def shock_sentence(shock: Shock, label: Callable[[str], str], units: UnitSystem) -> str:
    """Say what somebody feels when another outlet is opened or shut.

    Parameters
    ----------
    shock : Shock
        Before, at once and after. [-]
    label : callable
        Gives the name of a part by its id. [-]
    units : UnitSystem
        Units to speak in. [-]

    Returns
    -------
    str
        One sentence. [-]
    """
    before, once, after = shock.before, shock.at_once, shock.after
    verb = "opens" if shock.opens else "is shut"
    start = f"When {label(shock.moved)} {verb}, {label(shock.watched)}"
    if after.flow_m3_per_s <= 1e-8:
        return f"{start} stops running."
    change = abs(after.flow_m3_per_s / before.flow_m3_per_s - 1.0)
    flow = f"keeps its flow of {flow_words(before.flow_m3_per_s, units)}"
    if change >= FELT_SHARE:
        word = "falls" if after.flow_m3_per_s < before.flow_m3_per_s else "rises"
        flow = (
            f"{word} from {flow_words(before.flow_m3_per_s, units)} to "
            f"{flow_words(after.flow_m3_per_s, units)}"
        )
    said = [f"{start} {flow}"]
    jump, settles = (one.temperature_c - before.temperature_c for one in (once, after))
    if abs(jump) >= FELT_K and abs(jump - settles) >= FELT_K:
        said.append(
            f"is {with_unit(once.temperature_c, 'temperature', units)} until the valve has followed"
        )
    if abs(settles) >= FELT_K:
        said.append(
            f"goes from {with_unit(before.temperature_c, 'temperature', units)} to "
            f"{with_unit(after.temperature_c, 'temperature', units)}"
        )
    elif len(said) == 1:
        said.append("stays as warm as it was")
    return ", ".join(said[:-1]) + (" and " if len(said) > 1 else "") + said[-1] + "."


DOES: Final[Mapping[str, str]] = {
    "holds": "holds",
    "hot_stop": "at its hot stop",
    "cold_stop": "at its cold stop",
    "cold_lost": "shut: no cold water reaches it",
    "too_little_flow": "may not hold: less water passes than it needs",
    "too_little_to_light": "does not light: too little flow",
    "burns": "burns",
    "lights_by_turns": "lights and drops by turns",
}


def doing_words(finding: Finding | None) -> str:
    """Say in a clause what a part that moves by itself does; "" of all others."""
    if finding is None:
        return ""
    if finding.code == "runs_back":
        return f"water runs back through its {finding.values['leg']} leg"
    if finding.code == "unequal_pressures":
        ratio = number(finding, "ratio")
        return f"may not hold: the pressures before its legs differ {ratio:.1f} to 1"
    return DOES[finding.code]


def flow_warning(finding: Finding, reader: Reader) -> str:
    """Write one finding of an operating point in a sentence."""
    match finding.code:
        case "fast_run":
            return (
                f"{reader.name(finding.part_id)}: {reader.value(finding, 'speed_m_per_s')} is "
                "fast; a wider bore is quieter and takes less pressure."
            )
        case "pump_kept_shut":
            pump, other = (reader.name(key) for key in finding.parts)
            return (
                f"{pump} is kept shut by {other}: two pumps on one mixer work against each other, "
                "and which one runs depends on which starts first."
            )
        case "rises_do_not_add_up":
            return (
                "Round a loop the rises of its runs do not add up; up to "
                f"{reader.value(finding, 'miss_m')} was shared out among them."
            )
    return f"{reader.name(finding.part_id)}: {doing_words(finding)}."
