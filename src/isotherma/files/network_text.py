"""One solved point of a network as the open sectioned text that solvers of water networks read.

Junctions, reservoirs, tanks, pipes, pumps, valves, curves: so that anybody can referee our flows.
What follows the water's warmth with us, and has one warmth there, is written as it is at this
point: lengths carry the viscosity, losses the density, mixers and switches stand as they came
to rest, and a litre is one of 20 °C, so that what flows in flows out.
"""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from dataclasses import dataclass, field
from math import log10, pi
from typing import Final

import numpy as np

from isotherma.core.flows.network_compiler import CompiledNetwork, Link
from isotherma.core.flows.solving import Solved
from isotherma.core.graph import both_ways, reach
from isotherma.core.hydraulics import laws
from isotherma.core.hydraulics.network import GRAVITY_M_PER_S2, OPEN
from isotherma.core.system.kinds.water import FreshTank
from isotherma.core.system.nominal import known_figure
from isotherma.core.water import fluids

EXTENSION: Final = ".inp"
DENSITY: Final = 998.2  # of water at 20 °C, one for all of the file
VISCOSITY_M2_PER_S: Final = 1.0e-6  # kinematic, as the format names its usual water
LPM: Final = 6e4  # L/min in a m³/s
MM: Final = 1e3
VALVE_M: Final = 0.01  # a diameter for what has none of its own
LEAST_M: Final = 1e-3  # a pipe has some length
POINTS: Final = 12
STEEP: Final = 1.02  # past its most a limiter or a stroke is carried so far on
FLAT: Final = 1e-4  # of its head a flat curve falls from point to point
PUMPS: Final = (laws.PUMP, laws.ROUND, laws.STROKE, laws.SUPPLY)


@dataclass
class _Sheet:
    """Rows by section, in the order the format is read in."""

    sections: dict[str, list[str]] = field(default_factory=lambda: {name: [] for name in (
        "JUNCTIONS", "RESERVOIRS", "TANKS", "PIPES", "PUMPS", "VALVES", "DEMANDS", "STATUS",
        "CURVES")})  # fmt: skip

    def row(self, section: str, *cells: object, note: str = "") -> None:
        """Put a row into a section; a note stands behind it."""
        words = "  ".join(f"{cell:.9g}" if isinstance(cell, float) else str(cell) for cell in cells)
        self.sections[section].append(words + (f"  ; {_plain(note)}" if note else ""))


def _plain(text: str) -> str:
    """Leave of a label what the format takes: one line of plain letters, no mark of its own."""
    kept = "".join(one if one.isascii() and one.isprintable() and one not in ";[]" else "-"
                   for one in text)  # fmt: skip
    return kept[:80]


def network_text(point: Solved, *, title: str) -> str:
    """Write a solved point as a network file.

    Parameters
    ----------
    point : Solved
        With its network: which outlets are open, what they give. [SI]
    title : str
        The vehicle's name and the state. [-]

    Returns
    -------
    str
        Sections of text; litres a minute, metres, millimetres. Circuits that no water at a
        known pressure reaches are left out. [-]

    References
    ----------
    The open sectioned text format of water-network solvers: Darcy–Weisbach, three-point and custom
    pump curves, throttled and general valves.
    """
    network, sheet = point.network, _Sheet()
    wet = _reached(point)
    tanks = _tanks(network)
    for node in sorted(wet):
        _node(sheet, point, node, tanks)
    reduced = {int(regulated): int(wide) for wide, regulated in network.valves.reducer
               if point.shut[int(regulated)] == OPEN}  # fmt: skip
    for index, link in enumerate(network.links):
        if index in reduced:
            _reducer(sheet, point, reduced[index], link)
        elif link.start in wet and link.end in wet and point.shut[index] == OPEN:
            _link(sheet, point, index, link)
    heading = [f"[TITLE]\n{_plain(title)}",
               f"; open: {_plain(', '.join(point.opens) or 'nothing')}",
               "; one solved point: lengths and losses carry the warmth of the water at it,",
               "; and a litre is one of 20 degrees C: flows are those of the mass", ""]  # fmt: skip
    body = [f"[{name}]\n" + "\n".join(rows) + "\n" for name, rows in sheet.sections.items()]
    return "\n".join((*heading, *body, _OPTIONS, "[END]", ""))


_OPTIONS: Final = """[OPTIONS]
UNITS  LPM
HEADLOSS  D-W
VISCOSITY  1.0
SPECIFIC GRAVITY  1.0
TRIALS  200
ACCURACY  0.00001
UNBALANCED  CONTINUE 10

[TIMES]
DURATION  0:00
"""


def _reached(point: Solved) -> set[int]:
    """Find the nodes that open links join to a pressure that is known."""
    net = point.network.net
    near = both_ways((link.start, link.end)
                     for index, link in enumerate(point.network.links)
                     if point.shut[index] == OPEN)  # fmt: skip
    # what stands for the regulated side of a reducer is written as the reducer
    held = {point.network.links[int(regulated)].start
            for _, regulated in point.network.valves.reducer}  # fmt: skip
    known = [int(node) for node in net.given.nonzero()[0] if int(node) not in held]
    piped = {end for link in point.network.links if link.is_run for end in (link.start, link.end)}
    joined: set[int] = set()
    for node in known:
        part = set(reach([node], lambda at: near.get(at, ())))
        if part & piped:  # a port that nothing is joined to says nothing
            joined |= part
    return joined - held


def _reducer(sheet: _Sheet, point: Solved, wide: int, link: Link) -> None:
    """Write a reducer at work by what it holds behind it."""
    through = point.network.links[wide]
    holds = float(point.pressure_pa[through.end]) / (DENSITY * GRAVITY_M_PER_S2)
    sheet.row("VALVES", f"l{wide}", f"n{through.start}", f"n{through.end}", VALVE_M * MM, "PRV",
              holds, 0.0, note=link.label)  # fmt: skip


def _tanks(network: CompiledNetwork) -> dict[int, FreshTank]:
    """Find the tanks whose litres are known, by the node of the water standing in them."""
    found = {}
    for link in network.links:
        part = network.parts.get(link.item)
        if not link.is_run and isinstance(part, FreshTank) and link.element.start == "@well":
            found[link.start] = part
    return found


def _node(sheet: _Sheet, point: Solved, node: int, tanks: Mapping[int, FreshTank]) -> None:
    network = point.network
    height = network.height_m[node]
    ports = [f"{part}.{port}" for (part, port), at in network.node.items() if at == node]
    note = " ".join(ports[:4])
    if not network.net.given[node]:
        sheet.row("JUNCTIONS", f"n{node}", height, 0.0, note=note)
        return
    head = height + float(point.pressure_pa[node]) / (DENSITY * GRAVITY_M_PER_S2)
    tank = tanks.get(node)
    volume = None if tank is None else known_figure(tank, "volume_m3")
    tall = None if tank is None else tank.inside_height_m
    if volume and tall:
        # the surface stands at the head; below it the tank goes down by what is in it
        across = (4.0 * volume / tall / pi) ** 0.5
        sheet.row("TANKS", f"n{node}", head - 0.5 * tall, 0.5 * tall, 0.0, tall, across, 0.0,
                  note=note)  # fmt: skip
    else:
        sheet.row("RESERVOIRS", f"n{node}", head, note=note)


def _link(sheet: _Sheet, point: Solved, index: int, link: Link) -> None:
    """Write a link by its law."""
    law = int(point.network.net.law[index])
    p = point.state.parameters[index]
    name, ends = f"l{index}", (f"n{link.start}", f"n{link.end}")
    if law == laws.PIPE and p[laws.LENGTH_M] > 0.0:
        length, loss = _as_there(point, index)
        sheet.row("PIPES", name, *ends, length, float(p[laws.BORE_M]) * MM,
                  float(p[laws.ROUGHNESS_M]) * MM, loss,
                  "CV" if link.element.one_way else "Open", note=link.label)  # fmt: skip
    elif law == laws.PIPE:
        loss = float(p[laws.LOSS_K]) * DENSITY / float(point.density[index])
        sheet.row("VALVES", name, *ends, float(p[laws.BORE_M]) * MM, "TCV", loss, 0.0,
                  note=link.label)  # fmt: skip
    elif law == laws.FACTOR:
        area = pi / 4.0 * VALVE_M**2
        thinner = DENSITY / float(point.density[index])
        loss = 2.0 * area**2 * float(p[laws.RESISTANCE]) * thinner**2 / DENSITY
        sheet.row("VALVES", name, *ends, VALVE_M * MM, "TCV", loss, 0.0, note=link.label)
    elif law in PUMPS:
        rows = list(_sampled(point, index, gives=True))
        for flow, head in rows:
            sheet.row("CURVES", f"c{index}", flow, head)
        sheet.row("PUMPS", name, *ends, "HEAD", f"c{index}", note=link.label)
    else:
        for flow, head in _sampled(point, index, gives=False):
            sheet.row("CURVES", f"c{index}", flow, head)
        sheet.row("VALVES", name, *ends, VALVE_M * MM, "GPV", f"c{index}", 0.0, note=link.label)


def _as_there(point: Solved, index: int) -> tuple[float, float]:
    """Give the length and loss coefficient that take there what it takes here, at this flow."""
    p = point.state.parameters[index]
    length, bore = float(p[laws.LENGTH_M]), float(p[laws.BORE_M])
    rho = float(point.density[index])
    loss = float(p[laws.LOSS_K]) * DENSITY / rho
    length *= float(p[laws.ON_FRICTION])
    size = abs(point.through(index))
    if size < laws.NEAR:
        return max(LEAST_M, length), loss
    speed = size / (pi / 4.0 * bore * bore)
    relative = float(p[laws.ROUGHNESS_M]) / bore
    ours, _ = laws.friction(rho * speed * bore / _viscosity(point, index), relative)
    theirs = _their_friction(speed * rho / DENSITY * bore / VISCOSITY_M2_PER_S, relative)
    return max(LEAST_M, length * ours * DENSITY / (theirs * rho)), loss


def _viscosity(point: Solved, index: int) -> float:
    """Give the viscosity of what passes a link, half way [Pa s]."""
    link = point.network.links[index]
    celsius = 0.5 * float(point.node_c[link.start] + point.node_c[link.end])
    table = point.network.heat.tables[point.network.heat.fluid[index]]
    return float(fluids.look_up(table, fluids.VISCOSITY, celsius))


def _their_friction(reynolds: float, relative: float) -> float:
    """Give the friction factor as readers of the format find it.

    Hagen–Poiseuille to Re 2000, Swamee–Jain from 4000, Dunlop's cubic between (Dunlop, WADI update,
    1991).
    """
    if reynolds <= laws.LAMINAR_BELOW:
        return 64.0 / reynolds
    if reynolds >= laws.TURBULENT_ABOVE:
        return float(0.25 / log10(relative / 3.7 + 5.74 / reynolds**0.9) ** 2)
    y2 = relative / 3.7 + 5.74 / reynolds**0.9
    y3 = -0.86859 * float(np.log(relative / 3.7 + 5.74 / 4000.0**0.9))
    fa = y3**-2
    fb = fa * (2.0 - 0.00514215 / (y2 * y3))
    r = reynolds / 2000.0
    x1, x2 = 7.0 * fa - fb, 0.128 - 17.0 * fa + 2.5 * fb
    x3, x4 = -0.128 + 13.0 * fa - 2.0 * fb, 0.032 - 3.0 * fa + 0.5 * fb
    found: float = x1 + r * (x2 + r * (x3 + r * x4))
    return found


def _sampled(point: Solved, index: int, *, gives: bool) -> Iterator[tuple[float, float]]:
    """Give flows [L/min] and heads [m] of a law, with the point it stands at among them."""
    net, here = point.network.net, abs(point.through(index))
    law, p = int(net.law[index]), point.state.parameters[index]
    rho, mu = float(point.density[index]), _viscosity(point, index)
    most = here * 2.0 if here > laws.NEAR else 1.0 / LPM
    if law in (laws.STROKE, laws.LIMIT):
        most = max(here * STEEP, float(p[laws.MOST if law == laws.LIMIT else laws.STROKE_M3]))
    flows = sorted({*np.linspace(0.0, most, POINTS).tolist(), here})
    before = None
    for flow in flows:
        taken, _ = laws.drop(law, flow, p, net.curves, rho, mu, False)
        head = (-taken if gives else taken) / (DENSITY * GRAVITY_M_PER_S2)
        # the format wants a curve that goes one way
        if before is not None and (head >= before if gives else head <= before):
            head = before - FLAT * abs(before) if gives else before + FLAT * max(before, LEAST_M)
        if gives and head <= 0.0:
            break
        before = head
        yield flow * rho / DENSITY * LPM, head
