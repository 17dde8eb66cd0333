"""The plan of a variant: tasks in order, and stages with what the engine expects of them."""

from __future__ import annotations

from itertools import pairwise

from isotherma.catalogue.joints import assumed_ends, threads
from isotherma.core.building.order import Plan, plan_of
from isotherma.core.building.sections import sections_of
from isotherma.core.building.stages import Computed, stages_of
from isotherma.core.building.tasks import on_mains, tasks_of
from isotherma.core.errors import CoreError
from isotherma.core.hydraulics.cushion import run_on_s
from isotherma.core.joints.holes import holes_of
from isotherma.core.project import Project, Variant
from isotherma.core.system import System
from isotherma.core.system.configuration import fitted_by, positions
from isotherma.core.system.kinds import use
from isotherma.core.system.kinds.water import Pump
from isotherma.core.system.nominal import computed
from isotherma.core.system.states import State
from isotherma.services.shopping import METRIC, run_ends

LOW_V, HIGH_V = 12.0, 13.4  # of a battery of 12 V, lead or lithium
HOT_SHARE = 0.02  # what a wire of an element has more when it is hot


def planned(
    project: Project, variant: Variant, *, state: State | None = None, phase: str | None = None
) -> Plan:
    """Plan the building of a variant in one state.

    Parameters
    ----------
    project : Project
        The document. [-]
    variant : Variant
        Which of its variants. [-]
    state : State or None
        How it stands while it is tested; None: as on the day that is seen. [-]
    phase : str or None
        What that phase adds; None: all of it. [-]

    Returns
    -------
    Plan
        What cannot be computed is said stage by stage. [minutes]

    Raises
    ------
    PlanCircle
        If tasks wait for each other in a circle.
    """
    whole = variant.system
    system = whole if phase is None else fitted_by(whole, phase)
    at = state if state is not None else variant.standing
    built = variant.model_copy(update={"system": system, "phase": None})
    sections = sections_of(system, computed(system), positions(system, at))
    stages = stages_of(system, sections, _computed(project, built, at))
    holes = holes_of(system, threads(), assumed_ends(system.tradition or METRIC))
    lined = {space.id for space in system.spaces if space.lined}
    tasks = tasks_of(system, run_ends(system), holes, lined)
    return plan_of(system, tasks, stages, holes, phase)


def labels_of(system: System) -> dict[str, str]:
    """Give labels of all a plan may be about, by id: parts, runs, spaces, holes."""
    names = {one.id: one.label for one in (*system.parts, *system.runs)}
    names |= {space.id: space.name for space in system.spaces}
    return names | {hole.id: hole.name for hole in system.holes}


def _computed(project: Project, variant: Variant, state: State | None) -> Computed:
    """Ask the engine for what stages expect; what it cannot say is left out."""
    from isotherma.core.flows.fittings import pump_points
    from isotherma.core.flows.leak import pump_starts
    from isotherma.core.flows.pulse import accumulators_of, switch_pumps
    from isotherma.services.flows import Asked, network_of, solve_flows

    system = variant.system
    try:
        network = network_of(project, variant, state, Asked())
    except CoreError:
        return Computed()
    flows = {}
    for part in system.parts:
        if isinstance(part, use.Outlet) and part.id in network.ends:
            try:
                solved = solve_flows(project, variant, state, Asked(opens={part.id: 1.0}))
            except CoreError:
                continue
            for outlet in solved.report.outlets:
                if outlet.id == part.id and outlet.flow_m3_per_s > 0.0:
                    flows[part.id] = outlet.flow_m3_per_s
    run_on, cut_out, kept = {}, {}, {}
    for key, pump in switch_pumps(network):
        assert pump.cut_out_pa is not None
        cut_out[key] = pump.cut_out_pa
        took = _run_on(pump, pump_points(pump), accumulators_of(network, key))
        if took is not None:
            run_on[key] = took
    for starts in pump_starts(system, network):
        kept[starts.pump] = (starts.kept.low, starts.kept.likely, starts.kept.high)
    heights = {port: network.height_m[node] for port, node in network.node.items()}
    return Computed(flows, run_on, cut_out, kept, _amps(system), heights)


def _run_on(
    pump: Pump, points: tuple[tuple[float, float], ...],
    vessels: dict[str, tuple[float, float]],
) -> float | None:  # fmt: skip
    """Time a pump runs against everything shut, from nothing to its cut-out."""
    if pump.cut_out_pa is None:
        return None
    rising = sorted((pressure, flow) for flow, pressure in points)

    def flow_at(pressure: float) -> float:
        for (low, more), (high, less) in pairwise(rising):
            if low <= pressure <= high and high > low:
                return more + (less - more) * (pressure - low) / (high - low)
        return 0.0 if pressure > rising[-1][0] else rising[0][1]

    # several accumulators act one beside the other: their volumes add where they are charged alike
    volume = sum(size for size, _ in vessels.values())
    charge = min((precharge for _, precharge in vessels.values()), default=0.0)
    return run_on_s(flow_at, 0.0, pump.cut_out_pa, cushion_m3=volume, precharge_pa=charge)


def _amps(system: System) -> dict[str, tuple[float, float, float]]:
    """Give the amps of elements by their label at the volts there may be, without their wires."""
    from isotherma.core.system.kinds import heat
    from isotherma.core.system.pieces import MAINS_V, SYSTEM_V

    found = {}
    mains = on_mains(system)
    for part in system.parts:
        if not isinstance(part, heat.Element) or part.rated_w is None:
            continue
        usual = MAINS_V if part.id in mains else SYSTEM_V
        label = usual if part.rated_v is None else part.rated_v
        ohms = label**2 / part.rated_w if part.resistance_ohm is None else part.resistance_ohm
        if part.supply_v is not None:
            low, high = part.supply_v, part.supply_v
        elif part.id in mains:
            low, high = 0.94 * label, 1.1 * label  # EN 60038
        else:
            low, high = LOW_V * usual / SYSTEM_V, HIGH_V * usual / SYSTEM_V
        hot = 1.0 + HOT_SHARE
        found[part.id] = (low / ohms / (hot + HOT_SHARE), 0.5 * (low + high) / ohms / hot,
                          high / ohms)  # fmt: skip
    return found
