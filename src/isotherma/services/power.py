"""What wires and gas pipes of a variant carry, in a state, with any set of loads on."""

from __future__ import annotations

from collections.abc import Collection, Mapping
from dataclasses import dataclass

from isotherma import catalogue
from isotherma.core.project import Project, Variant
from isotherma.core.setup.charging import Charge, charges_of
from isotherma.core.setup.gas_tree import GasReport, appliances_of, gas_report
from isotherma.core.setup.inventory import joined_bottle_id
from isotherma.core.setup.power import PowerReport, loads_of, power_report
from isotherma.core.supply.schedule import Schedule
from isotherma.core.system.configuration import positions
from isotherma.core.system.nominal import ComputedSystem, computed
from isotherma.core.system.states import State


@dataclass(frozen=True, slots=True)
class Carried:
    """What is carried, with what it was asked of: the system as computed, how it stands."""

    known: ComputedSystem
    at: Mapping[str, str]
    power: PowerReport
    gas: GasReport
    charges: tuple[Charge, ...] = ()


def may_be_on(variant: Variant) -> tuple[str, ...]:
    """List what takes electricity or burns gas, by id."""
    known = computed(variant.built.system)
    return tuple(dict.fromkeys((*loads_of(known), *appliances_of(known))))


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
    known, at = computed(variant.built.system), positions(variant.built.system, state)
    air_c = _bottle_c(project, known, at, state)
    return Carried(
        known, at, power_report(known, at, on), gas_report(known, at, air_c, on),
        charges_of(known, at),
    )  # fmt: skip


def _bottle_c(
    project: Project, known: ComputedSystem, at: Mapping[str, str], state: State | None
) -> float:
    """Give the mean air around the joined bottle, where the state puts it [°C]."""
    climate = catalogue.climate(project.brief)
    bottle = joined_bottle_id(known.parts)
    moved = {item.part: item.space for item in state.placed} if state is not None else {}
    space = None if bottle is None else moved.get(bottle, known.part(bottle).space)
    return Schedule.of(project.brief, known, climate, at).mean_c(space)
