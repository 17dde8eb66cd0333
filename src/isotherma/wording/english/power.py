"""What wires and gas pipes carry, in words."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Final

from isotherma.core.quantity import UnitSystem, duration_words, with_unit
from isotherma.core.setup.gas_tree import GasReport
from isotherma.core.setup.power import PowerCircuit, PowerLoad, PowerReport, WhyOff

WORTH_SAYING: Final = 0.03  # of the volts: what boats and vans are wired for
WHY_OFF: Final[Mapping[WhyOff, str]] = {
    WhyOff.NOT_ON: "not on",
    WhyOff.OFF: "switched off",
    WhyOff.CUT_OFF: "cut off by an open switch",
    WhyOff.FUSE_ALONE: "takes more than its fuse bears",
    WhyOff.WAITS: "waits: its circuit feeds one load at a time",
    WhyOff.BLOWS: "its fuse blows",
    WhyOff.FAINT: "too few volts reach it while it lights",
    WhyOff.CANNOT: "its wires cannot feed it",
}


def load_words(load: PowerLoad, units: UnitSystem) -> str:
    """Say why a load does not run, with its figure; "" for one that runs.

    Parameters
    ----------
    load : PowerLoad
        Of a report. [-]
    units : UnitSystem
        Units to speak in. [-]

    Returns
    -------
    str
        A clause without a full stop. [-]
    """
    if load.why_not is None:
        return ""
    words = WHY_OFF[load.why_not]
    if load.why_not is WhyOff.CANNOT and load.most_w is not None:
        return f"{words}: at most {with_unit(load.most_w, 'power', units, 2)} through them"
    if load.why_not is WhyOff.FUSE_ALONE:
        return f"{words}: {with_unit(load.starts_a, 'current', units, 3)}"
    return words


def circuit_words(circuit: PowerCircuit, units: UnitSystem) -> str:
    """Say what is wrong with a fuse; "" where nothing is.

    Parameters
    ----------
    circuit : PowerCircuit
        Of a report. [-]
    units : UnitSystem
        Units to speak in. [-]

    Returns
    -------
    str
        A clause without a full stop. [-]
    """
    if circuit.blows:
        return "blows with all of this on"
    said = []
    if circuit.fuse_a is None:
        said.append("its fuse is not known")
    elif circuit.cable_a is not None and circuit.fuse_a > circuit.cable_a:
        bears = with_unit(circuit.cable_a, "current", units, 3)
        said.append(f"does not protect its cable, which bears {bears}")
    elif circuit.starts_a > circuit.fuse_a:
        starts = with_unit(circuit.starts_a, "current", units, 3)
        said.append(f"for a moment {starts}, as everything starts at once")
    said += [f"not together: {one} and {other}" for one, other in circuit.apart[:3]]
    return ", ".join(said)


def power_sentences(power: PowerReport, units: UnitSystem) -> tuple[str, ...]:
    """Say what matters of the wires: what does not run, what loses most, what is nearly full.

    Parameters
    ----------
    power : PowerReport
        Of a state with some loads on. [-]
    units : UnitSystem
        Units to speak in. [-]

    Returns
    -------
    tuple of str
        The worst first. [-]
    """
    said = []
    asked = [load for load in power.loads if load.why_not is not WhyOff.NOT_ON]
    for load in asked:
        if load.why_not not in (None, WhyOff.OFF):
            said.append(f"{load.label} does not run: {load_words(load, units)}.")
    running = [load for load in asked if load.runs]
    worst = max(running, key=lambda load: load.drop_share, default=None)
    if worst is not None and worst.drop_share > 0.0:
        lost = with_unit(worst.source_v - worst.volts, "voltage", units, 2)
        much = "" if worst.drop_share <= WORTH_SAYING else ", more than the 3% wires are sized for"
        said.append(
            f"{worst.label} gets {with_unit(worst.volts, 'voltage', units, 3)}: {lost}, "
            f"{worst.drop_share:.1%}, is lost on the way{much}."
        )
    fullest = max(
        (one for one in power.circuits if one.share is not None and one.amps > 0.0),
        key=lambda one: one.share or 0.0, default=None,
    )  # fmt: skip
    if fullest is not None and fullest.fuse_a is not None:
        said.append(
            f"{fullest.label} carries {with_unit(fullest.amps, 'current', units, 3)} of "
            f"{with_unit(fullest.fuse_a, 'current', units, 3)}."
        )
    if not said:
        return ("Nothing that takes electricity is on.",)
    return tuple(said)


def gas_sentences(gas: GasReport, units: UnitSystem) -> tuple[str, ...]:
    """Say what matters of the gas: how much burns, what pressure is left, how long the bottle does.

    Parameters
    ----------
    gas : GasReport
        Of a state with some appliances on. [-]
    units : UnitSystem
        Units to speak in. [-]

    Returns
    -------
    tuple of str
        Empty where nothing burns gas. [-]
    """
    if not gas.appliances:
        return ()
    said = []
    cut = [one.label for one in gas.appliances if one.burns and not one.reached]
    if cut:
        said.append(f"No gas reaches {', '.join(cut)}: no pipe, or something is shut or apart.")
    if gas.kg_per_s <= 0.0:
        return (*said, "Nothing burns.")
    rate = with_unit(gas.kg_per_s, "mass_flow", units, 2)
    of_it = gas.regulator_share
    share = "" if of_it is None else f", {of_it:.0%} of what the regulator gives"
    over = " – too much for it" if of_it is not None and of_it > 1.0 else ""
    said.append(f"All together burn {rate}{share}{over}.")
    known = [one for one in gas.appliances if one.burns and one.drop_pa is not None]
    worst = max(known, key=lambda one: one.drop_pa or 0.0, default=None)
    if worst is not None and worst.pressure_pa is not None and worst.drop_pa is not None:
        said.append(
            f"{worst.label} has {with_unit(worst.pressure_pa, 'gas_pressure', units, 3)} left: "
            f"the pipes take {with_unit(worst.drop_pa, 'gas_pressure', units, 2)}."
        )
    elif any(one.burns and one.reached and one.drop_pa is None for one in gas.appliances):
        said.append("What the pipes take is not known: one has no bore or no length.")
    air = with_unit(gas.air_c, "temperature", units, 2)
    if gas.bottle and gas.bottle_s is not None:
        why = "it is too cold" if gas.bottle_ends == "too cold" else "it is empty"
        said.append(
            f"In {air} around it the full bottle carries this for {duration_words(gas.bottle_s)}, "
            f"then {why}."
        )
    elif gas.bottle:
        said.append(f"In {air} around it the full bottle carries this for six hours and more.")
    return tuple(said)
