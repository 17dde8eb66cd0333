"""What a way of heating needs of what people refuse; judged by hand, layout by layout."""

from __future__ import annotations

import pytest

from isotherma.catalogue.demo import curlew, drover
from isotherma.catalogue.layouts import layouts
from isotherma.core import editing
from isotherma.core.results.findings import day_findings
from isotherma.core.results.outcome import Outcome
from isotherma.core.system import System
from isotherma.core.system.kinds.heat import Element, Kettle
from isotherma.core.system.needs import REFUSALS, needs_of
from isotherma.services.runs import compute

# read off each layout's file: what its heat comes from and what it is built of
JUDGED = {
    "kettle-and-bag": {"gas", "any flame"},
    "tap-canister": {"battery heating"},
    "seat-store": {"battery heating", "pressurised system", "mixing valve"},
    "drive-plate": {"coolant", "pressurised system", "mixing valve"},
    "two-knob-bucket": {"gas", "any flame", "compressed-air draining", "licensed work"},
    "gas-combi": {"gas", "any flame", "mains", "through-wall flue", "pressurised system",
                  "mixing valve", "licensed work"},
}  # fmt: skip


@pytest.mark.parametrize("name", JUDGED)
def test_what_a_layout_needs(name):
    assert set(needs_of(layouts()[name].system)) == JUDGED[name]


@pytest.mark.parametrize("name", layouts())
def test_a_flame_has_a_fuel_and_gas_has_a_licence(name):
    needed = needs_of(layouts()[name].system)
    if "any flame" in needed:
        assert {"gas", "diesel"} & set(needed)
    if "gas" in needed and name != "kettle-and-bag":  # a pan on the stove that is there
        assert "licensed work" in needed
    assert set(needed) <= set(REFUSALS)


@pytest.mark.parametrize(
    ("part", "expected"),
    [
        (Element(id="e", rated_w=200.0, rated_v=12.0), {"battery heating"}),
        (Element(id="e", rated_w=800.0, rated_v=230.0), {"mains", "licensed work"}),
        (Element(id="e", rated_w=800.0, rated_v=230.0, supply_v=48.0), {"battery heating"}),
        (Element(id="e"), {"mains", "licensed work"}),
        (Kettle(id="k", fuel="mains"), {"mains"}),
        (Kettle(id="k", fuel="wood"), {"any flame"}),
        (Kettle(id="k", fuel="battery"), set()),
    ],
)
def test_what_one_part_needs(part, expected):
    assert set(needs_of(System(parts=(part,)))) == expected


def test_what_the_brief_will_not_have_is_found_with_the_parts_that_need_it():
    refused = editing.set_values(drover(), {"brief.will_not_have": ("any flame", "coolant")})
    outcome = compute(refused, refused.variants[0])
    assert isinstance(outcome, Outcome)
    given = outcome.setup, outcome.timeline, outcome.draws, outcome.course
    found = [item for item in day_findings(*given)
             if item.code == "will_not_have"]  # fmt: skip
    assert [item.values["what"] for item in found] == ["any flame"]
    kinds = {part.id: part.kind for part in refused.variants[0].system.parts}
    assert {kinds[key] for item in found for key in item.parts} <= {"burner"}
    assert "gas" in curlew().brief.will_not_have
