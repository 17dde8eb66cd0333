"""A network of links as plain arrays, and the compiled solution of its flows.

Unknown are the mass flow of every link and the pressure of every node. Each step of
Newton's method solves a sparse symmetric system for the pressures (Todini and Pilati,
A gradient method for the analysis of pipe networks, 1987), and a search along the step
keeps it downhill, since the laws rise with the flow. Links that pass one way only are
steep backwards at first; once the flows are known, those that ran backwards are shut
wholly and the rest is solved again. Flows are then made exact at every node along a
spanning tree.
"""

from __future__ import annotations

from math import log2
from typing import Final, NamedTuple

import numpy as np
from numpy.typing import NDArray

from isotherma.core.compiled import compiled, lean
from isotherma.core.hydraulics import laws

Floats = NDArray[np.float64]
Ints = NDArray[np.int64]
Flags = NDArray[np.bool_]

GRAVITY_M_PER_S2: Final = 9.80665
OPEN, SHUT, HELD = 0, 1, 2  # a link; held: shut by the flow itself
CLOSE_PA: Final = 1e-3  # the energy equation of every link is met within this
MOST_STEPS: Final = 80
START_KG_PER_S: Final = 0.05  # 3 L/min

_drop = laws.drop
_CHECK, _CRACK = laws.CHECK, laws.CRACK
_SHUT_SLOPE = laws.SHUT_SLOPE


class Net(NamedTuple):
    """Links, nodes and elimination of a network.

    `law`, `start`, `end`, `one_way`, `rise` have an entry per link; `parameters` a row.
    `curves` holds all points of pump curves: flows over heads. `given` says which nodes
    have a pressure of their own. The rest is a `Structure`.
    """

    law: Ints
    start: Ints
    end: Ints
    one_way: Flags
    rise: Floats
    parameters: Floats
    curves: Floats
    given: Flags
    unknown: Ints
    entry: Ints
    order: Ints
    first: Ints
    row: Ints
    place: Ints
    pairs: Ints
    update: Ints
    entries: int


class Room(NamedTuple):
    """To work in while a network is solved: by link, by node, by row and by entry off it."""

    taken: Floats
    slope: Floats
    step: Floats
    home: Ints
    grounded: Flags
    diagonal: Floats
    right: Floats
    off: Floats


@lean
def _root(parent: Ints, node: int) -> int:
    while parent[node] != node:
        parent[node] = parent[parent[node]]
        node = parent[node]
    return node


@lean
def _find_islands(net: Net, shut: Ints, parent: Ints) -> None:
    """Number the parts of the network that open links join: the lowest node of each."""
    nodes = net.given.size
    for node in range(nodes):
        parent[node] = node
    for link in range(net.law.size):
        if shut[link] == OPEN:
            one, other = _root(parent, net.start[link]), _root(parent, net.end[link])
            if one < other:
                parent[other] = one
            elif other < one:
                parent[one] = other
    for node in range(nodes):
        parent[node] = _root(parent, node)


@compiled
def islands(net: Net, shut: Ints) -> Ints:
    """Number the parts of the network that open links join: the lowest node of each."""
    parent = np.empty(net.given.size, dtype=np.int64)
    _find_islands(net, shut, parent)
    return parent


@lean
def _eliminate(net: Net, diagonal: Floats, off: Floats, right: Floats) -> None:
    """Solve the symmetric system in place; the solution is left in `right`."""
    count = net.order.size
    for k in range(count):
        node = net.order[k]
        if diagonal[node] <= 0.0:  # every link at it is shut
            diagonal[node] = 1.0
        pivot = diagonal[node]
        for at in range(net.first[k], net.first[k + 1]):
            value = off[net.place[at]]
            other = net.row[at]
            diagonal[other] -= value * value / pivot
            right[other] -= value * right[node] / pivot
        for at in range(net.pairs[k], net.pairs[k + 1]):
            off[net.update[at, 2]] -= off[net.update[at, 0]] * off[net.update[at, 1]] / pivot
    for k in range(count - 1, -1, -1):
        node = net.order[k]
        value = right[node]
        for at in range(net.first[k], net.first[k + 1]):
            value -= off[net.place[at]] * right[net.row[at]]
        right[node] = value / diagonal[node]


@lean
def _laws(
    net: Net, shut: Ints, flow: Floats, rho: Floats, mu: Floats, taken: Floats, slope: Floats
) -> None:
    """Evaluate every open link: what it takes with its rise, and the slope by mass flow."""
    for link in range(net.law.size):
        if shut[link] != OPEN:
            continue
        density = rho[link]
        h, s = _drop(
            net.law[link],
            flow[link] / density,
            net.parameters[link],
            net.curves,
            density,
            mu[link],
            net.one_way[link],
        )
        taken[link] = h + density * GRAVITY_M_PER_S2 * net.rise[link]
        slope[link] = s / density


@lean
def _newton(
    net: Net,
    shut: Ints,
    fixed: Floats,
    outflow: Floats,
    rho: Floats,
    mu: Floats,
    flow: Floats,
    pressure: Floats,
    room: Room,
    close_pa: float,
) -> tuple[int, float]:
    """Meet every energy equation at fixed shut links; give steps and what is left."""
    links, rows = net.law.size, net.order.size
    taken, slope, home, grounded = room.taken, room.slope, room.home, room.grounded
    diagonal, right, off, step = room.diagonal, room.right, room.off, room.step
    _find_islands(net, shut, home)
    for node in range(net.given.size):
        grounded[node] = net.given[node]
    for node in range(net.given.size):
        if net.given[node]:
            grounded[home[node]] = True
    residual = np.inf
    _laws(net, shut, flow, rho, mu, taken, slope)
    for node in range(net.given.size):
        if net.given[node]:
            pressure[node] = fixed[node]
    for count in range(1, MOST_STEPS + 1):
        # for the changes of pressure, not the pressures: what is left of a sum of large numbers
        # would else be taken for flow by links that hardly resist
        for row in range(rows):
            diagonal[row] = right[row] = 0.0
        for at in range(net.entries):
            off[at] = 0.0
        for node in range(net.given.size):
            row = net.unknown[node]
            if row >= 0:
                right[row] = -outflow[node]
                if home[node] == node and not grounded[node]:
                    diagonal[row] += 1e-6  # nothing flows to it: it only fixes the level
                    right[row] += 1e-6 * (fixed[node] - pressure[node])
        for link in range(links):
            if shut[link] != OPEN:
                continue
            ease = 1.0 / slope[link]
            start, end = net.start[link], net.end[link]
            carried = flow[link] + ease * (pressure[start] - pressure[end] - taken[link])
            a, b = net.unknown[start], net.unknown[end]
            if a >= 0:
                diagonal[a] += ease
                right[a] -= carried
            if b >= 0:
                diagonal[b] += ease
                right[b] += carried
            if net.entry[link] >= 0:
                off[net.entry[link]] -= ease
        _eliminate(net, diagonal, off, right)
        for node in range(net.given.size):
            row = net.unknown[node]
            if row >= 0:
                pressure[node] += right[row]
        fall = 0.0
        for link in range(links):
            step[link] = 0.0
            if shut[link] == OPEN:
                miss = pressure[net.start[link]] - pressure[net.end[link]] - taken[link]
                step[link] = miss / slope[link]
                fall -= step[link] * miss
        part, before = 1.0, 0.0
        for _ in range(12):
            for link in range(links):
                flow[link] += (part - before) * step[link]
            _laws(net, shut, flow, rho, mu, taken, slope)
            ahead = 0.0
            residual = 0.0
            for link in range(links):
                if shut[link] == OPEN:
                    miss = pressure[net.start[link]] - pressure[net.end[link]] - taken[link]
                    ahead -= step[link] * miss
                    residual = max(residual, abs(miss))
            before = part
            if count == 1 or residual < close_pa or ahead <= 0.3 * abs(fall):
                break
            part *= max(0.1, min(0.9, -fall / (ahead - fall)))
        if residual < close_pa and part == 1.0:
            return count, residual
    return MOST_STEPS, residual


@compiled
def _exact(net: Net, shut: Ints, outflow: Floats, flow: Floats, slope: Floats) -> None:
    """Make the flows add up at every node: along a tree of the easiest links."""
    links, nodes = net.law.size, net.given.size
    # links by the slope's power of two, the easiest first: a sort good enough, in one pass
    rank = np.zeros(links, dtype=np.int64)
    counts = np.zeros(130, dtype=np.int64)
    for link in range(links):
        if shut[link] == OPEN:
            rank[link] = int(min(127.0, max(0.0, log2(slope[link]) + 20.0)))
            counts[rank[link] + 1] += 1
    for at in range(1, 130):
        counts[at] += counts[at - 1]
    ordered = np.empty(counts[129], dtype=np.int64)
    for link in range(links):
        if shut[link] == OPEN:
            ordered[counts[rank[link]]] = link
            counts[rank[link]] += 1
    parent = np.arange(nodes + 1)
    degree = np.zeros(nodes, dtype=np.int64)
    tree = np.zeros(links, dtype=np.bool_)
    for link in ordered:
        a, b = net.start[link], net.end[link]
        one = _root(parent, nodes if net.given[a] else a)
        other = _root(parent, nodes if net.given[b] else b)
        if one != other:
            parent[one] = other
            tree[link] = True
            degree[a] += 1
            degree[b] += 1
    missing = outflow.copy()  # what must still come in at a node
    for link in range(links):
        if shut[link] == OPEN and not tree[link]:
            missing[net.start[link]] += flow[link]
            missing[net.end[link]] -= flow[link]
    # neighbours by tree link, as a list with heads
    head = np.full(nodes, -1, dtype=np.int64)
    after = np.full(2 * links, -1, dtype=np.int64)
    for link in range(links):
        if tree[link]:
            after[2 * link] = head[net.start[link]]
            head[net.start[link]] = 2 * link
            after[2 * link + 1] = head[net.end[link]]
            head[net.end[link]] = 2 * link + 1
    waiting = np.empty(nodes, dtype=np.int64)
    count = 0
    for node in range(nodes):
        if degree[node] == 1 and not net.given[node]:
            waiting[count] = node
            count += 1
    done = 0
    while done < count:
        node = waiting[done]
        done += 1
        at = head[node]
        while at >= 0 and not tree[at // 2]:
            at = after[at]
        if at < 0:
            continue
        link = at // 2
        tree[link] = False
        other = net.end[link] if net.start[link] == node else net.start[link]
        flow[link] = -missing[node] if net.start[link] == node else missing[node]
        missing[other] += missing[node]
        degree[node] -= 1
        degree[other] -= 1
        if degree[other] == 1 and not net.given[other]:
            waiting[count] = other
            count += 1


@lean
def _joined(net: Net, shut: Ints, link: int, home: Ints) -> bool:
    """Say whether both ends of a held link have a pressure that means something."""
    _find_islands(net, shut, home)
    a, b = home[net.start[link]], home[net.end[link]]
    known_a = known_b = False
    for node in range(net.given.size):
        if net.given[node]:
            known_a = known_a or home[node] == a
            known_b = known_b or home[node] == b
    return (known_a and known_b) or a == b


@lean
def _settle(
    net: Net,
    shut: Ints,
    fixed: Floats,
    outflow: Floats,
    rho: Floats,
    mu: Floats,
    flow: Floats,
    pressure: Floats,
    warm: bool,
    room: Room,
    lifted: Ints,
    close_pa: float,
) -> tuple[int, float]:
    """Solve, shut what would run backwards and lift what is pushed, until nothing changes."""
    links = net.law.size
    total = 0
    residual = np.inf
    if not warm:
        for link in range(links):
            if shut[link] == HELD:
                shut[link] = OPEN
            flow[link] = START_KG_PER_S if shut[link] == OPEN else 0.0
        steps, residual = _newton(
            net, shut, fixed, outflow, rho, mu, flow, pressure, room, close_pa
        )
        total += steps
    for link in range(links):
        if shut[link] == OPEN and net.one_way[link] and not warm:
            least = _CRACK * rho[link] if net.law[link] == _CHECK else 0.0
            if flow[link] < least:
                shut[link] = HELD
        if shut[link] != OPEN:
            flow[link] = 0.0
    for attempt in range(links + 4):
        steps, residual = _newton(
            net, shut, fixed, outflow, rho, mu, flow, pressure, room, close_pa
        )
        total += steps
        changed = False
        for link in range(links):
            if not net.one_way[link]:
                continue
            least = -1e-12
            if net.law[link] == _CHECK and lifted[link] == 0:
                least = _CRACK * rho[link]
            if shut[link] == OPEN and flow[link] < least and lifted[link] < 3:
                shut[link] = HELD
                flow[link] = 0.0
                changed = True
            elif shut[link] == HELD:
                if net.law[link] == _CHECK:
                    rest = net.parameters[link, laws.OPENS_PA]
                else:
                    rest, _ = _drop(
                        net.law[link],
                        0.0,
                        net.parameters[link],
                        net.curves,
                        rho[link],
                        mu[link],
                        links < 0,  # no: a literal would be compiled once more
                    )
                push = pressure[net.start[link]] - pressure[net.end[link]] - rest
                push -= rho[link] * GRAVITY_M_PER_S2 * net.rise[link]
                if push > 10.0 * close_pa and _joined(net, shut, link, room.home):
                    shut[link] = OPEN
                    lifted[link] += 1
                    changed = True
                    if attempt > 3:
                        break  # one at a time, should they take turns
        if not changed:
            break
    return total, residual


@compiled
def solve_flows(
    net: Net,
    shut: Ints,
    fixed: Floats,
    outflow: Floats,
    rho: Floats,
    mu: Floats,
    flow: Floats,
    pressure: Floats,
    warm: bool,
    close_pa: float,
) -> tuple[int, float]:
    """Solve a network: `flow`, `pressure` and what holds itself shut are written in place.

    `shut` says of every link OPEN or SHUT and comes back with HELD where nothing may
    flow backwards. `fixed` is the pressure of given nodes, and the level of others should
    no open way lead to a given one; `outflow` is what leaves at a node from elsewhere. Every
    energy equation is met within `close_pa`.
    """
    links, nodes, rows = net.law.size, net.given.size, net.order.size
    taken, slope = np.zeros(links), np.ones(links)
    room = Room(
        taken, slope, np.empty(links), np.empty(nodes, dtype=np.int64),
        np.empty(nodes, dtype=np.bool_), np.empty(rows), np.empty(rows), np.empty(net.entries),
    )  # fmt: skip
    lifted = np.zeros(links, dtype=np.int64)
    total, residual = _settle(
        net, shut, fixed, outflow, rho, mu, flow, pressure, warm, room, lifted, close_pa
    )
    _exact(net, shut, outflow, flow, slope)
    _laws(net, shut, flow, rho, mu, taken, slope)
    residual = 0.0
    for link in range(links):
        if shut[link] == OPEN:
            miss = pressure[net.start[link]] - pressure[net.end[link]] - taken[link]
            residual = max(residual, abs(miss) if miss == miss else np.inf)
    return total, residual


@compiled
def imbalance(net: Net, flow: Floats, outflow: Floats) -> float:
    """Give the largest share of what passes a node that does not add up there."""
    nodes = net.given.size
    into, most = np.zeros(nodes), np.zeros(nodes)
    for link in range(net.law.size):
        into[net.start[link]] -= flow[link]
        into[net.end[link]] += flow[link]
        most[net.start[link]] = max(most[net.start[link]], abs(flow[link]))
        most[net.end[link]] = max(most[net.end[link]], abs(flow[link]))
    worst = 0.0
    for node in range(nodes):
        if not net.given[node]:
            worst = max(worst, abs(into[node] - outflow[node]) / max(most[node], 1e-9))
    return worst
