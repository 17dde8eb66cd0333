"""Where a published number comes from: formula, values with their paths, range, source."""

from __future__ import annotations

from isotherma.core.results.budget_trace import budget_traces
from isotherma.core.results.draws import DrawResult
from isotherma.core.results.ledger import Entry
from isotherma.core.results.spending import spent
from isotherma.core.results.traced import Input, Trace
from isotherma.core.setup import Setup
from isotherma.core.system.nominal import figure
from isotherma.core.timeline.record import Day, Drawn


def _flow_round(setup: Setup, drawn: Drawn, round_m3: float, key: str) -> Trace:
    part = setup.parts[drawn.outlet]
    path = f"parts.{part.id}"
    return Trace(
        id=key,
        title=f"Flow: {drawn.draw.name}" if key != "flow" else "Flow at the head",
        value=drawn.flow_m3_per_s,
        style="flow",
        formula="q = the flow of the loop's own pump",
        words="The same water goes round: down the drain, through filter and exchanger, up again.",
        inputs=(
            Input("q", f"flow of {part.label}", drawn.flow_m3_per_s, "flow",
                  f"{path}.flow_m3_per_s"),
            Input("V", "water going round", round_m3, "volume", f"{path}.holds_m3"),
            Input("UA", "its exchanger", figure(part, "conductance_w_per_k"),
                  "loss", f"{path}.conductance_w_per_k"),
        ),
        valid="Its pump is taken to give its flow whatever the filter holds back.",
        source="The figures of the part.",
    )  # fmt: skip


def _flow(setup: Setup, drawn: Drawn, key: str) -> Trace:
    if drawn.round_m3 is not None:
        return _flow_round(setup, drawn, drawn.round_m3, key)
    outlet = setup.parts[drawn.outlet]
    factor = figure(outlet, "flow_factor_si")
    steps = drawn.way
    before = steps[-1].start_pa if steps else 0.0
    lift = sum(step.lift_pa for step in steps)
    top = max((step.end_pa for step in steps), default=0.0)
    opening = drawn.opening
    inputs = [
        Input("K", f"flow factor of {outlet.label}", factor, "flow_factor",
              f"parts.{outlet.id}.flow_factor_si"),
        Input("s", "share of it that is open", opening, "share"),
        Input("Δp", "pressure before the outlet", before, "pressure"),
        Input("p", "highest pressure on the way", top, "pressure"),
        Input("ρgΔz", "taken to lift the water", lift, "pressure"),
    ]  # fmt: skip
    taken = sorted(steps[:-1], key=lambda step: -step.drop_pa)
    for step in taken:
        if step.drop_pa > 0.5:
            group = "runs" if step.is_run else "parts"
            inputs.append(Input("−", f"taken by {step.label}", step.drop_pa, "pressure",
                                f"{group}.{step.id}"))  # fmt: skip
    return Trace(
        id=key,
        title=f"Flow: {drawn.draw.name}"
        if key != "flow"
        else "Flow at the head"
        if outlet.kind == "shower_head"
        else "Flow at the outlet",
        value=drawn.flow_m3_per_s,
        style="flow",
        formula=f"q = {'s ' if opening < 1.0 else ''}K √Δp, with what drives the water = "
        "Σ losses(q) + ρ g Δz",
        words="The outlet passes what the pressure left before it can push. The pump gives less "
        "pressure the more flows; pipes and valves take more. Where both meet is the flow.",
        inputs=tuple(inputs),
        valid="Steady flow with temperatures settled; losses on the strongest way.",
        source="Darcy and Weisbach with Colebrook's friction; outlet law q = K√Δp.",
    )


def _wait(setup: Setup, drawn: Drawn, draw: DrawResult, key: str) -> Trace:
    warm = () if draw.wait_s is None else (
        Input("t₁", "start of the first 5 s inside the window",
              draw.start_s + draw.wait_s, "seconds"),
    )  # fmt: skip
    inputs = (
        *warm,
        Input("t₀", "tap opened", draw.start_s, "seconds"),
        Input("low", "warm enough from", draw.draw.low_c, "temperature",
              f"brief.draws.{draw.draw.id}.low_c"),
        Input("high", "too hot above", draw.draw.high_c, "temperature",
              f"brief.draws.{draw.draw.id}.high_c"),
        Input("V", "water going round" if drawn.round_m3 is not None
              else "water standing on the strongest way to the outlet",
              drawn.standing_m3 if drawn.round_m3 is None else drawn.round_m3, "volume"),
        Input("q", "flow", draw.flow_m3_per_s, "flow"),
    )  # fmt: skip
    return Trace(
        id=key,
        title=f"Wait for warm water: {draw.draw.name}",
        value=draw.wait_s,
        style="seconds",
        formula="wait = t₁ − t₀",
        words="Cold water stands in the pipes and the walls take heat first. The wait ends when "
        "the water at the outlet has stayed inside the window for five seconds, counted from the "
        "first of them.",
        inputs=inputs,
        valid="Resolved to a quarter of a second; never warm means no wait is given.",
        source="Plug flow with wall heat, simulated.",
    )


def _energy(setup: Setup, day: Day) -> Trace:
    took = spent(setup, day)
    balance = day.balance
    heats = {**balance.sources_j, **balance.bodies_j}
    inputs = [
        Input("Qᵢ", f"heat from {setup.parts[part_id].label}", joules, "energy",
              f"parts.{part_id}")
        for part_id, joules in heats.items()
        if joules > 0.0
    ]  # fmt: skip
    if balance.held_j > 0.0:
        inputs.append(Input("Qᵢ", "heat from engine coolant", balance.held_j, "energy"))
    if balance.air_j > 0.0:
        inputs.append(Input("Qᵢ", "heat from hot air", balance.air_j, "energy"))
    lost = balance.pipe_loss_j + balance.body_loss_j
    inputs += [
        Input("−", "of it lost by stores", balance.store_loss_j, "energy"),
        Input("−", "of it lost by pipes and heaters", lost, "energy"),
        Input("", "gas it takes", took.gas_kg, "mass"),
        Input("", "liquid fuel it takes", took.diesel_m3, "volume"),
        Input("", "from the mains", took.mains_j, "energy"),
        Input("", "from the battery, pumps too", took.battery_j, "battery_energy"),
    ]
    return Trace(
        id="energy",
        title="Heat of the day",
        value=sum(heats.values()) + balance.held_j + balance.air_j,
        style="energy",
        formula="Q = Σ Qᵢ",
        words="Heat that sources gave to the water and its vessels in a day. Fuel is the heat over "
        "the share that reaches the water and the net heating value.",
        inputs=tuple(inputs),
        valid="One day; the store stands at midnight as the brief says.",
        source="Energy balance of the simulated day.",
    )


def make_traces(
    setup: Setup, day: Day, draws: tuple[DrawResult, ...], ledger: tuple[Entry, ...]
) -> tuple[Trace, ...]:
    """Open the main numbers of a day.

    Parameters
    ----------
    setup : Setup
        The documents and what follows from them. [-]
    day : Day
        A day of it. [-]
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
    traces.append(
        Trace(
            id="warm",
            title="Warm minutes",
            value=sum(min(draw.comfort_s, draw.asked_s) for draw in draws),
            style="minutes",
            formula="t = Σ min(tᵢ, askedᵢ)",
            words="Seconds in which the water at the outlet was inside the draw's window, summed "
            "over the day's draws; no draw counts for more than was asked.",
            inputs=tuple(
                Input(
                    "tᵢ",
                    draw.draw.name,
                    min(draw.comfort_s, draw.asked_s),
                    "minutes",
                    f"brief.draws.{draw.draw.id}.duration_s",
                )
                for draw in draws
            ),
            valid="Steps of a quarter of a second to one second.",
            source="Simulated temperature at the outlet.",
        )
    )
    traces.append(
        Trace(
            id="hot",
            title="Hot water used",
            value=sum(draw.hot_m3 for draw in draws),
            style="volume",
            formula="V = Σ x·m / ρ(T_hot)",
            words="The hot share of every step's water, at the hot water's own density; without a "
            "mixer all of it is hot.",
            inputs=tuple(
                Input("Vᵢ", draw.draw.name, draw.hot_m3, "volume", f"brief.draws.{draw.draw.id}")
                for draw in draws
            ),
            valid="Hot share between 3 % and 97 % behind a mixer, the stops of the valve.",
            source="Mixing by mass: x = (T_mix − T_cold)/(T_hot − T_cold).",
        )
    )
    traces.append(_energy(setup, day))
    traces += budget_traces(setup, day, draws, ledger)
    for drawn, draw in zip(day.drawn[1:], draws[1:], strict=True):
        traces.append(_flow(setup, drawn, f"flow.{draw.draw.id}"))
        traces.append(_wait(setup, drawn, draw, f"wait.{draw.draw.id}"))
    return tuple(traces)
