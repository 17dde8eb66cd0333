"""What every run must bear: whether and how hot it gets, and under what pressure it stands."""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from dataclasses import dataclass
from typing import Final

from isotherma.core.system import AnyKind, System
from isotherma.core.system.nominal import known_figure
from isotherma.core.system.runs import Pipe

COOL_C: Final = 48.0  # a mixer set no higher sends nothing hot on
HEATED: Final = frozenset({
    "store", "combi", "canister", "sun_container", "through_flow_gas", "through_flow_electric",
})  # fmt: skip
LEAVES_BY: Final = ("outlet", "relief", "drain", "vent")
PRIMARY: Final = frozenset({"liquid_heater", "engine_coolant", "circulation_pump"})
MIXERS: Final = frozenset({"thermostatic_mixer", "manual_mixer"})
ONE_WAY: Final = frozenset({
    "check_valve", "pump", "submersible", "foot_pump", "hand_pump", "through_flow_gas",
    "through_flow_electric",
})  # fmt: skip
TANKS: Final = frozenset({"fresh_tank", "grey_tank", "loose_container", "gravity_bag"})
PUMPS: Final = frozenset({"pump", "submersible"})
Node = tuple[str, str]


@dataclass(frozen=True, slots=True)
class Bears:
    """What a run must bear: None where nobody said how hot, or under what pressure.

    `pressure_pa` is 0 in what is open to the air; `coolant` says that nobody drinks from it.
    """

    hot: bool = False
    hot_c: float | None = None
    pressure_pa: float | None = 0.0
    coolant: bool = False


class _Net:
    """A system as ports that runs and parts let water between."""

    def __init__(self, system: System) -> None:
        self.system = system
        self.parts: dict[str, AnyKind] = {part.id: part for part in system.parts}
        self.pipes = [run for run in system.runs if isinstance(run, Pipe)]
        self.near: dict[Node, list[Node]] = {}
        for run in self.pipes:
            one, other = (run.start.part, run.start.port), (run.end.part, run.end.port)
            self.near.setdefault(one, []).append(other)
            self.near.setdefault(other, []).append(one)
        self.through: dict[Node, list[Node]] = {}
        for part in system.parts:
            for first, second in _ways(part):
                self.through.setdefault((part.id, first), []).append((part.id, second))
                if part.kind not in ONE_WAY:
                    self.through.setdefault((part.id, second), []).append((part.id, first))
            for name in ("relief", "drain"):  # of a vessel: under what it holds
                if part.kind in HEATED and part.port(name) is not None:
                    self.through.setdefault((part.id, "inlet"), []).append((part.id, name))

    def reached(self, starts: Iterable[Node], stops: frozenset[str]) -> set[Node]:
        """Give every port water gets to from some, not through kinds that stop it."""
        found: set[Node] = set()
        waiting = list(starts)
        while waiting:
            node = waiting.pop()
            if node in found:
                continue
            found.add(node)
            waiting += self.near.get(node, [])
            waiting += [on for on in self.through.get(node, []) if self._lets(node, on, stops)]
        return found

    def within(self, nodes: set[Node]) -> list[str]:
        """Give the runs both of whose ends are among some ports."""
        return [run.id for run in self.pipes if (run.start.part, run.start.port) in nodes
                and (run.end.part, run.end.port) in nodes]  # fmt: skip

    def _lets(self, node: Node, on: Node, stops: frozenset[str]) -> bool:
        part = self.parts[node[0]]
        if part.kind in TANKS or part.kind in stops or _open(part):
            return False
        if part.kind in MIXERS and stops == HEATED:  # hot water goes on where it is not cooled
            setting = known_figure(part, "set_c")
            return node[1] == "hot" and on[1] == "outlet" and (
                setting is None or setting > COOL_C)  # fmt: skip
        return True


def _open(part: AnyKind) -> bool:
    """Say whether a vessel is open to the air: what is before it presses on nothing behind it."""
    nature: str | None = getattr(part, "nature", None)
    return nature == "open vented"


def _ways(part: AnyKind) -> set[tuple[str, str]]:
    """Give the ways through a part in any of its positions."""
    at = part.positions or ("",)
    return {way for position in at for way in part.ways(position)}


def what_runs_bear(system: System) -> dict[str, Bears]:
    """Say of every pipe how hot it gets and under what pressure it stands.

    Parameters
    ----------
    system : System
        The design; valves in any of their positions. [-]

    Returns
    -------
    dict of str to Bears
        By run. Hot is what is reached from what heats water, up to a tank or a mixer that cools
        it; as hot as the highest setting of what heats it. [°C, Pa]
    """
    net = _Net(system)
    hot: dict[str, list[float | None]] = {}
    for starts, set_c in _hot_starts(net):
        for key in net.within(net.reached(starts, HEATED)):
            hot.setdefault(key, []).append(set_c)
    pressures = _pressures(net)
    coolant = net.within(net.reached(
        [(part.id, port.name) for part in system.parts if part.kind in PRIMARY
         for port in part.ports if port.medium == "primary"], frozenset()))  # fmt: skip
    return {
        run.id: Bears(
            run.id in hot,
            max((one for one in hot.get(run.id, []) if one is not None), default=None),
            pressures.get(run.id, 0.0),
            run.id in coolant,
        )
        for run in net.pipes
    }  # fmt: skip


def _hot_starts(net: _Net) -> Iterator[tuple[list[Node], float | None]]:
    """Give the ports hot water leaves by, with the highest setting of what heats it."""
    for part in net.system.parts:
        ports: tuple[str, ...] = ()
        if part.kind in HEATED:
            ports = LEAVES_BY
        elif part.kind in PRIMARY or part.kind == "reuse_loop":
            ports = tuple(port.name for port in part.ports if port.medium == "primary")
        elif part.kind == "coil":
            ports = ("outlet",)
        elif part.kind == "plate_exchanger":
            ports = ("cold_out",)
        starts = [(part.id, name) for name in ports if (part.id, name) in net.near]
        if starts:
            yield starts, _set_c(net, part)


def _set_c(net: _Net, part: AnyKind) -> float | None:
    """Give the highest setting of what heats a part; None where there is none."""
    heats = [part, *net.system.fitted(part.id)]
    if part.fitted_in is not None:
        host = net.parts[part.fitted_in]
        heats += [host, *net.system.fitted(host.id)]
    said = []
    for one in heats:
        said += [known_figure(one, "set_c"), known_figure(one, "coolant_c")]
        if one.kind in ("coil", "plate_exchanger", "circulation_pump"):
            warm = ("inlet", "outlet") if one.kind != "plate_exchanger" else ("hot_in", "hot_out")
            around = net.reached([(one.id, name) for name in warm], frozenset())
            for key in {node[0] for node in around}:
                near = net.parts[key]
                if near.kind in PRIMARY:
                    said += [known_figure(near, "set_c"), known_figure(near, "coolant_c")]
    return max((one for one in said if one is not None), default=None)


def _pressures(net: _Net) -> dict[str, float | None]:
    """Give what every run stands under: cut-out of a pump, or a pitch behind its reducer."""
    found: dict[str, float | None] = {}

    def under(starts: list[Node], pressure: float | None, stops: frozenset[str]) -> set[Node]:
        nodes = net.reached(starts, stops)
        for key in net.within(nodes):
            before = found.get(key, 0.0)
            found[key] = (None if before is None or pressure is None
                          else max(before, pressure))  # fmt: skip
        return nodes

    for part in net.system.parts:
        if part.kind in PUMPS:
            under([(part.id, "outlet")], known_figure(part, "cut_out_pa"), frozenset())
        if part.kind != "pressurised_inlet":
            continue
        pressure = known_figure(part, "pressure_pa")
        nodes = under([(part.id, "outlet")], pressure, frozenset({"reducer"}))
        for other in net.system.parts:
            if other.kind == "reducer" and (other.id, "inlet") in nodes:
                set_pa = known_figure(other, "set_pa")
                under([(other.id, "outlet")], set_pa, frozenset({"reducer"}))
    return found
