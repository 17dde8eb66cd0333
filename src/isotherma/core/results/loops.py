"""A pumped loop as a plumber would place it, put into a system to see what it does."""

from __future__ import annotations

from typing import Final

from isotherma.core.system import Pipe, PortRef, System
from isotherma.core.system.kinds import heat, temperature, water
from isotherma.core.system.nominal import ComputedSystem, figure

RETURN_M: Final = 0.3  # from its check valve to the tee before the store
SHORT_M: Final = 0.1
_VESSELS: Final = (heat.Store, heat.Combi, heat.Canister)
_TEE, _BACK, _PUMP, _CHECK = "loop-tee-tried", "loop-back-tried", "loop-tried", "loop-check-tried"


def well_placed(known: ComputedSystem) -> bool:
    """Say whether the loop there is takes hot water and gives it back behind the check valve.

    Parameters
    ----------
    known : ComputedSystem
        The network. [-]

    Returns
    -------
    bool
        Whether between its return and a vessel's inlet stands neither a check valve nor a branch
        to a mixer's cold side. [-]
    """
    parts = {part.id: part for part in known.parts}
    pump = next((part for part in known.parts if isinstance(part, temperature.LoopPump)), None)
    if pump is None:
        return False
    after: dict[str, list[Pipe]] = {}
    for run in known.pipes:
        after.setdefault(run.start.part, []).append(run)
    here, seen, past = pump.id, {pump.id}, 0
    while len(after.get(here, ())) == 1:
        run = after[here][0]
        here = run.end.part
        if here in seen:
            return False
        seen.add(here)
        if isinstance(parts[here], _VESSELS):
            return True
        past += isinstance(parts[here], water.CheckValve)
        if past > 1:
            return False  # its own, and then the cold water's: it comes back before it
    return False


def placed_loop(system: System, way: tuple[Pipe, ...], rule: str) -> System | None:
    """Put a loop where a plumber would: as near to the outlet as hot water goes, back to the store.

    Parameters
    ----------
    system : System
        The network; a loop that is there is taken out. [-]
    way : tuple of Pipe
        From the outlet back to the heat, as `hot_route` gives it. [-]
    rule : str
        "button", "timed" or "continuous". [-]

    Returns
    -------
    System or None
        It leaves the hot run at its end, before a mixer where one is, and comes back through a
        check valve of its own between the cold water's check valve and the store; None where
        the heat is no vessel with an inlet. [-]
    """
    parts = {part.id: part for part in system.parts}
    if not way or not isinstance(parts.get(way[-1].start.part), _VESSELS):
        return None
    vessel = way[-1].start.part
    hot = next((run for run in way if run.end.port == "hot"), way[0])
    pipes = {run.id: run for run in system.pipes}
    inlet = next(
        (run for run in pipes.values() if (run.end.part, run.end.port) == (vessel, "inlet")), None
    )
    if inlet is None or hot.id == inlet.id:
        return None
    bare = without_loops(system)
    long_m = sum(
        figure(run, "length_m") for run in way[list(way).index(hot) :]
    )  # the return lies beside it
    back = {"family": hot.family, "nominal": "12 mm", "bore_m": 0.0091, "wall_m": 0.0014,
            "space": hot.space, "insulation_m": hot.insulation_m}  # fmt: skip
    new_parts = (
        water.Split(id=_TEE), water.Split(id=_BACK), water.CheckValve(id=_CHECK),
        temperature.LoopPump(id=_PUMP, rule=rule),
    )  # fmt: skip

    def pipe(key: str, start: str, end: str, length_m: float, **more: object) -> Pipe:
        one, port = start.rsplit(".", 1)
        other, into = end.rsplit(".", 1)
        return Pipe.model_validate({
            "id": key, "start": {"part": one, "port": port}, "end": {"part": other, "port": into},
            "length_m": length_m, **more,
        })  # fmt: skip

    ends = hot.end
    runs = tuple(
        run.model_copy(update={"end": PortRef(part=_TEE, port="inlet")}) if run.id == hot.id
        else run.model_copy(update={"end": PortRef(part=_BACK, port="inlet")})
        if run.id == inlet.id else run
        for run in bare.runs
    )  # fmt: skip
    like = {"family": hot.family, "nominal": hot.nominal, "bore_m": hot.bore_m,
            "wall_m": hot.wall_m, "space": hot.space}  # fmt: skip
    new_runs = (
        pipe("loop-1-tried", f"{_TEE}.outlet", f"{ends.part}.{ends.port}", SHORT_M, **like),
        pipe("loop-2-tried", f"{_TEE}.branch", f"{_PUMP}.inlet", max(SHORT_M, long_m - RETURN_M),
             **back),
        pipe("loop-3-tried", f"{_PUMP}.outlet", f"{_CHECK}.inlet", SHORT_M, **back),
        pipe("loop-4-tried", f"{_CHECK}.outlet", f"{_BACK}.branch", RETURN_M, **back),
        pipe("loop-5-tried", f"{_BACK}.outlet", f"{vessel}.inlet", SHORT_M, **like),
    )  # fmt: skip
    return bare.model_copy(update={"parts": (*bare.parts, *new_parts), "runs": (*runs, *new_runs)})


def without_loops(system: System) -> System:
    """Take loop pumps out with the runs that touch them; what is left of them is a dead end.

    Parameters
    ----------
    system : System
        The network. [-]

    Returns
    -------
    System
        The same where it has no loop. [-]
    """
    pumps = {part.id for part in system.parts if isinstance(part, temperature.LoopPump)}
    parts = tuple(part for part in system.parts if part.id not in pumps)
    runs = tuple(
        run for run in system.runs if run.start.part not in pumps and run.end.part not in pumps
    )
    states = tuple(
        state.model_copy(update={
            "positions": tuple(item for item in state.positions if item.part not in pumps)
        })
        for state in system.states
    )  # fmt: skip
    return system.model_copy(update={"parts": parts, "runs": runs, "states": states})
