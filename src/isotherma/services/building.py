"""The plan of a variant: tasks in order, and stages with what the engine expects of them."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from typing import TYPE_CHECKING

from isotherma.catalogue.joints import assumed_ends, threads
from isotherma.core.building.order import Plan, plan_of
from isotherma.core.building.sections import sections_of
from isotherma.core.building.stages import Computed, stages_of
from isotherma.core.building.tasks import on_mains, tasks_of
from isotherma.core.errors import CoreError
from isotherma.core.joints.holes import holes_of
from isotherma.core.project import Project, Variant
from isotherma.core.system import System
from isotherma.core.system.configuration import fitted_by, positions
from isotherma.core.system.kinds import use
from isotherma.core.system.nominal import computed
from isotherma.core.system.states import State
from isotherma.services.shopping import METRIC, run_ends

if TYPE_CHECKING:
    from isotherma.core.faults.evidence import Evidence
    from isotherma.core.faults.player import Player

LOW_V, HIGH_V = 12.0, 13.4  # of a battery of 12 V, lead or lithium
L_PER_MIN = 1e-3 / 60.0
Band3 = tuple[float, float, float]
Players = Callable[["Project", "Variant", "State | None", "Evidence"], "Player"]
FEEDING = ("hook_up", "circuit", "switch", "inverter")
HOT_SHARE = 0.02  # what a wire of an element has more when it is hot


def planned(
    project: Project,
    variant: Variant,
    *,
    state: State | None = None,
    phase: str | None = None,
    players: Players | None = None,
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
    players : callable or None
        Gives what solves a design, where such are kept; None: made here. [-]

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
    stages = stages_of(system, sections, _computed(project, built, at, players))
    holes = holes_of(system, threads(), assumed_ends(system.tradition or METRIC))
    lined = {space.id for space in system.spaces if space.lined}
    tasks = tasks_of(system, run_ends(system), holes, lined)
    return plan_of(system, tasks, stages, holes, phase)


def labels_of(system: System) -> dict[str, str]:
    """Give labels of all a plan may be about, by id: parts, runs, spaces, holes."""
    names = {one.id: one.label for one in (*system.parts, *system.runs)}
    names |= {space.id: space.name for space in system.spaces}
    return names | {hole.id: hole.name for hole in system.holes}


def _computed(
    project: Project, variant: Variant, state: State | None, players: Players | None
) -> Computed:
    """Ask the engine for what stages expect; what it cannot say is left out."""
    from isotherma.core.faults.evidence import Evidence
    from isotherma.core.faults.player import Asked
    from isotherma.core.flows.leak import pump_starts
    from isotherma.core.flows.pulse import switch_pumps
    from isotherma.services.diagnosing import player_of

    system = variant.system
    try:
        player = (players or player_of)(project, variant, state, Evidence())
    except CoreError:
        return Computed()
    network = player.made.healthy.network

    def read(kind: str, part: str, scale: float) -> Band3 | None:
        found = player.expected((), Asked(kind, part))
        if found is None or found.likely is None:
            return None
        return found.low * scale, found.likely * scale, found.high * scale

    def all_of(kind: str, parts: Iterable[str], scale: float = 1.0) -> dict[str, Band3]:
        rows = {part: read(kind, part, scale) for part in parts}
        return {part: row for part, row in rows.items() if row is not None and row[1] > 0.0}

    outlets = [part.id for part in system.parts
               if isinstance(part, use.Outlet) and part.id in network.ends]  # fmt: skip
    pumps = dict(switch_pumps(network))
    cut_out = {key: pump.cut_out_pa for key, pump in pumps.items() if pump.cut_out_pa is not None}
    return Computed(
        flows=all_of("flow", outlets, L_PER_MIN), run_on_s=all_of("run_on", pumps),
        cut_out_pa=cut_out,
        kept_m3={one.pump: (one.kept.low, one.kept.likely, one.kept.high)
                 for one in pump_starts(system, network)},
        amps=_amps(system),
        heats_s=_heats(player, system),
        warmth=all_of("temp", outlets), wait_s=all_of("wait", outlets),
        behind={mixer: tuple(key for key in outlets if player.carries(mixer, key))
                for mixer in network.mixers},
        heights={port: network.height_m[node] for port, node in network.node.items()},
    )  # fmt: skip


def _heats(player: Player, system: System) -> dict[str, Band3]:
    """Time each element alone, from cold to its setting: all else that heats is off."""
    from isotherma.core.faults.player import Asked
    from isotherma.core.faults.plays import Edit

    found = {}
    elements = [part for part in system.parts if part.kind == "element" and part.fitted_in]
    for part in elements:
        off = tuple(Edit(f"parts.{other.id}.at", "off") for other in system.parts
                    if other.id != part.id
                    and other.kind in ("element", "burner", "circulation_pump", "liquid_heater")
                    and "off" in other.positions)  # fmt: skip
        # for the test what feeds it is on, whatever the day is seen in
        on = tuple(
            Edit(f"parts.{other.id}.at", other.positions[0])
            for other in system.parts
            if other.positions and (other.id == part.id or other.kind in FEEDING)
        )
        took = player.expected((*off, *on), Asked("heat_up", part.fitted_in))
        if took is not None and took.likely is not None:
            found[part.id] = (took.low * 60.0, took.likely * 60.0, took.high * 60.0)
    return found


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
