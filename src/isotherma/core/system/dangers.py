"""What is dangerous about a system in one state, besides what contradicts itself in it."""

from __future__ import annotations

from isotherma.core.system import AnyKind, System
from isotherma.core.system.configuration import ports_reached, positions
from isotherma.core.system.kinds import gas, heat, primary
from isotherma.core.system.kinds.water import Coupling, Drain
from isotherma.core.system.remarks import PUMPS, SOURCES, Remark, contradiction, standing_remarks
from isotherma.core.system.states import State

_GIVES_WAY = SOURCES | {"relief", "accumulator", "expansion_vessel"}


def dangers(system: System, state: State | None) -> tuple[Remark, ...]:
    """Find what is dangerous while a system stands in one state, or half way to it.

    Parameters
    ----------
    system : System
        The network. [-]
    state : State or None
        How it stands; None: as usual. [-]

    Returns
    -------
    tuple of Remark
        What contradicts itself; heat on a vessel shut in without a way to expand; gas open to a
        coupling apart that does not seal; a pump on with a drain open or an end apart; a liquid
        heater without a closed circuit; a burner that is only for outdoors lit inside. [-]
    """
    look = _Look(system, state)
    return (
        *standing_remarks(system, state), *look.shut_in(), *look.gas_open(), *look.water_open(),
        *look.no_circuit(), *look.outdoors_inside(),
    )  # fmt: skip


class _Look:
    def __init__(self, system: System, state: State | None) -> None:
        self.system, self.state = system, state
        self.at = positions(system, state)
        self.parts = {part.id: part for part in system.parts}
        self.dry = set(state.dry) if state is not None else set()
        placed = {item.part: item.space for item in state.placed} if state is not None else {}
        warmth = {space.id: space.warmth for space in system.spaces}
        self.inside = {
            part.id
            for part in system.parts
            if warmth.get(placed.get(part.id, part.space) or "") in ("heated", "unheated")
        }

    def _found(self, code: str, *parts: str, **values: str) -> Remark:
        return contradiction(code, self.state, *parts, values=values)

    def _may_heat(self, part: AnyKind) -> bool:
        return self.at.get(part.id) == "ready" and part.id not in self.dry

    def shut_in(self) -> list[Remark]:
        """Find closed vessels that may heat with nothing to take up what the water grows by."""
        found = []
        for vessel in self.system.parts:
            closed = isinstance(vessel, heat.Store | heat.Canister) and vessel.nature == "closed"
            if not (closed or isinstance(vessel, heat.Combi)) or vessel.id in self.dry:
                continue
            if not any(self._may_heat(part) for part in (vessel, *self.system.fitted(vessel.id))):
                continue
            ports = [port.name for port in vessel.ports if port.medium in ("water", "fluid")]
            joined = {end.port for _, end, _ in self.system.joined(vessel.id)}
            if not joined & {"inlet", "outlet"}:
                continue
            reached = {
                self.parts[node[0]].kind
                for name in ports if name in joined
                for node in ports_reached(self.system, self.state, (vessel.id, name))
            }  # fmt: skip
            if not reached & _GIVES_WAY:
                found.append(self._found("heated_shut_in", vessel.id))
        return found

    def _gas_reaches(self, part_id: str, port: str) -> bool:
        """Say whether gas of an open bottle comes to a port."""
        nodes = ports_reached(self.system, self.state, (part_id, port))
        return any(
            isinstance(self.parts[key], gas.GasBottle) and self.at.get(key) == "open"
            for key, _ in nodes
        )

    def gas_open(self) -> list[Remark]:
        """Find gas open to a coupling that is apart and does not seal."""
        return [
            self._found("gas_open_apart", part.id)
            for part in self.system.parts
            if isinstance(part, gas.GasCoupling) and self.at.get(part.id) == "apart"
            if part.sealing == "neither"
            and any(self._gas_reaches(part.id, port) for port in ("inlet", "outlet"))
        ]  # fmt: skip

    def water_open(self) -> list[Remark]:
        """Find pumps that are on with an open drain, or an end apart that does not seal."""
        found = []
        for pump in self.system.parts:
            if pump.kind not in PUMPS or self.at.get(pump.id) != "on" or pump.id in self.dry:
                continue
            for key, _ in sorted(ports_reached(self.system, self.state, (pump.id, "outlet"))):
                part = self.parts[key]
                drain = isinstance(part, Drain) and self.at.get(key) == "open"
                end = (
                    isinstance(part, Coupling) and self.at.get(key) == "apart"
                    and part.sealing == "neither"
                )  # fmt: skip
                if drain or end:
                    found.append(
                        self._found(
                            "pump_on_open_end", key, pump.id, end="open" if drain else "apart"
                        )
                    )
        return found

    def no_circuit(self) -> list[Remark]:
        """Find liquid heaters that may burn with no closed circuit or no pump that runs."""
        found = []
        for heater in self.system.parts:
            if not isinstance(heater, heat.LiquidHeater) or not self._may_heat(heater):
                continue
            if not any(end.port == "outlet" for _, end, _ in self.system.joined(heater.id)):
                continue
            nodes = ports_reached(
                self.system,
                self.state,
                (heater.id, "outlet"),
                stop_at=frozenset({"liquid_heater"}),
            )
            idle = [
                self.parts[key] for key, _ in nodes
                if isinstance(self.parts[key], primary.CirculationPump)
                and self.at.get(key) == "off"
            ]  # fmt: skip
            if (heater.id, "inlet") not in nodes or idle:
                off = [idle[0].id] if idle else []
                found.append(self._found("burns_without_circuit", heater.id, *off))
        return found

    def outdoors_inside(self) -> list[Remark]:
        """Find burners that are only for outdoors and may light inside."""
        return [
            self._found("outdoors_only_inside", part.id)
            for part in self.system.parts
            if "outdoors only" in part.limits and part.id in self.inside and self._may_heat(part)
            and part.port("gas") is not None and self._gas_reaches(part.id, "gas")
        ]  # fmt: skip
