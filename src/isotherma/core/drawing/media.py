"""What each pipe of a drawing carries: cold, hot, mixed, a primary, a return, or waste."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Final, Literal

from isotherma.core.graph import reach
from isotherma.core.system import AnyKind, System
from isotherma.core.system.kinds import heat, temperature, waste

Carries = Literal["cold", "hot", "mixed", "primary", "return", "waste"]
WORDS: Final[dict[Carries, str]] = {
    "cold": "cold supply", "hot": "hot", "mixed": "mixed", "primary": "heating circuit",
    "return": "return", "waste": "waste",
}  # fmt: skip
_HEATS: Final = (
    heat.Store, heat.Combi, heat.Canister, heat.ThroughFlow, heat.SunContainer, heat.AirCoil,
)  # fmt: skip
_MIXES: Final = (temperature.ThermostaticMixer, temperature.ManualMixer)


def _sides(part: AnyKind, port: str) -> str:
    """Name the side of a part a port is on: an exchanger keeps two waters apart."""
    if isinstance(part, heat.PlateExchanger | waste.ReuseLoop):
        return port.partition("_")[0]
    return ""


def carried(system: System) -> dict[str, Carries]:
    """Say what every pipe carries.

    Parameters
    ----------
    system : System
        The network. [-]

    Returns
    -------
    dict of str to str
        By run id. [-]

    Notes
    -----
    A primary is what hangs together with a port for primary fluid, exchangers apart; waste
    touches a part of the waste side; hot is downstream of a heater, mixed of a mixer, return
    of a loop pump up to the next junction; the rest is cold.
    """
    parts = {part.id: part for part in system.parts}
    found: dict[str, Carries] = {run.id: "cold" for run in system.pipes}
    at: dict[tuple[str, str], list[tuple[str, str, str]]] = {}
    for run in system.pipes:
        for here, there in ((run.start, run.end), (run.end, run.start)):
            side = _sides(parts[here.part], here.port)
            at.setdefault((here.part, side), []).append((run.id, there.part, there.port))
    # primaries: everything that hangs together with a port for them
    waiting = []
    for run in system.pipes:
        for end in (run.start, run.end):
            port = parts[end.part].port(end.port)
            if port is not None and port.medium == "primary":
                waiting.append((end.part, _sides(parts[end.part], end.port)))

    def beside(key: tuple[str, str]) -> Iterator[tuple[str, str]]:
        for run_id, part_id, port_name in at.get(key, ()):
            found[run_id] = "primary"
            yield part_id, _sides(parts[part_id], port_name)

    reach(waiting, beside)
    leaving: dict[tuple[str, str], list[tuple[str, str, str]]] = {}
    for run in system.pipes:
        side = _sides(parts[run.start.part], run.start.port)
        leaving.setdefault((run.start.part, side), []).append((run.id, run.end.part, run.end.port))

    def flood(starts: list[tuple[str, str]], carries: Carries, stop: tuple[type, ...]) -> None:
        def ahead(key: tuple[str, str]) -> Iterator[tuple[str, str]]:
            for run_id, part_id, port_name in leaving.get(key, ()):
                if found[run_id] == "primary":
                    continue
                found[run_id] = carries
                if not isinstance(parts[part_id], stop):
                    yield part_id, _sides(parts[part_id], port_name)

        reach(starts, ahead)

    heaters = [(part.id, "") for part in system.parts if isinstance(part, _HEATS)]
    heaters += [(part.id, "cold") for part in system.parts
                if isinstance(part, heat.PlateExchanger)]  # fmt: skip
    flood(heaters, "hot", _MIXES)
    flood([(part.id, "") for part in system.parts if isinstance(part, _MIXES)], "mixed",
          (*_HEATS, temperature.LoopPump))  # fmt: skip
    for part in system.parts:
        if not isinstance(part, temperature.LoopPump):
            continue
        for run_id, part_id, _ in at.get((part.id, ""), ()):
            found[run_id] = "return"
            while len(at.get((part_id, ""), ())) == 2:
                onward = next((row for row in at[part_id, ""] if row[0] != run_id), None)
                if onward is None or found[onward[0]] == "return":
                    break
                run_id, part_id, _ = onward
                found[run_id] = "return"
    for run in system.pipes:
        if "waste" in (parts[run.start.part].side, parts[run.end.part].side):
            found[run.id] = "waste"
    return found
