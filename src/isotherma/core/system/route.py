"""Find the one shape the engine computes in a network, or name the part that does not fit.

The document may hold any network. The route is: tank → … pump … → split →
(store → mixer hot) and (→ mixer cold) → … → shower head, with shut-offs, strainers,
accumulators and check valves anywhere in line.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from typing import NoReturn, TypeVar, cast

from isotherma.core.errors import MissingValue, NotComputedYet
from isotherma.core.system import Run, System
from isotherma.core.system.parts import (
    IN_LINE,
    FreshTank,
    InLine,
    Part,
    PartBase,
    Pump,
    ShowerHead,
    Split,
    Store,
    ThermostaticMixer,
)

Step = Run | InLine | Pump


@dataclass(frozen=True, slots=True)
class Route:
    """The recognised shape: its main parts and the steps between them, in flow order."""

    tank: FreshTank
    pump: Pump
    split: Split
    store: Store
    mixer: ThermostaticMixer
    head: ShowerHead
    feed: tuple[Step, ...]
    to_store: tuple[Step, ...]
    hot: tuple[Step, ...]
    cold: tuple[Step, ...]
    mixed: tuple[Step, ...]

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


def _refuse(part: PartBase, reason: str) -> NoReturn:
    raise NotComputedYet(part_id=part.id, part_name=part.label, reason=reason)


Kind = TypeVar("Kind", bound=PartBase)


def _only(system: System, kind: type[Kind], reason: str) -> Kind:
    found = [part for part in system.parts if isinstance(part, kind)]
    if not found:
        raise NotComputedYet(part_id="", part_name=kind.title, reason="the route needs one")
    if len(found) > 1:
        _refuse(found[1], reason)
    return found[0]


def _leaving(system: System, part: Part, port: str) -> Run:
    for run in system.runs:
        if (run.start.part, run.start.port) == (part.id, port):
            return run
        if (run.end.part, run.end.port) == (part.id, port):
            _refuse(part, f"the run “{run.id}” at its {port} points the wrong way")
    _refuse(part, f"its port “{port}” joins nothing")


def _follow(system: System, part: Part, port: str) -> Iterator[Run | Part]:
    """Walk from a port through parts in line; the last thing given is the first other part."""
    for _ in range(len(system.parts) + 1):
        run = _leaving(system, part, port)
        yield run
        part = system.part(run.end.part)
        if isinstance(part, (*IN_LINE, Pump)):
            if run.end.port != "inlet":
                _refuse(part, "water would enter at its outlet")
            yield part
            port = "outlet"
            continue
        yield part
        return
    _refuse(part, "the runs go round in a circle")


def _stretch(system: System, part: Part, port: str, end: Part, end_port: str) -> tuple[Step, ...]:
    *steps, last = _follow(system, part, port)
    run = steps[-1]
    assert isinstance(run, Run)
    if last is not end or run.end.port != end_port:
        assert not isinstance(last, Run)
        _refuse(last, f"it stands where the route needs the {end.label.lower()} ({end_port})")
    kept = [step for step in steps if isinstance(step, (Run, Pump, *IN_LINE))]
    return cast(tuple[Step, ...], tuple(kept))


def find_route(system: System) -> Route:
    """Recognise the computed shape.

    Parameters
    ----------
    system : System
        Any network of parts and runs. [-]

    Returns
    -------
    Route
        Its parts in flow order. [-]

    Raises
    ------
    NotComputedYet
        Naming the first part that is missing, doubled, unjoined or of another kind.
    MissingValue
        If the tank or the store has no volume, or a source no power.
    """
    for part in system.parts:
        known = (FreshTank, Pump, Split, Store, ThermostaticMixer, ShowerHead, *IN_LINE)
        if not isinstance(part, known):
            _refuse(part, "the engine has no method for this kind")
    tank = _only(system, FreshTank, "a second tank")
    pump = _only(system, Pump, "a second pump")
    split = _only(system, Split, "a second split")
    store = _only(system, Store, "a second store")
    mixer = _only(system, ThermostaticMixer, "a second mixer")
    head = _only(system, ShowerHead, "a second outlet")
    feed = _stretch(system, tank, "outlet", split, "inlet")
    ports = ("outlet", "branch")
    first = list(_follow(system, split, ports[0]))[-1]
    to_store_port, cold_port = ports if first is store else (ports[1], ports[0])
    route = Route(
        tank=tank,
        pump=pump,
        split=split,
        store=store,
        mixer=mixer,
        head=head,
        feed=feed,
        to_store=_stretch(system, split, to_store_port, store, "inlet"),
        hot=_stretch(system, store, "outlet", mixer, "hot"),
        cold=_stretch(system, split, cold_port, mixer, "cold"),
        mixed=_stretch(system, mixer, "outlet", head, "inlet"),
    )
    if not any(isinstance(step, Pump) for step in feed):
        _refuse(pump, "it is not between the tank and the split")
    on_route = {step.id for _, steps in route.branches for step in steps}
    on_route |= {tank.id, split.id, store.id, mixer.id, head.id}
    for part in system.parts:
        if part.id not in on_route:
            _refuse(part, "it is not on the route from tank to head")
    _refuse_unknown(route)
    return route


def _refuse_unknown(route: Route) -> None:
    """Say which value the engine still needs, the first in flow order."""
    store = route.store
    missing: list[tuple[str, Part, str]] = []
    if route.tank.volume_m3 is None:
        missing.append((f"parts.{route.tank.id}.volume_m3", route.tank, "usable volume"))
    if store.volume_m3 is None:
        missing.append((f"parts.{store.id}.volume_m3", store, "volume"))
    if store.element is None and store.burner is None:
        missing.append((f"parts.{store.id}.element", store, "element or burner"))
    if store.element is not None and store.element.power_w is None:
        missing.append((f"parts.{store.id}.element.power_w", store, "element power"))
    if store.burner is not None and store.burner.input_w is None:
        missing.append((f"parts.{store.id}.burner.input_w", store, "burner input"))
    for path, part, label in missing:
        raise MissingValue(path=path, part_name=part.label, label=label)


def reading_order(system: System) -> tuple[Run | Part, ...]:
    """Put parts and runs in the order of a walk from tank to head, leftovers last.

    Parameters
    ----------
    system : System
        Any network; it need not be complete. [-]

    Returns
    -------
    tuple of Run or Part
        Every part and run once. [-]
    """
    order: list[Run | Part] = []
    done: set[str] = set()
    tanks: list[Part] = [part for part in system.parts if isinstance(part, FreshTank)]
    starts = tanks or list(system.parts)

    def walk(part: Part) -> None:
        if f"part:{part.id}" in done:
            return
        arriving = [run for run in system.runs if run.end.part == part.id]
        waits = any(f"run:{run.id}" not in done for run in arriving)
        if isinstance(part, ThermostaticMixer) and waits and arriving:
            return  # wait for the other branch, so that both stand before the mixer
        done.add(f"part:{part.id}")
        order.append(part)
        for port in part.ports:
            for run in system.runs:
                if (run.start.part, run.start.port) == (part.id, port):
                    done.add(f"run:{run.id}")
                    order.append(run)
                    walk(system.part(run.end.part))

    for part in (*starts, *system.parts):
        walk(part)
    order += [part for part in system.parts if f"part:{part.id}" not in done]
    order += [run for run in system.runs if f"run:{run.id}" not in done]
    return tuple(order)
