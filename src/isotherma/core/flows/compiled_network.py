"""A network ready to be solved: its links, its nodes, and what is known of each."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

from isotherma.core.flows.fittings import (
    Conditions,
    NetworkElement,
)
from isotherma.core.flows.kernel import Heat, Valves
from isotherma.core.hydraulics.network import Net
from isotherma.core.system import AnyKind, Pipe


@dataclass(frozen=True, slots=True)
class Link:
    """One link: a run, or one way through a part."""

    item: str
    label: str
    is_run: bool
    start: int
    end: int
    element: NetworkElement
    rise_m: float
    bore_m: float = 0.0


@dataclass(frozen=True, slots=True, eq=False)  # each is itself: what hangs on one is kept by it
class CompiledNetwork:
    """A network ready to be solved for any set of open outlets.

    `node` finds a port's node, `links` names them in the order of the arrays, `run` and
    `part_links` find a run's link and a part's. `ends` are outlets and drains that may be
    opened, `diverted` finds the links to the tank that open in their stead, `mixers` and `pumps`
    parts in the order of their arrays. `shut` says of every
    link whether it starts shut, `fixed` is the pressure of nodes that have one.
    """

    parts: Mapping[str, AnyKind]
    runs: Mapping[str, Pipe]
    at: Mapping[str, str]
    dry: frozenset[str]
    node: Mapping[tuple[str, str], int]
    links: tuple[Link, ...]
    run: Mapping[str, int]
    part_links: Mapping[str, tuple[int, ...]]
    ends: Mapping[str, int]
    diverted: Mapping[str, tuple[int, ...]]
    mixers: tuple[str, ...]
    pumps: Mapping[str, int]
    net: Net
    heat: Heat
    valves: Valves
    shut: tuple[int, ...]
    fixed: tuple[float, ...]
    start_c: tuple[float, ...]
    reference: Mapping[int, float]
    fluids: tuple[str, ...]
    height_m: tuple[float, ...]
    loop_miss_m: float
    unsure: tuple[int, ...]
    conditions: Conditions


Laid = dict[tuple[str, str, bool, float], list[NetworkElement]]
