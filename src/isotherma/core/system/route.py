"""Find the one shape the engine computes in a network, or name the part that does not fit.

The document may hold any network. The route is: tank → … pump … → split →
(store → mixer hot) and (→ mixer cold) → … → shower head, with valves and fittings in
line. Dead ends (drains, reliefs, caps, shut outlets) are left aside; what stands
beside the route and is not computed yet is listed by `not_computed`.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from typing import NoReturn, TypeVar, cast

from isotherma.core.climate import Warmth
from isotherma.core.errors import MissingValue, NotComputedYet
from isotherma.core.system import AnyKind, AnyRun, Pipe, System
from isotherma.core.system.kinds import SIDES
from isotherma.core.system.kinds.heat import Burner, Element, Store
from isotherma.core.system.kinds.temperature import ThermostaticMixer
from isotherma.core.system.kinds.use import Outlet, ShowerHead
from isotherma.core.system.kinds.water import (
    Accumulator,
    CheckValve,
    Coupling,
    Filter,
    FreshTank,
    Pump,
    Selector,
    ShutOff,
    Solenoid,
    Split,
    Strainer,
)
from isotherma.core.system.pieces import PartBase
from isotherma.core.system.stands import positions
from isotherma.core.system.understood import settled

InLine = (
    ShutOff | Strainer | Accumulator | CheckValve | Split | Filter | Coupling | Solenoid | Selector
)
IN_LINE = (
    ShutOff, Strainer, Accumulator, CheckValve, Split, Filter, Coupling, Solenoid, Selector,
)  # fmt: skip
COMPUTED = (FreshTank, Pump, Store, Element, Burner, ThermostaticMixer, ShowerHead, *IN_LINE)
Step = Pipe | InLine | Pump
_ENDS = frozenset(
    {"drain", "relief", "air_vent", "blanking_cap", "expansion_vessel", "bleed", "fill_point"}
)


@dataclass(frozen=True, slots=True)
class Route:
    """The recognised shape: its main parts and the steps between them, in flow order.

    Every derivable figure is written in, so that the engine reads plain values.
    """

    tank: FreshTank
    pump: Pump
    split: Split
    store: Store
    mixer: ThermostaticMixer
    head: ShowerHead
    element: Element | None
    burner: Burner | None
    feed: tuple[Step, ...]
    to_store: tuple[Step, ...]
    hot: tuple[Step, ...]
    cold: tuple[Step, ...]
    mixed: tuple[Step, ...]
    warmths: dict[str, Warmth]
    kept: dict[str, float]

    @property
    def branches(self) -> tuple[tuple[str, tuple[Step, ...]], ...]:
        """Give the five stretches in flow order with their names."""
        return (
            ("feed", self.feed),
            ("to_store", self.to_store),
            ("hot", self.hot),
            ("cold", self.cold),
            ("mixed", self.mixed),
        )

    def warmth(self, space: str | None) -> Warmth:
        """Say how warm a space is; a piece without one is taken as in the living space."""
        return self.warmths.get(space or "", "heated")

    @property
    def ids(self) -> set[str]:
        """Give the ids of every part and run on it, sources included."""
        found = {step.id for _, steps in self.branches for step in steps}
        found |= {part.id for part in (self.tank, self.split, self.store, self.mixer, self.head)}
        return found | {part.id for part in (self.element, self.burner) if part is not None}


def _refuse(part: PartBase, reason: str) -> NoReturn:
    raise NotComputedYet(part_id=part.id, part_name=part.label, reason=reason)


Kind = TypeVar("Kind", bound=PartBase)


class _Net:
    """The pipes and parts that carry water to the head, dead ends taken off."""

    def __init__(self, system: System) -> None:
        self.parts = {part.id: part for part in system.parts}
        self.at = positions(system, system.states[0] if system.states else None)
        self.pipes = list(system.pipes)
        heads = [part for part in system.parts if isinstance(part, ShowerHead)]
        self.head = heads[0] if heads else None
        self._take_off_ends()
        self.reached = self._reached()

    def _ends(self, part_id: str) -> list[Pipe]:
        return [pipe for pipe in self.pipes if part_id in (pipe.start.part, pipe.end.part)]

    def _dead(self, part: AnyKind) -> bool:
        if part is self.head:
            return False
        if isinstance(part, Outlet) or part.kind in _ENDS:
            return True
        return self.at.get(part.id) in {"shut", "apart"}

    def _take_off_ends(self) -> None:
        waiting = [part.id for part in self.parts.values() if self._dead(part)]
        for part in self.parts.values():
            if isinstance(part, Selector):
                waiting += self._unselected(part)
        while waiting:
            part_id = waiting.pop()
            for pipe in self._ends(part_id):
                if pipe not in self.pipes:
                    continue
                self.pipes.remove(pipe)
                other_id = pipe.end.part if pipe.start.part == part_id else pipe.start.part
                other = self.parts[other_id]
                if isinstance(other, IN_LINE) and len(self._ends(other_id)) == 1:
                    waiting.append(other_id)

    def _unselected(self, selector: Selector) -> list[str]:
        """Cut the ports a selector has shut; give what is left with one end by it."""
        open_ports = {port for way in selector.ways(self.at[selector.id]) for port in way}
        left = []
        for pipe in self._ends(selector.id):
            mine, other = (
                (pipe.start, pipe.end) if pipe.start.part == selector.id else (pipe.end, pipe.start)
            )
            if mine.port not in open_ports:
                self.pipes.remove(pipe)
                if isinstance(self.parts[other.part], IN_LINE):
                    left.append(other.part)
        return left

    def _reached(self) -> set[str]:
        if self.head is None:
            return set()
        seen: set[str] = set()
        waiting = [self.head.id]
        while waiting:
            part_id = waiting.pop()
            if part_id in seen:
                continue
            seen.add(part_id)
            for pipe in self._ends(part_id):
                waiting += [pipe.start.part, pipe.end.part]
        return seen

    def only(self, kind: type[Kind], reason: str) -> Kind:
        """Find the one part of a kind that the head's water passes."""
        parts = [part for part in self.parts.values() if isinstance(part, kind)]
        found = [part for part in parts if part.id in self.reached]
        if not found:
            _refuse(cast(PartBase, parts[0]), "no pipe leads from it to the shower head")
        if len(found) > 1:
            _refuse(cast(PartBase, found[1]), reason)
        return cast(Kind, found[0])

    def through(self, part: AnyKind) -> bool:
        """Say whether a part has just one way in and one way out."""
        if isinstance(part, Split | Selector):
            return len(self._ends(part.id)) == 2
        return isinstance(part, (*IN_LINE, Pump))

    def leaving(self, part: AnyKind, port: str) -> Pipe:
        """Find the pipe that leaves by a port."""
        for pipe in self.pipes:
            if (pipe.start.part, pipe.start.port) == (part.id, port):
                return pipe
            if (pipe.end.part, pipe.end.port) == (part.id, port):
                _refuse(part, f"the run “{pipe.id}” at its {port} points the wrong way")
        _refuse(part, f"its port “{port}” joins nothing")

    def follow(self, part: AnyKind, port: str) -> Iterator[AnyRun | AnyKind]:
        """Walk from a port through parts in line; the last thing given is the first other."""
        for _ in range(len(self.parts) + 1):
            pipe = self.leaving(part, port)
            yield pipe
            part = self.parts[pipe.end.part]
            yield part
            if not self.through(part):
                return
            if isinstance(part, Split | Selector):
                away = next(other for other in self._ends(part.id) if other is not pipe)
                if away.start.part != part.id:
                    _refuse(part, f"the run “{away.id}” points the wrong way")
                port = away.start.port
                continue
            if pipe.end.port != "inlet":
                _refuse(part, "water would enter at its outlet")
            port = "outlet"
        _refuse(part, "the runs go round in a circle")

    def stretch(self, part: AnyKind, port: str, end: AnyKind, end_port: str) -> tuple[Step, ...]:
        """Collect the steps from a port to a part the route needs there."""
        *steps, last = self.follow(part, port)
        run = steps[-1]
        assert isinstance(run, Pipe) and not isinstance(last, Pipe)
        if last is not end or run.end.port != end_port:
            _refuse(
                cast(PartBase, last),
                f"it stands where the route needs the {end.label.lower()} ({end_port})",
            )
        return cast(tuple[Step, ...], tuple(steps))


def find_route(system: System) -> Route:
    """Recognise the computed shape.

    Parameters
    ----------
    system : System
        Any network of parts and runs; its first state, if any, says how it stands. [-]

    Returns
    -------
    Route
        Its parts in flow order, every derivable figure written in. [-]

    Raises
    ------
    NotComputedYet
        Naming the first part that is missing, doubled, unjoined or of another kind.
    MissingValue
        If a figure the engine needs is unknown.
    """
    plain = settled(system)
    net = _Net(plain)
    for kind in (FreshTank, Pump, Store, ThermostaticMixer, ShowerHead):
        if not any(isinstance(part, kind) for part in plain.parts):
            raise NotComputedYet(part_id="", part_name=kind.title, reason="the route needs one")
    head = net.head
    assert head is not None
    for part in plain.parts:
        if part.id in net.reached and not isinstance(part, COMPUTED):
            _refuse(part, "the engine has no method for this kind yet")
    tank = net.only(FreshTank, "a second tank")
    pump = net.only(Pump, "a second pump")
    store = net.only(Store, "a second store")
    mixer = net.only(ThermostaticMixer, "a second mixer")
    split = _split(net)
    to_store_port, cold_port = _which_way(net, split, store)
    element, burner = _sources(plain, net, store)
    route = Route(
        tank=tank,
        pump=pump,
        split=split,
        store=store,
        mixer=mixer,
        head=head,
        element=element,
        burner=burner,
        feed=net.stretch(tank, "outlet", split, "inlet"),
        to_store=net.stretch(split, to_store_port, store, "inlet"),
        hot=net.stretch(store, "outlet", mixer, "hot"),
        cold=net.stretch(split, cold_port, mixer, "cold"),
        mixed=net.stretch(mixer, "outlet", head, "inlet"),
        warmths={space.id: space.warmth for space in plain.spaces},
        kept={space.id: space.kept_c for space in plain.spaces if space.kept_c is not None},
    )
    if not any(isinstance(step, Pump) for step in route.feed):
        _refuse(pump, "it is not between the tank and the split")
    for part in plain.parts:
        if part.id in net.reached and part.id not in route.ids:
            _refuse(part, "it is not on the route from tank to head")
    _refuse_unknown(route)
    return route


def _split(net: _Net) -> Split:
    splits = [
        part
        for part in net.parts.values()
        if isinstance(part, Split) and part.id in net.reached and not net.through(part)
    ]
    if not splits:
        raise NotComputedYet(part_id="", part_name=Split.title, reason="the route needs one")
    if len(splits) > 1:
        _refuse(splits[1], "a second split")
    return splits[0]


def _which_way(net: _Net, split: Split, store: Store) -> tuple[str, str]:
    ports = ("outlet", "branch")
    first = list(net.follow(split, ports[0]))[-1]
    return ports if first is store else (ports[1], ports[0])


def _sources(system: System, net: _Net, store: Store) -> tuple[Element | None, Burner | None]:
    """Find what heats the store; more than one of either is not computed."""
    elements, burners = [], []
    for part in system.fitted(store.id):
        if net.at.get(part.id) == "off":
            continue
        if isinstance(part, Element):
            elements.append(part)
        elif isinstance(part, Burner):
            burners.append(part)
        elif part.kind == "coil":
            _refuse(part, "the engine has no method for this kind yet")
    for several in (elements[1:], burners[1:]):
        if several:
            _refuse(several[0], f"a second {several[0].title.lower()} in one store")
    return (elements[0] if elements else None, burners[0] if burners else None)


def _refuse_unknown(route: Route) -> None:
    """Say which value the engine still needs, the first in flow order."""
    store = route.store
    needed: list[tuple[AnyKind | Pipe, str]] = [(route.tank, "volume_m3")]
    needed += [(route.pump, "open_flow_m3_per_s"), (route.pump, "shut_pressure_pa")]
    needed.append((store, "volume_m3"))
    if route.element is not None:
        needed.append((route.element, "power_w"))
    if route.burner is not None:
        needed.append((route.burner, "input_w"))
    for _, steps in route.branches:
        for step in steps:
            if isinstance(step, Pipe):
                needed += [(step, "length_m"), (step, "bore_m")]
    for piece, name in needed:
        if getattr(piece, name) is None:
            group = "runs" if isinstance(piece, Pipe) else "parts"
            title = type(piece).model_fields[name].title or name
            raise MissingValue(
                path=f"{group}.{piece.id}.{name}", part_name=piece.label, label=title.lower()
            )
    if route.element is None and route.burner is None:
        raise MissingValue(
            path=f"parts.{store.id}", part_name=store.label, label="element or burner in it"
        )


def not_computed(system: System) -> dict[str, str]:
    """Say of every part what the engine does not compute of it yet.

    Parameters
    ----------
    system : System
        Any network. [-]

    Returns
    -------
    dict of str to str
        A clause by part id; parts that are computed whole are left out. [-]
    """
    on_route: set[str] = set()
    refusal: NotComputedYet | None = None
    try:
        on_route = find_route(system).ids
    except NotComputedYet as error:
        refusal = error
    except MissingValue:
        pass
    found: dict[str, str] = {}
    for part in system.parts:
        if refusal is not None and part.id == refusal.part_id:
            found[part.id] = refusal.reason
        elif part.id in on_route or (not on_route and isinstance(part, COMPUTED)):
            rule = getattr(part, "rule", "always")
            if rule != "always":
                found[part.id] = f"its rule “{rule}” is not computed yet: taken as always"
        elif isinstance(part, Outlet):
            found[part.id] = "its flow and warmth; only those of the first shower head are"
        elif part.side in {"water", "temperature"} and part.kind not in _ENDS:
            found[part.id] = "the water through it"
        else:
            found[part.id] = f"what it does is not in the figures yet ({SIDES[part.side].lower()})"
    return found


def reading_order(system: System) -> tuple[AnyRun | AnyKind, ...]:
    """Put parts and runs in the order of a walk from source to head, leftovers last.

    Parameters
    ----------
    system : System
        Any network; it need not be complete. [-]

    Returns
    -------
    tuple of Run or Part
        Every part and run once; what sits in a part follows it. [-]
    """
    order: list[AnyRun | AnyKind] = []
    done: set[str] = set()
    runs = system.pipes
    sources = {"fresh_tank", "loose_container", "outside_source", "pressurised_inlet",
               "gravity_bag"}  # fmt: skip
    starts = [part for part in system.parts if part.kind in sources]

    def put(part: AnyKind) -> None:
        done.add(f"part:{part.id}")
        order.append(part)
        for inner in system.fitted(part.id):
            if f"part:{inner.id}" not in done and not list(_pipes_at(system, inner.id)):
                put(inner)

    def walk(part: AnyKind) -> None:
        if f"part:{part.id}" in done:
            return
        arriving = [run for run in runs if run.end.part == part.id]
        waits = any(f"run:{run.id}" not in done for run in arriving)
        if part.side == "temperature" and waits and arriving:
            return  # wait for the other branch, so that both stand before the mixer
        put(part)
        for port in part.ports:
            for run in runs:
                if (run.start.part, run.start.port) == (part.id, port.name):
                    done.add(f"run:{run.id}")
                    order.append(run)
                    walk(system.part(run.end.part))

    for part in starts:
        walk(part)
    for part in system.parts:
        if list(_pipes_at(system, part.id)):
            walk(part)
    for part in system.parts:
        if f"part:{part.id}" not in done and part.fitted_in is None:
            put(part)
    for part in system.parts:
        if f"part:{part.id}" not in done:
            put(part)
    order += [run for run in system.runs if f"run:{run.id}" not in done]
    return tuple(order)


def _pipes_at(system: System, part_id: str) -> Iterator[Pipe]:
    for run, _, _ in system.joined(part_id):
        if isinstance(run, Pipe):
            yield run
