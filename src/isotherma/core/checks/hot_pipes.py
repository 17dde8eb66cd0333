"""How hot pipes get, and whether they are made for it."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Final

from isotherma.core.checks.circuits import coolant_parts
from isotherma.core.checks.found import BUILDER, Found, Severity, check, worst
from isotherma.core.checks.look import Lacks, Look
from isotherma.core.checks.pressure import OVER_K, VESSELS, hottest_c
from isotherma.core.findings import Quantity
from isotherma.core.system.kinds import heat
from isotherma.core.system.nominal import known_figure
from isotherma.core.system.runs import Pipe

S, F, W = Severity.STOP, Severity.FIX, Severity.WATCH
# by family of pipe [°C]; ours
BEARS_C: Final = {"soft hose": 60.0, "waste pipe": 60.0, "inch plastic": 80.0,
                  "semi-rigid plastic": 80.0, "multilayer": 95.0, "copper": 200.0,
                  "steel": 200.0}  # fmt: skip
NEAR_HEATER_M: Final = 1.0


def hot_runs(look: Look) -> dict[str, float]:
    """Give how hot the water of every run may get, no loss on the way.

    Parameters
    ----------
    look : Look
        The design in a state. [-]

    Returns
    -------
    dict of str to float
        By run, up to mixers; what nothing heats is not there. [°C]
    """
    return look.once("hot runs", lambda: _hot_runs(look))


def _hot_runs(look: Look) -> dict[str, float]:
    found: dict[str, float] = {}
    starts: list[tuple[str, str, float]] = []
    for part in look.system.parts:
        hot = hottest_c(look, part) if isinstance(part, VESSELS) else None
        if hot is not None:
            starts.append((part.id, "outlet", hot))
        if isinstance(part, heat.ThroughFlowGas | heat.ThroughFlowElectric) and look.lit(part):
            set_c = known_figure(part, "set_c")
            two = isinstance(part, heat.ThroughFlowGas) and part.control == "two knobs"
            if set_c is not None and not two:
                starts.append((part.id, "outlet", set_c + OVER_K))
        if isinstance(part, heat.LiquidHeater) and look.lit(part):
            starts += [(part.id, name, part.set_c + OVER_K) for name in ("outlet", "inlet")]
        if isinstance(part, heat.EngineCoolant):
            hot = known_figure(look.likely[part.id], "coolant_c")
            starts += [(part.id, name, hot) for name in ("outlet", "inlet") if hot is not None]
    stops = frozenset({"thermostatic_mixer", "manual_mixer", "store", "combi", "canister",
                       "check_valve"})  # fmt: skip
    for key, port, hot in starts:
        nodes = {(key, port)} | look.usually(key, port, stops)
        for run in look.pipes:
            ends = ((run.start.part, run.start.port), (run.end.part, run.end.port))
            if all(end in nodes for end in ends):
                mixers = [end for end in ends if end[1] == "cold"]
                if not mixers:
                    found[run.id] = max(found.get(run.id, hot), hot)
    return found


def carries_coolant(look: Look, run: Pipe) -> bool:
    """Say whether a run carries coolant: hose for it is not hose for water.

    Parameters
    ----------
    look : Look
        The design. [-]
    run : Pipe
        One of its runs. [-]

    Returns
    -------
    bool
        True in a closed primary. [-]
    """
    kept = coolant_parts(look)
    ends = ((run.start.part, run.start.port), (run.end.part, run.end.port))
    return all(key in kept and port not in ("cold_in", "cold_out") for key, port in ends)


def _bears_c(run: Pipe) -> float | None:
    if run.max_c is not None:
        return run.max_c
    return None if run.family is None else BEARS_C.get(run.family)


@check("pressure.hot-plastic", "pressure.inserts", "flood.unclipped")
def _hot_plastic(look: Look) -> Iterator[Found]:
    """Pipes against the hottest they may carry; push-in joints on hot runs."""
    lacks = Lacks(look, "pressure.hot-plastic", BUILDER)
    pushed = {of: Lacks(look, of, BUILDER) for of in ("pressure.inserts", "flood.unclipped")}
    hot = hot_runs(look)
    for run in look.pipes:
        if run.id not in hot:
            continue
        carries, bears = hot[run.id], _bears_c(run)
        coolant = run.family == "soft hose" and run.max_c is None and carries_coolant(look, run)
        if bears is None or coolant:
            lacks.add("runs", run.id, "max_c" if coolant else "family")
        else:
            for severity in worst(((carries > bears + 15.0, S), (carries > bears + 1e-9, F))):
                yield look.found(
                    "pressure.hot-plastic", severity, BUILDER, runs=(run.id,),
                    figure=Quantity(carries, "temperature"), limit=Quantity(bears, "temperature"),
                    x=Quantity(carries, "temperature"),
                )  # fmt: skip
                break
            else:
                yield from _near_flame(look, run)
        if run.joint != "push-in" or run.material == "copper":
            continue
        if run.secured is None:
            for gathered in pushed.values():
                gathered.add("runs", run.id, "secured")
            continue
        if run.secured != "locked and inserted":
            lack = {"neither": "inserts and locking clips", "locked": "inserts",
                    "inserted": "locking clips"}[run.secured]  # fmt: skip
            yield look.found("pressure.inserts", F if run.secured == "neither" else W, BUILDER,
                             runs=(run.id,), a=lack)  # fmt: skip
        if run.secured in ("neither", "inserted"):
            yield look.found("flood.unclipped", W, BUILDER, runs=(run.id,))
    for gathered in (lacks, *pushed.values()):
        yield from gathered.found()
    for part in look.system.parts:
        if "cold water only" in part.limits:
            for run in look.pipes:
                if run.id in hot and run.end.part == part.id and run.end.port != "cold":
                    yield look.found(
                        "pressure.hot-plastic", F, BUILDER, part.id, runs=(run.id,),
                        figure=Quantity(hot[run.id], "temperature"), variant="label",
                    )  # fmt: skip


def _near_flame(look: Look, run: Pipe) -> Iterator[Found]:
    """Find plastic close after a flame that heats as it flows."""
    heater = look.parts[run.start.part]
    plastic = run.family is not None and run.material in ("plastic", "hose")
    if isinstance(heater, heat.ThroughFlowGas) and run.start.port == "outlet" and plastic:
        yield look.found("pressure.hot-plastic", W, BUILDER, heater.id, runs=(run.id,),
                         variant="near", p=run.label, q=heater.label,
                         limit=Quantity(NEAR_HEATER_M, "length"))  # fmt: skip
