"""What a variant needs to be built: its list, pieces and holes, with our tables and its prices."""

from __future__ import annotations

from dataclasses import replace

from isotherma.catalogue.joints import adapters, assumed_ends, size_is_known, threads
from isotherma.core.ends import nearest_wordings, read_end
from isotherma.core.errors import CoreError
from isotherma.core.joints.bearing import what_runs_bear
from isotherma.core.joints.holes import holes_of
from isotherma.core.joints.listing import Listed, list_of
from isotherma.core.joints.pieces import BAR_M, on_bars, pieces_of
from isotherma.core.joints.piping import RunJoints, joints_of, tube_end
from isotherma.core.joints.pricing import Shopping, bar_lengths_m, priced, total
from isotherma.core.joints.resolver import Asked, Chain
from isotherma.core.joints.savings import Saving, savings_of
from isotherma.core.joints.sundries import size_words
from isotherma.core.project import Project, Variant
from isotherma.core.system import System
from isotherma.core.system.runs import FuelPipe, Pipe

TRADITIONS = ("metric", "UK", "US", "Australia")
METRIC = "metric"
MOST_CHAINS = 4000  # a few hundred bytes each
_CHAINS: dict[tuple[str, str, Asked], Chain] = {}


def single_points(project: Project, variant: Variant) -> frozenset[str]:
    """Name the parts without which no outlet has water; none where nothing can be computed."""
    from isotherma.core.results.failure_modes import if_fails
    from isotherma.core.system.nominal import computed
    from isotherma.services.flows import Asked as AskedFlows
    from isotherma.services.flows import network_of

    try:
        network = network_of(project, variant, variant.standing, AskedFlows())
    except CoreError:
        return frozenset()
    system = computed(variant.built.system)
    kinds = {part.id: part.kind for part in variant.system.parts}
    found = set()
    for key in network.parts:
        if kinds.get(key) not in SPARED:
            continue
        out = if_fails(system, network, key)
        if out.left and not any(left.water for left in out.left):
            found.add(key)
    return frozenset(found)


# what fits into a drawer and can be changed on the road: not a tank, not a store
SPARED = frozenset({
    "pump", "submersible", "foot_pump", "hand_pump", "shut_off", "selector", "check_valve",
    "reducer", "strainer", "solenoid", "regulator", "circuit", "switch", "relay",
    "thermostatic_mixer", "flow_limiter", "interlock", "coupling",
})  # fmt: skip


def unknown_sizes(system: System) -> list[tuple[str, str, tuple[str, ...]]]:
    """Name the stated ends whose size is in no table: where, the end, the nearest that are."""
    found = []
    for part in system.parts:
        for said in part.ends:
            end = read_end(said.end)
            if end is not None and not size_is_known(end):
                near = tuple(one for one in nearest_wordings(said.end, 6) if one != said.end)
                found.append((f"parts.{part.id}.ends.{said.port}", said.end, near[:3]))
    return found


def sizes_of_runs(system: System) -> dict[str, str]:
    """Give tube and size of every pipe as they are asked for."""
    parts = {part.id: part for part in system.parts}
    found = {}
    for run in system.runs:
        if isinstance(run, Pipe | FuelPipe):
            port = parts[run.start.part].port(run.start.port)
            name = tube_end(run, "" if port is None else port.medium)
            found[run.id] = size_words(name or "gas hose", run)
    return found


def listed(
    project: Project, variant: Variant, *, tradition: str | None = None,
    phase: str | None = None, single: frozenset[str] = frozenset(),
) -> Listed:  # fmt: skip
    """Write the list of a variant, nothing priced.

    Parameters
    ----------
    project : Project
        The document. [-]
    variant : Variant
        Which of its variants. [-]
    tradition : str or None
        Of the ends nobody stated; None: as the variant says, else metric. [-]
    phase : str or None
        Only what is fitted in that phase. [-]
    single : frozenset of str
        Parts without which no water comes: one more of each is listed. [-]

    Returns
    -------
    Listed
        Every run is resolved as hot as it gets in any state. [-]
    """
    return _listed(project, variant, tradition, phase, single)[0]


def _listed(
    project: Project, variant: Variant, tradition: str | None, phase: str | None,
    single: frozenset[str],
) -> tuple[Listed, dict[str, int]]:  # fmt: skip
    system = variant.system
    ends = assumed_ends(tradition or system.tradition or METRIC)
    bears = what_runs_bear(system)
    runs = _runs(system, tradition or system.tradition or METRIC)
    pieces = pieces_of(system, runs, bears, sizes_of_runs(system))
    by_id = {run.id: run for run in system.runs if isinstance(run, Pipe | FuelPipe)}
    pieces, bars = on_bars(pieces, by_id, bar_lengths_m(project.prices, BAR_M))
    found = list_of(
        system, runs, bears, phase, pieces=pieces, single=single,
        holes=holes_of(system, threads(), ends),
    )  # fmt: skip
    return found, bars


def shopping(
    project: Project, variant: Variant, *, tradition: str | None = None,
    phase: str | None = None, spare: bool = True,
) -> Shopping:  # fmt: skip
    """Write the list of a variant with prices, packs and what is there.

    Parameters
    ----------
    project : Project
        The document, with its prices. [-]
    variant : Variant
        Which of its variants. [-]
    tradition : str or None
        Of the ends nobody stated; None: as the variant says, else metric. [-]
    phase : str or None
        Only what is fitted in that phase. [-]
    spare : bool
        Whether parts without which no water comes are listed once more. [-]

    Returns
    -------
    Shopping
        Totals count what is still to be bought; joints count all. [-]
    """
    single = single_points(project, variant) if spare else frozenset()
    found, bars = _listed(project, variant, tradition, phase, single)
    lines = priced(found.lines, project.prices, bars)
    return Shopping(
        replace(found, lines=lines), tradition or variant.system.tradition or METRIC,
        (tradition or variant.system.tradition) is not None, project.currency, bars,
        total(lines, lambda line: line.price),
        total((line for line in lines if not line.spare), lambda line: line.mass_kg),
    )  # fmt: skip


def run_ends(system: System) -> tuple[RunJoints, ...]:
    """Resolve both ends of every pipe and gas run of a system."""
    return _runs(system, system.tradition or METRIC)


def joints_in(system: System) -> int:
    """Count the joints of a system, with every fitting its ends take."""
    return sum(run.joints for run in run_ends(system))


def savings(variant: Variant) -> tuple[Saving, ...]:
    """Find what would save joints, each tried on the variant as it is."""
    return savings_of(variant.system, run_ends(variant.system), joints_in)


def _runs(system: System, tradition: str) -> tuple[RunJoints, ...]:
    """Resolve the runs of a system; chains that were found before are found again at once."""
    if len(_CHAINS) > MOST_CHAINS:
        _CHAINS.clear()
    return joints_of(system, adapters(), assumed_ends(tradition), what_runs_bear(system), _CHAINS)
