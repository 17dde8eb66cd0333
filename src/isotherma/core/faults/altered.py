"""The network of a design with a fault in it."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import dataclass, replace
from typing import Final, TypeVar

from isotherma.core.brief import Brief
from isotherma.core.climate import Climate
from isotherma.core.faults.plays import (
    BOTH_WAYS,
    ENDS,
    LEAK,
    LEGS,
    SHUT,
    STUCK,
    VOLTS_SHARE,
    Edit,
    Play,
)
from isotherma.core.flows import kernel
from isotherma.core.flows.bands import with_figure
from isotherma.core.flows.fittings import Conditions
from isotherma.core.flows.loads import volts_of_pumps
from isotherma.core.flows.network_compiler import CompiledNetwork, compile_network
from isotherma.core.flows.surroundings import surroundings
from isotherma.core.hydraulics import laws
from isotherma.core.hydraulics import network as links
from isotherma.core.supply.wires import Wires, wires_of
from isotherma.core.system import AnyKind, System
from isotherma.core.system.configuration import positions
from isotherma.core.system.kinds import heat
from isotherma.core.system.nominal import ComputedSystem, computed, known_figure
from isotherma.core.system.runs import PortRef
from isotherma.core.system.states import Position, State

S = TypeVar("S", bound=System)
# said of links of the network that is compiled already
_OF_LINKS: Final = frozenset({SHUT, STUCK, BOTH_WAYS})
_SWAPS: Final[Mapping[str, tuple[str, str]]] = {ENDS: ("inlet", "outlet"), LEGS: ("hot", "cold")}


@dataclass(frozen=True, slots=True)
class Case:
    """A design in a state, in its brief's month and place; `at_c` what was measured [°C]."""

    brief: Brief
    climate: Climate
    system: System
    state: State | None
    at_c: Mapping[str, float]

    def conditions(self) -> Conditions:
        """Say what its network stands in."""
        return surroundings(self.brief, self.system, self.state, self.climate, at_c=self.at_c)


@dataclass(frozen=True, slots=True)
class Altered:
    """A design as it is with a fault: the document, how it stands, its network and wires."""

    known: ComputedSystem
    stood: Mapping[str, str]
    network: CompiledNetwork
    wires: Wires
    leak_l_per_h: float | None = None


def _same_ohms(known: ComputedSystem, edit: Edit) -> ComputedSystem:
    """Let an element's label and resistance say what its watts are played to be: R = V²/P."""
    part = next((one for one in known.parts if one.id == edit.piece), None)
    if edit.name != "power_w" or not isinstance(part, heat.Element):
        return known
    watts = known_figure(part, "power_w")
    if not watts or not isinstance(edit.value, float) or edit.value <= 0.0:
        return known  # a dead one has no resistance
    share = edit.value / watts
    if part.rated_w is not None:
        known = with_figure(known, part.id, "rated_w", share * part.rated_w)
    if part.resistance_ohm is not None:
        known = with_figure(known, part.id, "resistance_ohm", part.resistance_ohm / share)
    return known


class Alterations:
    """Makes the network of any play of one case; what plays share is compiled once."""

    def __init__(self, case: Case) -> None:
        self.case = case
        self.known = computed(case.system)
        self.stands = case.conditions()
        self.at = positions(self.known, case.state)
        self.healthy = Altered(
            self.known, self.at,
            compile_network(case.system, case.state, self.stands, known=self.known),
            wires_of(self.known, self.at),
        )  # fmt: skip

    def altered(self, play: Play) -> Altered:
        """Give the design with every edit of a play.

        Parameters
        ----------
        play : tuple of Edit
            None of it: the healthy one. [-]

        Returns
        -------
        Altered
            Not solved. [-]
        """
        leak = next((float(one.value) for one in play
                     if one.name == LEAK and isinstance(one.value, float)), None)  # fmt: skip
        rest = [one for one in play if one.name not in _OF_LINKS and one.name != LEAK]
        on_links = [one for one in play if one.name in _OF_LINKS]
        # a run's resistance is one figure of a network that is there
        on_links += [one for one in rest if _is_run_loss(one)]
        rest = [one for one in rest if not _is_run_loss(one)]
        made = self.healthy if not rest else self._compiled(rest)
        return replace(made, network=_tweaked(made.network, on_links), leak_l_per_h=leak)

    def _compiled(self, edits: Iterable[Edit]) -> Altered:
        known, system, at = self.known, self.case.system, {}
        share: dict[str, float] = {}
        for edit in edits:
            if edit.name == "at":
                for key, position in self._stands(edit):
                    at[key] = position
            elif edit.name in _SWAPS:
                ends = _SWAPS[edit.name]
                known, system = (
                    _swapped(known, edit.piece, ends),
                    _swapped(system, edit.piece, ends),
                )
            elif edit.name == VOLTS_SHARE:
                assert isinstance(edit.value, float)
                share[edit.piece] = edit.value
            else:
                known = with_figure(_same_ohms(known, edit), edit.piece, edit.name, edit.value)
        state = self._moved(at)
        stood = positions(known, state)
        wires = wires_of(known, stood)
        lost = {key: "off" for key in wires.dead if "off" in known.part(key).positions}
        if lost:
            state = self._moved({**at, **lost})
            stood = positions(known, state)
        volts = volts_of_pumps(known, stood, wires=wires)
        for key, part_share in share.items():
            volts[key] = part_share * volts.get(key, self._label_v(key))
        network = compile_network(system, state, self.stands, known=known, pump_v=volts)
        return Altered(known, stood, network, wires)

    def _label_v(self, pump: str) -> float:
        volts = getattr(self.known.part(pump), "volts_v", None)
        return self.known.nominal_v if volts is None else float(volts)

    def _stands(self, edit: Edit) -> Iterable[tuple[str, str]]:
        """Say what stands otherwise: the part, or what it switches where it has no position."""
        part = self.known.part(edit.piece)
        wanted = str(edit.value)
        if wanted in part.positions:
            return [(part.id, wanted)]
        return [(key, "off") for key in acts_on(self.known, part)
                if "off" in self.known.part(key).positions]  # fmt: skip

    def _moved(self, at: Mapping[str, str]) -> State:
        """Give the case's state with some parts in other positions."""
        stood = {**self.at, **at}
        rows = tuple(Position.model_construct(part=key, at=value) for key, value in stood.items())
        if self.case.state is None:
            return State.model_construct(
                id="fault", name="fault", positions=rows, dry=(), placed=(), note=""
            )
        return self.case.state.model_copy(update={"positions": rows})


def acts_on(known: ComputedSystem, part: AnyKind) -> tuple[str, ...]:
    """Name what a part switches or guards: as it says, else the sources in the same store.

    Parameters
    ----------
    known : ComputedSystem
        The design. [-]
    part : a kind of part
        A thermostat, a cut-out, a remote, a relay. [-]

    Returns
    -------
    tuple of str
        Ids of parts; none for what acts on nothing. [-]
    """
    for name in ("switches", "guards", "acts_on"):
        said = getattr(part, name, None)
        if said is not None:
            return (str(said),)
    if not isinstance(part, heat.Thermostat | heat.HighLimit | heat.Interlock):
        return ()
    return tuple(other.id for other in known.parts
                 if isinstance(other, heat.Element | heat.Burner)
                 and other.fitted_in == part.fitted_in)  # fmt: skip


def _is_run_loss(edit: Edit) -> bool:
    return edit.path.startswith("runs.") and edit.name == "loss_k"


def _swapped(system: S, part_id: str, ends: tuple[str, str]) -> S:
    """Join two openings of a part the other way round."""
    other = {ends[0]: ends[1], ends[1]: ends[0]}

    def turned(end: PortRef) -> PortRef:
        if end.part != part_id or end.port not in other:
            return end
        return PortRef(part=end.part, port=other[end.port])

    runs = tuple(
        run.model_copy(update={"start": turned(run.start), "end": turned(run.end)})
        for run in system.runs
    )
    return system.model_copy(update={"runs": runs})


def _tweaked(network: CompiledNetwork, edits: Iterable[Edit]) -> CompiledNetwork:
    """Give a network with some of its links shut, stuck, open both ways or of more resistance."""
    edits = list(edits)
    if not edits:
        return network
    shut = list(network.shut)
    net = network.net
    parameters, one_way, law = net.parameters.copy(), net.one_way.copy(), net.law.copy()
    mixer = network.valves.mixer.copy()
    parts = dict(network.parts)
    for edit in edits:
        rows = [network.run[edit.piece]] if edit.piece in network.run else list(
            network.part_links.get(edit.piece, ()))  # fmt: skip
        if edit.name == SHUT:
            for row in rows:
                shut[row] = links.SHUT
        elif edit.name == BOTH_WAYS:
            for row in rows:
                one_way[row], law[row] = False, laws.FACTOR
        elif edit.name == STUCK and edit.piece in network.mixers:
            assert isinstance(edit.value, float)
            mixer[network.mixers.index(edit.piece), kernel.HOLDS] = 0.0
            parts[edit.piece] = _stuck(parts[edit.piece], edit.value)
        elif _is_run_loss(edit):
            assert isinstance(edit.value, float)
            for row in rows:
                parameters[row, laws.LOSS_K] = edit.value
    return replace(
        network, shut=tuple(shut), parts=parts,
        net=net._replace(parameters=parameters, one_way=one_way, law=law),
        valves=network.valves._replace(mixer=mixer),
    )  # fmt: skip


def _stuck(part: AnyKind, share: float) -> AnyKind:
    """Give a mixing valve as one that stands where it stands: as one worked by hand."""
    from isotherma.core.system.kinds.temperature import ManualMixer

    said = {name: getattr(part, name) for name in ("id", "name", "flow_factor_si", "checks")}
    return ManualMixer.model_construct(**{**ManualMixer.model_construct(id=part.id).__dict__,
                                          **said, "hot_share": share})  # fmt: skip
