"""The gas pipes: what each appliance burns, what every pipe takes of the pressure, the bottle."""

from __future__ import annotations

from collections.abc import Collection, Iterator, Mapping
from dataclasses import dataclass
from math import pi
from typing import Final

from isotherma.core.graph import beside
from isotherma.core.graph import ways as walked
from isotherma.core.setup.consumption import AIR_SHARE, NET_J_PER_KG, Consumers
from isotherma.core.setup.inventory import bottles_of, least_bottle_pa
from isotherma.core.supply.bottle import hold, sustained_kg_per_s
from isotherma.core.supply.gas_pipe import GAS_KG_PER_M3, gas_drop_pa
from isotherma.core.system import AnyKind
from isotherma.core.system.kinds import gas, heat
from isotherma.core.system.nominal import ComputedSystem, figure, known_figure
from isotherma.core.system.runs import FuelPipe

BEND_M: Final = 0.3  # of pipe, for each; ours
JOINT_M: Final = 0.15
SAID_OVER_S: Final = 6 * 3600.0


@dataclass(frozen=True, slots=True)
class GasAppliance:
    """An appliance: what it burns at full fire, and what pressure is left for it [kg/s, Pa].

    `pressure_pa` and `drop_pa` are None where nobody knows a pipe on the way or where no gas
    reaches it; `plate_pa` is what its plate asks for; `alone_s` for how long the bottle carries it
    alone, None for six hours and more or without a bottle.
    """

    id: str
    label: str
    kg_per_s: float
    burns: bool
    reached: bool
    pressure_pa: float | None
    drop_pa: float | None
    plate_pa: float | None
    way: tuple[str, ...]
    alone_s: float | None = None


@dataclass(frozen=True, slots=True)
class GasPipe:
    """A pipe or hose: what runs through it, how fast, what it takes [kg/s, m/s, Pa].

    `low` says that it lies after the regulator; before it the gas is dense and loses next to
    nothing, so nothing is said.
    """

    run: str
    kg_per_s: float
    speed_m_per_s: float | None
    drop_pa: float | None
    low: bool = True


@dataclass(frozen=True, slots=True)
class GasReport:
    """All gas of a system with some appliances on.

    `set_pa` is what the regulator gives, `rated_kg_per_s` the most of it; `bottle_s` for how long
    the bottle carries all of it in the air around it, None for six hours and more or without a
    bottle, `lasting_kg_per_s` what it carries without end.
    """

    appliances: tuple[GasAppliance, ...]
    pipes: tuple[GasPipe, ...]
    set_pa: float | None
    regulator: str
    rated_kg_per_s: float | None
    bottle: str
    air_c: float
    bottle_s: float | None
    bottle_ends: str
    lasting_kg_per_s: float | None

    @property
    def kg_per_s(self) -> float:
        """All that burns together [kg/s]."""
        return sum(one.kg_per_s for one in self.appliances if one.burns and one.reached)

    @property
    def regulator_share(self) -> float | None:
        """What of the regulator's most is taken; None where nobody knows it [-]."""
        if not self.rated_kg_per_s:
            return None
        return self.kg_per_s / self.rated_kg_per_s


def appliances_of(known: ComputedSystem) -> Mapping[str, float]:
    """List what burns gas, with its full fire.

    Parameters
    ----------
    known : ComputedSystem
        With what was understood of its parts. [-]

    Returns
    -------
    mapping of str to float
        By id, in the document's order. [kg/s]
    """
    parts = {part.id: part for part in known.parts}
    consumers = Consumers(parts, known)
    bottled = next((part.gas for part in known.parts if isinstance(part, gas.GasBottle)), "propane")
    net = NET_J_PER_KG["butane" if bottled == "butane" else "propane"]
    found = {}
    for key, part in parts.items():
        burns = consumers.full_fire_kg_per_s(key)
        if isinstance(part, gas.GasLoad):
            rated_w = known_figure(part, "rated_w")
            burns = float(rated_w) / net if rated_w is not None else 0.0
        elif isinstance(part, heat.AirHeater) and part.fuel in NET_J_PER_KG:
            burns = figure(part, "heat_w") / AIR_SHARE / NET_J_PER_KG[part.fuel]
        if burns > 0.0:
            found[key] = burns
    return found


def gas_report(
    known: ComputedSystem, at: Mapping[str, str], air_c: float, on: Collection[str] | None = None
) -> GasReport:
    """Say what gas pipes carry with some appliances on.

    Parameters
    ----------
    known : ComputedSystem
        With what was understood of its parts. [-]
    at : mapping of str to str
        How valves, couplings and bottles stand. [-]
    air_c : float
        Around the bottle. [°C]
    on : collection of str or None
        Appliances that burn at full fire; None: all. [-]

    Returns
    -------
    GasReport
        In the document's order. [kg/s, Pa]

    References
    ----------
    Darcy–Weisbach in every pipe from the regulator to the appliance; the bottle as
    `supply.bottle` has it.
    """
    parts = {part.id: part for part in known.parts}
    fires = appliances_of(known)
    burning = {
        key: rate for key, rate in fires.items()
        if (on is None or key in on) and at.get(key) != "off"
    }  # fmt: skip
    ways = _ways(known, parts, at)
    regulator = next((part for part in known.parts if isinstance(part, gas.Regulator)), None)
    set_pa = figure(regulator, "set_pa") if regulator is not None else None
    through: dict[str, float] = {}
    for key, rate in burning.items():
        for run in ways.get(key, ()):
            through[run] = through.get(run, 0.0) + rate
    runs = {run.id: run for run in known.runs if isinstance(run, FuelPipe)}
    on_gas = {run for way in ways.values() for run in way}
    before = _before_regulator(ways, regulator)
    pipes = tuple(
        _pipe(run, through.get(key, 0.0), low=key not in before)
        for key, run in runs.items()
        if key in on_gas
    )
    drops = {pipe.run: pipe.drop_pa for pipe in pipes}

    def appliance(key: str, rate: float) -> GasAppliance:
        part, way = parts[key], ways.get(key)
        mine = [drops[run] for run in way if run not in before] if way is not None else []
        known_all = way is not None and None not in mine
        drop = sum(one for one in mine if one is not None) if known_all else None
        plate = getattr(part, "gas_pa", None)
        alone = None
        if bottle is not None and way is not None:
            alone = hold(bottle, kg_per_s=rate, air_c=air_c, limit_pa=least,
                         at_most_s=SAID_OVER_S).held_s  # fmt: skip
        return GasAppliance(
            key, part.label, rate, key in burning, way is not None,
            None if drop is None or set_pa is None else set_pa - drop, drop, plate,
            tuple(way or ()), alone,
        )  # fmt: skip

    bottle, _ = bottles_of(known.parts, air_c)
    least = least_bottle_pa(known.parts)
    appliances = tuple(appliance(key, rate) for key, rate in fires.items())
    total = sum(one.kg_per_s for one in appliances if one.burns and one.reached)
    held = None
    if bottle is not None and total > 0.0:
        held = hold(bottle, kg_per_s=total, air_c=air_c, limit_pa=least, at_most_s=SAID_OVER_S)
    return GasReport(
        appliances, pipes, set_pa, "" if regulator is None else regulator.label,
        None if regulator is None else figure(regulator, "rated_kg_per_s"),
        next((part.label for part in known.parts
              if isinstance(part, gas.GasBottle) and not part.spare), ""),
        air_c, None if held is None else held.held_s,
        "" if held is None or held.held_s is None else held.ended,
        None if bottle is None else sustained_kg_per_s(bottle, air_c=air_c, limit_pa=least),
    )  # fmt: skip


def _pipe(run: FuelPipe, kg_per_s: float, *, low: bool) -> GasPipe:
    if not low:
        return GasPipe(run.id, kg_per_s, None, None, low)
    bore, length = known_figure(run, "bore_m"), known_figure(run, "length_m")
    if bore is None or length is None:
        return GasPipe(run.id, kg_per_s, None, None)
    counted = float(length) + BEND_M * run.turns + JOINT_M * run.joints
    speed = kg_per_s / GAS_KG_PER_M3 / (pi / 4 * float(bore) ** 2)
    drop = gas_drop_pa(kg_per_s=kg_per_s, bore_m=float(bore), length_m=counted)
    return GasPipe(run.id, kg_per_s, speed, drop)


def _ways(
    known: ComputedSystem, parts: Mapping[str, AnyKind], at: Mapping[str, str]
) -> dict[str, tuple[str, ...]]:
    """Find the pipes from a bottle to every part that gas reaches, past what is shut or apart."""
    near = beside(
        (run.id, run.start.part, run.end.part) for run in known.runs if isinstance(run, FuelPipe)
    )
    passes = (gas.GasBottle, gas.Regulator, gas.GasCoupling, gas.GasValve, gas.Manifold)

    def onwards(here: str) -> Iterator[tuple[str, str]]:
        if isinstance(parts.get(here), passes) and at.get(here) not in ("shut", "apart"):
            for run, other in near.get(here, ()):
                if not isinstance(parts.get(other), gas.GasBottle):
                    yield run, other

    bottles = (part for part in known.parts if isinstance(part, gas.GasBottle) and not part.spare)
    return walked((part.id for part in bottles if at.get(part.id) != "shut"), onwards)


def _before_regulator(
    ways: Mapping[str, tuple[str, ...]], regulator: gas.Regulator | None
) -> frozenset[str]:
    """Name the pipes before the regulator, at the bottle's pressure."""
    return frozenset(ways.get(regulator.id, ())) if regulator is not None else frozenset()
