"""Days of a trip on which something carried ends: gas, fuel, battery, water."""

from __future__ import annotations

from functools import cache
from math import floor
from typing import Any

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from isotherma import catalogue
from isotherma.catalogue.layouts import layouts
from isotherma.core.climate import Climate
from isotherma.core.engine.inventory import Inventory
from isotherma.core.quantity import UnitSystem
from isotherma.core.results.draws import WhyNot, draw_results
from isotherma.core.results.outcome import Outcome
from isotherma.core.setup.consumption import DIESEL_J_PER_M3, NET_J_PER_KG
from isotherma.core.setup.inventory import Levels
from isotherma.core.simulate import last_day, simulate
from isotherma.core.supply.battery import after_stretch, over_days
from isotherma.core.system import System
from isotherma.core.system.kinds.electric import Battery, Load
from isotherma.wording import cautions, last_day_words
from tests.support import MILD, again, brief, changed, days_after, piece, run, shower, system, use

FROST = Climate(region="x", month=1, air_c=-12.0, swing_k=0.0)
UNITS = UnitSystem.METRIC


def words_of(outcome: Outcome) -> str:
    """What ends on the last day and what comes of it; nothing where all days are alike."""
    last = last_day(outcome)
    return "" if last is None else last_day_words(last, outcome, UNITS)


def with_more(base: System, *parts: Any, runs: tuple[dict[str, Any], ...] = ()) -> System:
    """The same system with parts and runs added."""
    data = base.model_dump()
    data["parts"] = [*data["parts"], *(part.model_dump() for part in parts)]
    data["runs"] = [*data["runs"], *runs]
    return System.model_validate(data)


def roomy(name: str, **values: Any):
    """A layout with water enough for the trip, and its brief with other days."""
    layout = layouts()[name]
    built = layout.system
    for part in built.parts:
        if part.kind in ("fresh_tank", "loose_container"):
            built = changed(built, part.id, volume_m3=2.0)
    return layout.brief.model_copy(update={"reserve": 0.0, **values}), built


@cache
def on_gas(gas_kg: float, days: int = 9, gas: str = "propane") -> Outcome:
    """The through-flow heater in the locker on a bottle of its own, in mild air."""
    asked, built = roomy("locker-through-flow", days=days)
    bottle = next(part for part in built.parts if part.kind == "gas_bottle")
    return simulate(asked, changed(built, bottle.id, gas_kg=gas_kg, gas=gas), MILD)


def entry(outcome: Outcome, budget: str):
    return next(item for item in outcome.ledger if item.budget == budget)


# --- gas ---


def test_the_gas_ends_on_the_day_a_division_says():
    per_day = entry(on_gas(50.0), "gas").used_per_day
    outcome = on_gas(2.5 * per_day)
    last = last_day(outcome)
    assert last is not None and last.number == 3 and not last.fresh_ends
    assert [(item.carried, item.how) for item in last.timeline.ended] == [("gas", "empty")]
    first, second = last.draws
    burnt = sum(last.timeline.balance.bodies_j.values()) / 0.84 / NET_J_PER_KG["propane"]
    assert burnt == pytest.approx(0.5 * per_day, rel=0.25)  # a minute's fire is looked at at once
    assert first.start_s <= last.timeline.ended[0].clock_s <= second.end_s
    assert second.why_not is WhyNot.NO_GAS
    assert last.timeline.balance.energy_error_share < 1e-9


def test_the_day_shown_knows_nothing_of_a_bottle_that_ends_later():
    plenty, short = on_gas(50.0), on_gas(2.5 * entry(on_gas(50.0), "gas").used_per_day)
    assert last_day(plenty) is None
    assert (plenty.timeline.log == short.timeline.log).all()
    assert plenty.draws == short.draws


def test_words_say_day_clock_and_who_goes_without():
    outcome = on_gas(2.5 * entry(on_gas(50.0), "gas").used_per_day)
    words = words_of(outcome)
    assert "On day 3 the gas bottle is empty at 16:" in words
    assert f"“{outcome.draws[1].draw.name}” loses its flame" in words


def test_a_spare_bottle_is_joined_when_one_is_empty():
    per_day = entry(on_gas(50.0), "gas").used_per_day
    asked, built = roomy("locker-through-flow", days=9)
    bottle = next(part for part in built.parts if part.kind == "gas_bottle")
    small = changed(built, bottle.id, gas_kg=2.5 * per_day)
    spare = piece(small, bottle.id).model_copy(update={"id": "spare", "spare": True})
    both = simulate(asked, with_more(small, spare), MILD)
    last = last_day(both)
    assert last is not None and last.number == 6  # five days of gas
    words = " ".join(cautions(both, UNITS))
    assert "on day 3; a spare takes its place" in words
    spares = [spare, *(spare.model_copy(update={"id": f"spare{at}"}) for at in range(2))]
    assert last_day(simulate(asked, with_more(small, *spares), MILD)) is None


@settings(max_examples=6, deadline=None)
@given(more=st.floats(1.05, 3.0))
def test_more_gas_never_ends_sooner(more):
    per_day = entry(on_gas(50.0), "gas").used_per_day
    less, much = last_day(on_gas(1.4 * per_day)), last_day(on_gas(round(1.4 * more, 2) * per_day))
    assert less is not None and less.number == 2
    assert much is None or much.number >= less.number


def test_a_bottle_too_cold_puts_the_flame_out_on_the_very_day():
    asked, built = roomy("locker-through-flow", days=2)
    bottle = next(part for part in built.parts if part.kind == "gas_bottle")
    warm = simulate(asked, changed(built, bottle.id, gas="propane", gas_kg=11.0), FROST)
    assert not warm.timeline.ended and warm.draws[0].wait_s is not None
    outside = changed(built, bottle.id, gas="butane", gas_kg=11.0, space=None)
    cold = simulate(asked, outside, FROST)
    ended = cold.timeline.ended[0]
    assert (ended.carried, ended.how) == ("gas", "too cold")
    assert cold.draws[0].start_s <= ended.clock_s <= cold.draws[-1].end_s
    assert {draw.why_not for draw in cold.draws} == {WhyNot.NO_GAS}
    given = sum(cold.timeline.balance.bodies_j.values())
    assert given < 0.5 * sum(warm.timeline.balance.bodies_j.values())
    assert last_day(cold) is None and cold.timeline.balance.energy_error_share < 1e-9
    words = " ".join(cautions(cold, UNITS))
    assert "The flame goes out until the bottle has warmed" in words


# --- liquid fuel ---


def test_fuel_that_must_stay_in_the_tank_puts_the_combi_out():
    asked, built = roomy("diesel-combi", days=6)
    climate = catalogue.climate_in(asked.region, 1)
    per_day = entry(simulate(asked, built, climate), "diesel").used_per_day
    tank = next(part for part in built.parts if part.kind == "fuel_tank")
    little = changed(built, tank.id, volume_m3=0.010 + 3.3 * per_day, kept_m3=0.010)
    last = last_day(simulate(asked, little, climate))
    assert last is not None and last.number == 4
    assert [item.carried for item in last.timeline.ended] == ["diesel"]
    burnt = sum(last.timeline.balance.sources_j.values()) / 0.85 / DIESEL_J_PER_M3
    assert burnt == pytest.approx(0.3 * per_day, rel=0.25)
    assert last.draws[-1].why_not is WhyNot.NO_FUEL


# --- battery ---


def fed(usable_j: float, day_j: float) -> System:
    """The usual route with a battery and a load beside its pump."""
    battery = Battery(id="battery", usable_j=usable_j, chemistry="lithium")
    return with_more(
        system(tank_l=900.0), battery, Load(id="box", name="Box that cools", day_j=day_j)
    )


def test_the_battery_empties_on_a_later_day_and_the_pump_stands():
    asked = brief(shower(start_s=6 * 3600.0), shower(2, start_s=20 * 3600.0), days=5)
    per_day = 2.0e6
    last = last_day(run(asked, fed(2.6 * per_day, per_day)))
    assert last is not None and last.number == 3
    ended = last.timeline.ended[0]
    assert ended.carried == "battery"
    morning, evening = last.draws
    assert (
        morning.comfort_s > 100.0 and evening.why_not is WhyNot.NO_POWER and evening.used_m3 == 0.0
    )
    # the load alone takes six tenths of a day; the pump a little more
    assert 0.5 * 86400 < ended.clock_s < 0.6 * 86400


@given(
    level=st.floats(0.0, 1.0), load=st.floats(0.0, 500.0), charge=st.floats(0.0, 500.0),
    parts=st.integers(1, 5),
)  # fmt: skip
def test_a_stretch_of_a_battery_may_be_cut_anywhere(level, load, charge, parts):
    """Levels stay within empty and full, and two halves are the whole."""
    usable, span = 1.0e6, 7200.0
    whole, into, _ = after_stretch(level * usable, usable, span_s=span, load_w=load,
                                   charge_w=charge, charge_share=0.9)  # fmt: skip
    pieces, sum_in = level * usable, 0.0
    for _ in range(parts):
        pieces, more, _ = after_stretch(pieces, usable, span_s=span / parts, load_w=load,
                                        charge_w=charge, charge_share=0.9)  # fmt: skip
        sum_in += more
    assert 0.0 <= whole <= usable
    assert pieces == pytest.approx(whole, abs=1e-3) and sum_in == pytest.approx(into, abs=1e-3)
    assert over_days(usable, [(span, load, charge)], days=1, start_share=level,
                     charge_share=0.9).end_j == pytest.approx(whole)  # fmt: skip


# --- fresh water ---


def test_the_last_litre_of_the_trip_is_counted_once():
    asked = brief(shower(), shower(2, start_s=64800.0), days=6, uses=(use(0.004),), reserve=0.0)
    outcome = run(asked, system(tank_l=110.0))
    last, fresh = last_day(outcome), entry(outcome, "fresh")
    assert last is not None and fresh.ends_on_day == last.number and last.fresh_ends
    assert any(draw.why_not is WhyNot.DRY for draw in last.draws)
    dry = next(draw for draw in last.draws if draw.why_not is WhyNot.DRY)
    washed = sum(draw.used_m3 for draw in last.draws)
    other = 0.004 * dry.end_s / 86400.0
    used = (last.number - 1) * fresh.used_per_day + washed + other
    assert used == pytest.approx(0.110, rel=0.003)  # a tank is reckoned at 999 kg/m³


def test_a_trip_that_lasts_has_no_last_day():
    assert last_day(run(brief(shower(), days=2), system())) is None


# --- asked twice, asked late ---


def test_playing_the_last_day_leaves_the_outcome_as_it_was():
    outcome = run(brief(shower(), days=9), system(tank_l=60.0))
    evening = outcome.timeline.evening
    assert evening is not None
    before = [array.copy() for array in evening.states[""][0]]
    log = outcome.timeline.log.copy()
    played = last_day(outcome)
    assert played is not None
    for array, was in zip(evening.states[""][0], before, strict=True):
        assert (array == was).all()
    assert (outcome.timeline.log == log).all()
    again = last_day(run(brief(shower(), days=9), system(tank_l=60.0)))
    assert again is not None and (again.timeline.log == played.timeline.log).all()


@pytest.mark.parametrize("name", sorted(layouts()))
def test_last_days_of_all_layouts_balance(name):
    layout = layouts()[name]
    asked = layout.brief.model_copy(update={"days": 30})
    climate = catalogue.climate(asked)
    outcome = simulate(asked, layout.system, climate)
    ends = [
        item.ends_on_day for item in outcome.ledger
        if item.ends_on_day is not None and item.budget != "grey"  # a full grey tank stops nobody
    ]  # fmt: skip
    last = last_day(outcome)
    if last is None:
        # a cut-off battery, a cold bottle or the first dry tank may end the first day already
        assert not [day for day in ends if day > 1] or min(ends) == 1 or outcome.timeline.ended
        return
    assert last.number <= min(ends, default=30)
    balance = last.timeline.balance
    assert balance.energy_error_share < 1e-6 and balance.water_error_share < 1e-6
    assert np.isfinite(last.timeline.log).all() and len(last.draws) == len(outcome.draws)
    assert last_day_words(last, outcome, UNITS).startswith(f"On day {last.number} ")


def test_levels_begin_full_and_a_recharged_battery_gives_again():
    outcome = run(brief(shower(), days=1), fed(3.6e6, 1e6))
    supplies = Inventory(outcome.setup)
    supplies.begin(Levels(battery_j=1000.0, diesel_m3=None, bottle=None))
    row = outcome.timeline.stretches[0]
    dark = type(row)(**{**_fields(row), "standing_w": 100.0, "charge_w": 0.0})
    supplies.carry(dark)
    assert supplies.out == {"battery"} and supplies.ended[0].how == "empty"
    sunny = type(row)(**{**_fields(row), "standing_w": 0.0, "charge_w": 400.0})
    supplies.carry(sunny)
    assert not supplies.out and len(supplies.ended) == 1


def _fields(row: Any) -> dict[str, Any]:
    return {name: getattr(row, name) for name in type(row).__slots__}


def test_the_day_a_division_gives_is_never_past_the_trip():
    """What ends after the trip is no news."""
    asked, built = roomy("locker-through-flow", days=2)
    per_day = entry(on_gas(50.0), "gas").used_per_day
    bottle = next(part for part in built.parts if part.kind == "gas_bottle")
    enough = changed(built, bottle.id, gas_kg=2.2 * per_day)
    assert floor(2.2) == asked.days and last_day(simulate(asked, enough, MILD)) is None


# --- the same trip, every day stepped ---


def stepped(outcome: Outcome, days: int, watched_s: float) -> tuple[int, Any]:
    """Run day after day, carrying water and levels on; give the first on which something ends."""
    setup = outcome.setup
    asked = setup.brief
    order = tuple(
        draw.settled(setup.conditions.fresh_c)
        for draw in sorted(asked.draws, key=lambda item: item.start_s)
    )
    used_kg: dict[str, float] = {}
    levels = setup.full
    there = days_after(outcome)
    for number in range(1, days + 1):
        day = there.day(order, used_kg, levels, watched_s)
        draws = draw_results(setup, day, asked.budgets.longest_wait_s)
        if day.ended or any(drawn.dry for drawn in day.drawn):
            return number, (day, draws)
        for row, reservoir in enumerate(there.usual.reservoirs.reservoirs):
            gone = reservoir.full_kg - float(there.usual.reservoirs.left_kg[row])
            used_kg[reservoir.id] = gone
        levels = there.usual.supplies.left
    return 0, None


def tight(budget: str, days: float) -> Outcome:
    """A trip that so many days of one budget are carried for."""
    if budget == "gas":
        per_day = entry(on_gas(50.0), "gas").used_per_day
        return on_gas(days * per_day)
    if budget == "battery":
        asked = brief(shower(start_s=6 * 3600.0), shower(2, start_s=20 * 3600.0), days=9)
        return run(asked, fed(days * 2.0e6, 2.0e6))
    if budget == "diesel":
        asked, built = roomy("diesel-combi", days=9)
        climate = catalogue.climate_in(asked.region, 1)
        per_day = entry(simulate(asked, built, climate), "diesel").used_per_day
        tank = next(part for part in built.parts if part.kind == "fuel_tank")
        return simulate(
            asked, changed(built, tank.id, volume_m3=0.01 + days * per_day, kept_m3=0.01), climate
        )
    asked = brief(shower(), shower(2, start_s=64800.0), days=9, reserve=0.0)
    per_day = entry(run(asked, system(tank_l=900.0)), "fresh").used_per_day
    return run(asked, system(tank_l=days * per_day * 1e3))


@pytest.mark.parametrize("budget", ["gas", "battery", "diesel", "fresh"])
@pytest.mark.parametrize("days", [1.6, 3.4])
def test_it_is_the_day_a_stepped_trip_ends_on(budget, days):
    outcome = tight(budget, days)
    played = last_day(outcome)
    assert played is not None
    watched_s = played.timeline.ended[0].clock_s if played.timeline.ended else 43200.0
    number, found = stepped(outcome, 6, watched_s)
    assert number == played.number == floor(days) + 1
    day, draws = found
    assert [item.carried for item in day.ended] == [i.carried for i in played.timeline.ended]
    for one, other in zip(day.ended, played.timeline.ended, strict=True):
        # stepped days wander by where a thermostat stands in its cycle
        assert one.clock_s == pytest.approx(other.clock_s, abs=1800.0)
    assert [draw.why_not for draw in draws] == [draw.why_not for draw in played.draws]


def test_a_next_day_with_everything_full_is_the_day_again():
    """Nothing is forgotten or made anew on the way into the twin."""
    outcome = run(brief(shower(), shower(2, start_s=64800.0), day_start="standing"), system())
    after = again(outcome, next_day=True)
    for one, other in zip(
        draw_results(outcome.setup, after, 60.0), outcome.draws, strict=True
    ):  # fmt: skip
        assert one.comfort_s == pytest.approx(other.comfort_s, abs=3.0)
        assert one.mean_c == pytest.approx(other.mean_c, abs=0.2)
    morning = again(outcome, next_day=False)
    assert np.allclose(morning.log, outcome.timeline.log, atol=1e-9)


def test_a_last_day_with_moves_to_another_state():
    """A day that is spent in two states ends like any other."""
    layout = layouts()["coolant-coil"]
    state = layout.system.states[1].id
    moved = tuple(
        draw.model_copy(update={"state": state if at == 1 else None})
        for at, draw in enumerate(layout.brief.draws)
    )
    asked = layout.brief.model_copy(update={"draws": moved, "days": 20})
    climate = catalogue.climate(asked)
    outcome = simulate(asked, layout.system, climate)
    evening = outcome.timeline.evening
    assert evening is not None and len(evening.states) == 2
    before = {key: [a.copy() for a in one] for key, (one, _) in evening.states.items()}
    last = last_day(outcome)
    assert last is not None and last.timeline.balance.energy_error_share < 1e-6
    for key, (one, _) in evening.states.items():
        assert all((a == b).all() for a, b in zip(one, before[key], strict=True))
