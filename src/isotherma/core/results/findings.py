"""What the reader of a day must know: what can hurt, what is not steady, what is left out."""

from __future__ import annotations

from collections.abc import Iterable
from typing import Final

from isotherma.core.brief import Brief
from isotherma.core.findings import Finding, Quantity, Value
from isotherma.core.results.course import Course
from isotherma.core.results.draws import DrawResult
from isotherma.core.results.expansion import LEAST_M3, expansions
from isotherma.core.results.scald import CHILD_C, Severity
from isotherma.core.results.supply_findings import supply_findings
from isotherma.core.setup import Setup
from isotherma.core.system.kinds import temperature
from isotherma.core.system.needs import needs_of
from isotherma.core.system.nominal import figure
from isotherma.core.timeline.record import Day

BURNS_WITHIN_S: Final = 3600.0  # beyond, nobody stands there


def day_findings(
    setup: Setup, day: Day, draws: tuple[DrawResult, ...], course: Course
) -> tuple[Finding, ...]:
    """Find what the reader of a day must know.

    Parameters
    ----------
    setup : Setup
        The documents and what follows from them. [-]
    day : Day
        A day of it. [-]
    draws : tuple of DrawResult
        Its draws. [-]
    course : Course
        All days of the trip. [-]

    Returns
    -------
    tuple of Finding
        What can hurt first. [SI]
    """
    return (
        *_hot(draws), *_mixers(setup, draws), *_refused(setup.brief, setup),
        *_lacking(setup, draws), *_round(day), *supply_findings(setup, day, course),
        *_expansion(setup, day), *_not_computed(setup),
    )  # fmt: skip


def _hot(draws: tuple[DrawResult, ...]) -> Iterable[Finding]:
    """Find where water came hotter than skin bears, before it settles and with someone there."""
    for early in (False, True):
        hot = [
            draw for draw in draws
            if draw.scald.severity is not Severity.NONE
            and early == (draw.hot_before_s > draw.hot_over_s)
        ]  # fmt: skip
        if not hot:
            continue
        worst = max(hot, key=lambda draw: (draw.scald.severity, draw.scald.peak_c))
        scald, child = worst.scald, worst.draw.child
        values: dict[str, Value] = {
            "draw": worst.draw.name,
            "severity": scald.severity.name.lower(),
            "peak_c": Quantity(scald.peak_c, "temperature"),
            "limit_c": Quantity(scald.limit_c, "temperature"),
            "over_s": Quantity(scald.over_s, "duration"),
            "child": int(child),
            "childs_limit": int(child and scald.limit_c == CHILD_C),
            "hot_draws": len(hot),
            "draws": len(draws),
        }
        if scald.burns_s < BURNS_WITHIN_S:
            values["burns_s"] = Quantity(scald.burns_s, "duration")
        code = "hot_before_it_settles" if early else "hot_on_skin"
        yield Finding(code, (worst.outlet,), values)


def _mixers(setup: Setup, draws: tuple[DrawResult, ...]) -> Iterable[Finding]:
    mixers = _valves(setup)
    least = max((figure(part, "min_flow_m3_per_s") for part in mixers), default=0.0)
    low = [draw for draw in draws if 0 < draw.flow_m3_per_s < least * 0.999]
    if low:
        yield Finding("mixer_starved", tuple(part.id for part in mixers), {
            "least_m3_per_s": Quantity(least, "flow"), "draw": low[0].draw.name,
            "flow_m3_per_s": Quantity(low[0].flow_m3_per_s, "flow"),
        })  # fmt: skip
    if any(draw.pulsing for draw in draws):
        yield Finding("pump_switches")


def _valves(setup: Setup) -> list[temperature.ThermostaticMixer]:
    return [
        part for part in setup.parts.values() if isinstance(part, temperature.ThermostaticMixer)
    ]


def _refused(brief: Brief, setup: Setup) -> Iterable[Finding]:
    """Find what the brief will not have and the design has."""
    needed = needs_of(setup.system)
    for what in brief.will_not_have:
        if what in needed:
            yield Finding("will_not_have", needed[what], {"what": what})


def _lacking(setup: Setup, draws: tuple[DrawResult, ...]) -> Iterable[Finding]:
    """Find outlets and states that draws ask for and this variant lacks."""
    lacking = [draw.draw.name for draw in draws if draw.draw.outlet not in (None, draw.outlet)]
    if lacking:
        yield Finding("outlet_lacking", (draws[0].outlet,), {"draws": tuple(lacking)})
    states = {state.id for state in setup.system.states}
    strange = [
        draw.draw.name for draw in draws
        if draw.draw.state is not None and draw.draw.state not in states
    ]  # fmt: skip
    if strange:
        yield Finding("state_lacking", (), {"draws": tuple(strange)})


def _round(day: Day) -> list[Finding]:
    """Find water that goes round and that somebody washes with."""
    return [
        Finding("goes_round", (drawn.outlet,), {"draw": drawn.draw.name})
        for drawn in day.drawn if drawn.round_m3 is not None
    ][:1]  # fmt: skip


def _expansion(setup: Setup, day: Day) -> Iterable[Finding]:
    """Find where growing water has no room, or none that is guarded."""
    for item in expansions(setup, day):
        if item.grows_m3 < LEAST_M3:
            continue
        grows = Quantity(item.grows_m3, "volume")
        if item.goes == "nowhere":
            yield Finding("grows_nowhere", (item.part_id,), {"grows_m3": grows})
        elif item.goes == "accumulator" and item.relief_pa is None:
            yield Finding("grows_unguarded", (item.part_id,), {
                "grows_m3": grows, "reaches_pa": Quantity(item.reaches_pa, "pressure"),
            })  # fmt: skip
        elif item.goes == "relief" and item.let_out_m3 > LEAST_M3:
            yield Finding("relief_lets_out", (item.part_id,), {
                "grows_m3": grows, "let_out_m3": Quantity(item.let_out_m3, "volume"),
            })  # fmt: skip


def _not_computed(setup: Setup) -> Iterable[Finding]:
    """Find what is counted without its heat, and what is in no figure."""
    warmed = [use.name for use in setup.brief.uses if use.warm_c is not None and use.day_m3]
    if warmed:
        yield Finding("use_not_heated", (), {"uses": tuple(warmed)})
    if setup.not_known:
        yield Finding(
            "not_known", tuple(item.piece_id for item in setup.not_known),
            {"titles": tuple(item.title for item in setup.not_known)},
        )  # fmt: skip
