"""Cold water from winter to summer: a day or a named reason, and no jump but at an event."""

from __future__ import annotations

from itertools import pairwise

import pytest

from isotherma.catalogue import climate
from isotherma.catalogue.layouts import layouts
from isotherma.core.errors import CoreError
from isotherma.core.simulate import simulate

# every eighth of what scripts sweep by hand, a quarter kelvin apart
COLD_C = [2.0 + 2.0 * step for step in range(15)]


def days(name, values):
    layout = layouts()[name]
    air = climate(layout.brief)
    for value in values:
        asked = layout.brief.model_copy(update={"cold_water_c": value})
        try:
            yield value, simulate(asked, layout.system, air)
        except CoreError as error:
            yield value, error


@pytest.mark.parametrize("name", layouts())
def test_cold_water_is_swept(name):
    before = None
    for value, found in days(name, COLD_C):
        assert not isinstance(found, CoreError), (value, found)
        balance = found.timeline.balance
        assert balance.energy_error_share < 1e-3 and balance.water_error_share < 1e-3
        for draw in found.draws:
            assert 0.0 <= draw.comfort_s <= draw.asked_s + 600.0
            assert draw.flow_m3_per_s * 6e4 < 40.0
            if draw.peak_c is not None:
                assert -1.0 < draw.peak_c < 100.0
            if draw.mean_c is not None and draw.peak_c is not None:
                assert draw.mean_c <= draw.peak_c + 1e-6
        now = [draw.flow_m3_per_s for draw in found.draws]
        if before is not None:
            reasons, flows = before
            same = reasons == [draw.why_not for draw in found.draws]
            for one, other in zip(flows, now, strict=True):
                if same and one and other:
                    assert abs(one - other) < 0.35 * one, (name, value)
        before = ([draw.why_not for draw in found.draws], now)


@pytest.mark.parametrize("name", ["seat-store", "two-tank-storage", "gas-combi"])
def test_warmer_cold_water_never_needs_more_heat(name):
    """What a draw takes from the hot side falls as the cold gets warmer."""
    hot = [
        sum(draw.hot_m3 for draw in found.draws)
        for _, found in days(name, (4.0, 10.0, 16.0, 22.0))
        if not isinstance(found, CoreError)
    ]
    assert len(hot) == 4
    assert all(one >= other - 2e-3 for one, other in pairwise(hot)), hot
