"""What is wrong or worth knowing at an operating point."""

from __future__ import annotations

from isotherma.core.findings import Finding, Quantity
from isotherma.core.flows.network_compiler import CompiledNetwork
from isotherma.core.flows.report import FAST_M_PER_S, FlowReport

PUSHES_PA = 1e5  # above it another pump holds a switch open
AS_IT_SHOULD = frozenset({"holds", "burns"})


def flow_findings(report: FlowReport, network: CompiledNetwork) -> tuple[Finding, ...]:
    """Find what is wrong or worth knowing at an operating point.

    Parameters
    ----------
    report : FlowReport
        The operating point. [-]
    network : CompiledNetwork
        Its network. [-]

    Returns
    -------
    tuple of Finding
        Fast runs, parts that do not do as they should, pumps that work against each other, rises
        that do not add up. [SI]
    """
    found = [
        Finding("fast_run", (run.id,), {"speed_m_per_s": Quantity(run.velocity_m_per_s, "speed")})
        for run in report.runs
        if run.velocity_m_per_s > FAST_M_PER_S
    ]
    found += [
        part.doing
        for part in report.parts
        if part.doing is not None and part.doing.code not in AS_IT_SHOULD
    ]
    running = [pump for pump in report.pumps if pump.doing != "rests"]
    for pump in report.pumps:
        if pump.doing != "rests":
            continue
        others = [other for other in running if other.cycle is None and other.outlet_pa > PUSHES_PA]
        if others and network.mixers and pump.id in network.pumps and pump.outlet_pa > PUSHES_PA:
            found.append(Finding("pump_kept_shut", (pump.id, others[0].id)))
    if network.loop_miss_m:
        miss = Quantity(network.loop_miss_m, "length")
        found.append(Finding("rises_do_not_add_up", (), {"miss_m": miss}))
    return tuple(found)
