"""Where a published number comes from: formula, values with their paths, range, source."""

from __future__ import annotations

from isotherma.core.results.budget_trace import budget_traces
from isotherma.core.results.course import Course
from isotherma.core.results.draws import DrawResult
from isotherma.core.results.ledger import Entry
from isotherma.core.results.spending import spent
from isotherma.core.results.traced import Input, Trace
from isotherma.core.setup import Setup
from isotherma.core.system.nominal import figure
from isotherma.core.timeline.record import Day, DrawRecord


def _flow_round(setup: Setup, drawn: DrawRecord, round_m3: float, key: str) -> Trace:
    part = setup.parts[drawn.outlet]
    path = f"parts.{part.id}"
    inputs = (
        Input("q", "flow_of", drawn.flow_m3_per_s, "flow", f"{path}.flow_m3_per_s", part.label),
        Input("V", "going_round", round_m3, "volume", f"{path}.holds_m3"),
        Input("UA", "exchanger", figure(part, "conductance_w_per_k"), "loss",
              f"{path}.conductance_w_per_k"),
    )  # fmt: skip
    return Trace(key, "flow_round", drawn.flow_m3_per_s, "flow", inputs, _whose(drawn, key))


def _whose(drawn: DrawRecord, key: str) -> str:
    """Give the draw's name; the first draw's flow and wait are those of the day."""
    return drawn.draw.name if "." in key else ""


def _flow(setup: Setup, drawn: DrawRecord, key: str) -> Trace:
    if drawn.round_m3 is not None:
        return _flow_round(setup, drawn, drawn.round_m3, key)
    outlet = setup.parts[drawn.outlet]
    factor = figure(outlet, "flow_factor_si")
    steps = drawn.way
    before = steps[-1].start_pa if steps else 0.0
    lift = sum(step.static_head_pa for step in steps)
    top = max((step.end_pa for step in steps), default=0.0)
    opening = drawn.opening
    inputs = [
        Input("K", "flow_factor_of", factor, "flow_factor", f"parts.{outlet.id}.flow_factor_si",
              outlet.label),
        Input("s", "share_open", opening, "share"),
        Input("Δp", "before_the_outlet", before, "pressure"),
        Input("p", "highest_pressure", top, "pressure"),
        Input("ρgΔz", "lifts_the_water", lift, "pressure"),
    ]  # fmt: skip
    for step in sorted(steps[:-1], key=lambda step: -step.drop_pa):
        if step.drop_pa > 0.5:
            group = "runs" if step.is_run else "parts"
            inputs.append(
                Input("−", "taken_by", step.drop_pa, "pressure", f"{group}.{step.id}", step.label)
            )
    head = "head" if outlet.kind == "shower_head" else "outlet"
    code = f"flow_{head}_{'part' if opening < 1.0 else 'full'}"
    return Trace(key, code, drawn.flow_m3_per_s, "flow", tuple(inputs), _whose(drawn, key))


def _wait(setup: Setup, drawn: DrawRecord, draw: DrawResult, key: str) -> Trace:
    path = f"brief.draws.{draw.draw.id}"
    warm = () if draw.wait_s is None else (
        Input("t₁", "inside_from", draw.start_s + draw.wait_s, "seconds"),
    )  # fmt: skip
    standing = Input("V", "standing", drawn.standing_m3, "volume")
    if drawn.round_m3 is not None:
        standing = Input("V", "going_round", drawn.round_m3, "volume")
    inputs = (
        *warm,
        Input("t₀", "opened", draw.start_s, "seconds"),
        Input("low", "warm_from", draw.draw.low_c, "temperature", f"{path}.low_c"),
        Input("high", "too_hot_above", draw.draw.high_c, "temperature", f"{path}.high_c"),
        standing,
        Input("q", "flow", draw.flow_m3_per_s, "flow"),
    )
    return Trace(key, "wait", draw.wait_s, "seconds", inputs, draw.draw.name)


def _energy(setup: Setup, day: Day) -> Trace:
    took = spent(setup, day)
    balance = day.balance
    heats = {**balance.sources_j, **balance.bodies_j}
    inputs = [
        Input("Qᵢ", "heat_from", joules, "energy", f"parts.{part_id}", setup.parts[part_id].label)
        for part_id, joules in heats.items()
        if joules > 0.0
    ]
    if balance.held_j > 0.0:
        inputs.append(Input("Qᵢ", "heat_from_coolant", balance.held_j, "energy"))
    if balance.air_j > 0.0:
        inputs.append(Input("Qᵢ", "heat_from_air", balance.air_j, "energy"))
    lost = balance.pipe_loss_j + balance.body_loss_j
    inputs += [
        Input("−", "lost_by_stores", balance.store_loss_j, "energy"),
        Input("−", "lost_by_pipes", lost, "energy"),
        Input("", "gas_taken", took.gas_kg, "mass"),
        Input("", "fuel_taken", took.diesel_m3, "volume"),
        Input("", "mains_taken", took.mains_j, "energy"),
        Input("", "battery_taken", took.battery_j, "battery_energy"),
    ]
    value = sum(heats.values()) + balance.held_j + balance.air_j
    return Trace("energy", "energy", value, "energy", tuple(inputs))


def _warm(draws: tuple[DrawResult, ...]) -> Trace:
    each = [min(draw.comfort_s, draw.asked_s) for draw in draws]
    inputs = tuple(
        Input("tᵢ", "draw", warm_s, "minutes", f"brief.draws.{draw.draw.id}.duration_s",
              draw.draw.name)
        for draw, warm_s in zip(draws, each, strict=True)
    )  # fmt: skip
    return Trace("warm", "warm", sum(each), "minutes", inputs)


def _hot(draws: tuple[DrawResult, ...]) -> Trace:
    inputs = tuple(
        Input("Vᵢ", "draw", draw.hot_m3, "volume", f"brief.draws.{draw.draw.id}", draw.draw.name)
        for draw in draws
    )
    return Trace("hot", "hot", sum(draw.hot_m3 for draw in draws), "volume", inputs)


def make_traces(
    course: Course, setup: Setup, day: Day, draws: tuple[DrawResult, ...],
    ledger: tuple[Entry, ...],
) -> tuple[Trace, ...]:  # fmt: skip
    """Open the main numbers of a day.

    Parameters
    ----------
    course : Course
        All days of the trip. [-]
    setup : Setup
        The documents and what follows from them, on the day shown. [-]
    day : Day
        The day shown. [-]
    draws : tuple of DrawResult
        Its draws. [-]
    ledger : tuple of Entry
        The budgets. [-]

    Returns
    -------
    tuple of Trace
        Flow and wait of the first draw, warm minutes, hot litres, heat, each budget; then flow
        and wait of the other draws, their ids followed by the draw's. [-]
    """
    traces = []
    if draws:
        traces += [
            _flow(setup, day.drawn[0], "flow"), _wait(setup, day.drawn[0], draws[0], "wait"),
        ]  # fmt: skip
    traces += [_warm(draws), _hot(draws), _energy(setup, day)]
    traces += budget_traces(course, ledger)
    for drawn, draw in zip(day.drawn[1:], draws[1:], strict=True):
        traces.append(_flow(setup, drawn, f"flow.{draw.draw.id}"))
        traces.append(_wait(setup, drawn, draw, f"wait.{draw.draw.id}"))
    return tuple(traces)
