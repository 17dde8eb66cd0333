"""A return diverter sends the cold water back: not lost, not in the grey tank, no shorter wait."""

from __future__ import annotations

from math import pi

import pytest

from isotherma.catalogue.demo import curlew, drover, folio
from isotherma.catalogue.layouts import layouts
from isotherma.core import editing
from isotherma.core.engine.diverters import diverts
from isotherma.core.errors import ChangeRefused
from isotherma.core.results.going import where_it_goes
from isotherma.core.system.kinds.temperature import ReturnDiverter
from isotherma.core.system.nominal import computed as with_figures
from isotherma.core.system.nominal import figure
from isotherma.services.edits import class_part
from tests.support import computed


def outlet_of(outcome):
    return max(outcome.draws, key=lambda draw: draw.cold_m3).outlet


@pytest.fixture(scope="module", params=["drover", "folio", "curlew"])
def both(request):
    """A demo without and with a diverter before its coldest outlet."""
    project = {"drover": drover, "folio": folio, "curlew": curlew}[request.param]()
    first = project.variants[0].id
    before = computed(project, first)
    outlet = outlet_of(before)
    made = editing.place_diverter(project, first, outlet)
    return before, computed(made, first), outlet, made.variant(first)


def test_what_came_cold_is_not_used_and_the_wait_stays(both):
    before, after, outlet, variant = both
    known = with_figures(variant.system)
    found = diverts(known, {}, outlet)
    assert found is not None
    returned = 0.0
    for one, two in zip(before.draws, after.draws, strict=True):
        if two.outlet != outlet:
            assert two.returned_m3 == 0.0
            continue
        returned += two.returned_m3
        # the diverter's own resistance changes the flow a little, and the wait with it
        assert two.wait_s == pytest.approx(one.wait_s, rel=0.35, abs=1.0)
        assert two.cold_m3 <= one.cold_m3 + 1e-9
        assert two.used_m3 == pytest.approx(two.through_m3 - two.returned_m3, abs=1e-9)
        assert sum(two.took_m3.values()) == pytest.approx(two.used_m3, rel=0.02)
    assert returned > 0.0


def test_fresh_and_grey_both_last_longer(both):
    before, after, _, _ = both
    # what falls on open ground was never grey, nor is it now
    for budget, share in (("fresh", 1.0), ("grey", 1.001)):
        one = next(entry for entry in before.ledger if entry.budget == budget)
        two = next(entry for entry in after.ledger if entry.budget == budget)
        assert two.used < share * one.used
    fresh = where_it_goes(after.course)[0]
    entry = next(one for one in after.ledger if one.budget == "fresh")
    assert fresh.total == pytest.approx(entry.used, rel=1e-3)


def test_the_heat_balance_closes_as_before(both):
    _, after, _, _ = both
    assert after.timeline.balance.energy_error_share < 1e-3
    assert after.timeline.balance.water_error_share < 1e-3


def test_what_stands_beyond_it_runs_out_at_the_outlet(both):
    _, _, outlet, variant = both
    known = with_figures(variant.system)
    found = diverts(known, {}, outlet)
    assert found is not None
    last = next(run for run in known.pipes if run.end.part == outlet)
    volume = pi / 4 * figure(last, "bore_m") ** 2 * figure(last, "length_m")
    assert found.part_id == last.start.part
    assert found.beyond_kg == pytest.approx(1000.0 * volume, rel=2e-3)


def test_one_that_stands_to_the_tank_for_good_or_has_no_way_back_sends_nothing():
    system = layouts()["two-tank-storage"].system
    known = with_figures(system)
    assert diverts(known, {}, "head") is not None
    assert diverts(known, {"diverter": "to the tank"}, "head") is None
    without = system.model_copy(
        update={"runs": tuple(run for run in system.runs if run.end.part != "return-tee")}
    )
    assert diverts(with_figures(without), {}, "head") is None
    assert diverts(with_figures(drover().variants[0].system), {}, "head") is None


def test_it_is_placed_once_and_only_where_water_can_go_back():
    project = drover()
    made = editing.place_diverter(project, "ten-litres", "head")
    parts = made.variant("ten-litres").system.parts
    assert sum(isinstance(part, ReturnDiverter) for part in parts) == 1
    with pytest.raises(ChangeRefused) as refused:
        editing.place_diverter(made, "ten-litres", "head")
    assert refused.value.reason == "diverts_already"
    with pytest.raises(ChangeRefused) as refused:
        editing.place_diverter(project, "ten-litres", "nothing")
    assert refused.value.reason == "no_way_back"
    foot = editing.place_diverter(project, "ten-litres", "head", class_part("return-diverter-foot"))
    assert any(getattr(part, "worked_by", "") == "foot"
               for part in foot.variant("ten-litres").system.parts)  # fmt: skip
