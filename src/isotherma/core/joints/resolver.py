"""The fewest adapters from one end to another, or why there are none."""

from __future__ import annotations

import heapq
from collections.abc import Callable, Iterable, Sequence
from dataclasses import dataclass
from typing import Final, Literal

from isotherma.core.ends import NOT_FOR_GAS, End, Seal, meets, seal_of, unsaid
from isotherma.core.joints.ratings import bears_pa, bears_to_c

Use = Literal["drinking", "hot", "gas", "waste"]
Why = Literal["gas_only", "not_drinking", "too_hot", "too_much_pressure", "no_chain"]
MOST: Final = 5
JOINT, CLASS, TAPER, BARB_MM, OTHER_JOINT = 1e6, 1e4, 1e3, 1e3, 5e3
NEAREST: Final = 3
USUAL_C: Final = 20.0
# what takes the cut end of a tube where nobody says how it is joined
USUAL: Final = {
    "plastic": ("push-in",), "inch plastic": ("crimp",), "multilayer": ("crimp",),
    "copper": ("compression", "cone", "male"), "steel": ("cone",),
}  # fmt: skip


@dataclass(frozen=True, slots=True)
class Adapter:
    """A fitting with two ends, as sold; `service` is "gas", "waste" or empty: water."""

    id: str
    a: End
    b: End
    rank: int
    length_mm: float
    service: str = ""
    drinking: bool = True
    everywhere: bool = True
    base: bool = True


@dataclass(frozen=True, slots=True)
class Link:
    """An adapter in a chain, with the end that comes first and the one after."""

    adapter: Adapter
    first: End
    second: End


@dataclass(frozen=True, slots=True)
class Asked:
    """What a chain must bear: for what, how hot, under what pressure; None: not said.

    `takes` are the words of ends that may take a tube, where a run says how it is joined;
    `tube_c` and `tube_pa` are what is printed on the tube, which wins over its family; `coolant`
    that it is hose for coolant.
    """

    use: Use | None = None
    at_c: float | None = None
    pressure_pa: float | None = None
    base_only: bool = False
    takes: tuple[str, ...] = ()
    tube_c: float | None = None
    tube_pa: float | None = None
    coolant: bool = False


@dataclass(frozen=True, slots=True)
class Chain:
    """A way from one end to another, or why there is none.

    `nearest` are ends that reach the second where the first does not, fewest joints first.
    """

    links: tuple[Link, ...] = ()
    seals: tuple[Seal, ...] = ()
    unknown: tuple[str, ...] = ()
    refused: Why | None = None
    nearest: tuple[str, ...] = ()

    @property
    def joints(self) -> int:
        """How many joints it has; 0 where there is no way."""
        return 0 if self.refused is not None else len(self.links) + 1


def use_of(one: End, other: End, asked: Asked) -> Use:
    """Give what goes through two ends: as asked, else gas or waste by them, else drinking water.

    Parameters
    ----------
    one, other : End
        The ends. [-]
    asked : Asked
        What was said. [-]

    Returns
    -------
    str
        What goes through. [-]
    """
    if asked.use is not None:
        return asked.use
    if one.of_gas or other.of_gas:
        return "gas"
    return "waste" if one.of_waste or other.of_waste else "drinking"


def resolve(one: End, other: End, adapters: Sequence[Adapter], asked: Asked = Asked()) -> Chain:
    """Find the fewest adapters from one end to another.

    Parameters
    ----------
    one, other : End
        The ends. [-]
    adapters : sequence of Adapter
        All there are. [-]
    asked : Asked
        What it must bear. [°C, Pa]

    Returns
    -------
    Chain
        At most five adapters; swapped ends give it mirrored. [-]

    Notes
    -----
    Fewest joints first, then the plainest kinds, fewest tapers, barbs that fit their hose, and
    least length; of equals the least ids. It is looked for from the end that sorts first.
    """
    use = use_of(one, other, asked)
    why = _forbidden(one, other, use, asked)
    if why is not None:
        return Chain(refused=why)
    swapped = one.name > other.name
    start, goal = (other, one) if swapped else (one, other)
    stock = [item for item in adapters if item.base or not asked.base_only]
    filters = _filters(use, asked)
    allowed = stock
    for _, keeps in filters:
        allowed = [item for item in allowed if keeps(item)]
    ends_why = _ends_bear(one, other, use, asked)
    links = None if ends_why is not None else _shortest(start, goal, allowed, asked.takes)
    if links is None and asked.takes and ends_why is None:
        links = _shortest(start, goal, allowed)  # as its run is joined it does not go at all
    if links is None:
        why = ends_why or _ended_by(start, goal, stock, filters)
        nearest = _nearest(one, other, allowed) if ends_why is None else ()
        return Chain(refused=why, nearest=nearest)
    if swapped:
        links = [Link(link.adapter, link.second, link.first) for link in reversed(links)]
    pairs = _pairs(one, other, links)
    unknown = dict.fromkeys(said for pair in pairs for said in unsaid(*pair))
    if use == "hot" and asked.at_c is None:
        unknown["temperature"] = None
    return Chain(tuple(links), tuple(seal_of(*pair) for pair in pairs), tuple(unknown))


def _pairs(one: End, other: End, links: Sequence[Link]) -> list[tuple[End, End]]:
    """Give the ends that meet, joint by joint."""
    pairs = []
    here = one
    for link in links:
        pairs.append((here, link.first))
        here = link.second
    return [*pairs, (here, other)]


def _forbidden(one: End, other: End, use: Use, asked: Asked) -> Why | None:
    """Say what must not be joined whatever fits."""
    if asked.use != "gas":
        for end, beyond in ((one, other), (other, one)):
            if not end.of_gas:
                continue
            strange = beyond.word in NOT_FOR_GAS or beyond.family in ("garden", "click")
            if strange or use in ("drinking", "hot"):
                return "gas_only"
    if use in ("drinking", "hot") and (one.of_waste or other.of_waste):
        return "not_drinking"
    return None


Filter = tuple[Why, Callable[[Adapter], bool]]


def _filters(use: Use, asked: Asked) -> list[Filter]:
    """Give what adapters must be, in their order, each with its reason."""
    celsius = USUAL_C if asked.at_c is None else asked.at_c
    found: list[Filter] = []
    if use in ("gas", "waste"):
        found.append(("gas_only" if use == "gas" else "no_chain", lambda item: item.service == use))
    else:
        found.append(("gas_only", lambda item: item.service != "gas"))
        found.append(("not_drinking", lambda item: item.service != "waste"))
    if use in ("drinking", "hot"):
        found.append(("not_drinking", lambda item: item.drinking))
    if use != "waste":
        found.append(("too_hot", lambda item: all(
            celsius <= _bears_c(end, asked) for end in (item.a, item.b))))  # fmt: skip
    pressure = asked.pressure_pa
    if pressure is not None and use != "waste":
        found.append(("too_much_pressure", lambda item: all(
            pressure <= _bears_pa(end, celsius, asked) for end in (item.a, item.b))))  # fmt: skip
    return found


def _bears_c(end: End, asked: Asked) -> float:
    """Give the hottest an end bears: a barb as its hose, and what is printed on that wins."""
    if asked.tube_c is not None and end.word in ("barb", "hose", "tube"):
        return asked.tube_c
    return bears_to_c(end, coolant=asked.coolant)


def _bears_pa(end: End, celsius: float, asked: Asked) -> float:
    """Give the pressure an end bears: what is printed on the tube wins, for a barb too."""
    if end.word not in ("barb", "hose", "tube"):
        return bears_pa(end, celsius, coolant=asked.coolant)
    if asked.tube_pa is not None:
        return asked.tube_pa
    # printed hotter than its family: then what the family bears at its hottest
    hottest = bears_to_c(end, coolant=asked.coolant)
    at_c = celsius if asked.tube_c is None else min(celsius, hottest)
    return bears_pa(end, at_c, coolant=asked.coolant)


def _ends_bear(one: End, other: End, use: Use, asked: Asked) -> Why | None:
    """Say whether the two ends themselves bear what is asked: tubes and hoses are rated too."""
    if use == "waste":
        return None
    celsius = USUAL_C if asked.at_c is None else asked.at_c
    rated = [end for end in (one, other) if end.word in ("tube", "hose")]
    if any(celsius > _bears_c(end, asked) for end in rated):
        return "too_hot"
    pressure = asked.pressure_pa
    if pressure is not None and any(pressure > _bears_pa(end, celsius, asked) for end in rated):
        return "too_much_pressure"
    return None


def _ended_by(
    start: End, goal: End, stock: Sequence[Adapter], filters: Sequence[Filter]
) -> Why:  # fmt: skip
    """Name the filter that ends the last chain; where there is none unfiltered, that."""
    allowed = list(stock)
    if _shortest(start, goal, allowed) is None:
        return "no_chain"
    for why, keeps in filters:
        allowed = [item for item in allowed if keeps(item)]
        if _shortest(start, goal, allowed) is None:
            return why
    return "no_chain"


def _cost(here: End, there: End) -> float:
    """Weigh a joint: tapers, barbs that are off their hose, unusual ways to take a tube."""
    cost = JOINT
    if seal_of(here, there) == "tape":
        cost += TAPER
    for barb, hose in ((here, there), (there, here)):
        if barb.word == "barb" and hose.word == "hose":
            cost += BARB_MM * abs(barb.size_mm - hose.size_mm)
    for tube, taker in ((here, there), (there, here)):
        if tube.word == "tube" and taker.word not in USUAL.get(tube.family, ()):
            cost += OTHER_JOINT
    return cost


def _key(end: End) -> str:
    return f"{end.name}/{end.material}"


def _shortest(
    start: End, goal: End, adapters: Sequence[Adapter], takes: tuple[str, ...] = ()
) -> list[Link] | None:
    """Find the cheapest chain, of equals the one with the least ids."""
    # by the end that comes first, so that every end is held against every other but once
    sides: dict[End, list[tuple[Adapter, End, str]]] = {}
    for item in adapters:
        sides.setdefault(item.a, []).append((item, item.b, _key(item.b)))
        if item.a != item.b:
            sides.setdefault(item.b, []).append((item, item.a, _key(item.a)))
    waiting: list[tuple[float, tuple[str, ...], int, End, tuple[Link, ...]]] = []
    heapq.heappush(waiting, (0.0, (), 0, start, ()))
    done: set[str] = set()
    order = 0
    while waiting:
        cost, ids, _, here, links = heapq.heappop(waiting)
        if links and links[-1].adapter.id == "":  # the goal was reached at this price
            return list(links[:-1])
        key = _key(here)
        if key in done and links:
            continue
        done.add(key)
        if meets(here, goal):
            order += 1
            end = Link(Adapter("", goal, goal, 0, 0.0), goal, goal)
            heapq.heappush(waiting, (cost + _cost(here, goal), ids, order, goal, (*links, end)))
        if len(links) >= MOST:
            continue
        for first, on in sides.items():
            if not meets(here, first):
                continue
            if takes and here is start and start.word == "tube" and first.word not in takes:
                continue
            joint = cost + _cost(here, first)
            for item, second, leads in on:
                if leads in done:
                    continue
                takes_goal = goal.word == "tube" and meets(second, goal)
                if takes and second.word not in takes and takes_goal:
                    continue
                order += 1
                heapq.heappush(
                    waiting, (joint + CLASS * item.rank + item.length_mm, (*ids, item.id), order,
                              second, (*links, Link(item, first, second)))
                )  # fmt: skip
    return None


def _nearest(one: End, other: End, adapters: Sequence[Adapter]) -> tuple[str, ...]:
    """Name ends that do reach the second: fewest joints, then of the first's own word, by name."""
    tried: dict[str, End] = {}
    for item in adapters:
        for end in (item.a, item.b):
            tried.setdefault(end.name, end)
    found: list[tuple[int, bool, str]] = []
    reached = _reached(other, adapters)
    for name, end in tried.items():
        if name in (one.name, other.name):
            continue
        joints = reached.get(name)
        if joints is None:
            joints = min(
                (count + 1 for far, count in reached.items() if meets(end, tried[far])),
                default=None,
            )
            joints = 1 if meets(end, other) else joints
        if joints is not None:
            found.append((joints, end.word != one.word, name))
    return tuple(name for _, _, name in sorted(found)[:NEAREST])


def _reached(goal: End, adapters: Iterable[Adapter]) -> dict[str, int]:
    """Count the joints from the free end of an adapter to a goal, for every one that gets there."""
    every = list(adapters)
    found: dict[str, int] = {}
    edge = [goal]
    for joints in range(1, MOST + 2):
        further = []
        for item in every:
            for first, second in ((item.a, item.b), (item.b, item.a)):
                if second.name not in found and any(meets(here, first) for here in edge):
                    found[second.name] = joints
                    further.append(second)
        edge = further
    return found
