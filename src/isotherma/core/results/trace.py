"""Where a published number comes from: formula, values with their paths, range, source."""

from __future__ import annotations

from dataclasses import dataclass

from isotherma.core import water
from isotherma.core.results.draws import DrawResult
from isotherma.core.simulate.plan import GROUPS, Plan
from isotherma.core.simulate.run import Balance
from isotherma.core.system.route import Route


@dataclass(frozen=True, slots=True)
class Input:
    """One value in a formula; `path` names the document's property it came from."""

    symbol: str
    words: str
    value: float
    style: str
    path: str = ""


@dataclass(frozen=True, slots=True)
class Trace:
    """A number, opened."""

    id: str
    title: str
    value: float | None
    style: str
    formula: str
    words: str
    inputs: tuple[Input, ...]
    valid: str
    source: str


def _flow(plan: Plan, route: Route) -> Trace:
    point = plan.point
    taken = sorted(point.losses, key=lambda loss: -loss.drop_pa)
    inputs = [
        Input("K", "flow factor of the head", route.head.flow_factor_si or 0.0, "flow_factor",
              f"parts.{route.head.id}.flow_factor_si"),
        Input("Δp", "pressure before the head", point.head_pa, "pressure"),
        Input("p", "pressure the pump gives at this flow", point.pump_pa, "pressure"),
        Input("ρgΔz", "of it to lift the water", point.rise_pa, "pressure"),
    ]  # fmt: skip
    inputs += [
        Input("−", f"of it taken by {loss.label}", loss.drop_pa, "pressure", loss.item_id)
        for loss in taken
        if loss.item_id != route.head.id and loss.drop_pa > 0
    ]
    return Trace(
        id="flow",
        title="Flow at the head",
        value=point.flow_m3_per_s,
        style="flow",
        formula="q = K √Δp, with pump(q) = Σ losses(q) + ρ g Δz",
        words="The head passes what the pressure left before it can push. The pump gives less "
        "pressure the more flows; pipes and valves take more. Where both meet is the flow.",
        inputs=tuple(inputs),
        valid="Steady flow, head fully open; the hot branch decides.",
        source="Darcy and Weisbach with Colebrook's friction; outlet law q = K√Δp.",
    )


def _wait(plan: Plan, draw: DrawResult) -> Trace:
    inputs = [
        Input("t₁", "start of the first 5 s inside the window",
              draw.start_s + (draw.wait_s or 0.0), "seconds"),
        Input("t₀", "tap opened", draw.start_s, "seconds"),
        Input("low", "warm enough from", draw.draw.low_c, "temperature",
              f"brief.draws.{draw.draw.id}.low_c"),
        Input("high", "too hot above", draw.draw.high_c, "temperature",
              f"brief.draws.{draw.draw.id}.high_c"),
    ]  # fmt: skip
    for group in ("hot", "mixed"):
        rows = plan.pipe[plan.pipe[:, 0] == GROUPS.index(group)]
        volume = float((rows[:, 2] * rows[:, 3]).sum()) / water.density_kg_per_m3(40.0)
        words = {"hot": "water in the hot run", "mixed": "water between mixer and head"}[group]
        inputs.append(Input("V", words, volume, "volume"))
    inputs.append(Input("q", "flow", draw.flow_m3_per_s, "flow"))
    return Trace(
        id="wait",
        title=f"Wait for warm water: {draw.draw.name}",
        value=draw.wait_s,
        style="seconds",
        formula="wait = t₁ − t₀",
        words="Cold water stands in the pipes and the walls take heat first. The wait ends when "
        "the water at the head has stayed inside the window for five seconds, counted from the "
        "first of them.",
        inputs=tuple(inputs),
        valid="Resolved to a quarter of a second; never warm means no wait is given.",
        source="Plug flow with wall heat, simulated.",
    )


def make_traces(
    plan: Plan, route: Route, draws: tuple[DrawResult, ...], balance: Balance
) -> tuple[Trace, ...]:
    """Open the main numbers of a day.

    Parameters
    ----------
    plan : Plan
        The plan that was run. [-]
    route : Route
        The recognised shape. [-]
    draws : tuple of DrawResult
        Its draws. [-]
    balance : Balance
        Its heat. [-]

    Returns
    -------
    tuple of Trace
        Flow at the head, wait of the first draw, warm minutes, hot litres, energy. [-]
    """
    traces = [_flow(plan, route)]
    if draws:
        traces.append(_wait(plan, draws[0]))
    traces.append(
        Trace(
            id="warm",
            title="Warm minutes",
            value=sum(min(draw.comfort_s, draw.asked_s) for draw in draws),
            style="minutes",
            formula="t = Σ min(tᵢ, askedᵢ)",
            words="Seconds in which the water at the head was inside the draw's window, summed "
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
            source="Simulated temperature at the head.",
        )
    )
    traces.append(
        Trace(
            id="hot",
            title="Hot water used",
            value=sum(draw.hot_m3 for draw in draws),
            style="volume",
            formula="V = Σ x·m / ρ(T_hot)",
            words="The mixer's hot share of every step's water, at the hot water's own density.",
            inputs=tuple(
                Input("Vᵢ", draw.draw.name, draw.hot_m3, "volume", f"brief.draws.{draw.draw.id}")
                for draw in draws
            ),
            valid="Hot share between 3 % and 97 %, the stops of the valve.",
            source="Mixing by mass: x = (T_mix − T_cold)/(T_hot − T_cold).",
        )
    )
    element = f"parts.{route.element.id}.power_w" if route.element else ""
    burner = f"parts.{route.burner.id}.efficiency" if route.burner else ""
    traces.append(
        Trace(
            id="energy",
            title="Energy of the day",
            value=balance.element_j + balance.burner_j / plan.burner_efficiency,
            style="energy",
            formula="E = Q_element + Q_burner / η",
            words="What the element drew from the mains and the burner from the gas, the net "
            "heating value counted.",
            inputs=(
                Input("Q_element", "heat from the element", balance.element_j, "energy", element),
                Input("Q_burner", "heat from the burner", balance.burner_j, "energy"),
                Input(
                    "η",
                    "share of the gas that reaches the water",
                    plan.burner_efficiency,
                    "share",
                    burner,
                ),
                Input("−", "of it lost by the store", balance.store_loss_j, "energy"),
                Input("−", "of it lost by the pipes", balance.pipe_loss_j, "energy"),
            ),
            valid="One day; the store stands at midnight as the brief says.",
            source="Energy balance of the simulated day.",
        )
    )
    return tuple(traces)
