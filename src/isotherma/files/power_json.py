"""What wires and gas pipes carry, as JSON."""

from __future__ import annotations

from typing import Any, Final

from isotherma.core.setup.charging import Charge
from isotherma.core.setup.gas_tree import GasReport
from isotherma.core.setup.power import PowerReport

POWER_FORMAT: Final = "isotherma-power"


def power_object(
    power: PowerReport,
    gas: GasReport,
    charges: tuple[Charge, ...] = (),
    *,
    name: str,
    variant: str,
    state: str,
) -> dict[str, Any]:
    """Give what is carried as an object for JSON.

    Parameters
    ----------
    power : PowerReport
        Of the wires. [A, V, W]
    gas : GasReport
        Of the gas pipes. [kg/s, Pa]
    charges : tuple of Charge
        What charges the battery, at most. [A, V, W]
    name, variant, state : str
        Of the vehicle, the variant and the state; "" for the usual one. [-]

    Returns
    -------
    dict
        Keys as in docs/file-format.md. [see the keys]
    """
    return {
        "format": POWER_FORMAT, "vehicle": name, "variant": variant, "state": state,
        "loads": [
            {
                "part": load.id, "circuit": load.circuits[0] if load.circuits else None,
                "amps": load.amps, "volts": load.volts, "watts": load.watts,
                "drop_share": load.drop_share, "starts_amps": load.starts_a, "runs": load.runs,
                "why_not": None if load.why_not is None else load.why_not.value,
                "at_most_w": load.most_w,
            }
            for load in power.loads
        ],
        "circuits": [
            {
                "circuit": one.id, "amps": one.amps, "starts_amps": one.starts_a,
                "fuse_a": one.fuse_a, "share": one.share, "cable_bears_a": one.cable_a,
                "blows": one.blows, "not_together": [list(pair) for pair in one.apart],
            }
            for one in power.circuits
        ],
        "cables": [
            {"run": one.run, "amps": one.amps, "drop_v": one.drop_v, "lost_w": one.lost_w,
             "bears_a": one.bears_a}
            for one in power.cables
        ],
        "sources": [
            {"part": one.id, "volts": one.volts, "amps": one.amps} for one in power.sources
        ],
        "charges": [
            {"part": one.id, "amps": one.amps, "volts": one.volts, "into_amps": one.into_a,
             "lost_w": one.lost_w}
            for one in charges
        ],
        **_gas_object(gas),
    }  # fmt: skip


def _gas_object(gas: GasReport) -> dict[str, Any]:
    """Give the keys of gas."""
    return {
        "gas": [
            {
                "appliance": one.id, "kg_per_h": one.kg_per_s * 3600 if one.burns else 0.0,
                "pressure_pa": one.pressure_pa, "drop_pa": one.drop_pa, "reached": one.reached,
                "alone_s": one.alone_s,
            }
            for one in gas.appliances
        ],
        "gas_pipes": [
            {"run": one.run, "kg_per_h": one.kg_per_s * 3600, "drop_pa": one.drop_pa}
            for one in gas.pipes
        ],
        "gas_supply": {
            "kg_per_h": gas.kg_per_s * 3600, "regulator_pa": gas.set_pa,
            "regulator_share": gas.regulator_share, "bottle_s": gas.bottle_s,
            "bottle_ends": gas.bottle_ends or None,
            "lasting_kg_per_h": None if gas.lasting_kg_per_s is None
            else gas.lasting_kg_per_s * 3600,
        },
    }  # fmt: skip
