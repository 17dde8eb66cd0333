"""What wires and gas pipes of a variant carry, in a state, with any set of loads on."""

from __future__ import annotations

from collections.abc import Collection, Mapping
from dataclasses import dataclass

from isotherma import catalogue
from isotherma.core.climate import WARMEST_S
from isotherma.core.project import Project, Variant
from isotherma.core.setup.gas_tree import GasReport, appliances_of, gas_report
from isotherma.core.setup.power import PowerReport, loads_of, power_report
from isotherma.core.setup.setup import COLDEST_S
from isotherma.core.supply.schedule import Schedule
from isotherma.core.system.configuration import positions
from isotherma.core.system.kinds import gas
from isotherma.core.system.nominal import ComputedSystem, computed
from isotherma.core.system.states import State


@dataclass(frozen=True, slots=True)
class Carried:
    """What is carried, with what it was asked of: the system as computed, how it stands."""

    known: ComputedSystem
    at: Mapping[str, str]
    power: PowerReport
    gas: GasReport


def may_be_on(variant: Variant) -> tuple[tuple[str, ...], tuple[str, ...]]:
    """List what takes electricity and what burns gas, by id."""
    known = computed(variant.system)
    return loads_of(known), tuple(appliances_of(known))


def carried(
    project: Project, variant: Variant, state: State | None, on: Collection[str] | None = None
) -> Carried:
    """Say what wires and gas pipes carry in a state.

    Parameters
    ----------
    project : Project
        The document: its brief says the air around the bottle. [-]
    variant : Variant
        Which of its variants. [-]
    state : State or None
        How it stands; None: as usual. [-]
    on : collection of str or None
        Ids of loads and appliances that are on; None: all. [-]

    Returns
    -------
    Carried
        Computed by the tree that feeds the day. [A, V, W, kg/s, Pa]
    """
    known, at = computed(variant.system), positions(variant.system, state)
    air_c = _bottle_c(project, known, at)
    return Carried(known, at, power_report(known, at, on), gas_report(known, at, air_c, on))


def _bottle_c(project: Project, known: ComputedSystem, at: Mapping[str, str]) -> float:
    """Give the mean air around the joined bottle; outside where nobody says where it is [°C]."""
    climate = catalogue.climate(project.brief)
    bottle = next(
        (part for part in known.parts if isinstance(part, gas.GasBottle)
         and not part.spare), None
    )  # fmt: skip
    if bottle is None or bottle.space is None:
        return climate.air_c
    hours = Schedule.of(project.brief, known, climate, at)
    return 0.5 * (hours.space_c(bottle.space, WARMEST_S) + hours.space_c(bottle.space, COLDEST_S))
