"""Packs, prices, what is there, and totals."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from isotherma.core.joints.lines import UNPRICED, Line
from isotherma.core.joints.pricing import bar_lengths_m, priced, total
from isotherma.core.project import Price

CLIPS = Line("clip", "15 mm", 12.0, net=12.0, unknown=UNPRICED)


def one(line, *prices, bars=None):
    [found] = priced([line], prices, bars or {})
    return found


def test_packs_round_up_and_what_is_there_comes_off_first():
    found = one(CLIPS, Price(item="clip", size="15 mm", pack=10, price=4.0, have=1))
    assert (found.quantity, found.packs, found.price, found.have) == (20.0, 2, 8.0, 1.0)
    enough = one(CLIPS, Price(item="clip", size="15 mm", pack=10, price=4.0, have=2))
    assert (enough.quantity, enough.packs, enough.price) == (10.0, 1, 4.0)
    owned = one(CLIPS, Price(item="clip", size="15 mm", price=0.4, have=40))
    assert (owned.quantity, owned.price, owned.net) == (0.0, 0.0, 12.0)


def test_a_price_of_0_is_0_and_none_is_unknown():
    free = one(CLIPS, Price(item="clip", size="15 mm", price=0.0))
    assert free.price == 0.0 and "price" not in free.unknown
    vague = one(CLIPS, Price(item="clip", size="15 mm", have=2))
    assert vague.price is None and "price" in vague.unknown and vague.quantity == 10.0
    assert one(CLIPS, Price(item="clip", size="22 mm", price=1.0)).price is None


def test_a_parts_own_price_wins():
    pump = Line("pump", "Pump", price=90.0)
    assert one(pump, Price(item="pump", size="Pump", price=50.0)).price == 90.0


def test_an_adapter_is_found_by_its_ends_either_way_round():
    line = Line("adapter", "x-12", end_a="push-in 12 mm", end_b="male 1/2 in parallel")
    for size in ("x-12", "push-in 12 mm × male 1/2 in parallel",
                 "male 1/2 in parallel × push-in 12 mm"):  # fmt: skip
        assert one(line, Price(item="adapter", size=size, price=3.0)).price == 3.0


def test_what_is_there_is_used_up_once():
    spare = Line("clip", "15 mm", 2.0, spare=True)
    kept = Price(item="clip", size="15 mm", have=13)
    first, second = priced([CLIPS, spare], [kept], {})
    assert first.quantity == 0.0 and second.quantity == 1.0


def test_tube_off_bars_is_bought_in_bars():
    tube = Line("tube", "copper 15 mm", 7.9, "m", net=7.5, why="coil")
    kept = Price(item="tube", size="copper 15 mm", pack=3.0, price=9.0)
    assert bar_lengths_m([kept, Price(item="tube", size="x", pack=25.0)], 6.0) == {
        "copper 15 mm": 3.0}  # fmt: skip
    found = one(tube, kept, bars={"copper 15 mm": 4})
    assert (found.packs, found.quantity, found.price, found.why) == (4, 12.0, 36.0, "bars")
    there = one(tube, kept.model_copy(update={"have": 3.5}), bars={"copper 15 mm": 4})
    assert there.packs == 3  # half a metre is no bar


@given(st.floats(0, 500), st.floats(0, 500), st.one_of(st.none(), st.floats(0.1, 60)))
def test_owning_more_never_costs_more(have, more, pack):
    """And what is bought with what is there is never less than what is needed."""

    def cost(there):
        kept = Price(item="clip", size="15 mm", pack=pack, price=2.0, have=there)
        return one(CLIPS, kept)

    less, with_more = cost(have), cost(min(9000.0, have + more))
    assert with_more.price is not None and less.price is not None
    assert with_more.price <= less.price + 1e-9
    assert with_more.quantity + with_more.have >= CLIPS.quantity - 1e-6


def test_totals_say_how_many_lines_they_lack():
    lines = [Line("a", price=2.0), Line("b"), Line("c", quantity=0.0), Line("d", price=0.0)]
    money = total(lines, lambda line: line.price)
    assert (money.sum, money.unknown) == (2.0, 1)
    assert total([Line("b")], lambda line: line.price).sum is None
    assert total([], lambda line: line.price).unknown == pytest.approx(0)
