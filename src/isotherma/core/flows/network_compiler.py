"""A document in a state → the arrays the solver works on, and who is who in them."""

from __future__ import annotations

from collections.abc import Mapping
from math import inf
from typing import Final

import numpy as np
from numpy.typing import NDArray

from isotherma.core.cache import remembered
from isotherma.core.errors import MissingValue
from isotherma.core.flows import kernel
from isotherma.core.flows.compiled_network import CompiledNetwork, Laid, Link
from isotherma.core.flows.fittings import (
    RESERVOIR,
    Conditions,
    pump_points,
)
from isotherma.core.flows.heights import heights
from isotherma.core.flows.kernel import Heat, Valves
from isotherma.core.flows.network_builder import Builder, network_numbers
from isotherma.core.graph import both_ways, reach
from isotherma.core.hydraulics import laws
from isotherma.core.hydraulics.network import OPEN, SHUT, Net
from isotherma.core.hydraulics.structure import structure
from isotherma.core.system import System
from isotherma.core.system.kinds.primary import USUAL_FLUID, ExpansionVessel, PrimaryFluid
from isotherma.core.system.kinds.temperature import ManualMixer, ThermostaticMixer
from isotherma.core.system.kinds.water import (
    FootPump,
    HandPump,
    OutsideSource,
    Pump,
)
from isotherma.core.system.nominal import ComputedSystem, figure
from isotherma.core.system.states import State
from isotherma.core.water.fluids import fluid_table

__all__ = ["CompiledNetwork", "Laid", "Link", "compile_network", "refuse_unknown"]

_LOOSE_LOOP_M: Final = 0.15  # a loop whose rises miss by more is worth a word: 15 mbar


def compile_network(
    system: System, state: State | None, conditions: Conditions | None = None, *,
    known: ComputedSystem | None = None, laid: Laid | None = None,
    pump_v: Mapping[str, float] | None = None,
) -> CompiledNetwork:  # fmt: skip
    """Compile the network of a state.

    Parameters
    ----------
    system : System
        Any document; likely figures are written in. [-]
    state : State or None
        How it stands; None: everything as usual. [-]
    conditions : Conditions or None
        Temperatures and levels. [-]
    known : ComputedSystem or None
        The same document with likely figures written in, where it is at hand. [-]
    laid : dict or None
        Ways through parts by how they stand, kept from one state of this very document under
        these very conditions to the next; filled here. [-]
    pump_v : mapping of str to float or None
        Volts that reach pumps, where more than they hang on their wires; None: each alone. [V]

    Returns
    -------
    CompiledNetwork
        Ready for any set of open outlets. What is unknown is carried along and only
        refused if water would pass it. [-]
    """
    stands = conditions or Conditions()
    build = Builder(system, state, stands, known, laid, pump_v)
    build.entered = {part.id: part for part in system.parts}
    build.add_parts()
    build.add_runs()
    build.set_hung_rises()
    build.rest_own_pumps()
    return _arrays(build)


# States, modes and most edits leave a network's shape as it was: what follows from the shape alone
# is worked out once. What comes back is shared and only read.
SHAPE_BYTES: Final = 12_000  # arrays and key of a network of forty links
_heights = remembered("heights", lambda _: SHAPE_BYTES)(heights)
_structure = remembered("structure", lambda _: SHAPE_BYTES)(structure)


def _arrays(build: Builder) -> CompiledNetwork:
    links = build.links
    nodes = len(build.node)
    level, miss = _heights(
        nodes, tuple((link.start, link.end, link.rise_m, _trust(link)) for link in links)
    )
    given = tuple(node in build.given for node in range(nodes))
    net = _net(build, level, given)
    heat, names = _heat(build, nodes)
    valves, mixers = _valves(build)
    part_links: dict[str, list[int]] = {}
    for index, link in enumerate(links):
        if not link.is_run:
            part_links.setdefault(link.item, []).append(index)
    ends = {link.item: i for i, link in enumerate(links) if link.element.role == "end"}
    shut = [SHUT if link.element.role in {"end", "regulated", "divert"} else OPEN for link in links]
    for part_id, index in ends.items():
        if build.at.get(part_id) == "open" and build.parts[part_id].kind == "drain":
            shut[index] = OPEN
    return CompiledNetwork(
        parts=build.parts,
        runs=build.runs,
        at=build.at,
        dry=build.dry,
        node=build.node,
        links=tuple(links),
        run={link.item: i for i, link in enumerate(links) if link.is_run},
        part_links={key: tuple(rows) for key, rows in part_links.items()},
        ends=ends,
        diverted=_diverted(build, ends),
        mixers=mixers,
        pumps={
            link.item: i for i, link in enumerate(links) if link.element.role in {"pump", "own"}
        },
        net=net,
        heat=heat,
        valves=valves,
        shut=tuple(shut),
        fixed=tuple(build.given.get(node, 0.0) for node in range(nodes)),
        start_c=tuple(heat.given_c),
        reference=_references(build),
        fluids=names,
        height_m=tuple(float(value) for value in level),
        unsure=tuple(index for index, link in enumerate(links) if link.element.unknown),
        loop_miss_m=miss if miss > _LOOSE_LOOP_M else 0.0,
        conditions=build.conditions,
    )


def _net(build: Builder, level: NDArray[np.float64], given: tuple[bool, ...]) -> Net:
    """Write laws, rises and structure of a network as arrays."""
    links, count = build.links, len(build.links)
    shape = _structure(len(build.node), tuple((link.start, link.end) for link in links), given)
    parameters = np.zeros((max(count, 1), laws.PARAMETERS))[:count]
    points: list[tuple[float, float]] = []
    for index, link in enumerate(links):
        figures = list(link.element.figures)
        part = build.parts.get(link.item)
        if link.element.law == laws.PUMP and isinstance(part, Pump):
            curve = pump_points(part, build.speed_of(part))
            figures[:2] = [float(len(points)), float(len(curve))]
            points += curve
        parameters[index, : len(figures)] = figures
    return Net(
        law=np.array([link.element.law for link in links], dtype=np.int64),
        start=np.array([link.start for link in links], dtype=np.int64),
        end=np.array([link.end for link in links], dtype=np.int64),
        one_way=np.array([link.element.one_way for link in links], dtype=np.bool_),
        rise=np.array([level[link.end] - level[link.start] for link in links], dtype=np.float64),
        parameters=parameters,
        curves=np.array(points or [(0.0, 0.0), (1.0, -1.0)]).T.copy(),
        given=np.array(given, dtype=np.bool_),
        unknown=shape.unknown, entry=shape.entry, order=shape.order, first=shape.first,
        row=shape.row, place=shape.place, pairs=shape.pairs, update=shape.update,
        entries=shape.entries,
    )  # fmt: skip


def _trust(link: Link) -> float:
    """Weigh a rise where a loop does not close: a part has none, a long run may well have.

    A run of no rise is more likely one nobody measured.
    """
    if not link.is_run:
        return 1e6
    return (1.0 if link.rise_m else 0.1) / max(0.05, link.element.figures[0])


def _diverted(build: Builder, ends: Mapping[str, int]) -> dict[str, tuple[int, ...]]:
    """Find for each outlet the diverters before it that send its water to the tank."""
    near = both_ways((link.start, link.end) for link in build.links)
    found: dict[str, tuple[int, ...]] = {}
    for index, link in enumerate(build.links):
        if link.element.role != "divert":
            continue
        first = build.node.get((link.item, "outlet"))
        if first is None:
            continue
        seen = reach([first], lambda node: (
            other for other in near.get(node, ()) if other not in build.given
        ))  # fmt: skip
        for part_id, end in ends.items():
            if build.links[end].start in seen or build.links[end].start in build.given:
                found[part_id] = (*found.get(part_id, ()), index)
    return found


def _references(build: Builder) -> dict[int, float]:
    """Find what sets the pressure of a closed circuit: its vessel's pre-charge."""
    return {
        build.node[part.id, "inlet"]: figure(part, "precharge_pa")
        for part in build.parts.values()
        if isinstance(part, ExpansionVessel)
        and not part.open_header
        and (part.id, "inlet") in build.node
    }


def _heat(build: Builder, nodes: int) -> tuple[Heat, tuple[str, ...]]:
    links, count = build.links, len(build.links)
    figures = np.zeros((max(count, 1), 6))[:count]
    sides: dict[tuple[str, str], int] = {}
    for index, link in enumerate(links):
        figures[index, : len(link.element.warmth)] = link.element.warmth
        if link.element.heat == kernel.EXCHANGE:
            sides[link.item, link.element.role] = index
    for (part_id, side), index in sides.items():
        other = sides[part_id, "cold" if side == "hot" else "hot"]
        figures[index, kernel.PARTNER] = other
    home = network_numbers(links, nodes, _in_any_position(build))
    tables = [fluid_table("water", 0.0)]
    names = ["water"]
    fluid_of: dict[int, int] = {}
    for part in build.parts.values():
        if not isinstance(part, PrimaryFluid) or part.fills is None or part.fluid == "water":
            continue
        at = [link.start for link in links if link.item == part.fills]
        if at:
            fluid_of[home[at[0]]] = len(tables)
            share = figure(part, "antifreeze_share")
            fluid = USUAL_FLUID if part.fluid is None else part.fluid
            tables.append(fluid_table(fluid, round(share, 4)))
            names.append(f"{fluid}, {share:.0%}" if share else fluid)
    first = np.zeros(nodes + 1, dtype=np.int64)
    near: list[list[int]] = [[] for _ in range(nodes)]
    for index, link in enumerate(links):
        near[link.start].append(index)
        near[link.end].append(index)
    first[1:] = np.cumsum([len(rows) for rows in near])
    touching = np.array([index for rows in near for index in rows], dtype=np.int64)
    given_c = np.full(nodes, float(build.conditions.fresh_c))
    for link in links:
        source = build.parts.get(link.item)
        if isinstance(source, OutsideSource) and source.water_c is not None:
            given_c[link.start] = source.water_c
        said = build.conditions.at_c.get(link.item)
        if said is not None and link.element.start == RESERVOIR:
            given_c[link.start] = said
    heat = Heat(
        fluid=np.array([fluid_of.get(home[link.start], 0) for link in links], dtype=np.int64),
        kind=np.array([link.element.heat for link in links], dtype=np.int64),
        figures=figures,
        given_c=given_c,
        first=first,
        touching=touching,
        tables=np.array(tables),
    )
    return heat, tuple(names)


def _in_any_position(build: Builder) -> list[tuple[int, int]]:
    """Give what parts join in one position or another: a limb that is shut off keeps its fluid."""
    return [
        (build.node[part.id, one], build.node[part.id, other])
        for part in build.parts.values()
        for at in part.positions
        for one, other in part.ways(at)
        if (part.id, one) in build.node and (part.id, other) in build.node
    ]


def _valves(build: Builder) -> tuple[Valves, tuple[str, ...]]:
    legs: dict[str, dict[str, int]] = {}
    wide: dict[str, dict[str, int]] = {}
    capped: list[tuple[int, float]] = []
    stroked: list[tuple[int, float]] = []
    for index, link in enumerate(build.links):
        part = build.parts.get(link.item)
        if isinstance(part, ThermostaticMixer | ManualMixer) and not link.is_run:
            legs.setdefault(link.item, {})[link.element.role] = index
        elif link.element.role in {"wide", "regulated"}:
            wide.setdefault(link.item, {})[link.element.role] = index
        elif link.element.law == laws.PUMP and isinstance(part, Pump):
            cap = part.cut_out_pa if part.control == "constant pressure" else None
            capped.append((index, cap if cap is not None else inf))
        elif link.element.law == laws.STROKE and isinstance(part, FootPump | HandPump):
            stroked.append((index, link.element.figures[0]))
    rows = []
    for part_id in legs:
        valve = build.parts[part_id]
        factor = figure(valve, "flow_factor_si")
        if isinstance(valve, ThermostaticMixer):
            difference, band = figure(valve, "difference_k"), figure(valve, "band_k")
            rows.append([valve.set_c, difference, factor, band, 1.0])
        else:
            rows.append([0.0, 10.0, factor, 2.0, 0.0])
    valves = Valves(
        legs=np.array([[pair["hot"], pair["cold"]] for pair in legs.values()], dtype=np.int64)
        .reshape(len(legs), 2),
        mixer=np.array(rows, dtype=np.float64).reshape(len(rows), 5),
        capped=np.array([row[0] for row in capped], dtype=np.int64),
        cap_pa=np.array([row[1] for row in capped], dtype=np.float64),
        stroked=np.array([row[0] for row in stroked], dtype=np.int64),
        stroke_m3=np.array([row[1] for row in stroked], dtype=np.float64),
        reducer=np.array([[pair["wide"], pair["regulated"]] for pair in wide.values()],
                         dtype=np.int64).reshape(len(wide), 2),
        set_pa=np.array([build.given[build.links[pair["regulated"]].start]
                         for pair in wide.values()], dtype=np.float64),
    )  # fmt: skip
    return valves, tuple(legs)


def refuse_unknown(
    network: CompiledNetwork, flows: np.ndarray[tuple[int], np.dtype[np.float64]]
) -> None:
    """Refuse to give figures that hang on a value nobody knows.

    Parameters
    ----------
    network : CompiledNetwork
        Its links know what they lack. [-]
    flows : numpy.ndarray
        Mass flow of each of the links. [kg/s]

    Returns
    -------
    None
        If all that water passes is known. [-]

    Raises
    ------
    MissingValue
        Naming the first value that water would pass by.
    """
    for index in network.unsure:
        link = network.links[index]
        if abs(flows[index]) > 1e-7:
            name = link.element.unknown[0]
            piece = network.runs[link.item] if link.is_run else network.parts[link.item]
            title = type(piece).model_fields[name].title or name
            group = "runs" if link.is_run else "parts"
            raise MissingValue(
                path=f"{group}.{link.item}.{name}", part_name=link.label, label=title.lower()
            )
