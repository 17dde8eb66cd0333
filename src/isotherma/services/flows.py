"""Flows of a variant: one state with some outlets open, solved once and kept."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field

from isotherma import catalogue
from isotherma.core.cache import Cache, Caches
from isotherma.core.errors import CoreError, NoSuchOutlet
from isotherma.core.flows.draining import DrainDown, drain_down
from isotherma.core.flows.gauges import Doubt, GaugeTable, doubts, gauge_tables
from isotherma.core.flows.leak import PumpStarts, pump_starts
from isotherma.core.flows.levelling import Levelling, levelling
from isotherma.core.flows.network_compiler import CompiledNetwork, compile_network
from isotherma.core.flows.pulse import Point, operate
from isotherma.core.flows.report import FlowReport, flow_report
from isotherma.core.flows.shock import Shock, shocks
from isotherma.core.flows.surroundings import spaces_air, surroundings
from isotherma.core.flows.waste import HOSE_M3_PER_S, Waste, waste_of
from isotherma.core.project import Project, Variant
from isotherma.core.results.damp import dries_kg_per_s
from isotherma.core.supply.hot_air import HotAir, hot_air
from isotherma.core.supply.strokes import Strokes, strokes_of
from isotherma.core.system import System
from isotherma.core.system.configuration import positions
from isotherma.core.system.kinds.use import Outlet
from isotherma.core.system.kinds.water import Drain
from isotherma.core.system.nominal import computed
from isotherma.core.system.pieces import LITRE_PER_MIN
from isotherma.core.system.states import State
from isotherma.services.readiness import KERNELS

NETWORK_BYTES, FLOWS_BYTES = 250_000, 300_000  # measured on Folio


@dataclass(frozen=True, slots=True)
class Asked:
    """What is open and what is known besides the document; openings by part id, 0 to 1."""

    opens: Mapping[str, float] = field(default_factory=dict)
    fresh_c: float | None = None
    at_c: Mapping[str, float] = field(default_factory=dict)
    level_m: Mapping[str, float] = field(default_factory=dict)
    dirty: bool = False


@dataclass(frozen=True, slots=True)
class SolvedFlows:
    """One operating point of a variant, with what a second tap would do."""

    network: CompiledNetwork
    point: Point
    report: FlowReport
    shocks: tuple[Shock, ...]


def network_of(
    project: Project, variant: Variant, state: State | None, asked: Asked
) -> CompiledNetwork:
    """Compile a variant's network in a state, in the brief's month and place."""
    brief = project.brief
    stands = surroundings(
        brief,
        variant.built.system,
        state,
        catalogue.climate(brief),
        fresh_c=asked.fresh_c,
        at_c=asked.at_c,
        level_m=asked.level_m,
        dirty=asked.dirty,
    )
    return compile_network(variant.built.system, state, stands)


def solve_flows(
    project: Project, variant: Variant, state: State | None, asked: Asked
) -> SolvedFlows:
    """Solve a state with some outlets open; a CoreError says why it cannot be."""
    network = network_of(project, variant, state, asked)
    return _solved(network, asked)


def _solved(network: CompiledNetwork, asked: Asked) -> SolvedFlows:
    point = operate(network, asked.opens)
    return SolvedFlows(network, point, flow_report(point), shocks(network, point))


def outlets_of(system: System) -> dict[str, str]:
    """List what can be opened by id and name: outlets first, then drains."""
    found = {part.id: part.label for part in system.parts if isinstance(part, Outlet)}
    return found | {part.id: part.label for part in system.parts if isinstance(part, Drain)}


def find_outlet(system: System, wanted: str) -> str:
    """Give the id of an outlet or drain by its id or name; NoSuchOutlet if there is none."""
    known = outlets_of(system)
    if wanted in known:
        return wanted
    named = [key for key, label in known.items() if label == wanted]
    if len(named) != 1:
        raise NoSuchOutlet(part_id=wanted, opening=1.0, known=tuple(known))
    return named[0]


def leaks(project: Project, variant: Variant, state: State | None) -> tuple[PumpStarts, ...]:
    """Describe every pump with a switch, with everything shut."""
    return pump_starts(variant.built.system, network_of(project, variant, state, Asked()))


def drained(project: Project, variant: Variant, state: State | None) -> DrainDown:
    """Drain a state down."""
    return drain_down(network_of(project, variant, state, Asked()), project.vehicle)


def wasted(project: Project, variant: Variant, state: State | None) -> Waste:
    """Tell how a state drains by gravity and fills."""
    return waste_of(variant.built.system, state, project.vehicle)


@dataclass(frozen=True, slots=True)
class Blown:
    """Hot air that arrives somewhere, and what it dries there [kg/s]."""

    air: HotAir
    dries_kg_per_s: float


@dataclass(frozen=True, slots=True)
class Tanks:
    """What gauges mean, how joined tanks level out, what strokes do to heaters."""

    gauges: tuple[GaugeTable, ...]
    joined: tuple[Levelling, ...]
    strokes: tuple[Strokes, ...]
    doubts: tuple[Doubt, ...]


DRAWN_M3_PER_S = 6 * LITRE_PER_MIN  # of joined tanks, where nothing is open
HUMID = 0.5


def tanks_of(
    project: Project, variant: Variant, state: State | None, drawn_m3_per_s: float
) -> Tanks:
    """Read the tanks of a variant as its vehicle stands; `drawn_m3_per_s` 0: a usual flow."""
    known = computed(variant.built.system)
    return Tanks(
        gauge_tables(known, project.vehicle),
        levelling(known, positions(known, state), hose_m3_per_s=HOSE_M3_PER_S,
                  drawn_m3_per_s=drawn_m3_per_s or DRAWN_M3_PER_S),
        strokes_of(variant.built.system), doubts(known),
    )  # fmt: skip


def warm_air(project: Project, variant: Variant, state: State | None) -> tuple[Blown, ...]:
    """Say where the hot air of a variant's air heaters goes, and what it dries there."""
    known = computed(variant.built.system)
    air_c = spaces_air(project.brief, variant.built.system, catalogue.climate(project.brief))
    return tuple(
        Blown(air, dries_kg_per_s(
            air_c=air.air_c, stream_w_per_k=air.stream_w_per_k, inside_c=project.brief.inside_c,
            humid=HUMID,
        ))
        for air in hot_air(known, positions(known, state), air_c)
    )  # fmt: skip


class FlowService:
    """Solves flows for pages and remembers networks and points, errors included."""

    def __init__(self, caches: Caches) -> None:
        self._circuits: Cache[CompiledNetwork] = Cache(caches, "network", lambda _: NETWORK_BYTES)
        self._points: Cache[SolvedFlows | CoreError] = Cache(caches, "flows", lambda _: FLOWS_BYTES)

    def result(
        self, project: Project, variant: Variant, state: State | None, asked: Asked
    ) -> SolvedFlows | CoreError:
        """Give a solved point, or why there is none."""
        waits = KERNELS.waits()
        if waits is not None:
            return waits
        base = (
            project.brief.digest,
            variant.built.system.digest,
            state.id if state is not None else None,
            asked.fresh_c,
            tuple(sorted(asked.at_c.items())),
            tuple(sorted(asked.level_m.items())),
            asked.dirty,
        )

        def find() -> SolvedFlows | CoreError:
            try:
                network = self._circuits.once(
                    base, lambda: network_of(project, variant, state, asked)
                )
                return _solved(network, asked)
            except CoreError as error:
                return error

        return self._points.once((*base, tuple(asked.opens.items())), find)
