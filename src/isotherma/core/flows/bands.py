"""How far a steady flow may lie off: the uncertain figures on its way, one at a time."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import dataclass
from typing import Final

from isotherma.core.errors import CoreError
from isotherma.core.flows.network_compiler import CompiledNetwork
from isotherma.core.flows.pulse import Point, operate
from isotherma.core.flows.report import profile
from isotherma.core.system.nominal import ComputedSystem
from isotherma.core.system.pieces import Figure

MOST: Final = 5  # figures that are tried
# what counts for the flow; other figures of a piece are left as they are
COUNTS: Final = frozenset({
    "flow_factor_si", "loss_k", "open_flow_m3_per_s", "shut_pressure_pa", "pressure_loss_pa_at_5",
    "bore_m", "length_m", "pressure_pa", "flow_m3_per_s", "cut_out_pa", "cut_in_pa", "set_pa",
    "opening_pa", "outside_m",
})  # fmt: skip
Compile = Callable[[ComputedSystem], CompiledNetwork]


@dataclass(frozen=True, slots=True)
class OutletBand:
    """One outlet open alone: low, likely and high flow [m³/s] and pressure before it [Pa].

    `moved_by` are paths of what was tried, what takes most of the pressure first.
    """

    outlet: str
    flow: tuple[float, float, float]
    pressure: tuple[float, float, float]
    moved_by: tuple[str, ...]
    point: Point


def outlet_band(known: ComputedSystem, compiled: Compile, outlet: str) -> OutletBand:
    """Solve one outlet alone, and again with each uncertain figure on the water's way.

    Parameters
    ----------
    known : ComputedSystem
        The system with likely figures and their bands. [SI]
    compiled : callable
        Compiles the network of such a system in the state that is looked at. [-]
    outlet : str
        Part id of the outlet, opened fully. [-]

    Returns
    -------
    OutletBand
        Falls and rises of all that was tried are added up each; what cannot be solved at an end
        of its band moves nothing. [SI]

    Raises
    ------
    CoreError
        If it cannot be solved with likely figures.

    Notes
    -----
    At most five figures, those that take most of the pressure first, after the pumps'.
    """
    network = compiled(known)
    point = operate(network, {outlet: 1.0})
    flow, pressure = read_outlet(point, outlet)
    tried = list(_uncertain(known, point, outlet))[:MOST]
    falls, rises = [0.0, 0.0], [0.0, 0.0]
    for piece, figure in tried:
        for value in (figure.low, figure.high):
            if value is None or value == figure.likely:
                continue
            try:
                other = operate(compiled(with_figure(known, piece, figure.name, value)),
                                {outlet: 1.0})  # fmt: skip
            except CoreError:
                continue
            for row, (now, then) in enumerate(zip(read_outlet(other, outlet), (flow, pressure),
                                                  strict=True)):  # fmt: skip
                falls[row] += min(0.0, now - then)
                rises[row] += max(0.0, now - then)
    return OutletBand(
        outlet, (max(0.0, flow + falls[0]), flow, flow + rises[0]),
        (max(0.0, pressure + falls[1]), pressure, pressure + rises[1]),
        tuple(f"{piece}.{figure.name}" for piece, figure in tried), point,
    )  # fmt: skip


def read_outlet(point: Point, outlet: str) -> tuple[float, float]:
    """Read flow and pressure before an open outlet off a solved point.

    Parameters
    ----------
    point : Point
        Solved. [-]
    outlet : str
        Part id. [-]

    Returns
    -------
    tuple of float
        Flow and gauge pressure, neither under 0. [m³/s, Pa]
    """
    solved = point.solved
    link = solved.network.ends[outlet]
    before = float(solved.pressure_pa[solved.network.net.start[link]])
    flow = max(0.0, float(solved.flow_m3_per_s[link]))
    return flow, max(0.0, before) if before == before and flow > 0.0 else 0.0


def with_figure(
    known: ComputedSystem, piece_id: str, name: str, value: float | str | None
) -> ComputedSystem:
    """Give a system with one figure of one part or run as said, nothing checked anew.

    Parameters
    ----------
    known : ComputedSystem
        Never changed. [-]
    piece_id, name : str
        Whose figure, and which. [-]
    value : float, str or None
        What it is instead. [SI]

    Returns
    -------
    ComputedSystem
        A copy; a piece that is not there changes nothing. [-]
    """
    update = {name: value}
    return known.model_copy(update={
        "parts": tuple(part.model_copy(update=update) if part.id == piece_id else part
                       for part in known.parts),
        "runs": tuple(run.model_copy(update=update) if run.id == piece_id else run
                      for run in known.runs),
    })  # fmt: skip


def _uncertain(known: ComputedSystem, point: Point, outlet: str) -> Iterator[tuple[str, Figure]]:
    """Give the figures on an outlet's way that nobody gave, by what they take."""
    solved = point.solved
    steps = profile(solved, outlet)
    pumps = [step for step in steps if step.id in solved.network.pumps]
    others = sorted((step for step in steps if step.id not in solved.network.pumps),
                    key=lambda step: -abs(step.drop_pa))  # fmt: skip
    for step in [*pumps, *others]:
        for figure in known.figures(step.id):
            open_ended = figure.low is None or figure.high is None or figure.low == figure.high
            if figure.name in COUNTS and figure.origin != "given" and not open_ended:
                yield step.id, figure
