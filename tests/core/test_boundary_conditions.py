"""What the clock does: air around things, what sources may do, when the engine is warm."""

from __future__ import annotations

from typing import Any

import numpy as np
import pytest

from isotherma import catalogue
from isotherma.catalogue.layouts import layouts
from isotherma.core.climate import Climate
from isotherma.core.engine.columns import (
    AIR_C,
    B_WATTS,
    GONE_C,
    S_ALLOWED,
)
from isotherma.core.engine.state_simulation import StateSimulation
from isotherma.core.system import System
from isotherma.core.timeline.record import InventoryKind
from tests.support import MILD, brief, changed, days_of, shower, stands_of, system

NOON_S = 12 * 3600.0
SWINGS = Climate(region="x", month=6, air_c=15.0, swing_k=12.0)


def act(stands: StateSimulation, clock_s: float, *out: InventoryKind) -> bool:
    """Let the clock act at a time; say whether an engine is warm."""
    slot = stands.boundary.slot(stands.hours, clock_s)
    return stands.boundary.act(
        stands.hours, stands.named.thermal, slot, clock_s + 60.0, frozenset(out)
    )


def row_of(stands: StateSimulation, part_id: str) -> Any:
    return stands.named.thermal.source[stands.named.sources.index(part_id)]


def part_of(stands: StateSimulation, part_id: str) -> Any:
    return stands.network.parts[part_id]


def of_layout(name: str, climate: Climate | None = None, **changes: Any) -> StateSimulation:
    layout = layouts()[name]
    found = climate or catalogue.climate(layout.brief)
    built = layout.system
    for part_id, values in changes.items():
        built = changed(built, part_id, **values)
    return stands_of(layout.brief, built, built.states[0] if built.states else None, found)


def test_a_slot_ends_at_the_next_edge_and_is_kept():
    stands = stands_of(brief(shower()), system(), None, SWINGS)
    slot = stands.boundary.slot(stands.hours, NOON_S)
    assert NOON_S < slot.edge_s <= NOON_S + 1800.0
    assert stands.boundary.slot(stands.hours, NOON_S) is slot
    assert slot.air_c == SWINGS.air_at_c(0.5 * (NOON_S + slot.edge_s))


def test_everything_stands_in_the_air_of_its_space():
    """Below the floor as outside, in the living space as the brief keeps it."""
    built = changed(system(), "store", space="below")
    stands = stands_of(brief(shower(), inside_c=21.0), built, None, SWINGS)
    act(stands, NOON_S)
    outside = stands.hours.space_c("below", 0.5 * (NOON_S + NOON_S + 1800.0))
    vessel = stands.named.vessels.index("store")
    assert stands.named.thermal.vessel[vessel][AIR_C] == pytest.approx(outside)
    pipes = dict(zip(stands.boundary.runs, stands.named.thermal.pipe[:, 6].tolist(), strict=True))
    assert pipes["hot-run"] == pytest.approx(21.0)


@pytest.mark.parametrize(("clock_s", "allowed"), [
    pytest.param(3 * 3600.0, 1.0, id="within its hours"),
    pytest.param(9 * 3600.0, 1.0, id="outside: the kernel's window says so, not the gate"),
])  # fmt: skip
def test_an_element_that_always_may_is_let(clock_s, allowed):
    stands = stands_of(brief(shower()), system(), None, MILD)
    act(stands, clock_s)
    assert row_of(stands, "element")[S_ALLOWED] == allowed


def test_an_element_on_a_pitch_does_not_mind_the_battery():
    mains = changed(system(), "element", rated_v=230.0)
    low = changed(system(), "element", rated_v=12.0, power_w=120.0)
    for built, runs in ((mains, 1.0), (low, 0.0)):
        stands = stands_of(brief(shower()), built, None, MILD)
        act(stands, NOON_S, "battery")
        assert row_of(stands, "element")[S_ALLOWED] == runs
        assert ("element" in stands.boundary.on_battery) == (runs == 0.0)
        act(stands, NOON_S)
        assert row_of(stands, "element")[S_ALLOWED] == 1.0


@pytest.mark.parametrize(("name", "part_id", "ends"), [
    pytest.param("gas-combi", "combi", "gas", id="gas combi"),
    pytest.param("diesel-combi", "combi", "diesel", id="diesel combi"),
])  # fmt: skip
def test_a_combi_wants_its_fuel_and_its_board(name, part_id, ends):
    stands = of_layout(name)
    fuel = part_of(stands, part_id).fuel
    if fuel is None:
        pytest.skip("it runs on mains here")
    act(stands, NOON_S)
    assert row_of(stands, part_id)[S_ALLOWED] == 1.0
    for out in (ends, "battery"):
        act(stands, NOON_S, out)
        assert row_of(stands, part_id)[S_ALLOWED] == 0.0
    other: InventoryKind = "diesel" if ends == "gas" else "gas"
    act(stands, NOON_S, other)
    assert row_of(stands, part_id)[S_ALLOWED] == 1.0


def test_a_through_flow_heater_without_gas_has_no_fire_and_gets_it_back():
    stands = of_layout("locker-through-flow")
    slot = next(
        at for at, key in enumerate(stands.named.stirred)
        if part_of(stands, key).kind == "through_flow_gas"
    )  # fmt: skip
    fire_w = float(stands.named.thermal.stirred[slot, B_WATTS])
    assert fire_w > 5e3
    act(stands, NOON_S, "gas")
    assert stands.named.thermal.stirred[slot, B_WATTS] == 0.0
    act(stands, NOON_S)
    assert stands.named.thermal.stirred[slot, B_WATTS] == fire_w


def test_an_engine_is_warm_while_it_drives_and_gone_at_night():
    stands = of_layout("drive-plate")
    (slot, part), *_ = stands.boundary.engines
    driving = stands.hours.engine_c(part, NOON_S)
    starts = [
        clock for clock in np.arange(0.0, 86400.0, 1800.0)
        if stands.hours.driving(float(clock) + 60.0)
    ]  # fmt: skip
    assert starts, driving
    assert act(stands, float(starts[0]) + 1800.0) is True
    assert stands.named.thermal.air[slot, 0] > 60.0
    before = float(starts[0]) - 3600.0
    if before > 0.0 and stands.hours.engine_c(part, before + 60.0) is None:
        assert act(stands, before) is False
        assert stands.named.thermal.air[slot, 0] == GONE_C


def test_over_a_slot_its_own_figures_are_given_and_else_those_of_the_middle():
    stands = stands_of(brief(shower()), system(), None, SWINGS)
    slot = stands.boundary.slot(stands.hours, NOON_S)
    assert stands.boundary.over(stands.hours, NOON_S, slot.edge_s) == (
        slot.charge_w, slot.standing_w, slot.air_c, slot.bottle_c,
    )  # fmt: skip
    part = stands.boundary.over(stands.hours, NOON_S, NOON_S + 100.0)
    assert part[2] == SWINGS.air_at_c(NOON_S + 50.0)


def pitch(amps: float, *watts: float) -> System:
    """The usual route with elements on one hook-up."""
    base = changed(system(), "element", rated_v=230.0, power_w=watts[0])
    data = base.model_dump()
    parts: list[dict[str, Any]] = [{"kind": "hook_up", "id": "pitch", "amps_a": amps}]
    ends = ["element"]
    for at, power in enumerate(watts[1:]):
        parts.append({"kind": "element", "id": f"more{at}", "rated_v": 230.0, "power_w": power,
                      "fitted_in": "store"})  # fmt: skip
        ends.append(f"more{at}")
    data["parts"] = [*data["parts"], *parts]
    data["runs"] = [*data["runs"], *(
        {"kind": "cable", "id": f"c{at}", "start": {"part": key, "port": "power"},
         "end": {"part": "pitch", "port": "load"}}
        for at, key in enumerate(ends)
    )]  # fmt: skip
    return System.model_validate(data)


def test_what_a_pitch_gives_is_shared_in_order():
    """Six amps at 230 V are 1380 W: one of two elements of 1000 W at a time."""
    days = days_of(brief(shower(), day_start="cold"), pitch(6.0, 1000.0, 1000.0), None, MILD)
    act(days.usual, NOON_S)
    assert days.usual.named.thermal.shared[0] == pytest.approx(1380.0)
    days.day(())
    given = dict(zip(days.usual.named.sources, days.usual.state.given.tolist(), strict=True))
    assert given["element"] > given["more0"] >= 0.0
